"""Skips from chorus to chorus: which there are, how much each leaves out, and a way to hear it."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ....core.form.phrase_edits import bar_of
from ....core.form.skips import Skip
from ....core.model.beatgrid import Grid
from ....core.model.form import Form
from ...theme.tr import tr
from ...theme.words import Elided, Words

MOST = 6


class SkipsPage(QWidget):
    """Emits the number of the skip to try."""

    tried = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 6)
        column.setSpacing(3)
        self.words = Words("")
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self.rows: list[tuple[QPushButton, Elided]] = []
        for k in range(MOST):
            row = QHBoxLayout()
            row.setSpacing(8)
            hear, text = QPushButton(tr("Hear it")), Elided()
            hear.setToolTip(tr("Play two bars before it, and skip on the beat"))
            hear.clicked.connect(lambda _=False, k=k: self.tried.emit(k))
            row.addWidget(hear)
            row.addWidget(text, 1)
            column.addLayout(row)
            self.rows.append((hear, text))
        column.addStretch(1)

    def show_skips(self, skips: list[Skip], form: Form | None, grid: Grid | None, origin: float | None) -> None:
        """List the skips of a track; those that keep the phrase come first."""
        for k, (hear, text) in enumerate(self.rows):
            there = k < len(skips) and form is not None and grid is not None
            hear.setVisible(there)
            text.setVisible(there)
            if not there or form is None or grid is None:
                continue
            s = skips[k]
            a, b = form.phrases[s.source], form.phrases[s.target]
            keeps = tr("keeps the phrase at any place inside") if s.keeps else tr("only where they begin")
            text.say(
                tr("from {0} {1} at bar {2} to {3} {4} at bar {5}: leaves out {6:g} bars, {7}").format(
                    a.role,
                    a.letter,
                    bar_of(grid, s.leave, origin),
                    b.role,
                    b.letter,
                    bar_of(grid, s.enter, origin),
                    s.bars,
                    keeps,
                )
            )
        more = len(skips) - MOST
        left = tr(" {0} more.").format(more) if more > 0 else ""
        self.words.setText(
            tr("There are not two choruses or drops here to skip between: change a phrase's role if there are.")
            if not skips
            else tr("A skip leaves where one begins and goes on where a later one begins.{0}").format(left)
        )
