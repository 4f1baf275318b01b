"""Where the music begins: a count-in, strokes and speech before it set no bar of their own."""

from __future__ import annotations

import attrs
import numpy as np

from mervid.core.findings.recommendation import recommend
from mervid.core.hearing import beat_tracking, ear, features, first_beat
from mervid.core.hearing.ear import Strengths
from tests.conftest import heard_demo

PERIOD = 0.5


def ear_of(first: int, bars: int, *, faint: float) -> Strengths:
    """Clear beats every half second from 2 s on, `first` of them before the first clear downbeat, `faint` beside it."""
    frames = int((3 + (first + 4 * bars) * PERIOD) * 50)
    beat, down = np.full(frames, 0.01, np.float32), np.full(frames, 0.01, np.float32)
    for k in range(first + 4 * bars):
        at = round((2 + k * PERIOD) * 50)
        beat[at] = 0.8 if k >= first else 0.8 * faint
        if k >= first and (k - first) % 4 == 0:
            down[at] = 0.8
    none = np.zeros(frames, np.float32)
    return Strengths(
        beat, down, none, none + 1, none, np.full((frames, ear.TEMPI), 1 / ear.TEMPI, np.float32), np.ones(10)
    )


def test_a_count_in_is_no_bar() -> None:
    heard = ear_of(4, 12, faint=1.0)
    times = 2 + PERIOD * np.arange(52)
    assert first_beat.first_bar(heard, times, np.arange(52) % 4) == 4
    # where the ear hears a downbeat the bar stays
    heard = attrs.evolve(heard, downbeat=np.where(heard.beat > 0.5, np.float32(0.5), np.float32(0.01)))
    assert first_beat.first_bar(heard, times, np.arange(52) % 4) == 0


def test_faint_beats_before_the_music_are_left_out() -> None:
    times = 2 + PERIOD * np.arange(54)
    assert beat_tracking._music(ear_of(6, 12, faint=0.2), times)[0] == times[6]
    assert beat_tracking._music(ear_of(6, 12, faint=0.6), times)[0] == times[0]


def test_bar_1_is_not_counted_back_into_strokes_without_a_bar() -> None:
    """Free strokes before a demo recording: bar 1 stays where it is without them."""
    facts, found = heard_demo("Pontoon Static")
    plain = recommend(found, facts.duration).grid
    assert plain is not None
    rng = np.random.default_rng(1)
    ahead = np.sort(rng.uniform(0.1, 5.5, 14))
    moved = attrs.evolve(
        found,
        heard=attrs.evolve(found.heard, times=found.heard.times + 6.0),
        onset_times=np.concatenate([ahead, found.onset_times + 6.0]),
        onset_strengths=np.concatenate([np.full(14, 0.9, np.float32), found.onset_strengths]),
        attack=np.concatenate([np.zeros(6 * features.ATTACK_RATE, np.uint8), found.attack]),
        loudness=np.concatenate([np.full(2, -12.0, np.float32), found.loudness]),
        strengths=_later(found.strengths),
    )
    grid = recommend(moved, facts.duration + 6.0).grid
    assert grid is not None
    assert abs(float(grid.time_at(0)) - float(plain.time_at(0)) - 6.0) < 0.01


def _later(heard: Strengths | None) -> Strengths:
    """The same answers 6 s later, and none before."""
    assert heard is not None
    rows = {
        k: np.concatenate([np.full(300, 0.01, np.float32), getattr(heard, k)])
        for k in ("beat", "downbeat", "section", "drums", "voice")
    }
    return attrs.evolve(heard, **rows, tempo=np.concatenate([heard.tempo[:1].repeat(300, axis=0), heard.tempo]))
