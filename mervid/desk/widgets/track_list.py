"""The tracks at the left: title, state or tempo, readiness; progress with a way to take it back."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PyQt6.QtCore import (
    QAbstractListModel,
    QEvent,
    QMimeData,
    QModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
    pyqtSignal,
)
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QToolTip,
)

from ...core.edits import track_edits
from ...core.figures import share
from ...core.model import tempo_range
from ...core.model.preparation import CHECKED, LOCKED
from ...core.model.tempo_range import TempoRange
from ...jobs.messages import share_done
from ...store.track import FAILED, READY, Track
from ..session.session import Session
from ..theme.figures import clock, tempo_between
from ..theme.style import Theme, font
from ..theme.tr import tr
from ..theme.words import tip_of
from . import outward, tempo_range_menu
from .shown_rows import follow

ROW = 46
DRAGGED = outward.ONE
STAGES = {"waiting": "waiting", "decoding": "reading", "listening": "hearing beats"}


class TrackModel(QAbstractListModel):
    """The tracks in sight as rows, read as they come to be seen: of thousands only what the window shows costs."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._queue, self._shown = session.queue, session.shown
        self.count = 0
        follow(self, self._shown)

    def tell_rows(self, first: int, last: int) -> None:
        """These rows look different."""
        self.dataChanged.emit(self.index(first), self.index(last))

    def track(self, row: int) -> Track | None:
        """The track in a row; None where it has gone."""
        return self._shown.track(row)

    # what Qt asks for

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else self.count

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        return super().flags(index) | Qt.ItemFlag.ItemIsDragEnabled | Qt.ItemFlag.ItemIsDropEnabled

    def mimeTypes(self) -> list[str]:
        return [DRAGGED]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        data = QMimeData()
        for index in indexes:
            data.setData(DRAGGED, str(int(self._shown.ids[index.row()])).encode())
            track = self._shown.track(index.row())
            outward.add_files(data, [track.path] if track is not None else [])
        return data

    def supportedDragActions(self) -> Qt.DropAction:
        return outward.ACTIONS

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        track = self.track(index.row()) if index.isValid() else None
        if track is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return track.title
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleDescriptionRole):
            words, readiness, _ = self.state_of(track)
            state = track.message if track.state == FAILED else f"{words}  {readiness}".strip()
            # a long title is cut in the list: the tip has all of it
            return tip_of(f"{track.title}\n{state}") if role == Qt.ItemDataRole.ToolTipRole else state
        return None

    def state_of(self, track: Track) -> tuple[str, str, float | None]:
        """Second line, readiness, and progress 0 to 1 while there is any."""
        running = self._queue.progress.get(track.id)
        if running is not None and track.state != READY:
            stage, part = running
            total = share_done(stage, part)
            words = STAGES[stage] if stage == "waiting" else f"{STAGES[stage]}, {share(total)}"
            return (words, "", total)
        if track.state == FAILED:
            return (track.message, "", None)
        if track.gone:
            return (tr("file missing"), track.readiness, None)
        if track.state != READY:
            return ("waiting", "", 0.0)
        if track.tempo_low is None or track.tempo_high is None:
            words = tr("no beats heard")
        else:
            words = tempo_between(track.tempo_low, track.tempo_high)
            words = f"{words}  {track.kind}" if track.kind else tr("{0} BPM").format(words)
        return (f"{words}  {clock(track.duration)}", track.readiness, None)


def fitting(metrics: QFontMetrics, state: str, width: int, *, whole: bool = False) -> str:
    """As much of a row's second line as there is room for, in px: the length, if it has one, goes before a cut.

    Parameters
    ----------
    whole : it has none: a message, say
    """
    if not whole and metrics.horizontalAdvance(state) > width:
        state = state.rpartition("  ")[0] or state
    return metrics.elidedText(state, Qt.TextElideMode.ElideRight, width)


