"""A disk that is full at any write of a session, and pages of a library that hold noise."""

from __future__ import annotations

import errno
import hashlib
import json
import random
import resource
import shutil
import signal
import time
from collections.abc import Callable
from pathlib import Path

import attrs

from bench.faulting import child
from bench.faulting.cases import BAD, DAMAGED, REFUSED, RIGHT, Outcome
from bench.faulting.imports import prepared
from bench.faulting.kills import LIBRARY, SONG, lay_out
from mervid.core.edits import track_edits
from mervid.core.errors import MervidError
from mervid.core.model.preparation import Preparation
from mervid.core.sound import decoding
from mervid.formats import exchange
from mervid.formats.exchange import Subject
from mervid.jobs import pcm
from mervid.store import care, salvage
from mervid.store.library import Library

MOST_BYTES = 400_000
"""A file may grow to something up to here: each write of a session hits the wall in some case."""
PAGE = 4096


def _session(home: Path) -> str:
    """Edit, decode, export, copy, each until it can't be done any more; what became of each, in words."""
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    library, acknowledged = Library(home / LIBRARY), -1
    ends: dict[str, str] = {}

    def until_full(name: str, act: Callable[[int], None], most: int) -> None:
        nonlocal acknowledged
        for n in range(most):
            try:
                act(n)
            except MervidError as e:
                ends[name] = str(e)
                return
            except OSError as e:
                # the window words these itself
                ends[name] = f"OSError {errno.errorcode.get(e.errno or 0)}"
                return

    def edit(n: int) -> None:
        nonlocal acknowledged
        library.edit(1, "Write notes", attrs.evolve(prepared(), notes=f"state {n} " + "x" * 3000))
        acknowledged = n

    def decode(n: int) -> None:
        writer = pcm.Writer(home / "cache")
        try:
            facts = decoding.decode(decoding.probe(home / SONG), writer.push)
        except BaseException:
            writer.drop()
            raise
        writer.keep(facts.identity)

    def export(n: int) -> None:
        notes = attrs.evolve(prepared(), notes="y" * 60_000 * n)
        exchange.export(Subject(notes, None, "Lantern Tow", 66.0, home / SONG, 44_100), home / "out.jams")

    def copy(n: int) -> None:
        exchange.export(Subject(prepared(), None, "Lantern Tow", 3.0, home / SONG, 44_100), home / "out.cues.wav")

    until_full("edit", edit, 200)
    until_full("decode", decode, 1)
    until_full("export", export, 8)
    until_full("copy", copy, 1)
    library.close()
    return json.dumps([acknowledged, ends])


def full(folder: Path, number: int) -> Outcome:
    """No file may grow beyond a limit: what was acknowledged is there, nothing stands half written."""
    home = folder / "home"
    lay_out(home)
    before = hashlib.sha256((home / SONG).read_bytes()).digest()
    limit = random.Random(f"full {number}").randrange(1, MOST_BYTES)

    def act() -> str:
        resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))
        try:
            return _session(home)
        except MervidError as e:
            return json.dumps([-1, {"open": str(e)}])

    end = child.run(act)
    words, kind = end.fault, BAD
    if not words:
        acknowledged, ends = json.loads(end.said)
        words, kind = _after(home, int(acknowledged)), REFUSED if ends else RIGHT
        if any("Error" in w and not w.startswith("OSError") for w in ends.values()):
            words = str(ends)
    if hashlib.sha256((home / SONG).read_bytes()).digest() != before:
        words = "the recording was changed"
    return Outcome("full", number, BAD if words else kind, words or f"at {limit} bytes", end.seconds, end.rss_mb)


def _after(home: Path, acknowledged: int) -> str:
    library = Library(home / LIBRARY)
    notes = library.history(1).preparation.notes
    library.close()
    if acknowledged >= 0 and not notes.startswith(f"state {acknowledged} "):
        return f"{notes[:12]} is there, {acknowledged} was acknowledged"
    if (home / "out.jams").exists():
        exchange.take(home / "out.jams", Preparation())
    if (home / "out.cues.wav").exists() and (home / "out.cues.wav").stat().st_size < 264_600:
        return "a copy is there in part"
    left = [p.name for p in home.glob(".mervid-*")] + [p.name for p in home.glob("cache/pcm/*.part")]
    return f"left over: {left}" if left else ""


def pages(folder: Path, number: int) -> Outcome:
    """Noise over some pages: the library opens or is mended, and no value that is there is another than was kept."""
    rng, home = random.Random(f"pages {number}"), folder / "home"
    shutil.rmtree(home, ignore_errors=True)
    home.mkdir(parents=True)
    path = home / LIBRARY
    library = Library(path)
    ids, _ = library.add_many([Path(f"/music/{k}.wav") for k in range(60)])
    for i in ids:
        library.edit(i, "Write notes", track_edits.write_notes(prepared(), f"note {i}"))
    library.close()
    with_copy = rng.random() < 0.5
    if with_copy:
        care.copy_of_today(path)
    data = bytearray(path.read_bytes())
    for _ in range(rng.choice((1, 2, 5, 20))):
        at = PAGE * rng.randrange(len(data) // PAGE)
        size = rng.choice((8, 100, PAGE))
        data[at : at + size] = rng.randbytes(size)
    path.write_bytes(data)
    if care.check(path):
        care.mark(path).touch()

    def act() -> str:
        try:
            mended = salvage.needed(path)
            if mended:
                salvage.salvage(path)
            there = Library(path)
            notes = {}
            for i in there.ids():
                try:
                    notes[i] = there.history(i).preparation.notes
                except MervidError:
                    there.mend(i)
                    notes[i] = there.history(i).preparation.notes
            there.tracks()
        except MervidError as e:
            return json.dumps([REFUSED, str(e)])
        wrong = {i: text for i, text in notes.items() if text not in ("", f"note {i}")}
        if wrong:
            return json.dumps([BAD, f"other values: {list(wrong.items())[:3]}"])
        kept = sum(bool(text) for text in notes.values())
        if with_copy and mended and kept < len(ids):
            return json.dumps([BAD, f"{kept} of {len(ids)} notes are there, though there is a copy"])
        return json.dumps([DAMAGED if mended else RIGHT, f"{kept} of {len(ids)}"])

    began = time.monotonic()
    end = child.run(act)
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    return Outcome("pages", number, kind, words, time.monotonic() - began, end.rss_mb)
