"""On the stick: what a player finds there, list by list, and the track in it with the player's few keys."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ....core.form import phrase_edits
from ....formats.delivered import Stick
from ...session.stick_playing import StickPlaying
from ...theme.figures import clock
from ...theme.tr import tr
from ...theme.words import Words
from ...widgets.parts import heading
from ...widgets.plain_table import PlainTable
from ...widgets.player_page import PlayerPage


class StickPage(QWidget):
    """Emits `put_in` with the file that is to be loaded."""

    put_in = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.table = PlainTable(tr("What is on the stick"), ((tr("LIST"), 150), (tr("FILE"), 0)))
        self.table.went.connect(self.put_in)
        self.title, self.about = Words("–"), Words("")
        self.title.setObjectName("title")
        self.about.setObjectName("faint")
        self.about.setWordWrap(True)
        self.place = Words("")
        self.place.setObjectName("figure")
        self.player = PlayerPage(kinds=())
        head = QHBoxLayout()
        names = QVBoxLayout()
        names.setSpacing(1)
        names.addWidget(self.title)
        names.addWidget(self.about)
        head.addLayout(names, 1)
        head.addWidget(self.place)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(6)
        column.addWidget(heading(tr("WRITTEN FILES, AND NOTHING ELSE: ENTER PUTS ONE INTO THE PLAYER")))
        column.addWidget(self.table, 3)
        column.addLayout(head)
        column.addWidget(self.player, 3)
        self._stick: Stick | None = None

    def show_stick(self, stick: Stick | None) -> None:
        """What a player finds."""
        if stick is self._stick and stick is not None:
            return
        self._stick = stick
        rows: list[tuple[object, tuple[str, ...]]] = []
        for name, files in stick.lists if stick is not None else ():
            rows += [(f, (name if k == 0 else "", f.name)) for k, f in enumerate(files)]
        self.table.fill(rows)

    def show_loaded(self, s: StickPlaying) -> None:
        """The track in the player."""
        loaded, arrival = s.loaded, s.arrival
        self.player.setVisible(loaded is not None)
        if loaded is None or arrival is None:
            self.title.setText(tr("No track is in the player."))
            self.about.setText(
                "" if self._stick is not None else tr("There is no folder for a player yet: write one first.")
            )
            self.place.setText("")
            return
        self.title.setText(f"{loaded.title}  {loaded.artists}".strip())
        tempo = tr("{0:g} BPM by its tag").format(loaded.tempo) if loaded.tempo is not None else tr("no tempo")
        grid = tr("no grid: nothing to sync by") if loaded.grid is None else tr("its grid bends with the music")
        if loaded.grid is not None and not s.gear_follows:
            grid = tr("one tempo, {0:.2f} BPM, up to {1:.0f} ms off").format(loaded.grid.tempo_overall(), loaded.worst)
        key = tr(", key {0}").format(loaded.key) if loaded.key else ""
        self.about.setText(f"{tempo}{key}; {grid}.")
        self.player.show_arrival(loaded.preparation, s.gear, arrival)

    def show_position(self, s: StickPlaying, position: float, playing: bool) -> None:
        """Where it is, and how long until the next cue."""
        loaded = s.loaded
        if loaded is None:
            return
        self.place.setText(clock(position))
        grid = loaded.grid
        if grid is None:
            self.player.show_countdown("–", "", playing)
            return
        ahead = sorted((s.instant(c), c.name) for c in loaded.preparation.cues)
        ahead = [(t, n) for t, n in ahead if t > position + 1e-3]
        if not ahead:
            self.player.show_countdown("–", "", playing)
            return
        here, goal = float(grid.beat_at(position)), float(grid.beat_at(ahead[0][0]))
        self.player.show_countdown(phrase_edits.until(grid, here, goal), ahead[0][1], playing)
