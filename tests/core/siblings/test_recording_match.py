"""Borrowing by sound: where a voice lies in its song, and what it takes over."""

from __future__ import annotations

import json
from functools import cache

import numpy as np
import pytest
import soxr

from mervid import places
from mervid.core.edits import grid_edits
from mervid.core.errors import Refused
from mervid.core.fitting import proposal
from mervid.core.model.beatgrid import Grid, MeterMark, Pin
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation
from mervid.core.siblings import borrow, recording_match, stretch_search
from mervid.core.siblings.recording_match import Match, Piece
from mervid.core.siblings.stretch_search import RATE
from mervid.core.sound import decoding
from tests.conftest import VOICE, heard_demo, truth

BEGINS = 8.2
"""s into the song at which the voice's own file begins; its truth was cut there."""


@cache
def sound(name: str) -> np.ndarray:
    samples, facts = decoding.read(places.demo_folder() / f"{name}.ogg")
    return stretch_search.mono(samples, facts.rate)


def true_grid() -> Grid:
    """A pin on every beat of the song."""
    return Grid(tuple(Pin(float(t), float(i)) for i, t in enumerate(truth("Lamplighter")["beats"])))


def faster(x: np.ndarray, by: float) -> np.ndarray:
    return soxr.resample(x.astype(np.float64), 1 + by, 1.0).astype(np.float32)


def errors(match: Match, voice: np.ndarray, place) -> float:
    at = np.linspace(0.5, len(voice) / RATE - 0.5, 100)
    return max(abs(match.place_of(float(t)) - place(t)) for t in at)


@pytest.mark.parametrize("speed", [0.0, 0.003, -0.012, 0.02])
def test_offset_and_speed_are_found_from_the_sound_alone(speed: float) -> None:
    voice = faster(sound(VOICE), speed) if speed else sound(VOICE)
    match = recording_match.match(voice, sound("Lamplighter"))
    assert match.ratio == pytest.approx(1 + speed, abs=2e-5)
    assert errors(match, voice, lambda t: BEGINS + (1 + speed) * t) < 0.002
    assert match.confidence > 0.9
    assert match.worst < 0.005


@pytest.mark.parametrize("change", ["starts later", "silence before", "narrow band and noise"])
def test_wherever_it_starts_and_however_it_sounds(change: str) -> None:
    rng = np.random.default_rng(0)
    voice, begins = sound(VOICE), BEGINS
    if change == "starts later":
        voice, begins = voice[31 * RATE :], BEGINS + 31
    elif change == "silence before":
        voice, begins = np.concatenate([np.zeros(17 * RATE, np.float32), voice]), BEGINS - 17
    else:
        voice = np.convolve(voice, [0.5, 0, -0.5], "same") + rng.normal(0, 0.004, len(voice))
    match = recording_match.match(voice.astype(np.float32), sound("Lamplighter"))
    assert errors(match, voice, lambda t: begins + t) < 0.002


def test_pieces_cut_out_are_found_and_nothing_else() -> None:
    voice, cut, gone = sound(VOICE), 40.0, 13.37
    edited = np.concatenate([voice[: round(cut * RATE)], voice[round((cut + gone) * RATE) :]])
    match = recording_match.match(edited, sound("Lamplighter"))
    assert len(match.pieces) == 2
    assert match.pieces[0].stop == pytest.approx(cut, abs=0.6)
    assert [p.offset for p in match.pieces] == pytest.approx([BEGINS, BEGINS + gone], abs=0.002)


@pytest.mark.parametrize("wrong", ["Salt Ledger", "Brass Tide"])
def test_the_wrong_sibling_is_refused_with_a_reason(wrong: str) -> None:
    with pytest.raises(Refused, match=r"These don't fit: of \d+ stretches that sound, \d+ are found there"):
        recording_match.match(sound(VOICE), sound(wrong))


@pytest.mark.parametrize(
    ("mine", "words"),
    [
        (np.zeros(20 * RATE, np.float32), "This recording is silent"),
        (np.ones(3 * RATE, np.float32), "too short to be compared: 3.0 s"),
    ],
)
def test_nothing_to_compare_is_said(mine: np.ndarray, words: str) -> None:
    with pytest.raises(Refused, match=words):
        recording_match.match(mine, sound("Lamplighter"))


def test_noise_fits_nothing() -> None:
    rng = np.random.default_rng(1)
    with pytest.raises(Refused):
        recording_match.match(rng.normal(0, 0.1, 30 * RATE).astype(np.float32), sound("Lamplighter"))


