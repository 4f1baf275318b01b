"""Teach where bars begin and where beats lie: `python -m training.beats --work FOLDER SOUNDFONT [SOUNDFONT ...]`.

Renders takes that the ear did not learn from, hears and follows them as the program does by the ear alone, and shows
small networks over the beats that were found: one kind learns which of them begin a bar, one by how many ms each is
off; with short takes with long beginnings besides, one learns which beats of a count and of its rivals are right, and
one with which beat the music begins. Of each kind three are made, and each stops
by a sixth of the takes that is kept from it. Then the same for voices alone, with an ear of their own besides
(`voice_ear`). What is made on the way is kept in FOLDER, and a second start goes on where the first ended. By takes
that nothing was learned from, the confidence of both ears is set anew.

With `--six-eighths`, `--drives` or `--fast` nothing of this is taught, but the network of rivals that is there learns
on by such takes, too; with `--worded` the ear and the networks of voices alone learn on.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import TypeVar

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import (
    bar_figures,
    bar_lines,
    beat_confidence,
    beat_net,
    beat_tracking,
    count_level,
    ear,
    places,
    rival_counts,
    voices,
)
from mervid.core.hearing.opening import WEIGHTS as OPENING
from training.beat_net import KEPT, Task, learn, learn_on, yes_or_no
from training.heard_takes import (
    BEGINNINGS,
    DRIVES,
    FAST,
    FIRST,
    NOISES,
    SIXES,
    TALK,
    VOICES,
    WORDED,
    make,
    nearest,
    read,
    sings_alone,
)
from training.judge import logistic
from training.sounds import present
from training.spread import spread

Singles = NDArray[np.float32]
T = TypeVar("T")
NEAR, NEAR_SUNG = 0.06, 0.1
"""s from a true beat within which it is the one that was found: a consonant may come long before its vowel."""
OUTSIDE = 0.15
LEAST = 0.8
"""Takes of which less of the beats was found, at their level, teach nothing."""
BEND = 0.3
"""Where the loss of a place turns from square to straight, in `places.UNIT`."""


@attrs.frozen(eq=False)
class Lesson:
    """Beats of a take as they were found.

    Attributes
    ----------
    bars, places : (n, figures) for each network
    begins : (n,) 1 where a bar begins
    off : (n,) by how many `places.UNIT` the true beat is later
    known : (n,) 1 where there is a true beat
    told : (n,) 1 where it is known whether a bar begins
    """

    bars: Singles
    places: Singles
    begins: Singles
    off: Singles
    known: Singles
    told: Singles


def lesson(path: Path | None, *, sung: bool = False) -> Lesson | None:
    """A take as the ear alone follows it; None where it has no beat, or is counted at another level than the truth.

    Parameters
    ----------
    sung : by the ear of voices alone, where there is one
    """
    if path is None:
        return None
    take = read(path, sung=sung)
    beats, downbeats = take.beats, take.downbeats
    alone = voices.alone(take.ear)
    found = beat_tracking.follow(take.ear, take.attack, take.duration)
    times = found.times
    if len(times) < beat_net.LEAST or not len(beats):
        return None
    true = nearest(beats, times)
    near = NEAR_SUNG if alone else NEAR
    known = np.abs(true - times) < near
    inside = (times > beats[0] - near) & (times < beats[-1] + near)
    if known.sum() < LEAST * max(int(inside.sum()), len(beats)):
        return None
    begins = known & (np.abs(nearest(downbeats, true) - true) < 1e-3)
    # what was counted in, said or struck before the music begins no bar of it, nor does what rings on after it
    told = known | (times < beats[0] - OUTSIDE) | (times > beats[-1] + OUTSIDE)
    on = found.steady.astype(float)
    read_places = places.sung_figures if alone else places.figures
    return Lesson(
        bar_figures.figures(take.ear, take.seen, times),
        read_places(take.ear, take.attack, take.seen, times, position=found.position, steady=on),
        begins.astype(np.float32),
        np.where(known, (true - times) / places.UNIT, 0).astype(np.float32),
        known.astype(np.float32),
        told.astype(np.float32),
    )


def bars(lessons: list[Lesson]) -> Task:
    """What the network of `bar_lines` learns."""
    return Task(
        [one.bars for one in lessons],
        [one.begins for one in lessons],
        [one.told for one in lessons],
        dilations=(1, 2, 4, 8, 16, 32),
        steps=1300,
        loss=yes_or_no(),
        parts=bar_figures.PARTS,
    )


def placing(lessons: list[Lesson]) -> Task:
    """What the network of `places` learns."""
    from torch.nn.functional import smooth_l1_loss

    return Task(
        [one.places for one in lessons],
        [one.off for one in lessons],
        [one.known for one in lessons],
        dilations=(1, 1, 2, 4),
        steps=1600,
        loss=partial(smooth_l1_loss, reduction="none", beta=BEND),
    )


Known = tuple[NDArray[np.float64], NDArray[np.float64], tuple[float, float] | None]


def confidence(path: Path | None, *, sung: bool = False) -> Known | None:
    """Of a take followed with both networks: figures of its beats, which are right, and the margin of its bars.

    The last is (margin, 1 where the bars are right), None where the beats themselves aren't.

    Parameters
    ----------
    sung : by the ear of voices alone, of which only takes of such are judged
    """
    import mir_eval

    if path is None:
        return None
    take = read(path, sung=sung)
    if sung and not voices.alone(take.ear):
        return None
    found = beat_tracking.follow(take.ear, take.attack, take.duration, seen=take.seen)
    if len(found.times) < beat_net.LEAST or len(take.beats) < beat_net.LEAST:
        return None
    right = np.zeros(len(found.times))
    right[[j for _, j in mir_eval.util.match_events(take.beats, found.times, 0.02)]] = 1
    figures = beat_confidence.figures(found.ear, take.attack, found.times, found.steady)
    if mir_eval.beat.f_measure(take.beats, found.times, 0.07) < LEAST:
        return figures, right, None
    bars = mir_eval.beat.f_measure(take.downbeats, found.times[found.position == 0], 0.07)
    return figures, right, (found.margin, float(bars > LEAST))


def calibrate(weights: Path, judged: Iterable[Known | None]) -> None:
    """Set how sure the ear in `weights` is of beats and bars by takes from which nothing was learned."""
    from training import export

    known = [one for one in judged if one is not None]
    old = ear.load(weights).calibration
    sure = logistic(np.concatenate([one[0] for one in known]), np.concatenate([one[1] for one in known]))
    bars = np.array([one[2] for one in known if one[2] is not None])
    phase = logistic(bars[:, :1], bars[:, 1])
    export.calibrate(weights, np.concatenate([sure, old[len(sure) : -len(phase)], phase]))


def _teach(path: Path, task: Task) -> None:
    print(path.name, flush=True)
    np.savez_compressed(path, **learn(task))


def _teach_on(path: Path, task: Task) -> None:
    print(path.name, flush=True)
    with np.load(path) as z:
        known = dict(z)
    np.savez_compressed(path, **learn_on(task, known))


def _kind(path: Path) -> tuple[bool, bool]:
    """Whether a take is of voices alone, and whether hardly anything is struck in it."""
    said = read(path).ear
    return voices.alone(said), bool(said.drums.mean() < voices.STRUCK)


def _levels(path: Path) -> tuple[NDArray[np.float64], int] | None:
    from training import level

    take = read(path)
    return level.lesson(take.ear, take.beats)


def _by_both(takes: list[Path]) -> list[Lesson]:
    """Lessons of voices alone by the general ear and by their own."""
    # one after the other, as each keeps all processors busy
    general = list(spread(lesson, takes))
    return apart(zip(general, spread(partial(lesson, sung=True), takes), strict=True))


def apart(lessons: Iterable[tuple[T | None, ...]]) -> list[T]:
    """The lessons of each take, those of one take a multiple of `KEPT` from each other.

    So what is kept from a network is kept from it in every form. Some of the last are left out for it.
    """
    told = [forms for forms in lessons if any(one is not None for one in forms)]
    kept = [[one for forms in told[k::KEPT] for one in forms if one is not None] for k in range(KEPT)]
    return [one for row in zip(*kept, strict=False) for one in row]


def teach(songs: list[Path], begin: list[Path], *, sung: bool = False) -> None:
    """Teach all networks over beats by `songs`, two of them by beginnings, too; if `sung`, those of voices alone.

    Their bars and places are learned from what either ear heard.
    """
    from training import opening, rivals

    def to(path: Path) -> Path:
        return voices.theirs(path) if sung else path

    lessons = _by_both(songs) if sung else [one for one in spread(lesson, songs) if one is not None]
    print(f"{len(lessons)} takes, {sum(len(one.begins) for one in lessons)} beats", flush=True)
    for path, task in ((bar_lines.WEIGHTS, bars), (places.WEIGHTS, placing)):
        _teach(to(path), task(lessons))
    counts = [one for one in spread(rivals.lesson, songs + begin) if one is not None]
    _teach(to(rival_counts.WEIGHTS), rivals.task(counts))
    # counted and barred by what was just learned, in processes that read it anew
    firsts = [one for one in spread(opening.lesson, songs + begin) if one is not None]
    _teach(to(OPENING), opening.task(firsts))


def teach_on(songs: list[Path]) -> None:
    """Let the network of rivals that is there learn on by `songs`."""
    from training import rivals

    _teach_on(rival_counts.WEIGHTS, rivals.task([one for one in spread(rivals.lesson, songs) if one is not None]))


def teach_voices_on(bare: list[Path], alone: list[Path], *, work: Path, minutes: float) -> None:
    """Let the ear of voices alone learn on by takes in which nothing is struck, and what tells their bars by voices.

    What tells places is learned anew. Rivals stay: those that learned on told right counts from wrong ones less well.
    """
    from training import voice_ear

    voice_ear.teach(bare, work=work, minutes=minutes, on=True)
    lessons = _by_both(alone)
    _teach(voices.theirs(places.WEIGHTS), placing(lessons))
    _teach_on(voices.theirs(bar_lines.WEIGHTS), bars(lessons))


def main() -> int:
    """Render, hear, learn, write."""
    parser = argparse.ArgumentParser(prog="python -m training.beats", description=__doc__.split("\n")[0])
    parser.add_argument("soundfonts", nargs="+", type=present)
    parser.add_argument("--work", type=Path, required=True)
    parser.add_argument("--takes", type=int, default=1600, help="takes to learn from")
    parser.add_argument("--beginnings", type=int, default=850, help="short takes besides, to learn beginnings from")
    parser.add_argument(
        "--voices", type=int, default=540, help="takes of voices alone; a ninth as many each of talk, noise"
    )
    parser.add_argument("--minutes", type=float, default=42.0, help="time to train the ear of voices alone for")
    for kind in ("six-eighths", "drives", "fast"):
        parser.add_argument(
            f"--{kind}",
            type=int,
            default=0,
            help="so many more takes of this kind, by which the network of rivals that is there learns on, and no more",
        )
    parser.add_argument(
        "--worded",
        type=int,
        default=0,
        help="so many more voices alone that sing words, by which, with the others, the ear and the networks of voices"
        " alone that are there learn on, and no more",
    )
    parser.add_argument(
        "--sought",
        type=int,
        default=0,
        help="so many scores more are looked through for voices alone, which are learned from, too",
    )
    parser.add_argument(
        "--judged", type=int, default=200, help="takes of either kind kept back, by which confidence is set"
    )
    options = parser.parse_args()
    options.work.mkdir(parents=True, exist_ok=True)
    work = partial(make, folder=options.work, soundfonts=tuple(options.soundfonts))

    def made(first: int, count: int) -> list[Path]:
        return [p for p in spread(work, range(first, first + count), most_each=120) if p is not None]

    songs, begin = made(FIRST, options.takes), made(BEGINNINGS, options.beginnings)
    more = ((SIXES, options.six_eighths), (DRIVES, options.drives), (FAST, options.fast))
    if any(count for _, count in more):
        teach_on(songs + begin + [p for first, count in more for p in made(first, count)])
        return 0
    beatless = options.voices // 9
    sung = made(VOICES, options.voices) + made(TALK, beatless) + made(NOISES, beatless)
    last = FIRST + options.takes + options.judged
    beyond = range(last, last + options.sought)
    found = [seed for seed, sings in zip(beyond, spread(sings_alone, beyond), strict=True) if sings]
    shapeless = [p for p in spread(work, found, most_each=120) if p is not None]
    every = songs + begin + sung + shapeless + made(WORDED, options.worded)
    kinds = list(zip(every, spread(_kind, every), strict=True))
    alone = [path for path, (sings, _) in kinds if sings]
    bare = [path for path, (_, quiet) in kinds if quiet]
    half = options.judged // 2
    judged = made(VOICES + options.voices, options.judged - half) + made(WORDED + options.worded, half)
    if options.worded:
        teach_voices_on(bare, alone, work=options.work, minutes=options.minutes)
    else:
        from training import level, voice_ear

        theirs = set(alone)
        teach([p for p in songs if p not in theirs], [p for p in begin if p not in theirs])
        level.learn(voices.theirs(count_level.WEIGHTS), [one for one in spread(_levels, alone) if one is not None])
        voice_ear.teach(bare, work=options.work, minutes=options.minutes)
        teach(alone, [], sung=True)
        calibrate(ear.WEIGHTS, spread(confidence, made(FIRST + options.takes, options.judged)))
    calibrate(voices.theirs(ear.WEIGHTS), spread(partial(confidence, sung=True), judged))
    return 0


if __name__ == "__main__":
    sys.exit(main())
