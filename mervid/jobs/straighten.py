"""A recording straightened into a file, heard again, and told in figures before and after."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import attrs
import numpy as np

from ..core.arrays import Floats
from ..core.errors import MervidError, Refused
from ..core.figures import faster
from ..core.form import phrase_edits
from ..core.hearing import analysis
from ..core.hearing.evidence import Evidence
from ..core.maths.piecewise import piecewise
from ..core.model.beatgrid import Grid
from ..core.model.preparation import DRAFT, Preparation
from ..core.pairs.side import STRUCK, Side
from ..core.progress import within
from ..core.rendering import straightening
from ..core.rendering.straightening import Straight, Wish
from ..core.rendering.whole import Whole
from ..core.sound import decoding
from ..core.sound.decoding import Decoded
from ..core.sound.sliding import Sliding
from ..formats import safe_file, straight_files, tag_writing
from ..formats.tag_writing import Marks

ENDING = ".straight"
_MAP_S = 2e-5
"""How exactly the written map follows the true one, s."""


@attrs.frozen
class Even:
    """How far attacks on beats lie from one steady line: the 95th percentile and the worst, ms; None for too few."""

    p95: float | None
    worst: float | None

    def __str__(self) -> str:
        return "too few beats heard" if self.p95 is None else f"95 % within {self.p95:.1f} ms, worst {self.worst:.1f}"


@attrs.frozen(eq=False)
class Outcome:
    """What became of a recording.

    Attributes
    ----------
    path : the file that was written
    laid : where everything falls in it
    gain : what it was turned down by, 1 for not at all
    true_peak : dBTP of the result; None where it couldn't be heard
    before, after : of the recording and of the result
    heard : the result as it was heard; None where nothing could be heard in it
    preparation : of the result: grid, cues, phrases and mix zones where they fall now
    remarks : what else is to be said
    """

    path: Path
    laid: Straight
    gain: float
    true_peak: float | None
    before: Even
    after: Even
    heard: tuple[Decoded, Evidence] | None
    preparation: Preparation
    remarks: tuple[str, ...]


_FEWEST = 8
_STRUCK_S = 0.04
"""An attack so close to a beat of the grid is that beat's."""


def evenness(onsets: Floats, grid: Grid) -> Even:
    """Attacks on beats against the steady line that fits them best; which beat one is, the grid says.

    Attacks, and not the beats that hearing makes of them: it smoothes those of a machine.
    """
    if not len(onsets):
        return Even(None, None)
    first, last = np.ceil(float(grid.beat_at(onsets[0]))), np.floor(float(grid.beat_at(onsets[-1])))
    beats = np.arange(first, last + 1)
    at = np.asarray(grid.time_at(beats))
    i = np.clip(np.searchsorted(onsets, at), 1, len(onsets) - 1) if len(onsets) > 1 else np.zeros(len(at), int)
    near = np.where(np.abs(onsets[i - 1] - at) < np.abs(onsets[i] - at), onsets[i - 1], onsets[i])
    struck = np.abs(near - at) <= _STRUCK_S
    if struck.sum() < _FEWEST:
        return Even(None, None)
    slope, start = np.polyfit(beats[struck], near[struck], 1)
    off = np.abs(near[struck] - start - slope * beats[struck]) * 1000
    return Even(float(np.percentile(off, 95)), float(off.max()))


def lay(side: Side, wish: Wish) -> Straight:
    """Where everything of a track falls under a wish. Raises `Refused`."""
    e = side.evidence
    swing = None
    if not wish.keep_swing and e is not None:
        swing = straightening.swing_of(e.onset_times, e.onset_strengths.astype(float), side.grid)
    waves = e.waves if e is not None and not wish.hold_pitch else ()
    return straightening.lay(side.grid, wish, side.duration, zones=side.preparation.mix_zones, waves=waves, swing=swing)


def proposed(side: Side) -> Wish:
    """What is proposed: the nearest whole number; a record's pitch goes with the speed, a drummer's is held."""
    held = side.evidence is None or side.evidence.sway is None
    return Wish(straightening.proposed_tempo(side.grid), hold_pitch=held)


