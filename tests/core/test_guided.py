"""Guided hearing: one word repairs a whole track that was heard wrong on purpose, and nothing moves beyond the pins."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core import analysis, cues, guidance, guided, tracker
from mervid.core import preparation as pr
from mervid.core.analysis import Evidence
from mervid.core.errors import Refused
from mervid.core.grid import MeterMark
from mervid.core.guided import ALIKE, COUNT, DOWNBEAT, EVEN, QUIET, TEMPO, Hint
from tests.conftest import heard_demo, truth

MATERIAL = Path(__file__).parent.parent / "material"
NAMES = [*sorted(p.stem for p in MATERIAL.glob("*.ogg")), "Copper Ferry", "Night Barge", "Pontoon Static"]


@cache
def evidence(name: str) -> Evidence:
    """What is heard, as it comes back from the library."""
    path = MATERIAL / f"{name}.ogg"
    found = analysis.analyse(path)[1] if path.exists() else heard_demo(name)[1]
    return analysis.from_bytes(analysis.to_bytes(found))


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
        again = guided.listen(wrong, (Hint(DOWNBEAT, float(right.downbeats[len(right.downbeats) // 2])),))
        assert np.array_equal(again.times, right.times)
        inside = np.isin(right.downbeats, again.downbeats)
        assert inside.mean() > 0.95
        assert again.phase_chance > 0.95


def test_one_beat_repairs_a_track_heard_between_the_beats(heard: Evidence) -> None:
    right = heard.heard
    off = attrs.evolve(right, times=between(right.times), numbers=right.numbers[:-1], confidence=right.confidence[:-1])
    pin = float(right.times[len(right.times) // 2])
    again = guided.listen(attrs.evolve(heard, heard=off), (), (pin,))
    assert pin in again.times
    assert f20(right.times, again.times) > 0.9


@pytest.mark.parametrize("level", [2, 0.5])
def test_one_tempo_repairs_a_track_at_the_wrong_level(heard: Evidence, level: float) -> None:
    right = heard.heard
    times = np.sort(np.concatenate([right.times, between(right.times)])) if level == 2 else right.times[::2]
    wrong = tracker.Heard(times, np.arange(len(times)), np.full(len(times), 0.8))
    tempo = 60 / float(np.median(np.diff(right.times)))
    again = guided.listen(attrs.evolve(heard, heard=wrong), (Hint(TEMPO, value=round(tempo * 1.03, 1)),))
    assert f20(right.times, again.times) > 0.85


def test_what_lies_beyond_the_neighbouring_pins_stays_to_the_bit() -> None:
    e = evidence("Copper Ferry")
    base = e.heard
    # two pins that agree with what was heard, and then one between them on the off-beat
    left, right = float(base.times[40]) + 0.004, float(base.times[120]) - 0.003
    two = guided.listen(e, (), (left, right))
    three = guided.listen(e, (), (left, float(between(base.times)[80]), right))
    for a, b in ((two, three), (three, two)):
        outside = (a.times <= left) | (a.times >= right)
        assert np.array_equal(a.times[outside], b.times[(b.times <= left) | (b.times >= right)])
    inside = (three.times > left) & (three.times < right)
    assert not np.isin(three.times[inside], two.times).all()
    # the grid, too
    p = pr.follow_recording(pr.propose(base, 97.0), base)
    for t in (left, right):
        p = guidance.pin_beat(p, e, t)
    q = guidance.pin_beat(p, e, float(between(base.times)[80]))
    assert p.grid is not None
    assert q.grid is not None
    beyond = [x for x in p.grid.pins if x.time <= left or x.time >= right]
    assert [x.time for x in q.grid.pins if x.time <= left or x.time >= right] == [x.time for x in beyond]
    assert [x for x in q.grid.pins if x.time <= left] == [x for x in p.grid.pins if x.time <= left]


def test_parts_are_silenced_evened_counted_and_continued() -> None:
    e = evidence("Copper Ferry")
    base = e.heard
    a, b = float(base.times[50]), float(base.times[81])
    quiet = guided.listen(e, (Hint(QUIET, a, b),))
    assert not ((quiet.times >= a) & (quiet.times <= b)).any()
    # the count goes on as if they were there
    assert quiet.numbers[-1] == base.numbers[-1]
    even = guided.listen(e, (Hint(EVEN, a, b),))
    part = even.times[50:82]
    assert np.ptp(np.diff(part)) < 1e-9
    assert np.array_equal(even.times[:50], base.times[:50])
    twice = guided.listen(e, (Hint(COUNT, a, b, 2.0),))
    assert ((twice.times >= a) & (twice.times <= b)).sum() == 63
    bars = tuple(attrs.evolve(m, beat=m.beat) for m in (MeterMark(0, 4), MeterMark(80, 3), MeterMark(83, 4)))
    slipped = attrs.evolve(e, heard=attrs.evolve(base, meter=bars))
    healed = guided.listen(slipped, (Hint(ALIKE, float(base.times[78]), guided.END, float(base.times[4])),))
    assert healed.meter == (MeterMark(0, 4),)


def test_a_bar_that_was_the_mistake_is_healed_by_one_downbeat() -> None:
    """Right up to bar 20, then three beats late: a downbeat set after the slip moves only what lies behind it."""
    e = evidence("Copper Ferry")
    bars = (MeterMark(0, 4), MeterMark(76, 3), MeterMark(79, 4))
    wrong = attrs.evolve(e, heard=attrs.evolve(e.heard, meter=bars))
    later = float(e.heard.downbeats[30])
    assert guided.listen(wrong, (Hint(DOWNBEAT, later),)).meter == (MeterMark(0, 4),)


def test_the_grid_follows_a_hint() -> None:
    e = evidence("Copper Ferry")
    p = pr.propose(e.heard, 97.0)
    p = cues.add_cue(pr.follow_recording(p, e.heard), float(e.heard.downbeats[8]))
    assert p.grid is not None
    moved = guidance.begin_bar(p, e, float(e.heard.times[np.searchsorted(e.heard.times, e.heard.downbeats[20]) + 1]))
    assert moved.grid is not None
    assert np.array_equal(moved.grid.times, p.grid.times)
    assert moved.cues[0].at(moved.grid) == p.cues[0].at(p.grid)
    assert moved.hints[0].kind == DOWNBEAT
    assert pr.from_json(pr.to_json(moved)) == moved
    with pytest.raises(Refused, match="begins here already"):
        guidance.begin_bar(moved, e, float(guidance.heard_of(e, moved).downbeats[20]))
    half = guidance.listen_again(p, e, (Hint(COUNT, value=0.5),))
    assert half.grid is not None
    assert half.grid.tempo_overall() == pytest.approx(p.grid.tempo_overall() / 2, rel=0.01)
    trace = pr.trace_of(half, guidance.heard_of(e, half))
    assert trace is not None
    assert trace.within > 0.95
    with pytest.raises(Refused, match="locked"):
        guidance.pin_beat(pr.set_readiness(p, pr.LOCKED), e, 30.0)
    with pytest.raises(Refused, match="Too few beats"):
        guidance.listen_again(p, e, (Hint(QUIET),))


def test_without_the_ear_a_tempo_cannot_guide() -> None:
    e = attrs.evolve(evidence("Copper Ferry"), strengths=None)
    with pytest.raises(Refused, match="without the trained ear"):
        guided.listen(e, (Hint(TEMPO, value=57.0),))


def test_a_drummer_followed_keeps_the_downbeats_that_were_heard() -> None:
    """One tempo through a drummer is beats off at places; following must not take its count from there."""
    e = evidence("Copper Ferry")
    p = pr.follow_recording(pr.propose(e.heard, 97.0), e.heard)
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
    again = guided.listen(wrong, (), (float(right[55]),))
    assert np.abs(again.times - right).max() < 0.0011
    assert np.array_equal(again.times[:39], right[:39]) and np.array_equal(again.times[81:], right[81:])
    # a lone late hit is one late hit: its neighbours are struck where they were heard
    lone = attrs.evolve(found, attack=np.where(np.arange(len(attack)) == at[20] + 18, 220, attack).astype(np.uint8))
    moved = guided.listen(lone, (), (float(right[20]) + 0.018,))
    assert np.flatnonzero(np.abs(moved.times - right) > 1e-9).tolist() == [20]
