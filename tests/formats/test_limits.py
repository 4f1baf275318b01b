"""Small files that would take the machine: refused by size and count, in words, before anything is made of them."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import attrs
import pytest

from mervid.core.errors import FormatError
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.preparation import Preparation
from mervid.formats import exchange, limits, playlist, recipe
from mervid.jobs import jams_folder
from mervid.store.library import Library

GRIDDED = Preparation(grid=Grid((Pin(0.0, 0.0), Pin(100.0, 200.0))))


def jams(beats: int, others: int = 0) -> str:
    """A JAMS of so many beats, and so many other observations."""

    def data(count: int) -> list[dict[str, object]]:
        return [{"time": 0.5 * k, "duration": 0.0, "value": 1, "confidence": None} for k in range(count)]

    told = [{"namespace": "beat", "data": data(beats)}, {"namespace": "chord", "data": data(others)}]
    return json.dumps({"file_metadata": {}, "annotations": told, "sandbox": {}})


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("a.jams", lambda: jams(limits.MOST_BEATS + 1), "30,001 beats. Mervid reads 30,000"),
        ("a.jams", lambda: jams(2, limits.MOST_OBSERVATIONS), "observations. Mervid reads 100,000"),
        ("a.jams", lambda: '{"annotations": [' + "[]," * 200_000 + "[]]}", "observations. Mervid reads 100,000"),
        ("a.jams", lambda: '{"annotations":' + "[" * 100_000, "not JSON"),
        ("a.jams", lambda: '{"a":"' + "x" * limits.MOST_BYTES + '"}', "24 MB large"),
        ("a.labels.txt", lambda: "0\t1\tx\n" * (limits.MOST_LABELS + 1), "labels. Mervid reads 10,000"),
        ("a.labels.txt", lambda: "0\t1\tx\n" + "\n" * limits.MOST_LINES, "lines. Mervid reads 400,000"),
        ("a.beats.txt", lambda: "".join(f"{k}\t1\n" for k in range(limits.MOST_BEATS + 1)), "beats. Mervid reads"),
    ],
)
def test_too_much_of_beats_and_labels_is_refused(
    tmp_path: Path, name: str, text: Callable[[], str], says: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    # what takes minutes is never begun
    monkeypatch.setattr("jsonschema.Draft4Validator", lambda *_: pytest.fail("it was checked"))
    path = tmp_path / name
    path.write_text(text())
    with pytest.raises(FormatError, match=says):
        exchange.take(path, GRIDDED)


def xspf(inside: str) -> str:
    return f'<playlist xmlns="http://xspf.org/ns/0/" version="1"><trackList>{inside}</trackList></playlist>'


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("a.m3u8", lambda: "a\n" * 4_000_000, r"4,000,000 lines in a\.m3u8"),
        ("a.m3u8", lambda: "a\r" * limits.MOST_LINES + "a\r", r"400,001 lines in a\.m3u8"),
        ("a.m3u8", lambda: "a\n" * (limits.MOST_ENTRIES + 1), r"100,001 entries in a\.m3u8"),
        ("a.xspf", lambda: xspf("<a/>" * 2_000_000), "2,000,004 marks"),
    ],
)
def test_playlists_without_end_are_refused(tmp_path: Path, name: str, text: Callable[[], str], says: str) -> None:
    path = tmp_path / name
    path.write_text(text())
    with pytest.raises(FormatError, match=says):
        playlist.read(path)


def test_what_a_library_may_hold_is_read(tmp_path: Path) -> None:
    path = tmp_path / "all.m3u8"
    path.write_text("#EXTM3U\n" + "".join(f"#EXTINF:1,x\n{k}.flac\n" for k in range(50_000)))
    assert len(playlist.read(path).files) == 50_000
    labels = tmp_path / "a.labels.txt"
    labels.write_text("".join(f"{k / 50}\t{k / 50}\tx{k}\n" for k in range(5_000)))
    assert len(exchange.take(labels, GRIDDED).cues) == 5_000
    assert attrs.evolve(exchange.take(labels, GRIDDED), cues=()) == GRIDDED


def test_a_recipe_of_megabytes_is_refused_before_it_is_read(tmp_path: Path) -> None:
    path = tmp_path / "large.toml"
    with path.open("wb") as f:
        f.truncate(1 << 33)
    with pytest.raises(FormatError, match=r"large\.toml is larger than 1 MB"):
        recipe.load(path)


@pytest.mark.parametrize("about", ["[]", "7", "null", '"x"'])
def test_a_folder_of_jams_without_a_description_is_told_by_name(tmp_path: Path, about: str) -> None:
    (tmp_path / "odd.jams").write_text(f'{{"file_metadata": {about}}}')
    with closing(Library(tmp_path / "library.sqlite")) as library:
        library.add(tmp_path / "odd.wav")
        taken = jams_folder.take(library, jams_folder.files_of(tmp_path))
    assert taken.problems == ("odd.jams: this is no JAMS: it has no file_metadata.",)
