"""Kill -9 at a random moment while something is written: every state that was acknowledged is there afterwards.

A victim tells through a pipe what it has finished; after its end the disk is looked at as the next start would.
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import shutil
import signal
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from functools import cache
from pathlib import Path

import attrs
import numpy as np
import soundfile

from bench.faulting import older
from bench.faulting.cases import BAD, RIGHT, Outcome
from bench.faulting.imports import prepared
from mervid.core.edits import track_edits
from mervid.core.errors import MervidError
from mervid.core.hearing.evidence import Evidence, to_bytes
from mervid.core.hearing.heard import nothing_heard
from mervid.core.model.preparation import Preparation
from mervid.core.sound.decoding import Decoded
from mervid.core.sound.waveform import WaveformMaker
from mervid.formats import exchange, safe_file, wavcues
from mervid.formats.exchange import Subject
from mervid.jobs import pcm
from mervid.store import backup as whole
from mervid.store import care, salvage, schema
from mervid.store.library import Library

LIBRARY, SONG = "library.sqlite", "song.wav"
Say = Callable[[object], None]
LONGEST_S = 0.25
"""A victim is killed within so many s of its first word."""


@cache
def heard() -> bytes:
    """What is heard in it: nothing."""
    empty = np.zeros(0)
    found = Evidence(
        nothing_heard(), np.zeros(9000, np.uint8), np.zeros(200, np.uint8), empty, empty.astype(np.float32)
    )
    return to_bytes(found)


@cache
def drawn() -> bytes:
    """Its waveform."""
    maker = WaveformMaker(44_100)
    maker.push(_sound()[:, None])
    return maker.finish().to_bytes()


@cache
def _sound() -> np.ndarray:
    return (0.3 * np.sin(np.arange(3 * 44_100) / 11)).astype(np.float32)


def lay_out(folder: Path) -> None:
    """A library with one track, and its recording."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    soundfile.write(folder / SONG, _sound(), 44_100)
    library = Library(folder / LIBRARY)
    library.add(folder / SONG)
    library.edit(1, "Take over beats", prepared())
    library.close()


def _noted(number: int) -> Preparation:
    return track_edits.write_notes(prepared(), f"state {number}")


# what a victim does, over and over


def edits(folder: Path, say: Say) -> None:
    library = Library(folder / LIBRARY)
    for n in range(10_000):
        library.edit(1, "Write notes", _noted(n))
        say(n)
        if n % 7 == 6:
            library.undo(1)
            say(n - 1)


def analyses(folder: Path, say: Say) -> None:
    library = Library(folder / LIBRARY)
    for n in range(10_000):
        track, _ = library.add(folder / f"{n}.wav")
        writer = pcm.Writer(folder / "cache")
        writer.push(_sound()[:, None])
        writer.keep(f"sound{n}")
        library.set_decoded(track.id, Decoded(44_100, 1, len(_sound()), f"sound{n}", "libsndfile WAV", True))
        library.set_evidence(track.id, heard(), drawn(), _noted(n))
        say(n)


def imports(folder: Path, say: Say) -> None:
    library = Library(folder / LIBRARY)
    path = folder / "taken.jams"
    what = Subject(prepared(), None, "Lantern Tow", 66.0, folder / SONG, 44_100)
    path.write_text(exchange.export_text(what, as_jams=True))
    for n in range(10_000):
        library.edit(1, "Take over beats", attrs.evolve(exchange.take(path, Preparation()), notes=f"state {n}"))
        say(n)


def exports(folder: Path, say: Say) -> None:
    for n in range(10_000):
        what = Subject(attrs.evolve(prepared(), line=f"state {n}"), None, "Lantern Tow", 66.0, folder / SONG, 44_100)
        exchange.export(what, folder / "out.jams")
        say(n)


def copies(folder: Path, say: Say) -> None:
    what = Subject(prepared(), None, "Lantern Tow", 3.0, folder / SONG, 44_100)
    for n in range(10_000):
        exchange.export(what, folder / "out.cues.wav")
        say(n)


