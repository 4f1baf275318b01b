"""Findings: what is odd about a recording, each one plain sentence with its figure, its place and, if any, its fix.

Here those about the count and the grid; what is odd whatever the grid is in `recording_findings`. What counts as odd is
common practice (no source) unless a function names one. A fix is the whole preparation as it would be, so that it can
be shown before it is taken.
"""

from __future__ import annotations

from collections.abc import Iterator

import attrs
import numpy as np

from ..edits import grid_edits
from ..edits.listening_edits import count_bars, level_within, listen_again
from ..errors import Refused
from ..figures import share
from ..fitting import fit
from ..fitting.sureness import least_sure
from ..fitting.timekeeping import STEADY, TURNTABLE, WANDERING
from ..hearing.beat_tracking import stretches
from ..hearing.heard import Heard
from ..model import preparation
from ..model.hints import COUNT, Hint
from ..model.tolerance import Tolerance
from . import recording_findings
from .study import AS_LIKELY, DOUBT, NOTE, ODD, UNSURE, Finding, Fix, Study, asked, span

_LEAST_UNSURE = 4
_PERHAPS_WRONG = 0.2
"""Chance of wrong beats from which a person is asked: of unseen takes that it told eight in ten had to be mended."""


def findings(c: Study) -> tuple[Finding, ...]:
    """All findings: those that ask for a decision first, then in the order of the questions a DJ asks."""
    if len(c.heard.times) < fit.LEAST_BEATS:
        told = recording_findings.loop(c) if c.evidence.loop else _nothing(c)
        return (*told, *recording_findings.state(c))
    # of a loop its length says what tempo it has and how it is kept
    time = (recording_findings.loop,) if c.evidence.loop else (_origin, _tempo, _kept, recording_findings.changes)
    every = [
        f
        for part in (
            _level,
            _phase,
            _metre,
            _unsure,
            *time,
            recording_findings.gaps,
            recording_findings.turntable,
            recording_findings.bar_1,
            recording_findings.start,
            recording_findings.sounds,
            recording_findings.state,
        )
        for f in part(c)
    ]
    order = {DOUBT: 0, ODD: 1, NOTE: 2}
    return tuple(sorted(every, key=lambda f: order[f.weight]))


def _nothing(c: Study) -> Iterator[Finding]:
    yield Finding(
        "nothing", "No beats could be heard. Type the tempo, then slide the grid until its clicks sit right.", DOUBT
    )


def _level(c: Study) -> Iterator[Finding]:
    """Counted at half, double, 3/2 or 2/3 of what it probably is, or between the beats."""
    tempo = 60 / float(np.median(np.diff(c.heard.times)))
    ways = [(o, o.hints[0]) for o in c.opinions if o.about == "level" and o.hints]
    if c.range is not None and not c.range.holds(tempo):
        ratio = level_within(c.range, tempo)
        if ratio is not None:
            fix = c.fix(f"Count at {tempo * ratio:.1f}", listen_again, c.evidence, (Hint(COUNT, value=ratio),))
            text = f"{tempo:.1f} BPM lies outside {c.range.text}; counted at {tempo * ratio:.1f} it lies inside."
            yield Finding("range", text, DOUBT, fix=fix)
            return
        yield Finding("range", f"{tempo:.1f} BPM lies outside {c.range.text}, however it is counted.", ODD)
    for opinion, hint in ways[:1]:
        if opinion.chance >= AS_LIKELY and (c.range is None or c.range.holds(tempo * hint.value)):
            name = opinion.name.removeprefix("beats ")
            to = f", {tempo * hint.value:.1f} BPM" if hint.value != 1 else ""
            yield Finding(
                "level",
                f"Perhaps the beats go {name}{to}: {share(opinion.chance)} likely.",
                asked(opinion.chance),
                fix=c.fix("Read it so", listen_again, c.evidence, opinion.hints),
            )


