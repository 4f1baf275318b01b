"""Handing over and taking: the open track as a file, and a file into the open track."""

from __future__ import annotations

from pathlib import Path

from ..core import preparation
from ..core.errors import MervidError
from ..formats import exchange
from ..formats.exchange import Subject
from .workbench import Workbench


def export(bench: Workbench, path: Path) -> None:
    """Write the open track in the form that the ending of `path` asks for."""
    t = bench.track
    if t is None:
        return
    try:
        exchange.export(Subject(bench.preparation, bench.evidence, t.title, bench.duration, t.path, t.rate), path)
    except MervidError as e:
        bench.said.emit("problem", str(e))
        return
    except OSError as e:
        bench.said.emit("problem", f"{path.name} can't be written: {e.strerror or e}.")
        return
    bench.said.emit("done", f"Written: {path}")


def import_beats(bench: Workbench, path: Path) -> None:
    """Take beats, phrases and cues from a file."""
    try:
        preparation.refuse_locked(bench.preparation)
        value = exchange.take(path, bench.preparation)
    except UnicodeDecodeError:
        bench.said.emit("problem", f"{path.name} is not text, so it holds no beats to import.")
        return
    except OSError as e:
        bench.said.emit("problem", f"{path.name} can't be read: {e.strerror or e}.")
        return
    except MervidError as e:
        bench.said.emit("problem", f"{path.name}: {e}")
        return
    if bench.commit(preparation.name_of(preparation.take_over), value):
        bench.said.emit("done", f"Taken over from {path.name}.")
