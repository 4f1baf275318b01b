"""Two tracks over each other, measured: `.venv/bin/python bench/together.py [PART ...] [FOLDER ...]`.

PARTs; all but the last without any:

- exact: clicks of two rendered tracks with known uneven beats, over 64 bars, on every clock, pitch held and not; level,
  peak and DC of the sum; CPU for each second of sound; the map there and back.
- pairs: recordings with known beats (FOLDERs as for `bench/hearing.py`), all pairs whose tempi lie within 8 %, by the
  grids of analysis alone and after the simulated person of `bench/hand.py`: the coming track's true beats, carried
  through the map, against the leaving track's. Beside it a player with one tempo a track and hands that match by ear
  (20 ms standard deviation). Then how far the forecast can be believed. 'mended where they meet': the same person then
  looks at the pair in Rehearse and pulls the beat that is farthest apart, in the track that strays more, until 95 % of
  them lie within 12 ms. They know the true beats, so that what is measured is how many pulls it takes.
- list: every pair of the recordings, judged as the window does it, from stored evidence alone: seconds for 1,000 pairs.
- sound (only when asked for): five minutes through a real sound server while two tracks are analysed and the fold is
  dragged: how often the sound process came too late, and what it costs.
- quality: held pitch at 3 and 6 % beside varispeed and, where it is installed, a library's stretching.
"""

from __future__ import annotations

import itertools
import json
import sys
import time
import warnings
import zlib
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]
from findings import evidence_of
from hand import MOST, Person

from training.spread import spread

RATE = 44100
BARS = 32
WITHIN_MS = 12.0
THUMB_MS = 20.0
MOST_PULLS = 12
OUT = ROOT / "bench" / "out" / "together"


def clicks(tempo: float, beats: int, seed: int) -> tuple[Any, Any, Any]:
    """A grid with uneven beats, its sound, and the beats in s, each on a whole frame."""
    from mervid.core.model.beatgrid import Grid, Pin

    rng = np.random.default_rng(seed)
    times = np.cumsum(np.r_[0.5, 60 / tempo * (1 + rng.normal(0, 0.02, beats))])
    times = np.round(times * RATE) / RATE
    grid = Grid(tuple(Pin(float(t), float(b)) for t, b in zip(times, range(beats + 1), strict=True)))
    sound = np.zeros((int((times[-1] + 2) * RATE), 1), np.float32)
    sound[np.rint(times * RATE).astype(int)] = 0.8
    return grid, sound, times


def peak_at(channel: Any) -> float:
    """Where a channel is loudest, in frames, between them by a parabola."""
    i = int(np.abs(channel).argmax())
    a, b, c = np.abs(channel[i - 1 : i + 2])
    return i + 0.5 * (a - c) / (a - 2 * b + c)


def exact() -> None:
    """Clicks fall together."""
    from mervid.core.pairs.clock import lay
    from mervid.core.pairs.meeting import GLIDE, LEAVING, STEADY, Meeting
    from mervid.core.rendering.duet import Part, duet_of

    a, sound_a, beats_a = clicks(118, 330, 1)
    b, sound_b, beats_b = clicks(122, 330, 2)
    none = np.array([0.0, 1.0])
    print("clock     pitch      worst apart       peaks        map there and back  CPU share  DC")
    for clock, hold in itertools.product((LEAVING, STEADY, GLIDE), (False, True)):
        m = Meeting(40, 4, bars=64, clock=clock, tempo=119.3, hold_pitch=hold)
        t = lay(a, b, m, (len(sound_a) / RATE, len(sound_b) / RATE))
        duet = duet_of(
            t, Part(sound_a, RATE, none, none, beats_a), Part(sound_b, RATE, none, none, beats_b), split=True
        )
        first, count = int(t.start * RATE) - 2000, int((t.stop - t.start) * RATE) + 4000
        started = time.process_time()
        y = np.concatenate([duet.read(first + i, 1024) for i in range(0, count, 1024)])
        cpu = (time.process_time() - started) / (count / RATE)
        apart, peaks = [], []
        for beat in a.time_at(m.at + np.arange(256)):
            p = int(float(t.leaving.to_mix(beat)) * RATE) - first
            near = y[p - 1500 : p + 1500]
            apart.append(peak_at(near[:, 1]) - peak_at(near[:, 0]))
            peaks.append(np.abs(near).max(axis=0))
        there = np.linspace(0, t.length, 5000)
        back = max(np.abs(one.to_mix(one.to_own(there)) - there).max() for one in (t.leaving, t.coming))
        worst = np.abs(apart).max()
        level = f"{np.min(peaks):.3f}-{np.max(peaks):.3f}"
        print(
            f"{clock:9} {'held' if hold else 'varispeed':9} {worst:6.2f} frames {1000 * worst / RATE:6.3f} ms  {level} "
            f"{back:14.1e} s {cpu:12.3f} {np.abs(y.mean(axis=0)).max():8.1e}"
        )
    _mixed(a, b, beats_a, beats_b)


