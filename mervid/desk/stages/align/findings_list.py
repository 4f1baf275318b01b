"""The findings at the right of Align: a mark for how much each asks for, its sentence, and its fix as a button.

A click goes to the place; over the fix's button, or with focus on it, the fold shows what it would give.
"""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from ....core.findings.study import DOUBT, ODD, Finding
from ...theme.style import Theme
from ...theme.tr import tr
from ...theme.words import Words

WORDS = {DOUBT: "asks for a decision", ODD: "worth a look"}


class Mark(QWidget):
    """How much a finding asks for: a filled wedge for a decision, a ring for a look, a dash for nothing."""

    def __init__(self, weight: str) -> None:
        super().__init__()
        self.weight = weight
        self.setFixedSize(14, 16)
        self.setToolTip(WORDS.get(weight, "for information"))

    def paintEvent(self, e: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        pal = Theme.palette
        if self.weight == DOUBT:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(pal.color("attention"))
            p.drawPolygon(QPolygonF([QPointF(1, 3), QPointF(11, 8.5), QPointF(1, 14)]))
        elif self.weight == ODD:
            p.setPen(QPen(pal.color("ink"), 1.6))
            p.drawEllipse(QRectF(2, 4.5, 8, 8))
        else:
            p.setPen(QPen(pal.color("faint"), 1.6))
            p.drawLine(QPointF(2, 8.5), QPointF(10, 8.5))


class FixButton(QPushButton):
    """Tells when it is looked at, by mouse or by focus."""

    looked = pyqtSignal(bool)

    def enterEvent(self, e: QEnterEvent | None) -> None:
        self.looked.emit(True)
        super().enterEvent(e)

    def leaveEvent(self, e: QEvent | None) -> None:
        self.looked.emit(False)
        super().leaveEvent(e)

    def focusInEvent(self, e: QFocusEvent | None) -> None:
        self.looked.emit(True)
        super().focusInEvent(e)

    def focusOutEvent(self, e: QFocusEvent | None) -> None:
        self.looked.emit(False)
        super().focusOutEvent(e)


class Row(QFrame):
    """One finding."""

    pressed = pyqtSignal()
    moved = pyqtSignal(int)

    def __init__(self, finding: Finding) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.finding = finding
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{finding.text} ({WORDS.get(finding.weight, 'for information')})")
        if finding.start is not None:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            self.setToolTip(tr("Go there"))
        self.text = Words(finding.text)
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.text.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 4, 2, 5)
        row.setSpacing(4)
        row.addWidget(Mark(finding.weight), 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout()
        column.setSpacing(3)
        column.addWidget(self.text)
        self.fix: FixButton | None = None
        if finding.fix is not None:
            self.fix = FixButton(finding.fix.label)
            self.fix.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.fix.setToolTip(tr("Shown in the fold while you point at it; a click takes it"))
            column.addWidget(self.fix, 0, Qt.AlignmentFlag.AlignLeft)
        row.addLayout(column, 1)

    def event(self, e: QEvent | None) -> bool:
        # these keys do something else in the window
        own = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if isinstance(e, QKeyEvent) and e.type() == QEvent.Type.ShortcutOverride and e.key() in own:
            e.accept()
            return True
        return super().event(e)

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        self.pressed.emit()

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None:
            return
        if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed.emit()
        elif e.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.moved.emit(1 if e.key() == Qt.Key.Key_Down else -1)
        else:
            super().keyPressEvent(e)


class FindingsList(QScrollArea):
    """All findings; `looked` with None when none is looked at any more."""

    chosen = pyqtSignal(object)
    looked = pyqtSignal(object)
    used = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Findings"))
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setMinimumHeight(92)
        self.rows: list[Row] = []
        self._shown: tuple[Finding, ...] | None = None
        self.fill((), "")

    def sizeHint(self) -> QSize:
        return QSize(280, 92)

    def fill(self, findings: tuple[Finding, ...], otherwise: str) -> None:
        """Show findings; `otherwise` is said where there are none."""
        if findings == self._shown and findings:
            return
        self._shown = findings
        body = QWidget()
        body.setObjectName("readingsBody")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(0)
        self.rows = []
        for finding in findings:
            row = Row(finding)
            row.pressed.connect(lambda f=finding: self.chosen.emit(f))
            row.moved.connect(lambda step, r=row: self._move(r, step))
            if row.fix is not None:
                row.fix.looked.connect(lambda on, f=finding: self.looked.emit(f if on else None))
                row.fix.clicked.connect(lambda _=False, f=finding: self.used.emit(f))
            column.addWidget(row)
            self.rows.append(row)
        if not findings:
            label = Words(otherwise)
            label.setObjectName("faint")
            label.setWordWrap(True)
            column.addWidget(label)
        column.addStretch(1)
        self.setWidget(body)
        # rows are made long after what stands below them, and Tab goes from top to bottom
        before = self.previousInFocusChain()
        while before is not None and before is not self and not before.focusPolicy() & Qt.FocusPolicy.TabFocus:
            before = before.previousInFocusChain()
        for widget in (w for row in self.rows for w in (row, row.fix) if w is not None):
            if before is not None:
                QWidget.setTabOrder(before, widget)
            before = widget

    def _move(self, row: Row, step: int) -> None:
        i = self.rows.index(row) + step
        if 0 <= i < len(self.rows):
            self.rows[i].setFocus(Qt.FocusReason.TabFocusReason)
            self.ensureWidgetVisible(self.rows[i])

    def set_fresh(self, fresh: bool) -> None:
        """Fixes can be taken only while they are about what is saved."""
        for row in self.rows:
            if row.fix is not None:
                row.fix.setEnabled(fresh)
