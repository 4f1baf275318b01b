"""What comes from elsewhere: texts that would take the machine, backups, and recordings in the place of others."""

from __future__ import annotations

import hashlib
import json
import os
import random
import sqlite3
import zipfile
from collections.abc import Callable
from contextlib import closing, suppress
from functools import cache
from pathlib import Path

import numpy as np
import soundfile

from bench.faulting import child, mutation
from bench.faulting.cases import BAD, REFUSED, RIGHT, Outcome
from bench.faulting.imports import prepared
from mervid.core.errors import MervidError
from mervid.core.sound import decoding
from mervid.formats import exchange, pad_files, playlist, profile_files, recipe
from mervid.jobs import rescan
from mervid.store import backup
from mervid.store.library import Library


def _ended(group: str, number: int, how: str, end: child.Ending) -> Outcome:
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    return Outcome(group, number, kind, f"{how}: {words}", end.seconds, end.rss_mb)


def _jams(rng: random.Random, count: int) -> str:
    times = np.cumsum(0.4 + 0.02 * np.random.default_rng(rng.randrange(1 << 30)).random(min(count, 400_000)))
    data = [{"time": float(t), "duration": 0.0, "value": k % 4 + 1, "confidence": None} for k, t in enumerate(times)]
    meta = {"title": "", "artist": "", "release": "", "duration": 1.0, "identifiers": {}, "jams_version": "0.3.5"}
    about = {"curator": {"name": "", "email": ""}, "annotator": {}, "version": "", "corpus": "", "annotation_tools": "",
             "annotation_rules": "", "validation": "", "data_source": ""}  # fmt: skip
    one = {"namespace": "beat", "data": data, "annotation_metadata": about, "sandbox": {}}
    return json.dumps({"file_metadata": meta, "annotations": [one], "sandbox": {}})


def _toml(rng: random.Random, count: int) -> str:
    shapes: tuple[Callable[[int], str], ...] = (
        lambda n: ".".join("a" * n) + " = 1\n", lambda n: "a = " + "[" * n, lambda n: "[" + ".".join("b" * n) + "]\n",
        lambda n: "\n".join(f"k{i} = {i}" for i in range(n)), lambda n: 'name = "' + "x" * n + '"\n',
    )  # fmt: skip
    return rng.choice(shapes)(count)


def _xspf(rng: random.Random, count: int) -> str:
    entity = '<!DOCTYPE p [<!ENTITY a "' + "x" * 1000 + '">]>' if rng.random() < 0.5 else ""
    inside = ("&a;" if entity else "<track><location>a.flac</location></track>") * count
    return (
        f'<?xml version="1.0"?>{entity}<playlist xmlns="http://xspf.org/ns/0/" version="1"><title>{inside}</title>'
        f"<trackList>{inside}</trackList></playlist>"
    )


TEXTS: dict[str, Callable[[random.Random, int], str]] = {
    ".jams": _jams,
    ".labels.txt": lambda rng, n: "".join(f"{k}.0\t{k}.5\tx\n" for k in range(n)),
    ".beats.txt": lambda rng, n: "".join(f"{0.4 * k + 0.02 * rng.random():.6f}\t1\n" for k in range(n)),
    ".m3u8": lambda rng, n: rng.choice(("a\n", "\n", "#\n", "a.flac\r\n")) * n,
    ".pls": lambda rng, n: "[playlist]\n" + f"File{'9' * min(n, 5000)}=a.flac\n" + "File1=b.flac\n" * min(n, 100_000),
    ".xspf": _xspf,
    ".toml": _toml,
}


def _read(path: Path, rng: random.Random) -> None:
    ending = next(e for e in TEXTS if path.name.endswith(e))
    if ending == ".toml":
        rng.choice((recipe.load, pad_files.load, profile_files.load))(path)
    elif ending in (".m3u8", ".pls", ".xspf"):
        playlist.read(path)
    else:
        exchange.take(path, prepared())


def texts(folder: Path, number: int) -> Outcome:
    """Text `number`, of ten lines to four million: read or refused in 30 s and 1 GB."""
    ending = list(TEXTS)[number % len(TEXTS)]
    rng = random.Random(f"texts {number}")
    count = int(10 ** rng.uniform(1, 6.6 if ending == ".m3u8" else 5.6))
    coding = rng.choice(("utf-8", "utf-16")) if ending == ".xspf" else "utf-8"
    path = folder / f"text-{number}{ending}"

    def act() -> str:
        try:
            _read(path, rng)
        except (MervidError, UnicodeDecodeError) as e:
            return json.dumps([REFUSED, str(e)[:120]])
        return json.dumps([RIGHT, ""])

    end = child.run_on(path, TEXTS[ending](rng, count).encode(coding), act)
    return _ended(f"texts {ending}", number, f"{count}", end)


