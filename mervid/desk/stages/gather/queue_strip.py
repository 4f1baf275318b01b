"""At the foot of the lists: what is still to be heard, how long it will take, and who decides about it."""

from __future__ import annotations

import os

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtGui import QActionGroup
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QMenu, QPushButton, QToolButton, QVBoxLayout

from ... import settings
from ...session.session import Session
from ...theme.tr import tr
from ...theme.words import Words

REFRESH_MS = 1000


def time_words(seconds: float | None) -> str:
    """How long something will take, as a person says it."""
    if seconds is None:
        return ""
    minutes = seconds / 60
    if minutes < 1.5:
        return tr("about a minute")
    if minutes < 90:
        return tr("about {0:.0f} min").format(minutes)
    return tr("about {0:.0f} h").format(minutes / 60) if minutes > 600 else tr("about {0:.1f} h").format(minutes / 60)


class QueueStrip(QFrame):
    """Hidden while there is nothing to hear."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("queue")
        self._queue = session.queue
        self.words = Words()
        self.words.setWordWrap(True)
        self.pause = QPushButton(tr("Pause"))
        self.pause.setToolTip(tr("Begin no new recording; what you open is heard all the same"))
        self.pause.clicked.connect(self.toggle)
        self.how = QToolButton()
        self.how.setText(tr("How…"))
        self.how.setToolTip(tr("How many cores hearing may use, and whether it waits while you play"))
        self.how.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.how)
        menu.aboutToShow.connect(lambda: self._fill(menu))
        self.how.setMenu(menu)
        row = QHBoxLayout()
        row.addWidget(self.pause)
        row.addWidget(self.how)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 8, 8)
        column.setSpacing(4)
        column.addWidget(self.words)
        column.addLayout(row)
        self._queue.pause(bool(QSettings().value("paused", False, bool)))
        self._queue.use(self._queue.pool.allowed, quiet=settings.quiet())
        self._timer = QTimer(self)
        self._timer.setInterval(REFRESH_MS)
        self._timer.timeout.connect(self.refresh)
        self._timer.start()
        self._queue.changed.connect(self.refresh)
        session.catalogue.added.connect(lambda _: self.refresh())
        self.refresh()

    def toggle(self) -> None:
        """Pause, or go on."""
        self._queue.pause(not self._queue.paused)
        QSettings().setValue("paused", self._queue.paused)
        self.refresh()

    def _fill(self, menu: QMenu) -> None:
        menu.clear()
        group = QActionGroup(menu)
        most = len(os.sched_getaffinity(0))
        choices = sorted({1, 2, max(1, most // 2), max(1, most - 1), most} & set(range(1, most + 1)))
        now = self._queue.pool.allowed
        for n in choices:
            action = menu.addAction(
                f"{n} core{'s' if n > 1 else ''} of {most}", lambda k=n: self._use(k, self._queue.quiet)
            )
            assert action is not None
            action.setCheckable(True)
            action.setChecked(n == now)
            group.addAction(action)
        menu.addSeparator()
        quiet = menu.addAction(tr("Wait while something plays"), lambda: self._use(now, not self._queue.quiet))
        assert quiet is not None
        quiet.setCheckable(True)
        quiet.setChecked(self._queue.quiet)

    def _use(self, cores: int, quiet: bool) -> None:
        settings.set_work(cores, quiet=quiet)
        self._queue.use(cores, quiet=quiet)

    def refresh(self) -> None:
        """Say how much there is to do."""
        left, seconds = self._queue.outlook()
        self.setVisible(bool(left) or self._queue.paused)
        if not self.isVisibleTo(self.parentWidget()):
            return
        many = f"{left:,} recording{'s' if left != 1 else ''} to hear"
        if self._queue.paused:
            text = f"Paused; {many}." if left else "Paused."
        elif self._queue.pool.held:
            text = tr("{0}: waiting while you play.").format(many)
        else:
            text = f"{many}, {time_words(seconds)}." if seconds is not None else f"{many}."
        self.words.setText(text)
        self.pause.setText(tr("Go on") if self._queue.paused else tr("Pause"))
