"""Learning a pad: from what a device sends while one thing on it is moved, what kind of thing that is.

A note is a pad at once. A control change may be a button, a wheel or a fader: it is listened to until the hand rests,
then judged by the values that came. Which values wheels send is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import Refused
from .messages import BEND, CONTROL, LOW_BITS, NOTE, Control, Message
from .pad_map import COMPLEMENT, OFFSET, Binding, Level, Press, Request, Turn

REST_S = 0.45
"""A hand that sent nothing for so long has done its move."""
_FAST = 24
"""A wheel turned as fast as a hand can says no more ticks at once."""
_FEWEST = 3
"""A fader moved by a hand sends at least so many values."""


def is_clear(heard: Message) -> bool:
    """Whether one message says all: a pad went down, or a bend was moved."""
    return heard.control.kind == BEND or (heard.control.kind == NOTE and heard.value > 0)


def kind(heard: Sequence[Message]) -> tuple[type[Binding], Control, str, bool]:
    """What was moved: its kind, the control, of a wheel its encoding, and whether it comes as 14 bits.

    Parameters
    ----------
    heard : the messages of one move, in order

    Raises
    ------
    Refused
        Nothing was heard, or several things were moved at once.
    """
    pressed = [m for m in heard if m.control.kind != NOTE or m.value > 0]
    if not pressed:
        raise Refused("Nothing was moved.")
    control = pressed[0].control
    if control.kind == NOTE:
        return Press, control, "", False
    if control.kind == BEND:
        return Level, control, "", False
    numbers = {m.control.number for m in pressed}
    low = min(numbers)
    fine = numbers == {low, low + LOW_BITS} and low < LOW_BITS
    if {(m.control.kind, m.control.channel) for m in pressed} != {(CONTROL, control.channel)} or (
        len(numbers) > 1 and not fine
    ):
        raise Refused("Several things were moved at once: move only the one that is meant.")
    control = Control(CONTROL, control.channel, low)
    # the high half tells: of a small turn it is all zeros, all ones, or beside the middle
    values = [m.value for m in pressed if m.control.number == low]
    if fine:
        if set(values) <= {0, 127}:
            return Turn, control, COMPLEMENT, True
        return (Turn, control, OFFSET, True) if set(values) <= {63, 64} else (Level, control, "", True)
    if set(values) <= {0, 127} and 127 in values and (0 in values or len(values) == 1):
        return Press, control, "", False
    if all(0 < v <= _FAST or v >= 128 - _FAST for v in values):
        sweeps = len(set(values)) >= _FEWEST and values in (sorted(values), sorted(values, reverse=True))
        # a fader at either end passes through every value, a wheel repeats itself
        return (
            (Level, control, "", False) if sweeps and len(set(values)) == len(values) else _wheel(control, COMPLEMENT)
        )
    if all(abs(v - 64) <= _FAST and v != 64 for v in values) and len(set(values)) < max(_FEWEST, len(values)):
        return _wheel(control, OFFSET)
    return Level, control, "", False


def _wheel(control: Control, encoding: str) -> tuple[type[Turn], Control, str, bool]:
    return Turn, control, encoding, False


def bind(heard: Sequence[Message], wanted: Request | str, back: Request | None = None) -> Binding:
    """What was moved, bound to what was wanted.

    Parameters
    ----------
    wanted : a command, or the name of a level
    back : the command that undoes a step of `wanted`; None where there is none

    Raises
    ------
    Refused
        What was moved can't do what is wanted; the sentence says what can.
    """
    what, control, encoding, fine = kind(heard)
    if isinstance(wanted, str):
        if what is not Level:
            raise Refused(
                f"That is a {'wheel' if what is Turn else 'pad'}: only a fader or a knob with two ends sets it."
            )
        return Level(control, wanted, fine)
    if what is Press:
        return Press(control, wanted)
    if what is Level:
        raise Refused("That is a fader: it sets a balance or a tempo, and asks for no command. Take a pad or a wheel.")
    if back is None:
        raise Refused("That is a wheel, and this command has no way back. Take a pad.")
    return Turn(control, wanted, back, encoding, fine)
