"""How it is fitted when bars begin with the first stroke, and which bar line is bar 1."""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np
import pytest

from mervid.core.hearing import opening
from tests.conftest import material
from training import first_line
from training.first_stroke import Example, example, fitted, judged


def test_the_law_is_found_again_and_what_it_mends_is_counted() -> None:
    rng = np.random.default_rng(1)
    law = np.array([-0.5, 3.0, 0.3, -1.0, -1.5])
    made = []
    for _ in range(5000):
        x = np.array([rng.uniform(-2, 14), rng.uniform(0.3, 1), rng.normal(0, 4), rng.exponential(1)])
        there = bool(rng.random() < 1 / (1 + np.exp(-np.dot(law, np.append(x, 1)))))
        made.append(Example("a", x, there, not there))
    np.testing.assert_allclose(fitted(made), law, atol=0.5)
    n, could, mended, spoiled = judged(made, law)
    assert n == len(made) and could == sum(e.there for e in made)
    # six in ten and more of those that are moved should be
    assert mended > 0.6 * (mended + spoiled) > 0


def test_a_take_tells_which_bars_are_right(take: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with np.load(take) as z:
        kept = dict(z) | {k: material("dance")[k] for k in ("beats", "downbeats")}
    np.savez(take, **kept)
    # bars begin with the first stroke
    assert example(take) is None
    barred = opening.barred
    for shift in (2, 3):

        def late(*given: object, by: int = shift) -> opening.Barred | None:
            whole = barred(*given)  # type: ignore[arg-type]
            return whole and attrs.evolve(whole, position=(whole.position + by) % 4)

        monkeypatch.setattr(opening, "barred", late)
        found = example(take)
        assert found is not None
        assert (found.folder, found.there, found.stays) == (take.parent.name, True, False)
    # nothing is learned from beats that are wrong
    np.savez(take, **(kept | {"beats": kept["beats"] + 0.15}))
    assert example(take) is None


def test_bar_1_is_where_the_truth_has_it(take: Path) -> None:
    """Of a take whose first two bars are said to come before its music bar 1 is another line than the best."""
    late = first_line.example(take)
    with np.load(take) as z:
        kept = dict(z) | {k: material("dance")[k] for k in ("beats", "downbeats")}
    np.savez(take, **kept)
    found = first_line.example(take)
    assert late is not None and found is not None
    assert found.stays and not found.there.any()
    assert not late.stays and late.there.sum() == 1
    np.testing.assert_allclose(found.figures, late.figures)
    n, wrong, mended, spoiled = first_line.judged([found, late], np.array([0.0] * 6 + [-9.0]))
    assert (n, wrong, mended, spoiled) == (2, 1, 0, 0)
    # weights that take any other line spoil the one, and mend the other where that is the true one
    n, wrong, mended, spoiled = first_line.judged([found, late], np.array([0.0] * 6 + [9.0]))
    assert (n, wrong, spoiled) == (2, 1, 1)
    np.savez(take, **(kept | {"beats": kept["beats"] + 0.15}))
    assert first_line.example(take) is None
