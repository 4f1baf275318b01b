"""Findings about the recording itself, whatever its grid: changes of tempo, gaps, a turntable, its beginning and state.

What counts as odd is common practice (no source) unless a function names one.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from ..edits import count_edits, part_edits
from ..edits.listening_edits import counts_alike
from ..figures import share
from ..fitting.timekeeping import RAMPING, STEADY, STEPPED, TURNTABLE, UNCLEAR
from ..hearing.beat_tracking import stretches
from ..model.hints import TAP
from ..sound.damage import AFTER, told
from .study import AS_LIKELY, DOUBT, NOTE, ODD, Finding, Fix, Study, asked

_MANY = 4
_SHOWN_STEP = 0.004
_SKIP = 0.025
_PAUSE = 3
_RUNS_ON = 0.15
_QUIET_DB = -30.0
_BARE, _FAIR = 0.3, 0.75
_SOFT = 0.45
_SAME_TEMPO = 0.0016


def changes(c: Study) -> Iterator[Finding]:
    """Steps, ramps, and beats that come early or late after an edit."""
    if c.study.kind not in (STEPPED, RAMPING, STEADY, UNCLEAR):
        return
    yield from _ends(c)
    said = 0
    for a, b in itertools.pairwise(c.study.runs):
        before, after = 60 / a.period, 60 / b.period
        start, stop = float(c.heard.times[a.last]), float(c.heard.times[b.first])
        change = abs(after / before - 1)
        if change >= _SHOWN_STEP and min(a.last - a.first, b.last - b.first) >= 12:
            said += 1
            if said > _MANY:
                continue
            if b.first - a.last >= 4 and c.study.kind == RAMPING:
                text = f"Ramps from {before:.2f} to {after:.2f} BPM between bars {c.bar(start)} and {c.bar(stop)}."
            else:
                # where the lines of both tempi meet
                meet = (b.origin - a.origin) / (a.period - b.period)
                if a.last - 2 <= meet <= b.first + 2:
                    start = stop = float(a.at(np.array([round(meet)]))[0])
                text = f"Steps from {before:.2f} to {after:.2f} BPM at bar {c.bar(stop)}."
            yield Finding("ramp" if text.startswith("Ramps") else "step", text, ODD, start, stop)
        elif change < _SAME_TEMPO and min(a.last - a.first, b.last - b.first) >= 16:
            beats = c.heard.numbers[b.first] - c.heard.numbers[a.last]
            jump = stop - start - float(beats) * (a.period + b.period) / 2
            if _SKIP < abs(jump) < 0.5 * a.period:
                yield Finding(
                    "skip",
                    f"Beats come {abs(jump) * 1000:.0f} ms {'late' if jump > 0 else 'early'} from bar {c.bar(stop)} "
                    "on: an edit or a skipping groove.",
                    ODD,
                    start,
                    stop,
                )
    if said > _MANY:
        yield Finding("steps", f"{said - _MANY} more changes of tempo follow.", ODD)


def _ends(c: Study) -> Iterator[Finding]:
    """A steady recording that slows down (or speeds up) to its end."""
    e, n = c.study.steady, len(c.heard.times)
    tail = [a for a, b in stretches(~c.study.inside, 2) if b == n]
    if c.study.kind != RAMPING or e is None or not tail or n - tail[0] > 32 or tail[0] < 2:
        return
    way = "Slows down" if c.heard.times[-1] - c.heard.times[-2] > e.period else "Speeds up"
    t = float(c.heard.times[tail[0] - 1])
    yield Finding(
        "ending",
        f"{way} over its last {n - tail[0]} beats, from bar {c.bar(t)} on.",
        ODD,
        t,
        float(c.heard.times[-1]),
    )


def gaps(c: Study) -> Iterator[Finding]:
    """Pauses, and counts that slip by a beat."""
    h = c.heard
    step = np.diff(h.numbers)
    for i in np.flatnonzero(step >= _PAUSE)[:_MANY].tolist():
        a, b = float(h.times[i]), float(h.times[i + 1])
        yield Finding("pause", f"No beat for {b - a:.1f} s from bar {c.bar(a)}.", ODD, a, b, _pause_fix(c, i))
    odd = [m for m in h.meter if m.beats_per_bar != h.metre]
    for m in odd[:_MANY]:
        t, end = (float(x) for x in np.interp([m.beat, m.beat + m.beats_per_bar], h.numbers, h.times))
        yield Finding(
            "slip",
            f"A bar of {m.beats_per_bar} beat{'s' if m.beats_per_bar > 1 else ''} at bar {c.bar(t)}: the count slips "
            "(an edit, a skipping groove, or meant so).",
            ODD,
            t,
            end,
            _count_fix(c, end),
        )
    if len(odd) > _MANY:
        yield Finding("slips", f"{len(odd) - _MANY} more odd bars follow.", ODD)


def _pause_fix(c: Study, i: int) -> Fix | None:
    """Take the beats out of a gap after heard beat `i`, where the count doesn't run on through it."""
    t = c.heard.times
    period = float(np.median(np.diff(t[max(0, i - 8) : i + 1]))) if i else float(np.median(np.diff(t)))
    beats = float(t[i + 1] - t[i]) / period
    if abs(beats - round(beats)) < _RUNS_ON:
        return None
    return c.fix("Make it a pause", part_edits.pause, float(t[i]), float(t[i + 1]))


