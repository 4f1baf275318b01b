"""From messages to what is asked for: pads that go down, wheels that turn by steps, faders that stand somewhere.

Holds what a device said before, since a wheel may need several messages for a step and 14 bits come as two.
"""

from __future__ import annotations

from typing import TypeAlias

import attrs

from .messages import BEND, MOST, MOST_FINE, NOTE, Control, Message
from .pad_map import COMPLEMENT, Level, PadMap, Press, Request, Turn

PRESSED = 64
"""A control change of so much or more is a button that went down (MIDI 1.0: 64 to 127 are on)."""
MOST_STEPS = 64
"""More steps at once are no hand's."""


@attrs.frozen
class Set:
    """A fader stands at `at`, 0 to 1."""

    level: str
    at: float


Asked: TypeAlias = Request | Set


class Hands:
    """One device under its map."""

    def __init__(self, pad_map: PadMap) -> None:
        self.map = pad_map
        self._high: dict[Control, int] = {}
        self._rest: dict[Control, int] = {}
        self._down: set[Control] = set()

    def take(self, message: Message) -> list[Asked]:
        """What a message asks for: nothing, one thing, or the same once for every step."""
        b = self.map.at(message.control)
        if isinstance(b, Press):
            return [b.does] if self._goes_down(message) else []
        if isinstance(b, Turn):
            return self._turned(b, message)
        if isinstance(b, Level):
            return self._set(b, message)
        return []

    def _goes_down(self, m: Message) -> bool:
        down = m.value >= (1 if m.control.kind == NOTE else PRESSED)
        new = down and (m.control.kind == NOTE or m.control not in self._down)
        (self._down.add if down else self._down.discard)(m.control)
        return new

    def _value(self, control: Control, m: Message) -> int | None:
        """14 bits once both halves are there; the low half comes last (MIDI 1.0)."""
        if m.control == control:
            self._high[control] = m.value
            return None
        high = self._high.get(control)
        return None if high is None else high << 7 | m.value

    def _turned(self, b: Turn, m: Message) -> list[Asked]:
        value = self._value(b.control, m) if b.fine else m.value
        if value is None:
            return []
        ticks = self._rest.get(b.control, 0) + turned(value, b.encoding, fine=b.fine)
        steps = int(ticks / b.ticks)
        self._rest[b.control] = ticks - steps * b.ticks
        steps = max(-MOST_STEPS, min(MOST_STEPS, steps))
        return [b.on if steps > 0 else b.back] * abs(steps)

    def _set(self, b: Level, m: Message) -> list[Asked]:
        if b.control.kind == BEND:
            return [Set(b.sets, m.value / MOST_FINE)]
        if not b.fine:
            return [Set(b.sets, m.value / MOST)]
        value = self._value(b.control, m)
        return [] if value is None else [Set(b.sets, value / MOST_FINE)]


def turned(value: int, encoding: str, *, fine: bool = False) -> int:
    """How many ticks a wheel was turned, to the right positive; `value` has 7 bits, or 14 if `fine`.

    >>> [turned(v, "complement") for v in (1, 3, 127, 120)], [turned(v, "offset") for v in (65, 63, 64)]
    ([1, 3, -1, -8], [1, -1, 0])
    >>> turned(16383, "complement", fine=True), turned(8200, "offset", fine=True)
    (-1, 8)
    """
    whole = MOST_FINE + 1 if fine else MOST + 1
    if encoding == COMPLEMENT:
        return value if value < whole // 2 else value - whole
    return value - whole // 2
