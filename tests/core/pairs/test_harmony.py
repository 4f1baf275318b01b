"""Keys of two tracks where they meet, by hand: held, with the speed, and after a song has gone up."""

from __future__ import annotations

import attrs
import pytest

from mervid.core.form import phrase_edits
from mervid.core.model.beatgrid import steady
from mervid.core.pairs import harmony, report
from mervid.core.pairs.meeting import Meeting
from mervid.core.pairs.side import Side
from tests.core.pairs.test_judging import side

SEMITONE = 2 ** (1 / 12)
"""Equal temperament."""


def track(tempo: float, key: str, title: str = "Buoy") -> Side:
    return attrs.evolve(side(steady(tempo=tempo, first=0.5), title=title), key=key)


@pytest.mark.parametrize(
    ("leaves", "comes", "faster", "hold", "said"),
    [
        ("A minor", "E minor", 1.0, False, "keys fit (A minor to E minor, a fifth up)"),
        ("A minor", "Bb minor", 1.0, False, "keys differ (A minor, Bb minor)"),
        # a semitone faster, with its pitch: what fitted doesn't, what didn't fit does
        ("A minor", "A minor", SEMITONE, False, "keys differ (A minor, Bb minor at that speed)"),
        ("Bb minor", "A minor", SEMITONE, False, "keys fit (Bb minor to Bb minor at that speed, same)"),
        ("Bb minor", "A minor", SEMITONE, True, "keys differ (Bb minor, A minor)"),
        # between two keys neither fits; a little is not heard
        ("A minor", "A minor", SEMITONE**0.4, False, "keys differ (A minor, A minor but 40 cents sharp)"),
        ("A minor", "A minor", SEMITONE**-0.45, False, "keys differ (A minor, A minor but 45 cents flat)"),
        ("A minor", "A minor", SEMITONE**0.4, True, "keys fit (A minor to A minor, same)"),
        ("A minor", "A minor", SEMITONE**0.1, False, "keys fit (A minor to A minor, same)"),
        ("", "A minor", SEMITONE, False, ""),
    ],
)
def test_pitch_that_goes_with_speed_changes_the_key(
    leaves: str, comes: str, faster: float, hold: bool, said: str
) -> None:
    a, b = track(120 * faster, leaves), track(120, comes, "Quay")
    m = Meeting(128, 0, bars=16, hold_pitch=hold)
    assert harmony.key_words(a, b, m, 64) == said
    assert report.report(a, b, m).keys == said


def test_a_track_that_went_up_leaves_in_its_last_key() -> None:
    a, b = track(120, "A minor"), track(122, "Bb minor", "Quay")
    m = Meeting(256, 0, bars=16)
    assert report.report(a, b, m).keys == "keys differ (A minor, Bb minor)"
    assert a.form is not None
    last = len(a.form.phrases) - 1
    up = phrase_edits.raise_key(a.preparation, a.form, last, 1).form
    assert up is not None and up.phrases[last].start == 256
    a = attrs.evolve(a, form=up)
    assert report.report(a, b, m).keys == "keys fit (Bb minor by then to Bb minor, same)"
    assert report.report(a, b, Meeting(0, 0, bars=8)).keys == "keys differ (A minor, Bb minor)"
    assert attrs.evolve(a, key="").key_at(200) == "" and attrs.evolve(a, form=None).key_at(200) == "A minor"