@cache
def _library(folder: Path) -> bytes:
    path = folder / "own.sqlite"
    with closing(Library(path)) as one:
        for k in range(4):
            track, _ = one.add(Path(f"/music/{k}.wav"))
            one.edit(track.id, "Take over beats", prepared())
    with closing(sqlite3.connect(path)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return path.read_bytes()


_ACTS = (
    "CREATE TRIGGER z AFTER INSERT ON tracks BEGIN DELETE FROM history; END",
    "CREATE VIEW z AS SELECT * FROM tracks",
    "CREATE TRIGGER z AFTER DELETE ON lists BEGIN SELECT load_extension('x'); END",
    "UPDATE tracks SET path=x'2f612f00622e776176' WHERE id=1",
    "UPDATE tracks SET path=17, title=x'ff' WHERE id=2",
    "UPDATE tracks SET seconds='long', rate=-1 WHERE id=3",
    "UPDATE history SET value='{' WHERE track_id=1",
    "DROP TABLE entries",
    "CREATE INDEX z ON tracks (abs(added))",
    "ALTER TABLE tracks RENAME COLUMN title TO name",
)
_FIELDS = (
    "NaN",
    "Infinity",
    "-1",
    "1e400",
    '"x"',
    "null",
    "[]",
    "{}",
    "true",
    "9" * 5000,
    "[" * 50_000,
    '"' + "y" * 99_999 + '"',
)


def backups(folder: Path, number: int) -> Outcome:
    """Backup `number`: put back as rows of ours alone, or refused."""
    rng = random.Random(f"backups {number}")
    data, how = _library(folder), ("manifest", "acts", "bytes", "library")[number % 4]
    if how == "acts":
        path = folder / f"acts-{number}.sqlite"
        path.write_bytes(data)
        with closing(sqlite3.connect(path)) as db, db:
            db.execute(rng.choice(_ACTS))
        with closing(sqlite3.connect(path)) as db:
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        data = path.read_bytes()
        for ending in ("", "-wal", "-shm"):
            path.with_name(path.name + ending).unlink(missing_ok=True)
    if how == "library":
        data, _ = mutation.mutant(rng, data)
    fields = {"version": "11", "made": "1.7e9", "sha256": f'"{hashlib.sha256(data).hexdigest()}"'}
    if how == "manifest":
        fields[rng.choice(list(fields))] = rng.choice(_FIELDS)
    about = ", ".join(f'"{k}": {v}' for k, v in fields.items())
    if how == "manifest" and rng.random() < 0.3:
        about += f', "version": {rng.choice(_FIELDS)}'
    whole = folder / f"whole-{number}.zip"
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as box:
        box.writestr(backup.ABOUT, "{" + about + "}")
        box.writestr(backup.LIBRARY, data)
    bytes_of = whole.read_bytes()
    whole.unlink()
    if how == "bytes":
        bytes_of, _ = mutation.mutant(rng, bytes_of)
    path, fresh = folder / f"backup-{number}.zip", folder / f"fresh-{number}.sqlite"

    def act() -> str:
        try:
            backup.look(path, folder / "nothing.sqlite")
            backup.unpack(path, fresh)
        except MervidError as e:
            return json.dumps([REFUSED, str(e)[:120]])
        with closing(sqlite3.connect(fresh)) as db:
            if db.execute("SELECT 1 FROM sqlite_master WHERE type IN ('trigger', 'view')").fetchone():
                return json.dumps([BAD, "what came along acts"])
        with closing(Library(fresh)) as one:
            for track in one.tracks():
                track.path.exists()
                # a step that can't be read is said when its track is opened
                with suppress(MervidError):
                    one.history(track.id)
        return json.dumps([RIGHT, ""])

    end = child.run_on(path, bytes_of, act)
    for left in folder.glob(f"fresh-{number}.sqlite*"):
        left.unlink()
    return _ended(f"backups {how}", number, how, end)


def moves(folder: Path, number: int) -> Outcome:
    """Recording `number` goes, and another of the same size and date comes: it inherits nothing."""
    rng = random.Random(f"moves {number}")
    home = folder / f"moves-{number}"
    home.mkdir()
    went, came = home / "went.wav", home / f"came{number % 3}.wav"
    same = rng.random() < 0.3

    def record(path: Path, seed: int) -> None:
        noise = np.random.default_rng(seed).uniform(-0.4, 0.4, 8000)
        soundfile.write(path, noise.astype(np.float32), 8000, subtype="PCM_16")
        os.utime(path, ns=(10**18, 10**18))

    def act() -> str:
        record(went, number)
        with closing(Library(home / "library.sqlite")) as one:
            track, _ = one.add(went)
            one.set_decoded(track.id, decoding.decode(decoding.probe(went), lambda b: None))
            one.edit(track.id, "Take over beats", prepared())
        went.unlink()
        record(came, number if same else number + 1_000_000)
        rescan.rescan(home / "library.sqlite", [home])
        with closing(Library(home / "library.sqlite")) as one:
            moved = one.track(track.id).path == came
        return json.dumps([RIGHT, ""] if moved == same else [BAD, f"moved: {moved}, the same recording: {same}"])

    end = child.run(act)
    for left in home.glob("*"):
        left.unlink()
    home.rmdir()
    return _ended("moves", number, "same" if same else "other", end)
