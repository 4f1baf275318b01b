"""What is heard in Rehearse: both tracks as they meet, in the one player that there is.

The mix is played like a recording whose grid is its clock, so that loops, jumps, half speed and the reference beat do
what they do everywhere. While it plays, a nudge, a fade or a solo is heard at once.
"""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.arrays import Singles
from ...core.errors import MervidError
from ...core.playing.mixing import Program
from ...core.rendering.duet import HEADROOM_DB, NEITHER, Duet, duet_of
from ...core.sound.decoding import Kept
from ...core.sound.loudness import STEP
from ...jobs import pcm
from ...jobs.mixdown import Voice, part_of
from ...jobs.sound_loader import Begun, SoundLoader
from ...store import facts
from ..sound.player import Player
from .listening import Landmarks, Listening
from .messages import Messages
from .pairing import Pairing

LEAD_BARS = 4
"""Playing from the meeting begins so many bars before it."""


class DuetPlaying(QObject):
    """`changed` when split or solo did, or when both sounds are there."""

    changed = pyqtSignal()

    def __init__(self, pairing: Pairing, player: Player, listening: Listening, say: Messages) -> None:
        super().__init__()
        self.pairing, self.player, self.listening, self.say = pairing, player, listening, say
        self.split, self.solo = False, NEITHER
        self._samples: dict[int, Kept] = {}
        self._loader: SoundLoader | None = None
        self._asked: int | None = None
        self._pair: tuple[int, int] | None = None
        pairing.changed.connect(self.refresh)
        pairing.paired.connect(self.refresh)
        pairing.track.sound_changed.connect(self.refresh)
        player.playing_changed.connect(self._note_played)

    def close(self) -> None:
        """End the process that loads sound."""
        if self._loader is not None:
            self._loader.close()

    def poll(self) -> None:
        """Hear what the loader says."""
        for key, answer in self._loader.poll() if self._loader is not None else ():
            if isinstance(answer, str):
                self.say.problem(answer)
            elif isinstance(answer, Begun):
                self._samples[int(str(key))] = answer.samples()
            self.refresh()

    def activate(self, active: bool) -> None:
        """Rehearse is seen, or no longer."""
        self._pair = None
        self.listening.stand_aside(active)
        if active:
            self.refresh()

    # the sound

    def _leaving_samples(self) -> Kept | None:
        row = self.pairing.leaving_row
        if row is None:
            return None
        if self.pairing.track.is_open(row.id) and self.pairing.track.samples is not None:
            return self.pairing.track.samples
        if row.id not in self._samples:
            found = pcm.load(self.pairing.track.cache, row.identity, row.frames)
            if found is not None:
                self._samples = {row.id: found}
            elif self._asked != row.id:
                # asked once: where the file has gone, that is said once
                self._asked = row.id
                self._loader = self._loader or SoundLoader(self.pairing.track.cache)
                self._loader.ask(str(row.id), row.path, row.frames)
        return self._samples.get(row.id)

    def voices(self) -> tuple[Voice, Voice] | None:
        """Both with their sound; None while one is missing."""
        p = self.pairing
        a, b = self._leaving_samples(), p.track.samples
        if a is None or b is None or p.leaving is None or p.coming is None:
            return None
        if p.leaving_row is None or p.track.row is None:
            return None
        leaving = Voice(p.leaving, a, p.leaving_row.rate, p.leaving_row.path)
        return leaving, Voice(p.coming, b, p.track.row.rate, p.track.row.path)

    def duet(self) -> Duet | None:
        """Both as they meet now; None while a sound or the meeting is missing."""
        voices, judged = self.voices(), self.pairing.judged
        if voices is None or judged is None:
            return None
        return duet_of(judged.together, *map(part_of, voices), split=self.split, solo=self.solo)

    def refresh(self) -> None:
        """Let the player have what there is now; where it plays, it plays on."""
        if not self.pairing.active:
            return
        duet, key = self.duet(), self.pairing.key
        self.listening.count_by(self.landmarks())
        if duet is None or self.pairing.judged is None:
            if self.player.program is not None and self.pairing.judged is None:
                self.player.load(None)
                self._pair = None
            return
        clock = self.pairing.judged.together.clock
        if self._pair == key and self.player.program is not None:
            self.player.change(samples=duet, grid=clock, rate=duet.rate, loudness=self._loudness())
        else:
            self._pair = key
            mix = self.listening.mix
            program = Program(
                duet, duet.rate, clock, mix.beat, mix.halves, mix.balance, loudness=self._loudness()
            )  # fmt: skip
            self.player.load(program)
            self.player.seek(self._lead())
        self.changed.emit()

    def _loudness(self) -> Singles:
        """About how loud the mix is, LUFS every `loudness.STEP` s, for the reference beat."""
        p = self.pairing
        level = p.leaving.lufs if p.leaving is not None and p.leaving.lufs is not None else -14.0
        length = p.judged.together.length if p.judged is not None else 0.0
        return np.full(int(length / STEP) + 1, level + HEADROOM_DB, np.float32)

    def _note_played(self, playing: bool) -> None:
        """Both are played now."""
        key = self.pairing.key
        if playing and self.pairing.active and key is not None:
            try:
                for track_id in key:
                    facts.note_played(self.pairing.library, track_id)
            except MervidError as e:
                self.say.problem(str(e))

    # places

    def landmarks(self) -> Landmarks | None:
        """What the transport counts by: the clock of the mix, where the overlap begins and ends."""
        judged = self.pairing.judged
        if judged is None:
            return None
        t = judged.together
        ends = [t.meeting.at, t.meeting.at + t.beats]
        return Landmarks(t.clock, None, ends, ends[:1])

    def _lead(self) -> float:
        judged = self.pairing.judged
        if judged is None:
            return 0.0
        t = judged.together
        return max(0.0, float(t.clock.time_at(t.clock.bar_start(t.first_bar - LEAD_BARS))))

    def go_to_meeting(self) -> None:
        """Play from some bars before the meeting."""
        self.player.seek(self._lead())

    # how it is heard

    def set_split(self, split: bool) -> None:
        """The leaving track left, the coming one right, as loud as they are."""
        self.split = split
        self.refresh()
        self.changed.emit()

    def set_solo(self, which: str) -> None:
        """Only one of the two; the same again is both."""
        self.solo = NEITHER if self.solo == which else which
        self.refresh()
        self.changed.emit()
