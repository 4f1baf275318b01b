"""The whole of a person's work as one file, and its way back: a ZIP with the library, recipes and player profiles.

The library in it is one consistent state (SQLite's online backup), so that the window may go on writing. Before it is
put back it is looked at: what would come, what would change, what would go. What it replaces is kept beside it.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import shutil
import sqlite3
import tempfile
import time
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Any, BinaryIO

import attrs

from ..core.errors import FormatError
from ..core.sound.names import shown
from . import care, schema
from .schema import StoreError

ABOUT, LIBRARY = "mervid-backup.json", "library.sqlite"
FOLDERS = ("recipes", "players")
_MOST = 64 << 30
_MOST_ABOUT = 1 << 16
"""Bytes."""
_LAST = 1e11
"""s; no clock is so far on."""
_ROWS = (*care.WITHOUT_HEARD, "evidence", "prints")
"""Tables whose rows are put back; what words are found by is made anew."""
_SHOWN = 8


@attrs.frozen
class Look:
    """What putting a backup back would do.

    Attributes
    ----------
    made : when it was made, s
    tracks, lists : how many it holds
    comes : titles of tracks that are not in the library now
    goes : titles of tracks that only the library has now
    older : titles of tracks that were edited since it was made
    same : how many tracks are as they are now
    """

    made: float
    tracks: int
    lists: int
    comes: tuple[str, ...]
    goes: tuple[str, ...]
    older: tuple[str, ...]
    same: int

    def sentences(self) -> list[str]:
        """All of it in words."""
        when = time.strftime("%d %B %Y, %H:%M", time.localtime(self.made))
        out = [f"A backup of {when}: {self.tracks} tracks, {self.lists} lists."]
        for titles, words in (
            (self.comes, "come back"),
            (self.goes, "are not in it, and go"),
            (self.older, "were edited since, and are as they were then"),
        ):
            if titles:
                named = ", ".join(titles[:_SHOWN]) + (" …" if len(titles) > _SHOWN else "")
                out.append(f"{len(titles)} tracks {words}: {named}.")
        out.append(f"{self.same} tracks stay as they are.")
        return out


def fill(
    library: Path,
    *,
    home: Path,
    extra: Callable[[], Iterable[tuple[str, bytes]]] = lambda: (),
    now: float | None = None,
) -> Callable[[BinaryIO], None]:
    """What writes a backup into an open file.

    Parameters
    ----------
    home : the folder with a person's recipes and profiles
    extra : more files, by name, such as a JAMS of each track

    Raises
    ------
    StoreError
        On writing: the library can't be read.
    """

    def write(f: BinaryIO) -> None:
        with tempfile.TemporaryDirectory(prefix="mervid-backup-") as folder:
            copy = Path(folder, LIBRARY)
            try:
                schema.copy(library, copy, pages=care.PAGES_AT_ONCE, pause=care.PAUSE_S)
                with closing(sqlite3.connect(copy)) as db:
                    (tracks,) = db.execute("SELECT count(*) FROM tracks WHERE out=0").fetchone()
            except sqlite3.Error as e:
                raise StoreError(f"{library} can't be backed up: {e}.") from None
            with copy.open("rb") as held:
                digest = hashlib.file_digest(held, "sha256").hexdigest()
            about = {"version": schema.VERSION, "made": now or time.time(), "tracks": tracks, "sha256": digest}
            with zipfile.ZipFile(f, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as out:
                out.writestr(ABOUT, json.dumps(about))
                out.write(copy, LIBRARY)
                for name in FOLDERS:
                    for own in sorted((home / name).glob("*.toml")):
                        out.write(own, f"{name}/{own.name}")
                for name, data in extra():
                    out.writestr(name, data)

    return write


@attrs.frozen
class _About:
    """What a backup says of itself: version of its library, when it was made, s, and the digest of that library."""

    version: int
    made: float
    sha256: str


def _about(text: bytes) -> _About:
    """Read what a backup says of itself. Raises `ValueError`, also for a field that stands there twice."""

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        fields = dict(pairs)
        if len(fields) < len(pairs):
            raise ValueError("a field stands there twice")
        return fields

    said = json.loads(text, object_pairs_hook=once)
    version, made, digest = said["version"], said["made"], said["sha256"]
    right = type(version) is int and version > 0 and type(made) in (int, float) and 0 <= made < _LAST
    if not right or not isinstance(digest, str):
        raise ValueError("a field is of another kind")
    return _About(version, float(made), digest)


@contextmanager
def _opened(path: Path) -> Iterator[tuple[zipfile.ZipFile, _About]]:
    """A backup and what it says of itself. Raises `FormatError`."""
    try:
        with zipfile.ZipFile(path) as box:
            if box.getinfo(ABOUT).file_size > _MOST_ABOUT:
                raise ValueError(ABOUT)
            said = _about(box.read(ABOUT))
            info = box.getinfo(LIBRARY)
            if said.version > schema.VERSION:
                raise FormatError(f"{shown(path)} was made by a newer Mervid: start that to put it back.")
            if info.file_size > _MOST:
                raise FormatError(f"{shown(path)} claims to hold {info.file_size >> 30} GB: that can't be right.")
            yield box, said
    except FormatError:
        raise
    except (
        zipfile.BadZipFile,
        zlib.error,
        KeyError,
        ValueError,
        TypeError,
        EOFError,
        NotImplementedError,
        RuntimeError,
    ):
        raise FormatError(f"{shown(path)} is no backup of Mervid, or it is damaged.") from None
    except OSError as e:
        raise FormatError(f"{shown(path)} can't be read: {e.strerror or e}.") from None


def unpack(path: Path, target: Path) -> float:
    """Put the library of a backup at `target`, proved whole and brought up to date; when it was made.

    Raises
    ------
    FormatError
        It is no backup, newer than this program, or damaged.
    OSError
        It can't be written.
    """
    part = target.with_name(f"{target.name}.part")
    taken = target.with_name(f"{target.name}.rows")
    for one in (part, taken):
        one.unlink(missing_ok=True)
    try:
        with _opened(path) as (box, said):
            found = hashlib.sha256()
            with box.open(LIBRARY) as source, part.open("xb") as out:
                os.fchmod(out.fileno(), 0o600)
                while block := source.read(1 << 20):
                    found.update(block)
                    out.write(block)
                out.flush()
                os.fsync(out.fileno())
            if found.hexdigest() != said.sha256:
                raise FormatError(f"{shown(path)} is damaged: its library isn't what was written.")
        damage = care.check(part)
        if damage:
            raise FormatError(f"{shown(path)} holds a damaged library: {damage}.")
        _refuse_what_acts(path, part)
        schema.prepare(part)
        for left in part.parent.glob(f"{part.name}.version*"):
            left.unlink()
        _take_rows(path, part, taken)
        os.replace(taken, target)
        return said.made
    except StoreError as e:
        raise FormatError(str(e)) from None
    finally:
        for one in (part, taken):
            for ending in ("", "-wal", "-shm", "-journal"):
                one.with_name(one.name + ending).unlink(missing_ok=True)


def _refuse_what_acts(path: Path, library: Path) -> None:
    """Raise `FormatError` where a library carries what acts by itself: Mervid's has none of these."""
    with closing(schema.read_only(library)) as db:
        row = db.execute("SELECT type, name FROM sqlite_master WHERE type IN ('trigger', 'view')").fetchone()
    if row:
        raise FormatError(f"{shown(path)} holds a library with a {row[0]} of its own ({row[1]}): it isn't Mervid's.")


