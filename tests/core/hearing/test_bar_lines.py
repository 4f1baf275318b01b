"""Bars and places by networks over beats: on rendered takes that nothing learned from, and where they must not act."""

from __future__ import annotations

from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.hearing import bar_figures, bar_lines, bar_pointer, beat_tracking, features, places
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.features import Sound
from tests.conftest import RATE, band, material, sound_of_material


def by_the_ear(sound: Sound) -> tuple[Strengths, beat_tracking.Found]:
    """What the ear alone makes of a sound."""
    assert sound.strengths is not None
    return sound.strengths, beat_tracking.follow(sound.strengths, sound.attack, sound.duration)


@pytest.mark.parametrize("name", ["dance", "hiphop", "waltz"])
def test_drums_and_harmony_tell_the_bars_of_an_ear_that_is_deaf_to_them(name: str) -> None:
    sound, truth = sound_of_material(name), material(name)
    ear, found = by_the_ear(sound)
    assert sound.scene is not None
    deaf = attrs.evolve(ear, downbeat=np.full_like(ear.downbeat, 0.1))
    odds = bar_lines.odds(ear, bar_figures.figures(deaf, sound.scene, found.times))
    assert odds is not None
    again = bar_lines.answered(deaf, found.times, odds)
    position, metre, _ = bar_pointer.bars(again, found.times)
    assert metre == (3 if name == "waltz" else 4)
    # F-measure within 70 ms: Davies, Degara & Plumbley, Queen Mary University of London, 2009
    assert mir_eval.beat.f_measure(truth["downbeats"], found.times[position == 0], 0.07) > 0.9


def test_answers_stand_at_the_beats_and_nowhere_else() -> None:
    sound = sound_of_material("dance")
    ear, found = by_the_ear(sound)
    assert sound.scene is not None
    odds = bar_lines.odds(ear, bar_figures.figures(ear, sound.scene, found.times))
    assert odds is not None
    again = bar_lines.answered(ear, found.times, odds)
    yes, no = bar_pointer.sides(again, found.times)
    # the share that a downbeat has of its beat is the network's chance
    told = np.clip(1 / (1 + np.exp(-odds)), 0.02, 0.98)
    clear = bar_pointer.peaks(ear.beat, found.times) > 0.5
    np.testing.assert_allclose((yes - no)[clear], (np.log(told / (1 - told)) + np.log(3))[clear], atol=0.5)
    away = np.abs(np.arange(len(ear.downbeat))[:, None] / 50 - found.times).min(axis=1) > 0.06
    np.testing.assert_array_equal(again.downbeat[away], ear.downbeat[away])
    for same in ("beat", "section", "drums", "voice", "tempo"):
        np.testing.assert_array_equal(getattr(again, same), getattr(ear, same))


def test_without_weights_or_with_few_beats_the_ear_alone_decides(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    sound = sound_of_material("dance")
    ear, found = by_the_ear(sound)
    assert sound.scene is not None
    assert bar_lines.odds(ear, bar_figures.figures(ear, sound.scene, found.times[:8])) is None
    monkeypatch.setattr(bar_lines, "WEIGHTS", tmp_path / "none.npz")
    monkeypatch.setattr(places, "WEIGHTS", tmp_path / "none.npz")
    same = beat_tracking.follow(ear, sound.attack, sound.duration, seen=sound.scene)
    np.testing.assert_array_equal(same.times, found.times)
    np.testing.assert_array_equal(same.position, found.position)


def test_figures_are_finite_for_silence_and_beats_beyond_the_sound() -> None:
    sound = features.listen(np.zeros(32000 * 12, np.float32), 32000)
    assert sound.strengths is not None and sound.scene is not None
    times = np.arange(40) * 0.5 - 1
    rows = bar_figures.figures(sound.strengths, sound.scene, times)
    assert rows.shape == (40, bar_figures.COUNT) and np.isfinite(rows).all()
    on = np.zeros(40)
    place = places.figures(sound.strengths, sound.attack, sound.scene, times, position=np.arange(40) % 4, steady=on)
    assert place.shape == (40, places.COUNT) and np.isfinite(place).all()


def test_beats_come_nearer_to_the_pulse() -> None:
    before, after = [], []
    for name in ("dance", "disco", "hiphop", "pop", "rock"):
        sound, true = sound_of_material(name), material(name)["beats"]
        ear, found = by_the_ear(sound)
        assert sound.scene is not None
        steady = np.where(found.steady, 0, -1)
        moved = places.nearer(
            ear, sound.attack, sound.scene, found.times, position=found.position, steady=np.full(len(steady), -1)
        )
        assert np.abs(moved - found.times).max() <= places.MOST
        for out, times in ((before, found.times), (after, moved)):
            inside = times[(times > true[0] - 0.1) & (times < true[-1] + 0.1)]
            out.append(np.abs(inside[:, None] - true).min(axis=1))
    assert np.median(np.concatenate(after)) < 0.95 * np.median(np.concatenate(before))


def test_beats_of_people_leave_a_steady_line_as_they_played_them() -> None:
    alike = []
    for name in ("dance", "pop", "funk"):
        sound, true = sound_of_material(name), material(name)["beats"]
        ear, found = by_the_ear(sound)
        assert sound.scene is not None
        heard = beat_tracking.follow(ear, sound.attack, sound.duration, seen=sound.scene)
        line = found.times[found.steady]
        start, stop = line[0] - 0.1, line[-1] + 0.1
        assert np.abs(np.diff(line, 2)).max() < 1e-9
        pulse, real = (np.array([t[np.abs(t - x).argmin()] - x for x in line]) for t in (heard.times, true))
        assert heard.pulse and len(heard.times[(heard.times > start) & (heard.times < stop)]) == len(line)
        played = np.abs(real) < 0.04
        alike.append(np.corrcoef(pulse[played], real[played])[0, 1])
    assert min(alike) > 0.5, alike


def test_a_machines_beats_stay_on_their_line() -> None:
    sound = features.listen(band(30.0, 120.0), RATE)
    assert sound.strengths is not None
    heard = beat_tracking.follow(sound.strengths, sound.attack, sound.duration, seen=sound.scene)
    assert heard.steady.sum() > 40
    np.testing.assert_allclose(np.diff(heard.times[heard.steady], 2), 0, atol=1e-9)
