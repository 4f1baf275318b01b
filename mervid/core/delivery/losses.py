"""What a track would lose on a player, and what is proposed against it, in sentences."""

from __future__ import annotations

import attrs
import numpy as np

from ..cues import player_profile
from ..model.beatgrid import Grid
from ..model.cue import Cue
from ..model.preparation import Preparation
from ..model.tolerance import Tolerance
from . import profile as profiles
from .profile import Profile

CONVERT, STRAIGHTEN, STANDBY, NONE = "convert", "straighten", "standby", ""
_NAMES = {
    "mp3": "MP3", "aac": "AAC", "alac": "ALAC", "flac": "FLAC", "wav": "WAV", "aiff": "AIFF", "ogg": "Ogg Vorbis",
    "opus": "Opus",
}  # fmt: skip
LOSSLESS = ("flac", "wav", "aiff", "alac")


@attrs.frozen
class Sound:
    """What a recording is as a file: codec (one of `profile.CODECS`), Hz, bits (0 for lossy), channels, bytes, s."""

    codec: str
    rate: int
    bits: int
    channels: int
    size: int
    seconds: float

    @property
    def lossless(self) -> bool:
        return self.codec in LOSSLESS


@attrs.frozen
class Goal:
    """What a recording becomes: its codec, Hz and bits; `copied` where it stays as it is, bit for bit."""

    codec: str
    rate: int
    bits: int
    copied: bool

    @property
    def ending(self) -> str:
        """Of its file."""
        return {"aac": ".m4a", "alac": ".m4a", "aiff": ".aiff"}.get(self.codec, f".{self.codec}")


@attrs.frozen
class Loss:
    """One thing that is lost or changed: a sentence, and what is proposed against it (`NONE` where nothing is)."""

    text: str
    proposal: str = NONE


def goal(sound: Sound, p: Profile) -> Goal:
    """What is to be written of a recording: itself where the player can read it."""
    lossy = p.lossy if p.lossy and sound.lossless else ""
    plays = sound.codec in p.formats and sound.rate in p.rates and sound.bits <= p.bits and sound.channels <= 2
    too_large = bool(p.largest_file) and sound.size > p.largest_file
    if plays and not lossy and not too_large:
        return Goal(sound.codec, sound.rate, sound.bits, True)
    codec = lossy or (p.lossless if p.lossless in p.formats else p.lossy)
    bits = min(p.bits, sound.bits or 16)
    return Goal(codec, _rate(sound.rate, p.rates), 0 if codec in profiles.LOSSY else bits, False)


def straight_goal(sound: Sound, p: Profile) -> Goal:
    """What a straightened recording becomes: lossless, whatever it was."""
    codec = p.lossless if p.lossless in p.formats else next((f for f in profiles.LOSSLESS if f in p.formats), "wav")
    return Goal(codec, _rate(sound.rate, p.rates), min(p.bits, sound.bits or 16), False)


def _rate(rate: int, rates: tuple[int, ...]) -> int:
    """The rate of a player that loses least: the same, else a whole part, else the next one up, else the highest."""
    if rate in rates:
        return rate
    parts = [r for r in rates if rate % r == 0]
    if parts:
        return max(parts)
    above = [r for r in rates if r > rate]
    return min(above) if above else max(rates)


def steady_error(grid: Grid, duration: float) -> float:
    """How far the best single tempo lies from a grid at worst, ms."""
    beats = np.arange(np.ceil(float(grid.beat_at(0.0))), np.floor(float(grid.beat_at(duration))) + 1)
    if len(beats) < 2:
        return 0.0
    times = np.asarray(grid.time_at(beats))
    slope, first = np.polyfit(beats, times, 1)
    return float(np.abs(times - first - slope * beats).max() * 1000)


def losses(sound: Sound, preparation: Preparation, p: Profile) -> tuple[Loss, ...]:
    """What there is to say of a track on a player, what matters most first."""
    out: list[Loss] = []
    out += _of_sound(sound, p)
    out += _of_grid(preparation, sound.seconds, p)
    out += _of_cues(preparation, p)
    return tuple(out)


def _of_sound(sound: Sound, p: Profile) -> list[Loss]:
    g = goal(sound, p)
    if g.copied:
        return []
    into = _NAMES[g.codec]
    why = []
    if sound.codec not in p.formats:
        why.append(f"{_NAMES.get(sound.codec, sound.codec)} isn't played")
    elif p.lossy and sound.lossless:
        why.append("it takes up less room so")
    if sound.rate not in p.rates:
        why.append(f"{sound.rate / 1000:g} kHz isn't")
    if sound.bits > p.bits:
        why.append(f"{sound.bits} bits are too many")
    if sound.channels > 2:
        why.append(f"of {sound.channels} channels two are kept")
    if p.largest_file and sound.size > p.largest_file:
        why.append("the file is too large")
    if g.codec in profiles.LOSSY:
        how = f"{into} at {p.kbps} kbit/s, which loses some of the sound"
    elif g.rate < sound.rate or (sound.bits and g.bits < sound.bits):
        how = f"{into}, {g.bits} bits, {g.rate / 1000:g} kHz, which loses what is finer"
    else:
        how = f"{into}, nothing is lost"
    reason = "; ".join(why) or "it isn't played as it is"
    return [Loss(f"{reason[0].upper()}{reason[1:]}: {how}.", CONVERT)]


def _of_grid(preparation: Preparation, seconds: float, p: Profile) -> list[Loss]:
    grid = preparation.grid
    if grid is None:
        return [Loss("It has no grid: this player would sync it to nothing.")]
    if p.variable_grids:
        return []
    worst = steady_error(grid, seconds)
    if worst <= Tolerance().loose:
        return []
    return [Loss(f"One tempo is up to {worst:.0f} ms off: straighten it.", STRAIGHTEN)]


def _of_cues(preparation: Preparation, p: Profile) -> list[Loss]:
    out = []
    arrival = player_profile.arrive(preparation, p.gear)
    if arrival.lost:
        names = ", ".join(c.name for c in arrival.lost[:4]) + (" …" if len(arrival.lost) > 4 else "")
        told = f"It has {p.hot_cues or 'no'} hot cues: {names} would be lost"
        out.append(Loss(f"{told}; kept as standby cues, too.", STANDBY) if p.standby_cues else Loss(f"{told}."))
    standing = sum(c.is_standby for c in preparation.cues)
    if standing > p.standby_cues:
        out.append(
            Loss(f"It has {p.standby_cues or 'no'} standby cues, and {standing} are kept: the last ones are lost.")
        )
    if not preparation.cues:
        out.append(Loss("No cues: it starts at its beginning."))
    return out


def arriving(preparation: Preparation, p: Profile, *, standby: bool) -> tuple[Cue, ...]:
    """The cues as they go to a player: what has no slot there is a standby cue, where that is wanted."""
    arrival = player_profile.arrive(preparation, p.gear)
    lost = {c.id for c in arrival.lost}
    out: list[Cue] = []
    room = p.standby_cues
    for c in preparation.cues:
        there = c.slot is not None and c.is_hot and c.slot < p.hot_cues
        stands = c.is_standby or (standby and c.id in lost)
        if stands and room > 0:
            room -= 1
            out.append(attrs.evolve(c, kind="both" if there else "standby", slot=c.slot if there else None))
        elif there:
            out.append(attrs.evolve(c, kind="hot"))
    return tuple(out)
