"""The network that hears where phrases begin: composed bars, long tracks in parts, and damaged weights."""

from __future__ import annotations

from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.form import boundary_features, boundary_net, novelty, segmentation
from mervid.core.form.bar_features import Bars
from mervid.core.hearing import voices


def composed(lengths: list[int], kinds: list[int], *, noise: float = 0.3, seed: int = 4) -> Bars:
    """Bars of sections of so many bars; sections of one kind sound alike but for noise."""
    rng = np.random.default_rng(seed)
    of = np.repeat(kinds, lengths)
    n, most = len(of), max(kinds) + 1
    timbre = rng.normal(size=(most, 24))[of] + noise * rng.normal(size=(n, 24))
    chords = rng.random((most, 4, 24)) ** 3
    harmony = chords[of, np.arange(n) % 4]
    harmony /= np.linalg.norm(harmony.reshape(n, 2, 12), axis=2).repeat(12, axis=1)
    rhythm = np.clip(rng.random((most, 16))[of] + 0.1 * noise * rng.normal(size=(n, 16)), 0, 1)
    return Bars(
        starts=4.0 * np.arange(n + 1),
        times=2.0 * np.arange(n + 1),
        timbre=(timbre - timbre.mean(0)) / timbre.std(0),
        harmony=harmony,
        rhythm=rhythm,
        drums=np.full(n, 0.95),
        voice=np.asarray(rng.random(most) > 0.5, dtype=float)[of],
        level=rng.normal(size=most)[of] + 0.2 * rng.normal(size=n),
        opens=np.zeros(n),
    )


def part(bars: Bars, start: int, stop: int) -> Bars:
    rows = ("timbre", "harmony", "rhythm", "drums", "voice", "level", "opens")
    lines = {k: getattr(bars, k)[start : stop + 1] for k in ("starts", "times")}
    return attrs.evolve(bars, **lines, **{k: getattr(bars, k)[start:stop] for k in rows})


def test_sections_that_differ_are_told_apart_though_no_ear_heard_them_open() -> None:
    """Over twenty songs each: hardly a boundary missed or made up (hit rate of Turnbull et al., ISMIR 2007)."""
    scores = []
    for lengths in ([8, 16, 8, 16, 8], [4, 12, 8, 20, 12, 4], [16, 10, 16, 8]):
        true = 2.0 * np.cumsum([0, *lengths])
        for seed in range(20):
            bars = composed(lengths, [0, 1, 2, 1, 2, 0][: len(lengths)], seed=seed)
            found = bars.times[segmentation.outline(bars).edges]
            spans = [np.stack([t[:-1], t[1:]], axis=1) for t in (true, found)]
            scores.append(mir_eval.segment.detection(*spans, window=0.5, trim=True)[2])
    assert np.mean(scores) > 0.95
    assert min(scores) > 0.6


def test_one_long_vamp_is_not_cut_at_random() -> None:
    odds = boundary_net.odds(composed([64], [0]))
    assert (odds < 0).mean() > 0.9


def test_a_long_track_is_heard_part_by_part() -> None:
    rng = np.random.default_rng(1)
    lengths = rng.choice([8, 12, 16], 80).tolist()
    long = composed(lengths, rng.integers(0, 6, 80).tolist())
    most, shared = boundary_features.AT_MOST, boundary_features.OVER
    assert most < len(long) < 2 * most - 2 * shared
    found = boundary_net.odds(long)
    assert found.shape == (len(long) - 1,)
    # each line is heard by the part in whose middle it lies
    seam = most - shared
    assert np.array_equal(found[: seam - 1], boundary_net.odds(part(long, 0, most))[: seam - 1])
    assert np.array_equal(found[seam:], boundary_net.odds(part(long, seam - shared, len(long)))[shared:])


def sung(phrases: int, *, seed: int) -> Bars:
    """Bars of a voice alone in phrases of four bars, in the last of which it falls silent after the second beat."""
    rng = np.random.default_rng(seed)
    n = 4 * phrases
    last = np.arange(n) % 4 == 3
    flow = rng.random(16) * (rng.random(16) < 0.7)
    rhythm = np.clip(flow + 0.08 * rng.normal(size=(n, 16)), 0, 1)
    rhythm[last, 8:] = 0
    level = np.where(last, -1.2, 0.4) + 0.2 * rng.normal(size=n)
    timbre = 0.6 * rng.normal(size=(n, 24)) + np.where(last, -0.8, 0.3)[:, None]
    bars = composed([n], [0], seed=seed)
    return attrs.evolve(bars, drums=np.full(n, 0.01), voice=np.full(n, 0.85), rhythm=rhythm, level=level, timbre=timbre)


def test_a_voice_alone_has_phrases_where_it_begins_anew() -> None:
    hits = []
    for seed in range(8):
        bars = sung(12, seed=seed)
        assert boundary_net.serving(bars) is boundary_net.shipped(voices.theirs(boundary_net.WEIGHTS)) is not None
        edges = segmentation.outline(bars).edges
        hits.append(np.mean(edges[1:-1] % 4 == 0) if len(edges) > 2 else 0.0)
        assert 4 <= len(edges) - 1 <= 14
    assert np.mean(hits) > 0.9


def test_each_kind_of_music_has_its_network() -> None:
    bars = composed([8, 8], [0, 1])
    drummed, faint = boundary_net.serving(bars), attrs.evolve(bars, drums=np.full(16, 0.2))
    assert drummed is boundary_net.shipped(boundary_net.WEIGHTS) is not None
    assert boundary_net.serving(faint) is None
    silent = attrs.evolve(bars, drums=np.zeros(16), voice=np.zeros(16))
    assert boundary_net.serving(silent) is None and boundary_net.serving(part(bars, 0, 0)) is None


@pytest.mark.parametrize("n", [0, 1, 2, 3, 7])
def test_few_bars_make_no_trouble(n: int) -> None:
    few = part(composed([8], [0]), 0, n)
    assert np.isfinite(boundary_net.odds(few)).all()
    assert boundary_features.features(few).shape == (max(0, n - 1), boundary_features.COUNT)


@pytest.mark.parametrize("damage", ["missing", "cut", "other"])
def test_without_its_weights_what_is_measured_by_hand_serves(
    damage: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "boundary.npz"
    if damage == "cut":
        path.write_bytes(boundary_net.WEIGHTS.read_bytes()[:9000])
    if damage == "other":
        np.savez(path, nets=np.array(4))
    monkeypatch.setattr(boundary_net, "WEIGHTS", path)
    bars = composed([8, 16, 8], [0, 1, 0])
    assert np.array_equal(boundary_net.odds(bars), novelty.boundary_odds(novelty.changes(bars)))
    assert segmentation.outline(bars).edges[0] == 0
