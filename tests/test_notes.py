"""The log, and a report that names nothing of the user's."""

from __future__ import annotations

import faulthandler
import logging
from collections.abc import Iterator
from pathlib import Path

import pytest
from _pytest.faulthandler import fault_handler_stderr_fd_key

from mervid import __version__, notes


@pytest.fixture(autouse=True)
def logging_as_it_was(pytestconfig: pytest.Config) -> Iterator[None]:
    root = logging.getLogger()
    before, level = root.handlers[:], root.level
    yield
    root.handlers[:] = before
    root.setLevel(level)
    # a crash of the tests themselves is to be seen, not noted in a folder that goes
    faulthandler.enable(pytestconfig.stash[fault_handler_stderr_fd_key])


def test_a_report_has_versions_and_the_last_lines_and_no_names(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path))
    notes.begin()
    log = logging.getLogger("mervid.jobs.pool")
    for k in range(200):
        log.info("line %d", k)
    log.error("While hearing track 7: /home/anna/My Music/Tide (live).flac is damaged")
    log.error("Lamplighter (voice only): 4 samples are not numbers; see Lamplighter (voice only).ogg")
    told = notes.report(["Lamplighter", "Lamplighter (voice only)", ""], {"workers": 3})
    assert f"Mervid {__version__}" in told
    assert "workers: 3" in told
    assert "line 199" in told
    assert "line 100" not in told
    for name in ("anna", "Music", "Tide", "Lamplighter", ".flac", ".ogg"):
        assert name not in told, name
    assert "ERROR mervid.jobs.pool: While hearing track 7: (path)" in told


def test_the_log_begins_anew_before_it_grows_large(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path))
    notes.begin()
    for _ in range(60):
        logging.getLogger("mervid").warning("x" * 50_000)
    files = sorted(p.name for p in notes.log_file().parent.iterdir())
    assert files == ["crashes.log", "mervid.log", "mervid.log.1", "mervid.log.2", "mervid.log.3"]
    assert sum(p.stat().st_size for p in notes.log_file().parent.iterdir()) < (notes.KEPT + 1) * notes.SIZE


def test_where_no_log_can_be_kept_the_program_says_so_and_goes_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "file"))
    notes.begin()
    assert "no log can be kept" in capsys.readouterr().err
    assert "(no log)" in notes.report([], {})
