"""The value that a form is: a row of phrases on the beats of a grid."""

from __future__ import annotations

import itertools

import attrs

from .errors import Refused

OTHER = "other"
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
    """

    start: float
    role: str = OTHER
    letter: str = "A"
    chance: float = 1.0
    reason: str = ""
    hand: bool = False


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
