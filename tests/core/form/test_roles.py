"""Roles over a whole track against forms worked by hand, the sums they rest on, and what is said where none tells."""

from __future__ import annotations

import itertools

import attrs
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mervid.core.form import labelling, role_features, role_model, same_phrases
from mervid.core.form.bar_features import Bars
from mervid.core.form.role_model import KINDS, STYLES
from mervid.core.form.segmentation import Outline
from mervid.core.model.form import PHRASE_ROLES


def rendered(*parts: tuple[int, float, float, float]) -> tuple[Bars, Outline]:
    """Bars of (bars, level, drums, voice) phrases; phrases of the same figures share a letter."""
    lengths = [p[0] for p in parts]
    n = sum(lengths)
    level, drums, voice = (np.repeat([p[k] for p in parts], lengths).astype(float) for k in (1, 2, 3))
    edges = np.concatenate([[0], np.cumsum(lengths)])
    known: dict[tuple[float, ...], int] = {}
    letters = np.array([known.setdefault(p[1:], len(known)) for p in parts])
    starts = np.arange(n + 1) * 4.0
    rhythm = np.tile([0.8, 0.1, 0.3, 0.1] * 4, (n, 1)) * drums[:, None]
    bars = Bars(
        starts, starts / 2, np.zeros((n, 24)), np.full((n, 24), 12**-0.5), rhythm, drums, voice,
        (level - level.mean()) / level.std(), np.zeros(n),
    )  # fmt: skip
    return bars, Outline(
        edges, letters, np.zeros(len(parts)), same_phrases.apart(bars, edges), np.zeros(len(parts), int)
    )


def test_a_song_worked_by_hand() -> None:
    song = rendered((8, 0.2, 0.9, 0.0), (16, 0.5, 0.9, 0.8), (8, 1.0, 0.95, 0.9), (16, 0.5, 0.9, 0.8),
                    (8, 1.0, 0.95, 0.9), (8, 0.0, 0.1, 0.1), (8, 1.0, 0.95, 0.9), (8, 0.2, 0.9, 0.0))  # fmt: skip
    found = labelling.roles(*song)
    names = ["intro", "verse", "chorus", "verse", "chorus", "break", "chorus", "outro"]
    assert [r.name for r in found] == names
    assert all(r.chance >= labelling.TELLS and r.reason for r in found)


def test_dance_music_worked_by_hand() -> None:
    track = rendered((16, 0.2, 0.9, 0.0), (16, 0.6, 0.9, 0.0), (8, -0.4, 0.1, 0.0), (8, 0.2, 0.5, 0.0),
                     (32, 1.6, 1.0, 0.0), (16, 0.2, 0.9, 0.0))  # fmt: skip
    found = [r.name for r in labelling.roles(*track)]
    assert (found[0], found[2], found[-1]) == ("intro", "break", "outro")
    assert found[4] in ("drop", "chorus")


def test_the_sums_are_those_of_every_way_through() -> None:
    """Forward and backward sums against all 9 ** 3 ways, counted one by one."""
    model = role_model.shipped(sung=True)
    assert model is not None
    rng = np.random.default_rng(3)
    odds = rng.normal(0, 2, (3, len(KINDS)))
    chances, styles = role_model.smooth(model, odds, sung=True)
    heard = odds - np.log(np.exp(odds).sum(axis=1, keepdims=True))
    heard = (heard - model.usual) / model.heat
    n = len(KINDS)
    total = np.zeros((len(STYLES), 3, n))
    for s, moves in enumerate(model.moves * model.count):
        for way in itertools.product(range(n), repeat=3):
            steps = moves[n, way[0]] + moves[way[0], way[1]] + moves[way[1], way[2]] + moves[way[2], n]
            weight = np.exp(steps + model.styles[1, s] + sum(heard[i, k] for i, k in enumerate(way)))
            for i, k in enumerate(way):
                total[s, i, k] += weight
    assert chances == pytest.approx(total.sum(axis=0) / total[:, 0].sum(), rel=1e-9)
    assert styles == pytest.approx(total[:, 0].sum(axis=1) / total[:, 0].sum(), rel=1e-9)


@given(
    st.lists(
        st.tuples(st.sampled_from([2, 4, 8, 16, 20]), st.floats(-1, 1), st.floats(0, 1), st.floats(0, 1)),
        min_size=2,
        max_size=12,
    )
)
@settings(max_examples=40)
def test_any_form_gets_roles_with_chances(parts: list[tuple[int, float, float, float]]) -> None:
    parts[0] = (parts[0][0], 2.0, *parts[0][2:])
    for role in labelling.roles(*rendered(*parts)):
        assert role.name in PHRASE_ROLES
        assert 0 < role.chance <= 1 + 1e-9
        assert role.reason


def test_where_two_roles_are_as_likely_nothing_is_claimed(monkeypatch: pytest.MonkeyPatch) -> None:
    model = role_model.shipped(sung=True)
    assert model is not None
    cold = attrs.evolve(model, heat=1e6, count=0.0, usual=np.zeros(len(KINDS)))
    monkeypatch.setattr(role_model, "shipped", lambda sung: cold)
    for role in labelling.roles(*rendered((8, 0.2, 0.9, 0.0), (8, 1.0, 0.9, 0.9), (8, 0.3, 0.9, 0.1))):
        assert role.name == "other"
        assert role.reason.endswith("there is no telling")


def test_what_is_sung_and_what_is_not_have_a_model_each(monkeypatch: pytest.MonkeyPatch) -> None:
    sung, played = role_model.shipped(True), role_model.shipped(False)
    assert sung is not None and played is not None
    assert (len(sung.nets.mean), len(played.nets.mean)) == (role_features.COUNT, role_features.PLACES)
    # weights that read other figures than are measured are as good as none
    monkeypatch.setattr(role_model, "WEIGHTS_SUNG", role_model.WEIGHTS)
    role_model.shipped.cache_clear()
    try:
        assert role_model.shipped(True) is None and role_model.shipped(False) is not None
    finally:
        role_model.shipped.cache_clear()


def test_a_phrase_is_read_beside_its_neighbours() -> None:
    bars, found = rendered((8, 0.2, 0.9, 0.0), (16, 0.5, 0.9, 0.8), (8, 1.0, 0.95, 0.9))
    heard = role_features.describe(bars, found)
    rows = role_features.figures(heard, bars, found, labelling.arguments(heard))
    assert rows.shape == (3, role_features.COUNT) and np.isfinite(rows).all()
    own, before, after = np.split(rows, 3, axis=1)
    assert np.array_equal(before[1:], own[:-1]) and np.array_equal(after[:-1], own[1:])
    assert not before[0].any() and not after[-1].any()


def test_without_its_weights_arguments_alone_serve(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(role_model, "shipped", lambda sung: None)
    song = rendered((8, 0.2, 0.9, 0.0), (16, 0.5, 0.9, 0.8), (8, 1.0, 0.95, 0.9), (16, 0.5, 0.9, 0.8),
                    (8, 1.0, 0.95, 0.9), (8, 0.2, 0.9, 0.0))  # fmt: skip
    assert [r.name for r in labelling.roles(*song)] == ["intro", "verse", "chorus", "verse", "chorus", "outro"]