def _mixed(a: Any, b: Any, beats_a: Any, beats_b: Any) -> None:
    """What mixing stereo costs, with bands and without, and how high the sum of two full recordings goes."""
    from mervid.core.pairs.clock import lay
    from mervid.core.pairs.meeting import STEADY, Meeting
    from mervid.core.rendering.duet import Part, duet_of

    rng = np.random.default_rng(0)
    noise = [np.clip(rng.normal(0, 0.25, (170 * RATE, 2)), -1, 1).astype(np.float32) for _ in (0, 1)]
    none = np.array([0.0, 1.0])
    for hold, swap in itertools.product((False, True), (None, 16)):
        m = Meeting(40, 4, bars=64, clock=STEADY, tempo=119.3, hold_pitch=hold, swap=swap)
        t = lay(a, b, m, (170.0, 170.0))
        duet = duet_of(
            t, Part(noise[0], RATE, none, none, beats_a, -12.0), Part(noise[1], RATE, none, none, beats_b, -12.0)
        )
        first, blocks = int(t.start * RATE), []
        started, longest, peak = time.process_time(), 0.0, 0.0
        for i in range(first, first + 40 * RATE, 2048):
            began = time.perf_counter()
            block = duet.read(i, 2048)
            longest, peak = max(longest, time.perf_counter() - began), max(peak, float(np.abs(block).max()))
            blocks.append(block)
        cpu = (time.process_time() - started) / 40
        y = np.concatenate(blocks)
        how = f"{'held' if hold else 'varispeed'}{', bands' if swap else ''}"
        print(
            f"two stereo streams, {how}: CPU {cpu:.1%} of a core, longest block {1000 * longest:.0f} ms, "
            f"rms {y.std():.3f} (each {noise[0].std():.3f}), peak {peak:.2f}, DC {abs(y.mean()):.1e}"
        )


# pairs


def heard(job: tuple[str, str, bool]) -> tuple[str, Any, Any, Any, str] | None:
    """A recording as a side, by analysis alone or after the person; its true beats."""
    from mervid.core.character import describe
    from mervid.core.findings.recommendation import recommend
    from mervid.core.form import phrase_edits
    from mervid.core.model.preparation import CHECKED
    from mervid.core.pairs.side import Side

    warnings.simplefilter("ignore")
    folder, name, by_hand = job
    truth = json.loads((Path(folder) / f"{name}.json").read_text())
    beats, downs = np.array(truth["beats"]), np.array(truth["downbeats"])
    if truth.get("class") == "acapella" or len(beats) < 120:
        return None
    evidence, duration = evidence_of(folder, name)
    if by_hand:
        import attrs

        person = Person(evidence, duration, beats, downs)
        while len(person.actions) < MOST and person.step():
            pass
        p = attrs.evolve(person.p, readiness=CHECKED)
    else:
        p = recommend(evidence, duration)
    if p.grid is None:
        return None
    form = phrase_edits.form_of(p, evidence, duration)
    c = describe.describe(evidence, duration, p.grid, form)
    side = Side(name, p, evidence, duration, form, c.key, c.lufs, c.drive)
    return name, side, beats, downs, str(truth.get("class", "demo"))


