"""The pairs of the list in sight: neighbours in a table, every pair in a matrix, an order proposed."""

from __future__ import annotations

from typing import TypeAlias

import attrs
from PyQt6.QtCore import QModelIndex, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QSplitter,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ....core.figures import change, sentence, share
from ....core.pairs.gear_clocks import KINDS
from ....core.pairs.meeting import MOST_STRETCH
from ....core.pairs.report import Report
from ....store.pairs import Pair
from ...session.pair_table import PairTable
from ...theme.figures import trust
from ...theme.style import Theme, aligned, font
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...views.pair_matrix import PairMatrix, Row
from ...widgets.parts import edit_by_click_and_key, heading

COLUMNS = ("", "LEAVES", "COMES", "SPEED", "FORETOLD", "GRIDS", "1 TEMPO", "HAND", "KEYS", "PHRASES", "VOICES", "NOTE")
NOTE = len(COLUMNS) - 1
WIDTHS = {0: 48, 3: 76, 4: 86, 5: 60, 6: 76, 7: 60, 8: 62, 9: 82, 10: 70}
PAIR, BELOW, TOLD = (Qt.ItemDataRole.UserRole + k for k in range(3))
ROW, PAD, SIZES = 38, 11, (10.0, 8.5)
RIGHT = (3, 4, 5, 6, 7)
TITLES = (1, 2)
LEAST_WIDE = 110
"""Px for a title, and for a note."""
TIPS = (
    "Place in the list", "The leaving track, and where the other comes in over it",
    "The coming track, where it begins, and how long both sound",
    "How much faster the coming track runs; red where that is heard",
    "95 % of the beats are expected within so many ms, and how sure that is to hold",
    "Bars together on a player that follows variable grids, and ms within which 95 % of the beats are heard",
    "The same on a player with one tempo a track", "The same when tempo is matched and a hand starts it",
    "Whether their keys fit",
    "Whether phrases begin together", "Bars in which both sing", "A note of your own: double-click, or Shift+Enter",
)  # fmt: skip


@attrs.frozen
class Cell:
    """What a cell of the table says: a line, a fainter one below, and whether the first is a warning."""

    text: str
    below: str = ""
    told: bool = False


PlanRow: TypeAlias = tuple[int, tuple[int, int], tuple[Cell, ...], str]
"""A row of the table: its place in the list, the numbers of its pair, its cells, and a tip."""


def broken(metrics: QFontMetrics, text: str, width: int) -> tuple[str, str]:
    """A text in two lines: as many words as fit into the first, and the others."""
    words = text.split()
    fit = next((n for n in range(len(words), 1, -1) if metrics.horizontalAdvance(" ".join(words[:n])) <= width), 1)
    return " ".join(words[:fit]), " ".join(words[fit:])


