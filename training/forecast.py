"""Fit how far grids may be believed: `python -m training.forecast TAKES [TAKES ...] [--judged TAKES ...]`.

TAKES are folders of takes that nothing was learned from, as `training.heard_takes` and `training.modules` keep them.
Of each the grid is written, and the first and last 64 beats are stretches: what is heard there tells, by a robust
regression, how far the true beats lie from the grid, and by a logistic one whether the count is wrong altogether; the
stretches are paired where tempi are alike to see how steeply the chance falls of staying within what an ear forgives.
It is then judged on the folders after `--judged`. The figures are printed, and written into the module by hand.
"""

from __future__ import annotations

import sys
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.findings.recommendation import recommend
from mervid.core.fitting import sureness
from mervid.core.fitting.sureness import BEATS, Stretch, Sureness
from mervid.core.hearing import beat_tracking, features, voices
from mervid.core.hearing.evidence import Evidence
from mervid.core.pairs import forecast
from mervid.core.pairs.side import Side
from mervid.core.pairs.tear import FORGIVEN
from training.fits import examples
from training.heard_takes import Read, nearest, read
from training.judge import logistic

Floats = NDArray[np.float64]
BOTH = 96
"""A take of more beats has two stretches."""
STRAY_MS, STRAY = 40.0, 0.05
"""A stretch of which more beats lie farther from the grid is counted on wrong ones."""
COUNTED = 0.1
"""So far may the number of beats be from the true one, or from twice or half of it, which part no two tracks."""
ALIKE, PARTNERS = 0.08, 6
LEAST_MS = 0.05
SCENE_RATE = 20


@attrs.frozen(eq=False)
class Judged:
    """A stretch and its truth.

    Attributes
    ----------
    take, stretch : which take it is of, and what is heard there
    period : s, of its beats
    off : (n,) ms by which the grid's beats lie beside the true ones
    wrong : whether it is counted on wrong beats
    """

    take: str
    stretch: Stretch
    period: float
    off: Floats
    wrong: bool


def side_of(take: Read, name: str) -> Side | None:
    """A take with the grid that Mervid would write; None for voices alone, and where there is none."""
    if voices.alone(take.ear):
        return None
    found = beat_tracking.follow(take.ear, take.attack, take.duration, seen=take.seen)
    heard = beat_tracking.judged(found.ear, take.attack, found)
    attack = np.rint(take.attack * 255).astype(np.uint8)
    percussive = np.zeros(int(take.duration * SCENE_RATE) + 1, np.uint8)
    evidence = Evidence(heard, attack, percussive, *features.onsets(take.attack), strengths=found.ear)
    preparation = recommend(evidence, take.duration)
    return None if preparation.grid is None else Side(name, preparation, evidence, take.duration)


def lessons(path: Path) -> list[Judged]:
    """The stretches of a take."""
    take = read(path)
    side = side_of(take, path.stem)
    if side is None:
        return []
    first, last = side.music
    spans = [(first, min(last, first + BEATS))] + ([(last - BEATS, last)] if last - first > BOTH else [])
    found = (_lesson(side, take.beats, start, stop) for start, stop in spans)
    return [one for one in found if one is not None]


def _lesson(side: Side, beats: Floats, start: float, stop: float) -> Judged | None:
    stretch = sureness.stretch_of(side.beside, start, stop)
    grid = side.grid.time_at(np.arange(np.floor(start) - 2, np.ceil(stop) + 3))
    low, high = side.grid.time_at([start - 0.5, stop - 0.5])
    true = beats[(beats > low) & (beats < high)]
    if stretch is None or len(true) < 16:
        return None
    period = float(high - low) / (stop - start)
    off, ratio = 1000 * (nearest(grid, true) - true), len(true) / (stop - start)
    if abs(np.log(ratio / 2)) < COUNTED:
        # where the grid has every second beat, those between have none
        off, ratio = off[np.abs(off) < 250 * period], 1.0
    level = min(abs(np.log(ratio)), abs(np.log(2 * ratio)))
    wrong = bool(level > COUNTED or np.mean(np.abs(off) > STRAY_MS) > STRAY)
    return Judged(side.title, stretch, period, off, wrong)


# fitting


