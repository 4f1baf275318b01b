"""`mervid add`, `list`, `show` and `lists`: the library without a window, or beside one."""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from contextlib import closing
from pathlib import Path
from typing import Any

from .. import places
from ..core.errors import MervidError, Refused
from ..core.library import filters
from ..core.library.filters import Order, Search
from ..core.library.tags import FIELDS, names_of
from ..core.sound.names import shown
from ..jobs.gathering import branch, gather
from ..store import lists, moves, others, search, tagging
from ..store.library import Library
from ..store.lists import Lists, Shelf
from ..store.search import Finder
from ..store.track import READY, WAITING, Track
from ..store.undo import Undo
from .progress import Progress
from .words import count

TAGS_AT_ONCE = 200
WAIT_MS = 60_000
"""A window may be writing: nobody waits at a screen here."""
COLUMNS = (
    "path", "title", "artists", "album", "genre", "year", "tempo", "tempo_from", "tempo_to", "kind", "key",
    "key_chance", "drive", "loudness_lufs", "length", "readiness", "cues", "missing",
)  # fmt: skip


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of a command."""
    if command == "add":
        p.add_argument("files", nargs="+", metavar="PATH", help="recordings, folders, playlists")
        p.add_argument("--jobs", metavar="N", type=count, help="recordings heard at once; as many as there are cores")
        p.add_argument("--lists", action="store_true", help="make lists of folders, too, as of playlists")
        p.add_argument("--later", action="store_true", help="take in only; the window hears them when it is open")
    elif command == "show":
        p.add_argument("file", metavar="FILE", help="a recording that is in the library")
        p.add_argument("--json", action="store_true", help="as one JSON object")
    else:
        form = p.add_mutually_exclusive_group()
        form.add_argument("--json", action="store_true", help="as a JSON array")
        form.add_argument("--tsv", action="store_true", help="as lines of values between tabs, the first one of names")
        if command == "list":
            words = "words that must be there, and filters such as tempo:110-118 key:Am genre:disco person: missing:"
            p.add_argument("--where", metavar="WORDS", default="", help=words)
            p.add_argument("--sort", metavar="COLUMN", default="", help="a column to sort by; COLUMN:down for downward")
            p.add_argument(
                "--in", dest="of", metavar="LIST", default="", help="only the tracks of this list, in its order"
            )


def run(command: str, options: argparse.Namespace) -> int:
    """Do what a command says; the exit code."""
    try:
        with closing(Library(places.data_folder() / "library.sqlite", wait_ms=WAIT_MS)) as library:
            if command == "add":
                return add(library, options)
            if command == "show":
                return show(library, Path(options.file), as_json=options.json)
            if command == "lists":
                return show_lists(library, options)
            return show_all(library, options)
    except MervidError as e:
        return _wrong(str(e))
    except BrokenPipeError:
        # whoever read has enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


def _wrong(text: str) -> int:
    print(f"mervid: {text}", file=sys.stderr)
    return 2


# in


def add(library: Library, options: argparse.Namespace) -> int:
    """Take in, read tags, hear what waits of it."""
    found = gather((Path(w) for w in options.files), folders_too=options.lists)
    for remark in found.remarks:
        print(f"mervid: {remark}", file=sys.stderr)
    there = [f for f in found.files if f.is_file()]
    missing = [f for f in found.files if not f.is_file()]
    for f in missing:
        print(f"mervid: {shown(f)} is not there.", file=sys.stderr)
    if not there:
        return _wrong("there is no recording in what was named") if not (found.remarks or missing) else 2
    moved = set(moves.follow(library, there))
    ids, new = library.add_many(there)
    numbers = dict(zip(there, ids, strict=True))
    made = Lists(library, Undo(library))
    for one in found.lists:
        made.make_branch(branch(one, numbers))
    _read_tags(library)
    others.announce(library.path)
    failed, again = (0, []) if options.later else _hear(library, ids, options.jobs)
    fresh, known = len(new) - len(again), len(moved) + len(again)
    print(
        f"{len(there)} recordings, {fresh} of them new"
        + (f", {known} moved: their work is kept" if known else "")
        + (f", {failed} can't be heard" if failed else "")
    )
    return 1 if failed or found.remarks or missing else 0


def _read_tags(library: Library) -> None:
    from ..jobs.tag_reader import read_many

    while some := tagging.unread(library, TAGS_AT_ONCE):
        read = read_many([(i, os.fsencode(p)) for i, p in some], str(places.cache_folder()))
        tagging.keep_read(library, read)


def _hear(library: Library, ids: list[int], jobs: int | None) -> tuple[int, list[int]]:
    """Analyse those that wait, on several workers, with one line for all.

    How many failed, and the tracks that turned out to have moved: known by their audio, whatever their tags say now.
    """
    from ..jobs import keeping
    from ..jobs.messages import ELSEWHERE, ENDS, share_done
    from ..jobs.pool import Pool
    from ..store.track import FAILED

    todo = [t.id for t in library.tracks(ids) if t.state != READY] if len(ids) < 500 else library.waiting()
    todo = [i for i in todo if i in set(ids)]
    if not todo:
        return 0, []
    workers = min(jobs or len(os.sched_getaffinity(0)), len(todo))
    pool = Pool(places.cache_folder(), workers=workers)
    line, waiting, parts = Progress(len(todo)), list(reversed(todo)), dict.fromkeys(todo, 0.0)
    running, failed, done = set[int](), 0, 0
    moved: list[int] = []
    try:
        while waiting or running:
            while waiting and len(running) < workers:
                # a window may have heard it meanwhile
                track = library.track(waiting.pop())
                if track.state == READY:
                    done, parts[track.id] = done + 1, 1.0
                    continue
                running.add(track.id)
                pool.submit(track.id, track.path)
            for message in pool.poll():
                job = message.job
                if message.kind == "progress":
                    parts[job] = share_done(*message.payload)
                elif message.kind == "decoded":
                    again = moves.reunite(library, job, message.payload[0])
                    if again is not None:
                        pool.cancel(job)
                        moved.append(again)
                        others.announce(library.path)
                    else:
                        library.set_decoded(job, message.payload[0])
                elif message.kind in ENDS:
                    running.discard(job)
                    done, parts[job] = done + 1, 1.0
                    if not library.has(job):
                        # its track goes on with the file
                        continue
                    if message.kind == "done":
                        keeping.keep(library, job, message.payload)
                        others.announce(library.path)
                    elif message.kind != ELSEWHERE:
                        failed += 1
                        library.set_state(job, FAILED, str(message.payload))
                        line.clear()
                        print(f"mervid: {message.payload}", file=sys.stderr)
            line.show(done, sum(parts.values()))
            time.sleep(0.05)
        line.clear()
    finally:
        pool.close()
    if moved:
        # the file may have other tags now
        _read_tags(library)
    return failed, moved


# out


def known(library: Library, track: Track) -> dict[str, Any]:
    """What lists show of a track, by plain names."""
    heard = track.state == READY
    low, high = track.tempo_low, track.tempo_high
    return {
        "path": str(track.path).encode("utf-8", "surrogateescape").decode("utf-8", "replace"),
        "title": track.title,
        "artists": names_of(track.artists),
        "album": track.album,
        "genre": track.genre,
        "year": track.year or None,
        "tempo": round((low + high) / 2, 3) if low is not None and high is not None else None,
        "tempo_from": round(low, 3) if low is not None else None,
        "tempo_to": round(high, 3) if high is not None else None,
        "kind": track.kind or None,
        "key": track.key or None,
        "key_chance": 1.0 if track.own_key else track.key_chance if track.key else None,
        "drive": track.drive,
        "loudness_lufs": track.lufs,
        "length": round(track.seconds, 3) if track.seconds else None,
        "readiness": track.readiness if heard else "not heard" if track.state == WAITING else "failed",
        "cues": track.cues,
        "missing": track.gone or not track.path.exists(),
    }


def number_of(library: Library, path: Path) -> int | None:
    """The track of a file; None where it is not in the library."""
    row = library.row("SELECT id FROM tracks WHERE path=? AND out=0", (os.fsencode(os.path.abspath(path)),))
    return int(row[0]) if row is not None else None


def show(library: Library, path: Path, *, as_json: bool) -> int:
    """All that is known of one track."""
    number = number_of(library, path)
    if number is None:
        why = (
            "is not in your library: 'mervid add' takes it in" if path.exists() else "is not there, nor in your library"
        )
        return _wrong(f"{shown(path)} {why}")
    track = library.track(number)
    out = known(library, track)
    undo = Undo(library)
    said = tagging.Tagging(library, undo).said([track.id])[track.id].shown
    out |= {name: getattr(said, name) or None for name in FIELDS if name not in out}
    out |= {"second_key": track.second or None, "second_key_chance": track.second_chance if track.second else None}
    out |= {"true_peak_dbtp": track.true_peak, "format": track.format, "lossless": track.lossless}
    out |= {"bitrate": track.bitrate or None, "waits": track.finding or None, "message": track.message or None}
    out["lists"] = Lists(library, undo).with_track(track.id)
    out |= _prepared(library, track)
    if as_json:
        print(json.dumps(out, ensure_ascii=False, indent=1))
        return 0
    for name, value in out.items():
        if value not in (None, "", []):
            print(f"{name}\t{_in_a_line(value)}")
    return 0


def _prepared(library: Library, track: Track) -> dict[str, Any]:
    """First beat, phrases and cues of a track, times in s."""
    from ..core.form import phrase_edits

    p = library.history(track.id).preparation
    grid = p.grid
    out: dict[str, Any] = {"first_beat": None, "phrases": [], "sections": [], "cues": []}
    if grid is None:
        return out
    out["tempo"] = round(grid.tempo_overall(), 3)
    out["first_beat"] = round(float(grid.time_at(0.0)), 6)
    out["cues"] = [
        {
            "name": c.name,
            "role": c.role,
            "kind": c.kind,
            "slot": c.slot,
            "at": round(c.at(grid), 6),
            "loop_bars": c.bars,
        }
        for c in p.cues
    ]
    kept = library.evidence(track.id, lesser=True)
    form = phrase_edits.form_of(p, kept[0] if kept is not None else None, track.duration)
    if form is None:
        return out
    edges = [*(q.start for q in form.phrases), form.end]
    for q, a, b in zip(form.phrases, edges[:-1], edges[1:], strict=True):
        first, _ = grid.bar_index(a + 1e-6)
        last, _ = grid.bar_index(b + 1e-6)
        start, end = (round(float(grid.time_at(x)), 6) for x in (a, b))
        out["phrases"].append(
            {
                "start": start,
                "end": end,
                "bars": int(last) - int(first),
                "role": q.role,
                "letter": q.letter,
                "raised": q.raised,
            }
        )
    for s in form.sections:
        inside = out["phrases"][s.first : s.stop]
        q = form.phrases[s.first]
        out["sections"].append(
            {
                "start": inside[0]["start"], "end": inside[-1]["end"], "bars": sum(x["bars"] for x in inside),
                "role": q.role, "role_chance": round(q.chance, 3), "phrases": len(s),
            }
        )  # fmt: skip
    return out


def show_all(library: Library, options: argparse.Namespace) -> int:
    """The tracks that are found."""
    asked = filters.parse(options.where)
    if options.sort:
        name, _, way = options.sort.partition(":")
        if name not in search.COLUMNS or way not in ("", "down"):
            raise Refused(f"'{options.sort}' is no column to sort by: there are {', '.join(search.COLUMNS)}")
        asked = Search(asked.words, asked.filters, (Order(name, way == "down"),))
    among = None
    if options.of:
        shelves = Lists(library, Undo(library))
        shelf = _named(shelves, options.of)
        if shelf.kind == lists.SEARCH:
            kept = shelves.search(shelf.id)
            words = f"{kept.words} {asked.words}".strip()
            asked = Search(words, (*kept.filters, *asked.filters), asked.order or kept.order)
        else:
            among = shelves.tracks(shelf.id)
    ids = Finder(library).find(asked, among=among).tolist()
    rows: list[dict[str, Any]] = []
    for a in range(0, len(ids), 500):
        there = {t.id: t for t in library.tracks(sorted(set(ids[a : a + 500])))}
        rows += [known(library, there[i]) for i in ids[a : a + 500] if i in there]
    if options.json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
    elif options.tsv:
        print("\t".join(COLUMNS))
        for r in rows:
            print("\t".join(_cell(r[c]) for c in COLUMNS))
    else:
        for r in rows:
            tempo = f"{r['tempo']:.2f} BPM" if r["tempo"] else ""
            said = f"{', '.join(r['artists'])} – {r['title']}" if r["artists"] else r["title"]
            print(
                "  ".join(
                    x for x in (said, tempo, r["key"] or "", r["readiness"], "missing" if r["missing"] else "") if x
                )
            )
    return 0


def _in_a_line(value: Any) -> object:
    """A value of `show`: names as they are, of longer things how many there are."""
    if not isinstance(value, list):
        return value
    return ", ".join(value) if all(isinstance(x, str) for x in value) else len(value)


def _cell(value: Any) -> str:
    if isinstance(value, list):
        value = ", ".join(value)
    text = "" if value is None else str(value).lower() if isinstance(value, bool) else str(value)
    return " ".join(text.split())


def _named(shelves: Lists, name: str) -> Shelf:
    found = [s for s in shelves.all() if s.name.casefold() == name.casefold()]
    if not found:
        raise Refused(f"there is no list '{name}': 'mervid lists' tells which there are")
    return min(found, key=lambda s: s.kind != lists.LIST)


def show_lists(library: Library, options: argparse.Namespace) -> int:
    """Lists with their folders, kinds, and how they stand."""
    shelves, finder = Lists(library, Undo(library)), Finder(library)
    all_ = shelves.all()
    by_number = {s.id: s for s in all_}
    rows: list[dict[str, Any]] = []
    for s in sorted(all_, key=lambda s: _way(s, by_number)):
        if s.kind == lists.FOLDER:
            continue
        standing = s.kind == lists.SEARCH
        count = len(finder.find(shelves.search(s.id))) if standing else len(shelves.tracks(s.id))
        row: dict[str, Any] = {"name": s.name, "folder": _way(s, by_number)[0], "kind": s.kind, "tracks": count}
        row |= {k.replace(" ", "_"): n for k, n in search.states(library, s.id).items()} if not standing else {}
        rows.append(row)
    if options.json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return 0
    names = ("folder", "name", "kind", "tracks", "ready", "to_check", "not_heard", "missing")
    if options.tsv:
        print("\t".join(names))
    for r in rows:
        if options.tsv:
            print("\t".join(_cell(r.get(n)) for n in names))
        else:
            where = f"{r['folder']}/" if r["folder"] else ""
            said = [f"{r[k]} {k.replace('_', ' ')}" for k in names[4:] if r.get(k)]
            print(f"{where}{r['name']}: {r['tracks']} tracks" + (f", {', '.join(said)}" if said else ""))
    return 0


def _way(s: Shelf, by_number: dict[int, Shelf]) -> tuple[str, int, str]:
    """The folders in which a list lies, its place, its name."""
    names: list[str] = []
    at = by_number.get(s.parent)
    while at is not None and len(names) < lists.DEEPEST:
        names.insert(0, at.name)
        at = by_number.get(at.parent)
    return "/".join(names), s.place, s.name
