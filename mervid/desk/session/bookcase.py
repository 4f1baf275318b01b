"""What is done to the library itself: lists, tags, keys, what is taken out; one way back for all of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.errors import MervidError, Refused
from ...core.library.filters import Search
from ...core.pairs.meeting import Meeting
from ...formats import playlist
from ...formats.playlist import Entry
from ...store import lists
from ...store.lists import Branch, Lists
from ...store.pairs import Pairs
from ...store.search import states
from ...store.tagging import Tagging
from ...store.undo import Act, Undo
from ..theme.tr import tr
from .catalogue import Catalogue
from .messages import Messages

T = TypeVar("T")


class Bookcase(QObject):
    """`changed` when lists did, `acted` after anything that can be taken back; every refusal is said.

    What changes of tracks is told by the catalogue.
    """

    changed = pyqtSignal()
    acted = pyqtSignal()

    def __init__(self, catalogue: Catalogue, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.say = catalogue, catalogue.library, say
        self.undoing = Undo(self.library)
        self.lists, self.tagging = Lists(self.library, self.undoing), Tagging(self.library, self.undoing)
        self.pairs = Pairs(self.library, self.undoing)

    def _tried(self, act: Callable[[], T]) -> T | None:
        try:
            return act()
        except Refused as e:
            self.say.refused(str(e))
        except (MervidError, OSError) as e:
            self.say.problem(str(e))
        return None

    def _listed(self, act: Callable[[], T]) -> T | None:
        out = self._tried(act)
        self.changed.emit()
        self.acted.emit()
        return out

    # lists

    def make(self, kind: str, name: str, *, parent: int = 0, search: Search | None = None) -> int | None:
        """A new folder, list or standing search."""
        return self._listed(lambda: self.lists.make(kind, name, parent=parent, search=search))

    def make_branch(self, branch: Branch) -> int | None:
        """Lists for a playlist, or for a folder on the disk and all below it."""
        made = self._listed(lambda: self.lists.make_branch(branch))
        if made is not None:
            self.say.done(tr("{0} is a list now. Ctrl+Z in Gather takes it back.").format(branch.name))
        return made

    def rename(self, number: int, name: str) -> None:
        """Another name for a list."""
        self._listed(lambda: self.lists.rename(number, name))

    def set_notes(self, number: int, notes: str) -> None:
        """What a person wants to remember about a list."""
        self._listed(lambda: self.lists.set_notes(number, notes))

    def set_begins(self, number: int, begins: str) -> None:
        """When the first track of a list is played."""
        self._listed(lambda: self.lists.set_begins(number, begins))

    def set_search(self, number: int, search: Search) -> None:
        """Let a standing search look for something else."""
        self._listed(lambda: self.lists.set_search(number, search))

    def move(self, number: int, parent: int, place: int) -> None:
        """A list into another folder or place."""
        self._listed(lambda: self.lists.move(number, parent, place))

    def delete(self, number: int) -> None:
        """A list, or a folder with all in it."""
        shelf = self._tried(lambda: self.lists.one(number))
        if shelf is not None:
            self._listed(lambda: self.lists.delete(number))
            self.say.done(tr("{0} is deleted; no track is touched. Ctrl+Z brings it back.").format(shelf.name))

    def add(self, number: int, tracks: Sequence[int], place: int | None = None) -> None:
        """Put tracks into a list."""
        self._listed(lambda: self.lists.add(number, tracks, place=place))

    def take(self, number: int, places: Sequence[int]) -> None:
        """Take places out of a list."""
        self._listed(lambda: self.lists.take(number, places))

    def shift(self, number: int, places: Sequence[int], before: int) -> None:
        """Another order of a list."""
        self._listed(lambda: self.lists.shift(number, places, before))

    def keep_order(self, number: int, tracks: Sequence[int]) -> None:
        """Keep a list as the table is sorted."""
        self._listed(lambda: self.lists.set_order(number, tracks))

    def stands(self, number: int) -> str:
        """What is ready in a list and what isn't: 'Gig list: 31 ready, 4 to check, 1 missing'."""
        shelf = self._tried(lambda: self.lists.one(number))
        if shelf is None or shelf.kind != lists.LIST:
            return ""
        found = states(self.library, number)
        said = [f"{n} {name}" for name, n in found.items() if n]
        return f"{shelf.name}: {', '.join(said) if said else 'empty'}"

    # pairs

    def keep_pair(self, leaving: int, coming: int, meeting: Meeting, notes: str | None = None) -> bool:
        """Keep where two tracks meet; whether that was done."""
        return self._pair(lambda: self.pairs.keep(leaving, coming, meeting, notes=notes))

    def forget_pair(self, leaving: int, coming: int) -> bool:
        """Forget where two tracks meet; whether that was done."""
        return self._pair(lambda: self.pairs.forget(leaving, coming))

    def _pair(self, act: Callable[[], None]) -> bool:
        before = len(self.undoing.done), self.undoing.done[-1:]
        self._tried(act)
        self.acted.emit()
        return (len(self.undoing.done), self.undoing.done[-1:]) != before

    # in and out

    def write_list(self, number: int, path: Path, *, relative: bool) -> bool:
        """Write a list as a file; whether that was done."""

        def act() -> bool:
            shelf = self.lists.one(number)
            entries = [Entry(*e) for e in self.lists.paths(number)]
            playlist.write(path, shelf.name, entries, relative=relative, sources=self.library.sources())
            self.say.done(tr("{0} is written to {1}: {2} tracks.").format(shelf.name, path, len(entries)))
            return True

        return bool(self._tried(act))

    # tags

    def tag(self, ids: Sequence[int], act: Callable[[Tagging], T]) -> T | None:
        """Do something to the words of these tracks."""
        out = self._tried(lambda: act(self.tagging))
        self.catalogue.tell_many(list(ids))
        self.acted.emit()
        return out

    def take_out(self, ids: Sequence[int]) -> None:
        """Take tracks out of the library; their files stay."""
        if not ids:
            return
        self._tried(lambda: self.tagging.take_out(ids))
        self.catalogue.tell_removed(list(ids))
        self.changed.emit()
        self.acted.emit()
        what = tr("A track is") if len(ids) == 1 else tr("{0:,} tracks are").format(len(ids))
        self.say.done(tr("{0} out of the library; no file is touched. Ctrl+Z in Gather puts it back.").format(what))

    # back

    def undo(self) -> None:
        """Take the last act back."""
        self._step(self.undoing.undo, tr("Taken back"))

    def names(self) -> tuple[str | None, str | None]:
        """The acts that undo and redo would touch."""
        done, undone = self.undoing.done, self.undoing.undone
        return (done[-1].name if done else None), (undone[-1].name if undone else None)

    def redo(self) -> None:
        """Do it again."""
        self._step(self.undoing.redo, tr("Done again"))

    def _step(self, step: Callable[[], Act | None], word: str) -> None:
        act = self._tried(step)
        if act is None:
            self.say.refused(
                tr("There is nothing more to take back.")
                if word == "Taken back"
                else tr("There is nothing to do again.")
            )
            return
        self.say.done(f"{word}: {act.name[:1].lower()}{act.name[1:]}.")
        if act.tracks:
            self.catalogue.reread()
        self.changed.emit()
        self.acted.emit()
