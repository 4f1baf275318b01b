"""What people type, and what is said when it can't be."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from mervid.core.edits import typed_values
from mervid.core.errors import Refused


@pytest.mark.parametrize(
    ("read", "text", "value"),
    [
        (typed_values.tempo, " 113,5 BPM ", 113.5),
        (typed_values.tempo, "20", 20.0),
        (typed_values.milliseconds, "−12 ms", -12.0),
        (typed_values.milliseconds, "0.25s", 250.0),
        (typed_values.tolerance, "6", 6.0),
        (typed_values.time, "83.4 s", 83.4),
        (typed_values.time, "1:23.4", 83.4),
        (typed_values.time, "1:02:03", 3723.0),
        (lambda t: typed_values.whole(t, "bars", 1, 999), "16 bars", 16),
    ],
)
def test_values_with_and_without_units(read: Callable[[str], float], text: str, value: float) -> None:
    assert read(text) == pytest.approx(value)


@pytest.mark.parametrize(
    ("read", "text", "words"),
    [
        (typed_values.tempo, "12", "Tempo must lie between 20 and 999 BPM, not 12"),
        (typed_values.tempo, "fast", "'fast' is not a tempo: type a number such as 113.5"),
        (typed_values.tempo, "nan", "is not a tempo"),
        (typed_values.tempo, "1e9", "is not a tempo"),
        (typed_values.tolerance, "0", "between 1 and 100 ms"),
        (typed_values.time, "1:75", "is not a time"),
        (typed_values.time, "", "is not a time"),
        (typed_values.time, "99999999", "beyond any recording"),
        (lambda t: typed_values.whole(t, "bars", 1, 999), "1.5", "must be whole"),
        (lambda t: typed_values.whole(t, "bars", 1, 999), "0", "lie between 1 and 999"),
    ],
)
def test_bad_values_say_what_is_wrong(read: Callable[[str], float], text: str, words: str) -> None:
    with pytest.raises(Refused, match=words):
        read(text)
