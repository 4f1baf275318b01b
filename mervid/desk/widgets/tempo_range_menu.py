"""Choosing where tempi are expected: for the program, or for one track; presets by style, and one's own."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QMenu, QWidget

from ...core.errors import Refused
from ...core.model import tempo_range
from ...core.model.tempo_range import PRESETS, TempoRange
from .. import settings
from ..theme.tr import tr
from ..theme.words import Words

Chosen = Callable[[TempoRange | None], None]


def fill(menu: QMenu, now: TempoRange | None, none: str, parent: QWidget, take: Chosen) -> None:
    """Offer no range, the presets, one's own and a new one.

    Parameters
    ----------
    none : what no range is called here
    """
    menu.clear()
    for wanted in (None, *PRESETS, *settings.own_ranges()):
        text = none if wanted is None else f"{wanted.name}   {wanted.low:g}–{wanted.high:g}"
        act = menu.addAction(text, lambda w=wanted: take(w))
        if act is not None:
            act.setCheckable(True)
            act.setChecked(wanted == now)
    menu.addSeparator()
    menu.addAction(tr("Another…"), lambda: RangeDialog(parent, take).open())


class RangeDialog(QDialog):
    """A name and two tempi; refused with a word about what is wrong."""

    def __init__(self, parent: QWidget, take: Chosen) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Tempo range"))
        self._take = take
        self.name, self.low, self.high = QLineEdit(tr("my style")), QLineEdit(), QLineEdit()
        self.problem = Words("")
        self.problem.setObjectName("warn")
        self.problem.setWordWrap(True)
        form = QFormLayout(self)
        form.setContentsMargins(18, 16, 18, 14)
        for text, field in ((tr("Name"), self.name), (tr("From, BPM"), self.low), (tr("To, BPM"), self.high)):
            field.setAccessibleName(text)
            form.addRow(text, field)
        form.addRow(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._done)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _done(self) -> None:
        try:
            low, high = (float(f.text().replace(",", ".")) for f in (self.low, self.high))
            wanted = tempo_range.of(low, high, self.name.text().strip() or tr("my style"))
        except ValueError:
            self.problem.setText(tr("Type both tempi as numbers, such as 90 and 130."))
            return
        except Refused as e:
            self.problem.setText(str(e))
            return
        settings.keep_range(wanted)
        self.accept()
        self._take(wanted)
