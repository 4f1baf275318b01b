"""Work by ear, measured: `.venv/bin/python bench/ear.py [--sound]`.

Taps of a simulated person on every demo track: how far the grid lies from the truth. Borrowing: how exactly a voice is
laid under its song, from elsewhere, faster, with pieces cut out, with its pitch kept, through a narrow band; how many
wrong siblings are refused; how long two recordings of four minutes take. Mixing: share of one core. With `--sound`
(needs pulseaudio and parec) also a real output into a null sink, while two recordings are analysed and the fold is
dragged for five minutes: stumbles, seek to sound.
These machines are noisy: compare figures of one run only.
"""

from __future__ import annotations

import argparse
import itertools
import os
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

import numpy as np

from mervid import places
from mervid.core.edits import listening_edits
from mervid.core.errors import Refused
from mervid.core.guided import tap_reading
from mervid.core.hearing import evidence
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.core.model.preparation import Preparation
from mervid.core.playing import mixing, reference_beat
from mervid.core.siblings import borrow, recording_match, stretch_search
from mervid.core.sound import decoding
from tests.conftest import DRUMMED, VOICE, heard_demo, truth
from tests.core.guided.test_tap_reading import Person

SEEDS = 8


def tapping() -> None:
    """A person of 25 ms scatter, 40 ms late, two missed taps, 45 s on every demo track, calibrated and not."""
    print(f"Taps of a simulated person ({SEEDS} rows of 45 s each; |grid - truth| over the whole track, ms)")
    print(f"  {'':26}  uncalibrated median / worst    calibrated median / worst    bars right   taps alone")
    for name in (*DRUMMED, VOICE):
        beats, downs = truth(name)["beats"], truth(name)["downbeats"]
        evidence = heard_demo(name)[1]
        row: dict[float, list[float]] = {0.0: [], 0.04: []}
        bars, alone = [], []
        for seed in range(SEEDS):
            part = beats[(beats > 6 + seed) & (beats < 51 + seed)]
            times = Person(seed).taps(part)
            down = np.isin(part[np.abs(part[None] - (times - 0.04)[:, None]).argmin(axis=1)], downs)
            order = np.argsort(times)
            for delay, found in row.items():
                read = tap_reading.read(times[order] - delay, down[order])
                grid = listening_edits.tap_along(Preparation(), evidence, read.beats, read.downs).grid
                assert grid is not None
                error = grid.time_at(np.round(grid.beat_at(beats[:-1]))) - beats[:-1]
                found.append(1000 * float(np.median(np.abs(error))))
            bars.append(float((grid.bar_index(np.round(grid.beat_at(downs[1:-1])))[1] == 0).mean()))
            alone.append(1000 * float(np.median([abs(read.beats - b).min() for b in part])))
        raw, done = row[0.0], row[0.04]
        print(
            f"  {name:26}  {np.median(raw):8.1f} / {max(raw):5.1f}             "
            f"{np.median(done):8.1f} / {max(done):5.1f}            {np.mean(bars):6.0%}      {np.median(alone):5.1f}"
        )


def sound(name: str) -> np.ndarray:
    """A demo recording as siblings are compared."""
    samples, facts = decoding.read(places.demo_folder() / f"{name}.ogg")
    return stretch_search.mono(samples, facts.rate)


def faster(x: np.ndarray, by: float) -> np.ndarray:
    """Played `by` faster, pitch and all."""
    import soxr

    return soxr.resample(x.astype(np.float64), 1 + by, 1.0).astype(np.float32)


