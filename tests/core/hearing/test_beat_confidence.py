"""How sure a beat is, with the ear and without it."""

from __future__ import annotations

import numpy as np

from mervid.core.hearing import beat_confidence
from tests.core.hearing.test_untrained_pointer import sound_of


def test_chances_are_chances() -> None:
    weights = np.array([2.0, 0.0, 0.0, 0.0, 0.0, -1.0], np.float32)
    sure = beat_confidence.chance(np.array([[0.5, 0, 0, 0, 0], [5, 0, 0, 0, 0], [-9, 0, 0, 0, 0]], float), weights)
    np.testing.assert_allclose(sure, [0.5, 0.98, 0.02])


def test_confidence_falls_where_nothing_is_struck_or_beats_are_uneven() -> None:
    strokes = 1 + 0.5 * np.arange(40)
    attack = sound_of(np.delete(strokes, 20), 22).attack
    uneven = strokes.copy()
    uneven[10] += 0.07
    sure = beat_confidence.evenness(attack, uneven)
    assert sure[30] > 0.9
    assert sure[20] < 0.05
    assert sure[10] < 0.3
    assert np.all((sure >= 0) & (sure <= 1))


def test_lead_in_and_ring_are_no_music() -> None:
    sure = np.array([0.02, 0.3, 0.02, 0.02, 0.1] + [0.9] * 40 + [0.02, 0.02, 0.02, 0.02])
    first, last = beat_confidence.sounding(sure)
    # the beat after the last sure one stays: a song's very last stroke has no neighbour to vouch for it
    assert (first, last) == (5, 46)
    assert beat_confidence.sounding(np.full(10, 0.1)) == (0, 10)
