"""What controllers send, and what comes of it: checked against the byte layouts of MIDI 1.0 and against mido."""

from __future__ import annotations

import mido
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mervid.core.errors import FormatError, Refused
from mervid.core.pads import learning, lights, messages
from mervid.core.pads.hands import Hands, Set
from mervid.core.pads.lights import State
from mervid.core.pads.messages import BEND, CONTROL, NOTE, Control, Message
from mervid.core.pads.pad_map import BALANCE, COMPLEMENT, OFFSET, Level, PadMap, Press, Request, Turn
from mervid.formats import pad_files

SLIDE, BACK = Request("slide", 1.0), Request("slide", -1.0)
WHEEL, LOW, FADER, PAD = Control(CONTROL, 1, 20), Control(CONTROL, 1, 52), Control(CONTROL, 2, 7), Control(NOTE, 10, 36)


def cc(control: Control, *values: int) -> list[Message]:
    return [Message(control, v) for v in values]


@given(st.integers(0, 15), st.integers(0, 127), st.integers(0, 127))
def test_bytes_are_read_as_mido_reads_them(channel: int, number: int, value: int) -> None:
    """mido is an independent reading of the MIDI 1.0 specification."""
    for their, kind in (
        (mido.Message("note_on", channel=channel, note=number, velocity=value), NOTE),
        (mido.Message("control_change", channel=channel, control=number, value=value), CONTROL),
    ):
        ours = Message(Control(kind, channel + 1, number), value)
        assert messages.read(bytes(their.bytes())) == ours
        assert messages.write(ours) == bytes(their.bytes())
    pitch = number << 7 | value
    bend = mido.Message("pitchwheel", channel=channel, pitch=pitch - 8192)
    assert messages.read(bytes(bend.bytes())) == Message(Control(BEND, channel + 1), pitch)
    off = mido.Message("note_off", channel=channel, note=number, velocity=value)
    assert messages.read(bytes(off.bytes())) == Message(Control(NOTE, channel + 1, number), 0)


@pytest.mark.parametrize("data", [b"", b"\xf8", b"\xf0\x01\xf7", b"\xc0\x05", b"\x90\x80\x10", b"\xff\xff\xff"])
def test_what_no_hand_made_is_nothing(data: bytes) -> None:
    assert messages.read(data) is None


def test_a_pad_asks_once_when_it_goes_down_and_a_held_button_not_again() -> None:
    button = Control(CONTROL, 1, 90)
    hands = Hands(PadMap("x", (Press(PAD, Request("play")), Press(button, Request("loop")))))
    assert hands.take(Message(PAD, 90)) == [Request("play")]
    assert hands.take(Message(PAD, 0)) == []
    asked = [hands.take(m) for m in cc(button, 127, 127, 0, 127)]
    assert asked == [[Request("loop")], [], [], [Request("loop")]]
    assert hands.take(Message(Control(NOTE, 1, 36), 90)) == []