def write(
    side: Side,
    source: Path,
    target: Path,
    wish: Wish,
    *,
    turn_down: bool = True,
    sources: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> Outcome:
    """Straighten `source` into `target`, and hear what was written.

    Raises
    ------
    Refused, AudioError, FormatError, Cancelled, OSError
        See `straightening.lay` and `straight_files.write`.
    """
    laid = lay(side, wish)
    found = decoding.probe(source)
    if found.channels > 2:
        raise Refused(f"{side.title} has {found.channels} channels; straightened it would keep only two of them.")
    rate = found.rate
    prepared = carried(side, laid)
    sound = _sound(side, source, laid, found)

    def dress(part: Path) -> None:
        tag_writing.copy_words(source, part, _words(wish), _marks(prepared, laid))

    written = straight_files.write(
        target,
        sound,
        sound().frames,
        rate,
        channels=min(2, found.channels),
        bits=straight_files.bits_of(source),
        turn_down=turn_down,
        dress=dress,
        sources={source, *sources},
        progress=within(progress, 0.0, 0.6),
        stop=stop,
    )
    before = evenness(_attacks(side.evidence), side.grid)
    remarks = []
    if written.gain < 1:
        remarks.append(f"turned down by {-20 * np.log10(written.gain):.2f} dB, so that nothing clips")
    if abs(laid.hardest) > straightening.EASY:
        remarks.append(f"runs up to {faster(laid.hardest)} than played")
    try:
        again = analysis.analyse(target, progress=within(progress, 0.6, 1.0))
    except MervidError as e:
        remarks.append(f"couldn't be heard again: {e}")
        return Outcome(target, laid, written.gain, None, before, Even(None, None), None, prepared, tuple(remarks))
    peak = again[1].level.true_peak if again[1].level is not None else None
    after = evenness(_attacks(again[1]), laid.grid)
    return Outcome(target, laid, written.gain, peak, before, after, again, prepared, tuple(remarks))


def render(
    side: Side,
    source: Path,
    part: Path,
    *,
    bits: int,
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> None:
    """Straighten into a file that another gives its name, as proposed and without hearing it again.

    Raises what `write` raises.
    """
    laid = lay(side, proposed(side))
    found = decoding.probe(source)
    sound = _sound(side, source, laid, found)
    straight_files.fill(
        part,
        sound,
        sound().frames,
        found.rate,
        channels=min(2, found.channels),
        bits=bits,
        progress=progress,
        stop=stop,
    )


def _attacks(evidence: Evidence | None) -> Floats:
    """Strong onsets, s."""
    if evidence is None:
        return np.zeros(0)
    return evidence.onset_times[evidence.onset_strengths >= STRUCK]


def _sound(side: Side, source: Path, laid: Straight, found: decoding.Source) -> Callable[[], Whole]:
    """What begins the rendering anew each time it is called. Raises `Refused` where there is no sound."""
    frames = round(side.duration * found.rate)
    if frames < 1:
        raise Refused(f"{source.name} holds no sound.")
    return lambda: Whole(laid, Sliding(decoding.probe(source), frames), found.rate, side.attacks)


def carried(side: Side, laid: Straight) -> Preparation:
    """The preparation of the result: cues, phrases and mix zones where their sound lies now."""
    p = side.preparation
    cues = tuple(attrs.evolve(c, time=laid.to_result(c.time)) if c.time is not None else c for c in p.cues)
    zones = tuple((laid.to_result(a), laid.to_result(b)) for a, b in p.mix_zones)
    # what was told the hearing, and the places looked at, are of the other recording
    form = p.form or side.form
    return attrs.evolve(
        p, grid=laid.grid, cues=cues, mix_zones=zones, hints=(), seen=(), form=form, readiness=DRAFT, tempo_range=None
    )


def _words(wish: Wish) -> dict[str, str]:
    return {"tempo": f"{wish.tempo:.2f}".rstrip("0").rstrip(".")} if not wish.zones_only and wish.share == 1 else {}


def _marks(prepared: Preparation, laid: Straight) -> Marks:
    form = phrase_edits.form_of(prepared, None, laid.duration)
    assert prepared.grid is not None
    return tag_writing.marks_of(prepared.grid, form, prepared.cues, laid.duration)


# the account


def account(outcome: Outcome) -> dict[str, Any]:
    """All of it by plain names, for `STEM.straight.json`."""
    laid, wish = outcome.laid, outcome.laid.wish
    return {
        "tempo": wish.tempo,
        "first_downbeat": float(laid.grid.time_at(0.0)),
        "map": map_of(laid),
        "duration": laid.duration,
        "hold_pitch": wish.hold_pitch,
        "zones_only": wish.zones_only,
        "share": wish.share,
        "keep_swing": wish.keep_swing,
        "gain_db": round(20 * float(np.log10(outcome.gain)), 3),
        "true_peak_dbtp": outcome.true_peak,
        "before": attrs.asdict(outcome.before),
        "after": attrs.asdict(outcome.after),
    }


def map_of(laid: Straight) -> list[list[float]]:
    """Pairs of s in the recording and s in the result: every beat, and what lies between bends by 20 µs at most."""
    end = float(piecewise(laid.duration, laid.mix, laid.own))
    own = np.concatenate([laid.knots[:, 0], laid.own[:: 1 if laid.wish.hold_pitch else 10]])
    own = np.unique(np.concatenate([[0.0], own[(own > 0) & (own < end)], [end]]))
    own = own[np.concatenate([[True], np.diff(own) > 1e-6])]
    mix = piecewise(own, laid.own, laid.mix)
    if not laid.wish.hold_pitch:
        own, mix = _thinned(own, mix, laid.knots[:, 0])
    return [[round(float(a), 6), round(float(b), 6)] for a, b in zip(own, mix, strict=True)]


def _thinned(own: Floats, mix: Floats, beats: Floats) -> tuple[Floats, Floats]:
    """Without those points between beats that a straight line says as well."""
    keep = np.isin(np.round(own, 9), np.round(beats, 9))
    keep[[0, -1]] = True
    edges = np.flatnonzero(keep)
    for a, b in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
        line = np.interp(own[a : b + 1], own[[a, b]], mix[[a, b]])
        if np.abs(line - mix[a : b + 1]).max() > _MAP_S:
            keep[a : b + 1] = True
    return own[keep], mix[keep]


def write_account(path: Path, outcome: Outcome) -> None:
    """The account as JSON beside the sound."""
    text = json.dumps(account(outcome), ensure_ascii=False, allow_nan=False)
    safe_file.write(path, lambda f: f.write(text.encode()))


def heard_side(side: Side, grid: Grid) -> Side:
    """A side under another grid, such as a given list of beats; what hung on the old one is left behind."""
    p = Preparation(grid=grid, mix_zones=side.preparation.mix_zones)
    form = phrase_edits.form_of(p, side.evidence, side.duration)
    return attrs.evolve(side, preparation=p, form=form)
