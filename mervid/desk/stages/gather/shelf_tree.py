"""The left side of Gather: the whole library and ways into it, lists in folders, standing searches, watched folders."""

from __future__ import annotations

import os
from pathlib import Path

import attrs
from PyQt6.QtCore import QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFont,
    QKeyEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QMenu,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
)

from ....core.errors import MervidError
from ....core.library import filters
from ....core.library.filters import Filter, Search
from ....store import lists
from ...session.catalogue import PROGRESS
from ...session.session import Session
from ...theme.style import Theme, font
from ...theme.tr import tr
from ...widgets import file_dialogs, outward
from ...widgets.parts import EditByKey
from ...widgets.table_model import dragged
from .shelf_painter import COUNT, FOLDER, HEAD, HINT, KIND, NUMBER, QUICK, WATCHED, ShelfPainter

COUNTS_MS = 400
QUICKS: tuple[tuple[str, Search], ...] = (
    ("All tracks", Search()),
    ("Need a person", Search(filters=(Filter(filters.PERSON),))),
    ("Not heard yet", Search(filters=(Filter(filters.READINESS, text=filters.UNHEARD),))),
    ("File missing", Search(filters=(Filter(filters.MISSING),))),
    ("There more than once", Search(filters=(Filter(filters.COPIES),))),
)
"""Ways into the library that are always there, and what they ask."""


