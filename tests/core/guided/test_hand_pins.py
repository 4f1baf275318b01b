"""Hand pins on recordings heard wrong on purpose: one pin mends the stretch it belongs to, and no more."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core.edits import grid_edits, listening_edits
from mervid.core.fitting import proposal
from mervid.core.guided import constrained_tracking
from mervid.core.hearing.evidence import Evidence
from mervid.core.hearing.heard import Heard
from mervid.core.model.beatgrid import Grid
from mervid.core.model.hints import QUIET, Hint
from tests.conftest import heard_demo

Floats = NDArray[np.float64]
SLIDE = 6


def heard_at(found: Evidence, places: Floats) -> Evidence:
    """The recording as if these had been heard, in beats of what was."""
    right = found.heard.times
    times = np.interp(places, np.arange(len(right)), right)
    return attrs.evolve(found, heard=Heard(times, np.arange(len(times)), np.full(len(times), 0.8)))


def slid(n: int, at: int, beats: float) -> Floats:
    """Counts on the beat up to `at`, then six over so many, and between the beats from there on."""
    return np.concatenate(
        [np.arange(at), np.linspace(at, at + beats, SLIDE + 1)[:-1], np.arange(at + beats, n - 1 + 1e-9)]
    )


@pytest.mark.parametrize("name", ["Copper Ferry", "Night Barge"])
@pytest.mark.parametrize("beats", [5.5, 6.5])
@pytest.mark.parametrize("pinned_after", [True, False])
def test_one_pin_mends_the_side_it_is_on_where_the_count_slid_over_some_beats(
    name: str, beats: float, pinned_after: bool
) -> None:
    found = heard_demo(name)[1]
    right = found.heard.times
    at = 60
    places = slid(len(right), at, beats)
    # either what follows the slide is wrong, or what lies before it
    wrong = heard_at(found, places if pinned_after else places + 0.5)
    pin = float(right[110 if pinned_after else 25])
    again = constrained_tracking.listen(wrong, (), (pin,)).times
    off = np.abs(right[1:-2, None] - again[None]).min(axis=1)
    assert np.median(off) < 0.003 and off.max() < 0.045
    assert len(again) == pytest.approx(len(right), abs=1) and np.diff(again).min() > 0.85 * np.diff(right).min()
    # what was right stays to the bit
    kept = wrong.heard.times[: at + 1] if pinned_after else wrong.heard.times[at + SLIDE + 1 :]
    assert np.isin(kept, again).all()


def test_a_second_pin_in_the_slide_leaves_what_lies_behind_it() -> None:
    found = heard_demo("Copper Ferry")[1]
    right = found.heard.times
    wrong = heard_at(found, slid(len(right), 60, 5.5) + 0.5)
    again = constrained_tracking.listen(wrong, (), (float(right[25]), float(right[63]))).times
    assert np.isin(wrong.heard.times[70:], again).all()
    assert np.abs(right[1:-2, None] - again[None]).min(axis=1).max() < 0.045


def test_a_rest_stays_a_rest_beside_beats_that_are_moved() -> None:
    found = heard_demo("Copper Ferry")[1]
    right = found.heard.times
    places = np.concatenate([np.arange(60) + 0.5, np.arange(68, len(right))])
    times = np.interp(places, np.arange(len(right)), right)
    numbers = np.concatenate([np.arange(60), np.arange(68, len(right))])
    wrong = attrs.evolve(found, heard=Heard(times, numbers, np.full(len(times), 0.8)))
    again = constrained_tracking.listen(wrong, (), (float(right[25]),))
    assert not ((again.times > right[60] + 0.1) & (again.times < right[68] - 0.1)).any()
    assert np.abs(again.times - right[np.searchsorted(right, again.times - 0.1)]).max() < 0.03
    assert again.numbers[-1] - again.numbers[0] == numbers[-1]


def test_a_beat_that_was_missed_is_put_where_the_pin_is() -> None:
    found = heard_demo("Copper Ferry")[1]
    right = found.heard.times
    without = Heard(np.delete(right, 50), np.delete(np.arange(len(right)), 50), np.full(len(right) - 1, 0.8))
    missed = attrs.evolve(found, heard=without)
    again = constrained_tracking.listen(missed, (), (float(right[50]),))
    assert np.array_equal(again.times, right) and np.array_equal(again.numbers, np.arange(len(right)))
    # in a part without beats, too: one beat, and all others as they are
    quiet = Hint(QUIET, float(right[40]), float(right[60]))
    alone = constrained_tracking.listen(found, (quiet,), (float(right[50]),))
    assert np.array_equal(np.delete(alone.times, 40), constrained_tracking.listen(found, (quiet,)).times)
    assert alone.times[40] == right[50] and alone.numbers[40] - alone.numbers[39] == 11


def test_a_downbeat_is_set_where_the_grid_alone_counts_otherwise() -> None:
    """Pins of the grid hold one beat more than is heard there: what is heard needs no word, but the grid does."""
    found = heard_demo("Copper Ferry")[1]
    p = grid_edits.follow_recording(proposal.propose(found.heard, 97.0), found.heard)
    assert p.grid is not None
    late = float(found.heard.downbeats[int(0.7 * len(found.heard.downbeats))])
    pins = tuple(attrs.evolve(q, beat=q.beat + (q.time > late)) for q in p.grid.pins)
    other = attrs.evolve(p, grid=Grid(pins, p.grid.meter))
    place = float(found.heard.downbeats[-4])
    told = listening_edits.begin_bar(other, found, place)
    assert told.grid is not None
    assert told.grid.bar_index(np.round(told.grid.beat_at(place)))[1] == 0
