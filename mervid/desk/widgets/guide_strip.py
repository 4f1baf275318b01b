"""The strip under the header that leads through the first ten minutes: what to look at, what to do, and a tick."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from ..session.first_minutes import STEPS, FirstMinutes
from ..theme.tr import tr
from ..theme.words import Words


class GuideStrip(QFrame):
    """Emits `stage_wanted` where a step is done elsewhere, then `asked` with that stage and a request."""

    asked = pyqtSignal(str, str, object)
    stage_wanted = pyqtSignal(str)

    def __init__(self, minutes: FirstMinutes) -> None:
        super().__init__()
        self.setObjectName("strip")
        self._minutes = minutes
        self.number, self.title, self.look, self.do = Words(""), Words(""), Words(""), Words("")
        self.number.setObjectName("figure")
        self.number.setFixedWidth(64)
        self.title.setObjectName("title")
        self.look.setObjectName("faint")
        for words in (self.look, self.do):
            words.setWordWrap(True)
        self.act, self.back, self.next, self.leave = (QPushButton() for _ in range(4))
        self.back.setText(tr("Back"))
        self.leave.setText(tr("Leave"))
        self.back.setToolTip(tr("The step before"))
        self.leave.setToolTip(tr("End the guided start; it can be begun again from Commands"))
        for b in (self.act, self.back, self.next, self.leave):
            b.setAutoDefault(False)
        self.act.clicked.connect(self._act)
        self.back.clicked.connect(lambda: minutes.go(-1))
        self.next.clicked.connect(lambda: minutes.go(1))
        self.leave.clicked.connect(minutes.leave)
        texts = QVBoxLayout()
        texts.setSpacing(1)
        texts.addWidget(self.title)
        texts.addWidget(self.look)
        texts.addWidget(self.do)
        buttons = QHBoxLayout()
        buttons.setSpacing(6)
        for b in (self.act, self.back, self.next, self.leave):
            buttons.addWidget(b)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 7, 12, 8)
        row.setSpacing(12)
        row.addWidget(self.number)
        row.addLayout(texts, 1)
        row.addLayout(buttons)
        minutes.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the step that is due."""
        m = self._minutes
        self.setVisible(m.at is not None)
        if m.at is None:
            return
        step = m.step
        if step is None:
            did = sum(m.done)
            self.number.setText("✓")
            self.title.setText(
                tr("That was it")
                if did == len(STEPS)
                else tr("That was it: {0} of {1} steps done").format(did, len(STEPS))
            )
            self.look.setText(tr("Shift+F1 opens the guide at what is seen, / finds any command, F1 lists the keys."))
            self.do.setText(
                tr("Now your own: Ctrl+Shift+O adds a folder. The demo set can be taken out of the library again.")
            )
            self.act.hide()
        else:
            done = m.done[m.at]
            self.number.setText("✓" if done else f"{m.at + 1}/{len(STEPS)}")
            self.title.setText(tr("{0}: done").format(tr(step.title)) if done else tr(step.title))
            self.look.setText(tr(step.look))
            self.do.setText(tr(step.do))
            self.act.setVisible(bool(step.button) and not done)
            self.act.setText(tr(step.button))
            self.act.setToolTip(tr("Does it for you: {0}").format(tr(step.button)))
        self.back.setEnabled(bool(m.at))
        self.next.setVisible(step is not None)
        self.next.setText(tr("Next") if m.at is not None and step is not None and m.done[m.at] else tr("Pass over"))
        self.next.setProperty("due", step is not None and m.done[m.at or 0])
        self.number.setAccessibleName(tr("Step {0} of {1}").format((m.at or 0) + 1, len(STEPS)))

    def _act(self) -> None:
        step = self._minutes.step
        if step is not None:
            self.stage_wanted.emit(step.stage)
            self.asked.emit(step.stage, step.request, step.argument)
