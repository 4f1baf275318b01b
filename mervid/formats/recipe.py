"""Recipes as readable files: TOML 1.0, one `[[rule]]` for each cue.

    name = "Long intro"
    about = "For dance tracks that begin with drums alone."

    [[rule]]
    what = "first beat"
    where = "first downbeat"
    as = "both"
    slot = 1

What is wrong with a file is said with its line and the name of the field.
"""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from ..core.cues import recipes
from ..core.cues.recipes import Recipe, Rule
from ..core.errors import FormatError, Refused
from . import limits, toml_text

_TOP: dict[str, type | tuple[type, ...]] = {"name": str, "about": str, "sure": (int, float), "rule": list}
_FIELDS = {"what": str, "where": str, "as": str, "slot": int, "loop": int, "name": str}
_NAMES = {"as": "kind"}


def shipped_folder() -> Path:
    """Where the recipes that come with the program lie."""
    return Path(__file__).resolve().parent.parent / "recipes"


def read(text: str) -> Recipe:
    """A recipe from TOML text.

    Raises
    ------
    FormatError
        Not TOML, an unknown or missing field, or words that are not understood: with line and field.
    """
    data = toml_text.parse(text)
    for key, value in data.items():
        if key not in _TOP:
            raise FormatError(f"Line {_line(text, key)}: '{key}' is no field of a recipe: name, about, sure, [[rule]].")
        if not isinstance(value, _TOP[key]) or isinstance(value, bool):
            raise FormatError(f"Line {_line(text, key)}: '{key}' must be {_kind(_TOP[key])}.")
    name = str(data.get("name", "")).strip()
    if not name:
        raise FormatError("Line 1: the field 'name' is missing: what is this recipe called?")
    rules = [_rule(text, number, table) for number, table in enumerate(data.get("rule", []), 1)]
    if not rules:
        raise FormatError("There is no [[rule]] in this recipe, so it would place nothing.")
    sure = float(data.get("sure", 0.0))
    if not 0 <= sure <= 1:
        raise FormatError(f"Line {_line(text, 'sure')}: sure = {sure:g} must lie between 0 and 1.")
    return Recipe(name[:80], tuple(rules), str(data.get("about", "")).strip()[:400], sure)


def _rule(text: str, number: int, table: Any) -> Rule:
    at = f"Line {_line(text, '', number)}, rule {number}"
    if not isinstance(table, dict):
        raise FormatError(f"{at}: a rule must be a table: write [[rule]] above its fields.")
    for key, value in table.items():
        here = f"Line {_line(text, key, number)}, rule {number}"
        if key not in _FIELDS:
            raise FormatError(f"{here}: '{key}' is no field of a rule: {', '.join(_FIELDS)}.")
        if not isinstance(value, _FIELDS[key]) or isinstance(value, bool):
            raise FormatError(f"{here}: '{key}' must be {_kind(_FIELDS[key])}.")
    for key in ("what", "where"):
        if key not in table:
            raise FormatError(f"{at}: the field '{key}' is missing.")
    rule = Rule(**{_NAMES.get(str(k), str(k)): v for k, v in table.items()})
    try:
        recipes.check(rule)
    except Refused as e:
        field = str(e).split(" ", 1)[0]
        raise FormatError(f"Line {_line(text, field, number)}, rule {number}: {e}") from None
    return rule


def _kind(what: type | tuple[type, ...]) -> str:
    return {
        str: "words in quotes", int: "a whole number", list: "rules, each under [[rule]]", (int, float): "a number",
    }[what]  # fmt: skip


def _line(text: str, field: str, rule: int = 0) -> int:
    """The line of a field, in the rule of that number or before the first; of the rule itself for ''."""
    seen = 0
    begin = 1
    for number, line in enumerate(text.splitlines(), 1):
        if re.match(r"\s*\[\[\s*rule\s*\]\]", line):
            seen += 1
            if seen == rule:
                begin = number
                if not field:
                    return number
        elif seen == rule and field and re.match(rf"\s*\"?{re.escape(field)}\"?\s*=", line):
            return number
    return begin


def write(recipe: Recipe) -> str:
    """The recipe as TOML; `read` gives it back."""
    out = [f"name = {_quoted(recipe.name)}"]
    if recipe.about:
        out.append(f"about = {_quoted(recipe.about)}")
    if recipe.sure:
        out.append(f"sure = {recipe.sure:g}")
    for rule in recipe.rules:
        out += ["", "[[rule]]", f"what = {_quoted(rule.what)}", f"where = {_quoted(rule.where)}"]
        out.append(f"as = {_quoted(rule.kind)}")
        if rule.slot:
            out.append(f"slot = {rule.slot}")
        if rule.loop:
            out.append(f"loop = {rule.loop}")
        if rule.name:
            out.append(f"name = {_quoted(rule.name)}")
    return "\n".join(out) + "\n"


def _quoted(text: str) -> str:
    # a JSON string is a TOML basic string, once the one character that differs is escaped
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007F")


def load(path: Path) -> Recipe:
    """The recipe in a file. Raises `FormatError` naming the file."""
    try:
        return read(limits.text_of(path, limits.MOST_TOML))
    except UnicodeDecodeError:
        raise FormatError(f"{path.name}: this is not text, so it is no recipe.") from None
    except OSError as e:
        raise FormatError(f"{path.name} can't be read: {e.strerror or e}.") from None
    except FormatError as e:
        raise FormatError(f"{path.name}: {e}") from None


def own(folder: Path) -> tuple[dict[Path, Recipe], list[str]]:
    """A person's own recipes in a folder, by file, and what is wrong with those that can't be read."""
    out: dict[Path, Recipe] = {}
    problems: list[str] = []
    for path in sorted(folder.glob("*.toml")) if folder.is_dir() else []:
        try:
            out[path] = load(path)
        except FormatError as e:
            problems.append(str(e))
    return out, problems


def shipped() -> list[Recipe]:
    """The recipes that come with the program, in the order of their file names."""
    return [load(path) for path in sorted(shipped_folder().glob("*.toml"))]
