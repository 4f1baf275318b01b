"""One of the two tracks of a pair: all that is known of it, read once."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import cached_property
from typing import Any, TypeVar

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..character import key as keys
from ..edits import listening_edits
from ..errors import Refused
from ..fitting.sureness import Beside
from ..form.phrase_edits import phrase_at
from ..hearing.evidence import Evidence
from ..hearing.features import SNAP_REACH, attack_near
from ..hearing.heard import Heard, nothing_heard
from ..hearing.spectra import EAR_FPS
from ..model.beatgrid import Grid
from ..model.cue import Cue
from ..model.form import Form, Phrase
from ..model.preparation import Preparation

T = TypeVar("T")

SUNG = 0.5
"""A voice is heard where the ear is so sure of it."""
STRUCK = 0.25
"""An onset is an attack that must not smear from this strength on."""


@attrs.frozen(eq=False)
class Side:
    """A track in a pair.

    Attributes
    ----------
    title : as it is shown
    preparation, evidence, form : as they are kept; without evidence a track can be laid but not judged
    duration : s
    key : its name; empty where it isn't known
    lufs, drive : None where they aren't known
    """

    title: str
    preparation: Preparation
    evidence: Evidence | None
    duration: float
    form: Form | None = None
    key: str = ""
    lufs: float | None = None
    drive: float | None = None

    @property
    def grid(self) -> Grid:
        """The grid; raises `Refused` where there is none."""
        if self.preparation.grid is None:
            raise Refused(f"{self.title} has no grid yet: give it one in Align first.")
        return self.preparation.grid

    @cached_property
    def heard(self) -> Heard:
        """What is heard under the hints and hand pins."""
        if self.evidence is None:
            return nothing_heard()
        return listening_edits.heard_of(self.evidence, self.preparation)

    @cached_property
    def beside(self) -> Beside:
        """What is heard beside the grid."""
        return Beside.of(self.heard, self.grid)

    @property
    def heard_beats(self) -> Floats:
        """The grid beat that each heard beat is, (n,)."""
        return self.beside.beats

    @cached_property
    def music(self) -> tuple[float, float]:
        """The first and the last beat that are heard, in beats of the grid; all of it where none are."""
        found = self.heard_beats
        if not len(found):
            start, stop = self.grid.beat_at([0.0, self.duration])
            return float(start), float(stop)
        return float(found[0]), float(found[-1])

    def beat_of(self, cue: Cue) -> float:
        """The whole beat on which a cue lies."""
        return float(round(float(self.grid.beat_at(cue.at(self.grid)))))

    @property
    def phrases(self) -> tuple[Phrase, ...]:
        """The phrases, in order; none where they aren't known."""
        return self.form.phrases if self.form is not None else ()

    def key_at(self, beat: float) -> str:
        """The key at a beat: the one of the track is that of most of it, and a song may go on in another."""
        if self.form is None:
            return self.key
        here = self.form.phrases[phrase_at(self.form, beat)]
        return keys.moved(self.key, here.raised - self.form.mostly_raised)

    def struck_near(self, time: float) -> float:
        """The beginning of the attack under a hand at `time`, s; `time` itself where nothing is struck."""
        return attack_near(self._attack, time, SNAP_REACH) if self.evidence is not None else time

    @cached_property
    def _attack(self) -> Singles:
        assert self.evidence is not None
        return self.evidence.attack_strength()

    @cached_property
    def attacks(self) -> Floats:
        """Beats heard and strong onsets, s, ascending: what must not smear."""
        e = self.evidence
        if e is None:
            start, stop = self.grid.beat_at([0.0, self.duration])
            return np.asarray(self.grid.time_at(np.arange(np.ceil(start), np.floor(stop) + 1)))
        strong = e.onset_times[e.onset_strengths >= STRUCK]
        return np.unique(np.concatenate([strong, self.heard.times]))

    @cached_property
    def _sung(self) -> Floats | None:
        """Frames sung up to each frame of the ear; None where that isn't known."""
        ear = self.evidence.strengths if self.evidence is not None else None
        if ear is None or not len(ear.voice):
            return None
        return np.concatenate([[0.0], np.cumsum(ear.voice > SUNG)])

    def voice(self, edges: Floats) -> Floats | None:
        """Share of the time between neighbouring instants, s, in which a voice is heard; None where unknown."""
        if self._sung is None:
            return None
        at = np.clip(np.rint(edges * EAR_FPS).astype(int), 0, len(self._sung) - 1)
        return np.asarray(np.diff(self._sung[at]) / np.maximum(np.diff(at), 1))

    @cached_property
    def _known(self) -> dict[Hashable, Any]:
        return {}

    def once(self, what: Hashable, work: Callable[[], T]) -> T:
        """What `work` gives for `what` of this track: worked out once, for whatever others it is paired with."""
        if what not in self._known:
            self._known[what] = work()
        found: T = self._known[what]
        return found

    def tempo_between(self, start: float, stop: float) -> float:
        """Mean tempo between two beats, BPM."""
        a, b = self.grid.time_at([start, stop])
        return float(60 * (stop - start) / (b - a))
