"""What the Deliver stage shows: a page for each way out, with its target at the right."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget, QWidget

from ....core.figures import share
from ....core.fitting import bar_fold
from ....core.pairs.side import STRUCK
from ....store import straightened as kept
from ....store.straightened import DONE, Straightened
from ...session.catalogue import STATE
from ...session.session import Session
from ...theme.tr import tr
from ...views.still_fold import StillFold
from ..frame import Keys, Page, Pages
from .keep_page import KeepPage
from .paper_page import PaperPicture, PaperTarget
from .player_page import PlayerDelivery, PlayerTarget
from .stick_page import StickPage
from .straight_page import StraightTable, StraightWish
from .tags_page import TagsPreview, TagsTarget

PLAYER, STICK, STRAIGHT, TAGS, PAPER, KEEP = "player", "stick", "straight", "tags", "paper", "keep"


class DeliverSurface(QWidget):
    """Shows what there is, and nothing while another stage is seen."""

    def __init__(self, session: Session, keys: Keys) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.session = session
        s = session
        self.delivery, self.target = PlayerDelivery(), PlayerTarget(keys, s.delivering.profiles)
        self.stick = StickPage()
        self.straight, self.wish = StraightTable(), StraightWish(keys)
        self.preview, self.tags = TagsPreview(), TagsTarget(keys)
        self.picture, self.paper = PaperPicture(), PaperTarget(keys)
        self.keep = KeepPage(keys)

        def tip(words: str, name: str) -> str:
            return f"{words} ({keys('deliver-page', name)})"

        self.pages = Pages((
            Page(PLAYER, tr("FOR A PLAYER"), tip(tr("The list in sight, on a stick"), PLAYER), self.delivery),
            Page(STICK, tr("ON THE STICK"), tip(tr("What a player finds there"), STICK), self.stick),
            Page(STRAIGHT, tr("STRAIGHTEN"), tip(tr("One steady tempo, into a new file"), STRAIGHT), self.straight),
            Page(TAGS, tr("TAGS"), tip(tr("What is known, into the files"), TAGS), self.preview),
            Page(PAPER, tr("PAPER"), tip(tr("A sheet for the booth"), PAPER), self.picture),
            Page(KEEP, tr("KEEP"), tip(tr("The whole library as one file, and back"), KEEP), self.keep),
        ))  # fmt: skip
        self.pages.row.addStretch(1)
        self.panels = QStackedWidget()
        self.panels.setFixedWidth(324)
        self._panel = {PLAYER: self.target, STRAIGHT: self.wish, TAGS: self.tags, PAPER: self.paper}
        for panel in self._panel.values():
            self.panels.addWidget(panel)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.pages, 1)
        row.addWidget(self.panels)
        self._connect()

    def _connect(self) -> None:
        s = self.session
        self.pages.turned.connect(self._turned)
        s.delivering.changed.connect(self._show_player)
        s.straightening.changed.connect(self._show_straight)
        s.tag_writing.changed.connect(self._show_tags)
        s.paper.changed.connect(self._show_paper)
        s.keeping.changed.connect(self._show_keep)
        s.stick_playing.changed.connect(self._show_stick)
        s.work.moved.connect(self._moved_on)
        s.player.moved.connect(self._moved)
        s.player.playing_changed.connect(lambda _: self._moved(s.player.position))
        s.track.opened.connect(self._opened)
        s.track.shown_changed.connect(self._edited)
        s.selection.changed.connect(self._chosen)
        s.catalogue.changed.connect(self._heard)
        s.shown.changed.connect(self._chosen)
        self.straight.table.picked.connect(self._picked)

    @property
    def seen(self) -> str:
        """The page that is seen."""
        return self.pages.seen

    def showEvent(self, e: QShowEvent | None) -> None:
        self._turned(self.seen)

    def _turned(self, page: str) -> None:
        panel = self._panel.get(page)
        self.panels.setVisible(panel is not None)
        if panel is not None:
            self.panels.setCurrentWidget(panel)
        self.activate(self.isVisible())

    def activate(self, active: bool) -> None:
        """Let the services of the page that is seen work, and no others."""
        s, page = self.session, self.seen
        s.delivering.activate(active and page in (PLAYER, STICK))
        s.paper.activate(active and page == PAPER)
        s.stick_playing.activate(active and page == STICK)
        if active and page == TAGS:
            s.tag_writing.look(self.chosen())
        if active and page == STRAIGHT:
            self._look_at_open()
        self.refresh()

    def chosen(self) -> list[int]:
        """The tracks that are chosen in the list where several are, else all in sight."""
        ids = self.session.selection.ids
        return list(ids) if len(ids) > 1 else [int(i) for i in self.session.shown.ids]

    def _chosen(self) -> None:
        if self.isVisible() and self.seen == TAGS:
            self.session.tag_writing.look(self.chosen())
        elif self.isVisible() and self.seen == STRAIGHT:
            self._show_straight()

    # showing

    def refresh(self) -> None:
        """Show the page that is seen."""
        if self.isVisible():
            {
                PLAYER: self._show_player, STICK: self._show_stick, STRAIGHT: self._show_straight,
                TAGS: self._show_tags, PAPER: self._show_paper, KEEP: self._show_keep,
            }[self.seen]()  # fmt: skip

    def _show_player(self) -> None:
        if self.isVisible() and self.seen == PLAYER:
            self.target.show_target(self.session.delivering)
            self.delivery.show_plan(self.session.delivering)
        elif self.isVisible() and self.seen == STICK:
            self._show_stick()

    def _show_stick(self) -> None:
        if self.isVisible() and self.seen == STICK:
            self.stick.show_stick(self.session.delivering.stick)
            self.stick.show_loaded(self.session.stick_playing)
            self._moved(self.session.player.position)

    def _moved(self, position: float) -> None:
        if self.isVisible() and self.seen == STICK:
            self.stick.show_position(self.session.stick_playing, position, self.session.player.playing)

    def _show_tags(self) -> None:
        if self.isVisible() and self.seen == TAGS:
            self.tags.show_tags(self.session.tag_writing)
            self.tags.show_batches(self.session.tag_writing)
            self.preview.show_preview(self.session.tag_writing)

    def _show_paper(self) -> None:
        if self.isVisible() and self.seen == PAPER:
            self.paper.show_paper(self.session.paper)
            self.picture.show_paper(self.session.paper)

    def _show_keep(self) -> None:
        if self.isVisible() and self.seen == KEEP:
            self.keep.show_keeping(self.session.keeping)

    def _moved_on(self) -> None:
        """More is done of what is written."""
        done = round(1000 * self.session.work.hands.share)
        for bar in (self.target.bar, self.wish.bar, self.tags.bar):
            bar.setValue(done)
        if self.isVisible() and self.session.work.looks.busy:
            words = tr("Looking at every track: {0}").format(share(self.session.work.looks.share))
            if self.seen == PLAYER and self.session.delivering.plan is None and not self.session.delivering.why:
                self.target.sentences.setText(words)
            elif self.seen == TAGS and self.session.tag_writing.seen is None:
                self.preview.words.setText(words)

    # straightening

    def _look_at_open(self) -> None:
        row = self.session.track.row
        if row is not None and self.session.track.preparation.grid is not None:
            self.session.straightening.look_at(row.id)

    def _opened(self) -> None:
        self.session.straightening.wish = None
        if self.isVisible() and self.seen == STRAIGHT:
            self._look_at_open()
            self._show_straight()

    def _heard(self, track_id: int, what: str) -> None:
        """A result was heard: its fold can be seen."""
        seen = what == STATE and self.isVisible() and self.seen == STRAIGHT
        if seen and any(track_id == e.made for e in self.session.straightening.entries()):
            self._show_straight()

    def _edited(self) -> None:
        self.session.straightening.forget_proposal()

    def _picked(self, number: object) -> None:
        entry = next((e for e in self.session.straightening.entries() if e.id == number), None)
        if entry is not None:
            self._show_folds(entry)

    def _show_straight(self) -> None:
        if not self.isVisible() or self.seen != STRAIGHT:
            return
        s = self.session.straightening
        row, entries = self.session.track.row, s.entries()
        ids = sorted({e.source for e in entries} | {e.made for e in entries if e.made})
        titles = {t.id: t.title for t in self.session.library.tracks(ids)} if ids else {}
        self.straight.show_entries(entries, titles, s.running)
        origin = kept.made_of(self.session.library, row.id) if row is not None else None
        about = f"Made from {titles.get(origin.source, 'a track that is gone')}: straighten that." if origin else ""
        if row is not None and self.session.track.preparation.grid is None:
            about = tr("It has no grid yet: give it one in Align first.")
        wish = s.shown if row is not None else None
        self.wish.show_wish(
            row.title if row is not None else "", about, wish, s, len(self.chosen()), origin is not None
        )
        if row is not None:
            mine = [e for e in entries if row.id in (e.source, e.made) and e.state == DONE]
            if mine:
                self._show_folds(mine[-1])
            else:
                self._show_fold(self.straight.before, "Before", row.id)
                self.straight.after.title = "After"
                self.straight.after.show_none(tr("Straighten it, and the result is seen here."))
        else:
            self.straight.before.show_none(tr("Open a track in the list."))
            self.straight.after.show_none("")

    def _show_folds(self, entry: Straightened) -> None:
        self._show_fold(self.straight.before, "Before", entry.source)
        if entry.made:
            self._show_fold(self.straight.after, "After", entry.made)
        else:
            self.straight.after.show_none(tr("It is not done yet."))

    def _show_fold(self, fold: StillFold, word: str, track_id: int) -> None:
        """A track under one steady tempo."""
        library = self.session.library
        evidence = self.session.straightening.evidence_of(track_id) if library.has(track_id) else None
        if evidence is None:
            fold.title = word
            fold.show_none(tr("It is not heard yet: wait a moment."))
            return
        track, p = library.track(track_id), library.history(track_id).preparation
        if p.grid is None:
            fold.show_none(tr("It has no grid."))
            return
        strong = evidence.onset_times[evidence.onset_strengths >= STRUCK]
        ink = bar_fold.ink(evidence.attack_strength())
        fold.show_track(f"{word}: {track.title}", ink, p.grid, strong, track.duration)
