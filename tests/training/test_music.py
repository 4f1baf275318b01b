"""The training music: what it claims to be true is true to the sample, whatever is done to it."""

from __future__ import annotations

import os
from concurrent.futures.process import BrokenProcessPool

import numpy as np
import pytest

from mervid.core.hearing import ear, features
from training import composer, grooves, heard_takes, judge, render, score, sounds, takes, targets
from training.sounds import RATE
from training.spread import spread


class Tones:
    """A stand-in for a soundfont: every note a struck tone."""

    kits = (0,)

    def note(self, program: int, key: int, velocity: int, seconds: float, kit: bool) -> np.ndarray:
        t = np.arange(int(seconds * RATE)) / RATE
        return (0.2 * np.sin(2 * np.pi * 440 * 2 ** ((key - 69) / 12) * t) * np.exp(-3 * t)).astype(np.float32)


@pytest.fixture(scope="module")
def studio() -> render.Studio:
    return render.Studio([Tones()])  # type: ignore[list-item]


@pytest.fixture(autouse=True)
def no_speech(monkeypatch: pytest.MonkeyPatch) -> None:
    """The speech synthesiser is not on every machine; the sung voices are."""
    monkeypatch.setattr(render, "spoken", list)


def test_every_groove_is_written_out_for_whole_bars() -> None:
    for g in grooves.GROOVES:
        assert g.low < g.high
        for name, line in g.lines.items():
            assert name in grooves.KEYS
            assert len(line) == g.beats * g.steps, (g.name, name)
        assert g.family in composer.COMPING
        assert g.family in composer.BASSES
    assert {g.beats for g in grooves.GROOVES} == {3, 4}


def test_songs_are_of_many_kinds_and_the_same_for_the_same_seed() -> None:
    songs = [composer.compose(np.random.default_rng(k), 60.0) for k in range(60)]
    assert len({s.groove.family for s in songs}) > 8
    assert any(s.machine for s in songs)
    assert any(not s.machine for s in songs)
    assert any(b not in (3, 4) for s in songs for x in s.sections for b in x.bars)
    assert any({n.part for n in s.notes} <= {"voice", "choir", "lead", "drums"} for s in songs)
    again = composer.compose(np.random.default_rng(3), 60.0)
    assert again == songs[3]


def test_voices_alone_are_told_by_their_score_before_they_are_rendered(studio: render.Studio) -> None:
    first = heard_takes.FIRST
    assert [k for k in range(1615, 1630) if heard_takes.sings_alone(first + k)] == [1622]
    assert takes.make(studio, first + 1622, seconds=heard_takes.SHORT, worded=0.0).family == "voice"


def test_six_eighths_are_played_in_groups_of_three() -> None:
    lilting = 0
    for k in range(20):
        song = composer.compose(np.random.default_rng(k), 60.0, among=grooves.COMPOUND)
        at = np.array([n.beat for n in song.notes if n.part != "drums" and n.beat >= 0]) * 12 % 12
        thirds, between = (np.isin(np.rint(at) % 12, places).sum() for places in ((4, 8), (3, 6, 9)))
        assert between <= 0.02 * len(at), song.groove.name
        lilting += bool(thirds)
    assert lilting > 10


@pytest.mark.parametrize("machine", [True, False])
def test_time_always_goes_forward(machine: bool) -> None:
    song = composer.compose(np.random.default_rng(5), 60.0)
    for seed in range(30):
        clock, pauses = score.keep_time(np.random.default_rng(seed), song.sections, song.bpm, machine=machine)
        periods = np.diff(clock.times)
        assert periods.min() > 0.15
        assert len(clock.times) == sum(s.beats for s in song.sections) + 1
        assert (np.diff(periods).max() > 0.25) == any(p > 0.26 for p in pauses.values())


def test_swing_moves_only_what_lies_between() -> None:
    feel = score.Feel(0, 0.62, 0.25, 0, 0)
    assert [score.swing(b, feel) for b in (0.0, 0.5, 1.0, 7.5)] == [0.0, 0.5, 1.0, 7.5]
    assert score.swing(0.25, feel) == pytest.approx(0.31)
    straight = score.Feel(0, 0.5, 0.25, 0, 0)
    assert score.swing(0.37, straight) == pytest.approx(0.37)


def test_a_note_begins_on_the_sample_its_time_names(studio: render.Studio) -> None:
    song = composer.compose(np.random.default_rng(12), 20.0)
    notes = [score.Note("drums", float(b), 36, 1.0) for b in range(16)]
    exact = composer.Song(song.groove, 120.0, song.sections, notes, score.Feel(0, 0.5, 0.25, 0, 0), True)
    clock = score.Clock(np.arange(17) * 3.0)
    for seed in range(4):
        tracks, start = studio.play(np.random.default_rng(seed), exact, clock)
        assert list(tracks) == ["drums"]
        for b in range(16):
            at = round((b * 3.0 + start) * RATE)
            assert np.abs(tracks["drums"][at - 40 : at]).max() < 1e-3
            assert np.abs(tracks["drums"][at : at + 400]).max() > 0.05


