"""Key, drive and fingerprint against hand-worked profiles, mir_eval and the demo set in other encodings."""

from __future__ import annotations

from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.character import describe, drive, fingerprint, key
from mervid.core.character.key import KEYS, Key, Profiles
from mervid.core.errors import Refused
from mervid.core.hearing import analysis, features
from mervid.core.hearing.pitches import STEPS
from tests.conftest import VOICE, heard_demo

RATE = 44_100
KRUMHANSL_MAJOR = [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88]
KRUMHANSL_MINOR = [6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17]
"""Krumhansl & Kessler (1982), as Krumhansl (1990, p. 30) prints them; recalled from memory."""
PLAIN = Profiles(
    np.concatenate([key.unit(np.array([KRUMHANSL_MAJOR, KRUMHANSL_MINOR])), np.zeros((2, 12))], axis=1), 0.0, 8.0
)


def histogram(weights: dict[int, float], *, tuned: float = 0.0) -> np.ndarray:
    """Pitches with so much of each pitch class, C first, `tuned` semitones away."""
    out = np.zeros((2, STEPS), np.float32)
    for pitch, weight in weights.items():
        out[:, round((pitch + tuned) * STEPS / 12) % STEPS] += weight
    return out / out.sum(axis=1, keepdims=True)


def chords(notes: list[list[int]], *, a4: float = 440.0) -> np.ndarray:
    """One second of each chord (MIDI numbers), with four partials each, of so many Hz for the A."""
    t = np.arange(RATE) / RATE
    fade = np.minimum(1, np.minimum(t, 1 - t) * 40)
    parts = []
    for chord in notes:
        tones = [(a4 * 2 ** ((n - 69) / 12) * k, 0.3 / k) for n in chord for k in (1, 2, 3, 4)]
        parts.append(fade * sum(loud * np.sin(2 * np.pi * hz * t) for hz, loud in tones))
    return (0.2 * np.concatenate(parts)).astype(np.float32)


def test_a_scale_is_its_own_key_whatever_the_tonic_and_the_tuning() -> None:
    """A correlation with Krumhansl's own profile is 1 for that key, by arithmetic, and less for every other one."""
    for wanted in KEYS:
        profile = KRUMHANSL_MINOR if wanted.minor else KRUMHANSL_MAJOR
        for tuned in (0.0, 0.3, -0.4):
            heard = histogram({wanted.tonic + d: w for d, w in enumerate(profile)}, tuned=tuned)
            assert key.tuning(heard) == pytest.approx(tuned, abs=0.05)
            found = key.estimate(heard, profiles=PLAIN)
            assert found is not None
            assert found.key == wanted
            # seven of twelve degrees in common: the second best is a fifth away, the relative or the parallel
            assert mir_eval.key.weighted_score(wanted.name, found.second.name) > 0


def test_all_names_are_those_of_mir_eval_and_are_read_back() -> None:
    for one in KEYS:
        mir_eval.key.validate_key(one.name)
        assert key.named(one.name) == one
    for text, name in (
        ("am", "A minor"),
        ("Bb", "Bb major"),
        ("f♯ min", "F# minor"),
        ("CM", "C major"),
        ("Cb", "B major"),
    ):
        assert key.named(text).name == name
    for text in ("H minor", "", "A purple", "8A"):
        with pytest.raises(Refused, match="is no key"):
            key.named(text)


def test_what_fits_is_the_same_the_relative_and_the_fifths() -> None:
    """C major goes with A minor, G major and F major: the circle of fifths."""
    near = key.neighbours(key.named("C"))
    assert {k.name: why for k, why in near.items()} == {
        "C major": key.SAME, "A minor": key.RELATIVE, "G major": key.FIFTH_UP, "F major": key.FIFTH_DOWN,
    }  # fmt: skip
    for one in KEYS:
        for other in key.neighbours(one):
            assert one in key.neighbours(other)


@pytest.mark.parametrize("a4", [440.0, 452.0])
def test_chords_that_are_played_are_heard_in_their_key(a4: float) -> None:
    """A cadence in A minor and one in E flat major, at concert pitch and half a semitone higher."""
    cadences = {
        "A minor": [[45, 57, 60, 64], [50, 57, 62, 65], [52, 56, 59, 64], [45, 57, 60, 64]],
        "Eb major": [[51, 58, 63, 67], [56, 60, 63, 68], [58, 62, 65, 70], [51, 58, 63, 67]],
    }
    for wanted, cadence in cadences.items():
        heard = features.listen(chords(cadence * 6, a4=a4), RATE).pitches
        found = key.estimate(heard)
        assert found is not None
        assert found.key.name == wanted
        assert found.chance > found.second_chance


def test_noise_and_silence_have_no_key_that_is_sure() -> None:
    assert key.estimate(np.zeros((2, STEPS), np.float32)) is None
    noise = np.random.default_rng(1).normal(0, 0.1, RATE * 20).astype(np.float32)
    found = key.estimate(features.listen(noise, RATE).pitches)
    assert found is None or found.chance < 0.5


def test_drive_is_steady_and_tells_a_voice_from_a_band() -> None:
    facts, band = heard_demo("Lamplighter")
    alone_facts, alone = heard_demo(VOICE)
    whole, voice = drive.of(band, facts.duration), drive.of(alone, alone_facts.duration)
    assert whole.whole - voice.whole > 2
    assert len(whole.course) == drive.PLACES
    assert (whole.course >= 1).all()
    assert (whole.course <= 9).all()
    assert np.abs(drive.from_bytes(drive.to_bytes(whole.course)) - whole.course).max() < 0.02


def test_another_encoding_is_the_same_performance_and_another_song_is_not(tmp_path: Path) -> None:
    """An MP3 of half the rate that begins 1.37 s later keeps drive, key and fingerprint; other songs are far away."""
    import soundfile

    from mervid import places

    names = ("Copper Ferry", "Lamplighter", VOICE)
    kept = {n: describe.describe(heard_demo(n)[1], heard_demo(n)[0].duration) for n in names}
    sound, rate = soundfile.read(places.demo_folder() / "Copper Ferry.ogg")
    soundfile.write(tmp_path / "again.mp3", sound[int(1.37 * rate) :: 2], rate // 2, format="MP3")
    facts, evidence = analysis.analyse(tmp_path / "again.mp3")
    again = describe.describe(evidence, facts.duration)
    first = kept["Copper Ferry"]
    assert fingerprint.same(first.print, again.print) > fingerprint.ALIKE
    assert fingerprint.mean_of(first.print) @ fingerprint.mean_of(again.print) > fingerprint.NEAR
    assert again.key == first.key
    assert again.drive == pytest.approx(first.drive, abs=0.3)
    assert again.lufs == pytest.approx(first.lufs, abs=0.3)
    for a, b in ((names[0], names[1]), (names[1], names[2])):
        assert fingerprint.same(kept[a].print, kept[b].print) < fingerprint.ALIKE - 0.1


def test_what_was_heard_before_pitches_were_kept_has_a_key_all_the_same() -> None:
    facts, evidence = heard_demo("Pontoon Static")
    older = attrs.evolve(evidence, pitches=np.zeros((2, STEPS), np.float32), level=None)
    now, then = (describe.describe(e, facts.duration) for e in (evidence, older))
    assert then.key
    assert then.key_chance < now.key_chance
    assert then.true_peak is None
    assert then.lufs == pytest.approx(now.lufs, abs=1.5)


def test_a_key_is_a_value() -> None:
    assert Key(9, True).name == "A minor"
    assert len({k.name for k in KEYS}) == 24
