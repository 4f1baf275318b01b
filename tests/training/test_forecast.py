"""How the forecast of pairs is fitted: on stretches made by hand whose law is known."""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np

from mervid.core.fitting import sureness
from mervid.core.fitting.sureness import Stretch
from tests.conftest import material
from training.forecast import Judged, apart, doubts, hidden, lessons, pairs
from training.judge import logistic

LAW = (2.0, 0.5, 0.3, 0.2)


def stretch(rng: np.random.Generator) -> Stretch:
    most = float(rng.exponential(3))
    sure = float(rng.uniform(0.5, 0.98))
    return Stretch(0.0, most / 3, most, float(rng.exponential(6)), sure, sure - 0.1, 0.9, 0.0)


def test_a_law_that_made_the_errors_is_found_again_among_wrong_counts() -> None:
    rng = np.random.default_rng(1)
    rows = []
    for k in range(400):
        s = stretch(rng)
        size = float(np.hypot(s.most, np.exp(np.dot(sureness.hidden_by(s), LAW))) * np.exp(rng.normal(0, 0.2)))
        wrong = k % 9 == 0
        # 95 of 100 lie within `size`
        off = rng.permutation(np.linspace(-size / 0.95, size / 0.95, 201)) + (240 if wrong else 0)
        rows.append(Judged(str(k // 2), s, 0.5, off, wrong))
    np.testing.assert_allclose(hidden(rows), LAW, atol=0.1)
    partners = pairs(rows)
    assert len(partners) == 6 * len(rows)
    assert all(rows[i].take != rows[j].take for i, j in partners)
    assert apart(rows[0], rows[0]) == 0 and apart(rows[0], rows[1]) > 200


def test_a_logistic_law_is_found_again() -> None:
    rng = np.random.default_rng(2)
    x = np.stack([np.ones(4000), rng.normal(0, 1, 4000)], axis=1)
    right = rng.random(4000) < 1 / (1 + np.exp(-(x @ [-1.0, 2.0])))
    np.testing.assert_allclose(np.roll(logistic(x[:, 1:], right.astype(float)), 1), [-1.0, 2.0], atol=0.2)


def test_what_speaks_for_wrong_counts_is_found_again() -> None:
    rng = np.random.default_rng(4)
    law = [-1.0, 0.0, 0.5, 2.0, 1.0]
    rows = []
    for k in range(4000):
        s = attrs.evolve(stretch(rng), level=float(rng.uniform(0, 1)))
        wrong = rng.random() < 1 / (1 + np.exp(-np.dot(sureness.doubted_by(s), law)))
        rows.append(Judged(str(k), s, 0.5, np.zeros(16), bool(wrong)))
    np.testing.assert_allclose(doubts(rows), law, atol=0.4)


def test_a_take_is_judged_by_its_true_beats(take: Path) -> None:
    """The written grid lies on them; every second one of them are as good for two tracks together, others aren't."""
    with np.load(take) as z:
        kept = dict(z)
    beats = material("dance")["beats"]
    for name, true, wrong in (
        ("right", beats, False),
        ("half", beats[::2], False),
        ("beside", beats + 0.15, True),
        ("thirds", beats[np.arange(len(beats)) % 3 != 0], True),
    ):
        path = take.with_name(f"{name}.npz")
        np.savez(path, **(kept | {"beats": true}))
        found = lessons(path)
        assert {one.wrong for one in found} == {wrong}, name
        if not wrong:
            assert all(np.percentile(np.abs(one.off), 95) < 10 and one.stretch.missing < 0.1 for one in found), name
