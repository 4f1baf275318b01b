"""Pieces of the panel at the right of Align: fit cards, tolerance sliders, the note, the list of cues."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSizePolicy,
    QSlider,
    QWidget,
)

from ....core.model.cue import Cue
from ....core.model.preparation import Preparation
from ...theme.figures import clock
from ...theme.tr import tr
from ...theme.words import Words
from ...widgets.parts import edit_by_click_and_key, put_at_ends
from ...widgets.text_fields import TextBox

CUE = Qt.ItemDataRole.UserRole


class FitCard(QPushButton):
    """A way to fit the grid, with what it achieves; checked when the grid is just that."""

    def __init__(self, title: str, key: str) -> None:
        super().__init__()
        self.title = title
        self.setCheckable(True)
        self.setToolTip(f"{title} ({key})")
        self.setMinimumHeight(58)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.say("")

    def say(self, text: str) -> None:
        """Second and third line."""
        self.setText(f"{self.title}\n{text}" if text else f"{self.title}\n…")
        self.setAccessibleName(f"{self.title}. {text}")

    def nextCheckState(self) -> None:
        """The grid decides whether this is checked, not the click."""


class ToleranceSlider(QWidget):
    """A tolerance in whole ms: `moved` while it is dragged, `placed` when it is let go or changed by key."""

    moved = pyqtSignal()
    placed = pyqtSignal()

    def __init__(self, name: str, words: str) -> None:
        super().__init__()
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(2, 30)
        self.slider.setPageStep(2)
        self.slider.setAccessibleName(tr("Tolerance {0}, ms").format(words))
        self.slider.setToolTip(
            tr("How far a beat may stray {0}: drag to see what following would need (Alt+T types)").format(words)
        )
        self.text = Words("")
        self.text.setMinimumWidth(36)
        self.value = 8.0
        label = Words(name)
        label.setObjectName("faint")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        for widget in (label, self.slider, self.text):
            row.addWidget(widget)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(400)
        self._rest.timeout.connect(self.placed)
        self.slider.valueChanged.connect(self._changed)
        self.slider.sliderReleased.connect(self.placed)

    def show_value(self, value: float) -> None:
        """Stand at a value without saying so; values beyond the slider are shown in figures."""
        if not self.slider.isSliderDown():
            self.slider.blockSignals(True)
            self.slider.setValue(round(value))
            self.slider.blockSignals(False)
            self._rest.stop()
            self.value = value
            self.text.setText(f"{value:g} ms")

    def _changed(self, value: int) -> None:
        self.value = float(value)
        self.text.setText(f"{value} ms")
        self.moved.emit()
        if not self.slider.isSliderDown():
            # keys and wheel have no release: a short rest is one
            self._rest.start()


class Notes(TextBox):
    """The note on a track; saved when the field is left."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Note"))
        self.setPlaceholderText(tr("A note of your own: how it mixes, what to watch for"))

    def sizeHint(self) -> QSize:
        return QSize(200, 66)


class Cues(QListWidget):
    """The cues in order; Enter jumps, Shift+Enter renames, Delete deletes."""

    jumped = pyqtSignal(str)
    renamed = pyqtSignal(str, str)
    deleted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Cues"))
        edit_by_click_and_key(self)
        self.setMinimumHeight(44)
        self._filling = False
        self._rows: list[tuple[Cue, str, float]] = []
        self.itemClicked.connect(lambda item: self.jumped.emit(item.data(CUE)))
        self.itemChanged.connect(self._changed)

    def sizeHint(self) -> QSize:
        return QSize(200, 66)

    def fill(self, p: Preparation) -> None:
        """Show the cues of a preparation."""
        rows = []
        for cue in p.cues:
            at = cue.at(p.grid)
            where = p.grid.name_at(float(p.grid.beat_at(at))) if p.grid and cue.beat is not None else "free"
            rows.append((cue, where, at))
        if rows == self._rows and all(self.item(i).text() == c.name for i, (c, _, _) in enumerate(rows)):  # type: ignore[union-attr]
            return
        self._rows = rows
        self._filling = True
        row = self.currentRow()
        self.clear()
        for cue, where, at in rows:
            item = QListWidgetItem(cue.name)
            item.setData(CUE, cue.id)
            item.setToolTip(tr("{0}, {1}. Enter jumps, Shift+Enter renames.").format(where, clock(at, digits=3)))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.addItem(item)
        put_at_ends(self, [f"{where}    {clock(at, digits=1)}" for _, where, at in rows])
        self.setCurrentRow(min(row, self.count() - 1))
        self._filling = False

    def _changed(self, item: QListWidgetItem) -> None:
        if not self._filling:
            self.renamed.emit(item.data(CUE), item.text())

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        item = self.currentItem()
        if e is not None and item is not None and self.state() != QAbstractItemView.State.EditingState:
            if e.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self.deleted.emit(item.data(CUE))
                return
            if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.jumped.emit(item.data(CUE))
                return
        super().keyPressEvent(e)
