"""What stands in the cells of the table of tracks, and what can be typed in them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QMimeData, QModelIndex, Qt

from ...jobs.messages import share_done
from ...store.track import FAILED, Track
from ..session.session import Session
from ..theme.style import aligned
from ..theme.tr import tr
from ..theme.words import tip_of
from . import outward
from .shown_rows import follow
from .track_columns import COLUMNS, state_word, waits

DRAGGED = outward.MANY
FLAGS = (
    Qt.ItemFlag.ItemIsEnabled
    | Qt.ItemFlag.ItemIsSelectable
    | Qt.ItemFlag.ItemIsDragEnabled
    | Qt.ItemFlag.ItemIsDropEnabled
    | Qt.ItemFlag.ItemNeverHasChildren
)
TYPED = ("title", "artists", "genre", "year", "album", "label", "rating", "comment", "key")
"""Columns whose words can be typed in their cells."""
STAGES = {"waiting": "waiting", "decoding": "reading", "listening": "hearing"}


class TableModel(QAbstractTableModel):
    """The tracks in sight; rows are read as they come to be seen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._shown, self._queue = session, session.shown, session.queue
        self.count = 0
        follow(self, self._shown)

    def tell_rows(self, first: int, last: int) -> None:
        """These rows look different."""
        self.dataChanged.emit(self.index(first, 0), self.index(last, len(COLUMNS) - 1))

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else self.count

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, side: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if side != Qt.Orientation.Horizontal:
            return None
        column = COLUMNS[section]
        if role == Qt.ItemDataRole.DisplayRole:
            marks = [f"{'▾' if o.down else '▴'}" for o in self._shown.search.order if o.column == column.name]
            return f"{column.title} {marks[0]}" if marks else column.title
        if role == Qt.ItemDataRole.ToolTipRole:
            how = tr("Click to sort, Shift+click to sort by it as well, right click for columns")
            return f"{column.tip or column.title}. {how}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return aligned(figures=column.right)
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        track = self._shown.track(index.row())
        if track is None:
            return None
        if role == Qt.ItemDataRole.UserRole:
            return track
        column = COLUMNS[index.column()]
        if role == Qt.ItemDataRole.EditRole:
            value = getattr(track, column.name) if column.name in TYPED else ""
            return str(value or "")
        if role == Qt.ItemDataRole.DisplayRole:
            return self.state(track)[0] if column.name == "readiness" else column.text(track)
        if role == Qt.ItemDataRole.ToolTipRole:
            text = track.message if track.state == FAILED and column.name == "readiness" else column.text(track)
            return tip_of(waits(track) if column.name == "finding" else text) or None
        return None

    def state(self, track: Track) -> tuple[str, float | None]:
        """Words for how far a track is, and the share done while it is heard."""
        running = self._queue.progress.get(track.id)
        if running is None or running[0] == "waiting":
            return state_word(track), None
        stage, part = running
        return STAGES[stage], share_done(stage, part)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        typed = COLUMNS[index.column()].name in TYPED if index.isValid() else False
        return FLAGS | Qt.ItemFlag.ItemIsEditable if typed else FLAGS

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        track, name, text = self._shown.track(index.row()), COLUMNS[index.column()].name, str(value)
        if track is None or text == self.data(index, Qt.ItemDataRole.EditRole):
            return False
        if name == "key":
            self._session.bookcase.tag([track.id], lambda t: t.set_key([track.id], text))
        else:
            self._session.bookcase.tag([track.id], lambda t: t.set_field([track.id], name, text))
        return True

    def mimeTypes(self) -> list[str]:
        return [DRAGGED]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        rows = sorted({i.row() for i in indexes})
        ids = [int(self._shown.ids[r]) for r in rows]
        data = QMimeData()
        data.setData(DRAGGED, (",".join(map(str, ids)) + ";" + ",".join(map(str, rows))).encode())
        outward.add_files(data, (t.path for t in map(self._shown.track, rows) if t is not None))
        return data

    def supportedDragActions(self) -> Qt.DropAction:
        return outward.ACTIONS


def dragged(mime: QMimeData | None) -> tuple[list[int], list[int]]:
    """Numbers of the tracks that are dragged, and their rows in the table."""
    if mime is None or not mime.hasFormat(DRAGGED):
        return [], []
    ids, _, rows = mime.data(DRAGGED).data().decode().partition(";")
    return [int(i) for i in ids.split(",") if i], [int(r) for r in rows.split(",") if r]
