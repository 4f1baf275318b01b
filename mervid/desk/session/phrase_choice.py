"""What is chosen in the Phrase stage: a phrase, a cue, how cues snap, the player that stands in."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.cues import cue_edits, player_profile
from ...core.cues.player_profile import Arrival, Gear
from ...core.errors import Refused
from ...core.form import skips
from ...core.form.skips import Skip
from ...core.model.cue import Cue
from ...core.model.form import Form
from .kept import Once
from .open_track import OpenTrack


class PhraseChoice(QObject):
    """`changed` whenever something else is chosen."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack) -> None:
        super().__init__()
        self.track = track
        self._phrase = 0
        self.cue_id = ""
        self.snap = cue_edits.DOWNBEAT
        self.gear: Gear = player_profile.EIGHT
        self._skips = Once[list[Skip]]()
        self._rows = Once[tuple[Form, list[int]] | None]()
        self._closed: frozenset[float] = frozenset()
        track.opened.connect(self._opened)

    def _opened(self) -> None:
        self._phrase, self.cue_id, self._closed = 0, "", frozenset()

    # sections

    @property
    def rows(self) -> tuple[Form, list[int]] | None:
        """The form with a phrase for each row: closed sections are one; and the first phrase of each row."""
        form = self.track.form
        return None if form is None else self._rows.of((form, self._closed), lambda: _rows(form, self._closed))

    @property
    def is_closed(self) -> bool:
        """Whether the chosen phrase stands for its closed section."""
        form = self.track.form
        if form is None:
            return False
        return form.phrases[form.section_of(self.chosen).first].start in self._closed

    def fold(self, index: int) -> None:
        """Close the section of a phrase to one row, or open it."""
        form = self.kept_form()
        section = form.section_of(index)
        if len(section) < 2:
            raise Refused("This section has one phrase: there is nothing to close.")
        self._closed ^= {form.phrases[section.first].start}
        self._phrase = section.first
        self.changed.emit()

    def fold_all(self) -> None:
        """Close all sections, or open them where one is closed."""
        form = self.kept_form()
        all_of = frozenset(form.phrases[s.first].start for s in form.sections if len(s) > 1)
        if not all_of:
            raise Refused("Every section here has one phrase.")
        self._closed = frozenset() if self._closed & all_of else all_of
        self.changed.emit()

    @property
    def chosen(self) -> int:
        """Which phrase is chosen."""
        form = self.track.form
        return min(self._phrase, len(form.phrases) - 1) if form is not None else self._phrase

    def choose(self, index: int) -> None:
        """Choose a phrase."""
        if index != self._phrase:
            self._phrase = index
            self.changed.emit()

    def choose_cue(self, cue_id: str) -> None:
        """Choose a cue."""
        if cue_id != self.cue_id:
            self.cue_id = cue_id
            self.changed.emit()

    def choose_snap(self, snap: str) -> None:
        """Where new and moved cues go."""
        self.snap = snap
        self.changed.emit()

    def choose_gear(self, gear: Gear) -> None:
        """Which player stands in."""
        self.gear = gear
        self.changed.emit()

    @property
    def cue(self) -> Cue | None:
        """The chosen cue, while it is there."""
        return next((c for c in self.track.preparation.cues if c.id == self.cue_id), None)

    def seam(self, cue: Cue) -> float | None:
        """The error at the seam of a cue's loop, ms; None without one, or where nothing is heard."""
        p, found = self.track.preparation, self.track.drift()
        loop = cue_edits.loop_of(p, cue)
        if loop is None or found is None or p.grid is None:
            return None
        return cue_edits.seam_error(found[0], loop, 60 / p.grid.tempo_at(loop[0]))

    @property
    def arrival(self) -> Arrival:
        """What the player that stands in has of the open track."""
        return player_profile.arrive(self.track.preparation, self.gear)

    def complete(self) -> bool:
        """Add what that player would lose."""
        return self.track.apply(player_profile.complete, self.gear)

    @property
    def skips(self) -> list[Skip]:
        """Skips from chorus to chorus in the open track."""
        form, grid = self.track.form, self.track.preparation.grid
        if form is None or grid is None:
            return []
        return self._skips.of((form, grid), lambda: skips.skips(grid, form))

    def kept_form(self) -> Form:
        """The form to edit. Raises `Refused` where there is none."""
        form = self.track.form
        if form is None:
            raise Refused("There are no phrases yet: the track needs a grid and a few bars of music.")
        return form


def _rows(form: Form, closed: frozenset[float]) -> tuple[Form, list[int]]:
    rows: list[int] = []
    for s in form.sections:
        shut = form.phrases[s.first].start in closed
        rows += [s.first] if shut else range(s.first, s.stop)
    return (Form(tuple(form.phrases[i] for i in rows), form.end) if len(rows) < len(form.phrases) else form), rows
