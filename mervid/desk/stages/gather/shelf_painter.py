"""How the rows at the left of Gather are drawn: a sign for each kind, the name, and how many tracks."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QTreeWidget, QWidget

from ....store import lists
from ...theme.style import Theme, font
from ...widgets.parts import keep_editing_keys

NUMBER, KIND, QUICK, FOLDER = (Qt.ItemDataRole.UserRole + k for k in range(4))
HEAD, HINT = "head", "hint"
WATCHED = "watched"
ROW = 25
INSET = 9
"""Px from the edge to a head."""
COUNT = Qt.ItemDataRole.UserRole + 5


class ShelfPainter(QStyledItemDelegate):
    """A sign for each kind, the name, and at the right how many tracks."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, {HEAD: ROW + 8, HINT: 2 * ROW - 12}.get(index.data(KIND), ROW))

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if p is None or index.data(KIND) == HEAD:
            # a head begins where the heads of other stages do, left of what stands under it
            option.rect.setLeft(option.rect.left() + INSET)
            super().paint(p, option, index)
            return
        pal, r = Theme.palette, option.rect
        if index.data(KIND) == HINT:
            p.setFont(font(8.5))
            p.setPen(pal.color("faint"))
            p.drawText(r.adjusted(4, 0, -6, 0), Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop, str(index.data()))
            return
        tree = self.parent()
        selected = isinstance(tree, QTreeWidget) and tree.currentIndex() == index
        if selected:
            p.fillRect(r.adjusted(-r.left(), 0, 0, 0), pal.color("selected"))
        self._sign(p, QPointF(r.left() + 9, r.center().y() + 0.5), str(index.data(KIND)))
        count = index.data(COUNT)
        f = font(9.5, bold=selected)
        p.setFont(f)
        right = 0
        if count is not None:
            text = f"{count:,}"
            right = p.fontMetrics().horizontalAdvance(text) + 8
            p.setPen(pal.color("faint"))
            p.drawText(r.adjusted(0, 0, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        p.setPen(pal.color("ink"))
        room = r.adjusted(22, 0, -right - 6, 0)
        name = p.fontMetrics().elidedText(str(index.data()), Qt.TextElideMode.ElideRight, room.width())
        p.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)

    def createEditor(self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> QWidget | None:
        return keep_editing_keys(super().createEditor(parent, option, index))

    @staticmethod
    def _sign(p: QPainter, c: QPointF, kind: str) -> None:
        """Three lines for a list, a lens for a search, a tab for a folder, with a dot for a watched one; a dot else."""
        pal = Theme.palette
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(pal.color("faint"), 1.3))
        if kind == lists.LIST:
            for dy in (-4, 0, 4):
                p.drawLine(c + QPointF(-5, dy), c + QPointF(5, dy))
        elif kind == lists.SEARCH:
            p.drawEllipse(c + QPointF(-1, -1), 4, 4)
            p.drawLine(c + QPointF(2, 2), c + QPointF(5, 5))
        elif kind in (lists.FOLDER, WATCHED):
            p.drawPolygon(
                QPolygonF([c + QPointF(*xy) for xy in ((-6, -4), (-1, -4), (1, -2), (6, -2), (6, 5), (-6, 5))])
            )
            if kind == WATCHED:
                p.setBrush(pal.color("faint"))
                p.drawEllipse(c + QPointF(0, 1.5), 1.6, 1.6)
        else:
            p.setBrush(pal.color("faint"))
            p.drawRect(QRectF(c.x() - 2, c.y() - 2, 4, 4))
        p.restore()
