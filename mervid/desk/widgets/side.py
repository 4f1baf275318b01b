"""The left side of the window: the tracks, and where their tempi are expected."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QMenu, QToolButton, QVBoxLayout

from ...core.model.tempo_range import TempoRange
from .. import settings
from ..session.session import Session
from ..theme.tr import tr
from ..theme.words import Words, tip_of
from . import tempo_range_menu
from .track_list import TrackList

WIDTH = 218


class Side(QFrame):
    """Stays through all stages."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setFixedWidth(WIDTH)
        self._session = session
        self.list = TrackList(session)
        self.range = QToolButton()
        self.range.setObjectName("plain")
        self.range.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.range.setToolTip(
            tr("Where tempi are expected: settles half or double for new tracks, and asks about others")
        )
        menu = QMenu(self.range)
        menu.aboutToShow.connect(
            lambda: tempo_range_menu.fill(menu, session.offers.range, tr("any tempo"), self, self.set_range)
        )
        self.range.setMenu(menu)
        self.head = Words()
        self.head.setObjectName("heading")
        self.head.setIndent(14)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.head)
        column.addWidget(self.list, 1)
        column.addWidget(self.range)
        session.shown.changed.connect(self._show_title)
        session.shown.grown.connect(self._show_title)
        self._show_title()
        self._use_range(settings.tempo_range_chosen())

    def _show_title(self) -> None:
        """Which list this is, and how many tracks of it are in sight."""
        shown = self._session.shown
        title = self.head.fontMetrics().elidedText(shown.title.upper(), Qt.TextElideMode.ElideRight, WIDTH - 76)
        self.head.setText(f"{title}   {len(shown):,}")
        filters = ", ".join(f.words for f in shown.search.filters)
        words = f"'{shown.search.words}'" if shown.search.words else ""
        self.head.setToolTip(tip_of("\n".join(x for x in (shown.title, words, filters) if x)))

    def set_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected in this program from now on."""
        settings.choose_range(wanted)
        self._use_range(wanted)

    def _use_range(self, wanted: TempoRange | None) -> None:
        self._session.set_range(wanted)
        self.range.setText(tr("Expect {0}").format(wanted.text) if wanted else tr("Expect any tempo"))
