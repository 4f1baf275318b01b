"""Gather: recordings in, the right one found, lists for the gig."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ....core.library import filters
from ....core.library.filters import Filter, Search
from ....store.search import NEEDS_PERSON
from ...session.session import Session
from ...theme.tr import tr
from ..frame import EDIT_KEYS, MOVE_KEYS, SIDEWAYS_KEYS, OwnKeys, Stage
from .library_commands import LibraryCommands
from .list_commands import ListCommands
from .shelf_tree import QUICKS
from .surface import GatherSurface

PAGE_KEYS = {Qt.Key.Key_PageUp, Qt.Key.Key_PageDown}


class GatherStage(Stage):
    """The library as a table, with lists beside it."""

    key, title, shortcut = "gather", "Gather", "F2"
    tip = "The library: find tracks, see what waits, make lists"
    sets = (LibraryCommands, ListCommands)
    own_side = True
    mouse = (
        ("Click a head of the table", "Sort by it; with Shift by it as well; right click chooses columns"),
        ("Double click a row", "Work on that track in Align"),
        ("Drag rows onto a list", "Put them into it; in a list, drag rows to order them"),
        ("Drag a list", "Into a folder, or to another place"),
    )

    guide: ClassVar = {"": ("gather", "")}

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = GatherSurface(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.library = LibraryCommands(session, self.view)
        self.lists = ListCommands(session, self.view)
        self.use(self.library, self.lists)
        self._connect()

    def _connect(self) -> None:
        v, s = self.view, self.session
        v.table.chosen.connect(s.open)
        v.table.entered.connect(self.library.enter_track)
        v.table.deleted.connect(lambda: self.ask("take-out"))
        v.table.menu_wanted.connect(lambda at: self.ask("row-menu", at))
        v.table.moved.connect(lambda rows, before: self.ask("shift-rows", (rows, before)))
        v.entered.connect(lambda: self.asked.emit("to-stage", "align"))
        v.search.to_table.connect(self._to_table)
        v.search.keep_wanted.connect(lambda: self.ask("keep-search"))
        v.panel.asked.connect(self.ask)
        tree = v.side.tree
        tree.shelf_chosen.connect(s.shown.show)
        tree.quick_chosen.connect(lambda k: self.lists.show_quick(QUICKS[k][1]))
        tree.folder_chosen.connect(self._show_folder)
        tree.given.connect(lambda number, ids: self.ask("give", (number, ids)))
        tree.files_dropped.connect(lambda paths: s.queue.add_files(paths, as_lists=True))
        tree.moved.connect(s.bookcase.move)
        tree.renamed.connect(s.bookcase.rename)
        tree.delete_wanted.connect(s.bookcase.delete)
        tree.menu_wanted.connect(lambda at, kind, number: self.ask("shelf-menu", (at, kind, number)))
        tree.folder_menu_wanted.connect(lambda at, folder: self.ask("folder-menu", (at, folder)))
        v.side.make_wanted.connect(lambda kind: self.ask("make", kind))
        v.side.watch_wanted.connect(lambda: self.ask("watch"))
        s.bookcase.changed.connect(self._lists_changed)

    def _lists_changed(self) -> None:
        if self.session.shown.number:
            self.session.shown.refresh()

    def _show_folder(self, folder: Path) -> None:
        self.lists.show_quick(Search(filters=(Filter(filters.FOLDER, text=str(folder)),)))

    def _to_table(self) -> None:
        table = self.view.table
        table.setFocus(Qt.FocusReason.OtherFocusReason)
        if len(self.session.shown) and not table.currentIndex().isValid():
            table.selectRow(0)

    def ask(self, name: str, argument: Any = None) -> None:
        """Carry out a request; most need no open track."""
        self._handlers[name](argument)

    def enter(self) -> None:
        self.view.table.follow()
        if self.session.track.row is not None and not self.session.selection.ids:
            self.view.table.choose([self.session.track.row.id])
        self.view.panel.show_chosen()

    def undo_names(self) -> tuple[str | None, str | None] | None:
        return self.session.bookcase.names()

    def waiting(self) -> tuple[int, str]:
        sql = f"SELECT count(*) FROM tracks WHERE out=0 AND {NEEDS_PERSON}"
        return int(self.session.library.rows(sql)[0][0]), tr("in need of a person")

    def own_keys(self) -> OwnKeys:
        lines: list[tuple[QWidget, set[Qt.Key]]] = [
            (self.view.table, MOVE_KEYS | EDIT_KEYS | PAGE_KEYS | SIDEWAYS_KEYS),
            (self.view.side.tree, MOVE_KEYS | EDIT_KEYS | PAGE_KEYS | SIDEWAYS_KEYS),
            (self.view.search.line, {Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Down}),
        ]
        return lines

    @property
    def first(self) -> QWidget:
        return self.view.table
