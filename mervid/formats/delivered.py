"""A folder for a player as it lies on a stick: its ledger, and what a player finds in it.

    Music/        recordings
    Lists/        M3U8 and XSPF
    Mervid/       one JAMS a track, the player's profile, and the ledger: what was written, with its size and hash

A player that knows no folders has Music and Lists at the top. The ledger is written after every file, so that a run
that was broken off goes on where it stopped, and nothing is ever removed that is not in it.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable
from pathlib import Path

import attrs
import numpy as np

from ..core.delivery.profile import Profile
from ..core.errors import FormatError, MervidError
from ..core.library.tags import Tags
from ..core.model.beatgrid import Grid, steady
from ..core.model.cue import Cue
from ..core.model.preparation import Preparation
from . import chapters, exchange, playlist, profile_files, safe_file, tag_files

HOME, LEDGER, LOG, PROFILE = "Mervid", "ledger.json", "ledger.log", "player.toml"
SOUND, JAMS, LIST = "sound", "jams", "list"
_VERSION = 1
_MOST_BYTES = 64 << 20


@attrs.frozen
class Entry:
    """One file that Mervid wrote.

    Attributes
    ----------
    file : from the folder, with /
    kind : `SOUND`, `JAMS` or `LIST`
    track : which recording it belongs to, by its sound; empty for lists
    wants : a digest of all that it was made from
    size, sha256 : of the file
    """

    file: str
    kind: str
    track: str
    wants: str
    size: int
    sha256: str


class Ledger:
    """What was written into a folder. Raises `FormatError` where what stands there is no ledger.

    While it is being written, lines are added to a log beside it: a stick is slow, and a list may have thousands.
    """

    def __init__(self, out: Path) -> None:
        self.out, self._path, self._log = out, out / HOME / LEDGER, out / HOME / LOG
        self.entries: dict[str, Entry] = {}
        try:
            if self._path.exists():
                if self._path.stat().st_size > _MOST_BYTES:
                    raise ValueError
                said = json.loads(self._path.read_bytes())
                if said["version"] != _VERSION:
                    raise FormatError(f"{self._path} was written by a newer Mervid.")
                for e in said["files"]:
                    self._take(Entry(**e))
            if self._log.exists():
                self._replay(self._log.read_bytes()[:_MOST_BYTES])
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            raise FormatError(
                f"{self._path} can't be read, so that it isn't known what Mervid wrote here: choose another folder."
            ) from None

    def _take(self, e: Entry) -> None:
        # nothing outside the folder was ever written by way of it
        if not e.file.startswith("/") and ".." not in Path(e.file).parts:
            self.entries[e.file] = e

    def _replay(self, data: bytes) -> None:
        # the last line may be half a line: whoever wrote it was killed
        for line in data.split(b"\n")[:-1]:
            said = json.loads(line)
            if "gone" in said:
                self.entries.pop(said["gone"], None)
            else:
                self._take(Entry(**said))

    def put(self, entry: Entry) -> None:
        """Note a file. Raises `OSError`."""
        self.entries[entry.file] = entry
        self._add(attrs.asdict(entry))

    def drop(self, file: str) -> None:
        """Forget a file. Raises `OSError`."""
        self.entries.pop(file, None)
        self._add({"gone": file})

    def _add(self, said: dict[str, object]) -> None:
        self._log.parent.mkdir(parents=True, exist_ok=True)
        with self._log.open("ab") as f:
            f.write(json.dumps(said, ensure_ascii=False).encode("utf-8", "surrogateescape") + b"\n")
            f.flush()
            os.fsync(f.fileno())

    def settle(self) -> None:
        """Write all of it in one, and put the log away. Raises `OSError`."""
        said = {"version": _VERSION, "files": [attrs.asdict(e) for e in self.entries.values()]}
        text = json.dumps(said, ensure_ascii=False, indent=1)
        self._path.parent.mkdir(parents=True, exist_ok=True)
        safe_file.write(self._path, lambda f: f.write(text.encode("utf-8", "surrogateescape")))
        self._log.unlink(missing_ok=True)


def sha256(path: Path, *, from_disk: bool = False) -> str:
    """The hash of a file; what the system keeps of it in memory is let go of first, where it does that."""
    with path.open("rb") as f:
        if from_disk:
            os.posix_fadvise(f.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        return hashlib.file_digest(f, "sha256").hexdigest()


def put(
    target: Path, fill: Callable[[Path], object], note: Callable[[int, str], object] = lambda size, digest: None
) -> tuple[int, str]:
    """Write a file, read it back from the disk, and put it in its place; its size and hash.

    Parameters
    ----------
    note : is given both before the file gets its name, so that a kill leaves no file that nobody knows

    Raises
    ------
    FormatError
        What is read back is not what was written.
    OSError
        It can't be written.
    """
    target.parent.mkdir(parents=True, exist_ok=True)
    found = ("", 0)

    def proved(part: Path) -> None:
        nonlocal found
        fill(part)
        wrote = sha256(part)
        with part.open("rb") as f:
            os.fsync(f.fileno())
        if sha256(part, from_disk=True) != wrote:
            raise FormatError(f"{target.name} doesn't read back as it was written: is the stick sound?")
        found = (wrote, part.stat().st_size)
        note(found[1], wrote)

    safe_file.put_new(target, proved, over=True)
    return found[1], found[0]


# what a player finds


@attrs.frozen(eq=False)
class Loaded:
    """A track as a player has it, from the written files alone.

    Attributes
    ----------
    path : the recording
    title, artists, key : from its tags
    tempo : BPM, by its tags; None where they don't say
    grid : what it syncs by; None where it has none
    preparation : cues and phrases as they came
    worst : how far its grid lies from the one that came, ms; 0 where it follows that
    """

    path: Path
    title: str
    artists: str
    key: str
    tempo: float | None
    grid: Grid | None
    preparation: Preparation
    worst: float


@attrs.frozen(eq=False)
class Stick:
    """A folder as a player reads it: what it is, and its lists in order, each with its files."""

    folder: Path
    profile: Profile
    lists: tuple[tuple[str, tuple[Path, ...]], ...]
    problems: tuple[str, ...]


def read(folder: Path) -> Stick:
    """A folder that was written for a player.

    Raises
    ------
    FormatError
        It holds no player's profile, so that no one knows who is to read it.
    """
    profile = profile_files.load(folder / HOME / PROFILE)
    where = folder / "Lists" if profile.depth else folder
    lists: list[tuple[str, tuple[Path, ...]]] = []
    problems: list[str] = []
    for kind in profile.lists:
        for path in sorted(where.glob(f"*.{kind}")) if not lists else ():
            try:
                said = playlist.read(path)
            except FormatError as e:
                problems.append(str(e))
                continue
            gone = [f.name for f in said.files if not f.is_file()]
            problems += [f"{name} is in {said.title}, and isn't on the stick." for name in gone]
            lists.append((said.title, tuple(f for f in said.files if f.is_file())))
    return Stick(folder, profile, tuple(lists), tuple(problems))


def load(stick: Stick, path: Path) -> Loaded:
    """A track of a stick as its player has it. Raises `FormatError` where it can't be read."""
    profile = stick.profile
    words, _ = tag_files.read(path)
    found = chapters.read(path)
    tempo = _number(found.words.get("tempo", "")) if profile.tags else None
    came = Preparation()
    beside = stick.folder / HOME / f"{path.stem}{exchange.JAMS}"
    if profile.jams and beside.is_file():
        try:
            came = exchange.take(beside, Preparation())
        except (MervidError, OSError, UnicodeDecodeError):
            came = Preparation()
    elif profile.chapters and found.chapters:
        came = Preparation(cues=_of_chapters(found, profile))
    grid, worst = came.grid, 0.0
    if grid is not None and not profile.variable_grids:
        grid, worst = _one_tempo(grid)
    elif grid is None and tempo is not None and profile.tags and 20 <= tempo <= 400:
        first = found.beats[0] if found.beats else found.chapters[0].start if found.chapters else 0.0
        grid = steady(tempo=tempo, first=first)
    said = words.tags if profile.tags else Tags()
    return Loaded(path, said.title or path.stem, said.artists, found.words.get("key", ""), tempo, grid, came, worst)


def _number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None


def _of_chapters(found: chapters.Found, profile: Profile) -> tuple[Cue, ...]:
    """Chapters as cues: the first ones are hot, all are places to wait at."""
    out = []
    for k, c in enumerate(found.chapters[: max(profile.hot_cues, profile.standby_cues)]):
        hot = k < profile.hot_cues
        kind = "both" if hot and k < profile.standby_cues else "hot" if hot else "standby"
        out.append(Cue(f"chapter{k}", c.text[:80] or f"{k + 1}", time=c.start, kind=kind, slot=k if hot else None))
    return tuple(out)


def _one_tempo(grid: Grid) -> tuple[Grid, float]:
    """The single tempo that a player makes of a grid, and how far off it is at worst, ms."""
    beats = np.arange(np.ceil(grid.beats[0]), np.floor(grid.beats[-1]) + 1)
    times = np.asarray(grid.time_at(beats))
    if len(beats) < 2:
        return grid, 0.0
    slope, first = np.polyfit(beats, times, 1)
    made = attrs.evolve(steady(tempo=60 / float(slope), first=float(first)), meter=grid.meter)
    return made, float(np.abs(times - first - slope * beats).max() * 1000)
