"""Two tracks on one clock: beats coincide on every clock, the map goes there and back, and what can't be is said."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.errors import FormatError, Refused
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.pairs import meeting
from mervid.core.pairs.clock import Together, lay
from mervid.core.pairs.meeting import CLOCKS, GLIDE, STEADY, Meeting, Tone

LONG = (150.0, 150.0)


def uneven(tempo: float, *, seed: int, beats: int = 280, every: int = 3) -> Grid:
    """A drummer's grid: a pin every few beats, its spans 2 % apart."""
    rng = np.random.default_rng(seed)
    times = 0.5 + np.cumsum(np.r_[0.0, 60 * every / tempo * (1 + rng.normal(0, 0.02, beats // every))])
    return Grid(tuple(Pin(float(t), float(every * i)) for i, t in enumerate(times)))


def on_beats(leaving: Grid, coming: Grid, t: Together) -> np.ndarray:
    """How far each beat of the one falls from the beat of the other that belongs to it, s."""
    u = np.arange(0, t.beats + 0.5)
    mine = t.leaving.to_mix(leaving.time_at(t.meeting.at + u))
    theirs = t.coming.to_mix(coming.time_at(t.meeting.enter + t.meeting.level * u))
    return np.abs(mine - theirs)


@pytest.mark.parametrize("clock", CLOCKS)
@pytest.mark.parametrize("level", [1.0, 0.5, 2.0])
def test_beats_coincide_and_the_map_goes_there_and_back(clock: str, level: float) -> None:
    a, b = uneven(118, seed=1), uneven(122 * level, seed=2, beats=round(280 * level))
    t = lay(a, b, Meeting(100, 4, bars=32, clock=clock, tempo=120, level=level), LONG)
    assert on_beats(a, b, t).max() < 1e-9
    assert (
        np.abs(t.clock.time_at(100 + np.arange(129)) - t.leaving.to_mix(a.time_at(100 + np.arange(129)))).max() < 1e-9
    )
    there = np.linspace(0, t.length, 3000)
    for one in (t.leaving, t.coming):
        # the issue asks for 1e-6 s
        assert np.abs(one.to_mix(one.to_own(there)) - there).max() < 1e-9
    assert t.stop - t.start == pytest.approx(float(np.diff(t.clock.time_at([100, 228]))[0]))


def test_the_leaving_clock_leaves_the_leaving_track_alone() -> None:
    a, b = uneven(118, seed=1), uneven(122, seed=2)
    t = lay(a, b, Meeting(100, 0), LONG)
    there = np.linspace(0, t.stop, 500)
    assert np.abs(t.leaving.to_own(there) - there).max() < 1e-12
    # after the overlap the coming track keeps its speed, to its own last sample
    assert float(t.coming.to_own(t.length)) == pytest.approx(150.0)
    assert np.ptp(t.coming.speeds(t.stop, t.length)) < 1e-9


def test_a_glide_goes_from_one_tempo_to_the_other() -> None:
    """Worked by hand: 120 to 100 BPM over 8 bars; by the beat the clock's beat grows from 0.5 to 0.6 s."""
    t = lay(steady(tempo=120, first=0), steady(tempo=100, first=0), Meeting(16, 0, bars=8, clock=GLIDE), LONG)
    beats = np.diff(t.clock.time_at(16 + np.arange(33)))
    np.testing.assert_allclose(beats, 0.5 + 0.1 * (np.arange(32) + 0.5) / 32)
    assert t.coming.speeds(t.stop + 0.1, t.length - 0.1) == pytest.approx(1.0)
    assert t.stretch == pytest.approx((-0.1 * 31.5 / 32 / (0.5 + 0.1 * 31.5 / 32), 0.6 / (0.5 + 0.1 * 0.5 / 32) - 1))


def test_a_steady_clock_and_a_nudge() -> None:
    a, b = uneven(118, seed=1), uneven(122, seed=2)
    t = lay(a, b, Meeting(100, 0, clock=STEADY, tempo=120), LONG)
    np.testing.assert_allclose(np.diff(t.clock.time_at(np.arange(10, 240))), 0.5)
    assert float(t.leaving.to_own(0.0)) == pytest.approx(0.0, abs=1e-9)
    nudged = lay(a, b, Meeting(100, 0, clock=STEADY, tempo=120, nudge=12.5), LONG)
    np.testing.assert_allclose(nudged.coming.to_mix([3.0, 40.0]) - t.coming.to_mix([3.0, 40.0]), 0.0125)
    np.testing.assert_array_equal(nudged.leaving.mix, t.leaving.mix)


def test_bars_are_counted_on_by_the_coming_track() -> None:
    waltz = attrs.evolve(steady(tempo=120, first=0, beats=400), meter=(MeterMark(0, 4), MeterMark(40, 3)))
    t = lay(steady(tempo=120, first=0, beats=400), waltz, Meeting(64, 8, bars=6), LONG)
    # the overlap ends on beat 88 of the clock, beat 32 of the coming track; its 3/4 begins 8 beats later
    assert [m for m in t.clock.meter if m.beat > 60] == [MeterMark(88, 4), MeterMark(96, 3)]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"at": 400}, "lies outside the leaving track"),
        ({"enter": -20}, "lies outside the coming track"),
        ({"at": 200, "bars": 64}, "leaving track ends"),
        ({"at": 0, "bars": 64, "enter": 180}, "coming track ends"),
    ],
)
def test_what_lies_outside_is_said(change: dict[str, float], words: str) -> None:
    a, b = steady(tempo=120, first=0.5), steady(tempo=121, first=0.5)
    with pytest.raises(Refused, match=words):
        lay(a, b, attrs.evolve(Meeting(100, 0), **change), LONG)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "bad",
    [
        {"bars": 0}, {"bars": 1000}, {"clock": "sun"}, {"clock": STEADY}, {"fade_in": "slow"}, {"level": 3.0},
        {"nudge": 900.0}, {"swap": 99}, {"leaving_tone": Tone(low=99.0)}, {"nudge": float("nan")},
    ],
)  # fmt: skip
def test_a_meeting_that_cannot_be_is_refused_with_its_reason(bad: dict[str, object]) -> None:
    with pytest.raises(Refused, match=r"\w+.*\."):
        Meeting(0, 0, **bad)  # type: ignore[arg-type]


def test_a_meeting_comes_back_from_json_as_it_was() -> None:
    m = Meeting(64.0, -4.0, 16, GLIDE, level=0.5, swap=8, coming_tone=Tone(-6.0, 0.5), nudge=-3.25, hold_pitch=False)
    assert meeting.from_json(meeting.to_json(m)) == m
    for text in ("", "[]", "{}", '{"at":0}', meeting.to_json(m).replace("glide", "sun")):
        with pytest.raises(FormatError):
            meeting.from_json(text)
