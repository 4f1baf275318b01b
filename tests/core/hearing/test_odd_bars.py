"""Bars of five and seven: told by what comes again, with one where it is; usual ones stay; a person's size is taken."""

from __future__ import annotations

import attrs
import mir_eval
import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core.edits import listening_edits
from mervid.core.errors import Refused
from mervid.core.findings.recommendation import recommend
from mervid.core.findings.report import Question, Report, report
from mervid.core.findings.study import DOUBT, ODD
from mervid.core.guided import constrained_tracking
from mervid.core.hearing import odd_bars
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.evidence import TONE_FPS, Evidence
from mervid.core.hearing.spectra import EAR_FPS
from mervid.core.model.beatgrid import MeterMark
from mervid.core.model.hints import COUNT, DOWNBEAT, METRE, Hint
from mervid.core.model.preparation import Preparation
from tests.conftest import MATERIAL, analysed, beats_heard, heard_demo, material

Ints = NDArray[np.int64]
SIZES = {"five": 5, "seven": 7}


def played(size: int, bars: int = 24, *, missing: tuple[int, ...] = ()) -> Evidence:
    """Bars of so many beats at 120 BPM: a sound of its own on each, a bass and a chord on the first, in every bar."""
    rng = np.random.default_rng(size)
    times = 0.5 + 0.5 * np.arange(size * bars)
    beat = np.arange(len(times)) % size
    seconds = times[-1] + 1
    attack = np.zeros(int(seconds * 1000), np.uint8)
    attack[np.rint(times * 1000).astype(int)] = rng.integers(60, 255, size)[beat]
    slow = np.clip((np.arange(int(seconds * TONE_FPS)) / TONE_FPS - 0.5) / 0.5, 0, len(times) - 1).astype(int)
    colour = rng.integers(20, 200, (size, 24))[beat[slow]].astype(np.uint8)
    colour[:, :4] = np.where(beat[slow] == 0, 150, 30)[:, None]
    chroma = rng.integers(0, 120, (2, 12))[np.minimum(beat[slow], 1)].astype(np.uint8)
    none = np.zeros(int(seconds * EAR_FPS), np.float32)
    strong, down, section = none.copy(), none.copy(), none.copy()
    strong[np.rint(times * EAR_FPS).astype(int)] = 0.9
    down[np.rint(times[beat == 0] * EAR_FPS).astype(int)] = 0.6
    section[np.rint(times[:: 2 * size] * EAR_FPS).astype(int)] = 0.5
    ear = Strengths(strong, down, section, none, none, np.zeros((len(none), 32), np.float32))
    kept = np.delete(np.arange(len(times)), missing)
    heard = beats_heard(times[kept], kept)
    plain = Evidence(heard, attack, np.zeros(9, np.uint8), times, np.ones(len(times), np.float32))
    return attrs.evolve(plain, strengths=ear, colour=colour, chroma=chroma)


def told(p: Preparation, e: Evidence) -> Report:
    return report(Question(p, e, len(e.attack) / 1000))


@pytest.mark.parametrize("name", SIZES)
def test_a_rendered_take_is_counted_in_its_bars(name: str) -> None:
    facts, found = analysed(MATERIAL / f"{name}.ogg")
    right = material(name)["downbeats"]
    assert found.heard.meter == (MeterMark(0.0, SIZES[name]),)
    # F-measure at 70 ms (Davies, Degara & Plumbley 2009, by mir_eval)
    assert mir_eval.beat.f_measure(right, found.heard.downbeats) > 0.95
    p = recommend(found, facts.duration)
    assert p.grid is not None
    assert abs(float(p.grid.time_at(p.grid.bar_start(4))) - right[4]) < 0.02
    said = {f.key: f for f in told(p, found).findings}["metre"]
    assert f"Bars have {SIZES[name]} beats" in said.text and said.weight == ODD
    assert said.fix is not None and said.fix.preparation.grid is not None
    assert said.fix.preparation.grid.meter[0].beats_per_bar == 4


@pytest.mark.parametrize("name", ["dance", "rock", "waltz", "voice"])
def test_usual_bars_are_no_odd_ones(name: str) -> None:
    found = analysed(MATERIAL / f"{name}.ogg")[1]
    assert odd_bars.recounted(found) is found
    assert "metre" not in {o.about for o in told(recommend(found, 28.0), found).opinions}


