"""The network in NumPy against a plain convolution, its weights, and what serves when they can't be read."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest
from scipy.signal import correlate

from mervid.core.errors import FormatError
from mervid.core.hearing import bar_pointer, beat_tracking, ear, features, voices
from mervid.core.hearing.ear import Ear, Strengths
from tests.conftest import RATE, band, material, sound_of_material


@pytest.fixture(scope="module")
def small() -> Ear:
    """A network of random weights, small enough to compute by hand."""
    rng = np.random.default_rng(0)

    def w(*shape: int) -> np.ndarray:
        return rng.normal(0, 0.3, shape).astype(np.float32)

    front = ((w(45, 4), w(4)), (w(60, 6), w(6)), (w(48, 8), w(8)))
    layers = tuple((d, w(5, 8, 4), w(5, 8, 4), w(8), w(9, 8)) for d in (1, 4))
    return Ear(front, layers, (w(8, 37), w(37)), np.zeros(10, np.float32))


def _by_hand(net: Ear, features: np.ndarray) -> np.ndarray:
    """Beat probabilities by scipy.signal.correlate, one kernel at a time."""
    x = features.astype(float) / ear.SCALE
    for weights, bias in net.front[:2]:
        kernels = weights.reshape(3, 5, x.shape[2], -1)
        padded = np.pad(x, ((1, 1), (1, 1), (0, 0)))
        full = [correlate(padded, kernels[..., o].astype(float), "valid")[:, ::3, 0] for o in range(weights.shape[1])]
        x = np.maximum(np.stack(full, axis=2) + bias, 0)
    x = np.maximum(x.reshape(len(x), -1) @ net.front[2][0] + net.front[2][1], 0)
    for dilation, near, far, bias, join in net.layers:
        y = np.empty_like(x)
        for part, step, first in ((near, dilation, 0), (far, 2 * dilation, 4)):
            spread = np.zeros((4 * step + 1, *part.shape[1:]))
            spread[::step] = part
            padded = np.pad(x, ((2 * step, 2 * step), (0, 0)))
            for o in range(4):
                y[:, first + o] = correlate(padded, spread[..., o], "valid")[:, 0]
        x = x + np.maximum(y + bias, 0) @ join[:-1] + join[-1]
    logits = np.maximum(x, 0) @ net.heads[0] + net.heads[1]
    return 1 / (1 + np.exp(-logits[:, 0]))


def test_the_network_is_what_convolutions_say(small: Ear) -> None:
    features = np.random.default_rng(1).integers(0, 255, (300, 72, 3)).astype(np.uint8)
    np.testing.assert_allclose(small.hear(features).beat, _by_hand(small, features), atol=2e-4)


def test_pieces_have_no_edges(small: Ear, monkeypatch: pytest.MonkeyPatch) -> None:
    features = np.random.default_rng(2).integers(0, 255, (700, 72, 3)).astype(np.uint8)
    whole = small.hear(features)
    monkeypatch.setattr(ear, "_FRONT_CHUNK", 90)
    monkeypatch.setattr(ear, "_TIME_CHUNK", 130)
    pieces = small.hear(features)
    np.testing.assert_allclose(pieces.downbeat, whole.downbeat, atol=1e-6)
    np.testing.assert_allclose(pieces.tempo, whole.tempo, atol=1e-6)
    assert np.allclose(whole.tempo.sum(axis=1), 1)


def test_shipped_weights_are_small_and_whole() -> None:
    assert ear.WEIGHTS.stat().st_size < 4_000_000
    net = ear.load()
    assert net.context / 50 >= 8
    assert ear.problem() == ""


@pytest.mark.parametrize("harm", ["missing", "cut short", "not numbers", "another format"])
def test_unreadable_weights_are_named_and_the_simple_features_serve(tmp_path: Path, harm: str) -> None:
    path = tmp_path / "ear.npz"
    if harm == "cut short":
        path.write_bytes(ear.WEIGHTS.read_bytes()[:5000])
    elif harm != "missing":
        with np.load(ear.WEIGHTS) as z:
            parts = {k: z[k] for k in z.files}
        if harm == "not numbers":
            parts["heads"] = parts["heads"] * np.nan
        else:
            parts["format"] = np.array(99)
        np.savez(path, **parts)
    with pytest.raises(FormatError, match=r"missing \(ear.npz\)" if harm == "missing" else r"damaged \(ear.npz"):
        ear.load(path)
    listener = features.Listener(RATE, weights=path)
    listener.push(band(24.0, 112.0))
    sound = listener.finish()
    assert "simpler features" in sound.problem
    assert sound.strengths is None
    assert 60 / np.median(np.diff(beat_tracking.track(sound)[0].times)) == pytest.approx(112, rel=0.003)


def told(drums: float, voice: float) -> Strengths:
    """An ear's answers that are the same all through."""
    quiet = np.full(200, 0.1, np.float32)
    tempo = np.full((200, 32), 1 / 32, np.float32)
    return Strengths(quiet, quiet, quiet, quiet * 0 + drums, quiet * 0 + voice, tempo)


