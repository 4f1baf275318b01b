"""The guide in a window of its own: pages and what is found at the left, the page at the right."""

from __future__ import annotations

import re

from PyQt6.QtCore import Qt, QTimer, QUrl
from PyQt6.QtGui import QDesktopServices, QTextBlock, QTextCursor
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from ... import guide
from ..commands.command import Table
from ..theme.palette import Palette
from ..theme.style import Theme, font
from ..theme.tr import tr

KEYS = "keys"
PLACE = Qt.ItemDataRole.UserRole
PICTURE_PX = 620


class GuideWindow(QDialog):
    """Stays beside the window; asked for again it turns to another place.

    Parameters
    ----------
    table : all commands as they are now: the last page lists them
    titles : of the stages, by key
    """

    def __init__(self, parent: QWidget, table: Table, titles: dict[str, str]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("The guide"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(940, 680)
        self._table, self._titles = table, titles
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find in the guide"))
        self.search.setAccessibleName(tr("Find in the guide"))
        self.search.setClearButtonEnabled(False)
        self.search.textChanged.connect(self._find)
        self.search.returnPressed.connect(self._first)
        self.list = QListWidget()
        self.list.setObjectName("settingsPages")
        self.list.setAccessibleName(tr("Pages of the guide, or what was found"))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._turned)
        self.text = QTextBrowser()
        self.text.setObjectName("guide")
        self.text.setAccessibleName(tr("The page"))
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        self.text.setSearchPaths([str(guide.FOLDER)])
        side = QWidget()
        side.setObjectName("side")
        side.setFixedWidth(232)
        left = QVBoxLayout(side)
        left.setContentsMargins(10, 10, 10, 10)
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(side)
        row.addWidget(self.text, 1)
        self.shown = ("", "")
        self._worn: Palette | None = None
        self._list_pages()

    def show_at(self, page: str, heading: str = "") -> None:
        """Turn to a page, and to a heading in it."""
        self.search.blockSignals(True)
        self.search.clear()
        self.search.blockSignals(False)
        self._list_pages()
        self._show(page, heading)

    # at the left

    def _list_pages(self) -> None:
        self._fill([(p.title, "", p.name, "") for p in guide.pages()] + [(tr("All keys"), "", KEYS, "")])

    def _fill(self, rows: list[tuple[str, str, str, str]]) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for title, around, page, heading in rows:
            item = QListWidgetItem(f"{title}\n{around}" if around else title)
            item.setData(PLACE, (page, heading))
            self.list.addItem(item)
        self.list.blockSignals(False)

    def _find(self, words: str) -> None:
        if not words.strip():
            self._list_pages()
            return
        hits = guide.found(words)
        self._fill([(h.part.heading, f"… {h.around} …", h.part.page, h.part.heading) for h in hits])
        if not hits:
            item = QListWidgetItem(tr("Nothing in the guide holds these words. / finds commands."))
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)

    def _first(self) -> None:
        if self.list.item(0) is not None:
            self.list.setCurrentRow(0)

    def _turned(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.data(PLACE) is not None:
            self._show(*item.data(PLACE))

    # at the right

    def _show(self, name: str, heading: str) -> None:
        if (name, Theme.palette) != (self.shown[0], self._worn):
            self.text.setFont(font(10.5))
            self.text.setMarkdown(self._keys() if name == KEYS else guide.page(name).text)
            self._worn = Theme.palette
            self._dress()
        self.shown = (name, heading)
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and item.data(PLACE) == (name, ""):
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)
        # once it is laid out
        QTimer.singleShot(0, self._go_to_heading)

    def _dress(self) -> None:
        """Links in the palette's ink, pictures no wider than the page, air around headings."""
        document = self.text.document()
        assert document is not None
        cursor = QTextCursor(document)
        cursor.beginEditBlock()
        block = document.begin()
        while block.isValid():
            level = block.blockFormat().headingLevel()
            form = block.blockFormat()
            form.setTopMargin(18 if level > 1 else 4)
            form.setBottomMargin(4)
            form.setLineHeight(118, 1)
            cursor.setPosition(block.position())
            cursor.setBlockFormat(form)
            self._dress_pieces(cursor, block)
            block = block.next()
        cursor.endEditBlock()

    @staticmethod
    def _dress_pieces(cursor: QTextCursor, block: QTextBlock) -> None:
        pieces = block.begin()
        while not pieces.atEnd():
            piece = pieces.fragment()
            form = piece.charFormat()
            changed = False
            if form.isAnchor():
                form.setForeground(Theme.palette.color("hand"))
                changed = True
            if form.isImageFormat():
                image = form.toImageFormat()
                image.setWidth(PICTURE_PX)
                cursor.setPosition(piece.position())
                cursor.setPosition(piece.position() + piece.length(), QTextCursor.MoveMode.KeepAnchor)
                cursor.setCharFormat(image)
            elif changed:
                cursor.setPosition(piece.position())
                cursor.setPosition(piece.position() + piece.length(), QTextCursor.MoveMode.KeepAnchor)
                cursor.setCharFormat(form)
            pieces += 1

    def _go_to_heading(self) -> None:
        document, bar = self.text.document(), self.text.verticalScrollBar()
        if document is None or bar is None:
            return
        heading = self.shown[1].casefold()
        block = document.begin()
        while heading and block.isValid():
            if block.blockFormat().headingLevel() and block.text().casefold() == heading:
                layout = document.documentLayout()
                assert layout is not None
                bar.setValue(int(layout.blockBoundingRect(block).top()) - 8)
                return
            block = block.next()
        bar.setValue(0)

    def _keys(self) -> str:
        """All commands with their keys, group by group."""
        lines = [
            tr("# All keys"),
            "",
            tr("Every command, with the key it has now; **/** finds them by words, *Settings* changes keys."),
        ]
        for group in self._table.groups:
            lines += ["", f"## {tr(group)}", "", "| key | command | where |", "|---|---|---|"]
            for c in self._table.of_group(group):
                where = self._titles.get(c.stage, "everywhere")
                lines.append(f"| {_escaped(c.keys)} | {_escaped(c.words)} | {where} |")
        return "\n".join(lines)

    def _follow(self, to: QUrl) -> None:
        if to.scheme():
            QDesktopServices.openUrl(to)
            return
        name = to.path().removesuffix(".md")
        wanted = to.fragment().replace("-", " ").casefold()
        parts = guide.page(name).parts
        heading = next((p.heading for p in parts if re.sub(r"[^\w ]", "", p.heading).casefold() == wanted), "")
        self._show(name, heading)


def _escaped(text: str) -> str:
    return re.sub(r"([|*_<>\[\]`\\#])", r"\\\1", text)
