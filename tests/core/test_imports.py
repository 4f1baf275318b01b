"""Dependencies point one way, and the window opens without loading what only analysis needs."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

CORE = """
import sys, pkgutil, importlib, mervid.core
names = [m.name for m in pkgutil.walk_packages(mervid.core.__path__, 'mervid.core.')]
assert len(names) > 60, names
for name in names: importlib.import_module(name)
wrong = ('PyQt6', 'mervid.desk', 'mervid.store', 'mervid.jobs', 'mervid.formats')
print(sorted(m for m in sys.modules if m.startswith(wrong)))
"""
WORKER = (
    "import sys, mervid.jobs.worker; print(sorted(m for m in sys.modules if m.startswith(('PyQt6', 'mervid.desk'))))"
)
WINDOW = (
    "import sys, mervid.desk.app; print(sorted(m for m in sys.modules if m in ('scipy', 'av', 'jsonschema', 'soxr')))"
)


def test_the_product_knows_nothing_of_training() -> None:
    for path in Path("mervid").rglob("*.py"):
        assert not re.search(r"^\s*(from|import) (\.*training|torch)", path.read_text("utf-8"), re.MULTILINE), path


def test_the_session_has_no_widgets() -> None:
    for path in Path("mervid/desk/session").glob("*.py"):
        assert "QtWidgets" not in path.read_text("utf-8"), path


def test_imports() -> None:
    for program in (CORE, WORKER, WINDOW):
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
        assert done.stdout.strip() == "[]"
