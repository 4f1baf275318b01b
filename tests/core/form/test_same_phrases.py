"""Letters of phrases, by hand: what is near enough, whose turn it is, and that lengths and order don't matter."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mervid.core.form import same_phrases
from mervid.core.form.bar_features import Bars
from tests.core.form.test_boundary_net import composed


def sung(bars: Bars) -> Bars:
    return attrs.evolve(bars, drums=np.full(len(bars), 0.01), voice=np.full(len(bars), 0.9))


@pytest.mark.parametrize(("apart", "drummed", "alone"), [(0.3, "AA", "AA"), (0.6, "AB", "AA"), (1.1, "AB", "AB")])
def test_lines_of_a_voice_are_alike_though_their_words_differ(apart: float, drummed: str, alone: str) -> None:
    bars = composed([8, 8], [0, 1])
    for of, said in ((bars, drummed), (sung(bars), alone)):
        found = same_phrases.letters(np.array([[0, apart], [apart, 0]]), alike=same_phrases.near(of))
        assert "".join(same_phrases.letter(int(n)) for n in found) == said


@given(st.lists(st.integers(0, 3), min_size=2, max_size=9), st.integers(0, 2**20))
@settings(max_examples=30)
def test_parts_that_return_have_their_letter_in_order_of_appearance(kinds: list[int], seed: int) -> None:
    lengths = [8] * len(kinds)
    bars = composed(lengths, kinds, noise=0.05, seed=seed)
    unlike = same_phrases.apart(bars, np.cumsum([0, *lengths]))
    np.testing.assert_allclose(unlike, unlike.T, atol=1e-9)
    order: dict[int, int] = {}
    assert same_phrases.letters(unlike).tolist() == [order.setdefault(k, len(order)) for k in kinds]


def test_only_bars_that_both_phrases_have_are_compared() -> None:
    bars = composed([16, 8, 4, 16], [0, 1, 0, 0], noise=0.0)
    edges = np.array([0, 16, 24, 28, 44])
    unlike = same_phrases.apart(bars, edges)
    assert unlike[0, 2] < 0.15 and unlike[0, 3] < 0.15 and unlike[0, 1] > 0.45
    # what rings on after the last phrase belongs to none
    longer = composed([16, 8, 4, 16, 2], [0, 1, 0, 0, 1], noise=0.0)
    whole = {k: getattr(longer, k)[:44] for k in ("timbre", "harmony", "rhythm", "drums", "voice", "level", "opens")}
    cut = attrs.evolve(longer, starts=longer.starts[:45], times=longer.times[:45], **whole)
    np.testing.assert_allclose(same_phrases.apart(longer, edges), same_phrases.apart(cut, edges))


def test_after_z_comes_a2() -> None:
    assert [same_phrases.letter(n) for n in (0, 25, 26, 52)] == ["A", "Z", "A2", "A3"]
    assert same_phrases.letters(np.zeros((1, 1))).tolist() == [0]
