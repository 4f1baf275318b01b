"""Two starts on one library: the second calls the first, or looks only."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from mervid.desk.sole import Sole
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
    assert out.split() == ["False", "True"]
    assert told == [[Path(n) for n in names]]
    # another library is another matter
    other = Sole(tmp_path / "other.sqlite")
    assert other.take()
    other.close()
    first.close()
    again = Sole(library)
    assert again.take()
    again.close()


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
    assert not sole.call([])
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
