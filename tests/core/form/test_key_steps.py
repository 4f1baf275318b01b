"""Steps of the key against songs worked by hand: choruses that come again higher, and what is no step."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mervid.core.errors import Refused
from mervid.core.form import key_steps, phrase_edits, same_phrases
from mervid.core.form.bar_features import Bars, in_one_key, lowered
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation

# thirds on the tonic, and the chords of a bar's halves as the scale steps on which they stand
TRIAD = np.array([0, 4, 7])
CHORDS = {"A": (0, 9, 5, 7), "B": (5, 7, 0, 0), "C": (2, 7, 4, 9)}


def song(parts: str, raised: tuple[int, ...], *, bars: int = 8, moved: int = 0) -> tuple[Bars, np.ndarray]:
    """Bars of phrases "A", "B", "C" that lie so many semitones higher, all of it in a key `moved` from C."""
    rng = np.random.default_rng(7)
    of = np.repeat([ord(p) - 65 for p in parts], bars)
    n = len(of)
    pitches = 0.02 + 0.02 * rng.random((n, 2, 12))
    for k, (part, up) in enumerate(zip(parts, raised, strict=True)):
        for i in range(bars):
            for half in range(2):
                root = CHORDS[part][(2 * i + half) % 4]
                pitches[k * bars + i, half, (TRIAD + root + up + moved) % 12] += 0.25
    timbre = rng.normal(size=(3, 24))[of] + 0.2 * rng.normal(size=(n, 24))
    rhythm = np.clip(rng.random((3, 16))[of] + 0.02 * rng.normal(size=(n, 16)), 0, 1)
    line, row = np.arange(n + 1.0), np.ones(n)
    plain = Bars(4 * line, 2 * line, timbre, np.zeros((n, 24)), rhythm, row, 0 * row, 0 * row, 0 * row)
    return in_one_key(attrs.evolve(plain, pitches=pitches.reshape(n, 24)), np.zeros(n, int)), np.arange(0, n + 1, bars)


def apart(bars: Bars, edges: np.ndarray, raised: np.ndarray) -> np.ndarray:
    return same_phrases.apart(in_one_key(bars, key_steps.of_bars(raised, edges, len(bars))), edges)


@pytest.mark.parametrize("by", [1, 2, 3])
@pytest.mark.parametrize("moved", [0, 5, 11])
def test_a_chorus_that_comes_again_higher_is_the_same_chorus(by: int, moved: int) -> None:
    bars, edges = song("ABABB", (0, 0, 0, 0, by), moved=moved)
    found = key_steps.raised(bars, edges)
    assert found.tolist() == [0, 0, 0, 0, by]
    level, as_it_sounds = apart(bars, edges, found), apart(bars, edges, np.zeros(5, int))
    assert same_phrases.letters(level).tolist() == [0, 1, 0, 1, 1]
    assert level[1, 4] == pytest.approx(level[1, 3], abs=0.05) and as_it_sounds[1, 4] > level[1, 4] + 0.2


def test_it_may_go_up_twice() -> None:
    bars, edges = song("ABABABB", (0, 0, 0, 0, 1, 1, 3))
    assert key_steps.raised(bars, edges).tolist() == [0, 0, 0, 0, 1, 1, 3]


@pytest.mark.parametrize(
    ("parts", "raised"),
    [
        ("ABABAB", (0, 0, 0, 0, 0, 0)),
        # a part of its own in another key, after which the song goes on as before
        ("ABABCAB", (0, 0, 0, 0, 2, 0, 0)),
        # so far songs don't go up
        ("ABABB", (0, 0, 0, 0, 5)),
        # what comes again up a semitone, and is back at once, is the middle of a form, no step of the key
        ("AABA", (0, 0, 1, 0)),
        # too little before it
        ("AA", (0, 1)),
    ],
)
def test_what_is_no_step(parts: str, raised: tuple[int, ...]) -> None:
    assert not key_steps.raised(*song(parts, raised)).any()


def test_a_short_tail_or_no_pitches_tell_nothing() -> None:
    bars, edges = song("ABABB", (0, 0, 0, 0, 1))
    assert not key_steps.raised(bars, np.array([0, 8, 16, 24, 32, 35])).any()
    assert not key_steps.raised(attrs.evolve(bars, pitches=np.zeros((0, 24))), edges).any()
    # a whole night, in which other songs are in other keys
    assert not key_steps.raised(*song("AB" * 33, (0,) * 33 + (1,) * 33)).any()


@given(st.lists(st.integers(-11, 11), min_size=1, max_size=9))
@settings(max_examples=40)
def test_lowering_and_raising_again_changes_nothing(by: list[int]) -> None:
    rows, up = np.random.default_rng(1).random((len(by), 24)), np.array(by)
    np.testing.assert_array_equal(lowered(lowered(rows, up), -up), rows)
    # a fifth above C is G: published pitch classes, C first
    assert int(lowered(np.tile(np.eye(12)[7], (1, 2)), np.array([7]))[0].argmax()) == 0


def test_a_form_says_and_keeps_its_steps() -> None:
    grid = Grid((Pin(0.0, 0.0), Pin(2.0, 4.0)))
    p = Preparation(grid=grid)
    form = Form(tuple(Phrase(32.0 * k, role, letter) for k, (role, letter) in enumerate(
        [("intro", "A"), ("chorus", "B"), ("verse", "C"), ("chorus", "B")])), 128.0)  # fmt: skip
    up = phrase_edits.raise_key(p, form, 3, 1).form
    assert up is not None
    assert [q.name for q in up.phrases] == ["A", "B", "C", "B +1"]
    assert "a semitone up at 25" in phrase_edits.line_of(p, up)
    here = [up.phrases[phrase_edits.phrase_at(up, beat)].raised for beat in (0.0, 95.9, 96.0)]
    assert (*here, up.mostly_raised) == (0, 0, 1, 0)
    down = phrase_edits.raise_key(p, up, 1, -2).form
    assert down is not None and [q.raised for q in down.phrases] == [0, -2, -2, -1] and down.mostly_raised == -2
    assert "2 semitones down at 9" in phrase_edits.line_of(p, down)
    with pytest.raises(Refused, match="choose a later one"):
        phrase_edits.raise_key(p, form, 0, 1)
    with pytest.raises(Refused, match="up to 6 semitones"):
        phrase_edits.raise_key(p, form, 2, 7)
    with pytest.raises(Refused, match="is gone"):
        phrase_edits.raise_key(p, form, 4, 1)
