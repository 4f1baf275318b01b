"""JAMS of many tracks: from a folder made elsewhere, taken over by the tracks they belong to; and one of each."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from contextlib import closing
from pathlib import Path

import attrs

from ..core.delivery import safe_names
from ..core.edits import track_edits
from ..core.errors import FormatError, MervidError
from ..core.model import preparation
from ..formats import exchange, limits
from ..store.library import Library
from ..store.sides import side
from ..store.track import READY

_APART_S = 0.5
"""Two lengths of one recording differ by no more."""


@attrs.frozen
class Taken:
    """What came of a folder: tracks that took something over, how many had it already, and sentences for the rest."""

    tracks: tuple[int, ...]
    same: int
    problems: tuple[str, ...]


def files_of(folder: Path) -> list[Path]:
    """The JAMS files of a folder and below. Raises `FormatError` where there is none."""
    found = sorted(p for p in folder.rglob("*.jams") if p.is_file())
    if not found:
        raise FormatError(f"There is no JAMS file in {folder.name}.")
    return found


def take(library: Library, files: Iterable[Path]) -> Taken:
    """Let tracks take over what their JAMS says; each is an edit that can be undone, and locked tracks stay.

    A JAMS belongs to the track whose file has its name, or else whose title and length it states.
    """
    by_stem: dict[str, list[int]] = {}
    by_title: dict[str, list[int]] = {}
    for number, path in library.every_path():
        by_stem.setdefault(path.stem.casefold(), []).append(number)
    for track in library.tracks():
        by_title.setdefault(track.title.casefold(), []).append(track.id)
    taken: list[int] = []
    problems: list[str] = []
    same = 0
    for file in files:
        try:
            number = _owner(library, file, by_stem, by_title)
            track = library.track(number)
            if track.state != READY:
                raise FormatError(f"{track.title} isn't heard yet")
            now = library.history(number).preparation
            preparation.refuse_locked(now)
            value = exchange.take(file, now)
            if value == now:
                same += 1
                continue
            library.edit(number, preparation.name_of(track_edits.take_over), value)
            taken.append(number)
        except UnicodeDecodeError:
            problems.append(f"{file.name}: this is no text.")
        except OSError as e:
            problems.append(f"{file.name}: {e.strerror or e}.")
        except MervidError as e:
            problems.append(f"{file.name}: {e}")
    return Taken(tuple(taken), same, tuple(problems))


def _owner(library: Library, file: Path, by_stem: dict[str, list[int]], by_title: dict[str, list[int]]) -> int:
    found = by_stem.get(file.stem.casefold(), [])
    try:
        whole = json.loads(limits.text_of(file))
        said = whole["file_metadata"] if isinstance(whole, dict) else None
    except (ValueError, KeyError, RecursionError):
        raise FormatError("this is no JAMS.") from None
    if not isinstance(said, dict):
        raise FormatError("this is no JAMS: it has no file_metadata.")
    if not found:
        found = by_title.get(str(said.get("title", "")).casefold(), [])
    length = said.get("duration")
    if isinstance(length, int | float) and length > 0:
        found = [i for i in found if abs(library.track(i).duration - float(length)) <= _APART_S]
    if not found:
        raise FormatError("no track of your library has this name and length.")
    if len(found) > 1:
        raise FormatError(f"{len(found)} tracks have this name: it isn't plain which one is meant.")
    return found[0]


# out


def each(path: Path) -> Iterator[tuple[str, bytes]]:
    """A JAMS of each track that has a grid, by name."""
    library = Library.reader(path)
    if library is None:
        return
    taken: set[str] = set()
    with closing(library):
        for number in library.ids():
            track = library.track(number)
            if track.state != READY:
                continue
            try:
                what = side(library, track)
                subject = exchange.Subject(
                    what.preparation,
                    what.evidence,
                    track.title,
                    track.duration,
                    track.path,
                    track.rate,
                    track.known_key,
                )
                text = exchange.export_text(subject, as_jams=True)
            except MervidError:
                continue
            name = safe_names.unlike(safe_names.safe(track.path.stem), exchange.JAMS, taken)
            taken.add(safe_names.folded(name))
            yield f"jams/{name}", text.encode()