def test_wear_moves_the_truth_with_the_sound() -> None:
    """Clicks sent through the worst of it are heard where the returned map says; the worst codec smears by 3 ms."""
    click = np.zeros(12 * RATE, np.float32)
    times = np.arange(1.0, 11.0, 0.5)
    for t in times:
        click[int(t * RATE) : int(t * RATE) + 900] = np.random.default_rng(0).normal(0, 0.5, 900)
    turned = 0
    for seed in range(12):
        y, moved = render.wear(np.random.default_rng(seed), click.copy())
        assert np.isfinite(y).all()
        expected = times if moved is None else np.interp(times, moved[:, 0], moved[:, 1])
        turned += moved is not None
        found, strength = features.onsets(features.listen(y, RATE).attack)
        found = found[strength > 0.3]
        off = [np.abs(found - t).min(initial=1.0) for t in expected[expected < len(y) / RATE - 0.1]]
        assert np.median(off) < 0.0035, seed
    assert turned >= 2


def test_a_voice_has_its_vowel_where_it_says() -> None:
    for seed in range(8):
        x, lead = sounds.sung(np.random.default_rng(seed), 180.0, 0.4, 1.1, 0.1)
        loud = np.sqrt(np.convolve(x**2, np.ones(320) / 320, "same"))
        first = int(np.argmax(loud > 0.5 * loud.max())) / RATE
        assert -0.02 < first - lead < 0.09


def test_takes_carry_their_truth(studio: render.Studio) -> None:
    made = [takes.make(studio, seed, seconds=20.0) for seed in range(6)]
    for take in made:
        assert np.abs(take.samples).max() <= 1.0
        assert np.all(np.diff(take.beats) > 0)
        assert set(np.round(take.downbeats, 6)) <= set(np.round(take.beats, 6))
    same = takes.make(studio, 2, seconds=20.0)
    np.testing.assert_array_equal(same.samples, made[2].samples)


def test_a_song_behind_a_prelude_is_the_song_later() -> None:
    beats = 0.5 + 0.5 * np.arange(58)
    song = (0.2 * np.sin(np.arange(30 * RATE) / 20)).astype(np.float32)
    song[np.rint(beats * RATE).astype(int)] = 0.8
    leads = []
    for seed in range(12):
        rng = np.random.default_rng(seed)
        whole, lead = render.prelude(rng, song, mono_kit=sounds.own_kit(rng), beats=beats)
        n = round(lead * RATE)
        assert len(whole) == n + len(song) and np.isfinite(whole).all()
        # something is heard before it, and nothing of it after the first bars
        assert np.abs(whole[:n]).max() > 0.02
        np.testing.assert_array_equal(whole[n + 8 * RATE :], song[8 * RATE :])
        leads.append(lead)
    assert min(leads) >= 1.5 and max(leads) > 8


def test_targets_peak_at_their_events() -> None:
    beats = np.array([0.5, 1.01, 1.5])
    x = targets.pulses(beats, 100, 1.5)
    assert x[25] == pytest.approx(1.0)
    assert x[50] == pytest.approx(x[51])
    assert not x[5:23].any()
    truth = {"beats": np.arange(1, 9, 0.5), "downbeats": np.arange(1, 9, 2.0), "sections": np.array([1.0])}
    truth |= {"drums": np.array([[1.0, 5.0]]), "voice": np.zeros((0, 2))}
    rows, tempo = targets.targets(truth, 600)
    assert rows.shape == (5, 600)
    assert rows[3].sum() == 200
    assert ear.tempi()[tempo[:, 250].argmax()] == pytest.approx(120, rel=0.03)
    assert not tempo[:, 540:].any()


def test_what_is_shown_again_in_another_key_keeps_its_time() -> None:
    x = np.zeros((200, 72, 3), np.float32)
    x[::25, 30:40] = 4.0
    for seed in range(10):
        y = targets.change(np.random.default_rng(seed), x.copy())
        assert y.shape == x.shape
        assert y.min() >= 0
        struck = np.flatnonzero(y.sum(axis=(1, 2)) > 1)
        assert set(struck.tolist()) <= set(range(0, 200, 25))


def test_figures_are_means_by_family_and_name_what_was_misheard() -> None:
    names = ("F70", "F20", "F10", "CMLt", "AMLt", "downbeat", "ready")
    rows = [
        {"name": "0000001", "family": "funk", "beats": 90} | dict.fromkeys(names, 1.0),
        {"name": "0000002", "family": "funk", "beats": 80} | dict.fromkeys(names, 0.5),
        {"name": "0000003", "family": "none", "beats": 7},
    ]
    lines = judge.table(rows).splitlines()
    assert lines[1].split() == ["funk", "2", *["0.750"] * 7]
    assert lines[-2:] == [
        "beats heard where there are none: [7]",
        "  0000002 funk       F70 0.50 F20 0.50 AMLt 0.50 downbeat 0.50",
    ]
    assert judge.table(rows, quiet=True).splitlines()[-1] == lines[-2]


def _dies(item: int) -> int:
    if item == 2:
        os._exit(1)
    return item


def test_a_dead_process_is_not_waited_for() -> None:
    assert list(spread(abs, [-1, -2, -3, -4, -5], most_each=2)) == [1, 2, 3, 4, 5]
    with pytest.raises(BrokenProcessPool):
        list(spread(_dies, range(4)))
