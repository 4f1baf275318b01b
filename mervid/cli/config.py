"""`mervid config`: where everything lies, and what a person set."""

from __future__ import annotations

import argparse
import json
import os
from pathlib import Path

from PyQt6.QtCore import QByteArray

from .. import __version__, notes, places
from ..desk import names
from ..formats import pad_files, profile_files


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of the command."""
    p.add_argument("--json", action="store_true", help="as one JSON object")


def run(command: str, options: argparse.Namespace) -> int:
    """Print it; nothing is made or changed."""
    found = {name: str(path) for name, path in _places().items()}
    settings = _settings()
    if options.json:
        print(json.dumps({"version": __version__, "places": found, "settings": settings}, indent=1, ensure_ascii=False))
        return 0
    print(f"Mervid {__version__}")
    width = max(map(len, found)) + 2
    for name, path in found.items():
        there = "" if Path(path).exists() else "   (not made yet)"
        print(f"{name:{width}}{path}{there}")
    for name in ("MERVID_DATA", "MERVID_CACHE"):
        print(f"{'$' + name:{width}}{os.environ.get(name) or 'not set'}")
    for name, value in settings.items():
        print(f"  {name} = {value}")
    return 0


def _places() -> dict[str, Path]:
    data = places.data_folder()
    return {
        "library": data / "library.sqlite",
        "copies of days": data / "copies",
        "decoded sound": places.cache_folder(),
        "settings": names.settings_file(),
        "recipes": places.recipes_folder(),
        "players": profile_files.own_folder(),
        "maps of pads": pad_files.own_folder(),
        "log": notes.log_file(),
        "demo set": places.demo_folder(),
    }


def _settings() -> dict[str, str]:
    """What was set, but for what is of no use to read: the shape of the window and of tables."""
    kept = names.settings_at_rest()
    values = {key: kept.value(key) for key in kept.allKeys()}
    return {key: str(value) for key, value in sorted(values.items()) if not isinstance(value, QByteArray)}
