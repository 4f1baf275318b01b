"""The demo set is what it says it is: sizes, forms, tempi, and a turntable that sways as a record does."""

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile

from mervid import places
from mervid.demo import build
from tests.conftest import DRUMMED, VOICE, truth

FOLDER = places.demo_folder()


def test_the_whole_set_is_small() -> None:
    files = {p.stem for p in FOLDER.glob("*.ogg")}
    assert files == {*DRUMMED, VOICE}
    assert sum(p.stat().st_size for p in FOLDER.glob("*.ogg")) < 12_000_000


@pytest.mark.parametrize("name", DRUMMED)
def test_lengths_sizes_and_forms(name: str) -> None:
    path = FOLDER / f"{name}.ogg"
    assert path.stat().st_size < 2_000_000
    with soundfile.SoundFile(path) as f:
        assert 60 <= f.frames / f.samplerate <= 120
    data = json.loads(path.with_suffix(".json").read_text("utf-8"))
    song = next(s for s in build.SONGS if s.name == name)
    odd = song.odd_bar[1] if song.odd_bar else 0
    assert sum(s["bars"] for s in data["sections"]) * 4 + odd + 1 == len(data["beats"])
    assert {s["start"] for s in data["sections"]} <= set(data["downbeats"])
    assert [(s["kind"], s["bars"]) for s in data["sections"]] == [(s.kind, s.bars) for s in song.form]


def test_the_drummer_wanders_and_the_machine_does_not() -> None:
    ferry = 60 / np.diff(truth("Copper Ferry")["beats"])
    assert 110.9 < ferry.min() < 112.5
    assert 114.5 < ferry.max() < 116.1
    machine = truth("Pontoon Static")["beats"]
    assert 60 * (len(machine) - 1) / (machine[-1] - machine[0]) == pytest.approx(134.994, abs=1e-3)
    assert any(s.bars == 20 for s in build.SONGS[1].form)


def test_the_record_runs_fast_and_sways_at_its_turning_rate() -> None:
    """33 1/3 rpm turns at 0.5556 Hz; wow shows at that rate (wow and flutter measurement: IEC 60386)."""
    beats = truth("Night Barge")["beats"]
    n = np.arange(len(beats))
    tempo = 60 * (len(beats) - 1) / (beats[-1] - beats[0])
    assert tempo / 104 == pytest.approx(1.007, abs=0.0015)
    # what is left after speed and droop, against a sine at each rate
    smooth = np.polyval(np.polyfit(n, beats, 3), n)
    rates = np.linspace(0.3, 0.9, 121)
    found = [np.abs(np.sum((beats - smooth) * np.exp(-2j * np.pi * r * beats))) for r in rates]
    assert rates[int(np.argmax(found))] == pytest.approx(0.5556, abs=0.015)


def test_the_odd_bar_the_step_and_the_voice_are_where_the_truth_says() -> None:
    bars = np.diff(truth("Brass Tide")["downbeats"])
    assert int(np.argmin(bars)) == 20
    assert bars[20] == pytest.approx(bars[19] / 2, rel=0.05)
    slack = 60 / np.diff(truth("Slack Water")["beats"])
    assert [round(float(t), 3) for t in slack[[63, 64, 95, 96]]] == [118.0, 112.0, 112.0, 118.0]
    full, alone = truth("Lamplighter")["beats"], truth(VOICE)["beats"]
    np.testing.assert_allclose(full[full >= 8.2] - 8.2, alone, atol=2e-6)


def test_human_time_is_reproducible() -> None:
    song = build.SONGS[0]
    a, b = (build.beat_times(song, np.random.default_rng(song.seed), 176) for _ in range(2))
    np.testing.assert_array_equal(a, b)
    np.testing.assert_allclose(a, truth("Copper Ferry")["beats"], atol=1e-6)
