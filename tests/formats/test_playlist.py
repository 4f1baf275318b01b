"""Playlists written by hand after the conventions; XSPF after its specification (XSPF Version 1, Xiph.Org, 2006)."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import quote

import pytest

from mervid.core.errors import FormatError
from mervid.formats import playlist

NAMES = ("One & Two.flac", "Grüße.mp3", "deep/three.ogg", "100% #5.wav")


def files(folder: Path) -> list[Path]:
    out = [folder / n for n in NAMES]
    for p in out:
        p.parent.mkdir(parents=True, exist_ok=True)
        p.write_bytes(b"")
    return out


def written(folder: Path, kind: str) -> Path:
    path = folder / f"gig.{kind}"
    lines = list(NAMES)
    lines[2] = str(folder / NAMES[2])
    if kind in ("m3u", "m3u8"):
        head = ["#EXTM3U", "#PLAYLIST:Friday", "#EXTINF:123,Somebody - Something", ""]
        path.write_bytes("\r\n".join([*head, *lines]).encode("cp1252" if kind == "m3u" else "utf-8-sig"))
    elif kind == "pls":
        body = [f"File{k}={line}\nTitle{k}=Nothing\nLength{k}=-1" for k, line in reversed(list(enumerate(lines, 1)))]
        path.write_text("\n".join(["[playlist]", *body, "NumberOfEntries=4", "Version=2"]), "utf-8")
    else:
        uris = [quote(lines[0]), quote(lines[1]), (folder / NAMES[2]).as_uri(), quote(lines[3])]
        tracks = "".join(
            f"<track><title>x</title><location>{u}</location><location>other.mp3</location></track>" for u in uris
        )
        path.write_text(
            '<?xml version="1.0" encoding="UTF-8"?><playlist version="1" xmlns="http://xspf.org/ns/0/">'
            f"<title>Friday</title><trackList>{tracks}</trackList></playlist>",
            "utf-8",
        )
    return path


@pytest.mark.parametrize("kind", ["m3u", "m3u8", "pls", "xspf"])
def test_files_come_in_order_from_every_form(kind: str, tmp_path: Path) -> None:
    wanted = files(tmp_path)
    found = playlist.read(written(tmp_path, kind))
    assert found.files == tuple(wanted)
    assert found.title == ("gig" if kind == "pls" else "Friday")
    assert found.elsewhere == ()


def test_streams_are_told_apart_and_backslashes_part_folders(tmp_path: Path) -> None:
    files(tmp_path)
    path = tmp_path / "mixed.m3u8"
    path.write_text(
        "http://radio.invalid/stream\ndeep\\three.ogg\n../outside.mp3\nfile:///somewhere/a%20b.mp3\n", "utf-8"
    )
    found = playlist.read(path)
    assert found.elsewhere == ("http://radio.invalid/stream",)
    assert found.files == (tmp_path / "deep/three.ogg", tmp_path.parent / "outside.mp3", Path("/somewhere/a b.mp3"))


ENTITY = '<!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>'


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.xspf", b"<playlist", "is no XSPF playlist"),
        ("a.xspf", b'<!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>', "declares entities"),
        ("a.xspf", f'<?xml version="1.0" encoding="UTF-16"?>{ENTITY}'.encode("utf-16"), "declares entities"),
        ("a.xspf", b'<html xmlns="http://xspf.org/ns/0/"/>', "another kind of content"),
        ("a.pls", b"File1=a.mp3", "is no PLS playlist"),
        ("a.pls", b"[other]\nFile1=a.mp3", "no section"),
        ("a.m3u", b"RIFF\0\0\0\0WAVE", "bytes that no text has"),
    ],
)
def test_what_is_no_playlist_is_said(name: str, data: bytes, said: str, tmp_path: Path) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(FormatError, match=said):
        playlist.read(tmp_path / name)


def test_a_playlist_that_is_not_there(tmp_path: Path) -> None:
    with pytest.raises(FormatError, match="can't be read"):
        playlist.read(tmp_path / "none.m3u")


def test_a_number_of_five_thousand_digits_is_no_number_of_an_entry(tmp_path: Path) -> None:
    (tmp_path / "a.pls").write_bytes(b"[playlist]\nFile" + b"1" * 5000 + b"=a.wav\nFile2=b.wav\n")
    assert [f.name for f in playlist.read(tmp_path / "a.pls").files] == ["b.wav"]
