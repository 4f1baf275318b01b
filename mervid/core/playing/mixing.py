"""What is heard on playing: the recording and the reference beat, mixed block by block.

A pure function of position: the same frames always give the same block, so that the place of every stroke can be tested
to the sample and any output, or none, may pull. Frames are counted at the speed of playing: at half speed a recording
has twice as many. A loop is unrolled: frames count on beyond its end, and `folded` says where in the recording they
lie.

A `Reel` is what an output pulls from: it remembers what was handed out, changes the program without a gap, and tells
which place of the recording is heard now.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..model.beatgrid import Grid
from ..rendering import varispeed
from ..rendering.duet import Duet
from ..sound.decoding import Kept
from ..sound.loudness import STEP
from . import reference_beat

SEAM_S = 0.005
"""Length of the crossfade at a loop's seam and at a jump."""
ROOM = 0.75
"""Headroom for the reference beat: both are turned down by this while it sounds."""


@attrs.frozen(eq=False)
class Program:
    """What to play.

    Attributes
    ----------
    samples : (frames, channels) at `rate` Hz, float32 or whole 16-bit steps; or two recordings as one
    grid : along which the reference beat is struck
    beat : the pattern of `reference_beat`, or `reference_beat.OFF`
    halves : half-beats are struck, too
    balance : -1 the track alone, 0 both, 1 the reference beat alone
    split : the track in the left ear, the reference beat in the right
    loudness : (n,) LUFS of the track every `loudness.STEP` s; empty where unknown
    loop : (start, stop) in s, played again and again
    half : half speed, an octave lower, so that nothing is smeared
    skip : (from, to) in s: at the one it goes on at the other, which lies later; not together with a loop
    """

    samples: Kept | Duet
    rate: int
    grid: Grid | None = None
    beat: str = reference_beat.OFF
    halves: bool = False
    balance: float = 0.0
    split: bool = False
    loudness: Singles = attrs.field(factory=lambda: np.zeros(0, np.float32))
    loop: tuple[float, float] | None = None
    half: bool = False
    skip: tuple[float, float] | None = None

    @property
    def frames(self) -> int:
        """Length of the recording in its own frames."""
        return len(self.samples)

    @property
    def duration(self) -> float:
        """Length of the recording, s."""
        return self.frames / self.rate

    @property
    def pace(self) -> float:
        """Frames handed out for each second of the recording."""
        return float(self.rate * (2 if self.half else 1))

    def frame_at(self, time: float) -> int:
        """The frame, at the speed of playing, that holds `time` s."""
        return round(time * self.pace)

    @property
    def seam(self) -> tuple[int, int] | None:
        """The frame that comes next at a seam, and the one that would have: of a loop or a skip; None without one."""
        pair = self.loop or (self.skip and self.skip[::-1])
        if not pair:
            return None
        a, b = self.frame_at(pair[0]), self.frame_at(pair[1])
        return (a, b) if abs(b - a) > 2 * SEAM_S * self.pace else None

    def folded(self, frame: float) -> float:
        """Where an unrolled frame lies in the recording, in frames at the speed of playing."""
        if self.seam is None or frame < self.seam[1]:
            return frame
        a, b = self.seam
        return a + (frame - a) % (b - a) if a < b else frame + a - b

    def skipped(self, frame: float) -> bool:
        """Whether an unrolled frame lies behind the skip."""
        return self.skip is not None and self.loop is None and self.seam is not None and frame >= self.seam[1]


def render(program: Program, start: int, count: int) -> Singles:
    """Frames `start` to `start + count` as (count, 2) float32 in [-1, 1]; silence outside the recording."""
    track = np.zeros((count, 2), np.float32)
    for at, source, n in _pieces(program, start, count):
        track[at - start : at - start + n] = _part(program, source, n)
    if program.beat == reference_beat.OFF or program.grid is None:
        return np.clip(track, -1.0, 1.0, out=track)
    beat = _strokes(program, start, count) * np.float32(ROOM * min(1.0, 1 + program.balance))
    track *= np.float32(ROOM * min(1.0, 1 - program.balance))
    ears = (track.mean(axis=1), beat) if program.split else (track[:, 0] + beat, track[:, 1] + beat)
    out = np.stack(ears, axis=1)
    return np.asarray(np.clip(out, -1.0, 1.0, out=out), np.float32)


def _pieces(program: Program, start: int, count: int) -> list[tuple[int, int, int]]:
    """Runs without a seam: unrolled frame, frame in the recording, how many."""
    out, at = [], start
    while at < start + count:
        source = int(program.folded(at))
        n = start + count - at
        if program.seam is not None and source < program.seam[1] and not program.skipped(at):
            n = min(n, program.seam[1] - source)
        out.append((at, source, n))
        at += n
    return out


def _part(program: Program, start: int, count: int) -> Singles:
    """The recording alone; the last frames before a seam fade into what comes before the loop's beginning."""
    out = _stretched(program, start, count)
    if program.seam is None:
        return out
    a, b = program.seam
    fade = int(SEAM_S * program.pace)
    first, last = max(start, b - fade), min(start + count, b)
    if last > first:
        part = slice(first - start, last - start)
        x = ((np.arange(first, last) - (b - fade) + 1) / (fade + 1) * (np.pi / 2))[:, None]
        before = _stretched(program, first - (b - a), last - first)
        out[part] = out[part] * np.cos(x).astype(np.float32) + before * np.sin(x).astype(np.float32)
    return out


def _between() -> Floats:
    """Weights of the 16 frames around a point halfway between two: a sinc under a Hann window."""
    x = np.arange(-7.5, 8.5)
    w = np.sinc(x) * np.cos(np.pi * x / 17) ** 2
    return w / w.sum()