def migration(folder: Path, say: Say) -> None:
    say("begun")
    Library(folder / LIBRARY).close()
    say("migrated")


def backup(folder: Path, say: Say) -> None:
    library = Library(folder / LIBRARY)
    for n in range(10_000):
        library.edit(1, "Write notes", _noted(n))
        say(n)
        care.copy_of_today(folder / LIBRARY, now=86_400.0 * (1000 + n))


def mending(folder: Path, say: Say) -> None:
    say("begun")
    salvage.salvage(folder / LIBRARY)
    say("mended")


STATES = 5
"""Backups of so many states are put back in turn."""


def restores(folder: Path, say: Say) -> None:
    for n in range(10_000):
        whole.lay_by(folder / f"{n % STATES}.zip", folder / LIBRARY, home=folder)
        whole.settle(folder / LIBRARY, now=float(n))
        say(n)


# what must be so afterwards: words where it isn't


def _state_of(folder: Path) -> int:
    library = Library(folder / LIBRARY)
    p = library.history(1).preparation
    library.close()
    return int(p.notes.removeprefix("state ")) if p.notes else -1


def _states(folder: Path, said: list[object]) -> str:
    there = _state_of(folder)
    last = said[-1] if said else -1
    assert isinstance(last, int)
    # the edit in hand may be there as well, or its undo
    allowed = {last, last + 1, last - 1 if last % 7 == 6 else last, last + 2 if last % 7 == 5 else last}
    return "" if there in allowed else f"state {there} is there, {last} was acknowledged"


def _analysed(folder: Path, said: list[object]) -> str:
    library = Library(folder / LIBRARY)
    acknowledged = int(str(said[-1])) if said else -1
    words = ""
    for track in library.tracks()[1:]:
        n = int(track.title)
        if n > acknowledged:
            continue
        if library.evidence(track.id, lesser=True) is None or library.history(track.id).preparation != _noted(n):
            words = f"track {n} was acknowledged and isn't whole"
        if pcm.load(folder / "cache", f"sound{n}", len(_sound())) is None:
            words = f"the sound of track {n} was acknowledged and isn't there"
    library.close()
    return words


def _left_over(folder: Path) -> str:
    """What the next start doesn't clean away."""
    safe_file.clean(folder)
    left = [p.name for p in folder.glob(".mervid-*")]
    return f"left over: {left}" if left else ""


def _exported(folder: Path, said: list[object]) -> str:
    path, last = folder / "out.jams", int(str(said[-1])) if said else -1
    if not path.exists():
        return "" if last < 0 else "an acknowledged export isn't there"
    line = exchange.take(path, Preparation()).line
    if line not in (f"state {last}", f"state {last + 1}"):
        return f"{line} is there, {last} was acknowledged"
    return _left_over(folder)


def _copied(folder: Path, said: list[object]) -> str:
    path = folder / "out.cues.wav"
    if not path.exists():
        return "" if not said else "an acknowledged copy isn't there"
    if len(wavcues.read(path)) < 3:
        return "a copy is there in part"
    same = np.array_equal(soundfile.read(path, dtype="int16")[0], soundfile.read(folder / SONG, dtype="int16")[0])
    return _left_over(folder) if same else "a copy holds other samples"


def _migrated(folder: Path, said: list[object]) -> str:
    library = Library(folder / LIBRARY)
    whole = library.track(1).size == 0 and library.history(1).preparation == prepared()
    library.close()
    return "" if whole and schema.version_of(folder / LIBRARY) == schema.VERSION else "the library isn't what it was"


def _backed_up(folder: Path, said: list[object]) -> str:
    for path in care.copies(folder / LIBRARY):
        if care.check(path):
            return f"{path.name} is there in part"
        Library(path).history(1)
    return _states(folder, said)


def _mended(folder: Path, said: list[object]) -> str:
    path = folder / LIBRARY
    if salvage.needed(path):
        salvage.salvage(path)
    library = Library(path)
    titles = {t.title for t in library.tracks()}
    library.close()
    return "" if "song" in titles and not care.check(path) else f"the library is {titles or 'empty'}"


