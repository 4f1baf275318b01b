"""Parts of the window that know nothing of tracks: the keys and their list, messages, the empty page."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ..core import preparation

# key, request, argument, words for the list of keys
KEYS: tuple[tuple[str, str, object, str], ...] = (
    ("S", "fit", "steady", "One steady tempo"),
    ("F", "fit", "follow", "Follow the recording"),
    ("P", "pin", None, "Pin the nearest beat to the attack here"),
    ("Backspace", "unpin", None, "Remove the chosen pin"),
    ("N", "pin-by", 1, "Go to the next pin and choose it"),
    ("Shift+N", "pin-by", -1, "Go to the pin before and choose it"),
    ("Ctrl+,", "nudge", -1.0, "Nudge the chosen pin 1 ms earlier"),
    ("Ctrl+.", "nudge", 1.0, "Nudge the chosen pin 1 ms later"),
    ("B", "beat", None, "This is a beat: listen again around it"),
    ("D", "downbeat", None, "A bar starts here"),
    ("O", "opinion", None, "Show the next way to read the track"),
    ("Return", "keep-opinion", True, "Keep the reading that is shown"),
    ("Escape", "keep-opinion", False, "Go back to the reading that stands; let go of the part"),
    ("J", "next-doubt", None, "Go to the next doubtful place"),
    ("[", "part-edge", 0, "The part begins here"),
    ("]", "part-edge", 1, "The part ends here"),
    ("W", "leaf", None, "Tools or cues"),
    (",", "slide", -1.0, "Slide the grid 1 ms earlier"),
    (".", "slide", 1.0, "Slide the grid 1 ms later"),
    ("Shift+,", "slide", -10.0, "Slide the grid 10 ms earlier"),
    ("Shift+.", "slide", 10.0, "Slide the grid 10 ms later"),
    ("T", "type-tempo", None, "Type a tempo"),
    ("H", "edit", preparation.halve, "Count every second beat"),
    ("Shift+H", "edit", preparation.double, "Count twice as many beats"),
    ("C", "cue", False, "Set a cue on the nearest downbeat"),
    ("Shift+C", "cue", True, "Set a cue just here"),
    ("Left", "step", -1, "One beat back"),
    ("Right", "step", 1, "One beat on"),
    ("Shift+Left", "step-bar", -1, "One bar back"),
    ("Shift+Right", "step-bar", 1, "One bar on"),
    ("Up", "zoom", 0.7, "Closer"),
    ("Down", "zoom", 1.4, "Wider"),
    ("R", "rows", None, "More bars a row in the fold"),
    ("Ctrl+L", "lock", None, "Lock or unlock"),
    *((str(n + 1), "jump-number", n, f"Jump to cue {n + 1}") for n in range(9)),
)


class KeepKeys(QObject):
    """Lets a widget have keys that are shortcuts elsewhere."""

    def __init__(self, widget: QWidget, keys: set[Qt.Key]) -> None:
        super().__init__(widget)
        self._keys = keys

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in self._keys:
            event.accept()
            return True
        return False


class Note(QFrame):
    """A line of words over the transport: what was refused, what went wrong, what is done."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("note")
        self.text = QLabel("")
        self.text.setWordWrap(True)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.close_button = QPushButton("OK")
        self.close_button.setObjectName("plain")
        self.close_button.setAccessibleName("Dismiss the message")
        self.close_button.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 2, 6, 2)
        row.addWidget(self.text, 1)
        row.addWidget(self.close_button)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, kind: str, text: str) -> None:
        """Problems stay until they are read; the rest goes by itself."""
        waiting = self.isVisible() and self.property("kind") == "problem" and kind == "problem"
        if waiting and text not in self.text.text():
            lines = [*self.text.text().split("\n"), text]
            text = "\n".join(lines[-4:])
        self.setProperty("kind", kind)
        s = self.style()
        if s is not None:
            s.unpolish(self)
            s.polish(self)
        self.text.setText(text)
        self.show()
        self._timer.stop()
        if kind != "problem":
            self._timer.start(7000)


class Empty(QWidget):
    """What is seen before the first recording."""

    def __init__(self, open_files: QPushButton) -> None:
        super().__init__()
        self.setObjectName("bench")
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addStretch(1)
        for name, text in (
            ("emptyTitle", "Drop a recording here"),
            (
                "faint",
                "Mervid hears its beats, shows where they drift from a steady tempo,\nand follows them if you want.",
            ),
            ("faint", "WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A. Your files are only read, never changed."),
        ):
            label = QLabel(text)
            label.setObjectName(name)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            column.addWidget(label)
        column.addWidget(open_files, 0, Qt.AlignmentFlag.AlignCenter)
        column.addStretch(2)


class KeyList(QDialog):
    """All keys and what they do."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        more = (
            ("Space", "Play or pause"), ("K", "Click on or off"), ("Home, End", "Beginning, end"),
            ("Ctrl+Z, Ctrl+Shift+Z", "Undo, redo"), ("Ctrl+O", "Open recordings"), ("Ctrl+E", "Export JAMS"),
            ("Ctrl+Shift+E", "Export a beat list"), ("Ctrl+I", "Import beats"), ("Ctrl+N", "Day or night"),
            ("Shift while dragging", "No snapping"), ("Esc while dragging", "Leave it as it was"),
        )  # fmt: skip
        listed = [(k, words) for k, name, _, words in KEYS if name != "jump-number"] + [
            ("1 to 9", "Jump to a cue"),
            *more,
        ]
        table = QGridLayout(self)
        table.setContentsMargins(20, 16, 20, 16)
        table.setHorizontalSpacing(16)
        table.setVerticalSpacing(5)
        half = -(-len(listed) // 2)
        for i, (keys, words) in enumerate(listed):
            label = QLabel(keys)
            f = label.font()
            f.setBold(True)
            label.setFont(f)
            table.addWidget(label, i % half, 2 * (i // half))
            table.addWidget(QLabel(words), i % half, 2 * (i // half) + 1)
