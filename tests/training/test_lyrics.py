"""Words on notes: the vowel of a syllable is on its note, its consonants before it, and what is held is its vowel."""

from __future__ import annotations

import numpy as np
import pytest

from training import lyrics

PHONES = [
    ("pau", 0.0), ("l", 0.2), ("ah", 0.3), ("v", 0.45), ("m", 0.5), ("iy", 0.6), ("pau", 0.8), ("aa", 1.0), ("r", 1.1),
    ("pau", 1.2),
]  # fmt: skip


def test_what_lies_between_two_vowels_belongs_to_the_second_and_pauses_part() -> None:
    found = lyrics.syllables(PHONES, 1.5)
    assert found.begins.tolist() == [0.2, 0.45, 1.0]
    assert found.vowels.tolist() == [0.3, 0.6, 1.0]
    assert found.ends.tolist() == [0.45, 0.8, 1.1]
    assert found.stops == 1.2
    with pytest.raises(ValueError, match="has a vowel"):
        lyrics.syllables([("s", 0.0), ("pau", 0.1)], 0.2)


def test_vowels_are_on_their_notes_however_long_notes_and_consonants_are() -> None:
    words = lyrics.syllables(PHONES, 1.5)
    for drawl in (0.7, 1.0, 2.5):
        times, lengths = np.array([2.0, 2.5, 4.0]), np.array([0.5, 0.6, 0.3])
        way = lyrics.course(words, times, lengths, drawl=drawl)
        assert (np.diff(way.within) >= 0).all()

        def within(at: float, way: lyrics.Course = way) -> float:
            return float(np.interp(at, way.times, way.within))

        def loud(at: float, way: lyrics.Course = way) -> float:
            return float(np.interp(at, way.times, way.gate))

        # nearer than a frame, as times are read between frames
        np.testing.assert_allclose([within(t) for t in times], words.vowels, atol=lyrics.PERIOD)
        before = 0.15 * drawl
        assert within(2.5 - before) == pytest.approx(words.begins[1], abs=lyrics.PERIOD) or before > 0.3
        # still the first vowel shortly before the consonants of the second, and loud all the way
        assert words.vowels[0] < within(2.5 - min(before, 0.3) - 0.02) <= words.ends[0]
        assert min(loud(t) for t in np.arange(2.0, 3.0, 0.01)) == 1
        # silent between the second note and the third, and after the last consonant
        assert loud(3.5) == loud(way.times[-1]) == 0
        assert loud(4.1) == loud(4.35) == 1


def test_a_longer_note_only_holds_its_vowel() -> None:
    words = lyrics.syllables(PHONES, 1.5)
    short, long = (
        lyrics.course(words, np.array([1.0, 1.0 + gap]), np.array([gap, 0.2]), drawl=1.0) for gap in (0.4, 2.0)
    )

    def spent(way: lyrics.Course, a: float, b: float) -> float:
        return lyrics.PERIOD * np.count_nonzero((way.within > a) & (way.within < b))

    assert spent(short, 0.45, 0.6) == pytest.approx(spent(long, 0.45, 0.6), abs=0.011)
    assert spent(long, 0.3, 0.45) - spent(short, 0.3, 0.45) == pytest.approx(1.6, abs=0.02)
