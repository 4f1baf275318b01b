"""Learn what each degree weighs in a key: `python -m training.key TAKES [TAKES ...]`, folders of takes with sound.

The key of a take is that of the band that played it. A softmax over the 24 keys is fitted, the same weights for all
tonics, drawn by a ridge towards the profiles of Albrecht & Shanahan (2013); judged by six-fold cross-validation with
MIREX weights beside plain profiles by Krumhansl & Kessler (1982), and written.
"""

from __future__ import annotations

import argparse
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from mervid.core.character import key as keys
from mervid.core.character.key import KEYS, Profiles
from mervid.core.hearing import features
from training import composer
from training.spread import spread

Floats = NDArray[np.float64]
RIDGE, SHARPNESS, FOLDS = 16.0, 8.0, 6
MAKES_NOISE = 0.03
ALBRECHT_SHANAHAN = np.array(
    [
        [0.238, 0.006, 0.111, 0.006, 0.137, 0.094, 0.016, 0.214, 0.009, 0.080, 0.008, 0.081],
        [0.220, 0.006, 0.104, 0.123, 0.019, 0.103, 0.012, 0.214, 0.062, 0.022, 0.061, 0.052],
    ]
)
KRUMHANSL_KESSLER = np.array(
    [
        [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88],
        [6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17],
    ]
)


def plain(profiles: Floats) -> Profiles:
    """Published profiles as they are, by correlation, with no regard to the bass."""
    return Profiles(np.concatenate([keys.unit(profiles), np.zeros((2, 12))], axis=1), 0.0, SHARPNESS)


def truth(seed: int) -> int | None:
    """Which of `KEYS` a take was composed in; None for noise and for drums alone."""
    rng = np.random.default_rng([2026, seed])
    if rng.random() < MAKES_NOISE:
        return None
    song = composer.compose(rng, 75.0)
    if {n.part for n in song.notes} <= {"drums"}:
        return None
    return KEYS.index(keys.Key(song.tonic, song.minor))


def hear(path: Path) -> tuple[Floats, int] | None:
    """The profile of a take and its key."""
    import soundfile

    right = truth(int(path.stem))
    if right is None:
        return None
    samples, rate = soundfile.read(path, dtype="float32")
    return keys.profile(features.listen(samples, rate).pitches), right


def fit(seen: Floats, right: NDArray[np.int64]) -> Profiles:
    """Profiles from (takes, 24, 24) `degrees` and the index of each right key."""
    from scipy.optimize import minimize

    start = plain(ALBRECHT_SHANAHAN).weights

    def read(p: Floats) -> Profiles:
        return Profiles(p[:48].reshape(2, 24), float(p[48]), SHARPNESS)

    def loss(p: Floats) -> float:
        q = read(p)
        scores = SHARPNESS * np.concatenate(
            [seen[:, :12] @ q.weights[0] + q.major, seen[:, 12:] @ q.weights[1]], axis=1
        )
        scores -= scores.max(axis=1, keepdims=True)
        said = scores - np.log(np.exp(scores).sum(axis=1, keepdims=True))
        return float(-said[np.arange(len(right)), right].sum() + RIDGE * ((q.weights - start) ** 2).sum())

    return read(minimize(loss, np.append(start.ravel(), 0.0), method="L-BFGS-B", options={"maxiter": 80}).x)


def score(rows: list[Floats], right: NDArray[np.int64], profiles: Profiles) -> list[tuple[float, float]]:
    """MIREX weight of the key of each take, and the chance that was said."""
    import mir_eval

    out = []
    for row, k in zip(rows, right, strict=True):
        shares = keys.chances(row, profiles)
        best = int(shares.argmax())
        out.append((mir_eval.key.weighted_score(KEYS[k].name, KEYS[best].name), float(shares[best])))
    return out


def main() -> None:
    """The command."""
    p = argparse.ArgumentParser(description=__doc__)
    p.add_argument("takes", nargs="+", type=Path, help="folders with SEED.flac")
    p.add_argument("--judge", type=Path, help="another such folder, only to judge what is shipped")
    p.add_argument("--write", action="store_true")
    options = p.parse_args()
    folders = [options.judge] if options.judge else options.takes
    files = [f for folder in folders for f in sorted(folder.glob("*.flac"))]
    found = [x for x in spread(partial(hear), files) if x is not None]
    rows, right = [r for r, _ in found], np.array([k for _, k in found])
    print(f"{len(rows)} takes")
    for name, profiles in (("Krumhansl & Kessler", KRUMHANSL_KESSLER), ("Albrecht & Shanahan", ALBRECHT_SHANAHAN)):
        print(f"{name}: {np.mean([s for s, _ in score(rows, right, plain(profiles))]):.3f}")
    if options.judge:
        said = np.array(score(rows, right, keys.shipped()))
        print(f"shipped: {said[:, 0].mean():.3f}, right {np.mean(said[:, 0] == 1):.3f}, said {said[:, 1].mean():.3f}")
        return
    seen = np.array([keys.degrees(r) for r in rows])
    fold = np.random.default_rng(0).permutation(len(rows)) % FOLDS
    said = np.array(
        [
            s
            for k in range(FOLDS)
            for s in score(
                [r for r, f in zip(rows, fold, strict=True) if f == k],
                right[fold == k],
                fit(seen[fold != k], right[fold != k]),
            )
        ]
    )
    print(f"fitted, cross-validated: {said[:, 0].mean():.3f}, right {np.mean(said[:, 0] == 1):.3f}")
    for low, high in ((0, 0.5), (0.5, 0.8), (0.8, 0.95), (0.95, 1.01)):
        some = said[(said[:, 1] >= low) & (said[:, 1] < high)]
        if len(some):
            print(f"  said {some[:, 1].mean():.2f}: right {np.mean(some[:, 0] == 1):.2f} of {len(some)}")
    if options.write:
        best = fit(seen, right)
        target = Path(keys.__file__).parent / "weights" / "key.npz"
        target.parent.mkdir(exist_ok=True)
        np.savez(target, weights=best.weights, major=best.major, sharpness=best.sharpness)
        print(f"written: {target}")


if __name__ == "__main__":
    main()
