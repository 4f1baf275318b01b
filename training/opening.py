"""What the network of `mervid.core.hearing.opening` learns: of the first beats of takes, which belong to the music."""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import beat_net, beat_tracking, opening
from training.beat_net import Task, yes_or_no
from training.heard_takes import read

Singles = NDArray[np.float32]
LATE = 0.07
"""s by which a beat may lie before the first true downbeat and be it."""
STEPS = 900


@attrs.frozen(eq=False)
class First:
    """The first beats of a take: (n, `opening.COUNT`) figures and (n,) 1 from bar 1 on."""

    figures: Singles
    begun: Singles


def lesson(path: Path | None) -> First | None:
    """The beginning of a take as it is counted and barred by the networks that are there."""
    if path is None:
        return None
    take = read(path)
    if len(take.downbeats) < 2 or len(take.beats) < beat_net.LEAST:
        return None
    count = beat_tracking.count(take.ear, take.attack, take.duration, seen=take.seen)
    whole = opening.barred(count.ear, take.attack, take.seen, count.times)
    if whole is None:
        return None
    rows = opening.figures(count.ear, take.attack, whole)
    return First(rows, (whole.times[: len(rows)] >= take.downbeats[0] - LATE).astype(np.float32))


def task(lessons: list[First]) -> Task:
    """What is learned, beat by beat."""
    return Task(
        [one.figures for one in lessons],
        [one.begun for one in lessons],
        [np.ones_like(one.begun) for one in lessons],
        dilations=(1, 2, 4, 8),
        steps=STEPS,
        loss=yes_or_no(),
    )
