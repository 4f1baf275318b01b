"""Two starts on one library: the second calls the first, or looks only."""

from __future__ import annotations

import contextlib
import os
import random
import socket
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import QDir
from pytestqt.qtbot import QtBot

import mervid.desk.sole as sole_module
from mervid.desk.sole import HEAD, MAGIC, Sole, message_of
from tests.conftest import PATIENCE_S

HOLD = """
import sys
from pathlib import Path
from PyQt6.QtCore import QCoreApplication
from mervid.desk.sole import Sole
app = QCoreApplication([])
sole = Sole(Path(sys.argv[1]))
assert sole.take()
print("taken", flush=True)
sys.stdin.read()
"""


def test_the_second_start_hands_its_files_to_the_first(qtbot: QtBot, tmp_path: Path) -> None:
    library = tmp_path / "library.sqlite"
    first = Sole(library)
    assert first.take()
    first.listen()
    told: list[list[Path]] = []
    first.called.connect(told.append)
    program = (
        "import sys; from pathlib import Path; from PyQt6.QtCore import QCoreApplication;"
        "from mervid.desk.sole import Sole; app = QCoreApplication([]); s = Sole(Path(sys.argv[1]));"
        "print(s.take(), s.call([Path(a) for a in sys.argv[2:]]))"
    )
    names = ["/music/a tide.ogg", "/music/caf\udce9.mp3"]
    done = subprocess.Popen([sys.executable, "-c", program, str(library), *names], stdout=subprocess.PIPE, text=True)
    qtbot.waitUntil(lambda: bool(told))
    out, _ = done.communicate(timeout=PATIENCE_S)
    assert out.split() == ["False", "2"]
    assert told == [[Path(n) for n in names]]
    # another library is another matter
    other = Sole(tmp_path / "other.sqlite")
    assert other.take()
    other.close()
    first.close()
    again = Sole(library)
    assert again.take()
    again.close()


def send(name: str, data: bytes, *, stay: bool = False) -> bytes:
    """What is answered to bytes; with `stay` the sender doesn't end its side."""
    with socket.socket(socket.AF_UNIX) as s:
        s.settimeout(PATIENCE_S)
        s.connect(os.path.join(QDir.tempPath(), name))
        answer = b""
        with contextlib.suppress(BrokenPipeError, ConnectionResetError):
            s.sendall(data)
        if not stay:
            s.shutdown(socket.SHUT_WR)
        with contextlib.suppress(ConnectionResetError):
            while more := s.recv(4096):
                answer += more
    return answer


def test_thousands_of_names_are_handed_over_whole(qtbot: QtBot, tmp_path: Path) -> None:
    """20,000 names of 250 bytes: 5 MB, many times what one read brings."""
    first = Sole(tmp_path / "library.sqlite")
    assert first.take()
    first.listen()
    told: list[list[Path]] = []
    first.called.connect(told.append)
    names = [Path(f"/music/{'x' * 230}/{k:06d}.flac") for k in range(20_000)]
    answers: list[bytes] = []
    thread = threading.Thread(target=lambda: answers.append(send(first.name, message_of(names), stay=True)))
    thread.start()
    qtbot.waitUntil(lambda: bool(answers))
    thread.join()
    assert answers == [b"taken 20000\n"]
    assert told == [names]
    first.close()


RUBBISH = {
    "noise": random.Random(1).randbytes(4000),
    "old message": b'["2f61"]',
    "deep JSON": b"[" * 100_000,
    "half a head": MAGIC + b"\0\0",
    "half a message": message_of([Path("/a.wav")])[:-2],
    "longer than it says": message_of([Path("/a.wav")]) + b"more",
    "a huge length": HEAD.pack(MAGIC, 1 << 60) + b"x" * 1000,
    "too long a name": message_of([Path("/" + "x" * 300)]),
    "too long a path": HEAD.pack(MAGIC, 5000) + b"/x" * 2500,
    "NUL": HEAD.pack(MAGIC, 7) + b"/a\0\0/b\0",
    "relative": HEAD.pack(MAGIC, 5) + b"a.wav",
}


@pytest.mark.parametrize("kind", RUBBISH)
def test_rubbish_is_refused_in_words_and_nothing_is_raised(
    qtbot: QtBot, tmp_path: Path, kind: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sole_module, "ANSWER_MS", 300)
    first = Sole(tmp_path / "library.sqlite")
    assert first.take()
    first.listen()
    told: list[list[Path]] = []
    first.called.connect(told.append)
    answers: list[bytes] = []
    thread = threading.Thread(target=lambda: answers.append(send(first.name, RUBBISH[kind], stay=True)))
    thread.start()
    qtbot.waitUntil(lambda: bool(answers))
    thread.join()
    assert answers[0].startswith(b"refused ") and told == []
    # and the next one is served
    thread = threading.Thread(target=lambda: answers.append(send(first.name, message_of([Path("/a.wav")]))))
    thread.start()
    qtbot.waitUntil(lambda: len(answers) == 2)
    thread.join()
    assert answers[1] == b"taken 1\n" and told == [[Path("/a.wav")]]
    first.close()


def test_another_user_is_refused(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first = Sole(tmp_path / "library.sqlite")
    assert first.take()
    first.listen()
    # as if the program ran as somebody else
    monkeypatch.setattr(os, "geteuid", lambda: 12345)
    answers: list[bytes] = []
    thread = threading.Thread(target=lambda: answers.append(send(first.name, message_of([Path("/a.wav")]))))
    thread.start()
    qtbot.waitUntil(lambda: bool(answers))
    thread.join()
    assert answers == [b"refused another user may not hand over files\n"]
    first.close()


def test_a_killed_program_leaves_no_lock_and_a_silent_one_is_told_apart(qtbot: QtBot, tmp_path: Path) -> None:
    library = tmp_path / "library.sqlite"
    holder = subprocess.Popen(
        [sys.executable, "-c", HOLD, str(library)], stdout=subprocess.PIPE, stdin=subprocess.PIPE, text=True
    )
    assert holder.stdout is not None
    assert holder.stdout.readline() == "taken\n"
    sole = Sole(library)
    assert not sole.take()
    # it holds the library and doesn't listen
    assert sole.call([]) is None
    holder.kill()
    holder.wait()
    assert sole.take()
    sole.close()


@pytest.mark.parametrize("folder", ["gone/deep", "file/in the way"])
def test_where_no_lock_can_be_written_nobody_is_kept_out(tmp_path: Path, folder: str) -> None:
    (tmp_path / "file").write_text("")
    sole = Sole(tmp_path / folder / "library.sqlite")
    assert sole.take()
    sole.close()
