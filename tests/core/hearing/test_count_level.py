"""Which level to count at: readings are arithmetic, and demo music counted wrongly is counted right again."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from mervid.core.hearing import beat_tracking, count_level
from mervid.core.hearing.count_level import READINGS, read_as
from tests.conftest import DEMO, heard_demo, truth

NAMES = {r.name: r for r in READINGS}


def test_readings_of_an_even_count() -> None:
    beats = np.arange(10.0, 30.0, 0.5)
    for name, first, step in (
        ("twice as fast", 10.0, 0.25),
        ("half as fast", 10.0, 1.0),
        ("half as fast, on the other beats", 10.5, 1.0),
        ("between the beats", 10.25, 0.5),
        ("three beats for two", 10.0, 1 / 3),
        ("two beats for three", 10.0, 0.75),
    ):
        found = read_as(beats, NAMES[name])
        assert found[0] == pytest.approx(first)
        np.testing.assert_allclose(np.diff(found), step)
        assert beats[-1] - found[-1] < step + 0.25


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize(
    ("wrong", "back"),
    [("as found", "as found"), ("half as fast", "twice as fast"), ("between the beats", "between the beats")],
)
def test_demo_music_is_read_at_its_own_level(name: str, wrong: str, back: str) -> None:
    ear = heard_demo(name)[1].strengths
    assert ear is not None
    shares = count_level.chances(ear, read_as(truth(name)["beats"], NAMES[wrong]))
    assert shares is not None and shares.sum() == pytest.approx(1)
    assert READINGS[int(shares.argmax())].name == back
    assert shares.max() > 0.5


def test_without_its_weights_the_ear_alone_decides(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    evidence = heard_demo(DEMO[0])[1]
    assert evidence.strengths is not None
    (tmp_path / "level.npz").write_bytes(b"not weights")
    monkeypatch.setattr(count_level, "WEIGHTS", tmp_path / "level.npz")
    count_level._learned.cache_clear()
    try:
        assert count_level.chances(evidence.strengths, evidence.heard.times) is None
        found = beat_tracking.follow(evidence.strengths, evidence.attack_strength(), heard_demo(DEMO[0])[0].duration)
        assert 0 < found.level <= 1
    finally:
        count_level._learned.cache_clear()


def test_too_few_beats_say_nothing() -> None:
    ear = heard_demo(DEMO[0])[1].strengths
    assert ear is not None
    assert count_level.chances(ear, np.arange(10.0)) is None
