"""The same work without a window, as a subprocess would call it."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import mir_eval
import numpy as np
import pytest

from mervid import places
from mervid.formats import beatlist, jams
from tests.conftest import PATIENCE_S, band, truth


def mervid(*words: str | bytes | Path) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "mervid", *words], capture_output=True, text=True, timeout=PATIENCE_S, check=False
    )


def test_prepare_writes_both_formats(tmp_path: Path) -> None:
    done = mervid("prepare", places.demo_folder() / "Copper Ferry.ogg", "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    (line,) = done.stdout.splitlines()
    name, tempo, spread, pins, worst = line.split("\t")
    assert name == "Copper Ferry"
    assert tempo.startswith("113.")
    assert spread.startswith("range 111.")
    assert "pins" in pins
    assert float(worst.split()[1]) < 16
    assert "100 %" in done.stderr
    times, position = beatlist.read((tmp_path / "out" / "Copper Ferry.beats.txt").read_text())
    reference = truth("Copper Ferry")
    assert mir_eval.beat.f_measure(reference["beats"], times, 0.02) > 0.95
    assert mir_eval.beat.f_measure(reference["downbeats"], times[position == 1], 0.07) > 0.95
    document = jams.read((tmp_path / "out" / "Copper Ferry.jams").read_text())
    assert np.abs(document.grid.time_at(np.round(document.grid.beat_at(times))) - times).max() < 1e-6


def test_prepare_goes_on_after_a_bad_file(tmp_path: Path, wav) -> None:
    bad = tmp_path / "words.mp3"
    bad.write_text("no sound\n" * 100)
    odd = os.fsencode(tmp_path) + b"/caf\xe9.wav"
    os.rename(wav("x.wav", band(20.0, 112.0)), odd)
    done = mervid("prepare", bad, odd, "--out", tmp_path / "out")
    assert done.returncode == 1
    assert len(done.stdout.splitlines()) == 1
    (said,) = [line for line in done.stderr.splitlines() if "mervid:" in line]
    assert "words.mp3 is not a recording" in said
    assert b"caf\xe9.jams" in os.listdir(os.fsencode(tmp_path / "out"))


def test_prepare_places_cues_by_a_recipe_and_says_what_had_no_place(tmp_path: Path) -> None:
    track = places.demo_folder() / "Pontoon Static.ogg"
    done = mervid("prepare", track, "--out", tmp_path, "--recipe", "long-intro dance track")
    assert done.returncode == 0, done.stderr
    assert "Pontoon Static: not placed: break, first break: no break here" in done.stderr
    cues = jams.read((tmp_path / "Pontoon Static.jams").read_text()).cues
    assert [(c.role, c.slot, c.kind) for c in cues] == [
        ("first beat", 0, "both"),
        ("mid-intro", 1, "both"),
        ("drop", 3, "both"),
        ("outro", 4, "both"),
    ]
    broken = tmp_path / "mine.toml"
    broken.write_text('name = "x"\n[[rule]]\nwhat = "drop"\nwhere = "yonder"\n')
    for recipe, says in ((broken, "mine.toml: Line 4, rule 1: where = 'yonder'"), ("nothing", "no recipe 'nothing'")):
        done = mervid("prepare", track, "--out", tmp_path / "no", "--recipe", recipe)
        assert (done.returncode, len(done.stderr.splitlines())) == (2, 1)
        assert says in done.stderr


def test_tell_says_what_is_odd(tmp_path: Path, wav) -> None:
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"RIFF nothing")
    done = mervid("tell", "--expect", "180-240", places.demo_folder() / "Copper Ferry.ogg", bad)
    assert done.returncode == 1
    lines = done.stdout.splitlines()
    assert lines[0] == "Copper Ferry.ogg\twandering"
    # counted twice as fast to lie in the range
    assert any("Wanders between 22" in line for line in lines[1:])
    assert all(line.split("\t")[1] in ("doubt", "odd", "note") for line in lines[1:])
    assert "bad.wav" in done.stderr
    assert not list(tmp_path.glob("*.jams"))


def test_prepare_without_the_ears_weights_says_so_and_goes_on(
    tmp_path: Path, wav, monkeypatch: pytest.MonkeyPatch
) -> None:
    damaged = tmp_path / "torn.npz"
    damaged.write_bytes(b"PK not weights")
    monkeypatch.setenv("MERVID_EAR", str(damaged))
    done = mervid("prepare", wav("x.wav", band(20.0, 112.0)), "--out", tmp_path / "out")
    assert done.returncode == 0
    assert float(done.stdout.split("\t")[1].split()[0]) == pytest.approx(112, rel=0.001)
    assert "The ear's weights are damaged (torn.npz" in done.stderr
    assert "Traceback" not in done.stderr


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["tell", "x.wav", "--expect", "fast"], "'fast' is no range of tempo"),
        (["tell", "x.wav", "--expect", "130-90"], "130 to 90 BPM is no range"),
        (["prepare"], "the following arguments are required: FILE, --out"),
        (["prepare", "x.wav"], "the following arguments are required: --out"),
        (["--nonsense"], "unrecognized arguments: --nonsense"),
        (["/nowhere/x.wav"], "x.wav is not there any more"),
        (["prepare", "x.wav", "--out", "/dev/null/x"], "can't be used"),
        (["prepare", "a/x.wav", "b/x.mp3", "--out", "out"], "would both be written as x.jams"),
    ],
)
def test_wrong_usage_is_one_line_and_exit_code_2(tmp_path: Path, words: list[str], says: str) -> None:
    words = [str(tmp_path / w) if w in ("out",) else w for w in words]
    done = mervid(*words)
    assert done.returncode == 2
    assert done.stdout == ""
    (line,) = done.stderr.splitlines()
    assert says in line


def test_help_tells() -> None:
    for words in (["--help"], ["prepare", "--help"], ["--version"]):
        done = mervid(*words)
        assert done.returncode == 0
        assert "ervid" in done.stdout
