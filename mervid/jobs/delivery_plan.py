"""A folder for a player, planned: what each track becomes there, what it would lose, under which name."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
from collections.abc import Mapping, Sequence
from pathlib import Path

import attrs

from ..core.delivery import losses, safe_names
from ..core.delivery.losses import Goal, Loss, Sound
from ..core.delivery.profile import Profile
from ..core.errors import MervidError, Refused
from ..core.library import outgoing
from ..core.library.outgoing import Outgoing
from ..core.library.template import Template
from ..core.model.preparation import Preparation, to_json
from ..core.pairs.side import Side
from ..core.sound import decoding
from ..core.sound.names import shown
from ..formats import encoding, exchange, playlist
from ..formats.delivered import HOME, LIST, SOUND, Entry, Ledger
from . import straighten

_SPARE = 8 << 20
"""Bytes that are left free: a disk's own tables grow, too."""
_CODECS = {
    "FFmpeg mp3": "mp3", "FFmpeg mp3float": "mp3", "FFmpeg aac": "aac", "FFmpeg alac": "alac", "FFmpeg flac": "flac",
    "FFmpeg vorbis": "ogg", "FFmpeg opus": "opus", "FFmpeg libopus": "opus", "libsndfile WAV": "wav",
    "libsndfile WAVEX": "wav", "libsndfile RF64": "wav", "libsndfile AIFF": "aiff", "libsndfile FLAC": "flac",
    "FFmpeg libvorbis": "ogg",
}  # fmt: skip


@attrs.frozen(eq=False)
class Item:
    """A track that goes out: what is known of it, as a side and as words, its file, and the sound in it."""

    side: Side
    known: Outgoing
    path: Path
    sound: Sound


@attrs.frozen
class Choices:
    """What is done of what is proposed: tracks that wander made straight, lost hot cues kept as standby cues."""

    straighten: bool = False
    standby: bool = True


NEW, SAME, AGAIN = "new", "same", "again"


@attrs.frozen(eq=False)
class Step:
    """What becomes of a track.

    Attributes
    ----------
    goal : what its file becomes
    losses : what is to be said of it
    file, jams : where its files go, from the folder; `jams` is empty where the player reads none
    preparation : what goes along
    wants : a digest of all that the file is made from
    state : `NEW`, `SAME` as what is there, or to be written `AGAIN`
    room : bytes that it takes, some
    straight : whether it is straightened
    duration : of what is written, s
    """

    item: Item
    goal: Goal
    losses: tuple[Loss, ...]
    file: str
    jams: str
    preparation: Preparation
    wants: str
    state: str
    room: int
    straight: bool
    duration: float


@attrs.frozen(eq=False)
class Plan:
    """All that would be done.

    Attributes
    ----------
    steps : a track each, in the order of the list; one that stands in it twice is written once
    order : which step each place of the list is
    leftovers : files that Mervid wrote there, of tracks that are no longer in the list
    needed, free : bytes
    lists : names of lists, with the places that each holds
    """

    profile: Profile
    out: Path
    title: str
    steps: tuple[Step, ...]
    order: tuple[int, ...]
    leftovers: tuple[Entry, ...]
    needed: int
    free: int
    lists: tuple[tuple[str, tuple[int, ...]], ...]
    template: Template

    @property
    def fits(self) -> bool:
        """Whether there is room for all of it."""
        return self.needed <= self.free

    @property
    def todo(self) -> int:
        """How many tracks are to be written."""
        return sum(s.state != SAME for s in self.steps)


def item(side: Side, known: Outgoing, path: Path) -> Item:
    """A track with the sound in its file. Raises `AudioError`."""
    found = decoding.probe(path)
    codec = _CODECS.get(found.decoder, found.decoder.split()[-1])
    bits = encoding.bits_of(path)
    if codec == "alac":
        bits = 16
    size = decoding.state_of(path).size
    return Item(side, known, path, Sound(codec, found.rate, bits, found.channels, size, side.duration))


