"""Findings: what is odd about a recording, each one plain sentence with its figure, its place and, if any, its fix.

What counts as odd is common practice (no source) unless a function names one. A fix is the whole preparation as it
would be, so that it can be shown before it is taken.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import attrs
import numpy as np
from numpy.typing import NDArray

from . import drift, fitting, kinds, pointer, preparation
from .analysis import Evidence
from .drift import Summary, Trace
from .errors import Refused
from .fitting import Tolerance
from .grid import bar_name
from .guidance import LEVELS, heard_of, listen_again
from .guided import COUNT, Hint
from .kinds import RAMPING, STEADY, STEPPED, TURNTABLE, UNCLEAR, WANDERING, Study
from .opinions import Opinion
from .preparation import Preparation
from .ranges import TempoRange
from .tracker import Heard, stretches

Floats = NDArray[np.float64]

NOTE, ODD, DOUBT = "note", "odd", "doubt"
"""How much a finding asks for: nothing, a look, a decision."""

_AS_LIKELY = 0.15
_MANY = 4
_SHOWN_STEP = 0.004
_SKIP = 0.025
_PAUSE = 3
_QUIET_DB = -30.0
_BARE = 0.3
_SOFT = 0.45
_SAME_TEMPO = 0.0004
_UNSURE = 0.6
_LEAST_UNSURE = 4


@attrs.frozen
class Fix:
    """What one click would do: a name for the button, the edit's name, and the preparation afterwards."""

    label: str
    edit: str
    preparation: Preparation


@attrs.frozen
class Finding:
    """One sentence.

    Attributes
    ----------
    key : which kind of finding, for tests and figures
    text : the sentence
    weight : "doubt" asks for a decision, "odd" for a look, "note" for nothing
    start, stop : s, where to look; None for the whole track
    """

    key: str
    text: str
    weight: str = NOTE
    start: float | None = None
    stop: float | None = None
    fix: Fix | None = None


