"""The two palettes. Contrast of text on its ground is at least 4.5:1, of borders and inks that carry meaning 3:1.

The limits are those of WCAG 2.2 AA, success criteria 1.4.3 and 1.4.11; a test computes them.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import attrs
from PyQt6.QtGui import QColor

from .colour import contrast


@attrs.frozen
class Palette:
    """Colours by what they are for."""

    name: str
    paper: str
    panel: str
    raised: str
    ink: str
    faint: str
    hairline: str
    border: str
    hand: str
    attention: str
    sustained: str
    percussive: str
    coming: str
    zone: str
    band: str
    selected: str
    on_hand: str

    def color(self, role: str, alpha: float = 1.0) -> QColor:
        """A role's colour, 0 to 1 opaque."""
        return _color(getattr(self, role), alpha)


@lru_cache(maxsize=512)
def _color(name: str, alpha: float) -> QColor:
    c = QColor(name)
    c.setAlphaF(alpha)
    return c


DAY = Palette(
    name="day",
    paper="#f6f1e6",
    panel="#ebe4d5",
    raised="#fbf8f1",
    ink="#221f1a",
    faint="#595245",
    hairline="#d3cab7",
    border="#786e5c",
    hand="#1b4f9c",
    attention="#a33208",
    sustained="#7f7355",
    percussive="#2b2822",
    coming="#0a6a70",
    zone="#e3d9c2",
    band="#e4e6d2",
    selected="#dcd2bc",
    on_hand="#ffffff",
)

NIGHT = Palette(
    name="night",
    paper="#1f252a",
    panel="#283036",
    raised="#323b42",
    ink="#efe9dc",
    faint="#c3beb0",
    hairline="#3d474e",
    border="#8f989e",
    hand="#86b7ff",
    attention="#ffa066",
    sustained="#84969f",
    percussive="#fdf8ec",
    coming="#56c7c1",
    zone="#2c363d",
    band="#2d3a38",
    selected="#3d4952",
    on_hand="#101418",
)

# grounds of phrases that are alike, light enough for ink and dark enough to tell apart, one for each letter in turn
_TINTS = {
    "day": ("#e9dfc6", "#d9e2d5", "#e6d5cb", "#d8dde4", "#e2d8e2", "#dfe0c4", "#d2dfdf", "#eadccf"),
    "night": ("#3a3a2f", "#2b3d36", "#43332c", "#2c3a47", "#3c3145", "#3b402a", "#283f42", "#463d30"),
}


def tint(palette: Palette, number: int) -> QColor:
    """The ground of the phrases with one letter: 0 for A, 1 for B ..."""
    tints = _TINTS[palette.name]
    return QColor(tints[number % len(tints)])


# role of a cue: hue, letter and shape, so that colour is never alone
ROLES = {
    "first beat": ("#3f3d9e", "F"),
    "mid-intro": ("#5b6b7a", "I"),
    "vocal": ("#7d3c78", "V"),
    "verse": ("#1f7a72", "S"),
    "chorus": ("#8f6512", "C"),
    "break": ("#54708a", "B"),
    "build": ("#9a5630", "U"),
    "drop": ("#c23b22", "D"),
    "outro": ("#5f7a35", "O"),
    "mid-outro": ("#7a7a32", "M"),
    "loop": ("#3a3a3a", "L"),
    "own": ("#1b4f9c", ""),
}
_LIGHTER = 0.55
"""At night a role's hue is mixed with so much white, so that its shape stands out of the slate."""


_own: dict[str, str] = {}
"""A person's own hues, by role."""
_changes: list[int] = []


def use_role_colours(own: Mapping[str, str]) -> None:
    """Use a person's own hues for roles from now on, as '#rrggbb'; the rest keep the program's."""
    _own.clear()
    _own.update({role: hue for role, hue in own.items() if role in ROLES and QColor(hue).isValid()})
    role_inks.cache_clear()
    _changes.append(len(_changes))


def role_state() -> int:
    """How often colours of roles were changed: kept pictures that show them are drawn again then."""
    return len(_changes)


@lru_cache(maxsize=64)
def role_inks(palette: Palette, role: str) -> tuple[QColor, QColor]:
    """The hue of a cue's role, and what is written on it."""
    if role in _own:
        hue = QColor(_own[role])
        # whichever can be read better on it
        return hue, max((QColor("#ffffff"), QColor("#101418")), key=lambda ink: contrast(hue, ink))
    hue = QColor(ROLES.get(role, ROLES["own"])[0])
    if palette.name == "day":
        return hue, QColor("#ffffff")
    parts = (round(v + (255 - v) * _LIGHTER) for v in (hue.red(), hue.green(), hue.blue()))
    return QColor(*parts), QColor(palette.on_hand)


def letter_of(role: str) -> str:
    """The letter of a role; empty for one's own."""
    return ROLES.get(role, ROLES["own"])[1]
