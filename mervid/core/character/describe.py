"""All that lists show of what was heard in a track, as one value."""

from __future__ import annotations

import attrs
import numpy as np

from ..hearing.evidence import Evidence
from ..model.beatgrid import Grid
from ..model.form import Form
from ..sound import loudness
from . import drive, fingerprint, key


@attrs.frozen
class Character:
    """Key with its chance and the second best, drive and its course, loudness (LUFS, dBTP), fingerprint, form."""

    key: str = ""
    key_chance: float = 0.0
    second: str = ""
    second_chance: float = 0.0
    drive: float | None = None
    course: bytes = b""
    lufs: float | None = None
    true_peak: float | None = None
    print: bytes = b""
    form: str = ""


def describe(evidence: Evidence, duration: float, grid: Grid | None = None, form: Form | None = None) -> Character:
    """What a track that lasts `duration` s is like."""
    pitches = evidence.pitches if evidence.pitches.any() else key.pitches_of_chroma(evidence.chroma.astype(float))
    found = key.estimate(pitches)
    pushed = drive.of(evidence, duration)
    level = evidence.level or _level_of(evidence)
    out = Character(
        drive=pushed.whole,
        course=drive.to_bytes(pushed.course),
        lufs=level.lufs if level else None,
        # of what was heard before peaks were measured it isn't known
        true_peak=evidence.level.true_peak if evidence.level else None,
        print=fingerprint.of(evidence),
        form=form_line(grid, form),
    )
    if found is None:
        return out
    return attrs.evolve(
        out,
        key=found.key.name,
        key_chance=round(found.chance, 3),
        second=found.second.name,
        second_chance=round(found.second_chance, 3),
    )


def _level_of(evidence: Evidence) -> loudness.Level | None:
    """The whole by its stretches of three seconds, where it was heard before the whole was measured."""
    loud = evidence.loudness[evidence.loudness > loudness.SILENCE].astype(float)
    if not len(loud):
        return None
    power = 10 ** (loud / 10)
    kept = power[10 * np.log10(power) > 10 * np.log10(power.mean()) - 10]
    return loudness.Level(round(float(10 * np.log10(kept.mean())), 1), 0.0)


def form_line(grid: Grid | None, form: Form | None) -> str:
    """Letter and bars of each phrase: 'A:8 B:16 A2:8'; empty where there is no form."""
    if grid is None or form is None:
        return ""
    edges = [*(q.start for q in form.phrases), form.end]
    bars, _ = grid.bar_index(np.array(edges) + 1e-6)
    return " ".join(
        f"{q.letter}:{max(1, int(b - a))}" for q, a, b in zip(form.phrases, bars[:-1], bars[1:], strict=True)
    )
