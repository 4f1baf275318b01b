"""What the library writes into its rows, value by value."""

from __future__ import annotations

import os
import sqlite3
import time
from pathlib import Path
from typing import Any

from ..core.model.preparation import Preparation, to_json
from ..core.sound.decoding import Decoded
from . import summary
from .track import WAITING, format_of, title_of

SET_FACTS = (
    "UPDATE tracks SET identity=?, rate=?, frames=?, delay_known=?, size=?, changed_ns=?, seconds=?, contents=?, "
    "gone=0 WHERE id=?"
)


def named(raw: bytes, now: float) -> tuple[str, float, float, str, str]:
    """Title by its file's name, when it came and was changed, its state and format, of a new track."""
    path = Path(os.fsdecode(raw))
    return title_of(path), now, now, WAITING, format_of(path)


def facts(decoded: Decoded) -> tuple[Any, ...]:
    """What `SET_FACTS` sets: what is known of a file once it was decoded."""
    state = decoded.state
    size, changed_ns = (state.size, state.changed_ns) if state is not None else (0, 0)
    d = decoded
    return d.identity, d.rate, d.frames, d.delay_known, size, changed_ns, d.duration, d.contents


def summarise(db: sqlite3.Connection, track_id: int, head: int, s: summary.Summary) -> None:
    """Keep what lists show of a preparation, and which step of the history is in force."""
    db.execute(
        "UPDATE tracks SET head=?, readiness=?, tempo_low=?, tempo_high=?, cues=?, roles=?, "
        "form=CASE ? WHEN '' THEN form ELSE ? END, changed=?, summed=1 WHERE id=?",
        (head, s.readiness, s.tempo_low, s.tempo_high, s.cues, s.roles, s.form, s.form, time.time(), track_id),
    )


def put(db: sqlite3.Connection, track_id: int, seq: int, name: str, value: Preparation) -> None:
    """Write one step of a track's history, and put it in force."""
    db.execute(
        "INSERT OR REPLACE INTO history (track_id, seq, name, made, value) VALUES (?, ?, ?, ?, ?)",
        (track_id, seq, name, time.time(), to_json(value)),
    )
    summarise(db, track_id, seq, summary.of(value))
