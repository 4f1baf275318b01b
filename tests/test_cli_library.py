"""`mervid add`, `list`, `show` and `lists`, as a person at a terminal has them; also while something else writes."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import jsonschema
import pytest
import soundfile

from mervid import cli, formats, places
from mervid.core.model import preparation
from mervid.store import lists, others
from mervid.store.library import Library
from mervid.store.lists import Lists
from mervid.store.undo import Undo
from tests.conftest import heard_demo
from tests.desk.conftest import keep_heard


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Data and cache of one's own."""
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("MERVID_CACHE", str(tmp_path / "cache"))
    return tmp_path


def run(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, str, str]:
    code = cli.main(list(words))
    told = capsys.readouterr()
    return code, told.out, told.err


def test_from_a_folder_to_all_that_is_known(home: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Two recordings are added, heard once, found, shown and listed."""
    folder = home / "records" / "side a"
    folder.mkdir(parents=True)
    short, rate = soundfile.read(places.demo_folder() / "Pontoon Static.ogg", stop=44_100 * 30)
    soundfile.write(folder / "01 Buoy Signal - Static.flac", short, rate)
    shutil.copy(places.demo_folder() / "Salt Ledger.ogg", home / "records")
    (folder / "broken.mp3").write_bytes(b"nothing")
    code, out, err = run(capsys, "add", str(home / "records"), "--lists", "--jobs", "2")
    assert code == 1
    assert out == "3 recordings, 3 of them new, 1 can't be heard\n"
    assert "broken.mp3" in err
    assert "3 of 3 done, 100 %" in err
    # heard once: a second time nothing is to do
    code, out, err = run(capsys, "add", str(home / "records" / "Salt Ledger.ogg"))
    assert (code, out, err) == (0, "1 recordings, 0 of them new\n", "")
    code, out, _ = run(capsys, "list", "--where", "ledger tempo:80-95", "--json")
    (row,) = json.loads(out)
    assert (code, row["title"], row["artists"], row["readiness"]) == (0, "Salt Ledger", ["Odd Tonnage"], "draft")
    code, out, _ = run(capsys, "list", "--tsv", "--sort", "tempo:down")
    names, *rows = [line.split("\t") for line in out.splitlines()]
    assert [r[names.index("title")] for r in rows] == ["01 Buoy Signal - Static", "Salt Ledger", "broken"]
    code, out, _ = run(capsys, "show", str(home / "records" / "Salt Ledger.ogg"), "--json")
    told = json.loads(out)
    schema = json.loads((Path(formats.__file__).parent / "schema" / "track.json").read_text())
    for name, value in (("listed", row), ("shown", told)):
        jsonschema.Draft4Validator({**schema["definitions"][name], "$schema": schema["$schema"]}).validate(value)
    facts, _ = heard_demo("Salt Ledger")
    truth = json.loads((places.demo_folder() / "Salt Ledger.json").read_text("utf-8"))
    assert told["length"] == pytest.approx(facts.duration, abs=1e-3)
    assert told["first_beat"] == pytest.approx(truth["downbeats"][0], abs=0.03)
    assert told["tempo_from"] <= told["tempo"] <= told["tempo_to"]
    assert (told["kind"], told["missing"], told["genre"], told["year"]) == ("steady", False, "hip-hop", 1994)
    assert 0 < told["key_chance"] <= 1
    assert 1 <= told["drive"] <= 9
    assert -40 < told["loudness_lufs"] < 0
    for a, b in zip(told["phrases"], told["phrases"][1:], strict=False):
        assert a["end"] == b["start"]
    assert sum(p["bars"] for p in told["phrases"]) > 20
    assert {"start", "end", "bars", "role", "letter", "raised"} == set(told["phrases"][0])
    code, out, _ = run(capsys, "lists", "--json")
    assert [(r["folder"], r["name"], r["tracks"]) for r in json.loads(out)] == [
        ("records", "records", 1), ("records", "side a", 2),
    ]  # fmt: skip
    code, out, _ = run(capsys, "list", "--in", "SIDE A")
    assert (code, len(out.splitlines())) == (0, 2)
    (home / "records" / "Salt Ledger.ogg").unlink()
    assert "missing" in run(capsys, "list", "--where", "ledger")[1]


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (["show", "/nowhere.flac"], "is not there, nor in your library"),
        (["list", "--where", "mood:blue"], "no filter"),
        (["list", "--sort", "weather"], "is no column"), (["list", "--in", "gone"], "no list"),
        (["add", "/nowhere.flac"], "is not there"), (["list", "--json", "--tsv"], "not allowed"), (["add"], "required"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_one_line(home: Path, words: list[str], why: str) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "mervid", *words], capture_output=True, text=True, env=os.environ.copy(), check=False
    )
    assert done.returncode == 2
    assert why in done.stderr
    assert len(done.stderr.splitlines()) == 1
    assert done.stdout == ""


def test_names_that_are_no_utf8_and_pipes_that_close(home: Path) -> None:
    folder = os.fsencode(home / "music")
    os.makedirs(folder)
    for k in range(300):
        Path(os.fsdecode(folder + b"/b\xe5t %d.wav" % k)).write_bytes(b"RIFF")
    env = os.environ.copy()
    added = subprocess.run(
        [sys.executable, "-m", "mervid", "add", "--later", os.fsdecode(folder)],
        capture_output=True,
        env=env,
        check=True,
    )
    assert added.stdout == b"300 recordings, 300 of them new\n"
    told = subprocess.run(
        f"'{sys.executable}' -m mervid list --json | head -c 1; '{sys.executable}' -m mervid list | wc -l",
        shell=True, capture_output=True, text=True, env=env, check=True,
    )  # fmt: skip
    assert (told.stdout, told.stderr) == ("[300\n", "")


def test_an_edit_while_recordings_are_added_is_kept(home: Path) -> None:
    """A window's connection makes lists while the command line adds: both are there afterwards."""
    folder = home / "music"
    folder.mkdir()
    for k in range(600):
        (folder / f"{k}.wav").write_bytes(b"RIFF")
    library = Library(home / "data" / "library.sqlite")
    shelves = Lists(library, Undo(library))
    adding = subprocess.Popen(
        [sys.executable, "-m", "mervid", "add", "--later", str(folder)], stdout=subprocess.PIPE, env=os.environ.copy()
    )
    made = 0
    while adding.poll() is None:
        shelves.make(lists.LIST, f"list {made}")
        made += 1
        time.sleep(0.02)
    assert adding.returncode == 0
    assert library.size() == 600
    assert len(shelves.all()) == made
    assert made > 3
    assert others.announced(library.path) > 0


def test_every_field_of_the_schema_is_in_the_documents() -> None:
    schema = json.loads((Path(formats.__file__).parent / "schema" / "track.json").read_text())
    page = (Path(__file__).parent.parent / "docs" / "formats.md").read_text()
    for part in schema["definitions"].values():
        for name, field in part["properties"].items():
            assert f"`{name}`" in page, name
            for inner, value in field.get("items", {}).get("properties", {}).items():
                assert f"`{name}[].{inner}` | " in page and value["description"] in page, inner


def test_a_recipe_is_applied_to_many_tracks_and_undone(home: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A playlist of two tracks, one of them locked: shown first, placed, reported, undone; nothing else is touched."""
    library = Library(home / "data" / "library.sqlite")
    names = ("Pontoon Static", "Lamplighter")
    ids = [
        keep_heard(library, home / "cache", places.demo_folder() / f"{n}.ogg", places.demo_folder() / f"{n}.ogg")
        for n in names
    ]
    shelves = Lists(library, Undo(library))
    shelves.add(shelves.make(lists.LIST, "Gig"), ids)
    locked = preparation.set_readiness(library.history(ids[1]).preparation, preparation.LOCKED)
    library.replace(ids[1], locked)
    how = ("cues", "Gig", "--recipe", "Every 16 bars")
    code, out, _ = run(capsys, *how, "--dry-run", "--json")
    seen = json.loads(out)
    assert code == 1 and [r["changed"] for r in seen] == [False, False]
    assert seen[0]["placed"] > 1 and seen[1]["problems"] == ["it is locked"]
    assert library.history(ids[0]).preparation.cues == ()
    code, out, _ = run(capsys, *how, "--json")
    made = json.loads(out)
    assert code == 1 and [r["changed"] for r in made] == [True, False]
    placed = library.history(ids[0]).preparation.cues
    assert len(placed) == made[0]["placed"] == seen[0]["placed"]
    assert [c["beat"] for c in made[0]["cues"]] == [c["beat"] for c in seen[0]["cues"]]
    code, out, err = run(capsys, "cues", "--undo")
    assert (code, out) == (0, "1 tracks undone\n")
    assert library.history(ids[0]).preparation.cues == ()
    for words, says in (
        (("cues", "--undo"), "no run"),
        (("cues", "Gig"), "--recipe is missing"),
        (("cues", "Gig", "--recipe", "none such"), "there is no recipe 'none such'"),
        (("cues", "No list", "--recipe", "Every 16 bars"), "there is no list"),
        (("cues", "Gig", "--recipe", "Every 16 bars", "--sure", "7"), "not a probability"),
    ):
        code, out, err = run(capsys, *words)
        assert code == 2 and says in err and out == "" and err.count("\n") == 1, words
    library.close()
