"""Real music as its own teacher: takes with exact uneven beats made of finished recordings that kept machine time.

Where one steady line explains a recording's attacks (`lattice`), its pulses are known to the millisecond. Which of them
are beats is asked of five hearings: as it is, faster, slower, through a narrow band, from a later start. Where four
agree on level and side, these are taken; beat 1 only where all five agree, else it is masked. Then the recording is
bent by known curves, as drummers, edits and turntables bend time, worn, and written beside the rendered takes.

    python -m training.teacher --work FOLDER [--copies 4]
"""

from __future__ import annotations

import argparse
import os
import pickle
from collections import Counter
from pathlib import Path

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from mervid.core.errors import AudioError
from mervid.core.hearing import beat_tracking, features, spectra
from mervid.core.hearing.heard import Heard
from mervid.core.sound import decoding
from training import lattice, packages, render
from training.lattice import Lattice
from training.sounds import RATE
from training.spread import spread

Wave = NDArray[np.float32]
Floats = NDArray[np.float64]

SPEEDS = (1.0, 1.06, 0.94)
LATER = 13.7
ALIKE = 0.85
LEAST_VOTES = 4
CROP = 75.0
SURE_BARS = 0.9


@attrs.frozen
class Lesson:
    """What is known of one recording.

    Attributes
    ----------
    per : pulses of the lattice to a beat
    side : which pulse, modulo `per`, is a beat
    bar : which pulse, modulo `per` times `metre`, begins a bar; None where that isn't sure
    """

    path: Path
    licence: str
    lattice: Lattice
    per: int
    side: int
    metre: int
    bar: int | None

    def beats(self) -> tuple[Floats, Floats]:
        """Times of all beats and of those that begin bars, s, through the whole recording where the line holds."""
        end = max(b for _, b in self.lattice.spans)
        n = np.arange(0, int((end - self.lattice.start) / self.lattice.period) + 1)
        times = self.lattice.start + n * self.lattice.period
        inside = self.lattice.inside(times)
        beats = inside & (n % self.per == self.side)
        bars = inside & (n % (self.per * self.metre) == self.bar) if self.bar is not None else np.zeros(len(n), bool)
        return times[beats], times[bars]


def read(path: Path) -> Wave:
    """All of a recording as 32 kHz mono."""
    samples, facts = decoding.read(path)
    return decoding.Resampler(facts.rate, RATE)(samples, last=True)


def _narrow(x: Wave) -> Wave:
    from scipy.signal import butter, sosfilt

    return np.asarray(sosfilt(butter(3, (250, 3400), "bandpass", fs=RATE, output="sos"), x), np.float32)


def hearings(x: Wave) -> tuple[list[Heard], Floats, Floats]:
    """Five hearings with times of the recording itself; attack times and strengths of the first."""
    variants = [(speed, 0.0, x if speed == 1 else at(x, np.arange(0, len(x) - 1, speed))) for speed in SPEEDS]
    variants += [(1.0, 0.0, _narrow(x)), (1.0, LATER, x[int(LATER * RATE) :])]
    out, attacks = [], None
    for speed, start, y in variants:
        sound = features.listen(y, RATE)
        heard, _ = beat_tracking.track(sound)
        out.append(attrs.evolve(heard, times=heard.times * speed + start))
        if attacks is None:
            attacks = features.onsets(sound.attack)
    assert attacks is not None
    return out, attacks[0], np.asarray(attacks[1], float)


def at(x: Wave, places: Floats) -> Wave:
    """`x` at places between its samples, by a line through samples at three times the rate."""
    import soxr

    fine = soxr.resample(x, RATE, 3 * RATE)
    return np.interp(places * 3, np.arange(len(fine)), fine).astype(np.float32)


