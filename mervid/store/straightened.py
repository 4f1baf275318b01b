"""Recordings that were straightened, or wait for it: from which track, with what wish, and which track each became."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

import attrs

from ..core.errors import Refused
from ..core.rendering.straightening import Wish
from .file_paths import path_of
from .library import Library

WAITING, DONE, FAILED = "waiting", "done", "failed"


@attrs.frozen
class Straightened:
    """One of them.

    Attributes
    ----------
    id : its number
    source, made : tracks; `made` is 0 until it is done
    target : the file
    told : figures by name where it is done, `why` where it failed
    """

    id: int
    source: int
    made: int
    target: Path
    wish: Wish
    state: str
    told: dict[str, Any]


def _of(row: tuple[Any, ...]) -> Straightened | None:
    number, source, made, target, wish, state, told = row
    try:
        said = json.loads(told) if told else {}
        value = Wish(**json.loads(wish))
    except (ValueError, TypeError, Refused):
        return None
    return Straightened(int(number), int(source), int(made), path_of(bytes(target)), value, str(state), said)


def _read(library: Library, where: str, values: tuple[Any, ...] = ()) -> list[Straightened]:
    sql = f"SELECT id, source, made, target, wish, state, told FROM straightened WHERE {where} ORDER BY id"
    return [s for s in map(_of, library.rows(sql, values)) if s is not None]


def every(library: Library) -> list[Straightened]:
    """All, in the order in which they were asked for."""
    return _read(library, "1")


def waiting(library: Library) -> Straightened | None:
    """The next that waits."""
    found = _read(library, "state=?", (WAITING,))
    return found[0] if found else None


def made_of(library: Library, track_id: int) -> Straightened | None:
    """What a track was made from; None where it is no straightened one."""
    found = _read(library, "made=? AND state=?", (track_id, DONE))
    return found[-1] if found else None


def ask(library: Library, source: int, target: Path, wish: Wish) -> int:
    """A track waits to be straightened; the number of that. What was made under this name before gives way to it."""
    raw = os.fsencode(os.path.abspath(target))
    with library.writing() as db:
        db.execute("DELETE FROM straightened WHERE target=? AND state<>?", (raw, DONE))
        found = db.execute(
            "INSERT INTO straightened (source, target, wish, state) VALUES (?, ?, ?, ?)",
            (source, raw, json.dumps(attrs.asdict(wish)), WAITING),
        )
        return int(found.lastrowid or 0)


def settle(library: Library, number: int, state: str, told: dict[str, Any], made: int = 0) -> None:
    """Note what became of it."""
    with library.writing() as db:
        db.execute("DELETE FROM straightened WHERE made=? AND made<>0 AND id<>?", (made, number))
        db.execute(
            "UPDATE straightened SET state=?, told=?, made=? WHERE id=?",
            (state, json.dumps(told, ensure_ascii=False), made, number),
        )


def drop(library: Library, number: int) -> None:
    """It is not wanted any more."""
    with library.writing() as db:
        db.execute("DELETE FROM straightened WHERE id=? AND state<>?", (number, DONE))
