"""Hands on the phrase ladder: a row's end is dragged by bars to where the next phrase begins, cues along their row."""

from __future__ import annotations

import attrs
import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QWheelEvent

from ...core.form import phrase_edits
from ...core.model.cue import Cue
from ..theme.tr import tr
from .ladder_picture import FLAG, FOOT, HEAD, LEFT, Held, LadderPicture

GRAB = 5
"""So near an edge is on it, px."""


class PhraseLadder(LadderPicture):
    """Emits what hands want: a place to go to, a phrase chosen, a beginning or a cue moved."""

    seek = pyqtSignal(float)
    chosen = pyqtSignal(int)
    cue_chosen = pyqtSignal(str)
    start_placed = pyqtSignal(int, float)
    cue_placed = pyqtSignal(str, float, bool)
    menu_wanted = pyqtSignal(int, QPointF)
    hovered = pyqtSignal(str)

    def _row_at(self, y: float) -> int:
        row = int((y - HEAD + self.offset) // self.row_height)
        return row if 0 <= row < len(self.bars) else -1

    def _edge_at(self, x: float, y: float) -> int:
        """The phrase whose beginning is under a place: at its own left edge, or at the end of the row before."""
        row = self._row_at(y)
        if row < 0:
            return -1
        if abs(x - self.x_of(row, self.starts[row + 1])) <= GRAB and row + 1 < len(self.bars):
            return row + 1
        return row if abs(x - LEFT) <= GRAB and row > 0 else -1

    def _cue_at(self, x: float, y: float) -> Cue | None:
        for c in reversed(self.preparation.cues):
            left, top = self.place_of(self.beat_of(c))
            if left - 3 <= x <= left + self.flag_width(c) and top + 1 <= y <= top + FLAG + 3:
                return c
        return None

    # hands

    @property
    def dragging(self) -> bool:
        return self.held is not None

    def let_go(self) -> None:
        self.held = None
        self.refresh()

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.grid is None or not self.bars:
            return
        x, y = e.position().x(), e.position().y()
        row = self._row_at(y)
        if e.button() == Qt.MouseButton.RightButton and row >= 0:
            self.chosen.emit(row)
            self.menu_wanted.emit(row, e.globalPosition())
            return
        if e.button() != Qt.MouseButton.LeftButton:
            return
        cue, edge = self._cue_at(x, y), self._edge_at(x, y)
        if cue is not None:
            self.cue_chosen.emit(cue.id)
            self.held = Held(cue=cue.id, beat=self.beat_of(cue), x=x)
        elif edge > 0:
            self.chosen.emit(edge)
            self.held = Held(index=edge, beat=self.starts[edge], x=x)
        elif row >= 0:
            self.chosen.emit(row)
            beat = self.beat_at(x, y)
            if x < LEFT:
                beat = self.starts[row]
            if beat is not None:
                self.seek.emit(max(0.0, float(self.grid.time_at(beat))))

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.grid is None or not self.bars:
            return
        x, y = e.position().x(), e.position().y()
        if self.held is None:
            over = self._edge_at(x, y) > 0
            on_cue = self._cue_at(x, y) is not None
            shape = Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor
            self.setCursor(Qt.CursorShape.PointingHandCursor if on_cue else shape)
            self._tell(x, y)
            return
        if abs(x - self.held.x) < 3 and not self.held.moved:
            return
        d = self.held
        row = self._row_at(y) if d.cue else d.index - 1
        if not d.cue:
            # at its own left edge one drags it in its own row
            own = abs(d.x - LEFT) <= GRAB and self._row_at(y) == d.index
            row = d.index if own else d.index - 1
        beat = self.beat_at(x, y, max(0, row))
        if beat is None:
            return
        inside = float(np.clip(beat, self.starts[0], self.starts[-1]))
        beat = inside if d.cue else self._bar_between(beat, d.index)
        self.held = attrs.evolve(d, beat=beat, moved=True)
        self.refresh()

    def _bar_between(self, beat: float, index: int) -> float:
        """The bar line nearest to `beat` at which phrase `index` can begin."""
        assert self.grid is not None
        line = self.grid.bar_line_near(float(self.grid.time_at(beat)))
        low = int(self.grid.bar_index(self.starts[index - 1] + 1e-6)[0]) + 1
        high = int(self.grid.bar_index(self.starts[index + 1] - 1e-6)[0])
        at = int(np.clip(int(self.grid.bar_index(line + 1e-6)[0]), low, max(low, high)))
        return float(self.grid.bar_start(at))

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        d, self.held = self.held, None
        self.refresh()
        if d is None or e is None or self.grid is None:
            return
        if d.cue and d.moved:
            free = bool(e.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.cue_placed.emit(d.cue, float(self.grid.time_at(d.beat)), free)
        elif d.cue:
            self.seek.emit(max(0.0, float(self.grid.time_at(d.beat))))
        elif d.moved:
            self.start_placed.emit(d.index, d.beat)

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            most = max(0.0, len(self.bars) * self.row_height - (self.height() - HEAD - FOOT))
            self.offset = float(np.clip(self.offset - e.angleDelta().y() / 3, 0, most))
            self.refresh()

    def show_row(self, row: int) -> None:
        """Scroll so that a row is seen."""
        top = row * self.row_height
        room = self.height() - HEAD - FOOT
        self.offset = float(np.clip(self.offset, top + self.row_height - room, top)) if room > 0 else 0.0
        self.offset = max(0.0, self.offset)
        self.refresh()

    def _tell(self, x: float, y: float) -> None:
        beat, row = self.beat_at(x, y), self._row_at(y)
        if beat is None or row < 0 or self.form is None or self.grid is None:
            self.hovered.emit("")
            return
        q = self.form.phrases[row]
        bar = int((beat - self.starts[row]) / max(1e-9, self.starts[row + 1] - self.starts[row]) * self.bars[row])
        left = self.bars[row] - bar
        place = phrase_edits.place_of(self.grid, beat, self.preparation.origin)
        self.hovered.emit(tr("{0}  {1} {2}, bar {3}, {4:.0f} to go").format(place, q.role, q.name, bar + 1, left))