def _count_fix(c: Study, time: float) -> Fix | None:
    """Begin the count anew after an odd bar; where the grid does so already, count through it."""
    if c.p.grid is None or not counts_alike(c.p.grid, c.heard):
        return None
    beat = round(float(c.p.grid.beat_at(time)))
    if any(m.beat == beat for m in c.p.grid.meter[1:]):
        return c.fix("Count through it", count_edits.count_through, time)
    return c.fix("Begin the count anew after it", count_edits.restart, time)


def turntable(c: Study) -> Iterator[Finding]:
    """Speed, sway and lead-in of a record (IEC 60386 calls the sway wow)."""
    if c.study.kind != TURNTABLE:
        return
    tempo = 60 * (len(c.heard.times) - 1) / float(c.heard.times[-1] - c.heard.times[0])
    e = c.study.steady
    tempo = e.tempo if e is not None and c.study.inside.mean() > 0.5 else tempo
    whole = round(tempo)
    off = tempo / whole - 1
    if c.evidence.sway is not None:
        w = c.evidence.sway
        late = w.depth / (2 * np.pi * w.rate) * 1000
        yield Finding(
            "wow",
            f"A {w.record} rpm record: it sways by {100 * w.depth:.2f} % at {w.rate:.3f} Hz, once a turn, "
            f"which moves beats by {late:.1f} ms.",
        )
    if abs(off) > 5e-4:
        other = whole + (1 if off > 0 else -1)
        sides = (
            f"{100 * abs(tempo / w - 1):.2f} % {'fast' if tempo > w else 'slow'} against {w}" for w in (whole, other)
        )
        yield Finding("speed", f"Runs at {tempo:.2f} BPM: {', '.join(sides)}.")
    if c.evidence.condition.lead_in is not None:
        t = c.evidence.condition.lead_in
        yield Finding("lead-in", f"The lead-in groove ends at {t:.1f} s.", NOTE, t)


def loop(c: Study) -> Iterator[Finding]:
    """A file cut to run round."""
    found = c.evidence.loop
    if found is None:
        return
    size = "half a bar" if found.bars == 0.5 else "1 bar" if found.bars == 1 else f"{found.bars:g} bars"
    yield Finding(
        "loop",
        f"A loop of {size}, cut to run round: its length gives {found.tempo:.3f} BPM, and bar 1 is its first hit.",
    )


