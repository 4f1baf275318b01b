"""Keep: the whole library as one file and back, copies of days, and JAMS made elsewhere."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ...session.keeping import Keeping
from ...theme.tr import tr
from ...theme.words import Words
from ...widgets.parts import Switch, heading
from ..frame import Keys, asking


class KeepPage(QWidget):
    """Emits `asked(name, argument)`."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self.setObjectName("paper")
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 16, 26, 16)
        column.setSpacing(7)
        column.setAlignment(Qt.AlignmentFlag.AlignTop)

        def part(head: str, words: str) -> QHBoxLayout:
            column.addWidget(heading(head))
            said = Words(words)
            said.setWordWrap(True)
            said.setObjectName("faint")
            column.addWidget(said)
            row = QHBoxLayout()
            row.setSpacing(5)
            column.addLayout(row)
            return row

        row = part(
            tr("BACK UP"),
            tr("Tracks, grids, cues, lists, pairs, recipes and profiles in one file. Recordings are not in it."),
        )
        self.jams = Switch(tr("With a JAMS of each track"), tr("An open form beside the library, for other programs"))
        row.addWidget(
            asking(tr("Back up…"), "back-up", None, tr("Write the whole library into one file"), self.asked, keys)
        )
        row.addWidget(self.jams)
        row.addStretch(1)
        self.copies = Words("")
        self.copies.setWordWrap(True)
        column.addWidget(self.copies)
        column.addSpacing(12)
        row = part(
            tr("PUT BACK"), tr("First it is said what would change. What is replaced is kept beside your library.")
        )
        row.addWidget(
            asking(tr("Look into a backup…"), "look-backup", None, tr("See what it would change"), self.asked, keys)
        )
        self.put = asking(tr("Put it back"), "put-back", None, tr("At the next start of Mervid"), self.asked, keys)
        self.keep = asking(
            tr("Keep what there is"), "keep-this", None, tr("Put nothing back after all"), self.asked, keys
        )
        row.addWidget(self.put)
        row.addWidget(self.keep)
        row.addStretch(1)
        self.look = Words("")
        self.look.setWordWrap(True)
        column.addWidget(self.look)
        column.addSpacing(12)
        row = part(
            tr("ANOTHER MACHINE"),
            tr("After a library came from elsewhere: recordings are found again by name and size, and keep all work."),
        )
        row.addWidget(
            asking(
                tr("Find the recordings…"),
                "find-music",
                None,
                tr("Look in a folder and all below it"),
                self.asked,
                keys,
            )
        )
        row.addStretch(1)
        column.addSpacing(12)
        row = part(
            tr("FROM JAMS"),
            tr("Grids, phrases and cues made elsewhere, taken over by the tracks of their names. Ctrl+Z undoes it."),
        )
        row.addWidget(
            asking(
                tr("Take over a folder…"), "take-jams", None, tr("JAMS files in a folder and below"), self.asked, keys
            )
        )
        row.addStretch(1)
        column.addStretch(1)

    def show_keeping(self, k: Keeping) -> None:
        """What is kept, and what waits."""
        copies = k.copies()
        words = tr("No copy of a day was made yet: one is made at each start, of a day that has none.")
        if copies:
            days = ", ".join(day for day, _ in copies)
            words = f"Copies of {len(copies)} day{'s' if len(copies) > 1 else ''}, the last seven are kept: {days}."
        self.copies.setText(words)
        self.put.setVisible(k.look is not None)
        self.keep.setVisible(k.waits)
        text = "\n".join(k.look[1].sentences()) if k.look is not None else ""
        if k.waits:
            text = tr("A backup takes the place of your library when Mervid starts the next time.")
        self.look.setText(k.busy or text)
        self.look.setVisible(bool(k.busy or text))
