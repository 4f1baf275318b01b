"""Recipe files: readable, and what is wrong is said with line and field."""

from __future__ import annotations

from pathlib import Path

import pytest

from mervid.core.errors import FormatError
from mervid.formats import recipe

GOOD = """\
name = "Mine"

[[rule]]
what = "drop"
where = "the drop"
as = "both"
slot = 3

[[rule]]
what = "loop"
where = "last 8 bars"
loop = 4
"""


def test_shipped_recipes_are_read_and_written_back() -> None:
    names = [r.name for r in recipe.shipped()]
    assert names == ["Long-intro dance track", "Song with a hook", "Every 16 bars", "Few slots", "Drop first"]
    for r in recipe.shipped():
        assert recipe.read(recipe.write(r)) == r
        assert r.about
    mine = recipe.read(GOOD)
    assert [(x.kind, x.slot, x.loop) for x in mine.rules] == [("both", 3, 0), ("hot", 0, 4)]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("name", "nome"), r"Line 1: 'nome' is no field of a recipe"),
        (('name = "Mine"', ""), r"Line 1: the field 'name' is missing"),
        (('name = "Mine"', "name = 3"), r"Line 1: 'name' must be words"),
        (("slot = 3", "slot = 9"), r"Line 7, rule 1: slot = 9 is no slot"),
        (("slot = 3", 'slot = "3"'), r"Line 7, rule 1: 'slot' must be a whole number"),
        (("slot = 3", "slot = true"), r"Line 7, rule 1: 'slot' must be a whole number"),
        (('as = "both"', 'as = "cold"'), r"Line 6, rule 1: as = 'cold' is none of hot, standby, both"),
        (
            ('where = "last 8 bars"', 'where = "the end bit"'),
            r"Line 11, rule 2: where = 'the end bit' is not",
        ),
        (('what = "loop"', 'what = "bit"'), r"Line 10, rule 2: what = 'bit' is no role"),
        (('what = "loop"\n', ""), r"Line 9, rule 2: the field 'what' is missing"),
        (("loop = 4", "lop = 4"), r"Line 12, rule 2: 'lop' is no field of a rule"),
        (("loop = 4", "loop = 400"), r"Line 12, rule 2: loop = 400 must be"),
        (("[[rule]]", "[[rule"), r"not TOML.*line 3"),
    ],
)
def test_what_is_wrong_is_said_with_line_and_field(change: tuple[str, str], says: str) -> None:
    with pytest.raises(FormatError, match=says):
        recipe.read(GOOD.replace(*change))


def test_files_that_are_no_recipes(tmp_path: Path) -> None:
    with pytest.raises(FormatError, match="no \\[\\[rule\\]\\]"):
        recipe.read('name = "x"')
    with pytest.raises(FormatError, match="must be rules"):
        recipe.read('name = "x"\nrule = 3')
    raw = tmp_path / "x.toml"
    raw.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FormatError, match=r"x\.toml: this is not text"):
        recipe.load(raw)
    with pytest.raises(FormatError, match="can't be read"):
        recipe.load(tmp_path / "missing.toml")