@given(st.lists(st.integers(-20, 20), min_size=1, max_size=40), st.sampled_from([1, 3]), st.booleans(), st.booleans())
def test_a_wheel_turns_as_far_as_the_hand_did(turns: list[int], ticks: int, offset: bool, fine: bool) -> None:
    encoding = OFFSET if offset else COMPLEMENT
    hands = Hands(PadMap("x", (Turn(WHEEL, SLIDE, BACK, encoding, fine, ticks),)))
    low = Control(CONTROL, 1, 52)
    whole = 16384 if fine else 128
    net = 0
    for turn in turns:
        value = (turn + whole // 2) if offset else turn % whole
        sent = [Message(WHEEL, value >> 7), Message(low, value & 127)] if fine else [Message(WHEEL, value)]
        for asked in (a for m in sent for a in hands.take(m)):
            assert asked in (SLIDE, BACK)
            net += 1 if asked == SLIDE else -1
    assert net == int(sum(turns) / ticks) or abs(net * ticks - sum(turns)) < ticks


def test_a_fader_of_14_bits_moves_without_steps() -> None:
    hands = Hands(PadMap("x", (Level(FADER, BALANCE, fine=True), Level(Control(BEND, 1), BALANCE))))
    low = Control(CONTROL, 2, 39)
    heard = []
    for value in range(0, 16384, 37):
        assert hands.take(Message(FADER, value >> 7)) == []
        (now,) = hands.take(Message(low, value & 127))
        assert isinstance(now, Set)
        heard.append(now.at)
    assert np.allclose(heard, np.arange(0, 16384, 37) / 16383)
    assert hands.take(Message(Control(BEND, 1), 16383)) == [Set(BALANCE, 1.0)]


@pytest.mark.parametrize(
    ("heard", "kind", "encoding", "fine"),
    [
        ([Message(PAD, 88)], Press, "", False),
        (cc(WHEEL, 127, 0), Press, "", False),
        (cc(WHEEL, 1, 1, 2, 1, 1), Turn, COMPLEMENT, False),
        (cc(WHEEL, 127, 127, 126, 127), Turn, COMPLEMENT, False),
        (cc(WHEEL, 65, 65, 66, 63, 65), Turn, OFFSET, False),
        (cc(WHEEL, 30, 41, 55, 70, 90), Level, "", False),
        (cc(WHEEL, 0, 1, 2, 3, 5), Level, "", False),
        ([*cc(WHEEL, 0), *cc(LOW, 3), *cc(WHEEL, 0), *cc(LOW, 2)], Turn, COMPLEMENT, True),
        ([*cc(WHEEL, 40), *cc(LOW, 9), *cc(WHEEL, 41), *cc(LOW, 2)], Level, "", True),
        ([Message(Control(BEND, 3), 9000)], Level, "", False),
    ],
)  # fmt: skip
def test_what_was_moved_is_told_by_what_it_sent(heard, kind, encoding, fine) -> None:
    assert learning.kind(heard) == (kind, heard[0].control, encoding, fine)


def test_learning_refuses_what_cannot_be() -> None:
    for heard, wanted, back, words in (
        ([], SLIDE, None, "Nothing was moved"),
        ([*cc(WHEEL, 1), *cc(FADER, 1)], SLIDE, BACK, "Several things"),
        (cc(WHEEL, 1, 1, 1), Request("play"), None, "no way back"),
        (cc(WHEEL, 20, 50, 90), Request("play"), None, "That is a fader"),
        ([Message(PAD, 9)], BALANCE, None, "only a fader"),
    ):
        with pytest.raises(Refused, match=words):
            learning.bind(heard, wanted, back)
    assert learning.bind(cc(WHEEL, 127, 127, 127), SLIDE, BACK) == Turn(WHEEL, SLIDE, BACK, COMPLEMENT)


def test_a_control_does_one_thing_and_learning_replaces_it() -> None:
    first = PadMap("x", (Press(PAD, Request("play")),))
    assert first.bound(Press(PAD, Request("loop"))).bindings == (Press(PAD, Request("loop")),)
    assert first.without(PAD).bindings == ()
    fine = PadMap("x", (Level(WHEEL, BALANCE, fine=True),))
    assert fine.at(Control(CONTROL, 1, 52)) == fine.bindings[0]
    with pytest.raises(FormatError, match="twice"):
        PadMap("x", (*fine.bindings, Press(Control(CONTROL, 1, 52), Request("play"))))


def test_pads_are_lit_while_their_thing_is_on() -> None:
    pads = [Press(Control(NOTE, 1, n), Request("cue-number", n)) for n in range(3)]
    play = Press(PAD, Request("play"), lit=5, dark=1)
    dumb = Press(Control(NOTE, 2, 9), Request("seen"))
    lit = lights.messages(PadMap("x", (*pads, play, dumb)), State(frozenset({"play"}), frozenset({0, 2})))
    assert [lit[p.control].value for p in pads] == [127, 0, 127]
    assert lit[PAD].value == 5 and dumb.control not in lit


def test_a_map_comes_back_from_its_file() -> None:
    whole = PadMap(
        'Little "Desk"',
        (
            Press(PAD, Request("edit", "halve", "align"), 3, 1),
            Turn(WHEEL, SLIDE, BACK, OFFSET, True, 4),
            Level(FADER, BALANCE, True),
        ),
    )
    assert pad_files.read(pad_files.write(whole)) == whole
    maps, problems = pad_files.known()
    assert problems == [] and len(maps["Pad board"].bindings) == 19


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("device = ", "not TOML"),
        ('name = "x"', "'name' is no field"),
        ("", "'device' is missing"),
        ('device = "x"\n[[pad]]\ncontrol = "drum 1 2"\ndoes = "play"', r"\[\[pad\]\] 1: 'drum 1 2'"),
        ('device = "x"\n[[pad]]\ncontrol = "note 17 2"\ndoes = "play"', "channel"),
        ('device = "x"\n[[pad]]\ndoes = "play"', "'control' is missing"),
        ('device = "x"\n[[pad]]\ncontrol = "note 1 2"\ndoes = 3', "words in quotes"),
        ('device = "x"\n[[fader]]\ncontrol = "control 1 2"\nsets = "sun"', "'sun' is nothing"),
        ('device = "x"\n[[fader]]\ncontrol = "control 1 40"\nsets = "balance"\nfine = true', "0 to 31"),
        ('device = "x"\n[[wheel]]\ncontrol = "note 1 4"\ndoes = "slide"', "no note"),
        ('device = "x"\n[[wheel]]\ncontrol = "control 1 4"\ndoes = "slide"\nticks = 0', "1 or more"),
        ('device = "x"\npad = 3', "double brackets"),
    ],
)
def test_what_is_wrong_with_a_map_is_named(text: str, words: str) -> None:
    with pytest.raises(FormatError, match=words):
        pad_files.read(text)
