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
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolTip,
)

from ...core.edits import track_edits
from ...core.model import tempo_range
from ...core.model.preparation import CHECKED, LOCKED
from ...core.model.tempo_range import TempoRange
from ...store.library import FAILED, READY, Track
from ..session.open_track import Workbench
from ..theme.figures import clock, tempo
from ..theme.style import Theme, font
from . import tempo_range_menu

ROW = 46
DRAGGED = "application/x-mervid-track"
STAGES = {"waiting": "waiting", "decoding": "reading", "listening": "hearing beats"}


class TrackModel(QAbstractListModel):
    """Rows of the library."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__()
        self._bench = bench
        self.rows: list[Track] = []
        self._tempo: dict[tuple[int, int], tuple[str, str, int]] = {}
        bench.tracks_changed.connect(self.refresh)
        bench.progress_changed.connect(self._progress)

    def refresh(self) -> None:
        """Read the library again; rows keep their places while they are the same tracks."""
        rows = self._bench.library.tracks()
        if self._bench.track is not None:
            # its readiness may have changed without an edit
            self._tempo = {key: words for key, words in self._tempo.items() if key[0] != self._bench.track.id}
        if [t.id for t in rows] == [t.id for t in self.rows]:
            self.rows = rows
            self.dataChanged.emit(self.index(0), self.index(max(0, len(rows) - 1)))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        return super().flags(index) | Qt.ItemFlag.ItemIsDragEnabled | Qt.ItemFlag.ItemIsDropEnabled

    def mimeTypes(self) -> list[str]:
        return [DRAGGED]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        data = QMimeData()
        for index in indexes:
            data.setData(DRAGGED, str(self.rows[index.row()].id).encode())
        return data

    def _progress(self, track_id: int) -> None:
        for i, t in enumerate(self.rows):
            if t.id == track_id:
                self.dataChanged.emit(self.index(i), self.index(i))

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        track = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return track.title
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleDescriptionRole):
            words, readiness, _ = self.state_of(track)
            return track.message if track.state == FAILED else f"{words}  {readiness}".strip()
        return None

    def state_of(self, track: Track) -> tuple[str, str, float | None]:
        """Second line, readiness, and progress 0 to 1 while there is any."""
        running = self._bench.intake.progress.get(track.id)
        if running is not None and track.state != READY:
            stage, part = running
            total = {"waiting": 0.0, "decoding": 0.6 * part, "listening": 0.6 + 0.4 * part}[stage]
            words = STAGES[stage] if stage == "waiting" else f"{STAGES[stage]}, {total:.0%}"
            return (words, "", total)
        if track.state == FAILED:
            return (track.message, "", None)
        if track.state != READY:
            return ("waiting", "", 0.0)
        key = (track.id, track.head)
        if key not in self._tempo:
            p = self._bench.library.history(track.id).preparation
            words = f"{tempo(p.grid)} BPM" if p.grid else "no beats heard"
            self._tempo[key] = (words, p.readiness, len(p.cues))
        words, readiness, _ = self._tempo[key]
        words = f"{words.removesuffix(' BPM')}  {track.kind}" if track.kind else words
        return (f"{words}  {clock(track.duration)}", readiness, None)

    def has_cues(self, track: Track) -> bool:
        """Whether a heard track has any cue."""
        self.state_of(track)
        return self._tempo.get((track.id, track.head), ("", "", 0))[2] > 0


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
        track = model.rows[index.row()]
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
        p.setPen(pal.color("attention" if track.state == FAILED else "faint"))
        p.drawText(
            below,
            Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(state, Qt.TextElideMode.ElideRight, below.width()),
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
        p.drawPolyline([QPointF(c.x() - 4, c.y()), QPointF(c.x() - 1, c.y() + 3.5), QPointF(c.x() + 5, c.y() - 4)])
        if readiness == LOCKED:
            p.setPen(QPen(pal.color("ink"), 1.3))
            p.drawRect(QRectF(c.x() - 8, c.y() - 8.5, 16, 16))


class TrackList(QListView):
    """Choose a track; take back or repeat its analysis; take it off the list."""

    chosen = pyqtSignal(int)
    lent = pyqtSignal(int, int)

    def __init__(self, bench: Workbench) -> None:
        super().__init__()
        self._bench = bench
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.tracks = TrackModel(bench)
        self.setModel(self.tracks)
        self.setItemDelegate(_Painter(self))
        self.setAccessibleName("Tracks")
        self.setUniformItemSizes(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._current)
        bench.track_opened.connect(self._follow)
        bench.tracks_changed.connect(self._follow)

    def chosen_ids(self) -> list[int]:
        """The tracks that are chosen, in order; with Ctrl or Shift several are."""
        rows = sorted(i.row() for i in self.selectedIndexes())
        return [self.tracks.rows[r].id for r in rows if r < len(self.tracks.rows)]

    def _current(self, index: QModelIndex) -> None:
        if index.isValid():
            track = self.tracks.rows[index.row()]
            if self._bench.track is None or self._bench.track.id != track.id:
                self.chosen.emit(track.id)

    def _follow(self) -> None:
        """Select the open track's row."""
        for i, t in enumerate(self.tracks.rows):
            if self._bench.track is not None and t.id == self._bench.track.id and self.currentIndex().row() != i:
                self.setCurrentIndex(self.tracks.index(i))

    def _at(self, index: QModelIndex) -> Track | None:
        return self.tracks.rows[index.row()] if index.isValid() else None

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None:
            index = self.indexAt(e.pos())
            track = self._at(index)
            if (
                track is not None
                and self._bench.intake.pool.has(track.id)
                and _Painter.cross(self.visualRect(index)).contains(e.pos())
            ):
                self._bench.intake.cancel(track.id)
                return
        super().mousePressEvent(e)

    # one track dragged onto another lends it its grid; files go to the window

    def _lender(self, e: QDropEvent) -> int | None:
        mime = e.mimeData()
        return int(bytes(mime.data(DRAGGED)).decode()) if mime is not None and mime.hasFormat(DRAGGED) else None

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
                self._bench.intake.cancel(track.id)
                return
            if e.key() == Qt.Key.Key_Return and track.state == FAILED:
                self._bench.intake.analyse(track.id)
                return
            if e.key() == Qt.Key.Key_Delete:
                self._bench.forget(track.id)
                return
        super().keyPressEvent(e)

    def contextMenuEvent(self, e: QContextMenuEvent | None) -> None:
        track = self._at(self.indexAt(e.pos())) if e is not None else None
        if track is None or e is None:
            return
        menu = QMenu(self)
        if self._bench.intake.pool.has(track.id):
            menu.addAction("Stop hearing it  (Esc)", lambda: self._bench.intake.cancel(track.id))
        elif track.state != READY:
            menu.addAction("Hear it again  (Enter)", lambda: self._bench.intake.analyse(track.id))
        if self._bench.track is not None and self._bench.track.id == track.id and track.state == READY:
            expected = menu.addMenu("Tempo expected here")
            assert expected is not None
            now = tempo_range.known(self._bench.preparation.tempo_range)
            tempo_range_menu.fill(expected, now, "as everywhere", self, self._expect)
        menu.addAction("Take off the list  (Del)", lambda: self._bench.forget(track.id))
        menu.exec(e.globalPos())

    def _expect(self, wanted: TempoRange | None) -> None:
        low, high = (wanted.low, wanted.high) if wanted else (None, None)
        self._bench.apply(track_edits.set_range, low, high)

    def viewportEvent(self, e: QEvent | None) -> bool:
        if e is not None and e.type() == QEvent.Type.ToolTip:
            track = self._at(self.indexAt(e.pos()))  # type: ignore[attr-defined]
            if track is not None:
                QToolTip.showText(e.globalPos(), track.message or str(track.path.name), self)  # type: ignore[attr-defined]
                return True
        return super().viewportEvent(e)