def judged(a: Any, b: Any, true_a: Any, true_b: Any, free: bool) -> dict[str, Any] | None:
    """One pair: the best meeting (or first bars over last ones), what is foretold, and what the truth says, ms."""
    from mervid.core.errors import Refused
    from mervid.core.pairs import gear_clocks, proposals
    from mervid.core.pairs.judgement import judge
    from mervid.core.pairs.meeting import Meeting

    try:
        if free:
            m = proposals.propose(a, b, bars=BARS, most=1)[0].meeting
        else:
            index = int(a.grid.bar_index(a.grid.beat_at(min(a.duration, true_a[-1] + 0.2)))[0]) - BARS
            m = Meeting(float(a.grid.bar_start(index)), 0.0, BARS, level=proposals.level_of(a, b))
        whole = judge(a, b, m)
    except Refused:
        return None
    t, line, expected = whole.together, whole.line, whole.expected
    there, other = t.leaving.to_mix(true_a), t.coming.to_mix(true_b)
    there = there[(there > t.start - 0.05) & (there < t.stop - 0.05)]
    other = other[(other > t.start - 0.05) & (other < t.stop - 0.05)]
    if len(there) < 32 or len(other) < 32:
        return None
    apart = 1000 * np.abs(other[:, None] - there).min(axis=1)
    run = next(r for r in whole.runs if r.kind == gear_clocks.FIXED)
    # truth under one tempo a track, from a start that is right
    own_a = true_a[(true_a >= t.leaving.to_own(t.start) - 0.05) & (true_a < t.leaving.to_own(t.stop) - 0.05)]
    own_b = true_b[(true_b >= t.coming.to_own(t.start) - 0.05) & (true_b < t.coming.to_own(t.stop) - 0.05)]
    ratio = a.grid.tempo_overall() / b.grid.tempo_overall() * m.level
    fixed = 1000 * (
        (own_b - own_b[0]) / ratio - np.interp(np.arange(len(own_b)), np.arange(len(own_a)), own_a - own_a[0])
    )
    fixed = fixed[: min(len(own_a), len(own_b))]
    thumb = np.random.default_rng(zlib.crc32(f"{a.title} {b.title}".encode())).normal(0, THUMB_MS)
    return {
        "meeting": m,
        "true": float(np.percentile(apart, 95)),
        "foretold": expected.p95,
        "safe": expected.safe,
        "torn": line.p95 if line.p95 is not None else np.nan,
        "fixed": float(np.percentile(np.abs(fixed), 95)),
        "hand": float(np.percentile(np.abs(fixed + thumb), 95)),
        "held": float(run.bars or 0),
        "forgiven": line.forgiven,
    }