def _take_rows(path: Path, library: Path, target: Path) -> None:
    """Write the rows of a library that came along into a new one of ours. Raises `FormatError`."""
    os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    try:
        with closing(sqlite3.connect(target.absolute().as_uri(), uri=True, isolation_level=None)) as new:
            new.executescript(schema.TABLES)
            schema.take_rows(new, library, _ROWS)
            odd = schema.odd_value(new, _ROWS)
    except sqlite3.Error as e:
        raise FormatError(f"{shown(path)} holds a library that can't be taken over: {e}.") from None
    if odd:
        raise FormatError(f"{shown(path)} holds a library with a value of another kind in {odd}.")


def look(path: Path, library: Path) -> Look:
    """What putting a backup back would do to a library. Raises `FormatError`, `OSError`."""
    with tempfile.TemporaryDirectory(
        prefix="mervid-look-", dir=library.parent if library.parent.is_dir() else None
    ) as d:
        copy = Path(d, LIBRARY)
        made = unpack(path, copy)
        then, lists = _tracks(copy)
        here, _ = _tracks(library)
    comes = [t for k, (t, *_) in then.items() if k not in here]
    goes = [t for k, (t, *_) in here.items() if k not in then]
    older = [t for k, (t, *rest) in here.items() if k in then and list(then[k][1:]) != rest]
    same = len(then) - len(comes) - len(older)
    return Look(made, len(then), lists, tuple(comes), tuple(goes), tuple(older), same)