class _Lines(QStyledItemDelegate):
    """Draws a cell of two lines."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        upper, lower = (QFontMetrics(font(size)) for size in SIZES)
        wide = max(upper.horizontalAdvance(str(index.data())), lower.horizontalAdvance(str(index.data(BELOW) or "")))
        return QSize(wide + 2 * PAD + 1, ROW)

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        below = str(index.data(BELOW) or "")
        if p is None:
            return
        pal, r = Theme.palette, option.rect
        if option.state & QStyle.StateFlag.State_Selected:
            p.fillRect(r, pal.color("selected"))
        p.setPen(pal.color("hairline"))
        p.drawLine(r.bottomLeft(), r.bottomRight())
        above, letters, quiet = str(index.data()), font(SIZES[0]), "faint"
        if index.column() == NOTE:
            letters, quiet = font(SIZES[1]), "ink"
            above, below = broken(QFontMetrics(letters), above, r.width() - 2 * PAD)
        side = aligned(figures=index.column() in RIGHT) & ~Qt.AlignmentFlag.AlignVertical_Mask
        half = r.height() // 2
        upper = r.adjusted(PAD, 3, -PAD, -half) if below else r.adjusted(PAD, 0, -PAD, -1)
        lines = [(above, upper, letters, "attention" if index.data(TOLD) else "ink")]
        lines += [(below, r.adjusted(PAD, half - 1, -PAD, -3), font(SIZES[1]), quiet)] if below else []
        for text, where, letters, colour in lines:
            p.setFont(letters)
            p.setPen(pal.color(colour))
            cut = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, where.width())
            p.drawText(where, side | Qt.AlignmentFlag.AlignVCenter, cut)


class Plan(QTableWidget):
    """The neighbours of the list, one pair a row."""

    chosen = pyqtSignal(int, int)
    noted = pyqtSignal(int, int, str)
    shifted = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__(0, len(COLUMNS))
        self.setObjectName("plan")
        self.setAccessibleName(tr("Pairs of the list"))
        self.setHorizontalHeaderLabels(COLUMNS)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        edit_by_click_and_key(self)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        if rows is not None and columns is not None:
            rows.hide()
            rows.setDefaultSectionSize(ROW)
            columns.setHighlightSections(False)
            columns.setDefaultAlignment(aligned())
            # as wide as what is seen needs: a list may have a thousand pairs
            columns.setResizeContentsPrecision(0)
            columns.setSectionResizeMode(NOTE, QHeaderView.ResizeMode.Stretch)
        self.setItemDelegate(_Lines(self))
        for c, width in WIDTHS.items():
            self.setColumnWidth(c, width)
        for c, tip in enumerate(TIPS):
            item = self.horizontalHeaderItem(c)
            if item is not None:
                item.setToolTip(tip)
                item.setTextAlignment(aligned(figures=c in RIGHT))
        self._filling = False
        self._rows: list[PlanRow | None] = []
        self.itemChanged.connect(self._changed)
        self.cellDoubleClicked.connect(lambda row, column: self._choose(row) if column != NOTE else None)

    def fill(self, rows: list[PlanRow]) -> None:
        """Show these rows; those that are shown already are left as they are."""
        self._filling = True
        at, before = self.currentRow(), self._rows
        self._rows = [*rows]
        self.setRowCount(len(rows))
        for r, row in enumerate(rows):
            if r < len(before) and before[r] == row:
                continue
            place, pair, cells, tip = row
            for c, cell in enumerate(cells):
                item = QTableWidgetItem(cell.text)
                item.setData(BELOW, cell.below)
                item.setData(TOLD, cell.told)
                flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                item.setFlags(flags | Qt.ItemFlag.ItemIsEditable if c == NOTE else flags)
                item.setData(PAIR, (place, *pair))
                item.setToolTip(tip_of(cell.text if c == NOTE and cell.text else tip))
                self.setItem(r, c, item)
        if 0 <= at < len(rows):
            self.setCurrentCell(at, 1)
        self._filling = False
        self._share_width()

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        self._share_width()

    def _share_width(self) -> None:
        """Titles as wide as they need to be, while a note keeps some room."""
        view = self.viewport()
        assert view is not None
        most = max(LEAST_WIDE, (view.width() - sum(WIDTHS.values()) - LEAST_WIDE) // len(TITLES))
        for c in TITLES:
            self.setColumnWidth(c, min(most, max(LEAST_WIDE, self.sizeHintForColumn(c))))

    def _pair(self, row: int) -> tuple[int, int, int] | None:
        item = self.item(row, 0)
        return item.data(PAIR) if item is not None else None

    def _choose(self, row: int) -> None:
        pair = self._pair(row)
        if pair is not None:
            self.chosen.emit(pair[1], pair[2])

    def _changed(self, item: QTableWidgetItem) -> None:
        pair = self._pair(item.row())
        if not self._filling and pair is not None and item.column() == NOTE:
            # what is kept of it is shown next, whatever was typed
            self._rows[item.row()] = None
            self.noted.emit(pair[1], pair[2], item.text())

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None:
            return
        pair = self._pair(self.currentRow())
        if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.state() != self.State.EditingState:
            self._choose(self.currentRow())
        elif pair is not None and e.modifiers() & Qt.KeyboardModifier.AltModifier and e.key() == Qt.Key.Key_Up:
            self.shifted.emit(pair[0], -1)
        elif pair is not None and e.modifiers() & Qt.KeyboardModifier.AltModifier and e.key() == Qt.Key.Key_Down:
            self.shifted.emit(pair[0], 1)
        else:
            super().keyPressEvent(e)


class ListPage(QWidget):
    """Table and matrix over one another, with what can be asked for above."""

    asked = pyqtSignal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.title, self.progress = heading(""), Words("")
        self.progress.setObjectName("faint")
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 2)
        row.setSpacing(6)
        row.addWidget(self.title)
        row.addWidget(self.progress)
        row.addStretch(1)
        self.by_risk = QPushButton(tr("Riskiest first"))
        self.by_risk.setCheckable(True)
        self.by_risk.setToolTip(tr("Sort the pairs by how likely they are to part"))
        self.every = QPushButton(tr("Judge every pair"))
        self.every.setToolTip(tr("Every track against every other, in the background"))
        self.order = QPushButton(tr("Propose an order"))
        self.order.setToolTip(tr("An order of this list with small steps of tempo and drive, and safe pairs"))
        for b, name in ((self.every, "judge-all"), (self.order, "propose-order")):
            b.clicked.connect(lambda _=False, n=name: self.asked.emit(n, None))
        for b in (self.by_risk, self.every, self.order):
            row.addWidget(b)
        self.plan, self.matrix = Plan(), PairMatrix()
        parts = QSplitter(Qt.Orientation.Vertical)
        parts.setChildrenCollapsible(False)
        parts.addWidget(self.plan)
        parts.addWidget(self.matrix)
        parts.setSizes([310, 280])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(parts, 1)
        self._table: PairTable | None = None
        self.by_risk.toggled.connect(lambda _: self._fill())

    def show_table(self, table: PairTable) -> None:
        """Show what is known of the list."""
        self._table = table
        self._fill()

    def _fill(self) -> None:
        table = self._table
        if table is None:
            return
        self.title.setText(table.shown.title.upper())
        n = len(table.tracks)
        self.progress.setText(
            tr("{0} of {1} pairs judged…").format(table.done, table.asked)
            if table.busy
            else tr("{0} tracks, {1} pairs in a row").format(n, max(0, n - 1))
        )
        names = {t.id: t.title for t in table.tracks}
        rows: list[PlanRow] = []
        risks = []
        for i, (a, b) in enumerate(zip(table.tracks[:-1], table.tracks[1:], strict=True)):
            report, pair = table.reports.get((a.id, b.id)), table.kept.get((a.id, b.id))
            risks.append(report.risk if report is not None else -1.0)
            is_kept = pair is not None and pair.meeting is not None
            note = Cell(pair.notes if pair is not None else "")
            first = Cell(str(i + 1), tr("kept") if is_kept else "")
            cells = (first, *_titles(report, names[a.id], names[b.id]), *_figures(report), note)
            rows.append((i, (a.id, b.id), cells, _tip(report, pair)))
        if self.by_risk.isChecked():
            rows = [row for _, row in sorted(zip(risks, rows, strict=True), key=lambda x: -x[0])]
        self.plan.fill(rows)
        unique = list(dict.fromkeys(t.id for t in table.tracks))[:60]
        self.matrix.show_reports(tuple(Row(i, names[i]) for i in unique), table.reports)


def _titles(r: Report | None, leaving: str, coming: str) -> tuple[Cell, Cell]:
    """Both tracks, and where they meet or why they can't."""
    if r is None or r.meeting is None:
        return Cell(leaving), Cell(coming, r.problem if r is not None else "")
    return Cell(leaving, r.where[0]), Cell(coming, tr("{0}, {1} bars").format(r.where[1], r.meeting.bars))


