"""The open track: what is kept of it, what follows from that, and the named edits that change it.

Knows the catalogue below it and nobody above; services listen to its signals.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.arrays import Floats, Singles
from ...core.cues.recipe_places import Place, place_of
from ...core.edits import listening_edits
from ...core.errors import FormatError, MervidError, Refused
from ...core.fitting import bar_fold, drift
from ...core.fitting.drift import Summary, Trace
from ...core.form import phrase_edits
from ...core.hearing.evidence import Evidence
from ...core.hearing.features import SNAP_REACH, attack_near
from ...core.hearing.heard import Heard
from ...core.model import preparation
from ...core.model.beatgrid import Grid
from ...core.model.form import Form
from ...core.model.hints import Hint
from ...core.model.preparation import Preparation
from ...core.sound.decoding import Kept
from ...core.sound.waveform import Waveform
from ...jobs import pcm
from ...store.schema import StoreError
from ...store.track import FAILED, READY, Track
from ..theme.tr import tr
from .catalogue import STATE, Catalogue
from .kept import Once
from .messages import Messages
from .preview import Preview

LONG, REST_MS = 1200.0, 700
"""From so many s on, phrases are read again only when the hand rests for so many ms."""
ONSET = 0.1
"""An onset counts as a hit from this strength on."""


class OpenTrack(QObject):
    """What is open: `preparation` is what is saved, `shown` is that or what `preview` shows instead.

    Attributes
    ----------
    row : the track in the library; None where none is open
    evidence, waveform, samples : None until there is any
    attack : (n,) attack strength, 1000 a second; `ink` the same for the bar fold

    `closing` comes before another track is open: what was typed so far is of the one that still is.
    """

    closing = pyqtSignal()
    opened = pyqtSignal()
    sound_changed = pyqtSignal()
    saved_changed = pyqtSignal()
    shown_changed = pyqtSignal()

    def __init__(self, catalogue: Catalogue, cache: Path, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.cache, self.say = catalogue, cache, say
        self.preview = Preview()
        self.preview.changed.connect(self.shown_changed)
        self._forget()

    def _forget(self) -> None:
        self.row: Track | None = None
        self.evidence: Evidence | None = None
        self.waveform: Waveform | None = None
        self.samples: Kept | None = None
        self.attack: Singles = np.zeros(0, np.float32)
        self.ink: Singles = np.zeros(0, np.float32)
        self.onset_times: Floats = np.zeros(0)
        self.onset_strengths: Singles = np.zeros(0, np.float32)
        self.preparation = Preparation()
        self.undo_name: str | None = None
        self.redo_name: str | None = None
        self.preview.forget()
        self._heard, self._drift = Once[Heard](), Once[tuple[Trace, Summary] | None]()
        self._place = Once[Place]()
        self._form: tuple[object, Form | None] | None = None
        self._form_due: Preparation | None = None

    # opening

    def close(self) -> None:
        """Nothing is open any more."""
        self.closing.emit()
        self._forget()
        self.opened.emit()

    def open(self, track_id: int, *, lesser: bool = False, drawn: Waveform | None = None) -> None:
        """Show a track with all that is kept of it.

        Parameters
        ----------
        lesser : be content with what was heard without the trained ear
        drawn : its waveform, while it is not heard yet

        Raises
        ------
        FormatError
            What was heard can't be read any more.
        StoreError
            The library can't be read.
        """
        self.closing.emit()
        library = self.catalogue.library
        row = library.track(track_id)
        found = library.evidence(track_id, lesser=lesser)
        mended = ""
        try:
            history = library.history(track_id)
        except FormatError:
            mended = library.mend(track_id)
            self.catalogue.tell(track_id, STATE)
            history = library.history(track_id)
        self._forget()
        self.row = row
        self.evidence, self.waveform = found if found else (None, drawn)
        if self.evidence is not None:
            self.attack = self.evidence.attack_strength()
            self.ink = bar_fold.ink(self.attack)
            self.onset_times, self.onset_strengths = self.evidence.onset_times, self.evidence.onset_strengths
        self.samples = pcm.load(self.cache, row.identity, row.frames)
        self.preparation, self.undo_name, self.redo_name = history.preparation, history.undo, history.redo
        self.opened.emit()
        if mended:
            self.say.problem(mended)

    def is_open(self, track_id: int) -> bool:
        """Whether this track is the open one."""
        return self.row is not None and self.row.id == track_id

    def reload_row(self) -> None:
        """The library knows more of the track itself."""
        if self.row is not None:
            self.row = self.catalogue.library.track(self.row.id)

    def show_sound(self, waveform: Waveform | None = None, samples: Kept | None = None) -> None:
        """Sound came: a waveform while there is none, samples to play and to look at closely."""
        self.waveform = self.waveform or waveform
        if samples is None and self.row is not None:
            samples = pcm.load(self.cache, self.row.identity, self.row.frames)
        self.samples = self.samples if samples is None else samples
        self.sound_changed.emit()

    # what follows from what is kept

    @property
    def shown(self) -> Preparation:
        """What is shown: what is saved, or what stands in for it."""
        return self.preparation if self.preview.value is None else self.preview.value

    @property
    def grid(self) -> Grid | None:
        """The grid that is shown."""
        return self.shown.grid

    @property
    def duration(self) -> float:
        """Length of the track, s."""
        if self.waveform is not None:
            return self.waveform.duration
        return self.row.duration if self.row else 0.0

    @property
    def heard(self) -> Heard | None:
        """What is heard under the hints and hand pins of what is shown; a pin in the hand guides when it is let go."""
        evidence = self.evidence
        if evidence is None:
            return None
        now, saved = self.shown, self.preparation
        if now.hints == saved.hints and now.grid is not None and saved.grid is not None:
            ratio = now.grid.tempo_overall() / saved.grid.tempo_overall()
            now = saved if 0.9 < ratio < 1.1 else now
        grid = now.grid
        key = (now.hints, grid.hand_pins if grid else (), grid and grid.tempo_overall())
        return self._heard.of(key, lambda: listening_edits.heard_of(evidence, now))

    def drift(self) -> tuple[Trace, Summary] | None:
        """The drift of what was heard against the shown grid."""
        heard, p = self.heard, self.shown
        if heard is None:
            return None

        def make() -> tuple[Trace, Summary] | None:
            trace = drift.trace_of(p, heard)
            return (trace, drift.summary(trace)) if trace is not None else None

        # cues and notes change nothing about it
        return self._drift.of((p.grid, p.mix_zones, p.tolerance, heard), make)

    @property
    def form(self) -> Form | None:
        """The phrases, kept or heard; of what is saved, while something is dragged."""
        p = self.shown if self.shown.form is not None else self.preparation
        if p.form is not None:
            return p.form
        known = self._form
        if known is not None:
            if known[0] == p.grid:
                return known[1]
            if p is self._form_due:
                return known[1]
            if self.duration > LONG:
                self._form_due = p
                QTimer.singleShot(REST_MS, self._read_form)
                return known[1]
        self._form = (p.grid, phrase_edits.form_of(p, self.evidence, self.duration))
        return self._form[1]

    def _read_form(self) -> None:
        """Read the phrases of a long recording again."""
        if self._form_due is not self.preparation:
            return
        self._form = self._form_due = None
        if self.form is not None:
            self.shown_changed.emit()

    @property
    def place(self) -> Place | None:
        """What rules can refer to; None without a grid."""
        grid, form, evidence = self.preparation.grid, self.form, self.evidence
        if grid is None:
            return None
        return self._place.of((grid, form, evidence), lambda: place_of(evidence, grid, form, self.duration))

    def music_begins(self) -> float | None:
        """The s at which the music begins: after a record's lead-in, at the first hit that is heard."""
        if self.evidence is None or not len(self.onset_times):
            return None
        start = self.evidence.condition.lead_in or 0.0
        later = self.onset_times[(self.onset_times >= start) & (self.onset_strengths > ONSET)]
        return float(later[0]) if len(later) else None

    def snap(self, time: float, reach: float = SNAP_REACH) -> float:
        """The beginning of the strongest attack within `reach` s of `time`; `time` itself where nothing is struck."""
        return attack_near(self.attack, time, reach)

    def state_words(self, nothing: str) -> str:
        """What stands where there is nothing to draw: how far the track is, or `nothing` once it was heard."""
        if self.row is None:
            return ""
        if self.row.state == FAILED:
            return self.row.message
        if self.row.state != READY:
            return tr("Being read…") if self.waveform is None else tr("Hearing the beats…")
        return nothing

    # edits

    def apply(self, edit: Callable[..., Preparation], *args: Any, **kwargs: Any) -> bool:
        """Make a named edit, save it, and only then show it. False when it was refused, with the reason said."""
        if self.row is None:
            return False
        try:
            value = edit(self.preparation, *args, **kwargs)
        except Refused as e:
            self.preview.clear()
            self.say.refused(str(e))
            return False
        return self.commit(preparation.name_of(edit), value)

    def commit(self, name: str, value: Preparation) -> bool:
        """Save a value under the name of the edit that made it, and show it: the one way in which anything changes."""
        assert self.row is not None
        value = preparation.redrafted(self.preparation, value)
        if value == self.preparation:
            self.preview.clear()
            return False
        try:
            self.catalogue.edit(self.row.id, name, value)
        except StoreError as e:
            self.preview.clear()
            self.say.problem(tr("{0} The last change is not kept.").format(e))
            return False
        except Refused as e:
            self.preview.clear()
            self.say.refused(str(e))
            return False
        self._saved(value, name, None)
        return True

    def _saved(self, value: Preparation, undo: str | None, redo: str | None) -> None:
        """What is saved is another value: nothing stands in for it any more."""
        self.preview.forget()
        self.preparation, self.undo_name, self.redo_name = value, undo, redo
        self.saved_changed.emit()
        self.shown_changed.emit()

    def show_again(self) -> None:
        """A field shows something that was refused: it is to show what stands."""
        self.shown_changed.emit()

    def refuses(self) -> bool:
        """Whether nothing can be changed here; says why."""
        try:
            preparation.refuse_locked(self.preparation)
        except Refused as e:
            self.preview.clear()
            self.say.refused(str(e))
            return True
        return False

    def set_readiness(self, readiness: str) -> None:
        """Draft, checked or locked. Not an edit: undo goes past it, and can never unlock."""
        if self.row is None:
            return
        try:
            value = preparation.set_readiness(self.preparation, readiness)
            if readiness != preparation.DRAFT and value.form is None:
                # what was checked stays, whatever a later version of Mervid hears
                value = attrs.evolve(value, form=self.form)
        except Refused as e:
            self.say.refused(str(e))
            return
        self.replace(value)

    def replace(self, value: Preparation) -> None:
        """Save a value in the place of the current one: readiness and what was seen are no edits."""
        if self.row is None:
            return
        try:
            self.catalogue.replace(self.row.id, value)
        except StoreError as e:
            self.preview.clear()
            self.say.problem(str(e))
            return
        self._saved(value, self.undo_name, self.redo_name)

    def listen_again(self, *hints: Hint) -> bool:
        """Listen again under more hints."""
        return self.evidence is not None and self.apply(listening_edits.listen_again, self.evidence, hints)

    # undo

    def undo(self) -> None:
        """One edit back, without limit."""
        self._step(self.catalogue.undo, tr("There is nothing to undo."))

    def redo(self) -> None:
        """One edit forward again."""
        self._step(self.catalogue.redo, tr("There is nothing to redo."))

    def go_to_edit(self, number: int) -> None:
        """Undo or redo until `number` edits are in force."""
        self._step(lambda track_id: self.catalogue.stand_at(track_id, number), tr("The track stands there already."))

    def _step(self, step: Callable[[int], bool], nothing: str) -> None:
        if self.row is None:
            return
        try:
            preparation.refuse_locked(self.preparation)
            if not step(self.row.id):
                self.say.refused(nothing)
                return
        except MervidError as e:
            (self.say.refused if isinstance(e, Refused) else self.say.problem)(str(e))
            return
        self.reread()

    def reread(self) -> None:
        """What is kept of the track was changed in the library: show it."""
        if self.row is None:
            return
        try:
            history = self.catalogue.library.history(self.row.id)
        except (StoreError, FormatError) as e:
            self.say.problem(str(e))
            return
        self._saved(history.preparation, history.undo, history.redo)
