"""Where two tracks could meet: the best places first, each with its reasons in words.

Every pair of likely places is judged by what makes a mix hold (common practice, no source, but for the first): both
grids are sure there; phrases begin together, and go on doing so; no voice sings over a voice; the drop of the coming
track lands where the overlap ends; the overlap lies in the mix zones, late in the one and early in the other.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..errors import Refused
from ..figures import faster, sentence
from ..fitting.sureness import Sureness
from . import places
from .clock import EDGE_S
from .forecast import Forecast, sureness, together_of
from .harmony import key_words, stretch_of
from .meeting import LENGTHS, MOST_STRETCH, USUAL_BARS, Meeting, nearest_level
from .side import Side
from .tear import forgiven_ms

MOST = 6
_SAME = 0.1
_RING = 1.5
"""Beats before the first and after the last one that is heard that still belong to the music."""
_EVERY = 4
"""Bars apart at which places are looked at where no phrase begins."""
_SAFE, _NEAR, _PHRASES, _ALONG, _VOICES, _DROP, _ZONES, _CUE = 6.0, 0.12, 1.0, 0.8, 1.2, 0.6, 0.5, 0.5
_LATE, _EARLY, _LONG = 1.5, 2.0, 0.5
"""Weights of what is judged: our own, so that what parts is never proposed for the sake of what is neat."""
_LOOKED_INTO, _PLACES = 30, 48
_ALL = 0.99
_SUNG = 0.35
"""Share of a bar that must be sung for it to count as sung."""


@attrs.frozen
class Proposal:
    """A meeting, how good it is (only for comparing), what is expected of it, and why in words."""

    meeting: Meeting
    score: float
    expected: Forecast
    reasons: tuple[str, ...]

    @property
    def words(self) -> str:
        """The reasons as one sentence."""
        return sentence("; ".join(self.reasons))


def level_of(leaving: Side, coming: Side) -> float:
    """How many beats of the coming track go to one of the leaving track: where their tempi lie nearest."""
    return nearest_level(coming.grid.tempo_overall() / leaving.grid.tempo_overall())


@attrs.frozen(eq=False)
class _Places:
    """Places of one track: beats, whether a phrase begins there, whether a cue lies there."""

    beats: Floats
    phrase: Floats
    cue: Floats


def _places(side: Side, fixed: float | None, *, leaves: bool) -> _Places:
    grid = side.grid
    starts = np.array([q.start for q in side.phrases])
    cues = np.array([side.beat_of(c) for c in side.preparation.cues if not c.role.startswith("loop")])
    if fixed is not None:
        beats = np.array([fixed])
    else:
        index, _ = grid.bars(0.0, side.duration)
        bars = grid.bar_start(index[index % _EVERY == 0])
        beats = np.unique(np.concatenate([starts, cues, bars]))
        # bars of silence before the music are no place to meet
        beats = beats[beats > side.music[0] - _RING]
        if len(beats) > _PLACES:
            # two hours have thousands: those where something begins, and of them the ones at the end that is mixed
            marked = beats[(_near(beats, starts) + _near(beats, cues)) > 0]
            beats = marked if len(marked) >= _PLACES // 2 else beats
            beats = beats[-_PLACES:] if leaves else beats[:_PLACES]
    return _Places(beats, _near(beats, starts), _near(beats, cues))


def _near(beats: Floats, those: Floats) -> Floats:
    if not len(those) or not len(beats):
        return np.zeros(len(beats))
    return np.asarray((np.abs(beats[:, None] - those).min(axis=1) < _SAME).astype(float))


def propose(
    leaving: Side,
    coming: Side,
    *,
    bars: int | None = None,
    at: float | None = None,
    enter: float | None = None,
    hold_pitch: bool = True,
    most: int = MOST,
) -> list[Proposal]:
    """Meetings of two tracks, the best first.

    Parameters
    ----------
    bars : length of the overlap; None for what fits, up to 32
    at, enter : beats of the leaving and the coming track, where they are settled already
    hold_pitch : pitch stays when speed changes, so that keys stay as they are

    Raises
    ------
    Refused
        A track has no grid, or no overlap of that length fits.
    """
    level = level_of(leaving, coming)
    lengths = [bars] if bars else [n for n in reversed(LENGTHS) if n <= USUAL_BARS]
    found: list[_Seen] = []
    for n in lengths:
        shorter = bool(found)
        found += _of_length(leaving, coming, Meeting(0.0, 0.0, n, level=level, hold_pitch=hold_pitch), (at, enter))
        # half of the longest that fits is worth a look where that isn't safe; still shorter ones are no mix
        if shorter or any(f.rough.expected.is_safe for f in found):
            break
    if not found:
        raise Refused(_why_none(leaving, coming, bars or LENGTHS[0], level, at, enter))
    best = _varied(sorted(found, key=lambda f: -f.score), most)
    return [Proposal(f.meeting, f.score, f.rough.expected, tuple(_reasons(leaving, coming, f))) for f in best]


def _why_none(leaving: Side, coming: Side, bars: int, level: float, at: float | None, enter: float | None) -> str:
    for side, place, each in ((leaving, at, 1.0), (coming, enter, level)):
        beats = bars * side.grid.beats_per_bar(0.0) * each
        start = side.grid.beat_at(0.0) if place is None else place
        left = float(side.grid.beat_at(side.duration)) - float(start)
        if left < beats:
            where = "is" if place is None else f"has from {places.name(side, place)} on"
            room = int(left / each / side.grid.beats_per_bar(0.0))
            have = f"{side.title} {where} {max(0, room)} bars"
            return f"{have}{' long' if place is None else ''}: too short for an overlap of {bars}."
    return f"No place was found where {leaving.title} and {coming.title} could meet for {bars} bars."


def _of_length(leaving: Side, coming: Side, like: Meeting, fixed: tuple[float | None, float | None]) -> list[_Seen]:
    """Meetings `like` this one, at other places."""
    bars, level = like.bars, like.level
    a, b = _places(leaving, fixed[0], leaves=True), _places(coming, fixed[1], leaves=False)
    first = leaving.grid.bar_index(a.beats + 1e-6)[0]
    ends = leaving.grid.bar_start(first + bars) - leaving.grid.bar_start(first) + a.beats
    fits = _fits(leaving, ends, fixed[0])
    mine = [(i, float(a.beats[i]), float(ends[i] - a.beats[i])) for i in np.flatnonzero(fits)]
    rough = []
    for i, at, n in mine:
        leaves = _Stay.of(leaving, at, n, a.phrase[i], a.cue[i])
        for k in np.flatnonzero(_fits(coming, b.beats + n * level, fixed[1])).tolist():
            comes = _Stay.of(coming, float(b.beats[k]), n * level, b.phrase[k], b.cue[k])
            rough.append(_Rough.of(leaves, comes, bars))
    # what is dear to work out is asked of the best only
    best = sorted(rough, key=lambda r: -r.score)[:_LOOKED_INTO]
    return [_Seen.of(leaving, coming, r, like) for r in best]


def _fits(side: Side, ends: Floats, fixed: float | None) -> Bools:
    """Whether overlaps that end on these beats end within the music; a place that was asked for, within the file."""
    inside = np.asarray(side.grid.time_at(ends) <= side.duration + EDGE_S)
    # the last beat that is heard lasts a beat
    return inside if fixed is not None else np.asarray(inside & (ends < side.music[1] + 1 + _RING))


@attrs.frozen
class _Stay:
    """A stretch of one of the two tracks, of so many of its beats.

    Attributes
    ----------
    at, beats : its first beat, and how many there are
    seconds : how long it lasts
    into : share of the track that lies before it
    sure : how far its grid may be believed
    zone : share of it that lies in mix zones
    phrase, cue : whether one begins with it, 0 or 1
    """

    at: float
    beats: float
    seconds: float
    into: float
    sure: Sureness
    zone: float
    phrase: float
    cue: float

    @classmethod
    def of(cls, side: Side, at: float, beats: float, phrase: float, cue: float) -> _Stay:
        def worked_out() -> _Stay:
            start, stop = (float(t) for t in side.grid.time_at([at, at + beats]))
            sure, zone = sureness(side, at, at + beats), _inside(side, start, stop)
            return cls(at, beats, stop - start, max(0.0, start) / side.duration, sure, zone, phrase, cue)

        return side.once((cls, at, beats, phrase, cue), worked_out)


@attrs.frozen
class _Rough:
    """A meeting by what is known at once."""

    leaves: _Stay
    comes: _Stay
    bars: int
    score: float
    expected: Forecast

    @classmethod
    def of(cls, leaves: _Stay, comes: _Stay, bars: int) -> _Rough:
        expected = together_of(leaves.sure, comes.sure, forgiven_ms(leaves.seconds, leaves.beats))
        score = (
            _SAFE * expected.safe
            - _NEAR * min(expected.p95, 40.0)
            + _PHRASES * (leaves.phrase + comes.phrase) / 2
            + _ZONES * (leaves.zone + comes.zone) / 2
            # the first half of a track isn't left where there is another way; who comes begins near its beginning
            + _LATE * min(1.0, 2 * leaves.into)
            + _EARLY * (1 - comes.into)
            + _CUE * (leaves.cue + comes.cue) / 2
            + _LONG * math.log2(bars / USUAL_BARS)
        )
        return cls(leaves, comes, bars, score, expected)

    @property
    def phrases(self) -> bool:
        return bool(self.leaves.phrase and self.comes.phrase)

    @property
    def zones(self) -> bool:
        return self.leaves.zone > _ALL and self.comes.zone > _ALL


@attrs.frozen
class _Seen:
    """A meeting by all that is judged.

    Attributes
    ----------
    along : share of the phrase boundaries inside the overlap that fall together
    clash : share of its bars in which both sing; None where it isn't known of one
    lands : whether the drop of the coming track falls where the overlap ends
    """

    rough: _Rough
    meeting: Meeting
    score: float
    along: float
    clash: float | None
    lands: bool

    @classmethod
    def of(cls, leaving: Side, coming: Side, r: _Rough, like: Meeting) -> _Seen:
        m, n = attrs.evolve(like, at=r.leaves.at, enter=r.comes.at), r.leaves.beats
        along, clash, lands = _coincide(leaving, coming, m, n), voices(leaving, coming, m, n), drop_lands(coming, m, n)
        return cls(r, m, r.score + _ALONG * along - _VOICES * (clash or 0.0) + _DROP * lands, along, clash, lands)


def _coincide(leaving: Side, coming: Side, m: Meeting, n: float) -> float:
    """Share of the phrase boundaries inside the overlap that fall together."""
    mine = np.array([q.start - m.at for q in leaving.phrases])
    theirs = np.array([(q.start - m.enter) / m.level for q in coming.phrases])
    mine, theirs = (x[(x > _SAME) & (x < n + _SAME)] for x in (mine, theirs))
    if not len(mine) or not len(theirs):
        return 0.5
    away = np.abs(mine[:, None] - theirs)
    return float((np.sum(away.min(axis=1) < 0.5) + np.sum(away.min(axis=0) < 0.5)) / (len(mine) + len(theirs)))


def voices(leaving: Side, coming: Side, m: Meeting, n: float) -> float | None:
    """Share of the overlap, in bars, in which both sing; None where it isn't known of one."""
    size = leaving.grid.beats_per_bar(m.at)
    bars = int((n + 0.5) // size)
    a, b = _sung(leaving, m.at, size, bars), _sung(coming, m.enter, size * m.level, bars)
    if a is None or b is None:
        return None
    return float(np.mean(a & b))


def _sung(side: Side, at: float, size: float, bars: int) -> Bools | None:
    """Whether each of so many bars of `size` beats is sung, (bars,), from a beat on; None where that isn't known."""

    def worked_out() -> Bools | None:
        share = side.voice(side.grid.time_at(at + size * np.arange(bars + 1)))
        return None if share is None else share > _SUNG

    return side.once((_sung, at, size, bars), worked_out)


def drop_lands(coming: Side, m: Meeting, n: float) -> bool:
    """Whether the drop of the coming track falls where the overlap ends."""
    return any(abs((d - m.enter) / m.level - n) < 0.5 for d in drops(coming))


def drops(side: Side) -> list[float]:
    """Beats on which a drop falls: cues and phrases called so."""
    cues = [side.beat_of(c) for c in side.preparation.cues if c.role == "drop"]
    return sorted({*cues, *(q.start for q in side.phrases if q.role == "drop")})


def _inside(side: Side, start: float, stop: float) -> float:
    """Share of a stretch that lies in mix zones."""
    inside = sum(max(0.0, min(b, stop) - max(a, start)) for a, b in side.preparation.mix_zones)
    return min(1.0, inside / max(stop - start, 1e-9))


def _reasons(leaving: Side, coming: Side, f: _Seen) -> Iterable[str]:
    m, n, expected, clash = f.meeting, f.rough.leaves.beats, f.rough.expected, f.clash
    if expected.is_safe:
        yield f"beats stay within {expected.p95:.0f} ms"
    elif expected.is_probable:
        yield f"beats probably stay within {expected.p95:.0f} ms"
    else:
        yield "whether the beats stay together isn't sure"
    if f.rough.phrases:
        yield "phrases begin together" + (" all the way" if f.along == 1.0 else "")
    if f.lands:
        yield "the drop lands where the overlap ends"
    if clash is not None:
        yield "no voice over a voice" if clash == 0 else f"both sing in {round(clash * m.bars)} of {m.bars} bars"
    if words := key_words(leaving, coming, m, n):
        yield words
    if leaving.drive is not None and coming.drive is not None and abs(coming.drive - leaving.drive) >= 1:
        goes = "rises" if coming.drive > leaving.drive else "falls"
        yield f"drive {goes} from {leaving.drive:.0f} to {coming.drive:.0f}"
    if f.rough.zones:
        yield "inside both mix zones"
    stretch = stretch_of(leaving, coming, m, n)
    if abs(stretch) > MOST_STRETCH:
        yield f"{coming.title} must run {faster(stretch)}, which will be heard"
    if m.level != 1:
        yield f"counted at {'half' if m.level < 1 else 'double'}"


def _varied(found: list[_Seen], most: int) -> list[_Seen]:
    """The best ones that are not nearly the same."""
    out: list[_Seen] = []
    for f in found:
        if all(abs(f.meeting.at - g.meeting.at) + abs(f.meeting.enter - g.meeting.enter) > 15.5 for g in out):
            out.append(f)
        if len(out) == most:
            break
    return out


def land_the_drop(leaving: Side, coming: Side, change: float, bars: int, *, drop: float | None = None) -> Meeting:
    """Where the coming track must begin so that its drop falls on a change of the leaving one.

    Parameters
    ----------
    change : beat of the leaving track on which the drop is to fall
    bars : how many bars of the leaving track are left until then
    drop : beat of the coming track that is to land; its first drop by default

    Raises
    ------
    Refused
        The coming track has no drop, or less of the leaving track is there.
    """
    known = drops(coming)
    if drop is None and not known:
        raise Refused(f"{coming.title} has no drop: set a cue of that role, or name the phrase.")
    goal = known[0] if drop is None else drop
    level = level_of(leaving, coming)
    index = int(leaving.grid.bar_index(change + 1e-6)[0])
    # where the coming track has fewer bars before its drop, it begins later
    first = float(np.ceil(float(coming.grid.beat_at(-EDGE_S))))
    size = leaving.grid.beats_per_bar(change - 1)
    room = int((goal - first) / level // size)
    n = min(bars, room)
    if n < 1:
        raise Refused(f"The drop of {coming.title} comes at once: there is no bar before it to mix over.")
    at = float(leaving.grid.bar_start(index - n))
    if float(leaving.grid.time_at(at)) < -EDGE_S:
        raise Refused(f"{leaving.title} has no {n} bars before that change.")
    enter = goal - (change - at) * level
    return Meeting(at, float(round(enter)) if level == 1 else enter, n, level=level)


def next_changes(leaving: Side, beat: float) -> list[float]:
    """Beats after `beat` on which the leaving track changes: where its phrases begin, and where the last one ends."""
    form = leaving.form
    if form is None:
        return []
    edges = [*(q.start for q in form.phrases), form.end]
    return [b for b in edges if b > beat + 0.5]
