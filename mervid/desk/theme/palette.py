"""The two palettes. Contrast of text on its ground is at least 4.5:1, of control borders 3:1 (WCAG 2.1)."""

from __future__ import annotations

from functools import lru_cache

import attrs
from PyQt6.QtGui import QColor


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
    border="#857b68",
    hand="#1b4f9c",
    attention="#b53a0b",
    sustained="#b8aa8d",
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
    border="#8a9298",
    hand="#86b7ff",
    attention="#ff9a5c",
    sustained="#61717a",
    percussive="#e9e2d3",
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
    "chorus": ("#a9791c", "C"),
    "break": ("#5c7a96", "B"),
    "build": ("#9a5630", "U"),
    "drop": ("#c23b22", "D"),
    "outro": ("#5f7a35", "O"),
    "mid-outro": ("#7a7a32", "M"),
    "loop": ("#3a3a3a", "L"),
    "own": ("#1b4f9c", ""),
}
