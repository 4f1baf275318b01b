"""Handing beats over and taking them: the open track as a file, and a file into the open track."""

from __future__ import annotations

from pathlib import Path

from ..core import preparation
from ..core.errors import MervidError
from ..formats import exchange
from .workbench import Workbench


def export(bench: Workbench, path: Path) -> None:
    """Write the open track as JAMS (.jams) or as a beat list (any other ending)."""
    if bench.track is None:
        return
    try:
        text = exchange.export_text(
            bench.preparation, bench.evidence, bench.track.title, bench.duration, as_jams=path.suffix == ".jams"
        )
        exchange.write_new(path, text)
    except MervidError as e:
        bench.said.emit("problem", str(e))
        return
    except OSError as e:
        bench.said.emit("problem", f"{path.name} can't be written: {e.strerror or e}.")
        return
    bench.said.emit("done", f"Written: {path}")


def import_beats(bench: Workbench, path: Path) -> None:
    """Take beats, and cues where there are any, from a JAMS file or a beat list."""
    try:
        grid, cues = exchange.import_text(path.read_text("utf-8"), bench.preparation)
    except UnicodeDecodeError:
        bench.said.emit("problem", f"{path.name} is not text, so it holds no beats to import.")
        return
    except OSError as e:
        bench.said.emit("problem", f"{path.name} can't be read: {e.strerror or e}.")
        return
    except MervidError as e:
        bench.said.emit("problem", f"{path.name}: {e}")
        return
    if bench.apply(preparation.take_over, grid, cues):
        bench.said.emit("done", f"Beats taken over from {path.name}.")
