"""`mervid straighten`, `tag`, `deliver`, `sheet`, `backup` and `restore`, as a person at a terminal has them."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from mutagen import flac
from numpy.typing import NDArray

from mervid import cli
from mervid.formats import chapters, delivered, playlist, safe_file, tag_files
from mervid.jobs import delivery_plan
from tests.conftest import RATE, band, clicks, wait_for

LIST = "Night"


@pytest.fixture(scope="module")
def known(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two recordings that a library has heard, in a list of a folder."""
    home = tmp_path_factory.mktemp("known")
    (home / LIST).mkdir()
    soundfile.write(home / LIST / "buoy.flac", band(36, 120.0), RATE)
    soundfile.write(home / LIST / "quay.wav", 0.5 * band(36, 122.0, first=0.6, seed=2), RATE, subtype="PCM_24")
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("MERVID_DATA", str(home / "data"))
        patch.setenv("MERVID_CACHE", str(home / "cache"))
        assert cli.main(["add", str(home / LIST), "--lists"]) == 0
    return home


@pytest.fixture
def home(known: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A copy of that library, with its recordings where they were."""
    shutil.copytree(known / "data", tmp_path / "data")
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("MERVID_CACHE", str(tmp_path / "cache"))
    return known


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str, str]:
    code = cli.main([str(w) for w in words])
    told = capsys.readouterr()
    return code, told.out, told.err


def digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


# straighten


def clicked(path: Path) -> NDArray[np.float64]:
    """A recording of clicks that drift, and where they lie."""
    times = 0.5 + np.cumsum(0.5 * (1 + 0.05 * np.sin(np.arange(60) / 9)))
    soundfile.write(path, clicks(times, float(times[-1]) + 1), RATE)
    return times


@pytest.mark.parametrize("pitch", ["--hold-pitch", "--varispeed"])
def test_straightened_by_given_beats(pitch: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    times = clicked(tmp_path / "pier.wav")
    beats = tmp_path / "pier.beats.txt"
    beats.write_text("".join(f"{t:.6f}\t{k % 4 + 1}\n" for k, t in enumerate(times)))
    before = digest(tmp_path / "pier.wav")
    how = ("--tempo", "118", pitch, "--beats", beats, "--out", tmp_path / "out")
    code, out, err = run(capsys, "straighten", tmp_path / "pier.wav", *how)
    assert code == 0 and out.startswith("pier.wav\t118 BPM\t"), err
    assert digest(tmp_path / "pier.wav") == before
    made = tmp_path / "out" / "pier.straight.flac"
    said = json.loads((tmp_path / "out" / "pier.straight.json").read_text("utf-8"))
    assert said["tempo"] == 118.0
    own, there = np.array(said["map"]).T
    steady = said["first_downbeat"] + 60 / 118 * np.arange(60)
    np.testing.assert_allclose(np.interp(times, own, there), steady, atol=2e-5)
    # the sound is where the map says: a click begins within half a millisecond
    sound, rate = soundfile.read(made)
    assert soundfile.info(made).subtype == "PCM_16"
    for t in steady[2:-2]:
        near = np.abs(sound[int((t - 0.02) * rate) : int((t + 0.02) * rate)])
        begins = int(np.flatnonzero(near > 0.25 * near.max())[0]) / rate - 0.02
        assert abs(begins) < 0.0006
    assert safe_file.what_is(made) == safe_file.STRAIGHT
    # FLAC's own checksum (RFC 9639, 8.2): MD5 over the samples as little-endian whole numbers
    samples = soundfile.read(made, dtype="int16")[0]
    assert flac.FLAC(made).info.md5_signature == int(hashlib.md5(samples.astype("<i2").tobytes()).hexdigest(), 16)
    # an earlier one gives way, anything else doesn't
    assert run(capsys, "straighten", tmp_path / "pier.wav", *how)[0] == 0
    shutil.copy(tmp_path / "pier.wav", made.with_suffix(".flac"))
    code, _, err = run(capsys, "straighten", tmp_path / "pier.wav", *how)
    assert code == 2 and "which is not written over" in err and len(err.strip().splitlines()[-1:]) == 1


def test_straightened_as_the_library_knows_it_with_tags_and_chapters(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    files = sorted((home / LIST).iterdir())
    code, out, _ = run(capsys, "straighten", *files, "--out", tmp_path / "out", "--format", "wav")
    assert code == 0 and [x.split("\t")[1] for x in out.splitlines()] == ["120 BPM", "122 BPM"]
    # the bits of each source
    infos = [soundfile.info(tmp_path / "out" / f"{n}.straight.wav") for n in ("buoy", "quay")]
    assert [i.subtype for i in infos] == ["PCM_16", "PCM_24"]
    assert chapters.read(tmp_path / "out" / "buoy.straight.wav").words["tempo"] == "120"
    assert safe_file.what_is(tmp_path / "out" / "buoy.straight.wav") == safe_file.STRAIGHT


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("--tempo", "5000"), "5000 BPM is no tempo"),
        (("--tempo", "55"), "times as fast as it was played"),
        (("--drift", "300"), "300 % of the drift"),
        (("--varispeed", "--drop-swing"), "only with the pitch held"),
        (("--beats", "nowhere.txt"), "can't be read as a beat list"),
    ],
)
def test_what_can_not_be_straightened_is_said_in_a_line(
    words: tuple[str, ...], told: str, home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, out, err = run(capsys, "straighten", home / LIST / "buoy.flac", "--out", tmp_path / "out", *words)
    assert (code, out) == (2, "") and told in err and "Traceback" not in err
    assert not list(tmp_path.glob("out/*"))


def test_loud_sound_is_turned_down_and_said_or_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    # full scale between the samples, too
    t = np.arange(20 * RATE) / RATE
    soundfile.write(tmp_path / "loud.wav", 0.999 * np.sign(np.sin(2 * np.pi * 220 * t)), RATE)
    (tmp_path / "b.txt").write_text("".join(f"{0.5 + 0.51 * k:.6f}\n" for k in range(38)))
    how = ("--beats", tmp_path / "b.txt", "--tempo", "120", "--varispeed", "--out", tmp_path)
    code, _, err = run(capsys, "straighten", tmp_path / "loud.wav", *how, "--keep-level")
    assert code == 2 and "would clip: between the old samples its peaks reach +" in err
    assert not (tmp_path / "loud.straight.flac").exists()
    code, out, _ = run(capsys, "straighten", tmp_path / "loud.wav", *how)
    assert code == 0 and "turned down by" in out
    assert 0.98 < np.abs(soundfile.read(tmp_path / "loud.straight.flac")[0]).max() <= 1.0


def test_killed_while_it_renders_nothing_is_left_under_its_name(tmp_path: Path) -> None:
    soundfile.write(tmp_path / "long.wav", np.tile(band(40), (4, 1)), RATE)
    (tmp_path / "b.txt").write_text("".join(f"{0.5 + 0.51 * k:.6f}\n" for k in range(600)))
    words = ["straighten", "long.wav", "--beats", "b.txt", "--tempo", "118", "--out", "out"]
    process = subprocess.Popen(
        [sys.executable, "-m", "mervid", *words], cwd=tmp_path, stderr=subprocess.DEVNULL,
        env={**os.environ, "PYTHONPATH": str(Path(cli.__file__).parents[2])},
    )  # fmt: skip
    out = tmp_path / "out"
    wait_for(lambda: any(p.stat().st_size > 100_000 for p in out.glob(".mervid-*")))
    process.send_signal(signal.SIGKILL)
    process.wait()
    left = [p.name for p in out.iterdir()]
    assert left and all(n.startswith(".mervid-") for n in left)
    safe_file.clean(out)
    assert not list(out.iterdir())


# tags


def test_tags_by_a_template_dry_written_copied_and_taken_back(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = Path(shutil.copy(home / LIST / "buoy.flac", tmp_path))
    before = digest(file)
    how = ("tag", file, "--template", "{tempo} {comment}; grouping: {kind}")
    code, out, _ = run(capsys, *how, "--dry-run")
    assert code == 0 and "comment: – → 120" in out and digest(file) == before
    code, out, _ = run(capsys, *how, "--out", tmp_path / "copies")
    assert code == 0 and "copied" in out and digest(file) == before
    assert tag_files.read(tmp_path / "copies" / "buoy.flac")[0].tags.comment == "120"
    assert run(capsys, *how)[1].startswith("buoy.flac\twritten")
    assert "said all of it already" in run(capsys, *how)[1]
    assert tag_files.read(file)[0].tags.comment == "120"
    assert run(capsys, "tag", "--undo")[1] == "buoy.flac\tas it was\n"
    assert digest(file) == before
    assert run(capsys, "tag", "--undo") == (2, "", "mervid: there is no writing of tags to take back\n")
    assert run(capsys, "tag", file, "--template", "artists: {key}")[0] == 2
    code, _, err = run(capsys, "tag", tmp_path / "gone.flac")
    assert code == 2 and "gone.flac is not there" in err


# a folder for a player


def test_delivered_read_back_and_only_once(home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    how = ("deliver", LIST, "--profile", "three hot", "--out", tmp_path / "stick")
    code, out, _ = run(capsys, *how, "--dry-run")
    assert code == 0 and "Music/buoy.aiff\tnew\tFLAC isn't played: AIFF, nothing is lost." in out
    assert not (tmp_path / "stick").exists()
    code, out, _ = run(capsys, *how)
    assert (code, out.splitlines()) == (0, ["Music/buoy.aiff\twritten", "Music/quay.wav\twritten"])
    np.testing.assert_array_equal(
        soundfile.read(tmp_path / "stick/Music/buoy.aiff", dtype="int32")[0],
        soundfile.read(home / LIST / "buoy.flac", dtype="int32")[0],
    )
    assert run(capsys, *how)[1].count("there already") == 2
    said = playlist.read(tmp_path / "stick" / "Lists" / f"{LIST}.m3u8")
    assert [f.name for f in said.files] == ["buoy.aiff", "quay.wav"] and all(f.is_file() for f in said.files)
    ledger = json.loads((tmp_path / "stick" / "Mervid" / "ledger.json").read_text())
    for e in ledger["files"]:
        assert digest(tmp_path / "stick" / e["file"]) == e["sha256"]
    # another list on the same stick; what only the first one held stays
    only = tmp_path / "Short.m3u8"
    playlist.write(only, "Short", [playlist.Entry(home / LIST / "quay.wav", "quay", "", 44)], relative=False)
    code, out, _ = run(capsys, "deliver", only, "--profile", "three hot", "--out", tmp_path / "stick", "--remove")
    assert code == 0 and "removed" not in out and (tmp_path / "stick/Music/buoy.aiff").exists()


def test_two_of_one_name_in_two_formats_keep_a_grid_each(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    two, stick = tmp_path / "two", tmp_path / "stick"
    two.mkdir()
    shutil.copy(home / LIST / "buoy.flac", two / "same.flac")
    shutil.copy(home / LIST / "quay.wav", two / "same.wav")
    for again in range(2):
        assert run(capsys, "deliver", two, "--profile", "A new player", "--out", stick)[0] == 0, again
        read = delivered.read(stick)
        loaded = {f.suffix: delivered.load(read, f) for f in (stick / "Music").iterdir()}
        tempi = {ending: x.grid.tempi[0] for ending, x in loaded.items() if x.grid is not None}
        assert tempi == {".flac": pytest.approx(120, abs=0.1), ".wav": pytest.approx(122, abs=0.1)}


def test_a_lossless_recording_becomes_aac_for_a_phone_and_stays_in_time(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    from mervid.core.sound import decoding

    assert run(capsys, "deliver", LIST, "--profile", "A phone", "--out", tmp_path / "stick")[0] == 0
    got, _ = decoding.read(tmp_path / "stick/Music/buoy.m4a")
    want, _ = decoding.read(home / LIST / "buoy.flac")
    part = slice(2 * RATE, 6 * RATE)
    a, b = got[part, 0], want[part, 0]
    at = np.correlate(b, a[2000:-2000], "valid")
    assert int(at.argmax()) == 2000, "an encoder's run-up is left out"


def test_a_profile_of_ones_own_and_wrong_ones(home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    own = tmp_path / "mine.toml"
    own.write_text('name = "Mine"\nformats = ["wav"]\nrates = [44100]\nlongest_list = 1\ndepth = 0\n')
    code, out, _ = run(capsys, "deliver", LIST, "--profile", own, "--out", tmp_path / "stick")
    assert code == 0 and "buoy.wav\twritten" in out
    assert {p.name for p in (tmp_path / "stick").glob("*.m3u8")} == {f"{LIST} 1.m3u8", f"{LIST} 2.m3u8"}
    own.write_text('name = "Mine"\nwheels = 4\n')
    for words, told in (
        ((LIST, "--profile", own), "'wheels' is no field"),
        ((LIST, "--profile", "nobody"), "no player profile 'nobody'"),
        (("Nothing", "--profile", "A phone"), "no list 'Nothing'"),
    ):
        code, out, err = run(capsys, "deliver", *words, "--out", tmp_path / "other")
        assert (code, out) == (2, "") and told in err
    (tmp_path / "stick" / "Mervid" / "ledger.json").write_text("{")
    code, _, err = run(capsys, "deliver", LIST, "--profile", "A phone", "--out", tmp_path / "stick")
    assert code == 2 and "choose another folder" in err


def test_a_stick_that_is_full_in_the_middle_says_so_and_goes_on_later(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """An injected error: the disk is full while the second file is written."""
    real, calls = delivered.put, []

    def put(target: Path, fill: object, *note: object) -> tuple[int, str]:
        calls.append(target)
        if target.name == "quay.wav":
            raise OSError(28, "No space left on device")
        return real(target, fill, *note)  # type: ignore[arg-type]

    monkeypatch.setattr(delivered, "put", put)
    how = ("deliver", LIST, "--profile", "three hot", "--out", tmp_path / "stick")
    code, out, err = run(capsys, *how)
    assert code == 1 and "quay: No space left" in err and "Music/quay.wav\tnot written" in out
    assert sorted(p.name for p in (tmp_path / "stick" / "Music").iterdir()) == ["buoy.aiff"]
    monkeypatch.setattr(delivered, "put", real)
    code, out, _ = run(capsys, *how)
    assert (code, out.splitlines()) == (0, ["Music/buoy.aiff\tthere already", "Music/quay.wav\twritten"])
    # too little room for all of it is known before
    monkeypatch.setattr(delivery_plan.shutil, "disk_usage", lambda p: shutil._ntuple_diskusage(10, 10, 1000))  # type: ignore[attr-defined]
    code, _, err = run(capsys, "deliver", LIST, "--profile", "A phone", "--out", tmp_path / "second")
    assert code == 2 and "too little room" in err and not (tmp_path / "second").exists()


def test_a_file_that_does_not_read_back_is_not_put_in_place(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    real = delivered.sha256
    monkeypatch.setattr(delivered, "sha256", lambda path, from_disk=False: "another" if from_disk else real(path))
    code, _, err = run(capsys, "deliver", LIST, "--profile", "three hot", "--out", tmp_path / "stick")
    assert code == 2 and "doesn't read back as it was written" in err
    assert not list((tmp_path / "stick" / "Music").iterdir())


def test_killed_in_the_middle_it_goes_on(home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    words = ["deliver", LIST, "--profile", "three hot", "--out", str(tmp_path / "stick")]
    for wait in (0.7, 0.9, 1.1, 1.3):
        process = subprocess.Popen(
            [sys.executable, "-m", "mervid", *words], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        time.sleep(wait)
        process.send_signal(signal.SIGKILL)
        process.wait()
        # what has a name is whole
        for f in (tmp_path / "stick").glob("Music/*.*"):
            if not f.name.startswith("."):
                soundfile.read(f)
    assert run(capsys, *words)[0] == 0
    left = [p for p in (tmp_path / "stick").rglob("*") if p.name.startswith(".")]
    assert not left
    assert len(list((tmp_path / "stick" / "Music").iterdir())) == 2


# paper


def test_a_sheet_as_pdf_and_tsv(home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(capsys, "sheet", LIST, "--out", tmp_path / "night.pdf", "--size", "half", "--paper", "Letter")
    assert code == 0 and out.endswith("2 tracks\t1 page\n")
    assert (tmp_path / "night.pdf").read_bytes().startswith(b"%PDF")
    assert run(capsys, "sheet", LIST, "--out", tmp_path / "night.tsv")[0] == 0
    head, *rows = [x.split("\t") for x in (tmp_path / "night.tsv").read_text().splitlines()]
    assert [r[head.index("tempo")] for r in rows] == ["120", "122"]
    assert "bars, −1.6 %" in rows[0][head.index("next")]
    assert run(capsys, "sheet", LIST, "--out", tmp_path / "night.doc")[0] == 2
    # a sheet of another program's making is not written over
    (tmp_path / "other.pdf").write_bytes(b"%PDF-1.4 of somebody")
    code, _, err = run(capsys, "sheet", LIST, "--out", tmp_path / "other.pdf")
    assert code == 2 and "PDF of another program" in err


# the whole library


def test_backed_up_and_restored_on_another_machine(
    home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "all.zip"
    code, out, _ = run(capsys, "backup", file, "--jams")
    assert code == 0 and "2 tracks\t1 lists" in out
    with zipfile.ZipFile(file) as box:
        assert {"library.sqlite", "jams/buoy.jams", "jams/quay.jams"} <= set(box.namelist())
    # another machine: no library, and the music elsewhere
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "new"))
    music = shutil.copytree(home / LIST, tmp_path / "moved" / "deep")
    moved = tmp_path / "known-elsewhere"
    os.rename(home / LIST, moved)
    try:
        code, out, _ = run(capsys, "restore", file, "--dry-run")
        assert code == 0 and "2 tracks come back: buoy, quay." in out and not (tmp_path / "new").exists()
        code, out, _ = run(capsys, "restore", file, "--music", tmp_path / "moved")
        assert code == 0 and "2 recordings were found" in out
        shown = json.loads(run(capsys, "show", music / "buoy.flac", "--json")[1])
        assert shown["tempo"] == 120.0 and shown["lists"] == [LIST]
    finally:
        os.rename(moved, home / LIST)


def test_what_is_no_backup_changes_nothing(home: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    data = Path(os.environ["MERVID_DATA"]) / "library.sqlite"
    assert run(capsys, "backup", tmp_path / "all.zip")[0] == 0
    before = run(capsys, "list", "--json")[1]
    good = (tmp_path / "all.zip").read_bytes()
    rng = np.random.default_rng(4)
    for k in range(12):
        bad = bytearray(good)
        for at in rng.integers(0, len(good), 1 + 40 * k):
            bad[at] ^= 0xFF
        (tmp_path / "bad.zip").write_bytes(bytes(bad) if k else good[: len(good) // 2])
        code, _, err = run(capsys, "restore", tmp_path / "bad.zip")
        # most changes are noticed; one in a part that nobody reads may not be
        assert code == 0 or (code == 2 and len(err.splitlines()) == 1), err
        assert run(capsys, "list", "--json")[1] == before
    assert run(capsys, "restore", tmp_path / "none.zip")[0] == 2
    assert run(capsys, "backup", home / LIST / "buoy.flac")[0] == 2, "a recording is never written over"
    assert data.exists()


def test_what_wanders_is_made_straight_for_a_player_with_one_tempo(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """At another rate than the recording's; cues and JAMS lie where the sound is."""
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    times = 0.5 + np.cumsum(0.5 * (1 + 0.04 * np.sin(np.arange(90) / 14)))
    sound = band(46, 120.0)
    at = np.interp(np.arange(len(sound)) / RATE, np.r_[0, times], 0.5 * np.arange(91))
    wandering = np.stack([np.interp(at * RATE, np.arange(len(sound)), sound[:, c]) for c in (0, 1)], axis=1)
    soundfile.write(tmp_path / "drummer.wav", 0.5 * wandering[: 44 * RATE].astype(np.float32), RATE)
    own = tmp_path / "mine.toml"
    own.write_text('name = "Mine"\nformats = ["wav"]\nrates = [48000]\njams = true\n')
    how = ("deliver", tmp_path / "drummer.wav", "--profile", own, "--out", tmp_path / "stick", "--straighten")
    assert run(capsys, *how)[0] == 2, "a recording is no list"
    (tmp_path / "l.m3u8").write_text("drummer.wav\n")
    code, _, err = run(capsys, how[0], tmp_path / "l.m3u8", *how[2:])
    assert code == 0, err
    stick = delivered.read(tmp_path / "stick")
    loaded = delivered.load(stick, stick.lists[0][1][0])
    assert soundfile.info(loaded.path).samplerate == 48_000
    assert loaded.preparation.grid is not None and len(loaded.preparation.grid.pins) == 2
    tempo = float(loaded.preparation.grid.tempi[0])
    assert loaded.worst < 0.01 and tempo == pytest.approx(round(tempo)) and loaded.tempo is not None
