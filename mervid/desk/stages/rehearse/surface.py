"""What the Rehearse stage shows: zipper, interleaved fold and tear line of a pair; or the pairs of the list."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from ....core.arrays import Singles
from ....core.fitting import bar_fold
from ....core.pairs.judgement import Judgement
from ....core.pairs.meeting import Meeting
from ....core.pairs.side import Side
from ...session.session import Session
from ...theme.tr import tr
from ...views.interleaved_fold import InterleavedFold
from ...views.tear_line import TearLine
from ...views.zipper import Zipper
from ...widgets.value_line import ValueLine
from ..frame import Keys, Page, Pages
from .list_page import ListPage
from .panel import RehearsePanel

PAIR, LIST = "pair", "list"


class RehearseSurface(QWidget):
    """Shows what there is, and nothing while another stage is seen."""

    def __init__(self, session: Session, keys: Keys) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.session, self.pairing = session, session.pairing
        self.fold, self.line, self.zipper = InterleavedFold(), TearLine(), Zipper()
        self.values, self.list = ValueLine(), ListPage()
        self.panel = RehearsePanel(keys)
        pictures = QSplitter(Qt.Orientation.Vertical)
        pictures.setChildrenCollapsible(False)
        for view, stretch in ((self.fold, 5), (self.line, 2)):
            pictures.addWidget(view)
            pictures.setStretchFactor(pictures.count() - 1, stretch)
        pictures.setSizes([380, 190])
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.zipper)
        row.addWidget(pictures, 1)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.values)
        column.addLayout(row, 1)
        page = QWidget()
        page.setObjectName("paper")
        page.setLayout(column)
        keys_of_list = keys("list-page", None)
        self.pages = Pages((
            Page(PAIR, tr("THE PAIR"), tr("Both tracks as they meet"), page),
            Page(LIST, tr("PAIRS OF THE LIST"),
                 tr("Every pair of the list in sight ({0})").format(keys_of_list), self.list),
        ))  # fmt: skip
        self.pages.row.addStretch(1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.pages, 1)
        whole.addWidget(self.panel)
        self._inks: tuple[object, Singles] | None = None
        s = session
        s.pairing.paired.connect(self._paired)
        s.pairing.changed.connect(self.refresh)
        s.duet.changed.connect(self._show_ears)
        s.player.moved.connect(self._moved)
        s.pair_table.changed.connect(self._show_list)
        self.pages.turned.connect(self._turned)

    def _turned(self, page: str) -> None:
        # what the panel says is of the pair
        self.panel.setVisible(page == PAIR)
        self.session.pair_table.activate(page == LIST)

    def showEvent(self, e: QShowEvent | None) -> None:
        self._paired()

    def _ink_of(self, side: Side) -> Singles:
        """The leaving track's ink, made once."""
        assert side.evidence is not None
        if self._inks is None or self._inks[0] is not side.evidence:
            self._inks = (side.evidence, bar_fold.ink(side.evidence.attack_strength()))
        return self._inks[1]

    def _paired(self) -> None:
        """Another pair."""
        if not self.isVisible():
            return
        self.values.close_line()
        self.fold.forget()
        self.zipper.forget()
        p = self.pairing
        a, b = p.leaving, p.coming
        names = (p.leaving_row.title if p.leaving_row else "", p.track.row.title if p.track.row else "")
        if a is not None and b is not None and a.evidence is not None and b.evidence is not None:
            self.fold.show_sound(names, self._ink_of(a), p.track.ink)
        self.panel.show_names(*names)
        self.panel.show_others(self._others())
        self.refresh()

    def _others(self) -> list[tuple[str, tuple[int, int]]]:
        """Kept meetings of either track, but for the one that is shown."""
        p = self.pairing
        ids = [i for i in (p.leaving_row.id if p.leaving_row else None, p.track.row.id if p.track.row else None) if i]
        found = {(x.leaving, x.coming): x for i in ids for x in p.pairs.with_track(i)}
        found.pop(p.key or (0, 0), None)
        known = {t.id: t.title for t in p.library.tracks(sorted({i for k in found for i in k}))} if found else {}
        return [(f"{known.get(a, '?')} → {known.get(b, '?')}", (a, b)) for a, b in found]

    def refresh(self) -> None:
        """Show the meeting as it is."""
        if self.isVisible():
            p = self.pairing
            self.show_as(p.meeting, p.judged)
            self.panel.show_judged(p.judged, p.problem, p.is_kept)
            self.panel.show_meeting(p.leaving, p.coming, p.meeting)
            self.panel.show_places(p.leaving, p.coming, p.proposals, p.meeting)
            self.panel.show_remarks(p.judged.remarks if p.judged is not None else ())
            self._show_ears()

    def show_as(self, meeting: Meeting | None, judged: Judgement | None) -> None:
        """The pictures of a meeting, also of one that is only tried."""
        p = self.pairing
        together = judged.together if judged is not None else None
        self.fold.show_meeting(together, judged.line if judged is not None else None, p.problem)
        self.line.show_judgement(judged)
        there = meeting is not None and p.leaving is not None and p.coming is not None
        self.zipper.show_pair(p.leaving if there else None, p.coming if there else None, meeting)

    def _show_ears(self) -> None:
        self.panel.show_ears(self.session.duet.solo, self.session.duet.split)

    def _show_list(self) -> None:
        if self.isVisible():
            self.list.show_table(self.session.pair_table)

    def _moved(self, position: float) -> None:
        if self.isVisible():
            self.fold.set_position(position)
            self.line.set_position(position)
