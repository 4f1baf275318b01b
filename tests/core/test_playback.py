"""What is played, to the sample."""

from __future__ import annotations

import numpy as np

from mervid.core.grid import Grid, Pin, steady
from mervid.core.playback import Program, click_sound, render
from tests.conftest import RATE


def test_clicks_begin_on_the_sample_of_their_beat() -> None:
    grid = Grid((Pin(0.4, 0.0), Pin(4.5, 8.0), Pin(8.1, 16.0)))
    program = Program(np.zeros((9 * RATE, 2), np.float32), RATE, grid, click=True, click_level=1.0)
    out = np.abs(render(program, 0, 9 * RATE)[:, 0])
    # the first sample of a click is its loudest: look for jumps out of quiet
    starts = np.flatnonzero((out[1:] > 0.4) & (np.convolve(out, np.ones(500), "full")[: len(out) - 1] < 0.5)) + 1
    expected = np.rint(grid.time_at(np.arange(0, 18)) * RATE)
    expected = expected[expected < 9 * RATE - 1]
    np.testing.assert_array_equal(starts[: len(expected)], expected)


def test_blocks_of_any_size_make_the_same_sound() -> None:
    rng = np.random.default_rng(0)
    program = Program(
        rng.normal(0, 0.1, (3 * RATE, 2)).astype(np.float32), RATE, steady(tempo=117, first=0.2), click=True
    )
    whole = render(program, 0, 3 * RATE)
    pieces, at = [], 0
    while at < 3 * RATE:
        n = min(int(rng.integers(1, 5000)), 3 * RATE - at)
        pieces.append(render(program, at, n))
        at += n
    np.testing.assert_array_equal(np.concatenate(pieces), whole)


def test_outside_the_recording_there_is_silence_and_never_too_much() -> None:
    loud = Program(np.ones((RATE, 1), np.float32), RATE, steady(tempo=120, first=0.0), click=True, click_level=1.0)
    out = render(loud, -RATE, 3 * RATE)
    assert not out[:RATE].any()
    # the last click may ring on after the end
    assert not out[2 * RATE + len(click_sound(RATE, accent=True)) :].any()
    assert out.max() <= 1.0
    assert out[RATE : 2 * RATE].min() > -1.0


def test_downbeats_click_higher() -> None:
    def pitch(x: np.ndarray) -> float:
        return float(np.abs(np.fft.rfft(x, 8192)).argmax()) * RATE / 8192

    assert pitch(click_sound(RATE, accent=True)) > 1.3 * pitch(click_sound(RATE, accent=False))
