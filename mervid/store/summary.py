"""What lists show of a preparation, kept in the tracks table so that no list ever reads a preparation."""

from __future__ import annotations

import itertools
import json
import sqlite3
import threading
from collections.abc import Callable, Iterable
from contextlib import closing
from pathlib import Path
from typing import Any

import attrs

from ..core.character.describe import form_line
from ..core.model.preparation import DRAFT, Preparation

AT_ONCE = 100
"""Tracks filled in with one commit: some 10 ms each way, so that an edit meanwhile hardly waits."""


@attrs.frozen
class Summary:
    """Readiness, slowest and fastest span in BPM (None without a grid), how many cues there are and of which roles.

    `form` is the line of phrases that a person settled; empty where it is read from what was heard.
    """

    readiness: str
    tempo_low: float | None
    tempo_high: float | None
    cues: int
    roles: str = ""
    form: str = ""


def of(p: Preparation) -> Summary:
    """The summary of a preparation."""
    low, high = (float(p.grid.tempi.min()), float(p.grid.tempi.max())) if p.grid is not None else (None, None)
    return Summary(p.readiness, low, high, len(p.cues), _roles(c.role for c in p.cues), form_line(p.grid, p.form))


def _roles(roles: Iterable[str]) -> str:
    return ",".join(dict.fromkeys(roles))


def of_text(text: str) -> Summary:
    """The same from its JSON, without building it; what can't be read counts as a draft without a grid."""
    try:
        p: dict[str, Any] = json.loads(text)
        pins = p["grid"]["pins"] if p["grid"] else []
        tempi = [60 * (b["beat"] - a["beat"]) / (b["time"] - a["time"]) for a, b in itertools.pairwise(pins)]
        return Summary(
            str(p["readiness"]),
            min(tempi, default=None),
            max(tempi, default=None),
            len(p["cues"]),
            _roles(c["role"] for c in p["cues"]),
        )
    except (ValueError, TypeError, KeyError, ZeroDivisionError):
        return Summary(DRAFT, None, None, 0)


def missing(db: sqlite3.Connection) -> int:
    """How many tracks of an older library have no summary yet."""
    return int(db.execute("SELECT count(*) FROM tracks WHERE NOT summed").fetchone()[0])


def fill(path: Path, *, progress: Callable[[int, int], None], stop: threading.Event) -> None:
    """Fill in the summaries that are missing, on a connection of its own; taken up again after `stop` or a kill.

    Raises
    ------
    sqlite3.Error
        The library can't be read or written.
    """
    with closing(sqlite3.connect(path, isolation_level=None, timeout=10)) as db:
        todo, done = missing(db), 0
        while not stop.is_set():
            rows = db.execute(
                "SELECT t.id, t.head, h.value FROM tracks t "
                "LEFT JOIN history h ON h.track_id = t.id AND h.seq = t.head WHERE NOT t.summed LIMIT ?",
                (AT_ONCE,),
            ).fetchall()
            if not rows:
                return
            found = [(attrs.astuple(of_text(value or ""))[:5], number, head) for number, head, value in rows]
            db.execute("BEGIN IMMEDIATE")
            # one that was edited meanwhile has its summary by now
            db.executemany(
                "UPDATE tracks SET readiness=?, tempo_low=?, tempo_high=?, cues=?, roles=?, summed=1 "
                "WHERE id=? AND head=? AND NOT summed",
                [(*values, number, head) for values, number, head in found],
            )
            db.execute("COMMIT")
            done += len(rows)
            progress(done, todo)
