"""Phrases of a track: how they are kept, edited by hand, counted, and told in one line.

A form is a row of phrases, each beginning on a bar line and lasting until the next begins. As long as no hand has
touched it, it is read anew from what was heard whenever the grid improves; from the first edit on it is kept, and
follows the grid by its beats.
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..errors import Refused
from ..figures import semitones
from ..hearing.evidence import Evidence
from ..model.beatgrid import Grid, bar_name
from ..model.form import MOST_RAISED, PHRASE_ROLES, Form, Phrase
from ..model.preparation import Preparation, edit, grid_of
from . import bar_features, labelling, same_phrases, segmentation

_SAME = 1e-6
_TOLD = 6


def read(evidence: Evidence, grid: Grid, duration: float) -> Form | None:
    """The form that is heard under `grid`; None where there are too few bars."""
    found = bar_features.describe(evidence, grid, duration)
    if found is None:
        return None
    outline = segmentation.outline(found)
    named = labelling.roles(found, outline)
    phrases: list[Phrase] = []
    for a, n, by, r in zip(outline.edges[:-1], outline.letters, outline.raised, named, strict=True):
        letter = same_phrases.letter(int(n))
        q = Phrase(float(found.starts[a]), r.name, letter, round(r.chance, 3), r.reason, raised=int(by))
        phrases.append(attrs.evolve(q, joins=bool(phrases) and goes_on(phrases[-1], q)))
    return Form(tuple(phrases), float(found.starts[-1]))


def goes_on(before: Phrase, q: Phrase) -> bool:
    """Whether a phrase is heard as the same section as the one before: alike, or both of the way in or out."""
    alike = q.letter == before.letter and q.raised == before.raised
    return q.role == before.role and (alike or q.role in (labelling.INTRO, labelling.OUTRO))


def form_of(p: Preparation, evidence: Evidence | None, duration: float) -> Form | None:
    """The kept form, else the one that is heard."""
    if p.form is not None:
        return p.form
    if evidence is None or p.grid is None:
        return None
    return read(evidence, p.grid, duration)


# lengths


def bars_in(grid: Grid, what: Form) -> list[float]:
    """The length of each phrase in bars; a short bar counts as one, like any other."""
    starts = np.array([q.start for q in what.phrases] + [what.end])
    index, within = grid.bar_index(starts + _SAME)
    at = index + np.where(within < 0.01, 0.0, within / grid.bar_sizes(starts))
    return [float(x) for x in np.diff(at)]


def in_powers(length: int) -> list[int]:
    """A length told as a listener counts it: 20 is 16 + 4, 12 is 8 + 4, 9 is 8 + 1.

    >>> in_powers(20), in_powers(9), in_powers(48)
    ([16, 4], [8, 1], [32, 16])
    """
    out, size = [], 32
    while length > 0:
        while size > length:
            size //= 2
        out.append(size)
        length -= size
    return out


def usual(length: float) -> bool:
    """Whether a phrase of so many bars is nothing to remark on: 4, 8, 16 or 32 (common practice, no source)."""
    return length in (4, 8, 16, 32, 64)


def length_words(length: float) -> str:
    """A length as it is written at the end of a row: '8', or '20 = 16 + 4'."""
    whole = round(length)
    if abs(length - whole) > 0.01:
        return f"{length:.2f}".rstrip("0")
    parts = in_powers(whole)
    return f"{whole} = {' + '.join(map(str, parts))}" if len(parts) > 1 else str(whole)


# counting


def bar_of(grid: Grid, beat: float, origin: float | None = None) -> str:
    """What the bar at `beat` is called: from bar 1 at beat 0, or from the drop at `origin`, before which −1 stands."""
    index = int(grid.bar_index(beat + _SAME)[0])
    if origin is not None:
        index -= int(grid.bar_index(origin + _SAME)[0])
    return bar_name(index)


def place_of(grid: Grid, beat: float, origin: float | None = None) -> str:
    """`bar.beat` at a beat, counted as `bar_of` does."""
    within = float(grid.bar_index(beat + _SAME)[1])
    return f"{bar_of(grid, beat, origin)}.{int(within) + 1}"


def until(grid: Grid, beat: float, goal: float) -> str:
    """Bars and beats still to go until `goal`, counting down: '3.2' is three bars and two beats, '0.1' the last."""
    left = int(np.ceil(goal - beat - _SAME))
    if left <= 0:
        return "0.0"
    at = goal - left
    (here, last), (within, over) = grid.bar_index(np.array([at, goal]) + _SAME)
    first = int(here) + (float(within) > 0.01)
    bars = int(last) - first
    if bars < 0:
        return f"0.{left}"
    rest = float(grid.bar_start(first)) - at + float(over)
    return f"{bars}.{round(rest)}"


def next_start(what: Form, beat: float) -> float | None:
    """Where the phrase after the one at `beat` begins; the end of the form after the last; None beyond it."""
    for start in [q.start for q in what.phrases] + [what.end]:
        if start > beat + _SAME:
            return start
    return None


def phrase_at(what: Form, beat: float) -> int:
    """Which phrase holds `beat`; the first before it, the last after it."""
    starts = np.array([q.start for q in what.phrases])
    return int(np.clip(np.searchsorted(starts, beat + _SAME, "right") - 1, 0, len(starts) - 1))


# edits; each takes the form that is shown, so that what was heard is kept from the first one on


def _keep(p: Preparation, phrases: list[Phrase], end: float) -> Preparation:
    return attrs.evolve(p, form=Form(tuple(phrases), end))


def _at(what: Form, index: int) -> Phrase:
    if not 0 <= index < len(what.phrases):
        raise Refused("This phrase is gone.")
    return what.phrases[index]


@edit("Move a phrase's beginning")
def move_start(p: Preparation, what: Form, index: int, beat: float) -> Preparation:
    """Begin phrase `index` on the bar line nearest `beat`; its neighbours keep their own beginnings."""
    grid = grid_of(p)
    _at(what, index)
    line = grid.bar_line_near(float(grid.time_at(beat)))
    low = what.phrases[index - 1].start if index else -np.inf
    high = what.phrases[index + 1].start if index + 1 < len(what.phrases) else what.end
    if not low + _SAME < line < high - _SAME:
        raise Refused("A phrase needs at least one bar: merge them instead.")
    phrases = list(what.phrases)
    phrases[index] = attrs.evolve(phrases[index], start=line, hand=True)
    return _keep(p, phrases, what.end)


@edit("Split a phrase")
def split(p: Preparation, what: Form, beat: float) -> Preparation:
    """Let a new phrase begin on the bar line nearest `beat`; it is like the one it was cut from."""
    grid = grid_of(p)
    line = grid.bar_line_near(float(grid.time_at(beat)))
    if not what.phrases or not what.phrases[0].start < line < what.end:
        raise Refused("There is no phrase here to split.")
    if any(abs(q.start - line) < _SAME for q in what.phrases):
        raise Refused(f"A phrase begins at bar {bar_of(grid, line, p.origin)} already.")
    index = phrase_at(what, line)
    new = attrs.evolve(what.phrases[index], start=line, hand=True, joins=True)
    phrases = [*what.phrases[: index + 1], new, *what.phrases[index + 1 :]]
    return _keep(p, phrases, what.end)


@edit("Merge phrases")
def merge(p: Preparation, what: Form, index: int) -> Preparation:
    """Phrase `index` becomes part of the one before it."""
    _at(what, index)
    if index == 0:
        raise Refused("There is no phrase before the first to merge it with.")
    phrases = list(what.phrases)
    phrases[index - 1] = attrs.evolve(phrases[index - 1], hand=True)
    if index + 1 < len(phrases) and phrases[index + 1].joins and not phrases[index].joins:
        # what went on with the merged phrase is apart from the one before it
        phrases[index + 1] = attrs.evolve(phrases[index + 1], joins=phrases[index + 1].role == phrases[index - 1].role)
    del phrases[index]
    return _keep(p, phrases, what.end)


@edit("Change a phrase's role")
def set_role(p: Preparation, what: Form, index: int, role: str, *, whole: bool = False) -> Preparation:
    """Say what phrase `index` is for; with `whole` all of its section. A phrase apart is a section of its own."""
    if role not in PHRASE_ROLES:
        raise Refused(f"'{role}' is no role of a phrase: {', '.join(PHRASE_ROLES)}.")
    _at(what, index)
    phrases = list(what.phrases)
    section = what.section_of(index)
    for i in range(section.first, section.stop) if whole else (index,):
        phrases[i] = attrs.evolve(phrases[i], role=role, chance=1.0, reason="you said so", hand=True)
    for i in (index, index + 1):
        if i < len(phrases) and phrases[i].joins and phrases[i].role != phrases[i - 1].role:
            phrases[i] = attrs.evolve(phrases[i], joins=False)
    return _keep(p, phrases, what.end)


@edit("Begin a section")
def begin_section(p: Preparation, what: Form, index: int) -> Preparation:
    """Let a section begin with phrase `index`."""
    if not _at(what, index).joins:
        raise Refused("A section begins there already.")
    phrases = list(what.phrases)
    phrases[index] = attrs.evolve(phrases[index], joins=False, hand=True)
    return _keep(p, phrases, what.end)


@edit("Join a section")
def join_section(p: Preparation, what: Form, index: int) -> Preparation:
    """Let phrase `index`, and the rest of its section, go on with the section before: they get its role."""
    if index == 0 or _at(what, index).joins:
        raise Refused("There is no section before it." if index == 0 else "It goes on with the section before already.")
    phrases = list(what.phrases)
    role = phrases[index - 1].role
    for i in range(index, what.section_of(index).stop):
        changed = phrases[i].role != role
        phrases[i] = attrs.evolve(phrases[i], joins=True, hand=True)
        if changed:
            phrases[i] = attrs.evolve(phrases[i], role=role, chance=1.0, reason="as the section it goes on with")
    return _keep(p, phrases, what.end)


@edit("Change a phrase's letter")
def set_letter(p: Preparation, what: Form, index: int, letter: str) -> Preparation:
    """Say which phrases are alike: those with the same letter."""
    text = letter.strip().upper()[:3]
    if not text or not text.isalnum():
        raise Refused("A letter is A to Z, also with a figure: A2.")
    phrases = list(what.phrases)
    phrases[index] = attrs.evolve(_at(what, index), letter=text, hand=True)
    return _keep(p, phrases, what.end)


@edit("Change the key from a phrase on")
def raise_key(p: Preparation, what: Form, index: int, by: int) -> Preparation:
    """From phrase `index` on the track is so many semitones higher than was said."""
    _at(what, index)
    if index == 0:
        raise Refused("The key is counted from the first phrase on: choose a later one.")
    phrases = [attrs.evolve(q, raised=q.raised + by) if i >= index else q for i, q in enumerate(what.phrases)]
    if any(abs(q.raised) > MOST_RAISED for q in phrases):
        raise Refused(f"A key is told up to {MOST_RAISED} semitones from the one at the beginning.")
    return _keep(p, phrases, what.end)


@edit("Read the form again")
def as_heard(p: Preparation) -> Preparation:
    """Forget what hands did to the phrases: they are read from what is heard again."""
    if p.form is None:
        raise Refused("The form is as it is heard already.")
    return attrs.evolve(p, form=None)


@edit("Take over phrases")
def take_phrases(p: Preparation, what: Form) -> Preparation:
    """Phrases from elsewhere."""
    return attrs.evolve(p, form=what)


@edit("Count from the drop")
def count_from_drop(p: Preparation, what: Form | None, beat: float | None = None) -> Preparation:
    """Count bars from the drop, or from the bar line nearest `beat`: the lead-in counts −16 … −1."""
    grid = grid_of(p)
    if beat is None:
        drops = [q.start for q in what.phrases if q.role == labelling.DROP] if what is not None else []
        if not drops:
            raise Refused("No phrase here is a drop: call one so, or put the playhead on it and count from there.")
        beat = drops[0]
    return attrs.evolve(p, origin=grid.bar_line_near(float(grid.time_at(beat))))


@edit("Count from the first downbeat")
def count_from_start(p: Preparation) -> Preparation:
    """Count bars from the first downbeat again."""
    if p.origin is None:
        raise Refused("Bars are counted from the first downbeat already.")
    return attrs.evolve(p, origin=None)


@edit("Write the line")
def write_line(p: Preparation, text: str) -> Preparation:
    """A line of words of one's own in place of the one made from the form; empty for that again."""
    return attrs.evolve(p, line=" ".join(text.split())[:200])


