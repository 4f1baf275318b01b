"""Playlists as other programs write and read them: which files, in which order.

M3U and M3U8 are lines of paths among comments (M3U8 is UTF-8; M3U is in the writer's own encoding: UTF-8 where it is
that, else Windows-1252). PLS is an INI section of FileN and TitleN. Both are common practice, no source. XSPF is XML
with a URI a track (XSPF Version 1, Xiph.Org, 2006). Relative names count from the playlist's folder.
"""

from __future__ import annotations

import configparser
import os
from collections.abc import Iterable, Sequence
from pathlib import Path
from urllib.parse import quote_from_bytes, unquote_to_bytes, urlsplit

import attrs

from ..core.errors import FormatError
from ..core.sound.names import shown
from . import limits, safe_file

M3U, M3U8, PLS, XSPF = ".m3u", ".m3u8", ".pls", ".xspf"
ENDINGS = (M3U, M3U8, PLS, XSPF)
LONGEST_NUMBER = 9
"""Digits of the number of an entry."""
_XSPF = "{http://xspf.org/ns/0/}"
_LOCAL = ("", "file")


@attrs.frozen
class Playlist:
    """What a playlist names.

    Attributes
    ----------
    title : its own, or its file's name
    files : in order, whether they are there or not; an entry may come twice
    elsewhere : entries that are no files: streams and pages
    """

    title: str
    files: tuple[Path, ...]
    elsewhere: tuple[str, ...] = ()


def read(path: Path) -> Playlist:
    """The playlist in a file.

    Raises
    ------
    FormatError
        It can't be read, or is no such list.
    """
    try:
        with path.open("rb") as f:
            data = f.read(limits.MOST_PLAYLIST_BYTES + 1)
    except OSError as e:
        raise FormatError(f"{shown(path)} can't be read: {e.strerror or e}.") from None
    if len(data) > limits.MOST_PLAYLIST_BYTES:
        raise FormatError(f"{shown(path)} is far too large for a playlist.")
    limits.refuse_many(data.count(b"\n") + data.count(b"\r"), limits.MOST_LINES, f"lines in {shown(path)}")
    kind = path.suffix.lower()
    try:
        if kind == XSPF:
            limits.refuse_many(data.count(b"<"), limits.MOST_LINES * 5, "marks")
            title, entries = _xspf(data)
        elif kind == PLS:
            title, entries = "", _pls(_text(data))
        else:
            title, entries = _m3u(_text(data))
    except FormatError as e:
        raise FormatError(f"{shown(path)} {e}") from None
    limits.refuse_many(entries, limits.MOST_ENTRIES, f"entries in {shown(path)}")
    files: list[Path] = []
    elsewhere: list[str] = []
    for entry in entries:
        found = _path(entry, path.parent, uri=kind == XSPF)
        if found is None:
            elsewhere.append(entry)
        else:
            files.append(found)
    return Playlist(title or path.stem, tuple(files), tuple(elsewhere))


@attrs.frozen
class Entry:
    """One line of a list that is written: its file, title, artists, and length in s."""

    path: Path
    title: str
    artists: str
    seconds: float


def write(path: Path, title: str, entries: Sequence[Entry], *, relative: bool, sources: Iterable[Path] = ()) -> None:
    """Write a list as M3U8 (UTF-8, with a line of length and title before each file) or XSPF, by the ending of `path`.

    Parameters
    ----------
    relative : name files from the list's own folder, so that both can move together
    sources : recordings, which are never written over

    Raises
    ------
    FormatError
        Another ending, or something stands there that must not go.
    OSError
        It can't be written.
    """
    kind = path.suffix.lower()
    if kind not in (M3U8, XSPF):
        raise FormatError(f"{shown(path)}: lists are written as {M3U8} or {XSPF}.")
    names = [_name(e.path, path.parent, relative=relative) for e in entries]
    data = _xspf_of(title, names, entries) if kind == XSPF else _m3u_of(title, names, entries)
    safe_file.write(path, lambda f: f.write(data), sources=sources)


def _name(file: Path, folder: Path, *, relative: bool) -> bytes:
    raw = os.fsencode(os.path.abspath(file))
    if not relative:
        return raw
    return os.path.relpath(raw, os.fsencode(os.path.abspath(folder)))


def _m3u_of(title: str, names: Sequence[bytes], entries: Sequence[Entry]) -> bytes:
    lines = [b"#EXTM3U", b"#PLAYLIST:" + _line(title)]
    for name, e in zip(names, entries, strict=True):
        said = f"{e.artists} - {e.title}" if e.artists else e.title
        # a name that begins with the sign of a comment needs a folder before it
        there = b"./" + name if name.startswith(b"#") else name
        lines += [b"#EXTINF:%d," % round(e.seconds) + _line(said), there]
    return b"\n".join(lines) + b"\n"


