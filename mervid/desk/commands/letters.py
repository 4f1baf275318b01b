"""What each letter key stands for, in every stage: with Shift and Alt the same idea, smaller, larger or typed."""

from __future__ import annotations

from ..theme.tr import marked

LETTERS = {
    "A": marked("Apply rules"),
    "B": marked("A beat or a phrase begins here"),
    "C": marked("Cues"),
    "D": marked("Downbeats: where bars, sections and drops begin"),
    "E": marked("What each ear gets"),
    "F": marked("Fit to what was detected"),
    "G": marked("Go to the mix point"),
    "H": marked("Half: fewer beats or rows, and back"),
    "I": marked("Place of the spot check"),
    "J": marked("Jump to the next place to review, or from chorus to chorus"),
    "K": marked("Click: the reference beat"),
    "L": marked("Local tempo"),
    "M": marked("Metre and mix zones"),
    "N": marked("Next"),
    "O": marked("Other ways to count"),
    "P": marked("Pins, places to mix, and pads"),
    "Q": marked("Another page of the stage"),
    "R": marked("Role and letter of a phrase"),
    "S": marked("Speed and steady tempo"),
    "T": marked("Tempo, and values you type"),
    "U": marked("Use: as outgoing track, in the grid"),
    "V": marked("View: what is shown, and how"),
    "W": marked("Tabs and texts at the right"),
    "X": marked("Confirm a place"),
    "Y": marked("Musical key"),
    "Z": marked("Gap: no beats"),
}
"""By letter."""


def letter_of(keys: str) -> str:
    """The letter of a key that is pressed alone, with Shift or with Alt; empty for any other key.

    >>> letter_of("Alt+Shift+P"), letter_of("Ctrl+P"), letter_of("F8"), letter_of("Alt+Left")
    ('P', '', '', '')
    """
    *held, key = keys.split("+")
    return key if key in LETTERS and "Ctrl" not in held else ""
