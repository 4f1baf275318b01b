"""Templates: which words of a track go into which tag, as a line that a person can read.

`comment: {key} {drive} {comment}; grouping: {line}` has one rule a tag, parted by semicolons; a rule without a tag's
name is for the comment. What has no value leaves no gap. Written twice, a template gives the same as written once.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

import attrs

from ..errors import Refused
from .tags import FIELDS

TARGETS = tuple(f for f in FIELDS if f not in ("title", "artists", "year", "rating", "number"))
"""Tags that a template may fill: who made a thing and what it is called is for a person alone."""
WORDS = (
    "title", "artists", "album", "album_artist", "genre", "year", "label", "remixer", "comment", "grouping", "number",
    "rating", "tempo", "key", "drive", "line", "kind", "phrases", "cues", "readiness",
)  # fmt: skip
"""What may stand in braces."""
DEFAULT = "comment: {line} {comment}"
_PLACE = re.compile(r"\{([^{}]*)\}")


@attrs.frozen
class Template:
    """Rules in order: the tag, and its words with places in braces."""

    rules: tuple[tuple[str, str], ...]

    @property
    def text(self) -> str:
        """As a person writes it."""
        return "; ".join(f"{field}: {words}" for field, words in self.rules)


def parse(text: str) -> Template:
    """The template of a text; an empty one fills nothing.

    Raises
    ------
    Refused
        A tag or a word that isn't known, or a tag that no template fills.

    Examples
    --------
    >>> parse("{key} {comment}; grouping: {line}").text
    'comment: {key} {comment}; grouping: {line}'
    """
    rules: dict[str, str] = {}
    for rule in filter(None, map(str.strip, text.replace("\n", ";").split(";"))):
        found = re.match(r"([a-z_]+)\s*:\s*(.*)", rule)
        field, words = (found.group(1), found.group(2)) if found else ("comment", rule)
        if field not in TARGETS:
            raise Refused(f"'{field}' is no tag that a template fills: there are {', '.join(TARGETS)}.")
        if field in rules:
            raise Refused(f"'{field}' stands in this template twice.")
        for name in _PLACE.findall(words):
            if name not in WORDS:
                raise Refused(f"{{{name}}} is no word of a track: there are {', '.join(WORDS)}.")
        rest = _PLACE.sub("", words)
        if "{" in rest or "}" in rest:
            raise Refused(f"A brace is left over in '{words}'.")
        rules[field] = words
    return Template(tuple(rules.items()))


def fill(template: Template, values: Mapping[str, str]) -> dict[str, str]:
    """What each tag of a template becomes.

    Examples
    --------
    >>> t = parse("{key} {drive} {comment}")
    >>> once = fill(t, {"key": "Am", "drive": "7", "comment": "loud"})["comment"]
    >>> once, fill(t, {"key": "Am", "drive": "7", "comment": once})["comment"]
    ('Am 7 loud', 'Am 7 loud')
    """
    return {field: _filled(words, field, values) for field, words in template.rules}


def _filled(words: str, field: str, values: Mapping[str, str]) -> str:
    own = f"{{{field}}}"
    if own not in words:
        return _put(words, values)
    # what an earlier writing put round the tag's own words is taken off them first
    before, after = (_put(part, values) for part in words.split(own, 1))
    kept = values.get(field, "").strip()
    if before and (kept == before or kept.startswith(f"{before} ")):
        kept = kept[len(before) :].strip()
    if after and (kept == after or kept.endswith(f" {after}")):
        kept = kept[: len(kept) - len(after)].strip()
    return " ".join(filter(None, (before, kept, after)))


def _put(words: str, values: Mapping[str, str]) -> str:
    return " ".join(_PLACE.sub(lambda m: values.get(m.group(1), ""), words).split())
