"""Player profiles as readable files: TOML 1.0, one value a line.

    name = "An old player"
    formats = ["mp3", "wav"]
    hot_cues = 3

What isn't said is as cautious as can be. What is wrong with a file is said with the name of the field.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import attrs

from .. import places
from ..core.delivery.profile import Profile
from ..core.errors import FormatError, Refused
from ..core.sound.names import shown
from . import toml_text

ENDING = ".toml"
_MOST_BYTES = 1 << 20
_FIELDS = {a.name: a for a in attrs.fields(Profile)}


def shipped_folder() -> Path:
    """Where the profiles that come with the program lie."""
    return Path(__file__).resolve().parent.parent / "players"


def own_folder() -> Path:
    """Where a person's own profiles lie."""
    return places.data_folder() / "players"


def read(text: str) -> Profile:
    """A profile from TOML text.

    Raises
    ------
    FormatError
        Not TOML, an unknown field, or a value that makes no sense; it is named.
    """
    data = toml_text.parse(text)
    made: dict[str, Any] = {}
    for key, value in data.items():
        if key not in _FIELDS:
            raise FormatError(f"'{key}' is no field of a player profile: there are {', '.join(_FIELDS)}.")
        made[key] = _value(key, value)
    if "name" not in made:
        raise FormatError("The field 'name' is missing: what is this player called?")
    try:
        return Profile(**made)
    except Refused as e:
        raise FormatError(str(e)) from None


def _value(key: str, value: Any) -> Any:
    default = _FIELDS[key].default if key != "name" else ""
    if isinstance(default, tuple):
        kind = type(default[0])
        if not isinstance(value, list) or not all(type(v) is kind for v in value):
            raise FormatError(f"'{key}' must be a list of {'numbers' if kind is int else 'words'} in brackets.")
        return tuple(value)
    if type(value) is not type(default):
        kinds = {bool: "true or false", int: "a whole number", str: "words in quotes"}
        raise FormatError(f"'{key}' must be {kinds[type(default)]}.")
    return value


def write(profile: Profile) -> str:
    """The TOML text of a profile; `read` gives it back."""
    out = []
    for key in _FIELDS:
        value = getattr(profile, key)
        # JSON writes words, numbers, truth and lists as TOML does
        out.append(f"{key} = {json.dumps(list(value) if isinstance(value, tuple) else value, ensure_ascii=False)}")
    return "\n".join(out) + "\n"


def load(path: Path) -> Profile:
    """The profile in a file. Raises `FormatError` with the file's name."""
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FormatError("it is far too large for a profile.")
        return read(path.read_text("utf-8"))
    except UnicodeDecodeError:
        raise FormatError(f"{shown(path)} is no text, so it is no profile.") from None
    except OSError as e:
        raise FormatError(f"{shown(path)} can't be read: {e.strerror or e}.") from None
    except FormatError as e:
        raise FormatError(f"{shown(path)}: {e}") from None


def shipped() -> list[Profile]:
    """The profiles that come with the program."""
    return [load(p) for p in sorted(shipped_folder().glob(f"*{ENDING}"))]


def own() -> tuple[list[Profile], list[str]]:
    """A person's own profiles, and what is wrong with those that can't be read."""
    out, problems = [], []
    for p in sorted(own_folder().glob(f"*{ENDING}")):
        try:
            out.append(load(p))
        except FormatError as e:
            problems.append(str(e))
    return out, problems


def named(text: str) -> Profile:
    """The profile of a name, of a file's name such as '2-three-hot-cues', or in a file.

    Raises
    ------
    FormatError
        There is none.
    """
    path = Path(text)
    if path.is_file():
        return load(path)
    stem = path.name.removesuffix(ENDING)
    if path.name == text:
        for folder in (own_folder(), shipped_folder()):
            if (folder / f"{stem}{ENDING}").is_file():
                return load(folder / f"{stem}{ENDING}")
    if path.suffix == ENDING:
        return load(path)
    known = [*own()[0], *shipped()]
    wanted = text.casefold()
    for p in known:
        if p.name.casefold() == wanted:
            return p
    close = [p for p in known if wanted in p.name.casefold()]
    if len(close) == 1:
        return close[0]
    raise FormatError(f"There is no player profile '{text}': there are {', '.join(p.name for p in known)}.")