def start(c: Study) -> Iterator[Finding]:
    """A quiet first hit, and sound before the first downbeat that isn't whole bars."""
    h = c.heard
    if len(h.times) < 16:
        return
    at = np.clip((h.times[:16] * 1000).astype(int), 3, len(c.evidence.attack) - 4)
    strength = np.array([c.evidence.attack[i - 3 : i + 4].max() for i in at]).astype(float)
    usual = float(np.median(strength[1:]))
    if strength[0] < _SOFT * strength[1] and strength[0] < _SOFT * usual and h.confidence[0] > 0.3:
        yield Finding(
            "quiet first",
            f"The first hit ({h.times[0]:.2f} s) is quiet beside the second ({h.times[1]:.2f} s): "
            "check which one counts.",
            ODD,
            float(h.times[0]),
            float(h.times[1]),
        )
    downs = h.downbeats
    sounds = c.evidence.condition.lead_in or (float(c.evidence.onset_times[0]) if len(c.evidence.onset_times) else 0.0)
    if not len(downs):
        return
    period = float(np.median(np.diff(h.times[:16])))
    before = (float(downs[0]) - min(sounds, float(h.times[0]))) / period
    size = h.meter[0].beats_per_bar
    rest = before % size
    if before > 0.4 and min(rest, size - rest) > 0.35:
        yield Finding(
            "pick-up",
            f"{before:.1f} beats sound before the first downbeat ({downs[0]:.2f} s): not a whole number of bars.",
            NOTE,
            0.0,
            float(downs[0]),
        )


def bar_1(c: Study) -> Iterator[Finding]:
    """Another bar line that may begin bar 1, as long as the grid begins where it was heard first."""
    time, chance = c.heard.elsewhere
    downs, grid = c.heard.downbeats, c.p.grid
    if chance < AS_LIKELY or grid is None or not len(downs):
        return
    heard_first, there = grid.bar_line_near(float(downs[0])), grid.bar_line_near(time)
    if heard_first != 0 or there == 0:
        return
    bars = round(float(grid.bar_index(there + 1e-3)[0]))
    where = f"{abs(bars)} bar{'s' if abs(bars) > 1 else ''} {'later' if bars > 0 else 'earlier'}"
    yield Finding(
        "bar 1",
        f"Perhaps bar 1 begins {where}, at {time:.2f} s: {share(chance)} likely.",
        asked(chance),
        time,
        fix=c.fix("Begin bar 1 there", count_edits.count_from, time),
    )


def needs_help(c: Study) -> bool:
    """Whether hardly anything is struck and the beats are in doubt, so that a person must borrow or tap."""
    return _is_bare(c) and not _tapped(c) and float(np.median(c.heard.confidence)) < _FAIR


def _is_bare(c: Study) -> bool:
    return c.drums is not None and float(c.drums.mean()) < _BARE


def _tapped(c: Study) -> bool:
    return any(h.kind == TAP for h in c.p.hints)


def sounds(c: Study) -> Iterator[Finding]:
    """Little percussion."""
    if c.drums is None:
        return
    if _is_bare(c):
        if _tapped(c):
            yield Finding("bare", "Hardly any percussion: the beats are those that were tapped or borrowed.", NOTE)
        else:
            yield Finding(
                "bare",
                "Hardly any percussion: borrow the grid of the full recording, or tap along.",
                DOUBT if needs_help(c) else ODD,
            )
        return
    bare = stretches(c.drums < 0.3, 32)
    for a, b in bare[:2]:
        t, u = float(c.heard.times[a]), float(c.heard.times[b - 1])
        yield Finding("section bare", f"No percussion from bar {c.bar(t)} to {c.bar(u)}.", NOTE, t, u)


def state(c: Study) -> Iterator[Finding]:
    """The state of the recording itself."""
    k = c.evidence.condition
    if k.clipped:
        yield Finding("clipped", f"Clipped: the wave is cut off flat {k.clipped} times.")
    if -120 < k.level < _QUIET_DB:
        yield Finding("quiet", f"Very quiet: {-k.level:.0f} dB below full scale on average.", ODD)
    if k.mono:
        yield Finding("mono", "Mono: both channels are alike.")
    for d in c.evidence.damage[:_MANY]:
        yield Finding("damage", told(d), NOTE if d.kind == AFTER else ODD, d.at, d.at + d.seconds)
    if len(c.evidence.damage) > _MANY:
        yield Finding("damage", f"{len(c.evidence.damage) - _MANY} more places of the file are damaged.", ODD)
    if not c.delay_known:
        yield Finding(
            "delay",
            "The file doesn't say how much its encoder delayed the sound: "
            "on other players everything may lie up to 25 ms beside this grid.",
        )
