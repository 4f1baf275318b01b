"""Which pad does what: the map of one device, an immutable value.

A *press* asks for one command. A *turn* asks for one command to either side, once for every step of an endless wheel.
A *level* sets something that has a range, such as the balance, from 0 to 1.
"""

from __future__ import annotations

from typing import TypeAlias

import attrs

from ..errors import FormatError
from .messages import BEND, CONTROL, LOW_BITS, NOTE, Control

COMPLEMENT, OFFSET = "complement", "offset"
ENCODINGS = (COMPLEMENT, OFFSET)
"""How a wheel says its turn: 1 on and 127 back (two's complement), or 65 on and 63 back (beside the middle)."""
BALANCE, TEMPO = "balance", "tempo"
LEVELS = {
    BALANCE: "Balance between track and reference beat",
    TEMPO: "Tempo of Rehearse's steady clock, 8 % to either side",
}
"""What a fader can set."""
Argument: TypeAlias = str | int | float | bool | None
"""What a command is given, as a file holds it; an edit is named."""


@attrs.frozen
class Request:
    """A command by name with its argument; `stage` where it is meant for one only."""

    name: str
    argument: Argument = None
    stage: str = ""


@attrs.frozen
class Press:
    """A pad or a button.

    Attributes
    ----------
    does : what it asks for when it goes down
    lit, dark : what is sent back while the thing is on, and while it is off (0 to 127); both alike send nothing
    """

    control: Control
    does: Request
    lit: int = 127
    dark: int = 0

    def __attrs_post_init__(self) -> None:
        if self.control.kind == BEND:
            raise FormatError("a bend is a fader: it can't be pressed.")
        if not (0 <= self.lit <= 127 and 0 <= self.dark <= 127):
            raise FormatError("'lit' and 'dark' are 0 to 127.")


@attrs.frozen
class Turn:
    """An endless wheel.

    Attributes
    ----------
    on, back : what each step asks for, turned to the right and to the left
    encoding : one of `ENCODINGS`
    fine : whether its turn comes as 14 bits in two controllers
    ticks : so many of what it sends make one step
    """

    control: Control
    on: Request
    back: Request
    encoding: str = COMPLEMENT
    fine: bool = False
    ticks: int = 1

    def __attrs_post_init__(self) -> None:
        if self.control.kind != CONTROL:
            raise FormatError(f"a wheel sends control changes, no {self.control.kind}.")
        if self.encoding not in ENCODINGS:
            raise FormatError(f"'{self.encoding}' is no way in which wheels count: {' or '.join(ENCODINGS)}.")
        if self.ticks < 1:
            raise FormatError("'ticks' is how much makes one step: 1 or more.")
        _check_fine(self.control, self.fine)


@attrs.frozen
class Level:
    """A fader or a knob with two ends; `fine` where it comes as 14 bits in two controllers."""

    control: Control
    sets: str
    fine: bool = False

    def __attrs_post_init__(self) -> None:
        if self.control.kind == NOTE:
            raise FormatError("a note is a pad: it sets no level.")
        if self.sets not in LEVELS:
            raise FormatError(f"'{self.sets}' is nothing that a fader sets: {' or '.join(LEVELS)}.")
        _check_fine(self.control, self.fine)


def _check_fine(control: Control, fine: bool) -> None:
    if fine and (control.kind != CONTROL or control.number >= LOW_BITS):
        raise FormatError("only controls 0 to 31 come as 14 bits, with their low bits in 32 to 63.")


Binding: TypeAlias = Press | Turn | Level


@attrs.frozen
class PadMap:
    """What a device of this name does; each control once."""

    device: str
    bindings: tuple[Binding, ...] = ()

    def __attrs_post_init__(self) -> None:
        seen: set[Control] = set()
        for b in self.bindings:
            for control in _used(b):
                if control in seen:
                    raise FormatError(f"{control.words} stands in it twice.")
                seen.add(control)

    def at(self, control: Control) -> Binding | None:
        """What a control is bound to, also by its low seven bits."""
        return next((b for b in self.bindings if control in _used(b)), None)

    def bound(self, binding: Binding) -> PadMap:
        """The map with this binding instead of whatever its controls did before."""
        mine = set(_used(binding))
        return attrs.evolve(self, bindings=(*(b for b in self.bindings if not mine & set(_used(b))), binding))

    def without(self, control: Control) -> PadMap:
        """The map in which a control does nothing."""
        return attrs.evolve(self, bindings=tuple(b for b in self.bindings if control not in _used(b)))


def _used(b: Binding) -> tuple[Control, ...]:
    fine = isinstance(b, Turn | Level) and b.fine
    return (b.control, attrs.evolve(b.control, number=b.control.number + LOW_BITS)) if fine else (b.control,)