def hidden(rows: list[Judged]) -> Floats:
    """`sureness._HIDDEN`: what the error that no scatter shows goes with, (4,)."""
    from scipy.optimize import least_squares

    right = [r for r in rows if not r.wrong]
    x = np.stack([sureness.hidden_by(r.stretch) for r in right])
    most = np.array([r.stretch.most for r in right])
    y = np.log([np.percentile(np.abs(r.off), 95) + LEAST_MS for r in right])

    def missed(v: Floats) -> Floats:
        return np.asarray(np.log(np.hypot(most, np.exp(x @ v))) - y)

    return np.asarray(least_squares(missed, [2.0, 0.5, 0.3, 0.2], loss="soft_l1").x)


def doubts(rows: list[Judged]) -> Floats:
    """`sureness._WRONG`: what being counted on wrong beats goes with, (5,)."""
    x = np.stack([sureness.doubted_by(r.stretch) for r in rows])
    # the regression has a constant of its own, and has it last
    return np.roll(logistic(x[:, 1:], np.array([r.wrong for r in rows], float)), 1)


def pairs(rows: list[Judged]) -> list[tuple[int, int]]:
    """Some stretches of other takes at a like tempo for each."""
    rng = np.random.default_rng(0)
    period, take = np.log([r.period for r in rows]), np.array([r.take for r in rows])
    out = []
    for i in range(len(rows)):
        others = np.flatnonzero((np.abs(period - period[i]) < ALIKE) & (take != take[i]))
        out += [(i, int(j)) for j in rng.choice(others, min(PARTNERS, len(others)), replace=False)]
    return out


def apart(a: Judged, b: Judged) -> float:
    """How far 95 % of the true beats of two stretches fall apart, ms."""
    n = min(len(a.off), len(b.off))
    return float(np.percentile(np.abs(a.off[:n] - b.off[:n]), 95))


def steepness(rows: list[Judged], sure: list[Sureness]) -> float:
    """`forecast._STEEP`: by pairs that are counted on right beats."""
    x, held = [], []
    for i, j in pairs(rows):
        if not rows[i].wrong and not rows[j].wrong:
            forgiven = 1000 * FORGIVEN * rows[i].period
            x.append(np.log(forgiven / np.hypot(sure[i].error, sure[j].error)))
            held.append(apart(rows[i], rows[j]) <= forgiven)
    # each is shown mirrored, too: where what is foretold is what is forgiven the chance is one half
    away, right = np.array(x), np.array(held, float)
    return float(logistic(np.append(away, -away)[:, None], np.append(right, 1 - right))[0])


def judge(rows: list[Judged], sure: list[Sureness]) -> str:
    """How the chances of pairs agree with the truth."""
    chance, said, true, held = [], [], [], []
    for i, j in pairs(rows):
        forgiven = 1000 * FORGIVEN * rows[i].period
        expected = forecast.together_of(sure[i], sure[j], forgiven)
        away = apart(rows[i], rows[j])
        fell = rows[i].wrong or rows[j].wrong or away > forgiven
        chance.append(expected.safe)
        held.append(not fell)
        if not rows[i].wrong and not rows[j].wrong:
            said.append(np.hypot(sure[i].error, sure[j].error))
            true.append(away)
    safe, ok = np.array(chance), np.array(held)
    loss = -np.log(np.clip(np.where(ok, safe, 1 - safe), 1e-3, 1)).mean()
    called = safe >= forecast.SAFE
    right = ok[called].mean() if called.any() else np.nan
    agree = np.corrcoef(np.log(np.add(said, LEAST_MS)), np.log(np.add(true, LEAST_MS)))[0, 1]
    return (
        f"{len(ok)} pairs, {ok.mean():.3f} hold, chance {safe.mean():.3f}, log loss {loss:.3f}; "
        f"correlation of logarithms {agree:.2f}; safe said of {called.mean():.3f}, right in {right:.3f}"
    )


def main() -> int:
    """Hear, fit, judge."""
    shown, other = ([r for part in made for r in part] for made in examples("training.forecast", str(__doc__), lessons))
    print(f"{len(shown)} stretches of {len({r.take for r in shown})} takes, {len(other)} to judge by")
    sureness._HIDDEN = tuple(np.round(hidden(shown), 3).tolist())
    sureness._WRONG = tuple(np.round(doubts(shown), 3).tolist())
    print(f"_HIDDEN = {sureness._HIDDEN}\n_WRONG = {sureness._WRONG}")
    sure = [sureness.sureness_of(r.stretch) for r in shown]
    forecast._STEEP = round(steepness(shown, sure), 2)
    print(f"_STEEP = {forecast._STEEP}\nshown: {judge(shown, sure)}")
    if other:
        print(f"others: {judge(other, [sureness.sureness_of(r.stretch) for r in other])}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
