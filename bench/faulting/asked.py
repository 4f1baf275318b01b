"""What other processes ask of the program: messages of a second start, and files that are offered by their URI."""

from __future__ import annotations

import json
import logging
import random
import socket
import sys
import time
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any
from urllib.parse import quote

from bench.faulting import child
from bench.faulting.cases import BAD, REFUSED, RIGHT, Outcome
from mervid.core.errors import MervidError

_ANSWER_S = 10.0
_raised: list[str] = []


@cache
def _server(folder: Path) -> tuple[Any, Any, list[list[Path]]]:
    """An application that listens as the window does, and what was handed over to it."""
    from PyQt6.QtCore import QCoreApplication

    from mervid.desk import sole as second_start
    from mervid.desk.sole import Sole

    # half a message is waited for, here not for long
    second_start.ANSWER_MS = 400
    logging.getLogger(second_start.__name__).setLevel(logging.ERROR)
    sys.excepthook = lambda kind, error, trace: _raised.append(f"{kind.__name__}: {error}")
    app = QCoreApplication.instance() or QCoreApplication(["mervid-bench"])
    sole = Sole(folder / "library.sqlite")
    taken: list[list[Path]] = []
    sole.called.connect(taken.append)
    sole.take()
    sole.listen()
    return app, sole, taken


def _message(rng: random.Random) -> tuple[bytes, int]:
    """A message, and how many names it hands over; -1 where it is to be refused."""
    from mervid.desk.sole import message_of

    names = [
        Path("/music") / f"{rng.randrange(10**9)} {'a' * rng.randrange(200)}.wav" for _ in range(rng.randrange(3000))
    ]
    data = message_of(names)
    kind = rng.randrange(7)
    if kind < 2:
        return data, len(names)
    if kind == 2:
        return data[:16] + rng.randbytes(rng.randrange(1, 500)), -1
    if kind == 3:
        return rng.randbytes(rng.randrange(1, 100_000)), -1
    if kind == 4:
        return b"[" * rng.randrange(1, 100_000), -1
    if kind == 5:
        return message_of([Path("/" + "x" * rng.randrange(256, 6000))]), -1
    # a length that lies
    lies = rng.choice((0, 1, 1 << 40, (1 << 64) - 1))
    return data[:8] + lies.to_bytes(8, "big") + b"x" + data[16:], -1


def messages(folder: Path, number: int) -> Outcome:
    """Message `number`, in pieces of any size: all of it is taken, or it is refused in words."""
    app, sole, taken = _server(folder)
    rng, began = random.Random(f"messages {number}"), time.monotonic()
    data, count = _message(rng)
    taken.clear()
    _raised.clear()
    said, sent, step = b"", 0, rng.choice((7, 1000, 1 << 16, 1 << 20))
    step = max(step, len(data) // 500)
    with socket.socket(socket.AF_UNIX) as end:
        end.connect(str(Path(sole._server.fullServerName())))
        end.setblocking(False)
        while time.monotonic() - began < _ANSWER_S and not said.endswith(b"\n"):
            with suppress(BlockingIOError, BrokenPipeError, ConnectionResetError):
                sent += end.send(data[sent : sent + step]) if sent < len(data) else 0
            app.processEvents()
            with suppress(BlockingIOError, ConnectionResetError):
                said += end.recv(4096)
    app.processEvents()
    words = said.decode("utf-8", "replace").strip()
    here = sum(len(paths) for paths in taken)
    wrong = _raised or (
        words != f"taken {count}" or here != count if count >= 0 else not words.startswith("refused ") or here
    )
    kind = BAD if wrong else RIGHT if count >= 0 else REFUSED
    return Outcome("messages", number, kind, f"{words} {_raised}"[:200], time.monotonic() - began)


def offers(folder: Path, number: int) -> Outcome:
    """URI `number`: a recording of this machine, or refused in words."""
    rng = random.Random(f"offers {number}")
    song, text = folder / "a song.wav", folder / "text.wav"
    if not song.exists():
        song.write_bytes((folder / "clicks.wav").read_bytes())
        text.write_text("no recording")
    paths = (
        str(song),
        str(text),
        str(folder),
        "/etc/passwd",
        "/dev/zero",
        "/dev/tty",
        "/proc/self/mem",
        "",
        "/",
        "a.wav",
        "~",
    )
    schemes = (
        "file://",
        "file:",
        "file://localhost",
        "file://host",
        "http://host",
        "smb://host",
        "",
        "FILE://",
        "data:,",
    )
    uri = rng.choice(schemes) + (quote(rng.choice(paths)) if rng.random() < 0.8 else rng.choice(paths))
    if rng.random() < 0.3:
        i = rng.randrange(len(uri) + 1)
        uri = uri[:i] + rng.choice(("%00", "\0", "%", "..", "//", "?a", "#b", "\n", "%ff", "é")) + uri[i:]

    def act() -> str:
        from mervid.desk.desktop.offered import recording_of

        try:
            found = recording_of(uri)
        except MervidError as e:
            return json.dumps([REFUSED, str(e)[:120]])
        return json.dumps([RIGHT if found.resolve() == song.resolve() else BAD, str(found)])

    end = child.run(act)
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    return Outcome("offers", number, kind, f"{uri!r}: {words}"[:300], end.seconds, end.rss_mb)