class ShelfTree(QTreeWidget):
    """Emits what is chosen and what is wanted of lists; nothing is changed here."""

    shelf_chosen = pyqtSignal(int)
    quick_chosen = pyqtSignal(int)
    folder_chosen = pyqtSignal(object)
    given = pyqtSignal(int, list)
    files_dropped = pyqtSignal(list)
    moved = pyqtSignal(int, int, int)
    renamed = pyqtSignal(int, str)
    delete_wanted = pyqtSignal(int)
    menu_wanted = pyqtSignal(QPoint, str, int)
    folder_menu_wanted = pyqtSignal(QPoint, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("shelves")
        self.setAccessibleName(tr("Lists"))
        self.setHeaderHidden(True)
        self.setRootIsDecorated(False)
        self.setIndentation(12)
        self.setItemDelegate(ShelfPainter(self))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        EditByKey(self)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.setExpandsOnDoubleClick(False)
        head = self.header()
        if head is not None:
            head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self._counts = QTimer(self)
        self._counts.setSingleShot(True)
        self._counts.setInterval(COUNTS_MS)
        self._counts.timeout.connect(self.count)
        self._filling, self._stale = False, True
        self.fill()
        self.currentItemChanged.connect(self._chosen)
        self.itemChanged.connect(self._renamed)
        self.customContextMenuRequested.connect(self._menu)
        self.itemDoubleClicked.connect(lambda item, _: self.editItem(item) if item.data(0, NUMBER) else None)
        session.bookcase.changed.connect(self.fill)
        session.folders.changed.connect(self.fill)
        session.shown.changed.connect(self.follow)
        c = session.catalogue
        for signal in (c.added, c.removed, c.refilled, c.changed, c.many_changed):
            signal.connect(self._stir)

    def _stir(self, *what: object) -> None:
        """Count anew soon; while changes come all the time, now and then."""
        if PROGRESS not in what and not self._counts.isActive():
            self._counts.start()

    # filling

    def fill(self) -> None:
        """Draw all lists anew; what was chosen and what was folded stays so."""
        self._filling = True
        kept = self._key(self.currentItem())
        folded = {self._key(i) for i in self._items() if i.childCount() and not i.isExpanded()}
        self.clear()
        library = self._head("LIBRARY")
        for k, (name, _) in enumerate(QUICKS):
            item = self._row(library, name, "quick")
            item.setData(0, QUICK, k)
        shelves = self._head("LISTS")
        by_number = {0: shelves}
        try:
            rows = self._session.bookcase.lists.all()
        except MervidError as e:
            self._session.say.problem(str(e))
            rows = []
        waiting = list(rows)
        while waiting:
            # a folder may stand behind what is in it
            known = [s for s in waiting if s.parent in by_number]
            if not known:
                break
            for s in known:
                item = self._row(by_number[s.parent], s.name, s.kind)
                item.setData(0, NUMBER, s.id)
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsDragEnabled)
                by_number[s.id] = item
            waiting = [s for s in waiting if s.id not in by_number]
        if not rows:
            self._hint(shelves, tr("Ctrl+N makes one; or drop a folder or a playlist here"))
        watched = self._head(tr("WATCHED FOLDERS"))
        folders = self._session.folders.folders()
        if not folders:
            self._hint(watched, tr("New files in them come in by themselves: New… below"))
        for folder in folders:
            item = self._row(watched, folder.name or str(folder), WATCHED)
            item.setData(0, FOLDER, os.fsencode(folder))
            item.setToolTip(0, str(folder))
        for item in self._items():
            item.setExpanded(self._key(item) not in folded)
            if self._key(item) == kept:
                self.setCurrentItem(item)
        if self.currentItem() is None or self.currentItem().data(0, KIND) == HEAD:  # type: ignore[union-attr]
            self.setCurrentItem(library.child(0))
        self._filling = False
        self.count()

    def showEvent(self, e: QShowEvent | None) -> None:
        super().showEvent(e)
        if self._stale:
            self._counts.start()

    def _head(self, text: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem([text])
        item.setData(0, KIND, HEAD)
        item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsDropEnabled)
        f = QFont(font(8, bold=True))
        f.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 1)
        item.setFont(0, f)
        item.setForeground(0, Theme.palette.color("faint"))
        self.addTopLevelItem(item)
        return item

    @staticmethod
    def _row(parent: QTreeWidgetItem, name: str, kind: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem([name])
        item.setData(0, KIND, kind)
        parent.addChild(item)
        return item

    @staticmethod
    def _hint(parent: QTreeWidgetItem, text: str) -> None:
        item = QTreeWidgetItem([text])
        item.setData(0, KIND, HINT)
        item.setFlags(Qt.ItemFlag.ItemIsDropEnabled)
        item.setToolTip(0, text)
        parent.addChild(item)

    def _items(self) -> list[QTreeWidgetItem]:
        out: list[QTreeWidgetItem] = []
        layer = [self.topLevelItem(k) for k in range(self.topLevelItemCount())]
        while layer:
            item = layer.pop(0)
            if item is not None:
                out.append(item)
                layer += [item.child(k) for k in range(item.childCount())]
        return out

    @staticmethod
    def _key(item: QTreeWidgetItem | None) -> object:
        if item is None:
            return None
        return (
            item.data(0, NUMBER),
            item.data(0, QUICK),
            item.data(0, FOLDER),
            item.data(0, KIND) == HEAD and item.text(0),
        )

    def count(self) -> None:
        """Write how many tracks there are in each; while nobody sees them, later."""
        if not self.isVisible():
            self._stale = True
            return
        self._stale = False
        shown, shelves = self._session.shown, self._session.bookcase.lists
        filling, self._filling = self._filling, True
        try:
            held = shelves.sizes()
            for item in self._items():
                kind, number = item.data(0, KIND), item.data(0, NUMBER)
                found: int | None = None
                if kind == "quick":
                    found = shown.finder.count(QUICKS[item.data(0, QUICK)][1])
                    item.setHidden(found == 0 and item.data(0, QUICK) > 1)
                elif kind == lists.LIST:
                    found = held.get(number, 0)
                elif kind == lists.SEARCH:
                    found = shown.finder.count(shelves.search(number))
                elif kind == WATCHED:
                    path = os.fsdecode(item.data(0, FOLDER))
                    found = shown.finder.count(Search(filters=(Filter(filters.FOLDER, text=path),)))
                item.setData(0, COUNT, found)
        except MervidError as e:
            self._session.say.problem(str(e))
        finally:
            self._filling = filling

    # choosing

    def _chosen(self, item: QTreeWidgetItem | None, _: object = None) -> None:
        if item is None or self._filling:
            return
        if item.data(0, KIND) == "quick":
            self.quick_chosen.emit(int(item.data(0, QUICK)))
        elif item.data(0, NUMBER):
            self.shelf_chosen.emit(int(item.data(0, NUMBER)))
        elif item.data(0, FOLDER):
            self.folder_chosen.emit(Path(os.fsdecode(item.data(0, FOLDER))))

    def follow(self) -> None:
        """Mark what is shown, whoever asked for it."""
        shown = self._session.shown
        search = attrs.evolve(shown.search, order=())
        quick = next((k for k, (_, asked) in enumerate(QUICKS) if asked == search), 0)
        for item in self._items():
            mine = item.data(0, NUMBER) == shown.number if shown.number else item.data(0, QUICK) == quick
            if mine and item is not self.currentItem() and not self._of_folder(search):
                filling, self._filling = self._filling, True
                self.setCurrentItem(item)
                self._filling = filling

    def _of_folder(self, search: Search) -> bool:
        item = self.currentItem()
        path = item.data(0, FOLDER) if item is not None else None
        return path is not None and Filter(filters.FOLDER, text=os.fsdecode(path)) in search.filters

    def choose_shelf(self, number: int) -> None:
        """Choose a list."""
        for item in self._items():
            if item.data(0, NUMBER) == number:
                self.setCurrentItem(item)

    def edit_name(self, number: int) -> None:
        """Let the name of a list be typed."""
        for item in self._items():
            if item.data(0, NUMBER) == number:
                self.setCurrentItem(item)
                self.editItem(item)

    def _renamed(self, item: QTreeWidgetItem, _: int) -> None:
        if not self._filling and item.data(0, NUMBER):
            # after the editor has closed
            QTimer.singleShot(0, lambda n=int(item.data(0, NUMBER)), t=item.text(0): self.renamed.emit(n, t))

    def _menu(self, at: QPoint) -> None:
        item = self.itemAt(at)
        view = self.viewport()
        assert view is not None
        where = view.mapToGlobal(at)
        if item is not None and item.data(0, FOLDER):
            self.folder_menu_wanted.emit(where, Path(os.fsdecode(item.data(0, FOLDER))))
        else:
            number = int(item.data(0, NUMBER) or 0) if item is not None else 0
            kind = str(item.data(0, KIND)) if item is not None and number else ""
            self.menu_wanted.emit(where, kind, number)

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        item = self.currentItem()
        number = item.data(0, NUMBER) if item is not None else None
        if e is not None and number and e.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.delete_wanted.emit(int(number))
            return
        super().keyPressEvent(e)

    # tracks dropped on a list, lists dropped on folders and between each other

    def dragEnterEvent(self, e: QDragEnterEvent | None) -> None:
        if e is not None:
            e.setAccepted(bool(dragged(e.mimeData())[0]) or e.source() is self or self._files(e))

    def dragMoveEvent(self, e: QDragMoveEvent | None) -> None:
        if e is None:
            return
        super().dragMoveEvent(e)
        item = self.itemAt(e.position().toPoint())
        if self._files(e):
            e.acceptProposedAction()
        elif dragged(e.mimeData())[0]:
            e.setAccepted(item is not None and item.data(0, KIND) == lists.LIST)
        else:
            e.setAccepted(e.source() is self and item is not None and self._in_lists(item))

    @staticmethod
    def _files(e: QDropEvent) -> bool:
        return outward.is_from_outside(e.mimeData())

    def _in_lists(self, item: QTreeWidgetItem) -> bool:
        return bool(item.data(0, NUMBER)) or item is self.topLevelItem(1)

    def dropEvent(self, e: QDropEvent | None) -> None:
        if e is None:
            return
        at = e.position().toPoint()
        item = self.itemAt(at)
        ids, _ = dragged(e.mimeData())
        mime = e.mimeData()
        if mime is not None and self._files(e):
            e.acceptProposedAction()
            self.files_dropped.emit(file_dialogs.dropped_paths(mime.urls()))
            return
        if item is None:
            e.ignore()
            return
        if ids:
            number = item.data(0, NUMBER)
            e.acceptProposedAction()
            if number:
                QTimer.singleShot(0, lambda: self.given.emit(int(number), ids))
            return
        mine = self.currentItem()
        number = mine.data(0, NUMBER) if mine is not None else None
        e.setDropAction(Qt.DropAction.IgnoreAction)
        e.accept()
        if number and self._in_lists(item) and item is not mine:
            parent, place = self._place(item, at)
            QTimer.singleShot(0, lambda: self.moved.emit(int(number), parent, place))

    def _place(self, item: QTreeWidgetItem, at: QPoint) -> tuple[int, int]:
        """Into which folder, and before which of its children, something dropped here goes."""
        box = self.visualItemRect(item)
        share = (at.y() - box.top()) / max(1, box.height())
        if not item.data(0, NUMBER):
            return 0, 0
        if item.data(0, KIND) == lists.FOLDER and 0.25 < share < 0.75:
            return int(item.data(0, NUMBER)), item.childCount()
        parent = item.parent()
        place = parent.indexOfChild(item) if parent is not None else 0
        number = int(parent.data(0, NUMBER) or 0) if parent is not None else 0
        return number, place + int(share >= 0.5)


class ShelfSide(QFrame):
    """The tree, and under it how to begin a list."""

    make_wanted = pyqtSignal(str)
    watch_wanted = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setFixedWidth(218)
        self.tree = ShelfTree(session)
        self.new = QPushButton(tr("New…"))
        self.new.setToolTip(tr("A new list, a folder for lists, or a watched folder"))
        menu = QMenu(self.new)
        menu.addAction(tr("List\tCtrl+N"), lambda: self.make_wanted.emit(lists.LIST))
        menu.addAction(tr("Folder for lists"), lambda: self.make_wanted.emit(lists.FOLDER))
        menu.addAction(tr("Watched folder…"), self.watch_wanted.emit)
        self.new.setMenu(menu)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 4, 0, 0)
        self.column.setSpacing(4)
        self.column.addWidget(self.tree, 1)
