"""A track's file holds another recording than was heard: what is different, and what becomes of the preparation."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ...core.model.preparation import LOCKED
from ...core.sound.names import shown
from ..session.recording_watch import RecordingWatch
from ..theme.figures import clock
from ..theme.tr import tr
from ..theme.words import Words, tip_of
from . import file_dialogs


class ReplacedDialog(QDialog):
    """Three ways on, each with what it does, and leaving it for later."""

    def __init__(self, parent: QWidget, watch: RecordingWatch, track_id: int) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.watch, self.track_id = watch, track_id
        row = watch.catalogue.library.track(track_id)
        now = watch.others[track_id]
        self.setWindowTitle(tr("Another recording"))
        self.setMinimumWidth(620)
        head = Words(tr("This is not the recording that was heard for {0}.").format(row.title))
        head.setObjectName("title")
        head.setWordWrap(True)
        where = Words(shown(row.path))
        where.setToolTip(tip_of(str(row.path)))
        where.setObjectName("faint")
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(10)
        column.addWidget(head)
        column.addWidget(where)
        table = QGridLayout()
        table.setHorizontalSpacing(18)
        for i, (what, before, after) in enumerate(
            (
                ("", tr("as it was heard"), tr("as it is now")),
                ("Length", clock(row.duration, digits=1), clock(now.duration, digits=1)),
                (tr("Samples a second"), f"{row.rate:,}", f"{now.rate:,}"),
            )
        ):
            for j, text in enumerate((what, before, after)):
                cell = Words(text)
                cell.setObjectName("faint" if i == 0 or j == 0 else "")
                table.addWidget(cell, i, j)
        table.setColumnStretch(3, 1)
        column.addLayout(table)
        ways = QGridLayout()
        ways.setHorizontalSpacing(14)
        ways.setVerticalSpacing(8)
        self.buttons: list[QPushButton] = []
        locked = row.readiness == LOCKED
        for i, (name, does, act) in enumerate(
            (
                (
                    tr("Take the preparation over"),
                    tr("It is locked: unlock it first (Ctrl+L).")
                    if locked
                    else tr(
                        "The new file is heard; grid, cues and phrases are moved to where the same music lies in it."
                    ),
                    lambda: watch.take_over(track_id),
                ),
                (
                    tr("Hear it anew"),
                    tr("The new file is heard; pins and cues stay where they are, right or wrong."),
                    lambda: watch.hear_anew(track_id),
                ),
                (
                    tr("Find the old one…"),
                    tr("Point at the file that holds what was heard; nothing else changes."),
                    lambda: file_dialogs.find_recording(self.parentWidget(), track_id, watch),
                ),
            )
        ):
            button = QPushButton(name)
            button.setEnabled(not (locked and i == 0))
            button.clicked.connect(self._chooser(act) if i < 2 else act)
            words = Words(does)
            words.setWordWrap(True)
            ways.addWidget(button, i, 0)
            ways.addWidget(words, i, 1)
            self.buttons.append(button)
        ways.setColumnStretch(1, 1)
        column.addLayout(ways)
        later = QPushButton(tr("Later"))
        later.clicked.connect(self.reject)
        last = QHBoxLayout()
        note = Words(tr("Until then nothing is handed over for it."))
        note.setObjectName("faint")
        last.addWidget(note, 1)
        last.addWidget(later)
        column.addLayout(last)
        (later if locked else self.buttons[0]).setDefault(True)
        watch.settled.connect(self._settled)

    def _chooser(self, act: Callable[[], None]) -> Callable[[], None]:
        def choose() -> None:
            act()
            self.accept()

        return choose

    def _settled(self, track_id: int) -> None:
        if track_id == self.track_id:
            self.accept()
