"""Where the music begins: a count-in, strokes and speech before it set no bar of their own."""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np
import pytest

from mervid.core.findings.recommendation import recommend
from mervid.core.hearing import beat_net, beat_tracking, ear, features, first_beat, music_span, opening
from mervid.core.hearing.ear import Strengths
from tests.conftest import heard_demo, material, samples_of_material, sound_of_material

PERIOD = 0.5


def ear_of(first: int, bars: int, *, faint: float) -> Strengths:
    """Clear beats every half second from 2 s on, `first` of them before the first clear downbeat, `faint` beside it."""
    frames = int((3 + (first + 4 * bars) * PERIOD) * 50)
    beat, down = np.full(frames, 0.01, np.float32), np.full(frames, 0.01, np.float32)
    for k in range(first + 4 * bars):
        at = round((2 + k * PERIOD) * 50)
        beat[at] = 0.8 if k >= first else 0.8 * faint
        if k >= first and (k - first) % 4 == 0:
            down[at] = 0.8
    none = np.zeros(frames, np.float32)
    return Strengths(
        beat, down, none, none + 1, none, np.full((frames, ear.TEMPI), 1 / ear.TEMPI, np.float32), np.ones(10)
    )


def before_the_music(kind: str, period: float, rate: int) -> np.ndarray:
    """Some seconds that no bar lies in: silence, four sticks in time, or strokes of no tempo."""
    rng = np.random.default_rng(3)
    at = {
        "silence": np.zeros(0),
        "sticks": 1.0 + period * np.arange(4),
        "strokes": np.cumsum(rng.uniform(0.2, 0.9, 6)),
    }[kind]
    out = np.zeros(round((1.0 + 4 * period) * rate) if kind == "sticks" else 4 * rate, np.float32)
    stroke = 0.4 * rng.standard_normal(rate // 20) * np.exp(-np.arange(rate // 20) / (0.006 * rate))
    for t in at:
        i = round(t * rate)
        out[i : i + len(stroke)] += stroke[: len(out) - i].astype(np.float32)
    return out


@pytest.mark.parametrize("kind", ["silence", "sticks", "strokes"])
def test_bar_1_is_the_first_bar_of_the_music_whatever_comes_before(kind: str) -> None:
    samples, rate = samples_of_material("hiphop")
    truth = material("hiphop")
    begins = truth["downbeats"][0]
    head = before_the_music(kind, float(np.diff(truth["beats"])[0]), rate)
    music = samples[round((begins - 0.01) * rate) :]
    heard, _ = beat_tracking.track(
        features.listen(np.concatenate([np.repeat(head[:, None], music.shape[1], axis=1), music]), rate)
    )
    assert heard.downbeats[0] == pytest.approx(len(head) / rate + 0.01, abs=0.02)


def test_soft_first_bars_are_music() -> None:
    samples, rate = samples_of_material("hiphop")
    truth = material("hiphop")
    soft = samples.copy()
    soft[: round((truth["downbeats"][2] - 0.02) * rate)] *= 0.05
    heard, _ = beat_tracking.track(features.listen(soft, rate))
    assert heard.downbeats[0] == pytest.approx(truth["downbeats"][0], abs=0.02)


def test_the_count_is_tried_back_to_the_beginning_of_the_file() -> None:
    attack = np.zeros(20_000, np.float32)
    attack[1_010] = 0.6
    times = 2.5 + PERIOD * np.arange(20)
    # evenly, onto what is struck beside the count, and not before the file
    np.testing.assert_allclose(opening._before(attack, times), [0.01, 0.51, 1.01, 1.5, 2.0], atol=0.012)
    far = 20 + PERIOD * np.arange(20)
    assert len(opening._before(attack, far)) == opening.MOST


def test_a_file_cut_on_its_first_beat_keeps_it_though_people_are_not_even() -> None:
    times = 0.46 + PERIOD * np.arange(20)
    attack = np.zeros(20_000, np.float32)
    # 40 ms before the file where nothing is struck: no beat of it
    assert not len(opening._before(attack, times))
    attack[3] = 0.8
    np.testing.assert_array_equal(opening._before(attack, times), [0.0])
    # too far to be the same beat
    assert not len(opening._before(attack, times - 0.04))


@pytest.mark.parametrize(
    ("told", "level", "begins", "other", "most"),
    [(-1.0, 3.0, 0, 4, 0.35), (-3.0, 0.5, 4, 0, 0.6), (-3.0, 3.0, 0, 4, 0.35), (-30.0, 3.0, 4, 0, 0.35)],
)
def test_in_doubt_the_music_has_begun(
    told: float, level: float, begins: int, other: int, most: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And it is told where else, as seldom as that is so: behind four beats, so loud, of which each says `told`."""
    n = 24
    rows = np.zeros((n, opening.bar_figures.COUNT), np.float32)
    loud = np.where(np.arange(n) < 4, level, 3.0)
    whole = opening.Barred(PERIOD * np.arange(n), 0, np.arange(n) % 4, 4, 0.9, np.zeros(n), rows, loud, 3.0)
    monkeypatch.setattr(opening, "figures", lambda *_: rows)
    monkeypatch.setattr(beat_net, "load", lambda *_: lambda _: np.where(np.arange(n) < 4, told, 6.0))
    line, (time, chance) = opening.opens(ear_of(0, 6, faint=1.0), np.zeros(9000, np.float32), whole)
    assert (line, time) == (begins, PERIOD * other)
    assert 0.02 <= chance < most


def test_the_first_beat_lies_where_the_file_was_cut_unless_it_is_struck_itself() -> None:
    times = np.array([0.046, 0.5, 1.0])
    attack = np.zeros(2000, np.float32)
    attack[3], attack[46] = 0.8, 0.3
    np.testing.assert_array_equal(first_beat.at_cut(attack, times), [0.0, 0.5, 1.0])
    attack[46] = 0.5
    np.testing.assert_array_equal(first_beat.at_cut(attack, times), times)
    attack[3] = 0.0
    np.testing.assert_array_equal(first_beat.at_cut(attack, times), times)


def test_without_weights_the_ear_tells_the_first_bar(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    sound = sound_of_material("dance")
    assert sound.strengths is not None and sound.scene is not None
    times = beat_tracking.count(sound.strengths, sound.attack, sound.duration).times
    whole = opening.barred(sound.strengths, sound.attack, sound.scene, times)
    assert whole is not None and whole.figures.shape == (len(whole.times), opening.bar_figures.COUNT)
    rows = opening.figures(sound.strengths, sound.attack, whole)
    assert rows.shape == (min(len(whole.times), whole.tried + opening.JUDGED), opening.COUNT)
    assert np.isfinite(rows).all() and beat_net.load(opening.WEIGHTS, opening.COUNT) is not None
    monkeypatch.setattr(opening, "WEIGHTS", tmp_path / "none.npz")
    found = whole.position[whole.tried :]
    first = first_beat.first_bar(sound.strengths, whole.times[whole.tried :], found)
    assert opening.opens(sound.strengths, sound.attack, whole)[0] == whole.tried + first
    assert opening.barred(sound.strengths, sound.attack, sound.scene, times[:8]) is None


def test_a_count_in_is_no_bar() -> None:
    heard = ear_of(4, 12, faint=1.0)
    times = 2 + PERIOD * np.arange(52)
    assert first_beat.first_bar(heard, times, np.arange(52) % 4) == 4
    # where the ear hears a downbeat the bar stays
    heard = attrs.evolve(heard, downbeat=np.where(heard.beat > 0.5, np.float32(0.5), np.float32(0.01)))
    assert first_beat.first_bar(heard, times, np.arange(52) % 4) == 0


def test_faint_beats_before_the_music_are_left_out() -> None:
    times = 2 + PERIOD * np.arange(54)
    assert music_span.music(ear_of(6, 12, faint=0.2), times)[0] == times[6]
    assert music_span.music(ear_of(6, 12, faint=0.6), times)[0] == times[0]


def test_bar_1_is_not_counted_back_into_strokes_without_a_bar() -> None:
    """Free strokes before a demo recording: bar 1 stays where it is without them."""
    facts, found = heard_demo("Pontoon Static")
    plain = recommend(found, facts.duration).grid
    assert plain is not None
    rng = np.random.default_rng(1)
    ahead = np.sort(rng.uniform(0.1, 5.5, 14))
    moved = attrs.evolve(
        found,
        heard=attrs.evolve(found.heard, times=found.heard.times + 6.0),
        onset_times=np.concatenate([ahead, found.onset_times + 6.0]),
        onset_strengths=np.concatenate([np.full(14, 0.9, np.float32), found.onset_strengths]),
        attack=np.concatenate([np.zeros(6 * features.ATTACK_RATE, np.uint8), found.attack]),
        loudness=np.concatenate([np.full(2, -12.0, np.float32), found.loudness]),
        strengths=_later(found.strengths),
    )
    grid = recommend(moved, facts.duration + 6.0).grid
    assert grid is not None
    assert abs(float(grid.time_at(0)) - float(plain.time_at(0)) - 6.0) < 0.01


def _later(heard: Strengths | None) -> Strengths:
    """The same answers 6 s later, and none before."""
    assert heard is not None
    rows = {
        k: np.concatenate([np.full(300, 0.01, np.float32), getattr(heard, k)])
        for k in ("beat", "downbeat", "section", "drums", "voice")
    }
    return attrs.evolve(heard, **rows, tempo=np.concatenate([heard.tempo[:1].repeat(300, axis=0), heard.tempo]))