def _restored(folder: Path, said: list[object]) -> str:
    last = int(str(said[-1])) if said else -1
    # what waits is put in the library's place by the next start
    whole.settle(folder / LIBRARY)
    there = _state_of(folder)
    if there not in ({last % STATES, (last + 1) % STATES} if said else {-1, 0}):
        return f"state {there} is there, {last % STATES} was acknowledged"
    return f"damaged: {care.check(folder / LIBRARY)}" if care.check(folder / LIBRARY) else ""


def _back_up(folder: Path) -> None:
    """A backup of each of some states; the library itself is in none of them."""
    with closing(Library(folder / LIBRARY)) as library:
        for n in range(STATES):
            library.edit(1, "Write notes", _noted(n))
            with (folder / f"{n}.zip").open("wb") as f:
                whole.fill(folder / LIBRARY, home=folder)(f)
        library.edit(1, "Write notes", prepared())


def _age(folder: Path) -> None:
    """Make the library one of version 5."""
    with closing(sqlite3.connect(folder / LIBRARY)) as db:
        older.make_version_6(db)
        for column in ("size", "changed_ns"):
            db.execute(f"ALTER TABLE tracks DROP COLUMN {column}")
        db.execute("PRAGMA user_version=5")
        db.commit()


def _break(folder: Path) -> None:
    """Damage the last page."""
    path = folder / LIBRARY
    with closing(sqlite3.connect(path)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    data = path.read_bytes()
    path.write_bytes(data[:-4096] + bytes(range(256)) * 16)
    care.mark(path).touch()


def _as_it_is(folder: Path) -> None:
    return None


ACTS: tuple[tuple[str, Callable[[Path, Say], None], Callable[[Path, list[object]], str], Callable[[Path], None]], ...]
ACTS = (
    ("editing", edits, _states, _as_it_is),
    ("analysis", analyses, _analysed, _as_it_is),
    ("import", imports, _states, _as_it_is),
    ("export", exports, _exported, _as_it_is),
    ("wav copy", copies, _copied, _as_it_is),
    ("migration", migration, _migrated, _age),
    ("backup", backup, _backed_up, _as_it_is),
    ("mending", mending, _mended, _break),
    ("restore", restores, _restored, _back_up),
)


def _run(act: Callable[[Path, Say], None], folder: Path, after: float) -> list[object]:
    """Let a victim act until it is killed; what it acknowledged."""
    receive, send = os.pipe()
    pid = os.fork()
    if pid == 0:
        os.close(receive)
        try:
            act(folder, lambda what: os.write(send, json.dumps(what).encode() + b"\n") and None)
        finally:
            os._exit(0)
    os.close(send)
    time.sleep(after)
    os.kill(pid, signal.SIGKILL)
    os.waitpid(pid, 0)
    said = b""
    while block := os.read(receive, 1 << 16):
        said += block
    os.close(receive)
    return [json.loads(line) for line in said.split(b"\n")[:-1]]


def case(folder: Path, number: int) -> Outcome:
    """Kill `number`: what is done, and when it ends, are the same for the same number."""
    name, act, look, ready = ACTS[number % len(ACTS)]
    rng, home = random.Random(f"kill {number}"), folder / "home"
    lay_out(home)
    ready(home)
    before = hashlib.sha256((home / SONG).read_bytes()).digest()
    began = time.monotonic()
    said = _run(act, home, rng.uniform(0.0, LONGEST_S))
    try:
        words = look(home, said)
    except (MervidError, OSError, ValueError, sqlite3.Error) as e:
        words = f"{type(e).__name__}: {e}"
    if hashlib.sha256((home / SONG).read_bytes()).digest() != before:
        words = "the recording was changed"
    kind = BAD if words else RIGHT
    return Outcome(f"kill {name}", number, kind, words or f"{len(said)} acknowledged", time.monotonic() - began)
