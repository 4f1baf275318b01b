"""Loudness of each three seconds, held against pyloudnorm's own meter, which measures as ITU-R BS.1770-4 says."""

from __future__ import annotations

import numpy as np
import pytest
from pyloudnorm import Meter

from mervid.core.sound.loudness import SILENCE, STEP, LoudnessMeter
from tests.conftest import band


@pytest.mark.parametrize("rate", [22050, 44100, 96000])
def test_each_stretch_as_loud_as_pyloudnorm_has_it(rate: int) -> None:
    music = band(9.5) * np.linspace(0.1, 1, len(band(9.5)), dtype=np.float32)[:, None] * [1.0, 0.3]
    ours = LoudnessMeter(rate)
    for a in range(0, len(music), 7001):
        ours.push(music[a : a + 7001].astype(np.float32))
    found = ours.finish()
    size = int(STEP * rate)
    theirs = Meter(rate, block_size=STEP)
    whole = [theirs.integrated_loudness(music[a : a + size]) for a in range(0, len(music) - size + 1, size)]
    np.testing.assert_allclose(found[: len(whole)], whole, atol=0.01)


def test_silence_and_what_is_no_number() -> None:
    meter = LoudnessMeter(44100)
    meter.push(np.zeros((5 * 44100, 1), np.float32))
    meter.push(np.full((44100, 1), np.nan, np.float32))
    np.testing.assert_array_equal(meter.finish(), [SILENCE, SILENCE])