@pytest.mark.parametrize("speed", [0.0, 0.003])
def test_the_voice_takes_over_beats_and_bars(speed: float) -> None:
    voice = faster(sound(VOICE), speed) if speed else sound(VOICE)
    match = recording_match.match(voice, sound("Lamplighter"))
    evidence = heard_demo(VOICE)[1]
    p = borrow.borrow(Preparation(), true_grid(), match, evidence.heard, len(voice) / RATE)
    assert p.grid is not None
    beats, downs = (truth(VOICE)[k] / (1 + speed) for k in ("beats", "downbeats"))
    numbers = np.round(p.grid.beat_at(beats))
    assert np.abs(p.grid.time_at(numbers) - beats).max() < 0.005
    np.testing.assert_array_equal(np.diff(numbers), 1)
    assert (p.grid.bar_index(np.round(p.grid.beat_at(downs)))[1] == 0).all()
    assert all(q.hand for q in p.grid.pins)
    assert float(p.grid.time_at(0)) == pytest.approx(downs[0], abs=0.005)


def test_the_voice_takes_over_the_phrases_that_it_has() -> None:
    match = recording_match.match(sound(VOICE), sound("Lamplighter"))
    grid = true_grid()
    told = [
        json.loads((places.demo_folder() / f"{n}.json").read_text("utf-8"))["sections"] for n in ("Lamplighter", VOICE)
    ]
    full, voice = ([(s["kind"], s["start"]) for s in sections] for sections in told)
    starts = [float(round(float(grid.beat_at(t)))) for _, t in full]
    form = Form(tuple(Phrase(b, kind) for b, (kind, _) in zip(starts, full, strict=True)), starts[-1] + 16)
    p = borrow.borrow(Preparation(), grid, match, heard_demo(VOICE)[1].heard, 96.0, form)
    assert p.form is not None
    assert p.grid is not None
    # what is left of the song's intro before the voice is the voice's, too; from the first verse on they are alike
    sung = [q for q in p.form.phrases if q.role != "intro"]
    assert [q.role for q in sung] == [kind for kind, _ in voice]
    assert [float(p.grid.time_at(q.start)) for q in sung] == pytest.approx([t for _, t in voice], abs=0.005)
    # without phrases to lend, none are taken
    assert borrow.borrow(Preparation(), grid, match, heard_demo(VOICE)[1].heard, 96.0).form is None


def test_phrases_over_a_cut_begin_with_what_is_left_of_them() -> None:
    full = Grid((Pin(0.0, 0.0), Pin(60.0, 120.0)))
    form = Form(tuple(Phrase(float(b), r) for b, r in ((0, "intro"), (32, "verse"), (64, "drop"))), 112.0)
    # from 10 s on it plays what comes 12 s later: beats 20 to 44 are gone
    match = Match(1.0, (Piece(0.0, 10.0, 0.0), Piece(10.0, 30.0, 12.0)), (), 1.0, 0.0)
    lent = borrow.lend_form(full, match, form)
    assert lent is not None
    assert [(q.start, q.role) for q in lent.phrases] == [(0, "intro"), (20, "verse"), (40, "drop")]
    assert lent.end == 60


def test_from_the_grid_that_was_heard_it_is_as_good_as_that() -> None:
    facts, full = heard_demo("Lamplighter")
    followed = grid_edits.follow_recording(proposal.propose(full.heard, facts.duration), full.heard)
    match = recording_match.match(sound(VOICE), sound("Lamplighter"))
    grid = borrow.lend(followed.grid, match)
    beats = truth(VOICE)["beats"][:-1]
    error = np.abs(grid.time_at(np.round(grid.beat_at(beats))) - beats)
    assert np.median(error) < 0.005
    assert np.percentile(error, 95) < 0.0055


@pytest.mark.parametrize("gone", [8, 30, 31])
def test_beats_count_on_over_a_cut_and_bars_begin_where_they_do(gone: int) -> None:
    """Steady 120 BPM, a cut after beat 20: whole bars or not, the next beat has the next number."""
    full = Grid((Pin(0.0, 0.0), Pin(60.0, 120.0)), (MeterMark(), MeterMark(64.0, 3)))
    match = Match(1.0, (Piece(0.0, 10.02, 0.0), Piece(10.02, 30.0, gone / 2)), (), 1.0, 0.0)
    grid = borrow.lend(full, match)
    numbers = grid.beat_at(np.arange(0, 30, 0.5))
    np.testing.assert_allclose(numbers, np.arange(60), atol=0.05)
    bars = grid.bar_index(np.arange(60))[1] == 0
    origin = np.where(np.arange(60) <= 20, np.arange(60), np.arange(60) + gone)
    np.testing.assert_array_equal(bars, full.bar_index(origin)[1] == 0)


def test_the_same_drums_over_and_over_are_no_sibling() -> None:
    """Two demo tracks are played on one kit at nearly one tempo: stretches fit to the sample, their course does not."""
    with pytest.raises(Refused, match="times over"):
        recording_match.match(sound("Night Barge"), sound("Brass Tide"))
