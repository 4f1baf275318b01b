"""Commands on lists: make, rename, delete, put tracks in, write to a file, watch a folder."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPoint, QSettings
from PyQt6.QtWidgets import QFileDialog, QMenu

from ....core.library import filters
from ....core.library.filters import Filter, Search
from ....formats import playlist
from ....store import lists
from ...commands.command import CommandSet, command, request
from ...names import kept_folder
from ...session.session import Session
from ...theme.tr import tr
from . import filter_menu
from .surface import GatherSurface

LISTS = "Lists"


class ListCommands(CommandSet):
    """What can be done to lists and watched folders."""

    def __init__(self, session: Session, view: GatherSurface) -> None:
        self.session, self.view, self.case, self.shown = session, view, session.bookcase, session.shown

    def _parent(self) -> int:
        """The folder that is seen, for what is made new."""
        return self.shown.number if self.shown.kind == lists.FOLDER else 0

    @command("Ctrl+N", "New list; with the chosen tracks in it", LISTS, also="playlist set make", typing=True)
    def new_list(self, _: object) -> None:
        chosen = self.session.selection.ids if len(self.session.selection.ids) > 1 else []

        def take(name: str) -> None:
            number = self.case.make(lists.LIST, name, parent=self._parent())
            if number is not None:
                if chosen:
                    self.case.add(number, chosen)
                self.view.side.tree.choose_shelf(number)

        what = tr("New list of {0:,} tracks").format(len(chosen)) if chosen else tr("New list")
        self.view.ask_text(what, "Name", "", take)

    @command("Ctrl+Shift+N", "New folder for lists", LISTS, also="group nest")
    def new_folder(self, _: object) -> None:
        self.view.ask_text(
            tr("New folder for lists"), "Name", "", lambda n: self.case.make(lists.FOLDER, n, parent=self._parent())
        )

    @command("Ctrl+S", "Keep words and filters as a standing search", LISTS, also="smart save query", typing=True)
    def keep_search(self, _: object) -> None:
        search = self.shown.search
        if search.empty:
            self.session.say.refused(tr("Type words or choose a filter first: a standing search finds what they find."))
            return
        if self.shown.kind == lists.SEARCH:
            self.case.set_search(self.shown.number, search)
            self.session.say.done(tr("{0} looks for this from now on.").format(self.shown.title))
            return
        within = Filter(filters.LIST, text=self.shown.title, number=self.shown.number)
        whole = search.with_filter(within) if self.shown.kind == lists.LIST else search
        said = ", ".join([*([search.words] if search.words else []), *(f.words for f in search.filters)])

        def take(name: str) -> None:
            number = self.case.make(lists.SEARCH, name, search=whole)
            if number is not None:
                self.view.side.tree.choose_shelf(number)

        self.view.ask_text(tr("Standing search"), "Name", said[:60], take)

    @request
    def make(self, kind: object) -> None:
        (self.new_list if kind == lists.LIST else self.new_folder)(None)

    @request
    def watch(self, _: object) -> None:
        name = QFileDialog.getExistingDirectory(
            self.view, tr("Watch this folder, and all below it"), str(QSettings().value("folder", str(Path.home())))
        )
        if name:
            QSettings().setValue("folder", name)
            self.session.folders.watch(Path(name))

    @command("Ctrl+R", "Look at all files: what is new, moved or missing", LISTS, also="rescan refresh watched folders")
    def look_at_files(self, _: object) -> None:
        self.session.folders.look()

    @request
    def give(self, pair: tuple[int, list[int]]) -> None:
        number, ids = pair
        self.case.add(number, ids)

    @command("Ctrl+G", "Put the chosen tracks into a list", LISTS, also="add playlist")
    def put_into(self, _: object) -> None:
        ids = list(self.session.selection.ids)
        held = [s for s in self.case.lists.all() if s.kind == lists.LIST]
        if not ids or not held:
            self.session.say.refused(
                tr("Choose tracks first.") if held else tr("There is no playlist yet: Ctrl+N makes one.")
            )
            return
        menu = QMenu(self.view)
        for shelf in held:
            menu.addAction(filter_menu.plain(shelf.name), lambda s=shelf: self.give((s.id, ids)))
        table = self.view.table
        menu.exec(table.mapToGlobal(table.rect().center()))

    @request
    def shift_rows(self, pair: tuple[list[int], int]) -> None:
        rows, before = pair
        self.case.shift(self.shown.number, rows, before)
        self.shown.refresh()

    @command("", "Keep the list as the table is sorted now", LISTS, also="order save sort")
    def keep_order(self, _: object) -> None:
        if self.shown.kind != lists.LIST or not self.shown.search.empty:
            self.session.say.refused(tr("Show a whole list, sorted as you like, first."))
            return
        self.case.keep_order(self.shown.number, [int(i) for i in self.shown.ids])
        self.shown.sort(())

    @command("Ctrl+Shift+S", "Write this list to a file", LISTS, also="export playlist m3u8 xspf", typing=True)
    def write(self, _: object) -> None:
        if self.shown.kind != lists.LIST:
            self.session.say.refused(tr("Choose a list at the left first."))
            return
        self.write_list(self.shown.number)

    def write_list(self, number: int) -> None:
        """Ask where, and whether by paths from there, and write a list."""
        kinds = (
            "List with paths from its own folder (*.m3u8)",
            "List with whole paths (*.m3u8)",
            "XSPF with paths from its own folder (*.xspf)",
            "XSPF with whole paths (*.xspf)",
        )
        folder = kept_folder("export") or Path.home()
        start = folder / f"{self.case.lists.one(number).name.replace('/', '-')}{playlist.M3U8}"
        name, kind = QFileDialog.getSaveFileName(self.view, tr("Write this list"), str(start), ";;".join(kinds))
        if not name:
            return
        ending = playlist.XSPF if kind in kinds[2:] else playlist.M3U8
        path = Path(name) if Path(name).suffix.lower() in (playlist.M3U8, playlist.XSPF) else Path(name + ending)
        QSettings().setValue("export", str(path.parent))
        self.case.write_list(number, path, relative=kind in (kinds[0], kinds[2]))

    # menus of the tree

    @request
    def shelf_menu(self, asked: tuple[QPoint, str, int]) -> None:
        where, kind, number = asked
        menu = QMenu(self.view)
        if number:
            menu.addAction(tr("Rename  (Shift+Enter)"), lambda: self.view.side.tree.edit_name(number))
            if kind == lists.LIST:
                menu.addAction(tr("Write to a file…"), lambda: self.write_list(number))
            if kind == lists.FOLDER:
                menu.addAction(tr("New list in it"), lambda: self._new_in(number))
            menu.addAction(tr("Delete  (Del)"), lambda: self.case.delete(number))
            menu.addSeparator()
        menu.addAction(tr("New list…"), lambda: self.new_list(None))
        menu.addAction(tr("New folder for lists…"), lambda: self.new_folder(None))
        menu.exec(where)

    def _new_in(self, parent: int) -> None:
        self.view.ask_text(tr("New list"), "Name", "", lambda name: self.case.make(lists.LIST, name, parent=parent))

    @request
    def folder_menu(self, asked: tuple[QPoint, Path]) -> None:
        where, folder = asked
        menu = QMenu(self.view)
        menu.addAction(tr("Make lists of it and all below"), lambda: self.session.lists_of_folder(folder))
        menu.addAction(tr("Look at it now"), self.session.folders.look)
        menu.addAction(tr("Watch it no longer"), lambda: self.session.folders.unwatch(folder))
        menu.exec(where)

    def show_quick(self, search: Search) -> None:
        """Show the whole library, and of it what this asks for."""
        self.shown.show(0)
        self.shown.ask(search)