def _tracks(path: Path) -> tuple[dict[bytes, tuple[Any, ...]], int]:
    """Title, head and what is in force of each track, by its file; and how many lists there are."""
    if not path.exists():
        return {}, 0
    sql = (
        "SELECT path, title, head, own_tags, own_key, "
        "(SELECT value FROM history WHERE track_id=id AND seq=head) FROM tracks WHERE out=0"
    )
    try:
        with closing(schema.read_only(path)) as db:
            db.text_factory = lambda raw: raw.decode("utf-8", "replace")
            rows = {bytes(p): tuple(rest) for p, *rest in db.execute(sql)}
            (lists,) = db.execute("SELECT count(*) FROM lists WHERE kind<>'folder'").fetchone()
            return rows, int(lists)
    except sqlite3.Error:
        return {}, 0


# putting it back


def waiting(library: Path) -> Path:
    """Where a library lies that takes this one's place at the next start."""
    return library.with_name(f"{library.name}.restore")


def lay_by(path: Path, library: Path, *, home: Path) -> float:
    """Have a backup put back at the next start; when it was made. Recipes and profiles come at once, none is replaced.

    Raises `FormatError`, `OSError`.
    """
    library.parent.mkdir(parents=True, exist_ok=True)
    made = unpack(path, waiting(library))
    with _opened(path) as (box, _):
        for name in box.namelist():
            folder, _, file = name.partition("/")
            if folder in FOLDERS and file.endswith(".toml") and "/" not in file and not file.startswith("."):
                target = home / folder / file
                if not target.exists() and box.getinfo(name).file_size < 1 << 20:
                    target.parent.mkdir(parents=True, exist_ok=True)
                    target.write_bytes(box.read(name))
    return made


def settle(library: Path, *, now: float | None = None) -> str:
    """Put what waits in the place of the library, before anybody opens it; words for that, empty where nothing waits.

    A kill at any moment leaves the old library or the new one. Raises `OSError`.
    """
    fresh = waiting(library)
    if not fresh.exists():
        return ""
    kept = ""
    if library.exists():
        stamp = time.strftime("%Y%m%d-%H%M%S", time.localtime(now))
        before = library.with_name(f"{library.stem}.before-{stamp}{library.suffix}")
        try:
            # all of it lies in one file then, and nothing in a log that another library would take for its own
            with closing(sqlite3.connect(library)) as db:
                db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            schema.copy(library, before)
        except sqlite3.Error:
            # what can't be read is kept as it lies, with its log
            for ending in ("", "-wal"):
                with suppress(FileNotFoundError):
                    shutil.copyfile(library.with_name(library.name + ending), before.with_name(before.name + ending))
        kept = f" What was there is kept as {before.name}."
        for ending in ("-wal", "-shm"):
            with suppress(OSError):
                library.with_name(library.name + ending).unlink()
    os.replace(fresh, library)
    return f"Your library was put back from a backup.{kept}"


@contextmanager
def alone(library: Path) -> Iterator[bool]:
    """Whether no window has the library; nobody opens one while this lasts."""
    library.parent.mkdir(parents=True, exist_ok=True)
    number = os.open(library.with_name(f"{library.name}.lock"), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(number, fcntl.LOCK_EX | fcntl.LOCK_NB)
        yield True
    except BlockingIOError:
        yield False
    finally:
        os.close(number)
