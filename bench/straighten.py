"""Straightening, measured: `.venv/bin/python bench/straighten.py [PART ...] [FOLDER ...]`.

PARTs; all without any:

- exact: clicks with known drift (live, steps, ramp, wow), pitch held and not: how far each lies from the steady grid.
- wow: a record with wow of known depth. Its 3,150 Hz tone (as IEC 60386 measures, here unweighted peaks, which is
  stricter) after straightening by exact beats, and after straightening by what was heard of the sway in demo music.
- speed: the whole way from file to FLAC without hearing, on one core, and two hours of it with the memory they take.
- quality: `bench/together.py quality`: tone, chord, attack, mono sum, beside a library's stretching where there is one.
- items: recordings with known beats (FOLDERs as for `bench/hearing.py`), straightened by analysis alone: their true
  beats against one steady line before and after, 95th percentile and worst.
"""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]
from training.spread import spread

RATE = 44100
TURN = 100 / 180


def drifts(beats: int = 360) -> dict[str, Any]:
    """Times of beats, s, that drift in known ways."""
    rng, k = np.random.default_rng(3), np.arange(beats)
    out = {
        "live": 0.5 + np.cumsum(0.5 * (1 + 0.06 * np.sin(k / 40)) + rng.normal(0, 0.004, beats)),
        "steps": 0.5 + np.cumsum(np.where((k // 64) % 2, 0.5, 0.52)),
        "ramp": 0.5 + np.cumsum(0.5 * (1 + 0.08 * k / beats)),
    }
    for depth in (0.001, 0.002, 0.003, 0.005):
        out[f"wow {100 * depth:.1f} %"] = swayed(0.5 + 0.5 * k, depth)
    return out


def swayed(even: Any, depth: float, phase: float = 1.0) -> Any:
    """Where instants of a record come when it sways by `depth`, once a turn."""
    w = 2 * np.pi * TURN
    t = even.copy()
    for _ in range(30):
        t = even + depth / w * (np.cos(w * t + phase) - np.cos(phase))
    return t


def click_track(times: Any, seconds: float) -> Any:
    """A struck click at each time, placed between frames."""
    out, j = np.zeros((int(seconds * RATE), 2), np.float32), np.arange(400)
    for t in times:
        i = int(t * RATE)
        p = (j - (t * RATE - i)) / RATE
        c = np.where(p >= 0, np.exp(-p * 700) * np.sin(2 * np.pi * 2000 * p), 0) * 0.7
        out[i : i + 400] += c[: len(out) - i, None].astype(np.float32)
    return out


def found(y: Any, expected: Any) -> Any:
    """Where the clicks are, s: cross-correlation with one, and a parabola."""
    j = np.arange(400)
    one = np.exp(-j / RATE * 700) * np.sin(2 * np.pi * 2000 * j / RATE)
    out = []
    for e in expected:
        a = round(e * RATE) - 300
        if a < 0 or a + 1000 > len(y):
            continue
        c = np.correlate(y[a : a + 1000, 0], one, "valid")
        m = int(np.clip(c.argmax(), 1, len(c) - 2))
        off = 0.5 * (c[m - 1] - c[m + 1]) / (c[m - 1] - 2 * c[m] + c[m + 1])
        out.append((a + m + off) / RATE - e)
    return np.array(out)


def rendered(laid: Any, sound: Any, attacks: Any = None) -> Any:
    """All of it."""
    from mervid.core.rendering.whole import Whole

    w = Whole(laid, sound, RATE, np.zeros(0) if attacks is None else attacks)
    return np.concatenate([w.read(a, min(1 << 15, w.frames - a)) for a in range(0, w.frames, 1 << 15)])


def exact() -> None:
    """Clicks end on the steady grid."""
    from mervid.core.rendering.straightening import Wish, lay
    from mervid.formats import beatlist

    print("drift       pitch        typical      95 %     worst  ms")
    for name, times in drifts().items():
        grid = beatlist.to_grid(times, np.arange(len(times)) % 4 + 1)
        sound = click_track(times, times[-1] + 1)
        for hold in (False, True):
            laid = lay(grid, Wish(round(60 / np.median(np.diff(times))), hold_pitch=hold), len(sound) / RATE)
            off = np.abs(found(rendered(laid, sound), laid.grid.time_at(np.arange(len(times))))) * 1000
            figures = f"{np.median(off):10.3f} {np.percentile(off, 95):9.3f} {off.max():9.3f}"
            print(f"{name:11} {'held' if hold else 'varispeed':9} {figures}")


# wow


def wavering(tone: Any, pitch: float) -> float:
    """Peak deviation of a tone's frequency at 0.2 to 6 Hz, as a share of it."""
    from scipy.signal import decimate, firwin, hilbert, lfilter

    phase = np.unwrap(np.angle(hilbert(tone.astype(np.float64))))
    f = np.diff(phase) * RATE / (2 * np.pi) / pitch
    slow = f[RATE:-RATE]
    for q in (10, 10, 5):
        slow = decimate(slow, q, ftype="fir")
    rate = RATE / 500
    band = firwin(2 * int(rate * 8) + 1, [0.2, 6.0], fs=rate, pass_zero=False)
    out = lfilter(band, 1.0, slow - slow.mean())[len(band) :]
    return float(np.abs(out[int(rate * 2) : -int(rate * 2)]).max())


def wow() -> None:
    """What is left of a sway."""
    from mervid import places
    from mervid.core.hearing import turntable
    from mervid.core.hearing.features import Listener
    from mervid.core.rendering.straightening import Wish, lay
    from mervid.core.sound import decoding
    from mervid.core.sound.decoding import Resampler
    from mervid.formats import beatlist

    seconds = 120
    even = np.arange(0.5, seconds - 1, 0.5)
    print("sway    by                     before    after  %")
    for depth in (0.001, 0.003, 0.005):
        w = 2 * np.pi * TURN
        t = np.arange(seconds * RATE) / RATE
        place = t - depth / w * (np.cos(w * t + 1.0) - np.cos(1.0))
        tone = np.sin(2 * np.pi * 3150 * place).astype(np.float32)[:, None]
        times = swayed(even, depth)
        before = wavering(tone[:, 0], 3150)
        grid = beatlist.to_grid(times, np.arange(len(times)) % 4 + 1)
        laid = lay(grid, Wish(120.0, hold_pitch=False), seconds)
        after = wavering(rendered(laid, tone)[:, 0], 3150)
        print(f"{100 * depth:.1f} %  exact beats {100 * before:19.3f} {100 * after:8.3f}")
        # the same record heard: demo music sways alike, its beats are those of a steady grid
        samples, facts = decoding.read(places.demo_folder() / "Pontoon Static.ogg")
        x = Resampler(facts.rate, turntable.RATE)(samples, last=True)
        tt = np.arange(len(x) - turntable.RATE) / turntable.RATE
        at = tt - depth / w * (np.cos(w * tt + 1.0) - np.cos(1.0))
        y = np.interp(at * turntable.RATE, np.arange(len(x)), x).astype(np.float32)
        listener = Listener(turntable.RATE)
        for a in range(0, len(y), 320_000):
            listener.push(y[a : a + 320_000])
        steps = listener.finish().partials
        sway = turntable.sway(steps)
        waves = turntable.waves(steps, sway) if sway else ()
        from mervid.core.model.beatgrid import steady

        laid = lay(steady(tempo=120, first=0.5), Wish(120.0, hold_pitch=False), len(y) / turntable.RATE, waves=waves)
        part = tone[: int(len(y) / turntable.RATE * RATE)]
        after = wavering(rendered(laid, part)[:, 0], 3150)
        print(f"{100 * depth:.1f} %  sway heard in music {100 * before:10.3f} {100 * after:8.3f}")


# speed and memory


def _write(minutes: float, hold: bool) -> None:
    """Straighten noise of so many minutes; prints times real time and the memory it took."""
    import soundfile

    from mervid.core.rendering.straightening import Wish, lay
    from mervid.core.rendering.whole import Whole
    from mervid.core.sound import decoding
    from mervid.core.sound.sliding import Sliding
    from mervid.formats import beatlist, straight_files

    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        source, target = Path(folder, "noise.flac"), Path(folder, "noise.straight.flac")
        rng = np.random.default_rng(0)
        with soundfile.SoundFile(source, "w", RATE, 2, "PCM_16") as f:
            for _ in range(int(minutes * 6)):
                f.write((rng.normal(0, 0.12, (10 * RATE, 2))).clip(-0.9, 0.9).astype(np.float32))
        seconds = minutes * 60
        times = 0.5 + np.cumsum(0.5 * (1 + 0.03 * np.sin(np.arange(int(seconds * 1.9)) / 40)))
        laid = lay(beatlist.to_grid(times, np.arange(len(times)) % 4 + 1), Wish(120.0, hold_pitch=hold), seconds)
        frames = int(seconds * RATE)

        def sound() -> Whole:
            return Whole(laid, Sliding(decoding.probe(source), frames), RATE, np.zeros(0))

        began = time.process_time()
        straight_files.write(target, sound, sound().frames, RATE, channels=2, bits=16)
        cpu = time.process_time() - began
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(
        f"{minutes:g} min, {'held' if hold else 'varispeed'}: {seconds / cpu:.0f} times real time, {peak:.0f} MB",
        flush=True,
    )


def speed() -> None:
    """From file to file, each in a process of its own."""
    for minutes, hold in ((5, False), (5, True), (120, False), (120, True)):
        words = [sys.executable, __file__, "write", str(minutes), "held" if hold else "varispeed"]
        subprocess.run(words, check=True)


# recordings


def _item(job: tuple[str, str]) -> tuple[str, Any] | None:
    import json

    from findings import evidence_of

    from mervid.core.findings.recommendation import recommend
    from mervid.core.maths.piecewise import piecewise
    from mervid.core.pairs.side import Side
    from mervid.jobs import straighten

    folder, name = job
    said = json.loads(Path(folder, f"{name}.json").read_text("utf-8"))
    evidence, duration = evidence_of(folder, name)
    p = recommend(evidence, duration)
    if p.grid is None or not said.get("beats"):
        return None
    side = Side(name, p, evidence, duration)
    truth = np.array(said["beats"], float)
    try:
        laid = straighten.lay(side, straighten.proposed(side))
    except Exception as e:
        return said.get("class", "?"), str(e)
    return said.get("class", "?"), (off(truth), off(np.asarray(piecewise(truth, laid.own, laid.mix))))


def off(beats: Any) -> Any:
    """How far beats lie from the steady line that fits them best, ms, missing and doubled ones apart."""
    usual = np.median(np.diff(beats))
    n = np.concatenate([[0], np.cumsum(np.maximum(1, np.rint(np.diff(beats) / usual)))])
    for _ in range(3):
        slope, first = np.polyfit(n, beats, 1)
        rest = np.abs(beats - first - slope * n)
    return np.percentile(rest * 1000, [95, 100])


def items(folders: list[str]) -> None:
    """Recordings, by analysis alone."""
    jobs = [(f, p.stem) for f in folders for p in sorted(Path(f).glob("*.json"))]
    by: dict[str, list[Any]] = defaultdict(list)
    for answer in spread(_item, jobs):
        if answer is not None and not isinstance(answer[1], str):
            by[answer[0]].append(answer[1])
        elif answer is not None:
            print(f"not straightened ({answer[0]}): {answer[1]}")
    print("true beats against one steady line, 95 % / worst, median over recordings, ms")
    for kind, rows in sorted(by.items()):
        before, after = (np.median([r[k] for r in rows], axis=0) for k in (0, 1))
        print(
            f"{kind:10} {len(rows):4}  before {before[0]:8.1f} {before[1]:8.1f}   after {after[0]:6.1f} {after[1]:6.1f}"
        )


def main(words: list[str]) -> None:
    """Run what is asked for."""
    parts = [w for w in words if w in ("exact", "wow", "speed", "quality", "items")]
    folders = [w for w in words if Path(w).is_dir()]
    if words[:1] == ["write"]:
        _write(float(words[1]), words[2] == "held")
        return
    shared = ROOT.parent / "shared" / "bench" / "items"
    folders = folders or [str(f) for f in (shared, ROOT / "mervid" / "demo" / "tracks") if f.is_dir()]
    for part in parts or ("exact", "wow", "speed", "quality", "items"):
        print(f"\n{part}")
        if part == "quality":
            from together import quality

            quality()
        elif part == "items":
            items(folders)
        else:
            {"exact": exact, "wow": wow, "speed": speed}[part]()


if __name__ == "__main__":
    main(sys.argv[1:])