def _phase(c: Study) -> Iterator[Finding]:
    """Two readings of the downbeat nearly as likely; bars of the grid that begin elsewhere than heard."""
    best = next((o for o in c.opinions if o.about == "phase"), None)
    if best is not None and best.chance >= AS_LIKELY:
        yield Finding(
            "downbeat",
            f"Two readings of the downbeat are nearly as likely: perhaps {best.name} ({share(best.chance)}).",
            asked(best.chance),
            fix=c.fix("Read it so", listen_again, c.evidence, best.hints),
        )
    for o in c.opinions:
        if o.about == "section" and o.chance >= 0.4:
            yield Finding(
                "section",
                f"In bars {c.bar(o.start)} to {c.bar(min(o.stop, c.duration))} perhaps "
                f"{o.name.removesuffix(' in this part')} ({share(o.chance)}).",
                ODD,
                o.start,
                o.stop,
                c.fix("Read it so", listen_again, c.evidence, o.hints),
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
            fix=c.fix("Begin bars as heard", grid_edits.set_downbeat, float(c.p.grid.time_at(beat[len(downs) // 2]))),
        )


def _metre(c: Study) -> Iterator[Finding]:
    """Bars of five or seven, heard so or not."""
    other = next((o for o in c.opinions if o.about == "metre"), None)
    if other is None:
        return
    beats, here = int(other.hints[0].value), c.heard.metre
    fix = c.fix(f"Count bars of {beats}", count_bars, c.evidence, beats)
    if other.chance >= AS_LIKELY:
        text = f"Perhaps bars have {beats} beats: what is played comes again after {beats}, not after {here}"
        yield Finding("metre", f"{text} ({share(other.chance)}).", asked(other.chance), fix=fix)
    else:
        yield Finding("metre", f"Bars have {here} beats: what is played comes again after so many.", ODD, fix=fix)


def _unsure(c: Study) -> Iterator[Finding]:
    """Where the beats are doubtful: these spots come first."""
    h = c.heard
    doubtful = stretches(h.confidence < UNSURE, _LEAST_UNSURE)
    worst = least_sure(h, seen=[q.time for q in c.p.grid.pins if q.hand] if c.p.grid is not None else [])
    if worst is not None and worst[2] >= _PERHAPS_WRONG:
        a, b, wrong = worst
        there = [(i, k) for i, k in doubtful if h.times[k - 1] > a and h.times[i] < b]
        first = float(h.times[max(there, key=lambda s: s[1] - s[0])[0]]) if there else a
        look = f"; look first at bar {c.bar(first)}" if there else ""
        yield Finding(
            "wrong",
            f"The beats of bars {c.bar(a)} to {c.bar(b)} may be wrong: {share(wrong)} likely{look}.",
            # of a voice another finding says what to do
            ODD if recording_findings.needs_help(c) else DOUBT,
            first,
            b,
        )
    elif doubtful:
        a, b = max(doubtful, key=lambda s: s[1] - s[0])
        total = sum(y - x for x, y in doubtful)
        places = f" in {len(doubtful)} places" if len(doubtful) > 1 else ""
        t = float(h.times[a])
        yield Finding(
            "unsure",
            f"{total} beats{places} are doubtful: look first at bar {c.bar(t)}.",
            ODD,
            t,
            float(h.times[b - 1]),
        )


def _origin(c: Study) -> Iterator[Finding]:
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
            fix=c.fix(f"Slide by {middle:+.0f} ms", grid_edits.slide, middle),
        )


def _tempo(c: Study) -> Iterator[Finding]:
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
        f"rounding would put the last beat {span(off)} {'late' if off > 0 else 'early'}.",
        ODD,
        float(c.heard.times[-1]),
        fix=_steady_fix(f"Set {e.tempo:.3f} BPM", c, e.tempo),
    )


def _steady_fix(label: str, c: Study, tempo: float) -> Fix | None:
    """One steady tempo through the heard beats; None where the grid is that already."""
    if c.p.grid is None or (len(c.p.grid.pins) == 2 and abs(c.p.grid.tempo_overall() / tempo - 1) < 2e-6):
        return None
    ratio = round(c.p.grid.tempo_overall() / tempo * 2) / 2
    if ratio != 1.0 or any(q.hand for q in c.p.grid.pins):
        return None
    return c.fix(label, grid_edits.set_steady, c.heard, tempo)


def _kept(c: Study) -> Iterator[Finding]:
    """Whether the grid keeps with the recording, and what would."""
    s, grid = c.summary, c.p.grid
    if s is None or grid is None or c.trace is None:
        return
    if s.leaves is not None and len(c.trace.error):
        end = float(np.median(c.trace.error[-4:]))
        yield Finding(
            "drift",
            f"The grid begins to drift at bar {c.bar(s.leaves)} and stays out: {span(end)} "
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
                f"Wanders between {slow:.1f} and {fast:.1f} BPM: {pins} pins keep it close, "
                f"{few} if the mix zones alone count.",
                ODD if s.within < 1 else NOTE,
                fix=_follow_fix(c) if s.within < 1 and s.leaves is None else None,
            )


def _follow_fix(c: Study) -> Fix | None:
    if c.followed is not None and c.followed.grid is not None:
        after = attrs.evolve(c.p, grid=c.followed.grid)
        return Fix("Follow the recording", preparation.name_of(grid_edits.follow_recording), after)
    return c.fix("Follow the recording", grid_edits.follow_recording, c.heard)


def _span_of_tempo(heard: Heard) -> tuple[float, float]:
    """Slowest and fastest tempo over eight beats, BPM."""
    n = min(8, len(heard.times) - 1)
    bpm = 60 * (heard.numbers[n:] - heard.numbers[:-n]) / (heard.times[n:] - heard.times[:-n])
    low, high = np.percentile(bpm, [1, 99])
    return float(low), float(high)


def _pins(c: Study, tolerance: Tolerance) -> int:
    if tolerance == c.p.tolerance and c.followed is not None and c.followed.grid is not None:
        return len(c.followed.grid.pins)
    try:
        return len(fit.follow(c.heard, tolerance=tolerance, zones=c.p.mix_zones, like=c.p.grid).pins)
    except Refused:
        return 0
