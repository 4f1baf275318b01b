"""The waveform as it is kept: within two per cent of full scale, and as older ones were kept."""

from __future__ import annotations

import io

import numpy as np
import pytest

from mervid.core.errors import FormatError
from mervid.core.sound import waveform
from mervid.core.sound.waveform import Waveform


def test_a_byte_an_extreme_is_near_enough() -> None:
    rng = np.random.default_rng(1)
    values = np.clip(rng.normal(0, 8000, (5000, 2)), -32768, 32767).astype(np.int16)
    values[:4] = [[-32768, 32767], [0, 0], [-1, 1], [-300, 300]]
    kept = waveform.from_bytes(Waveform(values, 44_100, 640_000).to_bytes())
    assert (kept.rate, kept.frames) == (44_100, 640_000)
    assert np.abs(kept.extremes.astype(int) - values).max() < 0.016 * 32768
    assert (kept.extremes[1] == 0).all()
    # what is soft is kept finer: within a sixth of itself
    assert np.abs(kept.extremes[3]).tolist() == pytest.approx([300, 300], rel=0.17)


def test_what_an_older_mervid_kept_is_read_and_damage_is_said() -> None:
    values = np.arange(-8, 8, dtype=np.int16).reshape(8, 2)
    out = io.BytesIO()
    np.savez_compressed(out, extremes=values, facts=np.array([48_000, 1024]))
    # there each extreme was of half as many frames
    assert waveform.from_bytes(out.getvalue()).extremes.tolist() == [[-8, -5], [-4, -1], [0, 3], [4, 7]]
    out = io.BytesIO()
    np.savez_compressed(out, soft=np.array([[-127, -1, 0], [127, 1, 64]], np.int8), facts=np.array([48_000, 300]))
    assert waveform.from_bytes(out.getvalue()).extremes.tolist() == [[-32768, 32767], [0, 8322]]
    for damaged in (b"", out.getvalue()[:60], Waveform(values, 48_000, 1024).to_bytes()[:-40]):
        with pytest.raises(FormatError):
            waveform.from_bytes(damaged)
