"""A cut of `bench/faults.py`, and that its harness notices what it is there for."""

from __future__ import annotations

import os
import socket
import time
from pathlib import Path

import numpy as np
import pytest

from bench.faulting import audio, child
from bench.faulting.cases import BAD, Journal, Outcome, table
from bench.faults import faults

CUT = {
    "audio": 108, "imports": 140, "kills": 48, "full": 8, "pages": 6,
    "claims": 42, "texts": 14, "backups": 24, "moves": 6, "tags": 24,
    "messages": 14, "offers": 14, "window": 1, "settings": 2,
}  # fmt: skip
"""Cases of each part: two minutes on a slow core; `bench/faults.py` takes thousands."""


@pytest.mark.parametrize("part", CUT)
def test_nothing_is_lost_and_nothing_gets_in(tmp_path: Path, part: str) -> None:
    outcomes = faults(tmp_path, {part: CUT[part]}, processes=1)
    assert len(outcomes) == CUT[part]
    assert [o for o in outcomes if o.kind == BAD] == []


def shout() -> str:
    raise ZeroDivisionError("by the decoder")


def wait() -> str:
    time.sleep(60)
    return ""


def call_home() -> str:
    socket.socket().close()
    return ""


def grow() -> str:
    return str(len(bytearray(1200 << 20)))


def die() -> str:
    os.abort()


@pytest.mark.parametrize(
    ("act", "says"),
    [
        (shout, "ZeroDivisionError: by the decoder"),
        (wait, "no end after 1 s"),
        (call_home, "opened a socket"),
        (grow, "took 1"),
        (die, "ended by signal 6"),
    ],
)
def test_the_harness_notices_each_fault(act, says: str) -> None:
    assert says in child.run(act, seconds=1.0 if act is wait else 20.0).fault


def test_a_move_of_two_milliseconds_is_seen() -> None:
    x = audio.clicks()[:, 0]
    later = np.concatenate([np.zeros(88, np.float32), x])
    assert audio.worst_shift_ms(x, x, audio.RATE, audio.RATE) == 0
    assert 1.9 < audio.worst_shift_ms(x, later, audio.RATE, audio.RATE) < 2.1
    # nor does a file get by that says another rate
    assert audio.worst_shift_ms(x, x, audio.RATE, 44_000) > 1.0


def test_a_run_goes_on_where_it_ended(tmp_path: Path) -> None:
    first = Journal(tmp_path / "o.jsonl")
    first.add(Outcome("audio mp3", 3, "right"))
    with (tmp_path / "o.jsonl").open("a") as f:
        f.write('{"group": "audio mp3", "num')
    again = Journal(tmp_path / "o.jsonl")
    assert again.done("audio") == {3}
    assert "audio mp3             1       1" in table(again.outcomes)