# one line of words


def line_of(p: Preparation, what: Form | None) -> str:
    """The track in one line: the hand's own, or one made from the form; empty where there is neither.

    Such as '16-bar intro, drop at 33, breaks 8 + 8, one 20 (16 + 4)'.
    """
    if p.line:
        return p.line
    if p.grid is None or what is None or not what.phrases:
        return ""
    lengths = [round(x) for x in bars_in(p.grid, what)]
    whole = list(zip(what.phrases, lengths, strict=True))
    said: list[str] = []
    for role in (labelling.INTRO, labelling.OUTRO):
        run = [n for q, n in whole if q.role == role]
        if run and role == labelling.INTRO:
            said.append(f"{sum(run)}-bar intro")
    for role, words in ((labelling.DROP, "drop"), (labelling.CHORUS, "chorus")):
        begins = [q.start for q, _ in whole if q.role == role]
        if begins:
            some = begins[:_TOLD] if len(begins) > _TOLD + 1 else begins
            at = [*(bar_of(p.grid, b, p.origin) for b in some), *(["…"] if len(some) < len(begins) else [])]
            said.append(f"{words if len(at) == 1 else words + ('es' if words == 'chorus' else 's')} at {', '.join(at)}")
            if role == labelling.DROP:
                break
    for before, q in itertools.pairwise(what.phrases):
        if by := q.raised - before.raised:
            said.append(f"{semitones(by)} at {bar_of(p.grid, q.start, p.origin)}")
    breaks = [n for q, n in whole if q.role == labelling.BREAK]
    if breaks:
        breaks = breaks[:_TOLD]
        said.append(f"{'break' if len(breaks) == 1 else 'breaks'} {' + '.join(map(str, breaks))}")
    odd = sorted({n for q, n in whole if not usual(n) and q.role not in (labelling.INTRO, labelling.OUTRO)})
    for n in odd:
        times = sum(m == n for _, m in whole)
        parts = in_powers(n)
        how = f" ({' + '.join(map(str, parts))})" if len(parts) > 1 else ""
        said.append(f"{'one' if times == 1 else times} {n}{how}")
    ending = sum(n for q, n in whole if q.role == labelling.OUTRO)
    if ending:
        said.append(f"{ending}-bar outro")
    return ", ".join(said)
