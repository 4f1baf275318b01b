"""Edits of a whole grid by figure. What a slide and a renumbering must keep is common practice, no source."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.cues import cue_edits
from mervid.core.edits import count_edits, grid_edits
from mervid.core.errors import Refused
from mervid.core.fitting import proposal
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.model.cue import Cue
from mervid.core.model.preparation import Preparation
from tests.conftest import beats_heard

BENT = Grid((Pin(0.5, 0.0), Pin(16.7, 32.0), Pin(33.1, 64.0), Pin(49.0, 96.0)))
EVERY = np.arange(-8.0, 104.0)


def of(p: Preparation) -> Grid:
    """The grid, which is there."""
    assert p.grid is not None
    return p.grid


@pytest.mark.parametrize("beats", [0.5, -0.5, 1.0, -1.0])
@pytest.mark.parametrize("grid", [BENT, steady(tempo=120.0, first=0.5)])
def test_a_slide_by_beats_lays_each_beat_where_one_was_counted_so_much_later(grid: Grid, beats: float) -> None:
    slid = of(count_edits.slide_beats(Preparation(grid=grid), beats))
    np.testing.assert_allclose(slid.time_at(EVERY), grid.time_at(EVERY + beats), atol=1e-9)
    assert set(np.round(BENT.times, 9)) == set(np.round(slid.times, 9)) or grid is not BENT


def test_renumbering_moves_no_instant_and_carries_marks_and_cues() -> None:
    grid = Grid(BENT.pins, (MeterMark(0.0, 4), MeterMark(34.0, 4)))
    p = Preparation(grid=grid, cues=(Cue("a", "In", beat=34.0), Cue("b", "Free", time=12.0)))
    moved = count_edits.count_from(p, 16.7)
    assert of(moved).times.tolist() == grid.times.tolist()
    assert [c.at(of(moved)) for c in moved.cues] == pytest.approx([c.at(grid) for c in p.cues])
    assert of(moved).name_at(float(of(moved).beat_at(16.7))) == "1.1"
    assert of(moved).name_at(float(of(moved).beat_at(16.2))) == "-1.4"
    # bar lines stay on their instants, the odd bar's too
    _, old = grid.bars(0.5, 40.0)
    _, new = of(moved).bars(0.5, 40.0)
    np.testing.assert_allclose(of(moved).time_at(new), grid.time_at(old))
    with pytest.raises(Refused, match="already"):
        count_edits.count_from(moved, 16.7)


def test_an_anchor_in_the_middle_serves_a_quiet_start() -> None:
    """The loud beat that was counted as the first one lies 20 bars in; the music begins before it."""
    p = Preparation(grid=Grid((Pin(40.5, 0.0, hand=True), Pin(60.5, 40.0))))
    begun = count_edits.count_from_first(p, 0.45)
    assert of(begun).name_at(float(of(begun).beat_at(0.5))) == "1.1"
    assert of(begun).pins[0] == Pin(40.5, 80.0, hand=True)


def test_a_tempo_from_two_downbeats() -> None:
    heard = beats_heard(1.0 + np.arange(400) * 60 / 123.4)
    p = proposal.propose(heard, 200.0)
    first, last = float(heard.times[8]), float(heard.times[8 + 4 * 80])
    # by hand: 80 bars of 4 beats at 123.4 BPM take 80 * 4 * 60 / 123.4 s
    assert last - first == pytest.approx(155.592, abs=1e-3)
    assert count_edits.bars_between(p, heard, first, last) == 80
    made = of(count_edits.two_points(p, first, last, 80))
    assert made.tempo_overall() == pytest.approx(123.4)
    assert all(q.hand for q in made.pins)
    assert [made.name_at(q.beat) for q in made.pins] == ["3.1", "83.1"]
    with pytest.raises(Refused, match="one early and one late"):
        count_edits.two_points(p, first, first, 4)
    with pytest.raises(Refused, match="Tempo must lie between 20 and 999 BPM"):
        count_edits.two_points(p, first, last, 2000)


def test_rounding_says_what_it_costs() -> None:
    """134.994 rounds to 135 for nothing; 163.03 does not (a worked example, by hand)."""
    for tempo, whole, cost in ((134.9999, 135.0, 0.5), (163.03, 163.0, 20.0)):
        heard = beats_heard(0.4 + np.arange(int(tempo * 5)) * 60 / tempo)
        p = proposal.propose(heard, 310.0)
        rounded = count_edits.round_tempo(p)
        assert of(rounded).tempo_overall() == pytest.approx(whole, abs=1e-9)
        off = count_edits.off_by_most(rounded, heard)
        assert off is not None
        # turned about the middle, the ends miss by half of the whole difference in length
        assert off[0] == pytest.approx(abs(60 / tempo - 60 / whole) * (len(heard.times) - 1) / 2 * 1000, rel=0.05)
        assert (off[0] > cost) == (whole == 163.0)


def test_three_for_two_and_back() -> None:
    p = grid_edits.three_for_two(Preparation(grid=BENT))
    assert of(p).tempi == pytest.approx(BENT.tempi * 1.5)
    back = of(grid_edits.two_for_three(p))
    np.testing.assert_allclose(back.time_at(EVERY), BENT.time_at(EVERY), atol=1e-9)


def test_a_loop_is_as_long_as_it_was_however_its_beats_are_counted() -> None:
    cues = Cue("a", "Vamp", beat=32.0, bars=8), Cue("b", "Free", time=20.0, bars=4), Cue("c", "One", beat=64.0, bars=1)
    p = Preparation(grid=BENT, cues=cues)
    half, double, three = grid_edits.halve(p), grid_edits.double(p), grid_edits.three_for_two(p)
    assert [[c.bars for c in q.cues] for q in (half, double, three)] == [[4, 2, 1], [16, 8, 2], [12, 6, 2]]
    for cue, other in zip(p.cues[:2], double.cues[:2], strict=True):
        assert cue_edits.loop_of(double, other) == pytest.approx(cue_edits.loop_of(p, cue), abs=1e-6)
    # a bar counts as many beats as it did: half of one bar is none, and 200 are too many
    assert grid_edits.double(attrs.evolve(p, cues=(Cue("d", "Long", beat=0.0, bars=64),))).cues[0].bars == 64
    assert [c.bars for c in count_edits.count_from(p, 16.7).cues] == [8, 4, 1]


def test_a_count_begun_anew_leaves_what_is_before() -> None:
    p = Preparation(grid=BENT)
    odd = count_edits.restart(p, float(BENT.time_at(42.0)))
    assert of(odd).meter == (MeterMark(0.0, 4), MeterMark(42.0, 4))
    assert [of(odd).name_at(b) for b in (39.0, 40.0, 41.0, 42.0, 46.0)] == ["10.4", "11.1", "11.2", "12.1", "13.1"]
    assert of(count_edits.count_through(odd, 20.0)).meter == BENT.meter
    with pytest.raises(Refused, match="already"):
        count_edits.restart(odd, float(BENT.time_at(42.0)))
    with pytest.raises(Refused, match="no odd bar"):
        count_edits.count_through(p, 20.0)
    # before the first mark the count runs backwards from it: bar lines there stay, too
    early = of(count_edits.restart(p, float(BENT.time_at(-6.0))))
    assert float(early.bar_index(-8.0)[1]) == 0 and float(early.bar_index(0.0)[1]) == 0


def test_beats_a_bar() -> None:
    waltz = of(count_edits.set_meter(Preparation(grid=BENT), 0.6, 3))
    assert waltz.name_at(3.0) == "2.1"
    with pytest.raises(Refused, match="1 to 32"):
        count_edits.set_meter(Preparation(grid=BENT), 0.6, 40)
