"""What a new track opens with: a drummer followed, a machine steady, bar 1 where the music begins."""

from __future__ import annotations

from functools import cache

import attrs
import numpy as np
import pytest

from mervid.core.edits import listening_edits
from mervid.core.findings.recommendation import bars_before, recommend
from mervid.core.fitting import drift
from mervid.core.form.bar_features import sounding
from mervid.core.hearing.evidence import Evidence
from mervid.core.hearing.heard import Heard
from tests.conftest import DRUMMED, heard_demo

STEADY = ("Pontoon Static", "Salt Ledger")


@pytest.mark.parametrize("name", DRUMMED)
def test_no_track_opens_red_when_one_click_would_have_mended_it(name: str) -> None:
    facts, evidence = heard_demo(name)
    p = recommend(evidence, facts.duration)
    assert p.grid is not None
    trace = drift.trace_of(p, listening_edits.heard_of(evidence, p))
    assert trace is not None
    assert trace.within == 1.0
    # a machine keeps its one tempo, and nobody is followed without need
    assert (len(p.grid.pins) == 2) == (name in STEADY)
    # nothing that sounds lies before bar 1
    assert bars_before(p.grid, evidence, sounding(evidence, facts.duration)[0]) == 0


@cache
def machine() -> tuple[Evidence, float]:
    facts, evidence = heard_demo("Pontoon Static")
    return evidence, facts.duration


def without_first_beats(evidence: Evidence, beats: int) -> Evidence:
    """As if the count had begun so many beats late, at a downbeat."""
    h = evidence.heard
    late = Heard(h.times[beats:], h.numbers[beats:] - h.numbers[beats], h.confidence[beats:], h.meter)
    return attrs.evolve(evidence, heard=late)


def test_the_first_bar_of_the_music_is_bar_1_though_the_count_began_late() -> None:
    evidence, duration = machine()
    first = recommend(evidence, duration).grid
    assert first is not None
    for bars in (1, 4):
        h = evidence.heard
        at = int(np.flatnonzero(h.position == 0)[bars])
        late = without_first_beats(evidence, at)
        plain = listening_edits.propose(late, duration).grid
        assert plain is not None
        assert plain.time_at(0.0) == pytest.approx(h.times[at], abs=0.01)
        mended = recommend(late, duration).grid
        assert mended is not None
        assert mended.time_at(0.0) == pytest.approx(float(first.time_at(0.0)), abs=0.01)


def test_a_lone_knock_before_the_music_is_no_bar() -> None:
    evidence, duration = machine()
    at = int(np.flatnonzero(evidence.heard.position == 0)[4])
    late = without_first_beats(evidence, at)
    begins = float(late.heard.times[0])
    kept = evidence.onset_times > begins - 0.05
    knock = np.concatenate([[0.3], evidence.onset_times[kept]])
    strong = np.concatenate([np.ones(1, np.float32), evidence.onset_strengths[kept]])
    silent = attrs.evolve(late, onset_times=knock, onset_strengths=strong)
    p = recommend(silent, duration)
    assert p.grid is not None
    assert p.grid.time_at(0.0) == pytest.approx(begins, abs=0.01)


def test_nothing_heard_opens_without_a_grid() -> None:
    evidence, duration = machine()
    silent = attrs.evolve(evidence, heard=Heard(np.zeros(0), np.zeros(0, np.int64), np.zeros(0)))
    assert recommend(silent, duration).grid is None
