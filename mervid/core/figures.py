"""Figures in words: one way for each kind, on screens, on paper and in findings."""

from __future__ import annotations


def share(value: float) -> str:
    """A share or a chance in per cent; only what is whole is called 100 %.

    >>> share(0.456), share(0.997), share(1.0)
    ('46 %', '99.7 %', '100 %')
    """
    return f"{min(99.9, 100 * value):.1f} %" if 0.995 <= value < 1 else f"{100 * value:.0f} %"


def signed(value: float, unit: str = "", *, digits: int = 0) -> str:
    """A number with its sign, and a minus as wide as a plus; what is shown as 0 has none.

    >>> signed(-3.21, "ms", digits=1), signed(4), signed(-0.02, "%", digits=1)
    ('−3.2 ms', '+4', '0.0 %')
    """
    number = f"{value:+.{digits}f}"
    if not float(number):
        number = number[1:]
    return f"{number} {unit}".replace("-", "−").rstrip()


def change(value: float, *, digits: int = 1) -> str:
    """A change in per cent.

    >>> change(-0.025)
    '−2.5 %'
    """
    return signed(100 * value, "%", digits=digits)


def sentence(words: str) -> str:
    """Words as a sentence of their own; names in them stay as they are. Empty stays empty.

    >>> sentence("keys fit (A minor)"), sentence("")
    ('Keys fit (A minor).', '')
    """
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def semitones(count: int) -> str:
    """An interval, up or down.

    >>> semitones(1), semitones(-2)
    ('a semitone up', '2 semitones down')
    """
    size = "a semitone" if abs(count) == 1 else f"{abs(count)} semitones"
    return f"{size} {'up' if count > 0 else 'down'}"


def faster(value: float) -> str:
    """A change of speed.

    >>> faster(-0.06)
    '6 % slower'
    """
    return f"{share(abs(value))} {'faster' if value > 0 else 'slower'}"
