"""An ear for voices alone: the general one goes on learning, from voices alone, talk, noise and music without drums.

The general ear was shown few of them, and is faint at their beats or on the wrong side of them. By the songs of
`singers` alone it would forget others, so voices and music without drums as `composer` makes them are among them.
Percussion and voice are not learned: by what the general ear says of these it is known whether this one is asked.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mervid.core.hearing import ear, voices

START = Path(__file__).with_name("round3.pt")
"""The general ear, as it was written into the product."""
RATE = 5e-4
SOME = 32
"""Takes by which the norms of an ear that learns on are set."""
TASKS = (1.0, 1.0, 0.0, 0.0, 0.0)
"""Of the answers of the ear those that are learned: beat and downbeat, and tempo with them."""


def lesson(path: Path, *, folder: Path) -> Path:
    """A take of `heard_takes.make`, in `folder` as `learn` reads it."""
    out = folder / path.name
    if not out.exists():
        none = np.zeros((0, 2))
        with np.load(path) as z:
            known = {name: z[name] for name in ("features", "beats", "downbeats", "sections", "family")}
        part = out.with_suffix(".part.npz")
        np.savez(part, **known, drums=none, voice=none, tasks=np.array(TASKS))
        part.replace(out)
    return out


def teach(takes: list[Path], *, work: Path, minutes: float, on: bool = False) -> Path:
    """Weights of an ear that learned from `takes`; until it is judged, it is as sure as the one that it came from.

    That is the general ear, or, if it is to learn `on`, the one of voices alone that is there.
    """
    import torch

    from training import export, learn

    folder, out = work / "voices", voices.theirs(ear.WEIGHTS)
    folder.mkdir(exist_ok=True)
    lessons = [lesson(path, folder=folder) for path in takes]
    start, sure = START, ear.load(out if on else ear.WEIGHTS).calibration
    if on:
        start = work / "ear_voices_before.pt"
        heard = [learn.seen(path) for path in lessons[:: max(1, len(lessons) // SOME)]]
        torch.save(export.restored(out, heard).state_dict(), start)
    export.export(learn.learn(folder, minutes=minutes, start=start, out=work / "ear_voices.pt", rate=RATE), out)
    export.calibrate(out, sure)
    return out
