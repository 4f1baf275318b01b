"""Any sequence of edits: the grid stays strictly increasing, nothing crashes, and what a hand pinned stays put."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import attrs
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from mervid.core.cues import cue_edits
from mervid.core.edits import count_edits, grid_edits, listening_edits, part_edits, track_edits
from mervid.core.errors import Refused
from mervid.core.fitting import drift, proposal
from mervid.core.form import phrase_edits
from mervid.core.hearing.evidence import Evidence
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Pin
from mervid.core.model.form import Form
from mervid.core.model.preparation import Preparation
from tests.conftest import heard_demo

places = st.floats(0.0, 97.0)
tempi = st.floats(30.0, 300.0)


def form_of(p: Preparation, evidence: Evidence) -> Form:
    """The phrases as they are shown."""
    form = phrase_edits.form_of(p, evidence, 97.0)
    if form is None:
        raise Refused("There are no phrases.")
    return form


def _part(p: Preparation, a: float, b: float) -> part_edits.Edges:
    assert p.grid is not None
    return part_edits.edges(p.grid, min(a, b), max(a, b), 97.0)


def _edits() -> st.SearchStrategy[tuple[str, Callable[[Preparation, Evidence], Preparation]]]:
    """One edit with its arguments, and its name."""

    def of(name: str, make: Callable[..., Preparation], *arguments: st.SearchStrategy[Any]) -> Any:
        return st.tuples(*arguments).map(lambda x: (f"{name}{x}", lambda p, e: make(p, e, *x)))

    heard = listening_edits.heard_of
    return st.one_of(
        of("pull", lambda p, e, b, t: listening_edits.pull(p, e, float(b), t), st.integers(-4, 190), places),
        of("beat", listening_edits.pin_beat, places),
        of("bar", listening_edits.begin_bar, places),
        of("restart", listening_edits.restart, places),
        of("add_pin", lambda p, e, b, t: grid_edits.add_pin(p, float(b), t), st.integers(-4, 190), places),
        of("move_pin", lambda p, e, i, t: grid_edits.move_pin(p, i % len(p.grid.pins), t), st.integers(0, 60), places),
        of("remove_pin", lambda p, e, i: grid_edits.remove_pin(p, i % len(p.grid.pins)), st.integers(0, 60)),
        of("slide", lambda p, e, x: grid_edits.slide(p, x), st.floats(-600, 600)),
        of("slide_beats", lambda p, e, x: count_edits.slide_beats(p, x), st.sampled_from([-1.0, -0.5, 0.5, 1.0])),
        of("halve", lambda p, e: grid_edits.halve(p)),
        of("double", lambda p, e: grid_edits.double(p)),
        of("3/2", lambda p, e: grid_edits.three_for_two(p)),
        of("2/3", lambda p, e: grid_edits.two_for_three(p)),
        of("count_from", lambda p, e, t: count_edits.count_from(p, t), places),
        of("meter", lambda p, e, t, n: count_edits.set_meter(p, t, n), places, st.integers(1, 9)),
        of("through", lambda p, e, t: count_edits.count_through(p, t), places),
        of("tempo", lambda p, e, x: grid_edits.set_tempo(p, x), tempi),
        of("round", lambda p, e: count_edits.round_tempo(p)),
        of("two", lambda p, e, a, b, n: count_edits.two_points(p, a, b, n), places, places, st.integers(1, 60)),
        of("steady", lambda p, e: grid_edits.make_steady(p, heard(e, p))),
        of("follow", lambda p, e: grid_edits.follow_recording(p, heard(e, p))),
        of(
            "pin_every",
            lambda p, e, a, b, n: part_edits.pin_every(p, heard(e, p), _part(p, a, b), n),
            places, places, st.sampled_from([1.0, 4.0, 8.0]),
        ),
        of("follow_part", lambda p, e, a, b: part_edits.follow_part(p, heard(e, p), _part(p, a, b)), places, places),
        of("own", lambda p, e, a, b, x: part_edits.own_tempo(p, heard(e, p), _part(p, a, b), x), places, places, tempi),
        of("ramp", lambda p, e, a, b, x, y: part_edits.ramp(p, _part(p, a, b), x, y), places, places, tempi, tempi),
        of("pause", lambda p, e, a, b: part_edits.pause(p, min(a, b), max(a, b)), places, places),
        of("cue", lambda p, e, t: cue_edits.add_cue(p, t), places),
        of("split", lambda p, e, b: phrase_edits.split(p, form_of(p, e), float(b)), st.integers(-4, 190)),
        of("merge", lambda p, e, i: phrase_edits.merge(p, form_of(p, e), i), st.integers(0, 8)),
        of("start", lambda p, e, i, b: phrase_edits.move_start(p, form_of(p, e), i, float(b)), st.integers(0, 8),
           st.integers(-4, 190)),
        of("drop", lambda p, e, b: phrase_edits.count_from_drop(p, None, float(b)), st.integers(-4, 190)),
        of("revert", lambda p, e: grid_edits.revert(p, listening_edits.propose(e, 97.0))),
    )  # fmt: skip


@settings(max_examples=40, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(steps=st.lists(_edits(), min_size=1, max_size=14))
def test_any_sequence_of_edits_keeps_a_grid(steps: list[tuple[str, Callable[..., Preparation]]]) -> None:
    evidence = heard_demo("Copper Ferry")[1]
    p = listening_edits.propose(evidence, 97.0)
    p = attrs.evolve(p, form=form_of(p, evidence), origin=64.0)
    for name, step in steps:
        try:
            after = step(p, evidence)
        except Refused as e:
            assert str(e), name
            continue
        grid = after.grid
        assert grid is not None, name
        assert (np.diff(grid.times) > 0).all() and (np.diff(grid.beats) > 0).all(), name
        beats = grid.time_at(np.arange(-20, 260))
        assert (np.diff(beats) > 0).all(), name
        assert pr.from_json(pr.to_json(after)) == after
        # phrases and the count from the drop stay on bar lines, whatever becomes of the grid
        lines = [q.start for q in after.form.phrases] + [after.form.end] if after.form is not None else []
        lines += [after.origin] if after.origin is not None else []
        assert not lines or np.abs(grid.bar_index(np.array(lines) + 1e-6)[1]).max() < 1e-2, name
        assert drift.trace_of(after, listening_edits.heard_of(evidence, after)) is not None
        p = after


@settings(max_examples=12, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(pulls=st.lists(st.tuples(st.integers(4, 165), st.floats(-0.02, 0.02)), min_size=2, max_size=12))
def test_hand_pins_stay_to_the_last_bit_whatever_is_pulled_beside_them(pulls: list[tuple[int, float]]) -> None:
    """Working along a track never disturbs what was done: neither its pins nor the grid beyond its neighbours."""
    evidence = heard_demo("Copper Ferry")[1]
    p = grid_edits.follow_recording(proposal.propose(evidence.heard, 97.0), evidence.heard)
    for beat, off in pulls:
        assert p.grid is not None
        time = float(p.grid.time_at(beat)) + off
        try:
            after = listening_edits.pull(p, evidence, float(beat), time)
        except Refused:
            continue
        assert after.grid is not None
        hand = [q for q in p.grid.pins if q.hand and abs(q.beat - beat) > 1e-9]
        assert set(hand) <= set(after.grid.pins)
        assert Pin(time, float(beat), hand=True) in after.grid.pins
        left = max((q for q in hand if q.beat < beat), key=lambda q: q.beat, default=None)
        right = min((q for q in hand if q.beat > beat), key=lambda q: q.beat, default=None)
        if left is not None:
            before = [q for q in p.grid.pins if q.beat <= left.beat]
            assert [q for q in after.grid.pins if q.beat <= left.beat] == before
        if right is not None:
            behind = [q for q in p.grid.pins if q.beat >= right.beat]
            assert [q for q in after.grid.pins if q.beat >= right.beat] == behind
        p = after


@pytest.mark.parametrize("name", ["Copper Ferry", "Brass Tide"])
def test_the_rest_keeps_as_close_to_what_was_heard_when_one_beat_is_pulled(name: str) -> None:
    facts, evidence = heard_demo(name)
    heard = evidence.heard
    p = grid_edits.follow_recording(proposal.propose(heard, facts.duration), heard)
    beat = float(heard.numbers[len(heard.times) // 2])
    rest = np.abs(heard.numbers - beat) > 16
    apart = []
    for q in (p, listening_edits.pull(p, evidence, beat, float(p.grid.time_at(beat)) + 0.015)):  # type: ignore[union-attr]
        assert q.grid is not None
        apart.append(float(np.std(q.grid.time_at(heard.numbers)[rest] - heard.times[rest])))
    assert apart[1] < 1.05 * apart[0]


def test_a_locked_track_refuses_every_edit() -> None:
    evidence = heard_demo("Copper Ferry")[1]
    p = listening_edits.propose(evidence, 97.0)
    locked = attrs.evolve(p, readiness=pr.LOCKED)
    assert p.grid is not None
    part = part_edits.Edges(8.0, 40.0)
    heard = evidence.heard
    tries: list[Callable[[], Preparation]] = [
        lambda: listening_edits.pull(locked, evidence, 8.0, 5.0),
        lambda: listening_edits.restart(locked, evidence, 5.0),
        lambda: count_edits.slide_beats(locked, 1.0), lambda: count_edits.count_from(locked, 20.0),
        lambda: count_edits.count_from_first(locked, 20.0), lambda: count_edits.two_points(locked, 1.0, 50.0, 20),
        lambda: count_edits.round_tempo(locked), lambda: count_edits.set_meter(locked, 9.0, 3),
        lambda: count_edits.restart(locked, 9.0), lambda: count_edits.count_through(locked, 9.0),
        lambda: part_edits.pin_every(locked, heard, part, 4.0), lambda: part_edits.follow_part(locked, heard, part),
        lambda: part_edits.own_tempo(locked, heard, part), lambda: part_edits.ramp(locked, part, 100.0, 110.0),
        lambda: part_edits.pause(locked, 9.0, 14.0), lambda: grid_edits.three_for_two(locked),
        lambda: track_edits.set_tolerance(locked, 4.0, 8.0), lambda: track_edits.set_zones(locked, ()),
        lambda: grid_edits.revert(locked, p), lambda: grid_edits.restore(locked, p.grid),
        lambda: track_edits.write_notes(locked, "x"),
    ]  # fmt: skip
    for attempt in tries:
        try:
            attempt()
        except Refused as e:
            assert "locked" in str(e)
        else:
            raise AssertionError("a locked track was changed")
