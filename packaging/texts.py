"""Gather every text that is to be translated into one file for translators, by Qt's own tool: texts.py

Texts are what is given to `tr` and `marked`, the words of commands, and what stages are called. They are put into a
scratch file in the form that Qt's tool reads; it keeps the translations that `mervid/translations/*.ts` hold already.
"""

from __future__ import annotations

import ast
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "mervid" / "translations" / "mervid.ts"
CONTEXT = "Mervid"
COMMANDS = {"command": 1, "numbered": 1}
"""Decorators of commands, and which of their arguments is words."""
STAGE_WORDS = ("title", "tip", "mouse")


def texts() -> list[str]:
    """All of them, each once, in the order of files and lines."""
    found: dict[str, None] = {}
    for path in sorted((ROOT / "mervid" / "desk").rglob("*.py")):
        tree = ast.parse(path.read_text("utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                found.update(dict.fromkeys(_called(node)))
            elif isinstance(node, ast.ClassDef) and path.name == "stage.py":
                found.update(dict.fromkeys(_of_stage(node)))
        if path.parts[-2:] == ("commands", "command.py"):
            found.update(dict.fromkeys(_groups(tree)))
    return [text for text in found if text]


def _called(node: ast.Call) -> list[str]:
    name = node.func.id if isinstance(node.func, ast.Name) else ""
    if name in ("tr", "marked") and node.args:
        return _strings(node.args[0])
    if name in COMMANDS:
        words = _strings(node.args[COMMANDS[name]])
        if name == "numbered":
            count = node.args[3]
            assert isinstance(count, ast.Constant)
            return [w.format(k + 1) for w in words for k in range(count.value)] + _strings(node.args[4])
        return words
    return []


def _of_stage(node: ast.ClassDef) -> list[str]:
    out = []
    for line in node.body:
        if not isinstance(line, ast.Assign):
            continue
        targets = line.targets[0].elts if isinstance(line.targets[0], ast.Tuple) else line.targets
        values = line.value.elts if isinstance(line.targets[0], ast.Tuple) else [line.value]  # type: ignore[attr-defined]
        for target, value in zip(targets, values, strict=True):
            if isinstance(target, ast.Name) and target.id in STAGE_WORDS:
                out += _strings(value)
    return out


def _groups(tree: ast.Module) -> list[str]:
    first = next(n for n in tree.body if isinstance(n, ast.Assign) and isinstance(n.targets[0], ast.Tuple))
    return _strings(first.value)


def _strings(node: ast.AST) -> list[str]:
    return [n.value for n in ast.walk(node) if isinstance(n, ast.Constant) and isinstance(n.value, str)]


def main() -> int:
    """Make the file."""
    OUT.parent.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        scratch = Path(folder) / "texts.py"
        scratch.write_text("".join(f"translate({CONTEXT!r}, {text!r})\n" for text in texts()), "utf-8")
        tool = Path(sys.executable).with_name("pylupdate6")
        for ts in {OUT, *OUT.parent.glob("*.ts")}:
            made = subprocess.run([tool, "--no-summary", "--ts", ts, scratch], check=False)
            if made.returncode:
                return made.returncode
            # the scratch file is nobody's business
            lines = ts.read_text("utf-8").splitlines()
            ts.write_text("\n".join(line for line in lines if "<location" not in line) + "\n", "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