@pytest.mark.parametrize("name", ["Copper Ferry", "Salt Ledger", "Lamplighter (voice only)"])
def test_the_demo_set_has_none(name: str) -> None:
    found = heard_demo(name)[1]
    assert odd_bars.size(found, found.heard.times) == 0


@pytest.mark.parametrize("size", [3, 4, 5, 7])
def test_what_comes_again_after_a_bar_tells_its_size(size: int) -> None:
    e = played(size)
    again = odd_bars.recurrence(e, e.heard.times)
    assert int(again.argmax()) + 2 in range(size, 29, size)
    assert again[size - 2] == pytest.approx(3.0, abs=0.05)
    assert odd_bars.size(e, e.heard.times) == (size if size in odd_bars.SIZES else 0)
    assert odd_bars.size(e, e.heard.times[: odd_bars.LEAST - 1]) == 0


def test_the_count_goes_on_over_missing_beats_and_slips_where_it_must() -> None:
    e = played(5, missing=(31, 32, 33, 77))
    place, chance = odd_bars.places(e, e.heard.times, e.heard.numbers, 5)
    assert np.array_equal(place, e.heard.numbers % 5) and 0.8 < chance <= 0.95
    # one bar of four in the middle: from there on all lie a beat earlier
    e, cut = played(5, 48), np.delete(np.arange(240), 122)
    place, _ = odd_bars.places(e, 0.5 + 0.5 * cut, np.arange(239), 5)
    assert np.array_equal(place[-40:], cut[-40:] % 5) and np.array_equal(place[:40], np.arange(40) % 5)


def heard_in_four(size: int) -> tuple[Evidence, Preparation]:
    """Such bars as a library knows them that was heard before odd ones were."""
    e = played(size)
    p = recommend(e, len(e.attack) / 1000)
    assert p.grid is not None and p.grid.meter == (MeterMark(0.0, 4),)
    return e, p


def test_an_older_hearing_gets_a_finding_that_mends_it() -> None:
    e, p = heard_in_four(7)
    first = told(p, e).findings[0]
    assert first.key == "metre" and first.weight == DOUBT and "after 7, not after 4" in first.text
    assert first.fix is not None
    mended = first.fix.preparation
    assert mended.grid is not None and mended.grid.meter == (MeterMark(0.0, 7),)
    assert p.grid is not None and mended.grid.pins == p.grid.pins
    # what a person said stands
    assert "metre" not in {f.key for f in told(mended, e).findings}
    fours = listening_edits.count_bars(mended, e, 4)
    assert "metre" not in {o.about for o in told(fours, e).opinions}


def test_a_size_for_a_part_and_a_downbeat_said_before() -> None:
    e, p = heard_in_four(5)
    part = constrained_tracking.listen(e, (Hint(METRE, 20.4, 40.1, 5.0),))
    sizes = {m.beats_per_bar for m in part.meter}
    assert {4, 5} <= sizes and np.array_equal(part.times, e.heard.times)
    said = listening_edits.listen_again(p, e, (Hint(DOWNBEAT, 1.0),))
    counted = listening_edits.count_bars(said, e, 5)
    assert counted.grid is not None
    # the ear has one at .5 s, the person at 1 s
    assert counted.grid.bar_index(counted.grid.beat_at(1.0))[1] == pytest.approx(0, abs=1e-6)
    assert counted.grid.meter[0].beats_per_bar == 5


def test_bars_of_five_show_once_beats_are_counted_at_their_level() -> None:
    e = played(5)
    slow = attrs.evolve(e, heard=beats_heard(e.heard.times[::2]))
    assert odd_bars.size(slow, slow.heard.times) in (0, 5)
    again = constrained_tracking.listen(slow, (Hint(COUNT, value=2.0),))
    assert again.metre == 5 and np.allclose(again.downbeats[:20], e.heard.times[::5][:20], atol=0.01)


def test_what_can_not_be_counted_is_refused_in_words() -> None:
    e, p = heard_in_four(5)
    for wanted, where, why in (
        (17, (), "Bars of 2 to 16 beats can be heard, not of 17"),
        (5, (0.0, 3.0), "Too few beats are heard here for two bars of 5"),
        (4, (), "Bars have 4 beats here already"),
    ):
        with pytest.raises(Refused, match=why):
            listening_edits.count_bars(p, e, wanted, *where)
    with pytest.raises(Refused, match="without the trained ear"):
        listening_edits.count_bars(p, attrs.evolve(e, strengths=None), 5)