def mended(a: Any, b: Any, true_a: Any, true_b: Any, m: Any) -> tuple[float, int]:
    """What a person reaches who pulls beats in Rehearse: the 95th percentile in ms, and how many were pulled."""
    import attrs

    from mervid.core.errors import Refused
    from mervid.core.pairs import tying
    from mervid.core.pairs.clock import lay

    sides, tried = [a, b], set()
    for pulls in range(MOST_PULLS + 1):
        t = lay(sides[0].grid, sides[1].grid, m, (a.duration, b.duration))
        there, other = t.leaving.to_mix(true_a), t.coming.to_mix(true_b)
        inside = (other > t.start - 0.05) & (other < t.stop - 0.05)
        there = there[(there > t.start - 0.05) & (there < t.stop - 0.05)]
        other = other[inside]
        nearest = np.abs(other[:, None] - there).argmin(axis=1)
        apart = 1000 * np.abs(other - there[nearest])
        reached = float(np.percentile(apart, 95))
        if reached <= WITHIN_MS or pulls == MOST_PULLS:
            return reached, pulls
        for k in np.argsort(-apart).tolist():
            both = []
            for coming, mix, one in ((False, there[nearest[k]], t.leaving), (True, other[k], t.coming)):
                beat = float(np.round(t.clock.beat_at(mix)))
                tie = tying.by_hand(*sides, t, coming, float(mix), beat)
                if tie is not None and (coming, tie.beat) not in tried:
                    # let go on the attack beside the beat, or freely where that isn't the beat
                    time = float(one.to_own(mix))
                    off = 1000 * (float(mix) - float(t.clock.time_at(beat)))
                    both.append(attrs.evolve(tie, time=tie.time if abs(tie.time - time) < 0.005 else time, off=off))
            if both:
                break
        else:
            return reached, pulls
        tie = max(both, key=lambda x: abs(x.off))
        tried.add((tie.coming, tie.beat))
        side = sides[tie.coming]
        try:
            sides[tie.coming] = attrs.evolve(side, preparation=tying.tied(side.preparation, side.evidence, tie))
        except Refused:
            continue
    return reached, pulls


def pairs(folders: list[Path]) -> None:
    """Shares of pairs that hold."""
    jobs = [(str(f), p.stem) for f in folders for p in sorted(f.glob("*.json"))]
    print(f"{'':34} pairs  within {WITHIN_MS:.0f} ms  median  95 %   one tempo  by hand")
    kept: dict[str, list[dict[str, Any]]] = {}
    for by_hand in (False, True):
        tracks = [x for x in spread(heard, [(f, n, by_hand) for f, n in jobs]) if x is not None]
        tempo = {n: 60 / float(np.median(np.diff(t))) for n, _, t, _, _ in tracks}
        for free in (False, True):
            rows = []
            for one, two in itertools.permutations(tracks, 2):
                if abs(np.log(tempo[one[0]] / tempo[two[0]])) < 0.08:
                    row = judged(one[1], two[1], one[2], two[2], free)
                    if row is not None:
                        m = row.pop("meeting")
                        if by_hand:
                            row["mended"], row["pulls"] = mended(one[1], two[1], one[2], two[2], m)
                        rows.append(row | {"a": one[0], "b": two[0]})
            who = "after the person" if by_hand else "analysis alone"
            name = f"{who}, {'meeting chosen' if free else 'last bars, first bars'}"
            kept[name] = rows
            _print_pairs(name, rows)
            if by_hand:
                _print_mended(rows)
    OUT.mkdir(parents=True, exist_ok=True)
    (OUT / "pairs.json").write_text(json.dumps(kept))
    for name, rows in kept.items():
        _print_forecast(name, rows)


def _print_pairs(name: str, rows: list[dict[str, Any]]) -> None:
    true, fixed, hand = (np.array([r[k] for r in rows]) for k in ("true", "fixed", "hand"))
    print(
        f"{name:34} {len(rows):5}  {np.mean(true <= WITHIN_MS):12.3f}  {np.median(true):6.1f}  "
        f"{np.percentile(true, 95):5.0f}  {np.mean(fixed <= WITHIN_MS):9.3f}  {np.mean(hand <= WITHIN_MS):7.3f}"
    )


def _print_mended(rows: list[dict[str, Any]]) -> None:
    reached, pulls = (np.array([r[k] for r in rows]) for k in ("mended", "pulls"))
    some = pulls[pulls > 0]
    print(
        f"{'  and mended where they meet':34} {len(rows):5}  {np.mean(reached <= WITHIN_MS):12.3f}  "
        f"{np.median(reached):6.1f}  {np.percentile(reached, 95):5.0f}  in {len(some)} pairs beats were pulled"
        + (f", {np.median(some):.0f} (median), {some.max()} at most" if len(some) else "")
    )


