"""A history with a step that can't be read: the newest one that can be is found, and what comes after it goes aside."""

from __future__ import annotations

import contextlib
import sqlite3

from ..core.errors import FormatError
from ..core.model.preparation import Preparation, from_json


def put_aside(db: sqlite3.Connection, track_id: int) -> tuple[int, str, Preparation, int]:
    """Move what comes after the newest readable step up to the present one to the table `broken`.

    Returns
    -------
    that step's number (-1 where none can be read), name and value, and how many steps went aside
    """
    seq, name, value = _newest_readable(db, track_id)
    after = "FROM history WHERE track_id=? AND seq>?"
    db.execute(f"INSERT INTO broken SELECT track_id, seq, name, made, value {after}", (track_id, seq))
    return seq, name, value, db.execute(f"DELETE {after}", (track_id, seq)).rowcount


def _newest_readable(db: sqlite3.Connection, track_id: int) -> tuple[int, str, Preparation]:
    steps = db.execute(
        "SELECT h.seq, h.name, h.value FROM history h JOIN tracks t ON t.id = h.track_id "
        "WHERE h.track_id=? AND h.seq<=t.head ORDER BY h.seq DESC",
        (track_id,),
    )
    for seq, name, text in steps:
        with contextlib.suppress(FormatError):
            return int(seq), str(name), from_json(str(text))
    return -1, "Analysis", Preparation()


def words(lost: int, seq: int, name: str) -> str:
    """What was done, for the person whose work it is."""
    steps = "The last edit" if lost == 1 else f"The last {lost} edits"
    where = f"after '{name}'" if seq > 0 else "as it was heard" if seq == 0 else "without a grid: reset it in Align"
    return f"{steps} of this track can't be read any more and were put aside. It stands {where}."
