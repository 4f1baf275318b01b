"""The value that a form is: a row of phrases on the beats of a grid."""

from __future__ import annotations

import itertools
from functools import cached_property

import attrs

from ..errors import Refused
from ..figures import signed

OTHER = "other"
MOST_RAISED = 6
"""Semitones up or down: one more is less the other way round."""
PHRASE_ROLES = ("intro", "verse", "chorus", "break", "build", "drop", "outro", OTHER)


@attrs.frozen
class Phrase:
    """From beat `start` until the next phrase begins.

    Attributes
    ----------
    role : one of `PHRASE_ROLES`
    letter : the same for phrases that sound alike
    chance, reason : how likely the role is, 0 to 1, and why
    hand : a person moved, made or named it
    joins : it goes on with the section of the phrase before it, so that both are one to a listener
    raised : semitones that its key lies above the one in which the track begins
    """

    start: float
    role: str = OTHER
    letter: str = "A"
    chance: float = 1.0
    reason: str = ""
    hand: bool = False
    joins: bool = False
    raised: int = 0

    @property
    def name(self) -> str:
        """Its letter, and by how much it is raised.

        >>> Phrase(64.0, letter="B", raised=1).name, Phrase(0.0).name
        ('B +1', 'A')
        """
        return f"{self.letter} {signed(self.raised)}" if self.raised else self.letter


@attrs.frozen
class Section:
    """Neighbouring phrases that are one to a listener: from phrase `first` to before phrase `stop`."""

    first: int
    stop: int

    def __len__(self) -> int:
        return self.stop - self.first


def letter_number(letter: str) -> int:
    """0 for A, 1 for B ... 26 for A2: so that what is alike looks alike."""
    if not letter or not letter[0].isascii() or not letter[0].isalpha():
        return 0
    rest = letter[1:]
    return ord(letter[0].upper()) - 65 + 26 * (int(rest) - 1 if rest.isdigit() and int(rest) > 0 else 0)


@attrs.frozen
class Form:
    """Phrases in order, and the beat on which the last one ends."""

    phrases: tuple[Phrase, ...]
    end: float

    def __attrs_post_init__(self) -> None:
        starts = [q.start for q in self.phrases] + [self.end]
        for a, b in itertools.pairwise(starts):
            if not b > a:
                raise Refused(f"A phrase can't begin on beat {b:g}, after the one on beat {a:g}.")
        if not self.phrases:
            raise Refused("A form needs a phrase.")

    @cached_property
    def sections(self) -> tuple[Section, ...]:
        """The sections, in order; each phrase is in one."""
        begins = [i for i, q in enumerate(self.phrases) if not i or not q.joins]
        return tuple(Section(a, b) for a, b in itertools.pairwise([*begins, len(self.phrases)]))

    @cached_property
    def mostly_raised(self) -> int:
        """Semitones that the key of most of the track lies above the one at the beginning."""
        beats: dict[int, float] = {}
        for q, end in zip(self.phrases, [*(q.start for q in self.phrases[1:]), self.end], strict=True):
            beats[q.raised] = beats.get(q.raised, 0.0) + end - q.start
        return max(beats, key=lambda by: beats[by])

    def section_of(self, index: int) -> Section:
        """The section that holds phrase `index`."""
        return next(s for s in self.sections if s.first <= index < s.stop)
