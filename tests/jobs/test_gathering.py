"""What stands behind folders and playlists: every recording once, and a word for what isn't there."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from mervid import cli
from mervid.jobs.gathering import gather


def tree(folder: Path) -> None:
    for name in ("b.mp3", "a.flac", "notes.txt", "disc 2/c.ogg", "disc 2/deeper/d.wav", "disc 1/e.m4a"):
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_bytes(b"x")


def test_a_folder_stands_for_all_below_it_also_when_links_lead_back(tmp_path: Path) -> None:
    tree(tmp_path)
    (tmp_path / "disc 1" / "back").symlink_to(tmp_path)
    (tmp_path / "gone").symlink_to(tmp_path / "nowhere")
    found = gather([tmp_path])
    names = [str(p.relative_to(tmp_path)) for p in found.files]
    assert names == ["a.flac", "b.mp3", "disc 1/e.m4a", "disc 2/c.ogg", "disc 2/deeper/d.wav"]
    assert found.remarks == ()


def test_a_playlist_stands_for_its_files_and_says_what_is_missing(tmp_path: Path) -> None:
    tree(tmp_path)
    own = tmp_path / "gig.m3u8"
    own.write_text("b.mp3\ngone.mp3\na.flac\nb.mp3\nhttp://radio.invalid/\ngig.m3u8\n", "utf-8")
    found = gather([own, tmp_path / "a.flac"])
    assert [p.name for p in found.files] == ["b.mp3", "a.flac"]
    assert found.remarks == (
        "gig.m3u8: 1 of its 6 entries are not there: gone.mp3.",
        "gig.m3u8: lists inside a list are not followed: gig.m3u8.",
        "gig.m3u8: 1 entry of it can't be opened, being no file.",
    )


def test_a_file_stands_for_itself_whatever_it_is(tmp_path: Path) -> None:
    assert gather([tmp_path / "none.mp3"]).files == (tmp_path / "none.mp3",)


def test_the_command_line_takes_lists_and_says_what_they_lack(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "empty.m3u").write_bytes(b"#EXTM3U\n")
    (tmp_path / "bad.xspf").write_bytes(b"<nothing")
    assert cli.main(["tell", str(tmp_path / "empty.m3u")]) == 2
    assert "empty.m3u is empty" in capsys.readouterr().err
    assert cli.main([str(tmp_path / "bad.xspf")]) == 2
    assert "is no XSPF playlist" in capsys.readouterr().err
    (tmp_path / "folder").mkdir()
    assert cli.main(["tell", str(tmp_path / "folder")]) == 2
    assert "there is no recording in what was named" in capsys.readouterr().err


def test_a_playlist_takes_in_recordings_only(tmp_path: Path) -> None:
    """A list that names itself, a text, and a file outside of its folder: said, and nothing else comes in."""
    tree(tmp_path)
    outside = os.path.relpath("/etc/passwd", tmp_path)
    lines = ["self.m3u", "notes.txt", outside, "a.flac", "a.flac"]
    (tmp_path / "self.m3u").write_text("\n".join(lines))
    found = gather([tmp_path / "self.m3u"])
    assert [f.name for f in found.files] == ["a.flac"]
    assert [len(one.files) for one in found.lists] == [2]
    assert "lists inside a list" in found.remarks[0]
    assert "2 entries of it can't be recordings: notes.txt, passwd" in found.remarks[1]


def test_folders_become_lists_of_their_own(tmp_path: Path) -> None:
    tree(tmp_path)
    (one,) = gather([tmp_path], folders_too=True).lists
    assert [f.name for f in one.files] == ["a.flac", "b.mp3"]
    assert [(x.name, len(x.files), [y.name for y in x.below]) for x in one.below] == [
        ("disc 1", 1, []), ("disc 2", 1, ["deeper"]),
    ]  # fmt: skip


@pytest.fixture
def deep(tmp_path: Path) -> Iterator[Path]:
    """A folder that may hold a tree too deep for pytest to remove."""
    folder = tmp_path / "deep"
    folder.mkdir()
    yield folder
    subprocess.run(["rm", "-rf", str(folder)], check=True)


def test_a_tree_of_a_thousand_folders_and_names_no_disk_holds(deep: Path) -> None:
    """1,100 folders deep, and more; too long a name stands for itself, and opening it says what is wrong."""
    here = os.open(deep, os.O_RDONLY)
    for _ in range(1100):
        os.mkdir("d", dir_fd=here)
        there = os.open("d", os.O_RDONLY, dir_fd=here)
        os.close(here)
        here = there
    os.close(here)
    for k in range(3):
        deep.joinpath(*["d"] * (20 * k), f"{k}.flac").write_bytes(b"fLaC")
    found = gather([deep, Path("/" + "x" * 300), Path("/" + "y/" * 3000)], folders_too=True)
    assert [f.name for f in found.files[:3]] == ["0.flac", "1.flac", "2.flac"]
    depth, one = 0, found.lists[0]
    while one.below:
        depth, one = depth + 1, one.below[0]
    assert depth <= 12 and len(one.files) == 2