def borrowing() -> None:
    """The voice of Lamplighter against its song, changed in many ways; and against all the others."""
    from scipy.signal import butter, sosfilt

    voice, full, rate = sound(VOICE), sound("Lamplighter"), stretch_search.RATE
    rng = np.random.default_rng(0)
    narrow = sosfilt(butter(2, [300, 3000], "band", fs=rate, output="sos"), voice)
    pieces = [voice[: 15 * rate], voice[round(20.123 * rate) : 50 * rate], voice[70 * rate :]]
    cases: list[tuple[str, np.ndarray, float, float, bool]] = [
        ("as it is", voice, 8.2, 1.0, True),
        ("begins 31 s later", voice[31 * rate :], 39.2, 1.0, True),
        ("17 s of silence before", np.concatenate([np.zeros(17 * rate, np.float32), voice]), -8.8, 1.0, True),
        *((f"{100 * s:+.1f} %", faster(voice, s), 8.2, 1 + s, True) for s in (-0.02, -0.003, 0.003, 0.01, 0.02)),
        ("narrow band and noise", (narrow + rng.normal(0, 0.01, len(voice))).astype(np.float32), 8.2, 1.0, True),
        ("two pieces cut out", np.concatenate(pieces), 8.2, 1.0, False),
    ]
    grid = Grid(tuple(Pin(float(t), float(i)) for i, t in enumerate(truth("Lamplighter")["beats"])))
    print("Borrowing: the voice of Lamplighter from Lamplighter (place and beats against truth, ms)")
    for name, x, offset, ratio, whole in cases:
        began = time.process_time()
        match = recording_match.match(x, full)
        spent = time.process_time() - began
        lent = borrow.lend(grid, match)
        line = f"  {name:26} {len(match.pieces)} piece(s), {match.confidence:4.0%} sure"
        line += f", said worst {1000 * match.worst:4.1f}"
        if whole:
            at = np.linspace(0, len(x) / rate, 200)
            off = max(abs(match.place_of(float(t)) - offset - ratio * t) for t in at)
            beats = (truth("Lamplighter")["beats"][:-1] - offset) / ratio
            beats = beats[(beats > 0) & (beats < len(x) / rate)]
            error = np.abs(lent.time_at(np.round(lent.beat_at(beats))) - beats).max()
            line += f", place {1000 * off:5.2f}, beats {1000 * error:5.2f}"
        else:
            cuts = [b.offset - a.offset for a, b in itertools.pairwise(match.pieces)]
            line += f", cut {', '.join(f'{c:.4f}' for c in cuts)} s (true 5.1230, 20.0000)"
        print(f"{line}, {spent:4.1f} s CPU")
    names = [*DRUMMED, VOICE]
    refused = tried = 0
    for mine in names:
        for other in names:
            if mine == other or {mine, other} == {VOICE, "Lamplighter"}:
                continue
            tried += 1
            try:
                recording_match.match(sound(mine), sound(other))
            except Refused:
                refused += 1
    print(f"  wrong siblings refused: {refused} of {tried}")
    # four minutes of new music beside four minutes of it played elsewhere
    long = np.concatenate([sound(n) for n in ("Copper Ferry", "Brass Tide", "Slack Water")])[: 240 * rate]
    began, cpu = time.perf_counter(), time.process_time()
    match = recording_match.match(faster(long[: 235 * rate], 0.003), long)
    print(
        f"  two recordings of 4 minutes: {time.process_time() - cpu:.1f} s CPU, {time.perf_counter() - began:.1f} s "
        f"(target 5), ratio {match.ratio:.6f} (true 1.003)"
    )


def mixing_cost() -> None:
    """Share of one core that mixing takes, in blocks of 20 ms."""
    rate = 44_100
    samples = np.random.default_rng(0).normal(0, 0.1, (60 * rate, 2)).astype(np.float32)
    print("Mixing, share of one core (target 5 %)")
    for beat, half, loop in (
        (reference_beat.OFF, False, None),
        (reference_beat.CLICK, False, None),
        (reference_beat.BACKBEAT, False, (2.0, 10.0)),
        (reference_beat.BACKBEAT, True, (2.0, 10.0)),
    ):
        program = mixing.Program(samples, rate, steady(tempo=128, first=0.1), beat, half=half, loop=loop)
        reel = mixing.Reel(program, 0.0)
        began = time.process_time()
        for _ in range(2000):
            reel.read(rate // 50)
        share = (time.process_time() - began) / 40
        print(f"  {beat or 'track alone':12} {'half speed' if half else '':10} {'loop' if loop else '':5} {share:6.2%}")


def main() -> int:
    """Print all tables."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n", maxsplit=1)[0])
    parser.add_argument("--sound", action="store_true", help="play through a real sound server, too")
    parser.add_argument("--minutes", type=float, default=5.0, help="how long to play with --sound")
    told = parser.parse_args()
    assert evidence.VERSION
    mixing_cost()
    borrowing()
    tapping()
    if told.sound:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        import sounding

        sounding.run(told.minutes)
    return 0


if __name__ == "__main__":
    sys.exit(main())