def _figures(r: Report | None) -> tuple[Cell, ...]:
    """The figures of a pair as the table shows them."""
    if r is None:
        return (Cell("…"),) + (Cell(""),) * 7
    if r.meeting is None:
        return (Cell("–"), Cell("can't meet", told=True)) + (Cell(""),) * 6
    bars, apart = dict(r.bars), dict(r.p95)
    gear = []
    for kind in KINDS:
        held, p95 = bars.get(kind), apart.get(kind)
        gear.append(Cell("?" if held is None else str(held), "" if p95 is None else f"{p95:.0f} ms"))
    keys = "fit" if r.keys.startswith("keys fit") else "differ" if r.keys else ""
    voices = (
        "" if r.clash is None else tr("{0} bars").format(round(r.clash * r.meeting.bars)) if r.clash > 0 else "clear"
    )
    return (
        Cell(change(r.stretch), told=abs(r.stretch) > MOST_STRETCH),
        Cell(f"{trust(r.expected)} {r.expected.p95:.0f} ms", share(r.expected.safe)),
        *gear,
        Cell(keys),
        Cell("together" if r.phrases else "apart"),
        Cell(voices),
    )


def _tip(r: Report | None, pair: Pair | None) -> str:
    if r is None:
        return tr("Not judged yet.")
    if r.meeting is None:
        return r.problem
    where = tr("the meeting that is kept") if pair is not None and pair.meeting is not None else tr("the best place")
    return tr("By {0}, {1} bars: holds with a chance of {2}. {3}").format(
        where, r.meeting.bars, share(r.expected.safe), sentence(r.keys)
    )
