"""A recording as a side of a pair without a library: heard, and its sound in a file that goes when it is done."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ..core.character import describe
from ..core.errors import Refused
from ..core.findings.recommendation import recommend
from ..core.form import phrase_edits
from ..core.hearing import analysis
from ..core.pairs.side import Side
from ..core.sound import decoding
from ..core.sound.decoding import Decoded, Kept
from ..core.sound.names import shown
from . import pcm


def hear(path: Path, progress: Callable[[float], None] = lambda share: None) -> Side:
    """A recording as analysis proposes it.

    Raises
    ------
    AudioError
        It can't be read.
    Refused
        No beats are heard in it.
    """
    facts, evidence = analysis.analyse(path, progress=progress)
    p = recommend(evidence, facts.duration)
    title = Path(shown(path)).stem
    if p.grid is None:
        raise Refused(f"{shown(path)}: no beats could be heard in it.")
    form = phrase_edits.form_of(p, evidence, facts.duration)
    c = describe.describe(evidence, facts.duration, p.grid, form)
    return Side(title, p, evidence, facts.duration, form, c.key, c.lufs, c.drive)


def sound(path: Path, folder: Path) -> tuple[Kept, Decoded]:
    """The samples of a recording as a memory map of a file in `folder`."""
    writer = pcm.Writer(folder)
    try:
        facts = decoding.decode(decoding.probe(path), writer.push)
    except BaseException:
        writer.drop()
        raise
    writer.keep(facts.identity)
    samples = pcm.load(folder, facts.identity, facts.frames)
    assert samples is not None
    return samples, facts
