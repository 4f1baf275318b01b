"""Two levels: phrases and the sections they make, worked by hand."""

from __future__ import annotations

import attrs
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mervid.core.cues import recipe_places
from mervid.core.cues.recipe_places import Place
from mervid.core.errors import Refused
from mervid.core.form import phrase_edits
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import steady
from mervid.core.model.form import PHRASE_ROLES, Form, Phrase, Section
from mervid.core.model.preparation import Preparation

GRID = steady(tempo=120, first=1.0)


def form(*rows: tuple[str, str, int, bool]) -> Form:
    """Phrases of (role, letter, bars, goes on)."""
    at, out = 0, []
    for role, letter, bars, joins in rows:
        out.append(Phrase(4.0 * at, role, letter, 0.9, "heard", joins=joins))
        at += bars
    return Form(tuple(out), 4.0 * at)


SONG = form(("intro", "A", 8, False), ("verse", "B", 8, False), ("verse", "B", 8, True), ("chorus", "C", 8, False),
            ("verse", "B", 8, False), ("verse", "B", 8, True), ("chorus", "C", 8, False))  # fmt: skip
KEPT = Preparation(grid=GRID, form=SONG)


def test_neighbours_that_go_on_are_one_section() -> None:
    assert SONG.sections == (Section(0, 1), Section(1, 3), Section(3, 4), Section(4, 6), Section(6, 7))
    assert SONG.section_of(2) == SONG.section_of(1) == Section(1, 3)
    # the first phrase begins one, whatever is said of it
    assert form(("verse", "A", 8, True)).sections == (Section(0, 1),)


def test_what_is_alike_goes_on_and_an_intro_in_two_parts_too() -> None:
    verse = Phrase(0.0, "verse", "B")
    assert phrase_edits.goes_on(verse, attrs.evolve(verse, start=32.0))
    assert not phrase_edits.goes_on(verse, attrs.evolve(verse, letter="C"))
    assert not phrase_edits.goes_on(verse, attrs.evolve(verse, role="chorus"))
    assert phrase_edits.goes_on(Phrase(0.0, "intro", "A"), Phrase(32.0, "intro", "B"))


def test_a_rule_counts_sections() -> None:
    place = Place(GRID, SONG, 400.0)

    def bars(where: str) -> list[int]:
        return [round(s.beat / 4) + 1 for s in recipe_places.parse(where)(place)]

    assert bars("each verse") == [9, 33]
    assert bars("second verse") == [33]
    assert bars("half of second verse") == [41]
    assert bars("each section") == [1, 9, 25, 33, 49]
    assert len(bars("each phrase")) == 7


def test_a_person_opens_and_joins_sections() -> None:
    apart = phrase_edits.begin_section(KEPT, SONG, 2)
    assert apart.form is not None
    assert [len(s) for s in apart.form.sections] == [1, 1, 1, 1, 2, 1]
    assert apart.form.phrases[2].hand
    back = phrase_edits.join_section(apart, apart.form, 2)
    assert back.form is not None
    assert back.form.sections == SONG.sections
    # what is joined gets the role of what it goes on with, and takes the rest of its section along
    taken = phrase_edits.join_section(KEPT, SONG, 4)
    assert taken.form is not None
    assert [q.role for q in taken.form.phrases] == ["intro", "verse", "verse", "chorus", "chorus", "chorus", "chorus"]
    assert [len(s) for s in taken.form.sections] == [1, 2, 3, 1]
    for wrong in (lambda: phrase_edits.begin_section(KEPT, SONG, 3), lambda: phrase_edits.join_section(KEPT, SONG, 2),
                  lambda: phrase_edits.join_section(KEPT, SONG, 0)):  # fmt: skip
        with pytest.raises(Refused):
            wrong()


def test_a_role_goes_to_one_phrase_or_to_the_section() -> None:
    one = phrase_edits.set_role(KEPT, SONG, 2, "build")
    assert one.form is not None
    assert [q.role for q in one.form.phrases[1:4]] == ["verse", "build", "chorus"]
    assert one.form.section_of(2) == Section(2, 3)
    whole = phrase_edits.set_role(KEPT, SONG, 1, "break", whole=True)
    assert whole.form is not None
    assert [q.role for q in whole.form.phrases[1:4]] == ["break", "break", "chorus"]
    assert whole.form.section_of(2) == Section(1, 3)


def test_a_split_stays_in_its_section_and_merging_keeps_what_goes_on() -> None:
    split = phrase_edits.split(KEPT, SONG, 4.0 * 28)
    assert split.form is not None
    assert split.form.section_of(4) == Section(3, 5)
    merged = phrase_edits.merge(KEPT, SONG, 1)
    assert merged.form is not None
    # the rest of the verse is no part of the intro that its first half went into
    assert [len(s) for s in merged.form.sections] == [1, 1, 1, 2, 1]


@given(st.lists(st.tuples(st.sampled_from(PHRASE_ROLES), st.booleans()), min_size=1, max_size=30))
def test_sections_hold_each_phrase_once_and_come_back_from_disk(rows: list[tuple[str, bool]]) -> None:
    made = form(*((role, "A", 4, joins) for role, joins in rows))
    assert [i for s in made.sections for i in range(s.first, s.stop)] == list(range(len(rows)))
    p = Preparation(grid=GRID, form=made)
    assert pr.from_json(pr.to_json(p)) == p
    # what an older Mervid kept says nothing of sections
    old = pr.to_json(p).replace(',"joins":true', "").replace(',"joins":false', "")
    kept = pr.from_json(old).form
    assert kept is not None
    assert len(kept.sections) == len(rows)
