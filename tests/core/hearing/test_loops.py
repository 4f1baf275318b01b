"""Files cut to run round: what their length says is what they get. Tempi are arithmetic: 60 * beats / length."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from mervid.cli import preparing
from mervid.core.findings import report
from mervid.core.findings.recommendation import recommend
from mervid.core.hearing import analysis, evidence
from mervid.core.hearing.evidence import Evidence
from mervid.core.model import tempo_range
from tests.conftest import RATE, band

T = np.arange(int(0.25 * RATE)) / RATE
NOISE = np.random.default_rng(2).normal(0, 0.3, len(T))
SOUNDS = {
    "K": np.sin(2 * np.pi * (50 * T + 4 * (1 - np.exp(-T / 0.02)))) * np.exp(-T / 0.07),
    "S": NOISE * np.exp(-T / 0.05),
    "H": np.diff(NOISE, prepend=0.0) * np.exp(-T / 0.015),
    "B": np.sin(2 * np.pi * 82 * T) * np.minimum(1, T / 0.01) * np.exp(-T / 0.12),
}


def loop(lines: dict[str, str], tempo: float, beats: int, *, first: float = 1.0) -> np.ndarray:
    """Steps of a quarter of a beat, over and over, tails running round; `first` is the level of the first hit."""
    n = round(beats * 60 / tempo * RATE)
    out = np.zeros(n + len(T))
    for sound, steps in lines.items():
        for k in range(4 * beats):
            if steps[k % len(steps)] == "x":
                at = round(k * n / (4 * beats))
                out[at : at + len(T)] += 0.5 * SOUNDS[sound] * (first if k == 0 else 1.0)
    out[: len(T)] += out[n:]
    return out[:n].astype(np.float32)


def analysed(folder: Path, samples: np.ndarray) -> tuple[Evidence, float]:
    path = folder / "loop.flac"
    soundfile.write(path, samples, RATE)
    facts, found = analysis.analyse(path)
    return found, facts.duration


ROCK = {"K": "x.......x.x.....", "S": "....x.......x...", "H": "x.x.x.x.x.x.x.x."}
CASES = {
    "four bars of kicks": ({"K": "x..."}, 126.0, 16, 1.0),
    "two bars of hats, the first one quiet": ({"H": "x.x."}, 124.0, 8, 0.2),
    "half a bar of drums": ({"K": "x.......", "S": "....x...", "H": "x.x.x.x."}, 124.0, 2, 1.0),
    "a bar of drums": (ROCK, 93.7, 4, 1.0),
    "sixteen bars of drums": (ROCK, 97.25, 64, 1.0),
    "two bars of bass": ({"B": "x.....x...x....."}, 104.0, 8, 1.0),
}


@pytest.mark.parametrize("name", CASES)
def test_a_loop_has_the_tempo_of_its_length_and_begins_on_its_first_hit(name: str, tmp_path: Path) -> None:
    lines, tempo, beats, first = CASES[name]
    samples = loop(lines, tempo, beats, first=first)
    found, duration = analysed(tmp_path, samples)
    p = recommend(found, duration)
    assert p.grid is not None and len(p.grid.pins) == 2
    assert p.grid.tempo_overall() == pytest.approx(60 * beats * RATE / len(samples), abs=1e-3)
    assert p.grid.meter[0].beats_per_bar == 4
    assert p.grid.bar_start(0) == 0
    assert 0 <= float(p.grid.time_at(0)) < 0.005
    said = [f for f in report.report(report.Question(p, found, duration)).findings if f.key == "loop"]
    assert len(said) == 1 and f"{60 * beats * RATE / len(samples):.3f} BPM" in said[0].text
    again = evidence.from_bytes(evidence.to_bytes(found))
    assert again.loop == found.loop


@pytest.mark.parametrize("what", ["not a whole number of beats", "sound begins later", "fades out", "free hits"])
def test_what_is_no_loop(what: str, tmp_path: Path) -> None:
    samples = loop(ROCK, 101.0, 32)
    if what == "not a whole number of beats":
        samples = samples[: int(len(samples) * 0.789)]
    elif what == "sound begins later":
        samples = np.concatenate([np.zeros(RATE // 2, np.float32), samples])[: len(samples)]
    elif what == "fades out":
        samples = samples * np.clip(np.linspace(2, -2, len(samples)), 0, 1).astype(np.float32)
    else:
        times = np.cumsum(np.random.default_rng(4).uniform(0.15, 0.8, 20))
        samples = np.zeros(round(times[-1] * RATE) + len(T), np.float32)
        for t in [0.0, *times[:-1]]:
            at = round(t * RATE)
            samples[at : at + len(T)] += SOUNDS["S"].astype(np.float32)
    found, _ = analysed(tmp_path, samples)
    assert found.loop is None


@pytest.mark.parametrize(("beats", "lines"), [(2, {"K": "x.......", "S": "....x...", "H": "x.x.x.x.x.x."}), (16, ROCK)])
def test_a_loop_is_counted_within_the_range_that_is_expected(beats: int, lines: dict[str, str], tmp_path: Path) -> None:
    samples = loop(lines, 124.0, beats)
    found, duration = analysed(tmp_path, samples)
    p = recommend(found, duration, tempo_range.of(55.0, 70.0))
    assert p.grid is not None
    assert p.grid.tempo_overall() == pytest.approx(30 * beats * RATE / len(samples), abs=1e-3)
    assert float(p.grid.time_at(0)) < 0.005


def test_a_loop_is_prepared_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    soundfile.write(tmp_path / "half a bar.flac", loop({"K": "x.......", "S": "....x..."}, 124.0, 2), RATE)
    assert preparing.prepare([tmp_path / "half a bar.flac"], tmp_path / "out") == 0
    assert "124.001 BPM" in capsys.readouterr().out
    assert (tmp_path / "out" / "half a bar.jams").exists()


def test_a_song_is_no_loop(tmp_path: Path) -> None:
    found, _ = analysed(tmp_path, band(80.0, 120.0, first=0.0))
    assert found.loop is None
