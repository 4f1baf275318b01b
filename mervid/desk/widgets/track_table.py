"""The table of tracks: columns that are chosen, moved, sized and kept, and sorted by one or several of them."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import (
    QByteArray,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    QRect,
    QSettings,
    Qt,
    QTimer,
    pyqtSignal,
)
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QPainter,
    QPaintEvent,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QMenu,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from ...core.library.filters import Order
from ...store.track import Track
from ..session.session import Session
from ..theme.style import Theme
from ..theme.tr import tr
from .parts import EditByKey, keep_editing_keys
from .row_painter import COMPACT, ROOMY, RowPainter, State
from .table_model import TableModel, dragged
from .track_columns import COLUMNS, INDEX

OPENS_MS = 140
"""A track is opened when the choice has stood still for so long: going down a list opens none of what is passed."""


class _Typing(QStyledItemDelegate):
    """Words typed in a cell; cells are drawn by the table itself."""

    def createEditor(self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> QWidget | None:
        return keep_editing_keys(super().createEditor(parent, option, index))


class TrackTable(QTableView):
    """Emits `chosen` for the track to open, `entered` for one to work on, `moved` for rows of a list, `menu_wanted`."""

    chosen = pyqtSignal(int)
    entered = pyqtSignal(int)
    moved = pyqtSignal(list, int)
    menu_wanted = pyqtSignal(QPoint)
    deleted = pyqtSignal()

    def __init__(self, session: Session, covers: Path) -> None:
        super().__init__()
        self._session, self._shown = session, session.shown
        self.model_of = TableModel(session)
        self.setModel(self.model_of)
        self.painter_of = RowPainter(covers)
        self.setObjectName("library")
        self.setAccessibleName(tr("Tracks of the library"))
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setWordWrap(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        EditByKey(self)
        self.setItemDelegate(_Typing(self))
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.setDragDropOverwriteMode(False)
        self._dress_heads()
        self._opening = QTimer(self)
        self._opening.setSingleShot(True)
        self._opening.setInterval(OPENS_MS)
        self._opening.timeout.connect(self._open_current)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda *_: self._opening.start())
        selection.selectionChanged.connect(self._selected)
        self.model_of.modelReset.connect(self._choose_again)
        self._shown.changed.connect(self._show_times)
        self._show_times()
        self.model_of.modelAboutToBeReset.connect(self._remember)
        self.doubleClicked.connect(lambda i: self.entered.emit(int(self._shown.ids[i.row()])))
        session.track.opened.connect(self.follow)
        self._kept: tuple[list[int], int | None, int] = ([], None, 0)

    # heads

    def _dress_heads(self) -> None:
        rows, heads = self.verticalHeader(), self.horizontalHeader()
        assert rows is not None and heads is not None
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        rows.setMinimumSectionSize(COMPACT)
        rows.setDefaultSectionSize(COMPACT)
        rows.hide()
        heads.setSectionsMovable(True)
        heads.setHighlightSections(False)
        heads.setMinimumSectionSize(36)
        heads.setStretchLastSection(False)
        heads.setSectionsClickable(True)
        # Qt's head asks each row whether its whole column is chosen: of 50,000 that takes seconds
        nothing = QItemSelectionModel(self.model_of, self)
        heads.setSelectionModel(nothing)
        rows.setSelectionModel(nothing)
        for i, c in enumerate(COLUMNS):
            self.setColumnWidth(i, c.width)
            self.setColumnHidden(i, not c.first)
        heads.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        heads.customContextMenuRequested.connect(self._choose_columns)
        heads.sectionClicked.connect(self._sort)
        kept = QSettings().value("columns")
        # another set of columns than was kept is laid out afresh
        if isinstance(kept, QByteArray) and int(QSettings().value("columns_of", 0, int)) == len(COLUMNS):
            heads.restoreState(kept)
        for moved in (heads.sectionMoved, heads.sectionResized):
            moved.connect(self._keep_columns)
        self.set_roomy(bool(QSettings().value("roomy", False, bool)))

    def _keep_columns(self, *_: object) -> None:
        heads = self.horizontalHeader()
        assert heads is not None
        QSettings().setValue("columns", heads.saveState())
        QSettings().setValue("columns_of", len(COLUMNS))

    def _choose_columns(self, at: QPoint) -> None:
        heads = self.horizontalHeader()
        assert heads is not None
        menu = QMenu(self)
        self.fill_columns(menu)
        menu.exec(heads.mapToGlobal(at))

    def fill_columns(self, menu: QMenu) -> None:
        """A line for each column, ticked where it is seen, and the height of rows."""
        for i, c in enumerate(COLUMNS):
            if c.name == "at":
                continue
            action = menu.addAction(c.title)
            assert action is not None
            action.setCheckable(True)
            action.setChecked(not self.isColumnHidden(i))
            action.setEnabled(c.name != "title")
            action.toggled.connect(lambda on, k=i: self.show_column(k, on))
        menu.addSeparator()
        action = menu.addAction(tr("Roomy rows"))
        assert action is not None
        action.setCheckable(True)
        action.setChecked(self.painter_of.roomy)
        action.toggled.connect(self.set_roomy)

    def show_column(self, index: int, on: bool) -> None:
        """Show or hide a column."""
        self.setColumnHidden(index, not on)
        self._keep_columns()

    def set_roomy(self, on: bool) -> None:
        """Rows of two lines with a picture, or of one."""
        self.painter_of.roomy = on
        rows = self.verticalHeader()
        assert rows is not None
        rows.setDefaultSectionSize(ROOMY if on else COMPACT)
        QSettings().setValue("roomy", on)
        self.viewport().update()  # type: ignore[union-attr]

    def _show_times(self) -> None:
        """The column of times is seen while a list is shown that says when it begins."""
        at = INDEX["at"]
        self.setColumnHidden(at, not self._shown.timed)
        if self._shown.timed and not self.columnWidth(at):
            # a layout that was kept while it was hidden knows no width of it
            self.setColumnWidth(at, COLUMNS[at].width)

    def _sort(self, section: int) -> None:
        from PyQt6.QtWidgets import QApplication

        more = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.sort_by(COLUMNS[section].name, more=more)

    def sort_by(self, name: str, *, more: bool = False) -> None:
        """Sort by a column, upward, then downward, then as before; with `more` after the columns sorted by already."""
        old = self._shown.search.order
        mine = next((o for o in old if o.column == name), None)
        new = Order(name) if mine is None else Order(name, True) if not mine.down else None
        rest = tuple(o for o in old if o.column != name) if more else ()
        self._shown.sort((*rest, new) if new is not None else rest)
        heads = self.horizontalHeader()
        if heads is not None:
            heads.viewport().update()  # type: ignore[union-attr]

    # drawing

    def paintEvent(self, e: QPaintEvent | None) -> None:
        """All rows in sight, column by column."""
        view, selection = self.viewport(), self.selectionModel()
        if e is None or view is None or selection is None:
            return
        p = QPainter(view)
        pal, box = Theme.palette, e.rect()
        p.fillRect(box, pal.color("paper"))
        first = self.rowAt(box.top())
        if first >= 0:
            last = self.rowAt(box.bottom())
            last = last if last >= 0 else len(self._shown) - 1
            height, wide = self.painter_of.row_height, view.width()
            rows: list[tuple[int, Track, State]] = []
            current = self.currentIndex().row() if self.hasFocus() else -1
            for row in range(first, last + 1):
                track = self._shown.track(row)
                y = self.rowViewportPosition(row)
                if selection.isRowSelected(row):
                    p.fillRect(0, y, wide, height, pal.color("selected"))
                if row == current:
                    p.fillRect(0, y, 3, height, pal.color("ink"))
                p.fillRect(0, y + height - 1, wide, 1, pal.color("hairline"))
                if track is not None:
                    rows.append((y, track, (*self.model_of.state(track), self._shown.clock_at(row))))
            for i, column in enumerate(COLUMNS):
                x, width = self.columnViewportPosition(i), self.columnWidth(i)
                if not self.isColumnHidden(i) and x < box.right() and x + width > box.left():
                    self.painter_of.column(p, column, [(QRect(x, y, width, height), t, s) for y, t, s in rows])
        p.end()

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        """Qt would ask each of 50,000 rows where it lies: all that is seen is drawn anew instead."""
        view = self.viewport()
        if view is not None:
            view.update()

    # choosing

    def chosen_ids(self) -> list[int]:
        """The tracks of the rows that are chosen, in order."""
        return [int(self._shown.ids[r]) for r in self.chosen_rows()]

    def chosen_rows(self) -> list[int]:
        """The rows that are chosen, in order."""
        selection = self.selectionModel()
        assert selection is not None
        out: set[int] = set()
        parts = selection.selection()
        for k in range(len(parts)):
            part = parts[k]
            out.update(range(part.top(), part.bottom() + 1))
        return sorted(out)

    def choose(self, ids: Iterable[int]) -> None:
        """Choose the rows of these tracks."""
        rows = np.flatnonzero(np.isin(self._shown.ids, list(ids)))
        chosen = QItemSelection()
        last = len(COLUMNS) - 1
        for part in np.split(rows, np.flatnonzero(np.diff(rows) != 1) + 1) if len(rows) else ():
            chosen.select(self.model_of.index(int(part[0]), 0), self.model_of.index(int(part[-1]), last))
        selection = self.selectionModel()
        if selection is not None:
            selection.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)

    def _selected(self) -> None:
        if self.isVisible():
            self._session.selection.choose(self.chosen_ids())

    def _open_current(self) -> None:
        index = self.currentIndex()
        if self.isVisible() and index.isValid() and index.row() < len(self._shown):
            track_id = int(self._shown.ids[index.row()])
            if not self._session.track.is_open(track_id):
                self.chosen.emit(track_id)

    def _remember(self) -> None:
        index, bar = self.currentIndex(), self.verticalScrollBar()
        at = bar.value() if bar is not None else 0
        # the tracks in sight are others already: what was chosen is known by the session
        self._kept = (list(self._session.selection.ids), index.row() if index.isValid() else None, at)

    def _choose_again(self) -> None:
        ids, _, at = self._kept
        heads = self.horizontalHeader()
        if heads is not None:
            heads.viewport().update()  # type: ignore[union-attr]
        few = ids[:5000]
        self.choose(few)
        bar = self.verticalScrollBar()
        if bar is not None:
            bar.setValue(at)
        row = self._shown.row_of(few[0]) if few else -1
        if row >= 0:
            selection = self.selectionModel()
            assert selection is not None
            selection.setCurrentIndex(
                self.model_of.index(row, INDEX["title"]), QItemSelectionModel.SelectionFlag.NoUpdate
            )

    def follow(self) -> None:
        """Make the open track's row the current one."""
        track = self._session.track.row
        row = self._shown.row_of(track.id) if track is not None else -1
        if row >= 0 and (self.currentIndex().row() != row or not self.chosen_rows()):
            self.setCurrentIndex(self.model_of.index(row, INDEX["title"]))
            self.selectRow(row)

    # hands

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        row = self.currentIndex().row()
        typing = self.state() == QAbstractItemView.State.EditingState
        if e is not None and 0 <= row < len(self._shown) and not typing:
            if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.entered.emit(int(self._shown.ids[row]))
                return
            if e.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self.deleted.emit()
                return
        super().keyPressEvent(e)

    def contextMenuEvent(self, e: QContextMenuEvent | None) -> None:
        if e is not None:
            self.menu_wanted.emit(e.globalPos())

    # rows of a list dragged to another place; files go to the window

    def dragEnterEvent(self, e: QDragEnterEvent | None) -> None:
        if e is not None:
            e.setAccepted(self._shown.orderable and e.source() is self)

    def dragMoveEvent(self, e: QDragMoveEvent | None) -> None:
        if e is not None:
            if self._shown.orderable and e.source() is self:
                super().dragMoveEvent(e)
                e.acceptProposedAction()
            else:
                e.ignore()

    def dropEvent(self, e: QDropEvent | None) -> None:
        if e is None or not (self._shown.orderable and e.source() is self):
            return
        _, rows = dragged(e.mimeData())
        at = e.position().toPoint()
        index = self.indexAt(at)
        before = len(self._shown)
        if index.isValid():
            box = self.visualRect(index)
            before = index.row() + int(at.y() > box.center().y())
        e.acceptProposedAction()
        QTimer.singleShot(0, lambda: self.moved.emit(rows, before))
