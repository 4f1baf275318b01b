"""`mervid together`, as a person at a terminal has it."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from mervid import cli, places
from tests.conftest import RATE, band


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Data and cache of one's own, and two short recordings at 120 and 122 BPM."""
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("MERVID_CACHE", str(tmp_path / "cache"))
    soundfile.write(tmp_path / "buoy.flac", band(44, 120.0), RATE)
    soundfile.write(tmp_path / "quay.flac", band(44, 122.0, first=0.6, seed=2), RATE)
    return tmp_path


@pytest.fixture(scope="module")
def known(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two recordings that a library has heard: what is asked of them needs no hearing."""
    home = tmp_path_factory.mktemp("known")
    soundfile.write(home / "buoy.flac", band(44, 120.0), RATE)
    soundfile.write(home / "quay.flac", band(44, 122.0, first=0.6, seed=2), RATE)
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("MERVID_DATA", str(home / "data"))
        patch.setenv("MERVID_CACHE", str(home / "cache"))
        assert cli.main(["add", str(home / "buoy.flac"), str(home / "quay.flac")]) == 0
    return home


@pytest.fixture
def library(known: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """That library in use."""
    monkeypatch.setenv("MERVID_DATA", str(known / "data"))
    monkeypatch.setenv("MERVID_CACHE", str(known / "cache"))
    return known


def run(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, str, str]:
    code = cli.main(["together", *words])
    told = capsys.readouterr()
    return code, told.out, told.err


def test_two_recordings_become_one_with_an_account(home: Path, capsys: pytest.CaptureFixture[str]) -> None:
    files = (str(home / "buoy.flac"), str(home / "quay.flac"))
    how = ("--at", "9", "--enter", "1", "--bars", "8", "--split")
    code, out, err = run(capsys, *files, *how, "--out", str(home / "mix"))
    assert code == 0, err
    assert "8 bars: 95 % heard within" in out
    told = json.loads((home / "mix" / "mix.json").read_text())
    sound, rate = soundfile.read(home / "mix" / "mix.flac", always_2d=True)
    assert rate == told["sample_rate"] == RATE
    start, stop = told["overlap"]
    assert stop - start == pytest.approx(16.0, abs=0.1)
    assert {"file", "map", "beats", "downbeats"} <= set(told["leaving"])
    assert len(told["apart_ms"]) >= 30 and max(map(abs, told["apart_ms"])) < 8
    assert 0 < told["forecast_p95_ms"] < 20
    # truth against the account: bands of 120 and 122 BPM carried through its maps
    maps = [np.array(told[w]["map"]).T for w in ("leaving", "coming")]
    mine = np.interp(0.5 + np.arange(80) * 0.5, *maps[0], left=np.nan, right=np.nan)
    theirs = np.interp(0.6 + np.arange(80) * 60 / 122, *maps[1], left=np.nan, right=np.nan)
    inside = theirs[(theirs > start - 0.01) & (theirs < stop - 0.01)]
    assert len(inside) >= 31
    assert 1000 * np.abs(inside[:, None] - mine[np.isfinite(mine)]).min(axis=1).max() < 10
    # and heard: in the overlap kicks of both begin within some ms of each other, left and right
    kicks = [x for x in told["leaving"]["beats"] if start + 1 < x < stop - 1]
    for at in kicks[::2]:
        near = np.abs(sound[round((at - 0.05) * RATE) : round((at + 0.05) * RATE)])
        assert near.max(axis=0).min() > 0.05
    # nothing of it is in a library
    assert not (home / "data" / "library.sqlite").exists()


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (("{a}", "{a}.gone"), "is not there"),
        (("{text}", "{a}"), "words.flac"),
        (("{a}", "{b}", "--clock", "sun"), "'sun' is no clock"),
        (("{a}", "{b}", "--clock", "steady"), "is no clock"),
        (("{a}", "{b}", "--at", "400"), "has no bar 400"),
        (("{a}", "{b}", "--enter", "chorus of gulls"), "is no place in quay"),
        (("{a}", "{b}", "--bars", "200"), "too short for an overlap of 200"),
        (("{a}", "{b}", "--clock", "steady:9000"), "10 to 1000 BPM"),
        (("{hiss}", "{a}"), "digital silence"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_in_one_line(
    library: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], words: tuple[str, ...], why: str
) -> None:
    (tmp_path / "words.flac").write_text("not a sound")
    soundfile.write(tmp_path / "hiss.wav", np.zeros((RATE, 1)), RATE)
    named = {
        "a": library / "buoy.flac", "b": library / "quay.flac", "text": tmp_path / "words.flac",
        "hiss": tmp_path / "hiss.wav",
    }  # fmt: skip
    code, out, err = run(capsys, *(w.format(**named) for w in words), "--out", str(tmp_path / "mix"))
    said = err.splitlines()
    assert (code, out, len(said)) == (2, "", 1), err
    assert re.search(why, said[0]), said[0]
    assert not list((tmp_path / "mix").glob("*"))


@pytest.mark.parametrize("bars", ["0", "-4", "many", "300"])
def test_a_number_of_bars_that_is_none(tmp_path: Path, capsys: pytest.CaptureFixture[str], bars: str) -> None:
    with pytest.raises(SystemExit) as stopped:
        run(capsys, "a.flac", "b.flac", f"--bars={bars}", "--out", str(tmp_path / "mix"))
    said = capsys.readouterr().err
    assert stopped.value.code == 2 and said.count("\n") == 1 and "is no number of bars" in said


def test_a_track_of_the_library_is_taken_as_it_was_prepared(
    library: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    before = (places.data_folder() / "library.sqlite").read_bytes()
    files = (str(library / "buoy.flac"), str(library / "quay.flac"))
    code, _, err = run(capsys, *files, "--bars", "4", "--clock", "glide", "--varispeed", "--out", str(tmp_path / "mix"))
    assert code == 0, err
    # heard once, when it was added
    assert "0 of 3" not in err
    assert (places.data_folder() / "library.sqlite").read_bytes() == before


def test_killed_in_the_middle_nothing_half_is_left(library: Path, tmp_path: Path) -> None:
    out = tmp_path / "mix"
    words = ["together", str(library / "buoy.flac"), str(library / "quay.flac"), "--bars", "8", "--out", str(out)]
    for after in (0.0, 0.15):
        running = subprocess.Popen([sys.executable, "-m", "mervid", *words], stderr=subprocess.PIPE, text=True)
        assert running.stderr is not None
        # the last of three tasks has begun
        assert any(line.startswith("2 of 3") for line in running.stderr)
        time.sleep(after)
        running.kill()
        running.wait()
        if (out / "mix.flac").exists():
            assert soundfile.info(out / "mix.flac").frames > 8 * 2 * RATE
    assert cli.main(words) == 0
    # what the killed ones left is cleaned away by the next
    assert sorted(p.name for p in out.iterdir()) == ["mix.flac", "mix.jams", "mix.json"]
