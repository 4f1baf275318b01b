"""What of a track goes into its file's tags: a person's words, what was heard, and what a template makes of both."""

from __future__ import annotations

from collections.abc import Mapping

import attrs

from ..character import key as keys
from ..errors import Refused
from . import template as templates
from .tags import FIELDS, Tags
from .template import Template


@attrs.frozen
class Outgoing:
    """What is known of a track.

    Attributes
    ----------
    shown : its words as they are in force
    own : the fields that a person edited
    tempo : BPM; None where there is no grid
    key : its name; empty where it isn't known
    drive : 1 to 9; None where it isn't known
    line, kind, phrases, readiness : words; cues : how many there are
    """

    shown: Tags
    own: tuple[str, ...] = ()
    tempo: float | None = None
    key: str = ""
    drive: float | None = None
    line: str = ""
    kind: str = ""
    phrases: str = ""
    cues: int = 0
    readiness: str = ""


@attrs.frozen
class Change:
    """A tag that becomes another: its name, what it is and what it becomes; empty where there is none."""

    name: str
    before: str
    after: str


def short_key(name: str) -> str:
    """A key in three letters at most, as tags have it (ID3v2.4.0 native frames, TKEY).

    Examples
    --------
    >>> short_key("F# minor"), short_key("Bb major"), short_key("")
    ('F#m', 'Bb', '')
    """
    try:
        found = keys.named(name)
    except Refused:
        return ""
    return found.name.split()[0] + ("m" if found.minor else "")


def number(value: float, digits: int = 2) -> str:
    """A number without needless zeros.

    Examples
    --------
    >>> number(120.0), number(113.4217)
    ('120', '113.42')
    """
    return f"{value:.{digits}f}".rstrip("0").rstrip(".")


def words(o: Outgoing) -> dict[str, str]:
    """All words of a track by the names that stand in templates."""
    out = {name: str(getattr(o.shown, name) or "") for name in FIELDS}
    out |= {
        "tempo": number(o.tempo) if o.tempo is not None else "",
        "key": short_key(o.key),
        "drive": str(round(o.drive)) if o.drive is not None else "",
        "line": o.line,
        "kind": o.kind,
        "phrases": o.phrases,
        "cues": str(o.cues or ""),
        "readiness": o.readiness,
    }
    return out


def values(o: Outgoing, template: Template) -> dict[str, str]:
    """What is written: nothing takes away what a file says but a person, or a template."""
    known = words(o)
    out = {name: known[name] for name in o.own}
    out |= {name: known[name] for name in ("tempo", "key", "drive", "rating", "comment") if known[name]}
    return out | templates.fill(template, known)


def changes(before: Mapping[str, str], after: Mapping[str, str]) -> tuple[Change, ...]:
    """Which tags become others, in the order of `after`."""
    return tuple(Change(n, before.get(n, ""), v) for n, v in after.items() if before.get(n, "") != v)