def plan(items: Sequence[Item], profile: Profile, out: Path, title: str, choices: Choices, template: Template) -> Plan:
    """What would be written into `out`, and what would be lost.

    Raises
    ------
    FormatError
        What lies in `out` is not understood, see `delivered.Ledger`.
    OSError
        It can't be looked at.
    """
    ledger = Ledger(out)
    music = "Music/" if profile.depth else ""
    # what others put there is not Mervid's to write over
    taken = {safe_names.folded(n) for n in _there(out, music) if n not in ledger.entries}
    kept = {e.track: e for e in ledger.entries.values() if e.kind == SOUND}
    places: dict[str, int] = {}
    steps: list[Step] = []
    order = []
    for one in items:
        key = os.fsdecode(os.path.abspath(one.path))
        if key not in places:
            places[key] = len(steps)
            steps.append(_step(one, profile, choices, template, music, taken, kept, ledger))
        order.append(places[key])
    made = tuple(steps)
    wanted = {s.file for s in made} | {s.jams for s in made}
    lists = _lists(title, order, profile)
    names = {f"{list_folder(profile)}{list_file(n, k, profile)}" for n, _ in lists for k in profile.lists}
    # another list of the same stick stays: only tracks that no list of it names any more are left over
    others = _named_elsewhere(out, ledger, names)
    # a JAMS stays with its recording
    stay = wanted | others | {f"{HOME}/{Path(f).stem}{exchange.JAMS}" for f in others}
    leftovers = tuple(e for e in ledger.entries.values() if e.kind != LIST and e.file not in stay)
    todo = [s for s in made if s.state != SAME]
    needed = sum(s.room for s in todo) + (max((s.room for s in todo), default=0) if todo else 0) + _SPARE
    free = shutil.disk_usage(_standing(out)).free
    return Plan(profile, out, title, made, tuple(order), leftovers, needed, free, lists, template)


def _standing(out: Path) -> Path:
    """The folder, or the nearest one above it that is there."""
    while not out.exists() and out != out.parent:
        out = out.parent
    return out


def _there(out: Path, music: str) -> list[str]:
    folder = out / music if music else out
    if not folder.is_dir():
        return []
    return [f"{music}{p.name}" for p in folder.iterdir()]


def _named_elsewhere(out: Path, ledger: Ledger, names: set[str]) -> set[str]:
    found: set[str] = set()
    for e in ledger.entries.values():
        if e.kind == LIST and e.file not in names and (out / e.file).is_file():
            try:
                found |= {os.path.relpath(f, out) for f in playlist.read(out / e.file).files}
            except MervidError:
                continue
    return found


def _step(
    one: Item,
    profile: Profile,
    choices: Choices,
    template: Template,
    music: str,
    taken: set[str],
    kept: Mapping[str, Entry],
    ledger: Ledger,
) -> Step:
    p = one.side.preparation
    found = losses.losses(one.sound, p, profile)
    straight = choices.straighten and any(x.proposal == losses.STRAIGHTEN for x in found)
    goal, duration = losses.goal(one.sound, profile), one.side.duration
    if straight:
        try:
            laid = straighten.lay(one.side, straighten.proposed(one.side))
            p, duration = straighten.carried(one.side, laid), laid.duration
            # what is rendered anew is lossless, whatever it was
            goal = losses.straight_goal(one.sound, profile)
        except Refused as e:
            straight = False
            found = (*found, Loss(f"It can't be straightened: {e}"))
    p = attrs.evolve(p, cues=losses.arriving(p, profile, standby=choices.standby))
    values = outgoing.values(one.known, template) if profile.tags else {}
    track = identity(one)
    name = _name(one, goal, profile, music, taken, kept.get(track))
    wants = _wants(one, profile, goal, p, values, straight)
    there = ledger.entries.get(name)
    state = NEW
    if there is not None:
        path = ledger.out / name
        same = there.wants == wants and path.is_file() and path.stat().st_size == there.size
        state = SAME if same else AGAIN
    room = one.sound.size + (1 << 16)
    if not goal.copied:
        bits = goal.bits * goal.rate * min(2, one.sound.channels) if goal.bits else profile.kbps * 1000
        room = int(one.sound.seconds * bits / 8) + (1 << 16)
    jams = f"{HOME}/{Path(name).stem}{exchange.JAMS}" if profile.jams and p.grid is not None else ""
    return Step(one, goal, found, name, jams, p, wants, state, room, straight, duration)