def _print_forecast(name: str, rows: list[dict[str, Any]]) -> None:
    true, said, safe, forgiven = (np.array([r[k] for r in rows]) for k in ("true", "foretold", "safe", "forgiven"))
    fine = true < 40
    called = safe >= 0.95
    right = np.mean(true[called] <= forgiven[called]) if called.any() else np.nan
    print(
        f"forecast, {name}: correlation {np.corrcoef(true[fine], said[fine])[0, 1]:.2f} where beats are right "
        f"(of all, cut at 60 ms: {np.corrcoef(np.minimum(true, 60), np.minimum(said, 60))[0, 1]:.2f}), "
        f"bias {np.median(said - true):+.1f} ms; safe said of {called.mean():.2f}, right in {right:.3f}; "
        f"foretold within {WITHIN_MS:.0f} ms {np.mean(said <= WITHIN_MS):.2f}, "
        f"right in {np.mean(true[said <= WITHIN_MS] <= WITHIN_MS):.3f}"
    )


# the list


def whole_list(folders: list[Path]) -> None:
    """How long the pairs of a list take, in a process of their own over a library on the disk."""
    import tempfile
    from contextlib import closing

    from mervid.core.findings.recommendation import recommend
    from mervid.core.hearing.evidence import to_bytes
    from mervid.core.sound.decoding import Decoded
    from mervid.core.sound.waveform import WaveformMaker
    from mervid.jobs.pair_reports import PairReports, Question
    from mervid.store.library import Library

    with tempfile.TemporaryDirectory() as home:
        path = Path(home) / "library.sqlite"
        maker = WaveformMaker(RATE)
        maker.push(np.zeros((RATE, 1), np.float32))
        drawn = maker.finish().to_bytes()
        with closing(Library(path)) as library:
            for folder in folders:
                for p in sorted(folder.glob("*.json")):
                    evidence, duration = evidence_of(str(folder), p.stem)
                    track, _ = library.add(Path(home) / f"{p.stem}.ogg")
                    frames = int(duration * RATE)
                    library.set_decoded(track.id, Decoded(RATE, 2, frames, p.stem, "", True))
                    library.set_evidence(track.id, to_bytes(evidence), drawn, recommend(evidence, duration))
            ids = library.ids()
        every = [Question(a, b) for a in ids for b in ids if a != b][:1000]
        reports = PairReports(path)
        started, done, met = time.monotonic(), 0, 0
        reports.ask(every)
        while done < len(every):
            for answer in reports.poll():
                if isinstance(answer, str):
                    print(answer)
                    done = len(every)
                else:
                    done += len(answer)
                    met += sum(r.meeting is not None for _, r in answer)
            time.sleep(0.02)
        seconds = time.monotonic() - started
        reports.close()
        print(
            f"list: {len(every)} pairs of {len(ids)} tracks, {met} of which can meet, in {seconds:.1f} s: "
            f"{1000 * seconds / len(every):.1f} s for 1,000 (target 60)"
        )


# quality


