"""A page of settings: each with its name, its control, and a line of what it does."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ...theme.words import Words
from ..choice import Arrowed
from ..parts import heading

NAME_PX = 168


class SettingsPage(QScrollArea):
    """Scrolls where the dialog is low."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.title = title
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        body = QWidget()
        body.setObjectName("paper")
        self.setWidget(body)
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(20, 14, 20, 14)
        self.column.setSpacing(4)

    def enter(self) -> None:
        """The page is seen from now on: show what is true now."""

    def head(self, text: str) -> None:
        """A heading over the settings that follow."""
        if self.column.count():
            self.column.addSpacing(10)
        self.column.addWidget(heading(text))

    def row(self, name: str, does: str, *controls: QWidget) -> Words:
        """A setting; what it does is given back, so that it can say more."""
        label = Words(name)
        label.setFixedWidth(NAME_PX)
        label.setWordWrap(True)
        line = QHBoxLayout()
        line.setSpacing(8)
        line.addWidget(label)
        for control in controls:
            if not control.accessibleName():
                control.setAccessibleName(name)
            control.setAccessibleDescription(does)
            line.addWidget(control)
        line.addStretch(1)
        said = Words(does)
        said.setObjectName("faint")
        said.setWordWrap(True)
        under = QHBoxLayout()
        under.addSpacing(NAME_PX + 8)
        under.addWidget(said, 1)
        self.column.addLayout(line)
        self.column.addLayout(under)
        self.column.addSpacing(8)
        return said

    def end(self) -> None:
        """Nothing follows."""
        self.column.addStretch(1)


class OneOf(Arrowed):
    """One of several values, each in words."""

    def __init__(self, choices: Sequence[tuple[object, str]], now: object) -> None:
        super().__init__()
        self.setMinimumWidth(210)
        self.offer(choices, now)

    def offer(self, choices: Sequence[tuple[object, str]], now: object) -> None:
        """Offer these, without saying so."""
        self.blockSignals(True)
        self.clear()
        for value, words in choices:
            self.addItem(words, value)
        found = next((k for k, (value, _) in enumerate(choices) if value == now), 0)
        self.setCurrentIndex(found)
        self.blockSignals(False)


class Number(QDoubleSpinBox):
    """A number with its unit, between two limits."""

    def __init__(self, value: float, low: float, high: float, unit: str, *, digits: int = 0, step: float = 1.0) -> None:
        super().__init__()
        self.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.setDecimals(digits)
        self.setRange(low, high)
        self.setSingleStep(step)
        self.setSuffix(f" {unit}" if unit else "")
        self.setValue(value)
        self.setFixedWidth(96)
        self.setKeyboardTracking(False)

    def show_value(self, value: float) -> None:
        """Stand at a value without saying so."""
        self.blockSignals(True)
        self.setValue(value)
        self.blockSignals(False)


def button(text: str, tip: str) -> QPushButton:
    """A button of a page."""
    b = QPushButton(text)
    b.setToolTip(tip)
    b.setAutoDefault(False)
    return b