def identity(one: Item) -> str:
    """Which recording it is, by where it lies."""
    return hashlib.sha256(os.fsencode(os.path.abspath(one.path))).hexdigest()[:24]


def _name(one: Item, goal: Goal, profile: Profile, music: str, taken: set[str], before: Entry | None) -> str:
    """A name that the disk holds; the one it had, where it still fits."""
    said = one.known.shown
    stem = f"{said.artists} - {said.title}" if said.artists else said.title or shown(one.path.stem)
    stem = safe_names.safe(stem, letters=profile.letters)
    most = profile.longest_name
    if before is not None:
        at = Path(before.file)
        plain = at.stem.rsplit(" (", 1)[0]
        same = at.suffix == goal.ending and safe_names.folded(plain) == safe_names.folded(
            Path(safe_names.cut(stem, goal.ending, most)).stem
        )
        if same and not taken.intersection(_names(before.file)) and before.file == f"{music}{at.name}":
            taken.update(_names(before.file))
            return before.file
    name, k = f"{music}{safe_names.cut(stem, goal.ending, most)}", 2
    while taken.intersection(_names(name)):
        name, k = f"{music}{safe_names.cut(stem, f' ({k}){goal.ending}', most)}", k + 1
    taken.update(_names(name))
    return name


def _names(file: str) -> tuple[str, str]:
    """What a recording's name takes: itself, and its stem, which names the JAMS of one recording only."""
    return safe_names.folded(file), safe_names.folded(os.path.splitext(file)[0])


def _wants(one: Item, profile: Profile, goal: Goal, p: Preparation, values: Mapping[str, str], straight: bool) -> str:
    state = decoding.state_of(one.path)
    about = [
        attrs.asdict(goal), profile.kbps, profile.tags, profile.chapters, profile.jams, state.size, state.changed_ns,
        dict(values), to_json(attrs.evolve(p, notes="", seen=(), hints=())), straight,
        str(one.side.form) if p.form is None else "",
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(about, sort_keys=True).encode("utf-8", "surrogateescape")).hexdigest()[:32]


def _lists(title: str, order: Sequence[int], profile: Profile) -> tuple[tuple[str, tuple[int, ...]], ...]:
    """The list, or as many as it takes where a player shows no longer ones."""
    most = profile.longest_list or len(order) or 1
    parts = [tuple(order[a : a + most]) for a in range(0, len(order), most)]
    if len(parts) < 2:
        return tuple((title, part) for part in parts)
    return tuple((f"{title} {k}", part) for k, part in enumerate(parts, 1))


def list_folder(profile: Profile) -> str:
    """Where lists lie, from the folder."""
    return "Lists/" if profile.depth else ""


def list_file(name: str, kind: str, profile: Profile) -> str:
    """The file of a list."""
    stem = safe_names.safe(name, letters=profile.letters)
    return safe_names.cut(stem, f".{kind}", profile.longest_name)


def sentences(p: Plan) -> list[str]:
    """What is to be said of the whole."""
    out = []
    copied = sum(s.goal.copied for s in p.steps)
    made = len(p.steps) - copied
    out.append(f"{len(p.steps)} tracks: {copied} copied bit for bit" + (f", {made} converted." if made else "."))
    if len(p.lists) > 1:
        out.append(f"This player shows {p.profile.longest_list} tracks of a list: it becomes {len(p.lists)} lists.")
    again = sum(s.state == SAME for s in p.steps)
    if again:
        out.append(f"{again} of them are there already, and stay.")
    if p.leftovers:
        out.append(f"{len(p.leftovers)} files that Mervid wrote there are in no list any more.")
    if not p.fits:
        out.append(f"There is too little room: {_mb(p.needed)} are needed, and {_mb(p.free)} are free.")
    return out


def _mb(size: int) -> str:
    return f"{size / 1e9:.1f} GB" if size > 1e9 else f"{max(1, round(size / 1e6))} MB"
