"""Words of tracks in the library: what files say, what a person says instead, and which of both is shown."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import attrs

from ..core.character import key as keys
from ..core.errors import Refused
from ..core.library import tags
from ..core.library.tags import FIELDS, WHOLE, FileWords, Tags
from . import words
from .library import Library
from .track import title_of
from .undo import Undo

_AT_ONCE = 400


@attrs.frozen
class Said:
    """What is shown of a track, what its file says, and what a person changed."""

    shown: Tags
    file: Tags
    own: dict[str, Any]


def unread(library: Library, most: int) -> list[tuple[int, Path]]:
    """Tracks whose files were not asked yet, so many at most."""
    ids = library.rows("SELECT id FROM tracks WHERE file_tags='' AND gone=0 AND out=0 ORDER BY id LIMIT ?", (most,))
    return library.paths([int(i) for (i,) in ids])


def keep_read(library: Library, found: Mapping[int, FileWords]) -> None:
    """Keep what files say; a person's own words stay in force."""
    with library.writing() as db:
        for number, read in found.items():
            row = db.execute("SELECT path, own_tags, seconds FROM tracks WHERE id=?", (number,)).fetchone()
            if row is None:
                continue
            db.execute(
                "UPDATE tracks SET file_tags=?, format=CASE ? WHEN '' THEN format ELSE ? END, bitrate=?, lossless=?, "
                "seconds=CASE WHEN frames>0 THEN seconds ELSE ? END, cover=? WHERE id=?",
                (
                    json.dumps(attrs.asdict(read.tags), ensure_ascii=False), read.format, read.format, read.bitrate,
                    read.lossless, read.seconds, read.cover, number,
                ),
            )  # fmt: skip
            # what was written into the file since needs no other word beside it
            own = {name: value for name, value in _own(row[1]).items() if value != getattr(read.tags, name)}
            text = json.dumps(own, ensure_ascii=False) if own else ""
            db.execute("UPDATE tracks SET own_tags=? WHERE id=?", (text, number))
            _show(db, number, read.tags, own)
        words.index(db, list(found))


def _own(text: str) -> dict[str, Any]:
    try:
        value = json.loads(text) if text else {}
    except ValueError:
        return {}
    return {k: v for k, v in value.items() if k in FIELDS} if isinstance(value, dict) else {}


def _of(text: str) -> Tags:
    try:
        return tags.of(json.loads(text)) if text else Tags()
    except (ValueError, AttributeError):
        return Tags()


def _show(db: sqlite3.Connection, number: int, file: Tags, own: Mapping[str, Any]) -> None:
    """Put in force what a person says, else the file, else the file's name."""
    values = {name: own.get(name, getattr(file, name)) for name in FIELDS}
    if not values["title"]:
        (path,) = db.execute("SELECT path FROM tracks WHERE id=?", (number,)).fetchone()
        values["title"] = title_of(Path(bytes(path).decode("utf-8", "surrogateescape")))
    changes = ", ".join(f"{name}=?" for name in FIELDS)
    db.execute(f"UPDATE tracks SET {changes} WHERE id=?", (*values.values(), number))


def said_of(library: Library, ids: Sequence[int]) -> dict[int, Said]:
    """All that is said of tracks."""
    out: dict[int, Said] = {}
    names = ", ".join(FIELDS)
    for a in range(0, len(ids), _AT_ONCE):
        some = [int(i) for i in ids[a : a + _AT_ONCE]]
        marks = ",".join("?" * len(some))
        sql = f"SELECT id, file_tags, own_tags, {names} FROM tracks WHERE id IN ({marks})"
        for number, file, own, *values in library.rows(sql, some):
            shown = Tags(**dict(zip(FIELDS, values, strict=True)))
            out[int(number)] = Said(shown, _of(file), _own(own))
    return out


class Tagging:
    """Words and keys by hand; every write is one act that can be taken back."""

    def __init__(self, library: Library, undo: Undo) -> None:
        self._library, self._undo = library, undo

    def said(self, ids: Sequence[int]) -> dict[int, Said]:
        """All that is said of these tracks."""
        return said_of(self._library, ids)

    def change(self, values: Mapping[int, Mapping[str, Any]], act: str = "Change tags") -> int:
        """Let a person's words stand for fields of tracks; how many tracks became different by it."""
        said = self.said(list(values))
        changed = 0
        with self._undo.act(act) as db:
            for number, new in values.items():
                if number not in said:
                    continue
                own = dict(said[number].own)
                for name, value in new.items():
                    # the file's own word needs no other beside it
                    if value == getattr(said[number].file, name):
                        own.pop(name, None)
                    else:
                        own[name] = value
                if own != said[number].own:
                    text = json.dumps(own, ensure_ascii=False) if own else ""
                    db.execute("UPDATE tracks SET own_tags=? WHERE id=?", (text, number))
                    _show(db, number, said[number].file, own)
                    changed += 1
        return changed

    def set_field(self, ids: Sequence[int], name: str, text: str) -> int:
        """The same words in one field of many tracks. Raises `Refused` where it can't hold them."""
        value = tags.checked(name, text)
        return self.change({i: {name: value} for i in ids}, f"{tags.NAMES[name]} of {_count(len(ids))}")

    def as_in_file(self, ids: Sequence[int]) -> int:
        """What files say is in force again."""
        said = self.said(ids)
        back = {i: {name: getattr(s.file, name) for name in s.own} for i, s in said.items()}
        return self.change(back, "Tags as in the file")

    def apply(self, ids: Sequence[int], names: Sequence[str], tool: str) -> int:
        """One of `tags.CASES` over fields of many tracks."""
        said = self.said(ids)
        work = tags.CASES[tool]
        new = {
            i: {n: work(getattr(s.shown, n)) for n in names if n not in WHOLE and getattr(s.shown, n)}
            for i, s in said.items()
        }
        return self.change(new, tool)

    def from_names(self, ids: Sequence[int], pattern: str) -> tuple[int, int]:
        """Words from the names of files: how many tracks changed, and how many names don't fit the pattern."""
        new: dict[int, dict[str, Any]] = {}
        for a in range(0, len(ids), _AT_ONCE):
            for number, path in self._library.paths(list(ids[a : a + _AT_ONCE])):
                found = tags.from_name(title_of(path), pattern)
                if found:
                    new[number] = {n: tags.checked(n, v) for n, v in found.items()}
        return self.change(new, "Tags from file names"), len(ids) - len(new)

    def repair(self, ids: Sequence[int]) -> int:
        """Take the proposals for words whose bytes were read in the wrong encoding."""
        return self.change({i: tags.proposal(s.shown) for i, s in self.said(ids).items()}, "Repair letters")

    def set_key(self, ids: Sequence[int], text: str) -> None:
        """A key by hand; nothing is what was heard. Raises `Refused` where it is none."""
        own = keys.named(text).name if text.strip() else ""
        with self._undo.act(f"Key of {_count(len(ids))}") as db:
            db.executemany(
                "UPDATE tracks SET own_key=?, key=CASE ? WHEN '' THEN heard_key ELSE ? END WHERE id=?",
                [(own, own, own, i) for i in ids],
            )

    def take_out(self, ids: Sequence[int]) -> None:
        """Take tracks out of the library; their files stay."""
        import time

        with self._undo.act(f"Take {_count(len(ids))} out") as db:
            db.executemany("UPDATE tracks SET out=? WHERE id=?", [(time.time(), i) for i in ids])


def _count(n: int) -> str:
    if not n:
        raise Refused("No track is chosen.")
    return "a track" if n == 1 else f"{n:,} tracks"