def _said(line: Lattice, heard: Heard) -> tuple[int, int, int, int | None] | None:
    """Pulses a beat, side, metre and bar that one hearing says, where it says one thing throughout."""
    inside = line.inside(heard.times)
    times = heard.times[inside]
    if len(times) < 32:
        return None
    n = np.round((times - line.start) / line.period).astype(int)
    near = np.abs(line.off(times)) < 0.03
    step, count = Counter(np.diff(n).tolist()).most_common(1)[0]
    side, sided = Counter((n[near] % max(step, 1)).tolist()).most_common(1)[0]
    if step < 1 or count < ALIKE * (len(n) - 1) or sided < ALIKE * len(n):
        return None
    metre = heard.metre
    downs = np.round((heard.downbeats - line.start) / line.period).astype(int)
    downs = downs[line.inside(heard.downbeats)]
    bar: int | None = None
    if len(downs) >= 8 and heard.phase_chance >= SURE_BARS:
        place, agreed = Counter((downs % (step * metre)).tolist()).most_common(1)[0]
        bar = int(place) if agreed >= ALIKE * len(downs) else None
    return step, int(side), metre, bar


def study(job: tuple[Path, str, Path]) -> Lesson | str:
    """What is known of one recording, or why nothing is; kept in a folder, so that a second start goes on."""
    path, licence, folder = job
    kept = folder / f"{path.parent.name}-{path.name}.pkl"
    if kept.exists():
        found: Lesson | str = pickle.loads(kept.read_bytes())
        return found
    try:
        found = _studied(path, licence)
    except AudioError as e:
        found = f"{e}"
    kept.write_bytes(pickle.dumps(found))
    return found


def _studied(path: Path, licence: str) -> Lesson | str:
    x = read(path)
    heard, times, strengths = hearings(x)
    line = lattice.find(times, strengths, len(x) / RATE)
    if line is None or not line.certain:
        return "no certain lattice"
    said = [_said(line, h) for h in heard]
    sides = Counter(s[:2] for s in said if s is not None)
    if not sides:
        return "no hearing says one thing"
    (per, side), votes = sides.most_common(1)[0]
    if votes < LEAST_VOTES:
        return f"level and side: {votes} of {len(heard)} agree"
    bars = {s[2:] if s is not None else None for s in said}
    metre, bar = next(iter(bars)) or (4, None) if len(bars) == 1 else (4, None)
    return Lesson(path, licence, line, per, side, metre, bar)


def curve(rng: Generator, seconds: float) -> Floats:
    """Speed at each hundredth of a second of a copy: like a machine, a drummer, edits, a slowing band, a turntable."""
    n = int(seconds * 100) + 1
    t = np.arange(n) / 100
    out = np.full(n, float(rng.uniform(0.92, 1.09)))
    kind = rng.choice(["steady", "wander", "ramp", "steps", "sway"], p=[0.2, 0.4, 0.1, 0.15, 0.15])
    if kind == "wander":
        knots = np.arange(0, seconds + 8, float(rng.uniform(1.5, 8)))
        walk = np.cumsum(rng.normal(0, 1, len(knots)))
        walk = walk - np.linspace(walk[0], walk[-1], len(walk))
        out *= 1 + np.interp(t, knots, rng.uniform(0.004, 0.02) * walk / max(float(walk.std()), 1e-6))
    elif kind == "ramp":
        a, b = sorted(rng.uniform(0, seconds, 2))
        out *= np.interp(t, [0, a, b + 1, seconds + 1], [1, 1, *[1 + float(rng.uniform(-0.12, 0.12))] * 2])
    elif kind == "steps":
        for place in rng.uniform(5, seconds - 5, int(rng.integers(1, 4))):
            out[t >= place] *= 1 + float(rng.uniform(-0.06, 0.06))
    elif kind == "sway":
        hz = float(rng.choice([33 + 1 / 3, 45])) / 60
        out *= 1 + float(rng.uniform(0.0005, 0.005)) * np.sin(2 * np.pi * hz * t + rng.uniform(0, 6.3))
    return out


