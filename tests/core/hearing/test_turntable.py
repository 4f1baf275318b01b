"""Turntables: sways of known depth and rate laid on the demo's sound, and none heard where there is none.

Wow as IEC 60386 means it: periodic speed variation at the turning rate; peak, unweighted (recalled from memory).
"""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from numpy.typing import NDArray

from mervid import places
from mervid.core.fitting import timekeeping
from mervid.core.hearing import turntable
from mervid.core.hearing.features import Listener
from mervid.core.hearing.turntable import TURNS, Sway, sway
from mervid.core.sound import decoding
from mervid.core.sound.decoding import Resampler
from tests.conftest import heard_demo


@cache
def mono(name: str) -> NDArray[np.float32]:
    """A demo recording at 32 kHz."""
    samples, facts = decoding.read(places.demo_folder() / f"{name}.ogg")
    return Resampler(facts.rate, turntable.RATE)(samples, last=True)


def played(x: NDArray[np.float32], *, depth: float, rate: float, offset: float) -> NDArray[np.float32]:
    """The same sound from a turntable that runs `offset` fast and sways by `depth` (shares) at `rate` Hz."""
    t = np.arange(int(len(x) / (1 + offset)) - turntable.RATE) / turntable.RATE
    place = (1 + offset) * (t - depth / (2 * np.pi * rate) * (np.cos(2 * np.pi * rate * t) - 1))
    return np.interp(place * turntable.RATE, np.arange(len(x)), x).astype(np.float32)


def heard(x: NDArray[np.float32]) -> Sway | None:
    """Hear the sway in chunks, as the listener does."""
    listener = Listener(turntable.RATE)
    for a in range(0, len(x), 320_000):
        listener.push(x[a : a + 320_000])
    return sway(listener.finish().partials)


@pytest.mark.parametrize(
    ("record", "depth", "offset"),
    [("33⅓", 0.001, 0.007), ("33⅓", 0.003, -0.01), ("33⅓", 0.005, 0.0), ("45", 0.002, 0.012), ("78", 0.004, 0.0)],
)
def test_depth_and_rate_of_a_sway(record: str, depth: float, offset: float) -> None:
    found = heard(played(mono("Pontoon Static"), depth=depth, rate=TURNS[record], offset=offset))
    assert found is not None
    assert found.record == record
    assert abs(found.rate - TURNS[record]) < 0.01
    assert abs(found.depth - depth) < 0.0003


def test_no_sway_where_there_is_none() -> None:
    assert heard(mono("Pontoon Static")) is None
    # a drummer's wander bends no pitch
    assert heard(mono("Copper Ferry")) is None
    rng = np.random.default_rng(0)
    assert heard(rng.normal(size=40 * turntable.RATE).astype(np.float32) * 0.1) is None
    assert heard(np.zeros(40 * turntable.RATE, np.float32)) is None
    assert heard(np.zeros(100, np.float32)) is None


def test_a_rip_is_known_as_one() -> None:
    """The demo's own record: its truth says wow at 0.5556 Hz and lead-in noise; its speed is the beats'."""
    _, found = heard_demo("Night Barge")
    assert found.sway is not None
    assert found.sway.record == "33⅓"
    assert found.condition.lead_in == pytest.approx(4.2, abs=0.15)
    study = timekeeping.judge(found.heard, found.attack_strength(), sway=found.sway, condition=found.condition)
    assert study.kind == timekeeping.TURNTABLE
    assert study.steady is not None


def test_the_speed_of_a_record(tmp_path) -> None:  # type: ignore[no-untyped-def]
    """0.7 % fast, measured within 0.05 %: 134.994 BPM becomes 135.939."""
    import soundfile

    from mervid.core.hearing import analysis

    path = tmp_path / "fast.wav"
    soundfile.write(path, played(mono("Pontoon Static"), depth=0.002, rate=TURNS["33⅓"], offset=0.007), turntable.RATE)
    _, found = analysis.analyse(path)
    study = timekeeping.judge(found.heard, found.attack_strength(), sway=found.sway)
    assert study.kind == timekeeping.TURNTABLE
    assert study.steady is not None
    assert abs(study.steady.tempo / 134.994 - 1.007) < 0.0005