class _Painter(QStyledItemDelegate):
    """Draws a row: two lines, a readiness mark, a progress line."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, ROW)

    @staticmethod
    def cross(rect: QRect) -> QRect:
        """Where the way to take an analysis back is drawn."""
        return QRect(rect.right() - 28, rect.top() + ROW // 2 - 10, 22, 20)

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        model = index.model()
        if p is None or not isinstance(model, TrackModel):
            return
        pal = Theme.palette
        track = model.track(index.row())
        if track is None:
            return
        state, readiness, part = model.state_of(track)
        r = option.rect
        p.save()
        if option.state & QStyle.StateFlag.State_Selected:
            p.fillRect(r, pal.color("selected"))
            p.fillRect(QRect(r.left(), r.top(), 4, r.height()), pal.color("ink"))
        p.setPen(QPen(pal.color("hairline"), 1))
        p.drawLine(r.bottomLeft(), r.bottomRight())
        text = QRect(r.left() + 14, r.top() + 5, r.width() - 48, 18)
        p.setFont(font(10, bold=True))
        p.setPen(pal.color("ink"))
        p.drawText(
            text,
            Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(track.title, Qt.TextElideMode.ElideRight, text.width()),
        )
        p.setFont(font(8.5))
        below = text.translated(0, 18)
        below.setWidth(r.width() - (66 if readiness in (CHECKED, LOCKED) else 48))
        p.setPen(pal.color("attention" if track.state == FAILED or track.gone else "faint"))
        p.drawText(
            below,
            Qt.AlignmentFlag.AlignVCenter,
            fitting(p.fontMetrics(), state, below.width(), whole=track.state != READY),
        )
        if part is not None:
            track_line = QRectF(r.left() + 14, r.bottom() - 4, r.width() - 48, 3)
            p.fillRect(track_line, pal.color("hairline"))
            p.fillRect(QRectF(track_line.left(), track_line.top(), track_line.width() * part, 3), pal.color("hand"))
            c = QRectF(self.cross(r)).center()
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(QPen(pal.color("ink"), 1.6))
            p.drawLine(QPointF(c.x() - 4, c.y() - 4), QPointF(c.x() + 4, c.y() + 4))
            p.drawLine(QPointF(c.x() + 4, c.y() - 4), QPointF(c.x() - 4, c.y() + 4))
        else:
            self._readiness(p, r, readiness)
            if track.doubts and readiness not in (CHECKED, LOCKED):
                self._doubts(p, r, track.doubts)
        p.restore()

    @staticmethod
    def _doubts(p: QPainter, r: QRect, doubts: int) -> None:
        """A wedge and how many findings ask for a decision."""
        pal = Theme.palette
        y = r.top() + ROW / 2
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(pal.color("attention"))
        p.drawPolygon(
            QPolygonF([QPointF(r.right() - 28, y - 5), QPointF(r.right() - 19, y), QPointF(r.right() - 28, y + 5)])
        )
        p.setPen(pal.color("ink"))
        p.setFont(font(9, bold=True))
        p.drawText(QRectF(r.right() - 17, y - 9, 16, 18), Qt.AlignmentFlag.AlignVCenter, str(doubts))

    @staticmethod
    def _readiness(p: QPainter, r: QRect, readiness: str) -> None:
        """Draft: nothing. Checked: a tick. Locked: a tick in a box. The word stands below."""
        if readiness not in (CHECKED, LOCKED):
            return
        pal = Theme.palette
        c = QPointF(r.right() - 25, r.top() + 15)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(pal.color("ink"))
        p.setFont(font(7.5))
        p.drawText(QRectF(r.right() - 52, r.top() + 25, 54, 16), Qt.AlignmentFlag.AlignCenter, readiness)
        p.setPen(QPen(pal.color("ink"), 1.8))
        p.drawPolyline(
            QPolygonF([QPointF(c.x() - 4, c.y()), QPointF(c.x() - 1, c.y() + 3.5), QPointF(c.x() + 5, c.y() - 4)])
        )
        if readiness == LOCKED:
            p.setPen(QPen(pal.color("ink"), 1.3))
            p.drawRect(QRectF(c.x() - 8, c.y() - 8.5, 16, 16))


class TrackList(QTableView):
    """Choose a track; take back or repeat its analysis; take it off the list."""

    chosen = pyqtSignal(int)
    lent = pyqtSignal(int, int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._queue, self._open = session, session.queue, session.track
        self._shown = session.shown
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.tracks = TrackModel(session)
        self.setModel(self.tracks)
        self.setItemDelegate(_Painter(self))
        self.setObjectName("tracks")
        self.setAccessibleName(tr("Tracks"))
        # a table of one column: unlike a list, it lays out nothing anew when one of thousands of rows changes
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        assert rows is not None and columns is not None
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        rows.setDefaultSectionSize(ROW)
        columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        rows.hide()
        columns.hide()
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._current)
        selection.selectionChanged.connect(self._selected)
        session.track.opened.connect(self._follow)
        self.tracks.modelReset.connect(self._follow)
        self.tracks.rowsRemoved.connect(self._follow)

    def chosen_ids(self) -> list[int]:
        """The tracks that are chosen, in order; with Ctrl or Shift several are."""
        return [int(self._shown.ids[row]) for row in sorted(i.row() for i in self.selectedIndexes())]

    def _selected(self) -> None:
        # in Gather the table chooses
        if self.isVisible():
            self._session.selection.choose(self.chosen_ids())

    def _current(self, index: QModelIndex) -> None:
        track_id = int(self._shown.ids[index.row()]) if index.isValid() else None
        if track_id is not None and not self._open.is_open(track_id):
            self.chosen.emit(track_id)

    def _follow(self) -> None:
        """Select the open track's row."""
        row = self._shown.row_of(self._open.row.id) if self._open.row is not None else -1
        if row >= 0 and self.currentIndex().row() != row:
            self.setCurrentIndex(self.tracks.index(row))

    def _at(self, index: QModelIndex) -> Track | None:
        return self.tracks.track(index.row()) if index.isValid() else None

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None:
            index = self.indexAt(e.pos())
            track = self._at(index)
            if (
                track is not None
                and self._queue.pool.has(track.id)
                and _Painter.cross(self.visualRect(index)).contains(e.pos())
            ):
                self._queue.cancel(track.id)
                return
        super().mousePressEvent(e)

    # one track dragged onto another lends it its grid; files go to the window

    def _lender(self, e: QDropEvent) -> int | None:
        mime = e.mimeData()
        return int(mime.data(DRAGGED).data().decode()) if mime is not None and mime.hasFormat(DRAGGED) else None

    def dragEnterEvent(self, e: QDragEnterEvent | None) -> None:
        if e is not None:
            e.setAccepted(self._lender(e) is not None)

    def dragMoveEvent(self, e: QDragMoveEvent | None) -> None:
        if e is None:
            return
        lender, here = self._lender(e), self._at(self.indexAt(e.position().toPoint()))
        e.setAccepted(lender is not None and here is not None and here.id != lender)

    def dropEvent(self, e: QDropEvent | None) -> None:
        if e is None:
            return
        lender, here = self._lender(e), self._at(self.indexAt(e.position().toPoint()))
        if lender is None or here is None or here.id == lender:
            e.ignore()
            return
        e.acceptProposedAction()
        # after the drag is over: a dialog opens
        QTimer.singleShot(0, lambda: self.lent.emit(lender, here.id))

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        track = self._at(self.currentIndex())
        if e is not None and track is not None:
            if e.key() == Qt.Key.Key_Escape:
                self._queue.cancel(track.id)
                return
            if e.key() == Qt.Key.Key_Return and track.state == FAILED:
                self._queue.analyse(track.id)
                return
            if e.key() == Qt.Key.Key_Delete:
                self._session.take_out([track.id])
                return
        super().keyPressEvent(e)

    def contextMenuEvent(self, e: QContextMenuEvent | None) -> None:
        track = self._at(self.indexAt(e.pos())) if e is not None else None
        if track is None or e is None:
            return
        menu = QMenu(self)
        if self._queue.pool.has(track.id):
            menu.addAction(tr("Stop hearing it  (Esc)"), lambda: self._queue.cancel(track.id))
        elif track.state != READY:
            menu.addAction(tr("Hear it again  (Enter)"), lambda: self._queue.analyse(track.id))
        if self._open.is_open(track.id) and track.state == READY:
            expected = menu.addMenu(tr("Tempo expected here"))
            assert expected is not None
            now = tempo_range.known(self._open.preparation.tempo_range)
            tempo_range_menu.fill(expected, now, tr("as everywhere"), self, self._expect)
        menu.addAction(tr("Take out of the library  (Del)"), lambda: self._session.take_out([track.id]))
        menu.exec(e.globalPos())

    def _expect(self, wanted: TempoRange | None) -> None:
        low, high = (wanted.low, wanted.high) if wanted else (None, None)
        self._open.apply(track_edits.set_range, low, high)

    def viewportEvent(self, e: QEvent | None) -> bool:
        if e is not None and e.type() == QEvent.Type.ToolTip:
            track = self._at(self.indexAt(e.pos()))  # type: ignore[attr-defined]
            if track is not None:
                QToolTip.showText(e.globalPos(), track.message or str(track.path.name), self)  # type: ignore[attr-defined]
                return True
        return super().viewportEvent(e)
