"""The contact sheet: what the recipe in hand would do to many tracks, before it does it, and what became of it."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from ....core.cues.prospects import Prospect
from ...session.contact_sheet import ContactSheet
from ...theme.tr import tr
from ...theme.words import Words
from ...views.contact_cards import Card, ContactCards


class SheetPage(QWidget):
    """Emits `asked(name, argument)` for what its buttons and keys want."""

    asked = pyqtSignal(str, object)

    def __init__(self, sheet: ContactSheet) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.sheet = sheet
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        head.setSpacing(8)
        self.title = Words("")
        self.title.setObjectName("title")
        head.addWidget(self.title)
        self.words = Words("")
        self.words.setObjectName("faint")
        head.addWidget(self.words, 1)
        self.progress = QProgressBar()
        self.progress.setFixedWidth(140)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName(tr("Tracks done"))
        head.addWidget(self.progress)
        self.stop = self._button(head, tr("Stop"), "sheet-stop", tr("Leave off: what is done stays"))
        column.addLayout(head)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.next = self._button(row, tr("Next in doubt"), "sheet-next", tr("The next track to look at (N)"))
        self.fine = self._button(row, tr("Fine"), "sheet-fine", tr("As it should be: on to the next in doubt (X)"))
        self.fix = self._button(
            row, tr("Fix in Phrase"), "sheet-fix", tr("Open this track; Shift+A comes back (Return)")
        )
        self.away = self._button(
            row, tr("Take out"), "sheet-out", tr("Leave this track out, or take it in again (Space)")
        )
        row.addStretch(1)
        self.back = self._button(
            row, tr("Take it all back"), "sheet-undo", tr("Undo it in every track not changed since")
        )
        self.export = self._button(row, tr("Export…"), "sheet-export", tr("What became of each track, as TSV"))
        self.apply = self._button(row, tr("Put down"), "sheet-apply", tr("Place the cues in all tracks that are taken"))
        self.apply.setObjectName("way")
        self.shut = self._button(
            row, tr("Close the sheet"), "sheet-close", tr("The sheet is done with; what was placed stays")
        )
        column.addLayout(row)
        self.cards = ContactCards()
        column.addWidget(self.cards, 1)
        for signal, name in (
            (self.cards.next_wanted, "sheet-next"),
            (self.cards.fine_said, "sheet-fine"),
            (self.cards.left_alone, "sheet-leave"),
        ):
            signal.connect(lambda n=name: self.asked.emit(n, None))
        self.cards.opened.connect(lambda k: self.asked.emit("sheet-fix", k))
        self.cards.chosen.connect(sheet.choose)
        self.cards.toggled.connect(sheet.toggle)
        self.cards.flag_toggled.connect(sheet.toggle_flag)
        sheet.changed.connect(self.refresh)
        sheet.moved.connect(self.refresh)
        sheet.stepped.connect(self._stepped)

    def _button(self, row: QHBoxLayout, text: str, name: str, tip: str) -> QPushButton:
        b = QPushButton(text)
        b.setToolTip(tip)
        b.clicked.connect(lambda: self.asked.emit(name, None))
        row.addWidget(b)
        return b

    def refresh(self) -> None:
        """Show the sheet as it stands; nothing while it isn't seen."""
        s = self.sheet
        if not self.isVisible() or s.recipe is None:
            return
        done, wanted = bool(s.outcomes), s.wanted
        self.title.setText(s.recipe.name)
        self.words.setText(self.summary())
        self.cards.show_cards([self._card(k, x) for k, x in enumerate(s.seen)], s.at)
        self.progress.setVisible(bool(s.waiting) or s.busy)
        self.stop.setVisible(self.progress.isVisible())
        if s.waiting:
            self.progress.setRange(0, len(s.waiting) + len(s.seen))
            self.progress.setValue(len(s.seen))
        many = "1 track" if len(wanted) == 1 else tr("{0} tracks").format(len(wanted))
        self.apply.setText(tr("Put down in {0}").format(many))
        self.apply.setEnabled(bool(wanted) and not s.waiting and not s.busy)
        for b in (self.apply, self.next, self.fine, self.away):
            b.setVisible(not done)
        for b in (self.back, self.export):
            b.setVisible(done)
        self.back.setEnabled(any(o.head >= 0 for o in s.outcomes))
        self.next.setEnabled(bool(s.doubtful))
        for b in (self.fine, self.fix, self.away):
            b.setEnabled(s.chosen is not None)
        out = s.chosen is not None and s.chosen.track in s.out
        self.away.setText(tr("Take in") if out else tr("Take out"))

    def summary(self) -> str:
        """All of it in one sentence."""
        s = self.sheet
        if s.outcomes:
            changed = sum(o.head >= 0 for o in s.outcomes)
            kept = tr(" The account is kept: {0}.").format(s.report.name) if s.report is not None else ""
            return tr("{0} of {1} tracks have new cues.{2}").format(changed, len(s.outcomes), kept)
        of = f"{len(s.seen)} of {len(s.seen) + len(s.waiting)}" if s.waiting else f"{len(s.seen)}"
        doubt, skipped = len(s.doubtful), sum(bool(x.skipped) for x in s.seen)
        words = (
            tr("{0} tracks: {1} in doubt").format(of, doubt) if doubt else tr("{0} tracks, none in doubt").format(of)
        )
        words += tr(", {0} taken out").format(len(s.out)) if s.out else ""
        return words + (tr(", {0} can't have it.").format(skipped) if skipped else ".")

    def _card(self, place: int, x: Prospect) -> Card:
        s = self.sheet
        left, out = s.left.get(x.track, frozenset()), x.track in s.out
        count = sum(f.key not in left for f in x.flags)
        cues = f"{count} cue{'s' if count != 1 else ''}"
        if s.outcomes:
            o = s.outcomes[place]
            problems = "; ".join(o.told.problems) if o.told is not None else ""
            state = "placed" if o.head >= 0 else tr("as it was")
            return Card(x, left, o.head < 0, state, o.skipped or problems or cues, False)
        if x.skipped:
            return Card(x, left, out, "can't", f"{x.skipped[0].upper()}{x.skipped[1:]}.", False)
        doubt = x.doubtful and x.track not in s.fine and not out
        state = tr("taken out") if out else tr("in doubt") if doubt else "fine" if x.track in s.fine else cues
        return Card(x, left, out, state, x.why or cues, doubt)

    def _stepped(self, done: int, of: int) -> None:
        self.progress.setRange(0, of)
        self.progress.setValue(done)
        self.words.setText(tr("{0} of {1} tracks have their cues …").format(done, of))
