"""The user's guide, which ships with the program: pages of Markdown, found by words, opened at a heading."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import attrs

FOLDER = Path(__file__).resolve().parent
NAMES = ("start", "gather", "align", "ear", "findings", "phrase", "rehearse", "deliver", "pads", "home")
"""The pages in the order of reading."""
SNIPPET = 90


@attrs.frozen
class Part:
    """What stands under one heading: its words without any marks."""

    page: str
    heading: str
    text: str


@attrs.frozen
class Page:
    """One page: its name, its title, and its text as Markdown."""

    name: str
    title: str
    text: str

    @property
    def parts(self) -> list[Part]:
        """Its parts in order; the first one has the page's own heading."""
        out: list[Part] = []
        heading, lines = self.title, list[str]()
        for line in self.text.splitlines()[1:]:
            if line.startswith("#"):
                out.append(Part(self.name, heading, plain("\n".join(lines))))
                heading, lines = line.lstrip("# ").strip(), []
            else:
                lines.append(line)
        return [*out, Part(self.name, heading, plain("\n".join(lines)))]


@attrs.frozen
class Hit:
    """A part that holds what was looked for, and the words around it."""

    part: Part
    around: str


def plain(text: str) -> str:
    """Markdown without its marks.

    >>> plain("**F1** lists *all* [keys](x.md)")
    'F1 lists all keys'
    """
    text = re.sub(r"!\[([^\]]*)\]\([^)]*\)", r"\1", text)
    text = re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", text)
    text = re.sub(r"[*`|]", "", text)
    return " ".join(text.split())


@cache
def pages() -> tuple[Page, ...]:
    """All pages."""
    out = []
    for name in NAMES:
        text = (FOLDER / f"{name}.md").read_text("utf-8")
        out.append(Page(name, text.splitlines()[0].lstrip("# "), text))
    return tuple(out)


def page(name: str) -> Page:
    """The page of a name; the first one where there is none."""
    return next((p for p in pages() if p.name == name), pages()[0])


def found(words: str) -> list[Hit]:
    """Parts that hold every word, those with one in their heading first; none where nothing is asked."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    hits = []
    for part in (part for p in pages() for part in p.parts):
        text = f"{part.heading} {part.text}".casefold()
        if all(w in text for w in wanted):
            at = part.text.casefold().find(wanted[0])
            start = max(0, part.text.rfind(" ", 0, max(0, at - SNIPPET // 3)))
            hits.append(Hit(part, part.text[start : start + SNIPPET].strip()))
    return sorted(hits, key=lambda h: not any(w in h.part.heading.casefold() for w in wanted))
