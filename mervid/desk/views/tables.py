"""The painted views as tables, for those who can't see or use them: pins, bars and the spot check in figures."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QTabWidget

from ...core.edits import typed_values
from ...core.edits.spot_check import Spot, State
from ...core.errors import Refused
from ...core.figures import signed
from ...core.fitting.drift import Trace
from ...core.model.beatgrid import bar_name
from ...core.model.preparation import Preparation
from ..theme.figures import clock
from ..theme.style import aligned
from ..theme.tr import tr

Row = tuple[str, ...]


def error_text(value: float | None) -> str:
    """A signed error, ms; a dash where nothing is heard."""
    return "–" if value is None else signed(value, "ms", digits=1)


class Rows(QAbstractTableModel):
    """Rows of text, each with the time in s it stands for; column `typed_in` can be typed in."""

    typed = pyqtSignal(int, str)

    def __init__(self, heads: Row, typed_in: int = -1) -> None:
        super().__init__()
        self.heads, self.typed_in = heads, typed_in
        self.lines: list[Row] = []
        self.times: list[float] = []

    def fill(self, lines: list[Row], times: list[float]) -> None:
        """Show other rows; the same number of them keeps the selection."""
        if len(lines) == len(self.lines):
            self.lines, self.times = lines, times
            if lines:
                self.dataChanged.emit(self.index(0, 0), self.index(len(lines) - 1, len(self.heads) - 1))
            return
        self.beginResetModel()
        self.lines, self.times = lines, times
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.lines)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.heads)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self.lines[index.row()][index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return aligned(figures=index.column() > 0)
        return None

    def headerData(self, section: int, side: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if side == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.heads[section]
        return aligned(figures=section > 0) if role == Qt.ItemDataRole.TextAlignmentRole else None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        plain = super().flags(index)
        return plain | Qt.ItemFlag.ItemIsEditable if index.column() == self.typed_in else plain

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if str(value) != self.lines[index.row()][index.column()]:
            self.typed.emit(index.row(), str(value))
        return True


class Table(QTableView):
    """Enter goes to the row's time, Shift+Enter types, Delete removes where that can be."""

    went = pyqtSignal(float)
    removed = pyqtSignal(int)

    def __init__(self, rows: Rows, name: str) -> None:
        super().__init__()
        self.rows = rows
        self.setModel(rows)
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        head, side = self.horizontalHeader(), self.verticalHeader()
        assert head is not None and side is not None
        head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        head.setHighlightSections(False)
        side.hide()
        side.setDefaultSectionSize(23)
        self.clicked.connect(lambda i: self.went.emit(self.rows.times[i.row()]))

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        row = self.currentIndex().row()
        if e is not None and 0 <= row < len(self.rows.times) and self.state() != QAbstractItemView.State.EditingState:
            if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.went.emit(self.rows.times[row])
                return
            if e.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self.removed.emit(row)
                return
        super().keyPressEvent(e)


class Tables(QTabWidget):
    """Emits `seek` for a row, `moved` for a typed pin time, `removed` for a pin, `refused` for what can't be read."""

    seek = pyqtSignal(float)
    moved = pyqtSignal(int, float)
    removed = pyqtSignal(int)
    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.pins = Table(Rows(("Bar.beat", "Time", tr("BPM from here"), "Error", tr("Set by")), typed_in=1), "Pins")
        self.bars = Table(Rows(("Bar", tr("Begins at"), "BPM", "Beats", tr("Worst error"), "Allowed")), "Bars")
        self.spots = Table(
            Rows(("Place", tr("Begins at"), tr("Middle error"), tr("Worst error"), "Seen")), tr("Spot check")
        )
        for table in (self.pins, self.bars, self.spots):
            self.addTab(table, table.accessibleName())
            table.went.connect(self.seek)
        self.pins.removed.connect(self.removed)
        self.pins.rows.typed.connect(self._typed)

    def _typed(self, row: int, text: str) -> None:
        try:
            self.moved.emit(row, typed_values.time(text))
        except Refused as e:
            self.refused.emit(str(e))

    def show_all(self, p: Preparation, trace: Trace | None, spots: tuple[Spot, ...], states: tuple[State, ...]) -> None:
        """Fill the three tables from what is shown."""
        grid = p.grid
        if grid is None:
            for table in (self.pins, self.bars, self.spots):
                table.rows.fill([], [])
            return
        tempi = [*grid.tempi.tolist(), float(grid.tempi[-1])]
        error = _at_pins(grid.times, trace)
        self.pins.rows.fill(
            [
                (
                    grid.name_at(q.beat),
                    clock(q.time, digits=3),
                    f"{t:.3f}",
                    error_text(e),
                    "hand" if q.hand else "fit",
                )
                for q, t, e in zip(grid.pins, tempi, error, strict=True)
            ],
            [max(0.0, q.time) for q in grid.pins],
        )
        self._fill_bars(p, trace)
        self.spots.rows.fill(
            [
                (s.name + (f" ({s.doubt})" if s.doubt else ""), clock(s.start, digits=3), error_text(k.typical),
                 error_text(k.worst), "seen" if k.seen else tr("not yet"))
                for s, k in zip(spots, states, strict=True)
            ],
            [s.start for s in spots],
        )  # fmt: skip

    def _fill_bars(self, p: Preparation, trace: Trace | None) -> None:
        grid = p.grid
        assert grid is not None
        if trace is None or not len(trace.times):
            self.bars.rows.fill([], [])
            return
        index, starts = grid.bars(max(0.0, float(trace.times[0]) - 0.05), float(trace.times[-1]))
        times = grid.time_at(starts)
        after = grid.bar_start(index + 1)
        bar = grid.bar_index(grid.beat_at(trace.times) + 0.5)[0] - int(index[0])
        worst, limit = np.zeros(len(index)), np.full(len(index), np.nan)
        for k, e, tol in zip(bar.tolist(), trace.error.tolist(), trace.tolerance.tolist(), strict=True):
            if 0 <= k < len(worst):
                worst[k] = e if abs(e) > abs(worst[k]) else worst[k]
                limit[k] = tol
        lines: list[Row] = [
            (bar_name(int(i)), clock(float(t), digits=3), f"{60 * float(b - a) / float(u - t):.2f}", f"{b - a:.0f}",
             error_text(float(w)) if np.isfinite(m) else "–", f"{m:.0f} ms" if np.isfinite(m) else "–")
            for i, t, u, a, b, w, m in zip(
                index, times, grid.time_at(after), starts, after, worst, limit, strict=True
            )
        ]  # fmt: skip
        self.bars.rows.fill(lines, [max(0.0, float(t)) for t in times])


def _at_pins(times: Any, trace: Trace | None) -> list[float | None]:
    """Error of the beat heard at each pin, ms; None where none is near."""
    if trace is None or not len(trace.times):
        return [None] * len(times)
    near = np.clip(np.searchsorted(trace.times, times), 1, max(1, len(trace.times) - 1))
    if len(trace.times) > 1:
        near = np.where(times - trace.times[near - 1] < trace.times[near] - times, near - 1, near)
    else:
        near = np.zeros(len(times), int)
    return [float(trace.error[j]) if abs(trace.times[j] - t) < 0.15 else None for j, t in zip(near, times, strict=True)]
