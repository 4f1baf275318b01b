"""Which pads are lit: the state of the thing that a pad asks for, sent back to the device as the same message."""

from __future__ import annotations

from collections.abc import Set as AbstractSet

import attrs

from .messages import Control, Message
from .pad_map import PadMap, Press, Request

SWITCHES = ("play", "loop", "click", "split", "lock", "half-speed")
"""Commands that are on or off."""


@attrs.frozen
class State:
    """What is on: names out of `SWITCHES`, and the slots (from 0) that hold a cue."""

    on: AbstractSet[str] = frozenset()
    cues: AbstractSet[int] = frozenset()

    def of(self, request: Request) -> bool | None:
        """Whether what a command is about is on; None for one that is about nothing of the kind."""
        if request.name in SWITCHES:
            return request.name in self.on
        if request.name in ("cue-number", "cue-into"):
            return request.argument in self.cues
        return None


def messages(pad_map: PadMap, state: State) -> dict[Control, Message]:
    """What each pad that can be lit is to be sent."""
    out = {}
    for b in pad_map.bindings:
        is_on = state.of(b.does) if isinstance(b, Press) and b.lit != b.dark else None
        if isinstance(b, Press) and is_on is not None:
            out[b.control] = Message(b.control, b.lit if is_on else b.dark)
    return out
