"""What a controller sends, as values: the channel voice messages of MIDI 1.0 that hands can make.

A pad sends a note, a button a note or a control change of 127 and 0, a fader a control change of 0 to 127 (or two of
them, together 14 bits; or a pitch bend), an endless wheel a control change that says how far it was turned.

Source: MIDI 1.0 Detailed Specification 4.2 (MMA 1995): status bytes 8n, 9n, Bn, En; a note on of velocity 0 is a note
off; controllers 0 to 31 have their low seven bits in 32 to 63. How wheels say a turn is common practice, no source.
"""

from __future__ import annotations

import attrs

from ..errors import FormatError

NOTE, CONTROL, BEND = "note", "control", "bend"
KINDS = (NOTE, CONTROL, BEND)
LOW_BITS = 32
"""So much further lies the controller with the low seven bits."""
MOST, MOST_FINE = 127, 16383


@attrs.frozen
class Control:
    """One thing on a device that a hand moves.

    Attributes
    ----------
    kind : one of `KINDS`
    channel : 1 to 16
    number : 0 to 127; 0 for the bend, of which a channel has one
    """

    kind: str
    channel: int
    number: int = 0

    def __attrs_post_init__(self) -> None:
        if self.kind not in KINDS or not 1 <= self.channel <= 16 or not 0 <= self.number <= MOST:
            raise FormatError(
                f"'{self.kind} {self.channel} {self.number}' is nothing on a controller: say note, control or bend, "
                "its channel (1 to 16) and its number (0 to 127)."
            )

    @property
    def words(self) -> str:
        """'note 36', 'control 20 on channel 2'."""
        name = self.kind if self.kind == BEND else f"{self.kind} {self.number}"
        return name if self.channel == 1 else f"{name} on channel {self.channel}"


@attrs.frozen
class Message:
    """One control was moved: `value` is 0 to 127, of a bend 0 to 16383; a note that ends has 0."""

    control: Control
    value: int


def read(data: bytes) -> Message | None:
    """The message in the bytes of one; None for what no hand made (clock, active sensing, system exclusive).

    >>> read(bytes([0x90, 36, 100]))
    Message(control=Control(kind='note', channel=1, number=36), value=100)
    >>> read(bytes([0x80, 36, 64])).value, read(bytes([0xF8]))
    (0, None)
    """
    if len(data) != 3 or max(data[1:]) > MOST:
        return None
    status, channel = data[0] & 0xF0, (data[0] & 0x0F) + 1
    if status in (0x80, 0x90):
        return Message(Control(NOTE, channel, data[1]), data[2] if status == 0x90 else 0)
    if status == 0xB0:
        return Message(Control(CONTROL, channel, data[1]), data[2])
    if status == 0xE0:
        return Message(Control(BEND, channel), data[1] | data[2] << 7)
    return None


def write(message: Message) -> bytes:
    """The bytes of a message; `read` gives it back.

    >>> write(Message(Control("control", 2, 20), 65)).hex()
    'b11441'
    """
    c, v = message.control, message.value
    if c.kind == BEND:
        return bytes([0xE0 | c.channel - 1, v & MOST, v >> 7])
    return bytes([(0x90 if c.kind == NOTE else 0xB0) | c.channel - 1, c.number, v])
