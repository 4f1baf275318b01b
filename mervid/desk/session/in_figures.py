"""What the painted pictures show, in figures: tables for eyes that see them badly and for screen readers."""

from __future__ import annotations

import itertools
import math

import attrs
import numpy as np

from ...core.figures import share
from ...core.form import phrase_edits
from ...core.model.beatgrid import Grid
from ...core.pairs import gear_clocks
from ..theme import figures
from ..theme.tr import tr
from .contact_sheet import ContactSheet
from .open_track import OpenTrack
from .pairing import Pairing

Rows = tuple[tuple[str, ...], ...]


@attrs.frozen
class InFigures:
    """One table: what it is about, the heads of its columns, its rows; `times` leads from a row to an instant, s."""

    title: str
    heads: tuple[str, ...]
    rows: Rows
    times: tuple[float, ...] = ()

    @property
    def tsv(self) -> str:
        """As lines of values between tabs, the first one of heads."""
        return "\n".join("\t".join(row) for row in (self.heads, *self.rows)) + "\n"


def of_track(track: OpenTrack) -> list[InFigures]:
    """Fold and drift bar by bar, the phrase ladder, and the cues of the open track."""
    p = track.preparation
    if p.grid is None or track.row is None:
        return []
    return [_bars(track, p.grid), *_phrases(track, p.grid), _cues(track, p.grid)]


def _bars(track: OpenTrack, grid: Grid) -> InFigures:
    found, duration = track.drift(), track.row.duration if track.row is not None else 0.0
    first = int(grid.bar_index(float(grid.beat_at(0.0)) + 1e-6)[0])
    last = int(grid.bar_index(float(grid.beat_at(duration)) - 1e-6)[0])
    starts = grid.bar_start(np.arange(first, last + 2))
    times = grid.time_at(starts)
    rows = []
    for k, (a, b) in enumerate(itertools.pairwise(times.tolist())):
        beats = float(starts[k + 1] - starts[k])
        error = "–"
        if found is not None:
            here = (found[0].times >= a) & (found[0].times < b)
            errors = found[0].error[here]
            if len(errors):
                worst = float(errors[np.abs(errors).argmax()])
                error = f"{figures.ms(abs(worst))} {'late' if worst > 0 else 'early'}"
        name = phrase_edits.place_of(grid, float(starts[k]), track.preparation.origin).split(".")[0]
        rows.append((name, figures.clock(a, digits=3), f"{60 * beats / (b - a):.2f}", f"{beats:.0f}", error))
    heads = ("Bar", tr("Begins at"), "BPM", "Beats", tr("Heard farthest from the grid"))
    return InFigures(tr("Bars"), heads, tuple(rows), tuple(times[:-1].tolist()))


def _phrases(track: OpenTrack, grid: Grid) -> list[InFigures]:
    form = track.form
    if form is None:
        return []
    ends = [*(q.start for q in form.phrases[1:]), form.end]
    rows, times = [], []
    for q, end in zip(form.phrases, ends, strict=True):
        bars = int(grid.bar_index(end - 1e-3)[0]) - int(grid.bar_index(q.start + 1e-3)[0]) + 1
        at = float(grid.time_at(q.start))
        section = tr("goes on") if q.joins else "begins"
        sure = tr("by hand") if q.hand else share(q.chance)
        place = phrase_edits.place_of(grid, q.start, track.preparation.origin)
        rows.append((place, figures.clock(at), str(bars), q.role, q.name, sure, section, q.reason))
        times.append(at)
    heads = ("Bar.beat", tr("Begins at"), "Bars", "Role", "Letter", "Sure", "Section", "Why")
    return [InFigures(tr("Phrases"), heads, tuple(rows), tuple(times))]


def _cues(track: OpenTrack, grid: Grid) -> InFigures:
    p = track.preparation
    cues = sorted(p.cues, key=lambda c: c.at(grid))
    rows = tuple(
        (
            "" if c.slot is None else str(c.slot + 1),
            c.name,
            c.role,
            phrase_edits.place_of(grid, float(grid.beat_at(c.at(grid))), p.origin),
            figures.clock(c.at(grid), digits=3),
            c.kind,
            tr("{0} bars").format(c.bars) if c.bars else "",
        )
        for c in cues
    )
    heads = ("Slot", "Name", "Role", "Bar.beat", "Time", "Kind", "Loop")
    return InFigures(tr("Cues"), heads, rows, tuple(c.at(grid) for c in cues))


def of_sheet(sheet: ContactSheet) -> list[InFigures]:
    """The contact sheet: each track with the cues that it would get, and what is in doubt."""
    tracks, flags = [], []
    for x in sheet.seen:
        left = sheet.left.get(x.track, frozenset())
        state = tr("taken away") if x.track in sheet.out else tr("fine") if x.track in sheet.fine else ""
        placed = [f for f in x.flags if f.key not in left]
        tracks.append((x.title, str(len(placed)), x.why, state))
        for f in x.flags:
            sure = share(f.chance)
            flags.append((x.title, f.cue.name, f.cue.role, f.at, sure, tr("left out") if f.key in left else ""))
    if not tracks:
        return []
    return [
        InFigures(tr("Tracks"), (tr("Title"), tr("Cues"), tr("In doubt"), tr("You said")), tuple(tracks)),
        InFigures(
            tr("Cues"),
            (tr("Title"), tr("Name"), tr("Role"), tr("Bar.beat"), tr("Sure"), tr("You said")),
            tuple(flags),
        ),
    ]


def of_pair(pairing: Pairing) -> list[InFigures]:
    """The tear line bar by bar, what gear makes of it, and the places that were proposed."""
    judged, leaving, coming = pairing.judged, pairing.leaving, pairing.coming
    if judged is None or leaving is None or coming is None:
        return []
    met = judged.together
    bars = met.meeting.bars
    p95, worst = judged.line.by_bar(bars)
    per_bar = met.beats / bars
    times = [float(met.clock.time_at(met.clock.beat_at(met.start) + k * per_bar)) for k in range(bars)]
    apart = []
    for k in range(bars):
        here = judged.line.apart[judged.line.bars == k]
        side = "" if not len(here) else tr("coming late") if float(np.median(here)) > 0 else tr("coming early")
        apart.append((str(k + 1), figures.clock(times[k], digits=1), _ms(p95[k]), _ms(worst[k]), side))
    gear = [
        (gear_clocks.NAMES[r.kind], "–" if r.bars is None else str(r.bars), figures.ms(r.p95), figures.ms(r.end))
        for r in judged.runs
    ]
    places = [(str(k), p.words, str(p.meeting.bars)) for k, p in enumerate(pairing.proposals, 1)]
    return [
        InFigures(
            tr("Bar by bar"),
            (tr("Bar"), tr("In the mix"), tr("95 % within"), tr("Worst"), tr("Which")),
            tuple(apart),
            tuple(times),
        ),
        InFigures(
            tr("Gear"),
            (tr("Kind of gear"), tr("Bars together"), tr("95 % within"), tr("Apart at the end")),
            tuple(gear),
        ),
        InFigures(tr("Places proposed"), ("", tr("Why"), tr("Bars")), tuple(places)),
    ]


def _ms(value: float) -> str:
    return tr("nothing heard") if math.isnan(value) else figures.ms(float(value))