def copy(lesson: Lesson, x: Wave, seed: int) -> dict[str, np.ndarray]:
    """One bent and worn copy of a part, as a take on disk."""
    rng = np.random.default_rng([2027, seed])
    spans = lesson.lattice.spans
    a, b = spans[int(rng.integers(len(spans)))]
    first = float(rng.uniform(max(0.0, a - 6), max(a, b - CROP + 6)))
    speed = curve(rng, CROP)
    # places of the recording at each hundredth of a second of the copy
    places = first + np.concatenate([[0.0], np.cumsum(speed[:-1] / 100)])
    places = places[places < len(x) / RATE - 0.1]
    t = np.arange(len(places)) / 100
    samples = at(
        x[int(first * RATE) :][: int(CROP * 1.3 * RATE)],
        np.interp(np.arange(int(t[-1] * RATE)) / RATE, t, places - first) * RATE,
    )
    moved = None
    if rng.random() < 0.6:
        samples, moved = render.wear(rng, samples)

    def to(times: Floats) -> Floats:
        times = np.asarray(times, float)
        inside = times[(times >= places[0]) & (times <= places[-1])]
        out = np.interp(inside, places, t)
        return out if moved is None else np.interp(out, moved[:, 0], moved[:, 1])

    beats, bars = (to(e) for e in lesson.beats())
    known = np.array([[to(np.clip([p, q], places[0], places[-1]))] for p, q in spans]).reshape(-1, 2)
    empty = np.zeros((0, 2))
    return {
        "features": spectra.read(samples),
        "beats": beats,
        "downbeats": bars,
        "sections": np.zeros(0),
        "drums": empty,
        "voice": empty,
        "family": np.array("real"),
        "known": known,
        "tasks": np.array([1.0, float(lesson.bar is not None), 0.0, 0.0, 0.0]),
    }


def write(job: tuple[Lesson, int, int, Path]) -> int:
    """Copies of one recording into the folder of takes."""
    lesson, first, copies, folder = job
    if all((folder / f"{first + k:07d}.npz").exists() for k in range(copies)):
        return 0
    x = read(lesson.path)
    for k in range(copies):
        path = folder / f"{first + k:07d}.npz"
        if not path.exists():
            part = path.with_suffix(".part.npz")
            np.savez(part, **copy(lesson, x, first + k))
            os.replace(part, path)
    return copies


FIRST = 3_000_000


def main() -> int:
    """Fetch, study, bend, write."""
    parser = argparse.ArgumentParser(prog="python -m training.teacher", description=__doc__.split("\n")[0])
    parser.add_argument("--work", type=Path, required=True, help="folder for recordings and takes")
    parser.add_argument("--copies", type=int, default=6)
    options = parser.parse_args()
    jobs = []
    for package, files in packages.LEARNED.items():
        packages.fetch(package, options.work / "real")
        for pattern, licence in files.items():
            jobs += [(p, licence) for p in packages.chosen(package, options.work / "real", (pattern,))]
    kept = options.work / "lessons"
    kept.mkdir(exist_ok=True)
    found = list(spread(study, [(p, licence, kept) for p, licence in jobs]))
    lessons = [x for x in found if isinstance(x, Lesson)]
    print(
        f"{len(lessons)} of {len(jobs)} recordings teach, {sum(x.bar is not None for x in lessons)} of them bars, too"
    )
    for why, count in Counter(x for x in found if isinstance(x, str)).most_common():
        print(f"  {count:3d} {why}")
    for x in lessons:
        bars = "bars" if x.bar is not None else "    "
        print(f"  {60 / (x.per * x.lattice.period):7.2f} BPM {bars} {x.path.name} ({x.licence})")
    folder = options.work / "takes"
    folder.mkdir(exist_ok=True)
    for k, _ in enumerate(
        spread(write, [(x, FIRST + 100 * i, options.copies, folder) for i, x in enumerate(lessons)], most_each=8), 1
    ):
        print(f"bent {k} of {len(lessons)}", flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
