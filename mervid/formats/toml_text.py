"""TOML (v1.0) from a person's file: parsed only where the file and its lines are short, as those of settings are.

A dotted key is a table in a table for each of its parts: one of 50,000 parts, 100 KB, takes gigabytes to parse. A key
is on one line (TOML v1.0.0, 'Keys'), so the length of lines bounds it.
"""

from __future__ import annotations

import tomllib
from typing import Any

from ..core.errors import FormatError

LONGEST_TEXT, LONGEST_LINE = 1 << 20, 2000
"""Characters."""


def parse(text: str) -> dict[str, Any]:
    """The values of a TOML text.

    Raises
    ------
    FormatError
        Not TOML, longer than `LONGEST_TEXT`, or with a line longer than `LONGEST_LINE`.

    >>> parse('name = "Long intro"')
    {'name': 'Long intro'}
    """
    if len(text) > LONGEST_TEXT:
        raise FormatError(f"This file has {len(text):,} characters. Shorten it to {LONGEST_TEXT:,}.")
    for number, line in enumerate(text.split("\n"), 1):
        if len(line) > LONGEST_LINE:
            raise FormatError(f"Line {number} has {len(line):,} characters. Shorten it to {LONGEST_LINE:,}.")
    try:
        return tomllib.loads(text)
    except (ValueError, RecursionError) as e:
        raise FormatError(f"This is not TOML: {str(e)[:140]}.") from None
