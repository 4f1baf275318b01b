"""A habit read from cues that a hand set: what a recipe placed is learned back from it, and chance is no habit."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.cues import habit, prospects, recipes
from mervid.core.cues.habit import Example
from mervid.core.cues.recipe_places import Place
from mervid.core.cues.recipes import Recipe, Rule
from mervid.core.errors import Refused
from mervid.core.model.beatgrid import steady
from mervid.core.model.cue import Cue
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation

GRID = steady(tempo=120, first=1.0)
ROLES = ("intro", "verse", "chorus", "verse", "break", "build", "drop", "outro")
HABIT = Recipe("Mine", (
    Rule("first beat", "first downbeat", "both", 1), Rule("mid-intro", "half of the intro", "hot", 2),
    Rule("drop", "the drop", "hot", 3), Rule("chorus", "each chorus", "hot"),
    Rule("outro", "16 bars before the outro", "standby"), Rule("loop", "last 8 bars", "hot", loop=8),
))  # fmt: skip


def places(count: int, chance: float = 0.9) -> list[Place]:
    """Tracks of other lengths each; every fourth has no chorus."""
    rng = np.random.default_rng(5)
    out = []
    for k in range(count):
        at, rows = 0, []
        for role in ROLES:
            if role != "chorus" or k % 4:
                rows.append(Phrase(4.0 * at, role, role[0].upper(), chance, "heard"))
                at += int(rng.choice([8, 16, 24, 32]))
        out.append(Place(GRID, Form(tuple(rows), 4.0 * at), float(GRID.time_at(4.0 * at)) + 2))
    return out


def by_hand(place: Place, recipe: Recipe) -> Example:
    made, _ = recipes.work_out(Preparation(grid=GRID), recipe, place)
    return Example(place, tuple(attrs.evolve(c, recipe="") for c in made.cues))


def test_the_rules_that_set_the_cues_are_found() -> None:
    examples = [by_hand(place, HABIT) for place in places(14)]
    # in two of them the drop was set elsewhere, in one nothing was set
    for k in (3, 8):
        moved = tuple(attrs.evolve(c, beat=(c.beat or 0) + 16) if c.role == "drop" else c for c in examples[k].cues)
        examples[k] = Example(examples[k].place, moved)
    examples.append(Example(places(1)[0], ()))
    found = habit.learn(examples)
    known = {(h.rule.what, h.rule.where, h.rule.kind, h.rule.slot, h.rule.loop): (h.holds, h.of) for h in found}
    assert known["first beat", "first downbeat", "both", 1, 0] == (14, 14)
    assert known["mid-intro", "half of the intro", "hot", 2, 0] == (14, 14)
    assert known["drop", "the drop", "hot", 3, 0] == (12, 14)
    assert known["chorus", "the chorus", "hot", 4, 0] == (10, 10)
    # where the drop has 16 bars it stands there already, so no rule places this one; in one of these it was moved away
    assert known["outro", "16 bars before the outro", "standby", 0, 0] == (8, 9)
    assert known["loop", "last 8 bars", "hot", 5, 8] == (14, 14)
    assert len(found) == 6
    drop = next(h for h in found if h.rule.what == "drop")
    assert drop.sentence() == "Put a drop at the drop as hot in slot 3: holds in 12 of 14"
    # what was read sets the same cues again where the habit held
    again = habit.recipe_of(found, 14)
    place = places(14)[5]
    made, _ = recipes.work_out(Preparation(grid=GRID), again, place)
    assert {(c.beat, c.role) for c in made.cues} == {(c.beat, c.role) for c in by_hand(place, HABIT).cues}


def test_each_chorus_is_told_from_the_first() -> None:
    twice = []
    for place in places(12):
        assert place.form is not None
        phrases = tuple(attrs.evolve(q, role="chorus" if q.role == "build" else q.role) for q in place.form.phrases)
        twice.append(by_hand(attrs.evolve(place, form=Form(phrases, place.form.end)), HABIT))
    assert "each chorus" in {h.rule.where for h in habit.learn(twice) if h.rule.what == "chorus"}


def test_chance_is_no_habit_and_few_tracks_are_none() -> None:
    rng = np.random.default_rng(1)
    scattered = [
        Example(place, tuple(Cue(str(k), "Own", float(rng.integers(1, 400)) + 0.5) for k in range(3)))
        for place in places(12)
    ]
    with pytest.raises(Refused, match="no place in common"):
        habit.learn(scattered)
    with pytest.raises(Refused, match=r"9 tracks have cues that a hand set on the grid: from 10 on"):
        habit.learn([by_hand(place, HABIT) for place in places(9)])
    placed = recipes.work_out(Preparation(grid=GRID), HABIT, places(1)[0])[0].cues
    free = Cue("f", "Free", None, 3.0)
    assert habit.by_hand((*placed, free)) == ()


# what a recipe would do


def test_doubt_is_that_of_the_least_sure_cue() -> None:
    sure, unsure = (places(2, chance)[1] for chance in (0.95, 0.45))
    p = Preparation(grid=GRID)
    certain = prospects.prospect(1, "Sure", p, HABIT, sure, 0)
    doubtful = prospects.prospect(2, "Unsure", p, HABIT, unsure, 0)
    assert (certain.doubt, doubtful.doubt) == (pytest.approx(0.05), pytest.approx(0.55))
    assert not certain.doubtful
    assert certain.why == ""
    assert "Drop 45 % sure" in doubtful.why
    assert {f.cue.role: f.chance for f in doubtful.flags}["first beat"] == 1.0
    skipped = prospects.Prospect(3, "Locked", skipped="it is locked")
    assert prospects.in_order([skipped, certain, doubtful]) == [doubtful, certain, skipped]


def test_a_recipe_that_asks_for_more_says_what_is_too_unsure() -> None:
    place, p = places(2, 0.45)[1], Preparation(grid=GRID)
    _, told = recipes.work_out(p, attrs.evolve(HABIT, sure=0.6), place)
    by_role = {x.rule.what: x for x in told.lines}
    assert by_role["drop"].placed == ()
    assert by_role["drop"].problem == "only 45 % sure"
    assert len(by_role["first beat"].placed) == 1
    # another way that is sure enough is taken instead
    either = Recipe("Either", (Rule("drop", "the drop or first downbeat"),), sure=0.6)
    assert recipes.work_out(p, either, place)[1].lines[0].placed == (0.0,)
    value, _ = recipes.work_out(p, HABIT, place)
    drop = next(c for c in value.cues if c.role == "drop")
    assert recipes.chance_of(place.form, drop) == 0.45
    assert recipes.chance_of(place.form, attrs.evolve(drop, recipe="")) == 1.0


def test_flags_that_are_left_out_are_not_placed() -> None:
    place, p = places(2)[1], Preparation(grid=GRID)
    seen = prospects.prospect(1, "One", p, HABIT, place, 0)
    away = {f.key for f in seen.flags if f.cue.role in ("drop", "outro")}
    value, told = recipes.work_out(p, HABIT, place, away)
    assert {c.role for c in value.cues} == {f.cue.role for f in seen.flags} - {"drop", "outro"}
    # what was hidden by one that is left out doesn't take its place: it wasn't seen
    assert {(c.beat, c.role, c.slot) for c in value.cues} <= {(f.cue.beat, f.cue.role, f.cue.slot) for f in seen.flags}
    assert [x.problem for x in told.lines if x.rule.what == "drop"] == ["left out by hand"]
