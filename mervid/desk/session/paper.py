"""The list in sight on paper: its rows worked out elsewhere, and the files."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal

from ...core.delivery import sheet
from ...core.delivery.sheet import A4, FOUR, PAPERS, SIZES, Sheet
from ...core.errors import MervidError
from ...formats import safe_file
from ...jobs import errands
from ..theme.tr import tr
from .bookcase import Bookcase
from .errands import NO_LIBRARY, Errands
from .messages import Messages
from .shown_list import ShownList

MOST = 500
"""Tracks of a sheet."""
SETTLES_MS = 200


class Paper(QObject):
    """`changed` when the sheet or its setting is another.

    Attributes
    ----------
    sheet : what is on it; None while it isn't known
    paper, size : how it is laid out
    why : why there is none
    """

    changed = pyqtSignal()

    def __init__(self, shown: ShownList, bookcase: Bookcase, work: Errands, say: Messages) -> None:
        super().__init__()
        self.shown, self.bookcase, self.work, self.say = shown, bookcase, work, say
        self.sheet: Sheet | None = None
        self.why = ""
        kept = QSettings()
        self.paper, self.size = str(kept.value("paper", A4)), str(kept.value("paper_rows", FOUR))
        if self.paper not in PAPERS or self.size not in SIZES:
            self.paper, self.size = A4, FOUR
        self._asked = self._looking = 0
        self._active = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLES_MS)
        self._timer.timeout.connect(self.look)
        shown.changed.connect(lambda: self._timer.start() if self._active else None)

    def activate(self, active: bool) -> None:
        """It is looked at, or no longer."""
        self._active = active
        if active:
            self.look()

    def lay_out(self, *, paper: str | None = None, size: str | None = None) -> None:
        """Another paper, another size of rows."""
        self.paper, self.size = paper or self.paper, size or self.size
        QSettings().setValue("paper", self.paper)
        QSettings().setValue("paper_rows", self.size)
        self.changed.emit()

    def look(self) -> None:
        """Work the sheet out anew."""
        self._asked += 1
        asked = self._asked
        ids = [int(i) for i in self.shown.ids[: MOST + 1]]
        self.why = ""
        if not ids:
            self.sheet, self.why = None, tr("There is no track in sight: choose a list in Gather.")
        elif len(ids) > MOST:
            self.sheet, self.why = (
                None,
                tr("{0:,} tracks are too many for paper ({1} at most).").format(len(self.shown), MOST),
            )
        else:
            try:
                pairs = self.bookcase.pairs.among(sorted(set(ids))) if len(ids) > 1 else {}
                notes = self.shown.shelves.one(self.shown.number).notes if self.shown.number else ""
            except MervidError as e:
                self.say.problem(str(e))
                return
            kept = {k: p.meeting for k, p in pairs.items()}
            self.work.looks.stop(self._looking)
            self._looking = self.work.look(
                lambda a: self._made(asked, a), errands.make_sheet, tuple(ids), self.shown.title, notes, kept
            )
            if not self._looking:
                self.sheet, self.why = None, NO_LIBRARY
        self.changed.emit()

    def _made(self, asked: int, answer: object) -> None:
        if asked != self._asked:
            return
        if isinstance(answer, Sheet):
            self.sheet = answer
        else:
            self.sheet, self.why = None, errands.words_of(answer)
        self.changed.emit()

    def write_tsv(self, path: Path) -> None:
        """Write the sheet as TSV."""
        if self.sheet is None:
            self.say.refused(self.why or tr("The sheet is still being worked out."))
            return
        text = sheet.tsv(self.sheet.rows)
        try:
            safe_file.write(path, lambda f: f.write(text.encode()), sources=self.shown.library.sources((path,)))
        except MervidError as e:
            self.say.problem(str(e))
        except OSError as e:
            self.say.problem(tr("{0} can't be written: {1}.").format(path.name, e.strerror or e))
        else:
            self.say.done(tr("Written: {0}").format(path))