def test_of_voices_alone_beats_are_told_by_their_own_ear_too(tmp_path: Path) -> None:
    weights = tmp_path / "ear.npz"
    for path in (ear.WEIGHTS, voices.theirs(ear.WEIGHTS)):
        shutil.copy(path, tmp_path / path.name)
    read = np.random.default_rng(4).integers(0, 255, (200, 72, 3)).astype(np.uint8)
    alone = told(0.0, 0.9)
    said, theirs = ear.sung(alone, read, weights=weights), ear.load(voices.theirs(weights)).hear(read)
    assert said is not None
    for name in ("beat", "downbeat", "tempo", "calibration"):
        np.testing.assert_array_equal(getattr(said, name), getattr(theirs, name))
    assert all(getattr(said, name) is getattr(alone, name) for name in ("section", "drums", "voice"))
    assert ear.sung(told(0.6, 0.9), read, weights=weights) is None


@pytest.mark.parametrize("harm", ["missing", "damaged"])
def test_the_ear_of_voices_alone_is_not_asked_where_it_cannot_be_read(tmp_path: Path, harm: str) -> None:
    shutil.copy(ear.WEIGHTS, tmp_path / "ear.npz")
    if harm == "damaged":
        (tmp_path / "ear_voices.npz").write_bytes(b"no weights")
    assert ear.sung(told(0.0, 0.9), np.zeros((200, 72, 3), np.uint8), weights=tmp_path / "ear.npz") is None


def test_beats_of_a_voice_are_clearer_to_its_own_ear() -> None:
    sound, beats = sound_of_material("voice"), material("voice")["beats"]
    clear = []
    for said in (sound.strengths, sound.sung):
        assert said is not None
        at, between = (bar_pointer.peaks(said.beat, t) for t in (beats, beats[:-1] + np.diff(beats) / 2))
        clear.append(float(at.mean() - between.mean()))
    assert clear[1] > clear[0] + 0.05
    assert sound_of_material("dance").sung is None


def test_a_voice_that_the_general_ear_cannot_count_is_counted_by_its_own() -> None:
    sound = sound_of_material("voice")
    assert sound.strengths is not None and sound.sung is not None
    deaf = attrs.evolve(sound.strengths, beat=sound.strengths.beat * 0)
    general, _ = beat_tracking.track(attrs.evolve(sound, sung=None))
    sure, _ = beat_tracking.track(attrs.evolve(sound, sung=deaf))
    theirs, said = beat_tracking.track(attrs.evolve(sound, strengths=deaf))
    nothing, _ = beat_tracking.track(attrs.evolve(sound, strengths=deaf, sung=deaf))
    assert not len(nothing.times)
    np.testing.assert_array_equal(sure.times, general.times)
    assert said is not None and theirs.level_chance > 0.5
    # F-measure within 70 ms: Davies, Degara & Plumbley, Queen Mary University of London, 2009
    assert mir_eval.beat.f_measure(material("voice")["beats"], theirs.times, 0.07) > 0.9


def test_the_same_with_one_thread_and_with_two(tmp_path: Path) -> None:
    code = (
        "import sys, numpy as np; from tests.conftest import band, RATE;"
        "from mervid.core.hearing import features, beat_tracking;"
        "h, _ = beat_tracking.track(features.listen(band(20.0, 101.0), RATE));"
        "sys.stdout.write(repr((h.times.tolist(), h.numbers.tolist(), h.confidence.tolist())))"
    )
    root = Path(__file__).parents[3]
    told = []
    for threads in ("1", "2"):
        env = {"OMP_NUM_THREADS": threads, "OPENBLAS_NUM_THREADS": threads, "PATH": "/usr/bin:/bin"}
        done = subprocess.run([sys.executable, "-c", code], cwd=root, env=env, capture_output=True, check=True)
        told.append(done.stdout)
    assert told[0] == told[1]
    assert len(told[0]) > 500
