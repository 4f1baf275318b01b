"""Borrowing for the open track: which recordings it could borrow from, the match that was found, and taking it over."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.errors import MervidError, Refused
from ...core.form import phrase_edits
from ...core.model.preparation import DRAFT, refuse_locked
from ...core.siblings import borrow
from ...core.siblings.recording_match import Match
from ...jobs.matcher import Matcher, Source
from ...store.schema import StoreError
from ...store.track import READY, Track
from ..theme.tr import tr
from .catalogue import Catalogue
from .messages import Messages
from .open_track import OpenTrack


class Borrowing(QObject):
    """Asks how the open track lies in another; `changed` when something is asked or answered."""

    changed = pyqtSignal()

    def __init__(self, catalogue: Catalogue, track: OpenTrack, say: Messages) -> None:
        super().__init__()
        self.library, self.track, self.say = catalogue.library, track, say
        self.full: Track | None = None
        self.match: Match | None = None
        self.refusal = ""
        self.waiting = False
        self._matcher = Matcher()
        self._timer = QTimer(self)
        self._timer.setInterval(50)
        self._timer.timeout.connect(self.poll)

    def close(self) -> None:
        """End the process."""
        self._timer.stop()
        self._matcher.close()

    def forget(self) -> None:
        """Nothing is compared any more."""
        self._timer.stop()
        self._matcher.forget()
        self.full, self.match, self.refusal, self.waiting = None, None, "", False
        self.changed.emit()

    def candidates(self) -> list[Track]:
        """Recordings with a grid to lend, those with a like name first."""
        mine = self.track.row
        if mine is None:
            return []
        words = set(mine.title.lower().split())
        out = []
        for t in self.library.tracks():
            if t.id != mine.id and t.state == READY and t.tempo_low is not None:
                out.append(t)
        return sorted(out, key=lambda t: (-len(words & set(t.title.lower().split())), t.title))

    def ask(self, track_id: int) -> None:
        """Find out how the open track lies in another."""
        mine, library = self.track.row, self.library
        if mine is None:
            return
        full = library.track(track_id)
        self.full, self.match, self.refusal, self.waiting = full, None, "", True
        here, there = (Source(self.track.cache, t.identity, t.frames, t.rate, t.path) for t in (mine, full))
        self._matcher.ask((mine.id, full.id), here, there)
        self._timer.start()
        self.changed.emit()

    @property
    def is_draft(self) -> bool:
        """Whether nobody has checked the grid that would be borrowed."""
        try:
            return self.full is not None and self.library.track(self.full.id).readiness == DRAFT
        except StoreError:
            return True

    def poll(self) -> None:
        """Hear the answer."""
        for key, answer in self._matcher.poll():
            mine = self.track.row
            if mine is None or self.full is None or key != (mine.id, self.full.id):
                continue
            self._timer.stop()
            self.waiting = False
            if isinstance(answer, Match):
                self.match = answer
            else:
                self.refusal = answer
            self.changed.emit()

    def use(self) -> bool:
        """Take over grid and bars."""
        b = self.track
        if self.match is None or self.full is None or b.row is None or b.evidence is None:
            return False
        try:
            refuse_locked(b.preparation)
            lender = self.library.history(self.full.id).preparation
            kept = self.library.evidence(self.full.id, lesser=True)
            form = phrase_edits.form_of(lender, kept[0] if kept else None, self.full.duration)
            grid = lender.grid
            if grid is None:
                raise Refused(f"{self.full.title} has no grid to lend any more.")
        except MervidError as e:
            self.say.refused(str(e))
            return False
        # what is borrowed is heard along its own pins from now on
        if not b.apply(borrow.borrow, grid, self.match, b.evidence.heard, b.duration, form):
            return False
        self.say.done(
            tr("Grid, bars and phrases borrowed from {0}. Nudge it against the reference beat (K).").format(
                self.full.title
            )
        )
        return True