def quality() -> None:
    """Tones, clicks and a drum loop at other speeds."""
    from mervid.core.rendering.held_pitch import HeldPitch
    from mervid.core.rendering.varispeed import between

    try:
        import pedalboard
    except ImportError:
        pedalboard = None
    seconds = 24
    t = np.arange(seconds * RATE) / RATE
    chord = sum(np.sin(2 * np.pi * f * t) for f in (220, 277.2, 329.6, 440, 554.4, 659.3, 880)) / 7
    tone = 0.5 * np.sin(2 * np.pi * 1000 * t)
    strokes = np.arange(0.5, seconds - 0.5, 0.5)
    click = np.zeros(len(t))
    click[np.rint(strokes * RATE).astype(int)] = 0.9
    print("speed  method             tone   chord   attack kept  pre-echo  in mono  click off")
    for ratio in (0.94, 0.97, 1.03, 1.06):
        methods: dict[str, Any] = {"held pitch": True, "varispeed": False}
        if pedalboard is not None:
            methods |= {"library, fine": "R3", "library, quick": "R2"}
        for name, how in methods.items():
            out = [_stretched(x, ratio, how, strokes, HeldPitch, between, pedalboard) for x in (tone, chord, click)]
            pitch = ratio if how is False else 1.0
            figures = [_tone_to_noise(out[0], [1000 * pitch])]
            figures.append(_tone_to_noise(out[1], [f * pitch for f in (220, 277.2, 329.6, 440, 554.4, 659.3, 880)]))
            kept, echo, off = _attacks(out[2], strokes / ratio)
            mono = 20 * np.log10(out[1].mean(axis=1).std() / np.sqrt((out[1] ** 2).mean()))
            print(
                f"{ratio:5.2f}  {name:16} {figures[0]:6.0f}  {figures[1]:6.0f} dB {kept:10.2f} {echo:10.0f} dB "
                f"{mono:7.2f} dB {off:7.2f} ms"
            )


def _stretched(x: Any, ratio: float, how: Any, strokes: Any, held: Any, between: Any, library: Any) -> Any:
    """A sound `ratio` times faster, (n, 2)."""
    stereo = np.stack([x, x], axis=1).astype(np.float32)
    if how is False:
        return between(stereo, np.arange(int(len(x) / ratio) - 64) * ratio)
    if how is True:
        ends = np.array([0.0, len(x) / RATE])
        one = held(stereo, RATE, RATE, ends, ends / ratio, strokes)
        return np.concatenate([one.read(i, 8192) for i in range(0, int(len(x) / ratio) - 8192, 8192)])
    return library.time_stretch(stereo.T, RATE, stretch_factor=ratio, high_quality=how == "R3").T


def _tone_to_noise(y: Any, pitches: list[float]) -> float:
    y = y[2 * RATE : 18 * RATE, 0]
    power = np.abs(np.fft.rfft(y * np.blackman(len(y)))) ** 2
    f = np.fft.rfftfreq(len(y), 1 / RATE)
    inside = np.zeros(len(f), bool)
    for pitch in pitches:
        inside |= np.abs(f - pitch) < 5
    return float(10 * np.log10(power[inside].sum() / power[~inside].sum()))


def _attacks(y: Any, there: Any) -> tuple[float, float, float]:
    """Peak kept, energy in the 20 ms before a click against the click, dB, and how far off it is, ms at most."""
    kept, echo, off = [], [], []
    for at in there[2:-3]:
        p = round(at * RATE)
        near = np.abs(y[p - 3000 : p + 3000, 0])
        i = int(near.argmax())
        kept.append(near[i] / 0.9)
        echo.append((near[max(0, i - 882) : i - 10] ** 2).sum() / (near[i - 10 : i + 200] ** 2).sum() + 1e-12)
        off.append(abs(i - 3000 - (at * RATE - p)) / RATE * 1000)
    return float(np.median(kept)), float(10 * np.log10(np.median(echo))), float(np.max(off))


def main() -> int:
    """Run what is asked for."""
    parts = ("exact", "quality", "list", "pairs", "sound")
    wanted = [a for a in sys.argv[1:] if a in parts] or [p for p in parts if p != "sound"]
    given = [Path(a) for a in sys.argv[1:] if a not in parts]
    folders = given or [f for f in (ROOT.parent / "shared/bench/items",) if f.exists()] or [ROOT / "mervid/demo/tracks"]
    if "exact" in wanted:
        exact()
    if "quality" in wanted:
        quality()
    if "list" in wanted:
        whole_list(folders)
    if "pairs" in wanted:
        pairs(folders)
    if "sound" in wanted:
        import sounding

        sounding.run(5.0, two=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