def _line(text: str) -> bytes:
    return " ".join(text.split()).encode("utf-8", "replace")


def _xspf_of(title: str, names: Sequence[bytes], entries: Sequence[Entry]) -> bytes:
    from xml.etree import ElementTree

    ElementTree.register_namespace("", _XSPF[1:-1])
    root = ElementTree.Element(f"{_XSPF}playlist", version="1")
    ElementTree.SubElement(root, f"{_XSPF}title").text = _xml(title)
    held = ElementTree.SubElement(root, f"{_XSPF}trackList")
    for name, e in zip(names, entries, strict=True):
        track = ElementTree.SubElement(held, f"{_XSPF}track")
        uri = quote_from_bytes(name)
        ElementTree.SubElement(track, f"{_XSPF}location").text = f"file://{uri}" if name.startswith(b"/") else uri
        ElementTree.SubElement(track, f"{_XSPF}title").text = _xml(e.title)
        if e.artists:
            ElementTree.SubElement(track, f"{_XSPF}creator").text = _xml(e.artists)
        ElementTree.SubElement(track, f"{_XSPF}duration").text = str(round(1000 * e.seconds))
    ElementTree.indent(root)
    return bytes(ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)) + b"\n"


def _xml(text: str) -> str:
    """Text without what XML 1.0 has no place for."""
    return "".join(
        c for c in text if c in "\t\n" or (c >= " " and not "\ud800" <= c <= "\udfff" and c not in "\ufffe\uffff")
    )


def _text(data: bytes) -> str:
    if b"\0" in data[:4096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise FormatError("is no playlist: it holds bytes that no text has.")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def _m3u(text: str) -> tuple[str, list[str]]:
    title, entries = "", []
    for line in map(str.strip, text.splitlines()):
        if line.startswith("#PLAYLIST:"):
            title = line.removeprefix("#PLAYLIST:").strip()
        elif line and not line.startswith("#"):
            entries.append(line)
    return title, entries


def _pls(text: str) -> list[str]:
    parser = configparser.ConfigParser(interpolation=None, strict=False, delimiters=("=",), comment_prefixes=(";", "#"))
    try:
        parser.read_string(text)
    except configparser.Error:
        raise FormatError("is no PLS playlist: it isn't made of sections and names.") from None
    section = next((parser[s] for s in parser.sections() if s.lower() == "playlist"), None)
    if section is None:
        raise FormatError("is no PLS playlist: it has no section [playlist].")
    # names come in small letters, and the order is that of their numbers
    entries = [(k.removeprefix("file"), v) for k, v in section.items() if k.startswith("file") and v]
    numbered = [(int(n), v) for n, v in entries if n.isdecimal() and len(n) <= LONGEST_NUMBER]
    return [v for _, v in sorted(numbered, key=lambda kv: kv[0])]


def _xspf(data: bytes) -> tuple[str, list[str]]:
    from xml.etree import ElementTree

    class Plain(ElementTree.TreeBuilder):
        """Refuses a document type, in which alone entities are declared, in whatever encoding."""

        def doctype(self, *what: object) -> None:
            raise FormatError("declares entities, which no playlist needs.")

    try:
        root = ElementTree.fromstring(data, ElementTree.XMLParser(target=Plain()))
    except (ElementTree.ParseError, ValueError, LookupError) as e:
        raise FormatError(f"is no XSPF playlist: {e}.") from None
    if root.tag != f"{_XSPF}playlist":
        raise FormatError("is no XSPF playlist: it has another kind of content.")
    # a track may name several places: the first is the one to take
    tracks = root.iterfind(f"{_XSPF}trackList/{_XSPF}track")
    found = ((t.findtext(f"{_XSPF}location") or "").strip() for t in tracks)
    return (root.findtext(f"{_XSPF}title") or "").strip(), [x for x in found if x]


def _path(entry: str, folder: Path, *, uri: bool) -> Path | None:
    """The file that an entry names; None where it is none."""
    scheme = entry.split(":", 1)[0].lower() if ":" in entry else ""
    web = len(scheme) > 1 and entry[len(scheme) + 1 :].startswith("//")
    if uri or scheme == "file":
        try:
            parts = urlsplit(entry)
        except ValueError:
            return None
        if parts.scheme.lower() not in _LOCAL or parts.netloc not in ("", "localhost"):
            return None
        name = os.fsdecode(unquote_to_bytes(parts.path))
    elif web:
        return None
    else:
        name = entry
    if "\0" in name or not name:
        return None
    if "\\" in name and not (folder / name).exists():
        # written on a system that parts folders by backslashes
        name = name.replace("\\", "/")
    return Path(os.path.normpath(folder / name))
