"""A recording in another format: in time to the sample, close to what it was, and never coded lossily twice."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from mervid.core.errors import Cancelled, FormatError
from mervid.core.sound import decoding
from mervid.formats import encoding
from tests.conftest import RATE, band


def noise_db(whole: np.ndarray, again: np.ndarray) -> float:
    """What differs, in dB below the sound."""
    n = min(len(whole), len(again))
    return float(10 * np.log10(np.sum((whole[:n] - again[:n]) ** 2) / np.sum(whole[:n] ** 2) + 1e-15))


@pytest.mark.parametrize(
    ("ending", "wanted", "noise"),
    [
        # in 16 bits: half a step of rounding and the dither
        (".wav", {}, -70.0),
        (".aiff", {"bits": 24}, -120.0),
        (".flac", {"bits": 24}, -120.0),
        # hats are noise, which coding changes most
        (".mp3", {"kbps": 320}, -15.0),
        (".m4a", {"kbps": 320}, -20.0),
        (".m4a", {"kbps": 128}, -6.0),
    ],
)
def test_what_is_written_lies_on_what_was_read(
    tmp_path: Path, wav: Callable[..., Path], ending: str, wanted: dict[str, int], noise: float
) -> None:
    source = wav("a.wav", 0.8 * band(6.0), subtype="PCM_24")
    target, shares = tmp_path / f"b{ending}", list[float]()
    assert encoding.convert(source, target, rate=RATE, progress=shares.append, **wanted) == 1.0
    whole, again = decoding.read(source)[0], decoding.read(target)[0]
    # an encoder's run-up is left out by who reads it; what it adds at the end is its own
    assert 0 <= len(again) - len(whole) < 2400
    assert noise_db(whole, again) < noise
    # to the sample
    assert all(noise_db(whole, again) < noise_db(*pair) for pair in ((whole[1:], again), (whole, again[1:])))
    assert shares[-1] == 1.0 and shares == sorted(shares)


def test_what_would_be_cut_off_is_turned_down_and_told(tmp_path: Path, wav: Callable[..., Path]) -> None:
    source = wav("hot.wav", 2.5 * band(3.0), subtype="FLOAT")
    gain = encoding.convert(source, tmp_path / "b.wav", rate=48_000)
    again = decoding.read(tmp_path / "b.wav")[0]
    assert gain < 0.6 and 0.98 < np.abs(again).max() < 1.0


def test_refused_in_words_and_stopped_in_the_middle(tmp_path: Path, wav: Callable[..., Path]) -> None:
    source = wav("a.wav", band(3.0))
    encoding.convert(source, tmp_path / "b.mp3", rate=RATE)
    with pytest.raises(FormatError, match="never coded lossily again"):
        encoding.convert(tmp_path / "b.mp3", tmp_path / "c.m4a", rate=RATE)
    with pytest.raises(FormatError, match=r"nothing is written as '\.xyz'"):
        encoding.convert(source, tmp_path / "c.xyz", rate=RATE)
    with pytest.raises(Cancelled):
        encoding.convert(source, tmp_path / "c.flac", rate=RATE, stop=lambda: True)
