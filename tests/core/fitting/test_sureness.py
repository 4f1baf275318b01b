"""How far a grid is believed: what is measured of a stretch, and that it says what it should (common practice)."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.fitting import sureness
from mervid.core.fitting.sureness import Beside, least_sure, stretch_of, sureness_of
from mervid.core.hearing.heard import Heard
from mervid.core.model.beatgrid import steady
from tests.conftest import beats_heard

GRID = steady(tempo=120, first=0.5)


def heard(off: np.ndarray | float = 0.0, *, beats: int = 256, confidence: float = 0.97) -> Heard:
    """Beats of `GRID`, each `off` s later."""
    h = beats_heard(GRID.time_at(np.arange(beats)) + off)
    return attrs.evolve(h, confidence=np.full(beats, confidence), level_chance=0.98)


def test_what_is_measured_of_a_stretch() -> None:
    """Against numpy: 64 beats 4 ms late all along that scatter by known amounts."""
    off = np.random.default_rng(3).normal(0, 0.006, 256) + 0.004
    found = stretch_of(Beside.of(heard(off), GRID), 64, 128)
    assert found is not None
    part = 1000 * off[64:128]
    middle = np.median(part)
    assert found.late == pytest.approx(middle)
    assert (found.typical, found.most) == pytest.approx(np.percentile(np.abs(part - middle), [50, 90]))
    second = 500 * np.abs(off[65:129] - 2 * off[64:128] + off[63:127])
    assert found.uneven == pytest.approx(np.percentile(second, 95))
    assert (found.sure, found.least_sure, found.missing) == pytest.approx((0.97, 0.97, 0.0))


def test_few_beats_say_nothing_and_missing_ones_count() -> None:
    some = heard()
    few = attrs.evolve(some, times=some.times[:5], numbers=some.numbers[:5], confidence=some.confidence[:5])
    assert stretch_of(Beside.of(few, GRID), 0, 64) is None and sureness_of(None) == sureness.UNKNOWN
    assert least_sure(few) is None
    kept = np.arange(256) % 16 < 8
    gaps = attrs.evolve(some, times=some.times[kept], numbers=some.numbers[kept], confidence=some.confidence[kept])
    assert sureness_of(stretch_of(Beside.of(gaps, GRID), 0, 128)).wrong > 0.35
    assert sureness_of(stretch_of(Beside.of(some, GRID), 0, 128)).wrong < 0.03


def test_the_stretch_where_the_count_stumbles_is_found() -> None:
    off = np.zeros(256)
    off[136:152] = np.random.default_rng(5).normal(0, 0.06, 16)
    h = heard(off)
    h = attrs.evolve(h, confidence=np.where(off == 0, h.confidence, 0.4))
    found = least_sure(h)
    assert found is not None
    start, stop, wrong = found
    assert start <= h.times[136] and stop >= h.times[151]
    assert stop - start == pytest.approx(0.5 * (sureness.BEATS - 1), abs=0.2)
    assert wrong > 0.7
    # where a person has put beats it isn't asked again
    elsewhere = least_sure(h, seen=[start + 1, stop - 1])
    assert elsewhere is not None and elsewhere[2] < 0.03
    sound = least_sure(heard())
    assert sound is not None and sound[2] < 0.03
    # beats that rest and go on in time are not uneven, and a grid that drifts is another matter
    kept = np.arange(256) % 16 < 15
    whole = heard()
    rests = attrs.evolve(whole, times=whole.times[kept], numbers=whole.numbers[kept], confidence=whole.confidence[kept])
    assert Beside.alone(rests).uneven.max() < 1e-6
