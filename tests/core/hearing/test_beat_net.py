"""The networks over beats: their arithmetic against SciPy's, and what a damaged file is."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy.ndimage import convolve1d

from mervid.core.hearing import bar_figures, bar_lines, beat_net, opening, places

FIGURES, WIDTH, DILATIONS = 5, 4, (1, 3)


def weights(members: int = 2) -> dict[str, np.ndarray]:
    """Networks of random numbers, as training writes them."""
    rng = np.random.default_rng(1)
    shapes: list[tuple[int, ...]] = [(WIDTH, FIGURES, 1), (WIDTH,)]
    for _ in DILATIONS:
        shapes += [(WIDTH, WIDTH, 3), (WIDTH,), (WIDTH, WIDTH, 1), (WIDTH,)]
    shapes += [(1, WIDTH, 1), (1,)]
    out: dict[str, np.ndarray] = {
        f"{k}.{i}": rng.normal(0, 0.5, s).astype(np.float16) for k in range(members) for i, s in enumerate(shapes)
    }
    extra = {"format": np.array(beat_net.FORMAT), "dilations": np.array(DILATIONS), "nets": np.array(members)}
    return out | extra | {"mean": rng.normal(size=FIGURES), "spread": np.full(FIGURES, 2.0)}


def test_answers_are_dilated_convolutions_over_beats(tmp_path: Path) -> None:
    w = weights()
    np.savez(tmp_path / "w.npz", **w)
    net = beat_net.load(tmp_path / "w.npz", FIGURES)
    assert net is not None
    rows = np.random.default_rng(2).normal(size=(40, FIGURES)).astype(np.float32)
    said = []
    for member in ("0", "1"):
        p = {k.removeprefix(f"{member}."): v.astype(float) for k, v in w.items() if k.startswith(f"{member}.")}
        x = np.maximum((rows - w["mean"]) / 2.0 @ p["0"][..., 0].T + p["1"], 0)
        for k, dilation in enumerate(DILATIONS):
            across = p[str(2 + 4 * k)]
            y = np.tile(p[str(3 + 4 * k)], (40, 1))
            for o in range(WIDTH):
                for i in range(WIDTH):
                    kernel = np.zeros(2 * dilation + 1)
                    kernel[::dilation] = across[o, i]
                    y[:, o] += convolve1d(x[:, i], kernel[::-1], mode="constant")
            x = x + np.maximum(y, 0) @ p[str(4 + 4 * k)][..., 0].T + p[str(5 + 4 * k)]
        said.append(np.maximum(x, 0) @ p["10"][0, :, 0] + p["11"])
    np.testing.assert_allclose(net(rows), np.mean(said, axis=0), rtol=1e-4, atol=1e-4)


@pytest.mark.parametrize("fault", ["missing", "cut", "other figures", "other format", "not a number"])
def test_what_is_no_network_answers_nothing(tmp_path: Path, fault: str) -> None:
    path = tmp_path / "w.npz"
    w = weights()
    if fault == "other format":
        w["format"] = np.array(99)
    if fault == "not a number":
        w["0.0"][0, 0] = np.nan
    if fault != "missing":
        np.savez(path, **w)
    if fault == "cut":
        path.write_bytes(path.read_bytes()[:300])
    assert beat_net.load(path, FIGURES + (fault == "other figures")) is None


def test_the_shipped_networks_are_whole() -> None:
    assert beat_net.load(bar_lines.WEIGHTS, bar_figures.COUNT) is not None
    assert beat_net.load(places.WEIGHTS, places.COUNT) is not None
    assert beat_net.load(opening.WEIGHTS, opening.COUNT) is not None