@attrs.frozen(eq=False)
class Case:
    """All that findings are drawn from."""

    p: Preparation
    evidence: Evidence
    heard: Heard
    study: Study
    opinions: tuple[Opinion, ...]
    duration: float
    delay_known: bool
    range: TempoRange | None
    trace: Trace | None
    summary: Summary | None
    followed: Preparation | None = None
    drums: Floats | None = None

    def bar(self, time: float) -> str:
        """The name of the bar at `time`, counted along the heard beats where there are any near."""
        h, grid = self.heard, self.p.grid
        i = int(np.abs(h.times - time).argmin())
        if grid is None:
            return bar_name(int(h.numbers[i]) // h.meter[0].beats_per_bar)
        beat = float(grid.beat_at(time))
        level = float(np.median(np.diff(grid.beat_at(h.times))))
        if abs(h.times[i] - time) < 1.0 and 0.8 < level < 1.25:
            # a grid that drifts may be more than a beat away from the count that is heard
            beat = float(h.numbers[i] + np.round(np.median(grid.beat_at(h.times) - h.numbers)))
        return bar_name(int(grid.bar_index(beat + 1e-3)[0]))


def case(
    p: Preparation,
    evidence: Evidence,
    opinions: tuple[Opinion, ...],
    *,
    duration: float,
    delay_known: bool = True,
    wanted: TempoRange | None = None,
    followed: Preparation | None = None,
) -> Case:
    """Study a track as it is prepared now.

    Parameters
    ----------
    wanted : the tempo range that holds for this track, if any
    followed : what following the recording gives, where it is known already
    """
    heard = heard_of(evidence, p)
    ear = evidence.strengths
    drums = pointer.peaks(ear.drums, heard.times) if ear is not None and len(heard.times) else None
    studied = kinds.study(
        heard, evidence.attack_strength(), drums=drums, sway=evidence.sway, condition=evidence.condition
    )
    trace = preparation.trace_of(p, heard)
    return Case(
        p,
        evidence,
        heard,
        studied,
        opinions,
        duration,
        delay_known,
        wanted,
        trace,
        drift.summary(trace) if trace is not None else None,
        followed,
        drums,
    )


def findings(c: Case) -> tuple[Finding, ...]:
    """All findings: those that ask for a decision first, then in the order of the questions a DJ asks."""
    if len(c.heard.times) < fitting.LEAST_BEATS:
        return (*_nothing(c), *_state(c))
    every = [
        f
        for part in (
            _level,
            _phase,
            _unsure,
            _origin,
            _tempo,
            _kept,
            _changes,
            _gaps,
            _turntable,
            _start,
            _sounds,
            _state,
        )
        for f in part(c)
    ]
    order = {DOUBT: 0, ODD: 1, NOTE: 2}
    return tuple(sorted(every, key=lambda f: order[f.weight]))


def _nothing(c: Case) -> Iterator[Finding]:
    yield Finding(
        "nothing", "No beats could be heard. Type the tempo, then slide the grid until its clicks sit right.", DOUBT
    )


def _fix(label: str, c: Case, edit: preparation.Edit[...], *args: object) -> Fix | None:
    """The fix by an edit; None where it is refused or would change nothing."""
    try:
        after = edit(attrs.evolve(c.p, readiness=preparation.DRAFT), *args)
    except Refused:
        return None
    after = attrs.evolve(after, readiness=c.p.readiness)
    return None if after == c.p else Fix(label, preparation.name_of(edit), after)


def _span(ms: float) -> str:
    """'12 ms', or '2.4 s' from a second on."""
    return f"{abs(ms):.0f} ms" if abs(ms) < 1000 else f"{abs(ms) / 1000:.1f} s"


def _percent(x: float) -> str:
    return f"{round(100 * x)} %"


def _level(c: Case) -> Iterator[Finding]:
    """Counted at half, double, 3/2 or 2/3 of what it probably is, or between the beats."""
    tempo = 60 / float(np.median(np.diff(c.heard.times)))
    ways = [(o, o.hints[0]) for o in c.opinions if o.about == "level" and o.hints]
    if c.range is not None and not c.range.holds(tempo):
        for ratio in LEVELS:
            if c.range.holds(tempo * ratio):
                label = f"Count at {tempo * ratio:.1f}"
                fix = _fix(label, c, listen_again, c.evidence, (Hint(COUNT, value=ratio),))
                yield Finding(
                    "range",
                    f"{tempo:.1f} BPM lies outside {c.range.text}; counted at {tempo * ratio:.1f} it lies inside.",
                    DOUBT,
                    fix=fix,
                )
                return
        yield Finding("range", f"{tempo:.1f} BPM lies outside {c.range.text}, however it is counted.", ODD)
    for opinion, hint in ways[:1]:
        if opinion.chance >= _AS_LIKELY and (c.range is None or c.range.holds(tempo * hint.value)):
            name = opinion.name.removeprefix("beats ")
            to = f", {tempo * hint.value:.1f} BPM" if hint.value != 1 else ""
            yield Finding(
                "level",
                f"Perhaps the beats go {name}{to}: {_percent(opinion.chance)} likely.",
                DOUBT if opinion.chance > 0.3 else ODD,
                fix=_fix("Read it so", c, listen_again, c.evidence, opinion.hints),
            )


def _phase(c: Case) -> Iterator[Finding]:
    """Two readings of the downbeat nearly as likely; bars of the grid that begin elsewhere than heard."""
    best = next((o for o in c.opinions if o.about == "phase"), None)
    if best is not None and best.chance >= _AS_LIKELY:
        yield Finding(
            "downbeat",
            f"Two readings of the downbeat are nearly as likely: perhaps {best.name} ({_percent(best.chance)}).",
            DOUBT if best.chance > 0.3 else ODD,
            fix=_fix("Read it so", c, listen_again, c.evidence, best.hints),
        )
    for o in c.opinions:
        if o.about == "section" and o.chance >= 0.4:
            yield Finding(
                "section",
                f"In bars {c.bar(o.start)} to {c.bar(min(o.stop, c.duration))} perhaps "
                f"{o.name.removesuffix(' in this part')} ({_percent(o.chance)}).",
                ODD,
                o.start,
                o.stop,
                _fix("Read it so", c, listen_again, c.evidence, o.hints),
            )
    if c.p.grid is None or c.trace is None:
        return
    downs = c.heard.downbeats
    if len(downs) < 8 or c.heard.phase_chance < 0.6:
        return
    beat = np.round(c.p.grid.beat_at(downs))
    place = np.rint(c.p.grid.bar_index(beat)[1]).astype(int)
    count = np.bincount(place)
    k = int(count.argmax())
    if k and count[k] > 0.7 * len(downs) and c.summary is not None and c.summary.within > 0.5:
        at = float(downs[len(downs) // 2])
        yield Finding(
            "bars",
            f"Bars of the grid begin {k} beat{'s' if k > 1 else ''} before the downbeats that are heard.",
            DOUBT,
            at,
            fix=_fix(
                "Begin bars as heard", c, preparation.set_downbeat, float(c.p.grid.time_at(beat[len(downs) // 2]))
            ),
        )


def _unsure(c: Case) -> Iterator[Finding]:
    """Where the beats are doubtful: these spots come first."""
    doubtful = stretches(c.heard.confidence < _UNSURE, _LEAST_UNSURE)
    if doubtful:
        a, b = max(doubtful, key=lambda s: s[1] - s[0])
        total = sum(y - x for x, y in doubtful)
        places = f" in {len(doubtful)} places" if len(doubtful) > 1 else ""
        t = float(c.heard.times[a])
        yield Finding(
            "unsure",
            f"{total} beats{places} are doubtful: look first at bar {c.bar(t)}.",
            ODD,
            t,
            float(c.heard.times[b - 1]),
        )


def _origin(c: Case) -> Iterator[Finding]:
    """The tempo is right, but the grid lies beside the beats throughout."""
    if c.trace is None or c.summary is None or len(c.trace.error) < 16 or c.p.grid is None:
        return
    middle = float(np.median(c.trace.error))
    spread = float(np.median(np.abs(c.trace.error - middle)))
    if abs(middle) > c.p.tolerance.tight and spread < c.p.tolerance.tight / 2:
        yield Finding(
            "offset",
            f"The grid runs at the right tempo but lies {abs(middle):.0f} ms "
            f"{'early' if middle > 0 else 'late'} throughout.",
            DOUBT,
            float(c.trace.times[0]),
            fix=_fix(f"Slide by {middle:+.0f} ms", c, preparation.slide, middle),
        )


def _tempo(c: Case) -> Iterator[Finding]:
    """The tempo is a whole number within measurement error, or is not: by statistics."""
    e = c.study.steady
    if c.study.kind != STEADY or e is None:
        return
    margin = f"{max(e.margin, 0.001):.3f}"
    if e.is_whole:
        yield Finding(
            "whole",
            f"Steady at {e.whole} BPM: measured {e.tempo:.3f} ± {margin}.",
            fix=_steady_fix(f"Set {e.whole} BPM", c, float(e.whole)),
        )
        return
    off = e.off_at_end(e.whole)
    yield Finding(
        "fraction",
        f"Steady at {e.tempo:.3f} ± {margin} BPM, not {e.whole}: "
        f"rounding would put the last beat {_span(off)} {'late' if off > 0 else 'early'}.",
        ODD,
        float(c.heard.times[-1]),
        fix=_steady_fix(f"Set {e.tempo:.3f} BPM", c, e.tempo),
    )


def _steady_fix(label: str, c: Case, tempo: float) -> Fix | None:
    """One steady tempo through the heard beats; None where the grid is that already."""
    if c.p.grid is None or (len(c.p.grid.pins) == 2 and abs(c.p.grid.tempo_overall() / tempo - 1) < 2e-6):
        return None
    ratio = round(c.p.grid.tempo_overall() / tempo * 2) / 2
    if ratio != 1.0 or any(q.hand for q in c.p.grid.pins):
        return None
    return _fix(label, c, preparation.set_steady, c.heard, tempo)


def _kept(c: Case) -> Iterator[Finding]:
    """Whether the grid keeps with the recording, and what would."""
    s, grid = c.summary, c.p.grid
    if s is None or grid is None or c.trace is None:
        return
    if s.leaves is not None and len(c.trace.error):
        end = float(np.median(c.trace.error[-4:]))
        yield Finding(
            "drift",
            f"The grid begins to drift at bar {c.bar(s.leaves)} and stays out: {_span(end)} "
            f"{'early' if end > 0 else 'late'} by the end.",
            DOUBT,
            s.leaves,
            fix=_follow_fix(c),
        )
    if c.study.kind in (WANDERING, TURNTABLE):
        slow, fast = _span_of_tempo(c.heard)
        pins, few = _pins(c, c.p.tolerance), _pins(c, Tolerance(c.p.tolerance.tight, 1e6))
        if pins and few:
            yield Finding(
                "wander",
                f"Wanders between {slow:.1f} and {fast:.1f} BPM: {pins} pins keep it within the tolerance, "
                f"{few} if the mix zones alone count.",
                ODD if s.within < 1 else NOTE,
                fix=_follow_fix(c) if s.within < 1 and s.leaves is None else None,
            )


def _follow_fix(c: Case) -> Fix | None:
    if c.followed is not None and c.followed.grid is not None:
        after = attrs.evolve(c.p, grid=c.followed.grid)
        return Fix("Follow the recording", preparation.name_of(preparation.follow_recording), after)
    return _fix("Follow the recording", c, preparation.follow_recording, c.heard)


def _span_of_tempo(heard: Heard) -> tuple[float, float]:
    """Slowest and fastest tempo over eight beats, BPM."""
    n = min(8, len(heard.times) - 1)
    bpm = 60 * (heard.numbers[n:] - heard.numbers[:-n]) / (heard.times[n:] - heard.times[:-n])
    low, high = np.percentile(bpm, [1, 99])
    return float(low), float(high)


def _pins(c: Case, tolerance: Tolerance) -> int:
    if tolerance == c.p.tolerance and c.followed is not None and c.followed.grid is not None:
        return len(c.followed.grid.pins)
    try:
        return len(fitting.follow(c.heard, tolerance=tolerance, zones=c.p.mix_zones, like=c.p.grid).pins)
    except Refused:
        return 0


def _changes(c: Case) -> Iterator[Finding]:
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
        elif change < _SAME_TEMPO * 4 and min(a.last - a.first, b.last - b.first) >= 16:
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


def _ends(c: Case) -> Iterator[Finding]:
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


def _gaps(c: Case) -> Iterator[Finding]:
    """Pauses, and counts that slip by a beat."""
    h = c.heard
    step = np.diff(h.numbers)
    for i in np.flatnonzero(step >= _PAUSE)[:_MANY].tolist():
        a, b = float(h.times[i]), float(h.times[i + 1])
        yield Finding("pause", f"No beat for {b - a:.1f} s from bar {c.bar(a)}.", ODD, a, b)
    usual = int(np.bincount([m.beats_per_bar for m in h.meter]).argmax())
    odd = [m for m in h.meter if m.beats_per_bar != usual and len(h.meter) > 1]
    for m in odd[:_MANY]:
        t = float(np.interp(m.beat, h.numbers, h.times))
        yield Finding(
            "slip",
            f"A bar of {m.beats_per_bar} beat{'s' if m.beats_per_bar > 1 else ''} at bar {c.bar(t)}: the count slips "
            "(an edit, a skipping groove, or meant so).",
            ODD,
            t,
            float(np.interp(m.beat + m.beats_per_bar, h.numbers, h.times)),
        )
    if len(odd) > _MANY:
        yield Finding("slips", f"{len(odd) - _MANY} more odd bars follow.", ODD)


def _turntable(c: Case) -> Iterator[Finding]:
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


def _start(c: Case) -> Iterator[Finding]:
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


def _sounds(c: Case) -> Iterator[Finding]:
    """Little percussion."""
    if c.drums is None:
        return
    if float(c.drums.mean()) < _BARE:
        yield Finding(
            "bare",
            "Hardly any percussion: check the beats by ear against the click, or set pins by hand.",
            DOUBT if float(np.median(c.heard.confidence)) < 0.75 else ODD,
        )
        return
    bare = stretches(c.drums < 0.3, 32)
    for a, b in bare[:2]:
        t, u = float(c.heard.times[a]), float(c.heard.times[b - 1])
        yield Finding("section bare", f"No percussion from bar {c.bar(t)} to {c.bar(u)}.", NOTE, t, u)


def _state(c: Case) -> Iterator[Finding]:
    """The state of the recording itself."""
    k = c.evidence.condition
    if k.clipped:
        yield Finding("clipped", f"Clipped: the wave is cut off flat {k.clipped} times.")
    if -120 < k.level < _QUIET_DB:
        yield Finding("quiet", f"Very quiet: {-k.level:.0f} dB below full scale on average.", ODD)
    if k.mono:
        yield Finding("mono", "Mono: both channels are alike.")
    if not c.delay_known:
        yield Finding(
            "delay",
            "The file doesn't say how much its encoder delayed the sound: "
            "on other players everything may lie up to 25 ms beside this grid.",
        )
