"""Recipes against examples worked by hand (common practice, no source), and what a hand set."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mervid.core.cues import cue_edits, recipe_places, recipes
from mervid.core.cues.recipe_places import Place, Unplaced
from mervid.core.cues.recipes import Recipe, Rule
from mervid.core.errors import Refused
from mervid.core.hearing.evidence import Evidence
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.model.form import PHRASE_ROLES, Form, Phrase
from mervid.core.model.preparation import LOCKED, Preparation
from mervid.formats import recipe as files
from tests.conftest import beats_heard

GRID = steady(tempo=120, first=1.0)


def song(*parts: tuple[str, int], grid: Grid = GRID) -> Place:
    """A track of (role, bars) phrases."""
    starts, at = [], 0
    for _, length in parts:
        starts.append(float(grid.bar_start(at)))
        at += length
    phrases = tuple(Phrase(b, role) for b, (role, _) in zip(starts, parts, strict=True))
    end = float(grid.bar_start(at))
    return Place(grid, Form(phrases, end), float(grid.time_at(end)) + 2.0)


DANCE = song(("intro", 32), ("verse", 16), ("break", 8), ("build", 16), ("drop", 32), ("break", 8), ("outro", 32))
HOOK = song(("intro", 8), ("verse", 16), ("chorus", 8), ("verse", 16), ("chorus", 8), ("chorus", 8), ("outro", 8))


def bars(where: str, place: Place) -> list[int]:
    """Bars, counted from 1, at which `where` lies."""
    return [int(place.grid.bar_index(s.beat)[0]) + 1 for s in recipe_places.parse(where)(place)]


@pytest.mark.parametrize(
    ("where", "place", "expected"),
    [
        ("first downbeat", DANCE, [1]),
        ("half of the intro", DANCE, [17]),
        ("half of the intro", song(("intro", 16), ("drop", 16)), [9]),
        ("half of the intro", song(("intro", 8), ("drop", 16)), [5]),
        ("half of intro", song(("intro", 16), ("intro", 16), ("drop", 16)), [17]),
        ("the drop", DANCE, [73]),
        ("first break", DANCE, [49]),
        ("second break", DANCE, [105]),
        ("last break", DANCE, [105]),
        ("each chorus", HOOK, [25, 49, 57]),
        ("start and half of the outro", DANCE, [113, 129]),
        ("end of the drop", DANCE, [105]),
        ("16 bars before the drop", DANCE, [57]),
        ("4 bars after the first chorus", HOOK, [29]),
        ("1 bar before the drop", DANCE, [72]),
        ("last 8 bars", HOOK, [65]),
        ("every 16 bars from the first downbeat", HOOK, [1, 17, 33, 49, 65]),
        ("every 32 bars from the drop", DANCE, [73, 105, 137]),
        ("the drop or first chorus", HOOK, [25]),
        ("Each  Phrase", HOOK, [1, 9, 25, 33, 49, 57, 65]),
    ],
)
def test_places_are_found_as_a_dj_would_say_them(where: str, place: Place, expected: list[int]) -> None:
    assert bars(where, place) == expected


def test_a_pick_up_is_marked_as_one_and_the_first_downbeat_stays() -> None:
    """Two quavers before bar 1 after silence; a bar of music before bar 1 is no pick-up."""
    form = Form((Phrase(0.0, "intro"),), 128.0)

    def heard(*beats: float) -> Evidence:
        at = GRID.time_at([*beats, *np.arange(0.0, 64.0)])
        strong = np.ones(len(at), np.float32)
        return Evidence(beats_heard(np.asarray(at[-64:])), np.zeros(0, np.uint8), np.zeros(0, np.uint8), at, strong)

    upbeat = recipe_places.place_of(heard(-1.0, -0.5), GRID, form, 80.0)
    assert [s.beat for s in recipe_places.parse("the pick-up")(upbeat)] == [-1.0]
    assert [s.beat for s in recipe_places.parse("first downbeat")(upbeat)] == [0.0]
    for place in (
        recipe_places.place_of(heard(), GRID, form, 80.0),
        recipe_places.place_of(heard(-7.0, -1.0), GRID, form, 80.0),
    ):
        with pytest.raises(Unplaced, match="begins on the downbeat"):
            recipe_places.parse("pick-up")(place)


@pytest.mark.parametrize(
    ("where", "why"),
    [
        ("the drop", "no drop here"),
        ("third break", "no break here"),
        ("fourth chorus", "only 3 of them"),
        ("first vocal", "no voice"),
    ],
)
def test_what_is_not_there_is_said(where: str, why: str) -> None:
    with pytest.raises(Unplaced, match=why):
        recipe_places.parse(where)(HOOK)


@pytest.mark.parametrize("where", ["", "somewhere nice", "half of the middle", "every 0 bars", "x bars on"])
def test_words_that_are_not_understood_are_refused(where: str) -> None:
    with pytest.raises(Refused, match="where = "):
        recipe_places.parse(where)


def test_an_odd_bar_in_the_intro_doesn_t_move_the_half_off_a_bar_line() -> None:
    odd = Grid((Pin(1.0, 0.0), Pin(3.0, 4.0)), (MeterMark(0), MeterMark(16, 2), MeterMark(18)))
    place = song(("intro", 17), ("drop", 16), grid=odd)
    (spot,) = recipe_places.parse("half of the intro")(place)
    assert float(odd.bar_index(spot.beat)[1]) == 0
    assert int(odd.bar_index(spot.beat)[0]) == 8


def test_the_shipped_recipes_on_songs_worked_by_hand() -> None:
    long_intro, hook, steps, few, drop_first = files.shipped()
    p = Preparation(grid=GRID)

    def placed(recipe: Recipe, place: Place) -> list[tuple[str, int, int | None, str]]:
        out, _ = recipes.work_out(p, recipe, place)
        return [(c.role, int(GRID.bar_index(c.beat)[0]) + 1, c.slot, c.kind) for c in out.cues]

    assert placed(long_intro, DANCE) == [
        ("first beat", 1, 0, "both"),
        ("mid-intro", 17, 1, "both"),
        ("break", 49, 2, "both"),
        ("drop", 73, 3, "both"),
        ("outro", 113, 4, "both"),
    ]
    assert [(r, b) for r, b, _, _ in placed(hook, HOOK)] == [
        ("first beat", 1),
        ("mid-intro", 5),
        ("verse", 9),
        ("chorus", 25),
        ("chorus", 49),
        ("chorus", 57),
        ("outro", 65),
        ("mid-outro", 69),
    ]
    # the drop is always on the third slot, and where there is none the chorus
    assert [b for _, b, slot, _ in placed(few, DANCE) if slot == 2] == [73]
    assert [b for _, b, slot, _ in placed(few, HOOK) if slot == 2] == [25]
    # 17, 33, 49 and 65 are steps; the last eight bars, which begin at 65 too, are the step's already
    assert [b for _, b, _, _ in placed(steps, HOOK)] == [1, 17, 33, 49, 65]
    assert placed(drop_first, DANCE)[0][0] == "first beat"
    assert [b for r, b, slot, _ in placed(drop_first, DANCE) if slot == 0] == [73]


def test_what_a_hand_set_stays_and_what_had_no_place_is_reported() -> None:
    p = cue_edits.add_cue(Preparation(grid=GRID), float(GRID.time_at(64)), name="Mine", slot=3)
    recipe = files.shipped()[0]
    out, told = recipes.work_out(p, recipe, DANCE)
    assert cue_edits.in_slot(out, 3).name == "Mine"  # type: ignore[union-attr]
    # mid-intro lies where a hand has a cue already, and the drop's slot is taken: it goes to another and says so
    problems = "; ".join(told.problems)
    assert "Mine stands there already" in problems
    assert "slot 4 is taken by Mine: took slot 2" in problems
    assert told.placed == 4
    # again, or by another recipe: an earlier recipe's cues give way, a hand's never do
    again, _ = recipes.work_out(out, recipe, DANCE)
    assert [(c.name, c.beat, c.slot) for c in again.cues] == [(c.name, c.beat, c.slot) for c in out.cues]
    other = recipes.apply(out, files.shipped()[4], DANCE)
    assert "Mine" in {c.name for c in other.cues}
    assert {c.recipe for c in other.cues} == {"", "Drop first"}
    # a cue that a hand then moved is the hand's
    mid = next(c for c in again.cues if c.role == "outro")
    kept = cue_edits.move_cue(again, mid.id, float(GRID.time_at(460)))
    assert mid.id in {c.id for c in recipes.apply(kept, files.shipped()[4], DANCE).cues}
    with pytest.raises(Refused, match="locked"):
        recipes.apply(pr.set_readiness(p, LOCKED), recipe, DANCE)


def test_a_file_cut_on_its_first_beat_gets_its_first_cue() -> None:
    # the fit may put that beat some ms before the first sample
    cut = steady(tempo=120, first=-0.004)
    place = song(("intro", 8), ("drop", 16), grid=cut)
    rules = (Rule("first beat", "first downbeat", "hot"), Rule("first beat", "1 bar before the intro", "hot"))
    out, told = recipes.work_out(Preparation(grid=cut), Recipe("x", rules), place)
    assert [(c.beat, c.at(cut)) for c in out.cues] == [(0.0, 0.0)]
    assert "outside the recording" in "; ".join(told.problems)
    # by hand, too
    by_hand = cue_edits.add_cue(Preparation(grid=cut), 0.3)
    assert [c.beat for c in by_hand.cues] == [0.0]


def test_too_many_for_eight_slots() -> None:
    place = song(*[("verse", 8), ("chorus", 8)] * 12)
    rule = Rule("chorus", "each chorus", "hot")
    out, told = recipes.work_out(Preparation(grid=GRID), Recipe("x", (rule,)), place)
    assert len(out.cues) == 8
    assert told.problems == ("chorus, each chorus: all eight hot cues are taken",)
    # those that may wait instead, do
    out, told = recipes.work_out(Preparation(grid=GRID), Recipe("x", (attrs.evolve(rule, kind="both"),)), place)
    assert [c.kind for c in out.cues] == ["both"] * 8 + ["standby"] * 4


parts = st.lists(st.tuples(st.sampled_from(PHRASE_ROLES), st.integers(1, 40)), min_size=1, max_size=14)


@given(parts, st.sampled_from(files.shipped()))
def test_on_any_form_every_cue_lies_on_a_bar_line_inside_the_track_and_once(
    form: list[tuple[str, int]], recipe: Recipe
) -> None:
    place = song(*form)
    out, told = recipes.work_out(Preparation(grid=GRID), recipe, place)
    beats = [c.beat for c in out.cues]
    assert len(set(beats)) == len(beats)
    assert all(b is not None and float(GRID.bar_index(b)[1]) == 0 for b in beats)
    assert all(0 <= c.at(GRID) <= place.duration for c in out.cues)
    slots = [c.slot for c in out.cues if c.slot is not None]
    assert len(set(slots)) == len(slots)
    assert len(told.lines) == len(recipe.rules)
    assert all(x.placed or x.problem for x in told.lines)
