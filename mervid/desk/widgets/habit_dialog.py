"""A person's habit as sentences, each with how often it holds; what is ticked becomes a recipe."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QDialog, QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ...core.cues.habit import Held
from ..theme.tr import tr
from ..theme.words import Words


class HabitDialog(QDialog):
    """Rules to choose from; `taken` with those that are ticked."""

    taken = pyqtSignal(list)

    def __init__(self, parent: QWidget, held: Sequence[Held], tracks: int) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("A recipe from my cues"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(640, 360)
        self.held = list(held)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        title = Words(tr("What you do in {0} tracks").format(tracks))
        title.setObjectName("title")
        column.addWidget(title)
        about = Words(
            tr("Each sentence would have set cues that you set by hand. Untick what you don't want as a rule.")
        )
        about.setObjectName("faint")
        about.setWordWrap(True)
        column.addWidget(about)
        self.boxes: list[QCheckBox] = []
        body = QWidget()
        body.setObjectName("paper")
        lines = QVBoxLayout(body)
        lines.setContentsMargins(0, 0, 0, 0)
        for one in self.held:
            box = QCheckBox(one.sentence())
            box.setChecked(True)
            box.toggled.connect(lambda _: self.take.setEnabled(bool(self.ticked())))
            lines.addWidget(box)
            self.boxes.append(box)
        lines.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        column.addWidget(scroll, 1)
        foot = QHBoxLayout()
        foot.addStretch(1)
        away = QPushButton(tr("Let it be"))
        away.clicked.connect(self.reject)
        self.take = QPushButton(tr("Take it in hand"))
        self.take.setToolTip(tr("These rules become the recipe in hand, to be changed, saved and applied"))
        self.take.setDefault(True)
        self.take.clicked.connect(self._take)
        foot.addWidget(away)
        foot.addWidget(self.take)
        column.addLayout(foot)

    def ticked(self) -> list[Held]:
        """The rules that are ticked."""
        return [one for one, box in zip(self.held, self.boxes, strict=True) if box.isChecked()]

    def _take(self) -> None:
        self.taken.emit(self.ticked())
        self.accept()
