"""Small TOML files that would take gigabytes to parse are refused in words, by every reader of TOML."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from mervid.core.errors import FormatError
from mervid.formats import pad_files, profile_files, recipe, toml_text

DEEP = ".".join(["a"] * 50_000)


@pytest.mark.parametrize("read", [recipe.read, profile_files.read, pad_files.read])
@pytest.mark.parametrize(
    "text",
    [f"{DEEP} = 1", f"[{DEEP}]", f'"=".{DEEP} = 1', '."a"'.join(["x"] * 20_000) + " = 1", "x = " + "[" * 100_000],
    ids=["key", "table", "equals sign in quotes", "quoted parts", "nested arrays"],
)
def test_deep_keys_are_refused_before_they_are_parsed(read: Callable[[str], object], text: str) -> None:
    with pytest.raises(FormatError, match="Line 1 has"):
        read(text)


def test_many_lines_of_the_longest_keys_are_parsed() -> None:
    """The worst that is let through: it is read, or refused, and takes little."""
    key = ".".join(["a"] * (toml_text.LONGEST_LINE // 2 - 4))
    lines = [f"{key[:-2]}.b{k} = 1" for k in range(50)]
    assert "a" in toml_text.parse("\n".join(lines))


def test_a_long_file_is_refused() -> None:
    with pytest.raises(FormatError, match="characters"):
        toml_text.parse("# long\n" * 200_000)