_HALFWAY = _between()


def _stretched(program: Program, start: int, count: int) -> Singles:
    """Frames of the recording at the speed of playing, (count, 2)."""
    if not program.half:
        return _cut(program.samples, start, count)
    first = start // 2
    n = (start + count + 1) // 2 - first
    wide = _cut(program.samples, first - 7, n + 15)
    out = np.empty((2 * n, 2), np.float32)
    out[0::2] = wide[7 : 7 + n]
    for c in (0, 1):
        out[1::2, c] = np.convolve(wide[:, c], _HALFWAY, "valid")[:n]
    return out[start - 2 * first : start - 2 * first + count]


def _cut(samples: Kept | Duet, start: int, count: int) -> Singles:
    """(count, 2) frames; zeros outside."""
    return samples.read(start, count) if isinstance(samples, Duet) else varispeed.frames(samples, start, count)


def _strokes(program: Program, start: int, count: int) -> Singles:
    """The reference beat, (count,): every stroke begins on the frame of its instant and rings on over a seam."""
    assert program.grid is not None
    out = np.zeros(count, np.float32)
    rate = program.rate
    reach = int(reference_beat.LONGEST * rate) + 1
    for at, source, n in _pieces(program, start - reach, count + reach):
        struck = reference_beat.strokes(
            program.grid,
            program.beat,
            (source - 1) / program.pace,
            (source + n + 1) / program.pace,
            halves=program.halves,
        )
        for s in struck:
            frame = program.frame_at(s.time)
            if not (source <= frame < source + n and 0 <= s.time < program.duration):
                continue
            sound = reference_beat.sound(s.sound, rate)
            begin = at + frame - source
            a, b = max(start, begin), min(start + count, begin + len(sound))
            if b > a:
                strength = s.level * reference_beat.gain(program.beat, _loudness_at(program, s.time))
                out[a - start : b - start] += np.float32(min(0.95, strength)) * sound[a - begin : b - begin]
    return out


def _loudness_at(program: Program, time: float) -> float:
    """Loudness of the track around `time` s, LUFS."""
    if not len(program.loudness):
        return reference_beat.UNKNOWN
    x = time / STEP - 0.5
    return float(np.interp(x, np.arange(len(program.loudness)), program.loudness))


@attrs.frozen(eq=False)
class _Turn:
    """From `at` frames handed out on, `program` is heard from its (unrolled) frame `start`."""

    at: int
    program: Program
    start: int


@attrs.frozen
class Jump:
    """Where to go on: at `to` s, or `by` beats from wherever the sound is then, on the same place of the beat."""

    to: float | None = None
    by: float = 0.0

    def then(self, after: Jump) -> Jump:
        """This jump and another after it, as one."""
        return after if after.to is not None else Jump(self.to, self.by + after.by)


class Reel:
    """What an output pulls from. One thread reads; `change` may come from another."""

    def __init__(self, program: Program, start: float) -> None:
        self.turns = [_Turn(0, program, program.frame_at(start))]
        self.handed_out = 0
        self._next: tuple[Program, Jump] | None = None

    @property
    def program(self) -> Program:
        """What is handed out, or will be from the next block on."""
        return self._next[0] if self._next is not None else self.turns[-1].program

    def change(self, program: Program, jump: Jump = Jump()) -> None:
        """Go on with another program, or elsewhere, from the next block on."""
        if self._next is not None:
            # a jump that has not happened yet still will
            jump = self._next[1].then(jump)
        self._next = (program, jump)

    def read(self, count: int) -> Singles:
        """The next `count` frames, (count, 2)."""
        out = self._block(self.turns[-1], count) if self._next is not None else None
        self.skip(0)
        new = self._block(self.turns[-1], count)
        if out is not None:
            fade = min(count, int(SEAM_S * self.turns[-1].program.rate))
            x = (np.arange(1, fade + 1) / (fade + 1) * (np.pi / 2))[:, None]
            new[:fade] = out[:fade] * np.cos(x).astype(np.float32) ** 2 + new[:fade] * np.sin(x).astype(np.float32) ** 2
        self.handed_out += count
        return new

    def skip(self, count: int) -> None:
        """Hand out `count` frames that nobody hears."""
        if self._next is not None:
            (program, jump), self._next = self._next, None
            here = self.place(self.handed_out) if jump.to is None else jump.to
            turn = self.turns[-1]
            if turn.program.skipped(turn.start + self.handed_out - turn.at) or program.skipped(program.frame_at(here)):
                # it has been heard, or is gone by: it must not come again
                program = attrs.evolve(program, skip=None)
            if jump.by and program.grid is not None:
                here = float(program.grid.time_at(program.grid.beat_at(here) + jump.by))
            here = float(np.clip(here, 0.0, program.duration))
            self.turns = [*self.turns[-30:], _Turn(self.handed_out, program, program.frame_at(here))]
        self.handed_out += count

    def _block(self, turn: _Turn, count: int) -> Singles:
        return render(turn.program, turn.start + self.handed_out - turn.at, count)

    def place(self, heard: float) -> float:
        """The place in the recording, s, that is heard when `heard` frames of what was handed out have sounded."""
        turn = next((t for t in reversed(self.turns) if t.at <= heard), self.turns[0])
        return turn.program.folded(turn.start + heard - turn.at) / turn.program.pace

    @property
    def ended(self) -> bool:
        """Whether all of the recording has been handed out."""
        return self.place(self.handed_out) >= self.turns[-1].program.duration
