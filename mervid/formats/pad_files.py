"""Maps of controllers as readable files: TOML 1.0, one for each name of a device.

    device = "Pad board"

    [[pad]]
    control = "note 1 36"       # kind, channel, number
    does = "cue-number"
    with = 0

    [[wheel]]
    control = "control 1 20"
    does = "slide"
    on = 1.0
    back = -1.0
    counts = "complement"       # or "offset"

    [[fader]]
    control = "control 1 7"
    sets = "balance"
    fine = true                 # 14 bits

`stage` names the stage that a command is meant for; without it the stage that is seen answers.
"""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from .. import places
from ..core.errors import FormatError
from ..core.pads.messages import Control
from ..core.pads.pad_map import COMPLEMENT, Argument, Binding, Level, PadMap, Press, Request, Turn
from ..core.sound.names import shown
from . import safe_file, toml_text

ENDING = ".toml"
_MOST_BYTES = 1 << 20
_TABLES: dict[str, dict[str, type | tuple[type, ...]]] = {
    "pad": {"control": str, "does": str, "with": object, "stage": str, "lit": int, "dark": int},
    "wheel": {
        "control": str, "does": str, "on": object, "back": object, "stage": str, "counts": str, "fine": bool,
        "ticks": int,
    },
    "fader": {"control": str, "sets": str, "fine": bool},
}  # fmt: skip


def shipped_folder() -> Path:
    """Where the maps that come with the program lie."""
    return Path(__file__).resolve().parent.parent / "pads"


def own_folder() -> Path:
    """Where a person's own maps lie."""
    return places.data_folder() / "pads"


def read(text: str) -> PadMap:
    """A map from TOML text.

    Raises
    ------
    FormatError
        Not TOML, an unknown field, a value that makes no sense, or one control twice; it is named.
    """
    data = toml_text.parse(text)
    strange = sorted(set(data) - {"device", *_TABLES})
    if strange:
        raise FormatError(f"'{strange[0]}' is no field of a map: there are device, [[pad]], [[wheel]], [[fader]].")
    device = data.get("device")
    if not isinstance(device, str) or not device.strip():
        raise FormatError("The field 'device' is missing: what does the controller call itself?")
    bindings = []
    for name in _TABLES:
        tables = data.get(name, [])
        if not isinstance(tables, list) or not all(isinstance(t, dict) for t in tables):
            raise FormatError(f"'{name}' stands in double brackets: [[{name}]].")
        for number, table in enumerate(tables, 1):
            try:
                bindings.append(_binding(name, table))
            except FormatError as e:
                raise FormatError(f"[[{name}]] {number}: {e}") from None
    try:
        return PadMap(device.strip(), tuple(bindings))
    except FormatError as e:
        raise FormatError(f"In this map, {e}") from None


def _binding(name: str, table: dict[str, Any]) -> Binding:
    fields = _TABLES[name]
    for key, value in table.items():
        if key not in fields:
            raise FormatError(f"'{key}' is no field of it: there are {', '.join(fields)}.")
        wanted = fields[key]
        if wanted is object:
            if not isinstance(value, str | int | float | bool):
                raise FormatError(f"'{key}' must be a word or a number.")
        elif not isinstance(value, wanted) or (wanted is int and isinstance(value, bool)):
            kinds: dict[Any, str] = {str: "words in quotes", int: "a whole number", bool: "true or false"}
            raise FormatError(f"'{key}' must be {kinds[wanted]}.")
    for key in ("control", "sets" if name == "fader" else "does"):
        if key not in table:
            raise FormatError(f"'{key}' is missing.")
    control = _control(table["control"])
    if name == "fader":
        return Level(control, table["sets"], table.get("fine", False))
    stage = table.get("stage", "")
    if name == "pad":
        does = Request(table["does"], table.get("with"), stage)
        return Press(control, does, table.get("lit", 127), table.get("dark", 0))
    on, back = (Request(table["does"], table.get(key), stage) for key in ("on", "back"))
    return Turn(control, on, back, table.get("counts", COMPLEMENT), table.get("fine", False), table.get("ticks", 1))


def _control(text: str) -> Control:
    found = re.fullmatch(r"\s*(\w+)\s+(\d{1,3})(?:\s+(\d{1,3}))?\s*", text)
    if found is None:
        raise FormatError(f"'{text}' is no control: write 'note 1 36', 'control 1 20' or 'bend 1'.")
    return Control(found[1], int(found[2]), int(found[3] or 0))


def write(pad_map: PadMap) -> str:
    """The TOML text of a map; `read` gives it back."""
    out = [f"device = {_value(pad_map.device)}"]
    for b in pad_map.bindings:
        table = "pad" if isinstance(b, Press) else "wheel" if isinstance(b, Turn) else "fader"
        c = b.control
        rows: dict[str, Argument] = {"control": " ".join(str(x) for x in (c.kind, c.channel, c.number))}
        if isinstance(b, Press):
            rows |= {"does": b.does.name, "with": b.does.argument, "stage": b.does.stage or None}
            rows |= {"lit": b.lit, "dark": b.dark} if (b.lit, b.dark) != (127, 0) else {}
        elif isinstance(b, Turn):
            rows |= {"does": b.on.name, "on": b.on.argument, "back": b.back.argument, "stage": b.on.stage or None}
            rows |= {"counts": b.encoding, "fine": b.fine or None, "ticks": b.ticks if b.ticks > 1 else None}
        else:
            rows |= {"sets": b.sets, "fine": b.fine or None}
        out += ["", f"[[{table}]]", *(f"{key} = {_value(v)}" for key, v in rows.items() if v is not None)]
    return "\n".join(out) + "\n"


def _value(value: Argument) -> str:
    # JSON writes words, numbers and truth as TOML does
    return json.dumps(value, ensure_ascii=False)


def load(path: Path) -> PadMap:
    """The map in a file. Raises `FormatError` with the file's name."""
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FormatError("it is far too large for a map.")
        return read(path.read_text("utf-8"))
    except UnicodeDecodeError:
        raise FormatError(f"{shown(path)} is no text, so it is no map of a controller.") from None
    except OSError as e:
        raise FormatError(f"{shown(path)} can't be read: {e.strerror or e}.") from None
    except FormatError as e:
        raise FormatError(f"{shown(path)}: {e}") from None


def save(pad_map: PadMap, path: Path | None = None) -> Path:
    """Write a map among a person's own, or into the file that is named. Raises `FormatError` where it can't be."""
    stem = re.sub(r"[^\w\- ]+", "", pad_map.device).strip() or "controller"
    target = path or own_folder() / f"{stem}{ENDING}"
    try:
        if path is None:
            places.make_private(target.parent)
        safe_file.write(target, lambda f: f.write(write(pad_map).encode("utf-8")))
    except OSError as e:
        raise FormatError(f"{shown(target)} can't be written: {e.strerror or e}.") from None
    return target


def known() -> tuple[dict[str, PadMap], list[str]]:
    """All maps by the name of their device, a person's own before the shipped ones; and what can't be read."""
    out: dict[str, PadMap] = {}
    problems = []
    for folder in (shipped_folder(), own_folder()):
        for path in sorted(folder.glob(f"*{ENDING}")):
            try:
                found = load(path)
                out[found.device] = found
            except FormatError as e:
                problems.append(str(e))
    return out, problems
