"""Whether two colours can be told apart: by the contrast of their luminance, and by their distance for the eye."""

from __future__ import annotations

from PyQt6.QtGui import QColor

LEAST_CONTRAST = 3.0
"""Of a shape against its ground (WCAG 2.2, success criterion 1.4.11)."""
LEAST_DIFFERENCE = 12.0
"""CIE 1976 difference below which small flags beside each other look alike; common practice, no source."""
_WHITE = (0.95047, 1.0, 1.08883)
"""The white point D65 (IEC 61966-2-1, sRGB)."""


def _linear(colour: QColor) -> tuple[float, float, float]:
    """Red, green and blue, 0 to 1, in proportion to light (IEC 61966-2-1)."""

    def channel(c: float) -> float:
        return c / 12.92 if c <= 0.04045 else float(((c + 0.055) / 1.055) ** 2.4)

    return channel(colour.redF()), channel(colour.greenF()), channel(colour.blueF())


def _luminance(colour: QColor) -> float:
    r, g, b = _linear(colour)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a: QColor, b: QColor) -> float:
    """The contrast ratio of two colours, 1 to 21, as WCAG 2.2 defines it.

    >>> round(contrast(QColor("#ffffff"), QColor("#000000")), 2)
    21.0
    """
    low, high = sorted((_luminance(a), _luminance(b)))
    return (high + 0.05) / (low + 0.05)


def _lab(colour: QColor) -> tuple[float, float, float]:
    """L*, a* and b* (CIE 15:2004, equations 8.3 to 8.8)."""
    r, g, b = _linear(colour)
    x = 0.4124 * r + 0.3576 * g + 0.1805 * b
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    z = 0.0193 * r + 0.1192 * g + 0.9505 * b

    def f(t: float) -> float:
        return float(t ** (1 / 3)) if t > (6 / 29) ** 3 else t / (3 * (6 / 29) ** 2) + 4 / 29

    fx, fy, fz = (f(v / w) for v, w in zip((x, y, z), _WHITE, strict=True))
    return 116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)


def difference(a: QColor, b: QColor) -> float:
    """The CIE 1976 colour difference of two colours (CIE 15:2004): 0 for the same, 100 for black and white.

    >>> round(difference(QColor("#ffffff"), QColor("#000000")))
    100
    """
    return float(sum((p - q) ** 2 for p, q in zip(_lab(a), _lab(b), strict=True)) ** 0.5)
