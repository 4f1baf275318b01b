"""Borrowing a grid: choose the full recording, see how the two fit, take it over or leave it."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...core.figures import share
from ...core.siblings.recording_match import Match
from ..session.borrowing import Borrowing
from ..theme.figures import clock
from ..theme.tr import tr
from ..theme.words import Words, tip_of
from ..views.match_view import MatchView
from .parts import restyle

TRACK = Qt.ItemDataRole.UserRole


def summary(match: Match) -> str:
    """A match in words: how sure, how exact, how the two run against each other."""
    found = sum(s.error is not None for s in match.stretches)
    first = match.pieces[0].offset
    begins = (
        tr("begins {0} into it").format(clock(first, digits=3))
        if first > 0.0005
        else tr("begins {0} before it").format(clock(-first, digits=3))
        if first < -0.0005
        else tr("begins with it")
    )
    speed = (match.ratio - 1) * 100
    runs = (
        f"runs {abs(speed):.3f} % {'faster' if speed > 0 else 'slower'}" if abs(speed) > 0.0005 else tr("runs as fast")
    )
    out = tr("{0} of {1} stretches fit ({2}), none more than {3:.1f} ms off. This recording {4} and {5}.").format(
        found, len(match.stretches), share(match.confidence), match.worst * 1000, begins, runs
    )
    for a, b in zip(match.pieces[:-1], match.pieces[1:], strict=True):
        gone = b.offset - a.offset
        out += (
            tr(" At {0} {1:.1f} s are cut out.").format(clock(a.stop, digits=1), gone)
            if gone > 0
            else tr(" At {0} it goes back by {1:.1f} s.").format(clock(a.stop, digits=1), -gone)
        )
    return out


class BorrowDialog(QDialog):
    """Recordings at the left, their match with the open track at the right."""

    def __init__(self, parent: QWidget, borrowing: Borrowing, wanted: int | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(860, 520)
        self.borrowing = borrowing
        mine = borrowing.track.row
        self.mine = mine.title if mine is not None else ""
        self.setWindowTitle(tr("Borrow a grid for {0}").format(self.mine))
        head = Words(tr("Whose grid fits {0}?").format(self.mine))
        head.setObjectName("title")
        head.setWordWrap(True)
        hint = Words(tr("Choose the recording it was made from. Both are compared by their sound alone."))
        hint.setObjectName("faint")
        hint.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Recordings with a grid"))
        self.list.setFixedWidth(230)
        for track in borrowing.candidates():
            item = QListWidgetItem(track.title)
            item.setData(TRACK, track.id)
            item.setToolTip(tip_of(f"{track.title}, {clock(track.duration)}"))
            item.setSizeHint(QSize(200, 30))
            self.list.addItem(item)
        self.list.currentItemChanged.connect(self._chosen)
        self.picture = MatchView()
        self.words = Words("")
        self.words.setWordWrap(True)
        self.words.setMinimumHeight(52)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.take = QPushButton(tr("Take over grid and bars"))
        self.take.setDefault(True)
        self.take.clicked.connect(self._take)
        leave = QPushButton(tr("Leave it"))
        leave.setAutoDefault(False)
        leave.clicked.connect(self.reject)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(leave)
        buttons.addWidget(self.take)
        right = QVBoxLayout()
        right.addWidget(self.picture, 1)
        right.addWidget(self.words)
        middle = QHBoxLayout()
        middle.setSpacing(14)
        middle.addWidget(self.list)
        middle.addLayout(right, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.addWidget(head)
        column.addWidget(hint)
        column.addLayout(middle, 1)
        column.addLayout(buttons)
        borrowing.changed.connect(self._show)
        self.finished.connect(lambda _: borrowing.forget())
        self._show()
        for row in range(self.list.count()):
            there = self.list.item(row)
            if there is not None and there.data(TRACK) == wanted:
                self.list.setCurrentRow(row)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.borrowing.ask(item.data(TRACK))

    def _show(self) -> None:
        b = self.borrowing
        mine, full = b.track.row, b.full
        words, kind = "", "faint"
        if not self.list.count():
            message = tr("No other recording has a grid yet: open the full recording first, and let it be heard.")
        elif full is None:
            message = tr("Choose a recording at the left.")
        elif b.waiting:
            message = tr("Comparing with {0}…").format(full.title)
        else:
            message = tr("{0}: no fit.").format(full.title)
            words, kind = (b.refusal, "warn") if b.match is None else (summary(b.match), "")
            if b.match is not None and b.is_draft:
                words += tr(" Mind that the grid of {0} is still a draft: check it first.").format(full.title)
        durations = (mine.duration if mine else 0.0, full.duration if full else 0.0)
        self.picture.show_match(b.match, durations, (self.mine, full.title if full else ""), message)
        self.words.setText(words)
        self.words.setObjectName(kind)
        restyle(self.words)
        self.take.setEnabled(b.match is not None)

    def _take(self) -> None:
        if self.borrowing.use():
            self.accept()
