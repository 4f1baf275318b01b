"""Paper: the prep sheet as it will be printed, and how it is laid out."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from ....core.delivery.sheet import PAPERS, SIZES
from ...session.paper import Paper
from ...theme.tr import tr
from ...theme.words import Words
from ...views.prep_sheet import Setting, SheetView
from ...widgets.choice import Choice
from ...widgets.parts import heading
from ..frame import Keys, Panel, asking


class PaperTarget(Panel):
    """Emits `asked(name, argument)`: paper, size of rows, and the files."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        column = self.body(6)
        column.addWidget(heading(tr("THE SHEET")))
        self.rows = Choice(tr("Room for a track"), tuple(SIZES.values()), tr("How much each track tells"))
        self.rows.textActivated.connect(
            lambda t: self.asked.emit("sheet-size", next(k for k, v in SIZES.items() if v == t))
        )
        self.paper = Choice(tr("Paper"), PAPERS, tr("The paper in the printer"))
        self.paper.textActivated.connect(lambda t: self.asked.emit("sheet-paper", t))
        column.addWidget(self.rows)
        column.addWidget(self.paper)
        self.about = Words("")
        self.about.setObjectName("faint")
        self.about.setWordWrap(True)
        column.addWidget(self.about)
        column.addSpacing(6)
        self.pdf = asking(
            tr("Write as PDF…"), "sheet-pdf", None, tr("Vectors, with the fonts inside"), self.asked, keys
        )
        self.pdf.setObjectName("way")
        self.tsv = asking(tr("Write as TSV…"), "sheet-tsv", None, tr("The same as lines of values"), self.asked, keys)
        column.addWidget(self.pdf)
        column.addWidget(self.tsv)
        column.addStretch(1)

    def show_paper(self, p: Paper) -> None:
        """How it is laid out."""
        self.rows.show_text(SIZES[p.size])
        self.paper.show_text(p.paper)
        there = p.sheet is not None
        pages = Setting(p.paper, p.size).pages(p.sheet) if p.sheet is not None else 0
        self.about.setText(
            f"{pages} page{'s' if pages != 1 else ''}" if there else p.why or tr("Every pair is being judged…")
        )
        self.pdf.setEnabled(there)
        self.tsv.setEnabled(there)


class PaperPicture(QScrollArea):
    """The pages under each other."""

    def __init__(self) -> None:
        super().__init__()
        self.view = SheetView()
        self.none = Words("")
        self.none.setObjectName("faint")
        self.none.setAlignment(Qt.AlignmentFlag.AlignCenter)
        body = QWidget()
        body.setObjectName("paper")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        column.addWidget(self.none)
        self.setWidget(body)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setObjectName("paper")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_paper(self, p: Paper) -> None:
        """The sheet as it stands."""
        self.view.setVisible(p.sheet is not None)
        self.none.setVisible(p.sheet is None)
        self.none.setText(p.why or tr("The sheet is being worked out…"))
        if p.sheet is not None:
            self.view.show_sheet(p.sheet, Setting(p.paper, p.size))
