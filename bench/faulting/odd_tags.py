"""Recordings whose tags are odd already: foreign tags are kept, the sound stays, and all is taken back to the byte."""

from __future__ import annotations

import hashlib
import json
import os
import random
from collections.abc import Callable
from pathlib import Path

import mutagen
from mutagen import apev2, id3

from bench.faulting import audio, child
from bench.faulting.cases import BAD, REFUSED, RIGHT, Outcome
from mervid.core.errors import MervidError
from mervid.core.sound import packets
from mervid.formats import safe_tags, tag_journal
from mervid.formats.labels import Label
from mervid.formats.tag_journal import Journal
from mervid.formats.tag_writing import Marks

_VALUES = {"comment": "in bar 9", "tempo": "113.42", "key": "F#m", "rating": "4", "genre": "disco"}
_MARKS = Marks((Label(0.5, 4.5, "intro A"), Label(4.5, 4.5, "Drop")), (0.5, 1.0, 1.5), ((0.5, "intro"),), audio.SECONDS)
FOREIGN = "a word that nobody knows"


def _own_frame(path: Path, rng: random.Random) -> None:
    held = id3.ID3()
    held.add(id3.TXXX(encoding=rng.choice((0, 1, 3)), desc="FOREIGN", text=[FOREIGN]))
    held.add(id3.TIT2(encoding=rng.choice((0, 1, 3)), text=["Lantern Tow"]))
    if rng.random() < 0.4:
        held.add(id3.APIC(mime="image/jpeg", data=rng.randbytes(rng.choice((3_000, 5 << 20)))))
    if rng.random() < 0.4:
        held.add(id3.CHAP(element_id="old", start_time=0, end_time=900, sub_frames=[id3.TIT2(text=["old"])]))
    if rng.random() < 0.3:
        held.add(id3.PRIV(owner="other", data=rng.randbytes(200)))
    held.save(path, v2_version=rng.choice((3, 4)), padding=lambda _: rng.choice((0, 4_000)))


def _second_block(path: Path, rng: random.Random) -> None:
    """Two ID3v2 blocks, one after the other."""
    _own_frame(path, rng)
    other = path.with_name("other.id3")
    other.write_bytes(b"")
    id3.ID3().save(other)
    path.write_bytes(path.read_bytes() if rng.random() < 0.5 else other.read_bytes() + path.read_bytes())
    other.unlink()


def _old_version(path: Path, rng: random.Random) -> None:
    """ID3v2.2, whose frames have names of three letters (id3.org, 'ID3 tag version 2', 1998)."""
    text = FOREIGN.encode("latin-1")
    frame = b"TXX" + (len(text) + 9).to_bytes(3, "big") + b"\0FOREIGN\0" + text
    size = len(frame)
    head = b"ID3\x02\x00\x00" + bytes((size >> 7 * k) & 0x7F for k in (3, 2, 1, 0))
    path.write_bytes(head + frame + path.read_bytes())


def _first_version(path: Path, rng: random.Random) -> None:
    """ID3v1 alone, at the end."""
    path.write_bytes(path.read_bytes() + b"TAG" + b"Lantern Tow".ljust(124, rng.choice((b"\0", b" "))) + b"\x05")


def _ape(path: Path, rng: random.Random) -> None:
    """APEv2 beside ID3."""
    if rng.random() < 0.6:
        _own_frame(path, rng)
    held = apev2.APEv2()
    held["FOREIGN"] = FOREIGN
    held.save(path)


def _unmarked(path: Path, rng: random.Random) -> None:
    """UTF-16 without the mark of its order."""
    text = "Lantern".encode("utf-16-le")
    frame = b"TIT2" + (len(text) + 1).to_bytes(4, "big") + b"\0\0\x01" + text
    head = b"ID3\x03\x00\x00" + bytes((len(frame) >> 7 * k) & 0x7F for k in (3, 2, 1, 0))
    path.write_bytes(head + frame + path.read_bytes())


def _doubled(path: Path, rng: random.Random) -> None:
    """Vorbis fields that stand there several times."""
    held = mutagen.File(os.fspath(path))
    held["title"] = ["Lantern Tow", "Lantern Tow", "another"]
    held["FOREIGN"] = [FOREIGN] * rng.randrange(1, 5)
    held["CHAPTER001"], held["CHAPTER001NAME"] = "00:00:01.000", "old"
    held.save()


def _plain(path: Path, rng: random.Random) -> None:
    """No tags at all."""


KINDS: tuple[tuple[str, Callable[[Path, random.Random], None]], ...] = (
    ("mp3", _own_frame), ("mp3", _second_block), ("mp3", _old_version), ("mp3", _first_version), ("mp3", _ape),
    ("mp3", _unmarked), ("flac", _doubled), ("ogg", _doubled), ("opus", _doubled), ("m4a", _plain), ("wav", _plain),
    ("aiff", _plain),
)  # fmt: skip


def _foreign(path: Path) -> bool:
    """Whether the foreign word is there, in whichever coding."""
    data = path.read_bytes()
    return any(FOREIGN.encode(coding) in data for coding in ("utf-8", "utf-16-le", "utf-16-be"))


def case(folder: Path, number: int) -> Outcome:
    """Recording `number`: written to and taken back; now and then one that is read-only, or has two names."""
    form, change = KINDS[number % len(KINDS)]
    rng = random.Random(f"tags {number}")
    data, _, rate = audio.source(folder, form)
    home = folder / f"tags-{number}"
    home.mkdir()
    path, second = home / f"a.{form}", home / f"second.{form}"
    linked, closed = rng.random() < 0.15, rng.random() < 0.15

    def act() -> str:
        path.write_bytes(data)
        change(path, rng)
        if linked:
            os.link(path, second)
        if closed:
            path.chmod(0o400)
        before, had, sound = path.read_bytes(), _foreign(path), packets.digest(path)
        journal = Journal("a batch", home / "journal")
        try:
            safe_tags.write(path, _VALUES, _MARKS, journal=journal, rate=rate)
        except (MervidError, OSError) as e:
            whole = path.read_bytes() == before
            return json.dumps([REFUSED, str(e)[:100]] if whole else [BAD, f"refused, and changed: {e}"])
        if packets.digest(path) != sound:
            return json.dumps([BAD, "the sound is another"])
        if had and not _foreign(path):
            return json.dumps([BAD, "a foreign tag is lost"])
        done = tag_journal.undo(journal.id, safe_tags.put_back, home / "journal")
        same = hashlib.sha256(path.read_bytes()).digest() == hashlib.sha256(before).digest()
        return json.dumps([RIGHT, ""] if same and not done.problems else [BAD, f"not taken back: {done.problems}"])

    end = child.run(act)
    for left in sorted(home.rglob("*"), reverse=True):
        left.rmdir() if left.is_dir() else left.unlink()
    home.rmdir()
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    return Outcome("tags", number, kind, f"{form} {change.__name__}: {words}", end.seconds, end.rss_mb)
