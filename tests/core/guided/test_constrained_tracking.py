"""Guided hearing: one word repairs a whole track that was heard wrong on purpose, and nothing moves beyond the pins."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits, listening_edits
from mervid.core.errors import Refused
from mervid.core.fitting import drift, proposal
from mervid.core.guided import constrained_tracking
from mervid.core.hearing import analysis
from mervid.core.hearing import evidence as ev
from mervid.core.hearing.evidence import Evidence
from mervid.core.hearing.heard import Heard
from mervid.core.model import hints
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import MeterMark
from mervid.core.model.hints import ALIKE, COUNT, DOWNBEAT, EVEN, QUIET, TEMPO, Hint
from tests.conftest import heard_demo, truth

MATERIAL = Path(__file__).parents[2] / "material"
NAMES = [*sorted(p.stem for p in MATERIAL.glob("*.ogg")), "Copper Ferry", "Night Barge", "Pontoon Static"]


@cache
def evidence(name: str) -> Evidence:
    """What is heard, as it comes back from the library."""
    path = MATERIAL / f"{name}.ogg"
    found = analysis.analyse(path)[1] if path.exists() else heard_demo(name)[1]
    return ev.from_bytes(ev.to_bytes(found))


def f20(ref: NDArray[np.float64], est: NDArray[np.float64]) -> float:
    """F-measure at ±20 ms (Davies, Degara & Plumbley 2009, by mir_eval, with a DJ's window)."""
    return float(mir_eval.beat.f_measure(ref, est, 0.02))


def between(times: NDArray[np.float64]) -> NDArray[np.float64]:
    return (times[1:] + times[:-1]) / 2


@pytest.fixture(params=NAMES)
def heard(request: pytest.FixtureRequest) -> Evidence:
    found = evidence(request.param)
    if len(found.heard.times) < 24 or len(found.heard.meter) > 1:
        pytest.skip("too few beats, or odd bars, to be made wrong")
    return found


def test_one_downbeat_repairs_the_bars_of_a_track(heard: Evidence) -> None:
    right = heard.heard
    for beats in range(1, right.meter[0].beats_per_bar):
        wrong = attrs.evolve(heard, heard=attrs.evolve(right, meter=(MeterMark(beats, right.meter[0].beats_per_bar),)))
        again = constrained_tracking.listen(wrong, (Hint(DOWNBEAT, float(right.downbeats[len(right.downbeats) // 2])),))
        assert np.array_equal(again.times, right.times)
        inside = np.isin(right.downbeats, again.downbeats)
        assert inside.mean() > 0.95
        assert again.phase_chance > 0.95


def test_one_beat_repairs_a_track_heard_between_the_beats(heard: Evidence) -> None:
    right = heard.heard
    off = attrs.evolve(right, times=between(right.times), numbers=right.numbers[:-1], confidence=right.confidence[:-1])
    pin = float(right.times[len(right.times) // 2])
    again = constrained_tracking.listen(attrs.evolve(heard, heard=off), (), (pin,))
    assert pin in again.times
    assert f20(right.times, again.times) > 0.9


@pytest.mark.parametrize("level", [2, 0.5])
def test_one_tempo_repairs_a_track_at_the_wrong_level(heard: Evidence, level: float) -> None:
    right = heard.heard
    times = np.sort(np.concatenate([right.times, between(right.times)])) if level == 2 else right.times[::2]
    wrong = Heard(times, np.arange(len(times)), np.full(len(times), 0.8))
    tempo = 60 / float(np.median(np.diff(right.times)))
    again = constrained_tracking.listen(attrs.evolve(heard, heard=wrong), (Hint(TEMPO, value=round(tempo * 1.03, 1)),))
    assert f20(right.times, again.times) > 0.85


def test_what_lies_beyond_the_neighbouring_pins_stays_to_the_bit() -> None:
    e = evidence("Copper Ferry")
    base = e.heard
    # two pins that agree with what was heard, and then one between them on the off-beat
    left, right = float(base.times[40]) + 0.004, float(base.times[120]) - 0.003
    two = constrained_tracking.listen(e, (), (left, right))
    three = constrained_tracking.listen(e, (), (left, float(between(base.times)[80]), right))
    for a, b in ((two, three), (three, two)):
        outside = (a.times <= left) | (a.times >= right)
        assert np.array_equal(a.times[outside], b.times[(b.times <= left) | (b.times >= right)])
    inside = (three.times > left) & (three.times < right)
    assert not np.isin(three.times[inside], two.times).all()
    # the grid, too
    p = grid_edits.follow_recording(proposal.propose(base, 97.0), base)
    for t in (left, right):
        p = listening_edits.pin_beat(p, e, t)
    q = listening_edits.pin_beat(p, e, float(between(base.times)[80]))
    assert p.grid is not None
    assert q.grid is not None
    beyond = [x for x in p.grid.pins if x.time <= left or x.time >= right]
    assert [x.time for x in q.grid.pins if x.time <= left or x.time >= right] == [x.time for x in beyond]
    assert [x for x in q.grid.pins if x.time <= left] == [x for x in p.grid.pins if x.time <= left]


def test_a_hand_pin_leaves_the_pulse_a_pulse_and_another_count_does_not() -> None:
    found = heard_demo("Copper Ferry")[1]
    times = found.heard.times
    assert constrained_tracking.listen(found, (), (float(times[57]) + 0.004,)).pulse
    between = Hint(TEMPO, value=1.5 * 60 / float(np.median(np.diff(times))))
    assert not constrained_tracking.listen(found, (between,)).pulse


def test_parts_are_silenced_evened_counted_and_continued() -> None:
    e = evidence("Copper Ferry")
    base = e.heard
    a, b = float(base.times[50]), float(base.times[81])
    quiet = constrained_tracking.listen(e, (Hint(QUIET, a, b),))
    assert not ((quiet.times >= a) & (quiet.times <= b)).any()
    # the count goes on as if they were there
    assert quiet.numbers[-1] == base.numbers[-1]
    even = constrained_tracking.listen(e, (Hint(EVEN, a, b),))
    part = even.times[50:82]
    assert np.ptp(np.diff(part)) < 1e-9
    assert np.array_equal(even.times[:50], base.times[:50])
    twice = constrained_tracking.listen(e, (Hint(COUNT, a, b, 2.0),))
    assert ((twice.times >= a) & (twice.times <= b)).sum() == 63
    bars = tuple(attrs.evolve(m, beat=m.beat) for m in (MeterMark(0, 4), MeterMark(80, 3), MeterMark(83, 4)))
    slipped = attrs.evolve(e, heard=attrs.evolve(base, meter=bars))
    healed = constrained_tracking.listen(
        slipped, (Hint(ALIKE, float(base.times[78]), hints.END, float(base.times[4])),)
    )
    assert healed.meter == (MeterMark(0, 4),)


def test_a_bar_that_was_the_mistake_is_healed_by_one_downbeat() -> None:
    """Right up to bar 20, then three beats late: a downbeat set after the slip moves only what lies behind it."""
    e = evidence("Copper Ferry")
    bars = (MeterMark(0, 4), MeterMark(76, 3), MeterMark(79, 4))
    wrong = attrs.evolve(e, heard=attrs.evolve(e.heard, meter=bars))
    later = float(e.heard.downbeats[30])
    assert constrained_tracking.listen(wrong, (Hint(DOWNBEAT, later),)).meter == (MeterMark(0, 4),)


def test_the_grid_follows_a_hint() -> None:
    e = evidence("Copper Ferry")
    p = proposal.propose(e.heard, 97.0)
    p = cue_edits.add_cue(grid_edits.follow_recording(p, e.heard), float(e.heard.downbeats[8]))
    assert p.grid is not None
    moved = listening_edits.begin_bar(
        p, e, float(e.heard.times[np.searchsorted(e.heard.times, e.heard.downbeats[20]) + 1])
    )
    assert moved.grid is not None
    assert np.array_equal(moved.grid.times, p.grid.times)
    assert moved.cues[0].at(moved.grid) == p.cues[0].at(p.grid)
    assert moved.hints[0].kind == DOWNBEAT
    assert pr.from_json(pr.to_json(moved)) == moved
    with pytest.raises(Refused, match="begins here already"):
        listening_edits.begin_bar(moved, e, float(listening_edits.heard_of(e, moved).downbeats[20]))
    half = listening_edits.listen_again(p, e, (Hint(COUNT, value=0.5),))
    assert half.grid is not None
    assert half.grid.tempo_overall() == pytest.approx(p.grid.tempo_overall() / 2, rel=0.01)
    trace = drift.trace_of(half, listening_edits.heard_of(e, half))
    assert trace is not None
    assert trace.within > 0.95
    with pytest.raises(Refused, match="locked"):
        listening_edits.pin_beat(pr.set_readiness(p, pr.LOCKED), e, 30.0)
    with pytest.raises(Refused, match="Too few beats"):
        listening_edits.listen_again(p, e, (Hint(QUIET),))


def test_without_the_ear_a_tempo_cannot_guide() -> None:
    e = attrs.evolve(evidence("Copper Ferry"), strengths=None)
    with pytest.raises(Refused, match="without the trained ear"):
        constrained_tracking.listen(e, (Hint(TEMPO, value=57.0),))


def test_a_drummer_followed_keeps_the_downbeats_that_were_heard() -> None:
    """One tempo through a drummer is beats off at places; following must not take its count from there."""
    e = evidence("Copper Ferry")
    p = grid_edits.follow_recording(proposal.propose(e.heard, 97.0), e.heard)
    assert p.grid is not None
    downs = p.grid.time_at(p.grid.bar_start(np.arange(2, 40)))
    true = truth("Copper Ferry")["downbeats"]
    assert np.abs(downs[:, None] - true[None]).min(axis=1).max() < 0.05


def test_beats_beside_a_pin_go_along_as_far_as_they_were_heard_beside_their_hits() -> None:
    """A stretch heard 18 ms early, on a grace note: one pin on one hit mends it, and no beat beyond it moves."""
    found = evidence("Pontoon Static")
    right = found.heard.times
    early = right.copy()
    early[40:80] -= 0.018
    attack = np.zeros_like(found.attack)
    at = np.rint(right * 1000).astype(int)
    attack[at] = 220
    attack[at[40:80] - 18] = 200
    wrong = attrs.evolve(found, attack=attack, heard=attrs.evolve(found.heard, times=early))
    again = constrained_tracking.listen(wrong, (), (float(right[55]),))
    assert np.abs(again.times - right).max() < 0.0011
    assert np.array_equal(again.times[:39], right[:39]) and np.array_equal(again.times[81:], right[81:])
    # a lone late hit is one late hit: its neighbours are struck where they were heard
    lone = attrs.evolve(found, attack=np.where(np.arange(len(attack)) == at[20] + 18, 220, attack).astype(np.uint8))
    moved = constrained_tracking.listen(lone, (), (float(right[20]) + 0.018,))
    assert np.flatnonzero(np.abs(moved.times - right) > 1e-9).tolist() == [20]
