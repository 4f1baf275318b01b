"""Backups that come from elsewhere: only rows are taken, by a reader that believes nothing."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from mervid import places
from mervid.core.errors import FormatError
from mervid.store import backup
from mervid.store.library import Library


@pytest.fixture
def library(tmp_path: Path) -> Path:
    """A library of one track, closed."""
    path = tmp_path / "library.sqlite"
    with closing(Library(path)) as one:
        one.add(places.demo_folder() / "Copper Ferry.ogg")
    return path


def made(library: Path, target: Path, about: str = "") -> Path:
    """A backup of a library as it lies there; `about` in the place of what it says of itself."""
    data = library.read_bytes()
    said = {"version": 11, "made": 1.7e9, "tracks": 1, "sha256": hashlib.sha256(data).hexdigest()}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as box:
        box.writestr(backup.ABOUT, about or json.dumps(said))
        box.writestr(backup.LIBRARY, data)
    return target


def titles(library: Path) -> list[str]:
    with closing(Library(library)) as one:
        return [t.title for t in one.tracks()]


def test_what_was_backed_up_comes_back(library: Path, tmp_path: Path) -> None:
    fresh = tmp_path / "fresh.sqlite"
    assert backup.unpack(made(library, tmp_path / "a.zip"), fresh) == 1.7e9
    assert titles(fresh) == ["Copper Ferry"]
    with closing(sqlite3.connect(fresh)) as db:
        assert db.execute("SELECT count(*) FROM words WHERE x MATCH 'copper'").fetchone() == (1,)
    assert not list(tmp_path.glob("fresh.sqlite?*"))


@pytest.mark.parametrize(
    "about",
    [
        '{"version": NaN, "made": 1, "sha256": ""}',
        '{"version": 11, "made": NaN, "sha256": ""}',
        '{"version": 11, "made": Infinity, "sha256": ""}',
        '{"version": 1e400, "made": 1, "sha256": ""}',
        '{"version": 11, "made": 1e300, "sha256": ""}',
        '{"version": 11, "made": -5, "sha256": ""}',
        '{"version": true, "made": 1, "sha256": ""}',
        '{"version": 11, "version": 11, "made": 1, "sha256": ""}',
        '{"version": ' + "9" * 5000 + ', "made": 1, "sha256": ""}',
        '{"version": 11, "made": 1, "sha256": [1]}',
        "[" * 60_000,
        '{"version": 11, "made": 1, "sha256": "' + "0" * (1 << 20) + '"}',
        "[]",
    ],
)
def test_what_a_backup_says_of_itself_is_not_believed(library: Path, tmp_path: Path, about: str) -> None:
    with pytest.raises(FormatError, match="is no backup of Mervid, or it is damaged"):
        backup.look(made(library, tmp_path / "a.zip", about), library)


@pytest.mark.parametrize(
    ("statement", "says"),
    [
        ("CREATE TRIGGER t AFTER INSERT ON tracks BEGIN DELETE FROM tracks; END", "a trigger of its own"),
        ("CREATE VIEW v AS SELECT * FROM tracks", "a view of its own"),
        ("ALTER TABLE lists RENAME TO gone", "can't be taken over"),
        ("UPDATE tracks SET path=17", r"a value of another kind in tracks\.path"),
        ("UPDATE tracks SET title=x'ff'", r"a value of another kind in tracks\.title"),
    ],
)
def test_a_library_that_acts_by_itself_is_refused(library: Path, tmp_path: Path, statement: str, says: str) -> None:
    with closing(sqlite3.connect(library)) as db:
        db.execute(statement)
        db.commit()
    fresh = tmp_path / "fresh.sqlite"
    with pytest.raises(FormatError, match=says):
        backup.unpack(made(library, tmp_path / "a.zip"), fresh)
    assert not list(tmp_path.glob("fresh.sqlite*"))


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE TABLE zeta (x)",
        "CREATE INDEX zeta ON tracks (abs(added))",
        "ALTER TABLE tracks ADD COLUMN zeta GENERATED ALWAYS AS (title || 'x')",
    ],
)
def test_nothing_but_rows_of_ours_is_taken(library: Path, tmp_path: Path, statement: str) -> None:
    with closing(sqlite3.connect(library)) as db:
        db.execute(statement)
    fresh = tmp_path / "fresh.sqlite"
    backup.unpack(made(library, tmp_path / "a.zip"), fresh)
    with closing(sqlite3.connect(fresh)) as db:
        whole = " ".join(str(row[0]) for row in db.execute("SELECT sql FROM sqlite_master"))
    assert "zeta" not in whole
    assert titles(fresh) == ["Copper Ferry"]


def without_nul(path: Path) -> list[str]:
    with closing(Library(path)) as one:
        return [str(t.path) for t in one.tracks()] + [str(p) for p in one.sources()]


@pytest.mark.parametrize("read", [titles, without_nul])
def test_a_row_with_a_byte_that_no_path_has_raises_nothing(library: Path, read: Callable[[Path], list[str]]) -> None:
    with closing(sqlite3.connect(library)) as db, db:
        db.execute("UPDATE tracks SET path=?", (b"/music/a\0b.wav",))
    assert read(library) and not any("\0" in one for one in read(library))
