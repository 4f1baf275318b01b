"""Straighten: the wish at the right, the fold before and after, and what waits and was made."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from ....core.rendering.straightening import Wish
from ....store.straightened import DONE, FAILED, Straightened
from ...session.straightening import FORMATS, Straightening
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...views.still_fold import StillFold
from ...widgets.choice import Choice
from ...widgets.parts import ShareDone, Switch, heading
from ...widgets.plain_table import PlainTable
from ...widgets.text_fields import TextField
from ..frame import Keys, Panel, asking

HELD, SPEED = "pitch stays", "pitch goes with the speed"
WHOLE, ZONES = "the whole track", "only the mix zones"
COLUMNS = (("TRACK", 140), ("TEMPO", 62), ("HOW", 112), ("95 %, WORST", 132), ("AFTER IT", 112), ("STATE", 0))


class StraightWish(Panel):
    """Emits `asked(name, argument)`: tempo, pitch, how much, where to, and the button."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        column = self.body(6)
        self.title = Words("–")
        self.title.setObjectName("title")
        column.addWidget(self.title)
        self.about = Words("")
        self.about.setObjectName("faint")
        self.about.setWordWrap(True)
        column.addWidget(self.about)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        self.tempo = self._field(
            tr("Tempo, BPM"), "straight-tempo", tr("One tempo for all of it; proposed is the nearest whole one")
        )
        self.drift = self._field(
            tr("Drift taken out, %"), "straight-drift", tr("100: all of it; less keeps some of the feel")
        )
        self.glide = self._field(
            tr("Glide, bars"), "straight-glide", tr("So long the middle takes to its own tempo and back")
        )
        self.pitch = Choice(
            tr("Pitch"), (HELD, SPEED), tr("Stays for drummers; goes with the speed for records and tape")
        )
        self.pitch.textActivated.connect(lambda t: self.asked.emit("straight-pitch", t == HELD))
        self.part = Choice(tr("How much of it"), (WHOLE, ZONES), tr("In the middle the track can keep its own time"))
        self.part.textActivated.connect(lambda t: self.asked.emit("straight-zones", t == ZONES))
        self.format = Choice(
            tr("Format"), tuple(f[1:].upper() for f in FORMATS), tr("Lossless, in the bits of the recording")
        )
        self.format.textActivated.connect(lambda t: self.asked.emit("straight-format", f".{t.lower()}"))
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Tempo", self.tempo), ("Pitch", self.pitch), ("Part", self.part), (tr("Glide, bars"), self.glide),
            (tr("Drift out, %"), self.drift), ("Format", self.format),
        )  # fmt: skip
        for i, (name, widget) in enumerate(rows):
            label = Words(name)
            label.setObjectName("faint")
            grid.addWidget(label, i, 0)
            grid.addWidget(widget, i, 1)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.swing = self._switch(
            tr("Keep the swing inside the beat"),
            "straight-swing",
            tr("Else second halves of beats begin in their middles"),
        )
        self.down = self._switch(
            tr("Turn down what would clip"),
            "straight-down",
            tr("By as little as it takes, and it is said; else it is refused"),
        )
        self.swing.setChecked(True)
        self.down.setChecked(True)
        column.addWidget(self.swing)
        column.addWidget(self.down)
        where = QHBoxLayout()
        self.where = Words("")
        self.where.setObjectName("faint")
        self.where.setWordWrap(True)
        where.addWidget(self.where, 1)
        where.addWidget(
            asking(tr("Elsewhere…"), "straight-folder", None, tr("Choose the folder of results"), self.asked, keys)
        )
        column.addLayout(where)
        self.begin = asking(
            tr("Straighten it"),
            "straighten",
            None,
            tr("Into a new file, which becomes a track of its own"),
            self.asked,
            keys,
        )
        self.begin.setObjectName("way")
        self.many = asking(
            tr("Straighten the list"),
            "straighten-list",
            None,
            tr("Each at the tempo that it proposes"),
            self.asked,
            keys,
        )
        self.again = asking(
            tr("As proposed"), "straight-proposed", None, tr("Let go of what was typed here"), self.asked, keys
        )
        column.addWidget(self.begin)
        both = QHBoxLayout()
        both.setSpacing(4)
        both.addWidget(self.many)
        both.addWidget(self.again)
        both.addStretch(1)
        column.addLayout(both)
        self.bar = ShareDone()
        self.stop = asking(tr("Stop"), "stop", None, tr("No half file is left"), self.asked, keys)
        column.addWidget(self.bar)
        column.addWidget(self.stop)
        column.addStretch(1)

    def _field(self, name: str, request: str, tip: str) -> TextField:
        edit = TextField()
        edit.setAccessibleName(name)
        edit.setToolTip(tip_of(tip))
        edit.finished.connect(lambda text: self.asked.emit(request, text))
        return edit

    def _switch(self, text: str, name: str, tip: str) -> Switch:
        b = Switch(text, tip)
        b.switched.connect(lambda on: self.asked.emit(name, on))
        return b

    def show_wish(self, title: str, about: str, wish: Wish | None, s: Straightening, count: int, made: bool) -> None:
        """What is wished for the open track."""
        self.title.setText(title or "–")
        self.about.setText(about)
        self.about.setVisible(bool(about))
        there = wish is not None
        for w in (self.tempo, self.pitch, self.part, self.glide, self.drift, self.swing, self.format, self.down):
            w.setEnabled(there and not made)
        self.begin.setEnabled(there and not made)
        self.many.setEnabled(count > 0)
        self.many.setText(tr("Straighten the list ({0})").format(count))
        self.again.setVisible(s.wish is not None)
        self.bar.setVisible(s.running is not None)
        self.stop.setVisible(s.running is not None)
        folder = s.folder()
        self.where.setText(tr("into {0}").format(folder) if folder is not None else tr("beside the recording"))
        self.format.show_text(s.format[1:].upper())
        if wish is None:
            return
        for edit, text in (
            (self.tempo, f"{wish.tempo:g}"), (self.drift, f"{100 * wish.share:g}"), (self.glide, str(wish.glide_bars)),
        ):  # fmt: skip
            edit.show_text(text)
        self.pitch.show_text(HELD if wish.hold_pitch else SPEED)
        self.part.show_text(ZONES if wish.zones_only else WHOLE)
        self.glide.setEnabled(wish.zones_only and not made)
        self.swing.setEnabled(wish.hold_pitch and not made)
        for b, on in ((self.swing, wish.keep_swing), (self.down, s.turn_down)):
            b.show_on(on)


class StraightTable(QWidget):
    """Before and after, and all that waits and was made."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.before, self.after = StillFold("Before"), StillFold("After")
        self.table = PlainTable(tr("What was straightened"), COLUMNS)
        pictures = QHBoxLayout()
        pictures.setSpacing(4)
        pictures.addWidget(self.before, 1)
        pictures.addWidget(self.after, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(5)
        column.addLayout(pictures, 3)
        column.addWidget(heading(tr("WAITING AND MADE")))
        column.addWidget(self.table, 2)

    def show_entries(self, entries: list[Straightened], titles: dict[int, str], running: Straightened | None) -> None:
        """All that waits and was made, the newest first."""
        rows: list[tuple[object, tuple[str, ...]]] = []
        warned = []
        for e in reversed(entries):
            now = running is not None and running.id == e.id
            how = HELD if e.wish.hold_pitch else SPEED
            how += tr(", mix zones") if e.wish.zones_only else ""
            state = (
                tr("being made…") if now else {DONE: "done", FAILED: str(e.told.get("why", ""))}.get(e.state, "waits")
            )
            remarks = "; ".join(e.told.get("remarks", ()))
            peak = e.told.get("true_peak")
            if e.state == DONE:
                state = "; ".join(
                    filter(None, ("done", tr("peak {0:+.1f} dBTP").format(peak) if peak is not None else "", remarks))
                )
            rows.append(
                (
                    e.id,
                    (titles.get(e.source, "?"), f"{e.wish.tempo:g}", how, _even(e, "before"), _even(e, "after"), state),
                )
            )
            warned.append(e.state == FAILED)
        self.table.fill(rows, warned=warned)


def _even(e: Straightened, which: str) -> str:
    said: dict[str, Any] = e.told.get(which) or {}
    p95, worst = said.get("p95"), said.get("worst")
    if e.state != DONE:
        return ""
    return tr("too few beats") if p95 is None else f"{p95:.1f}, {worst:.1f} ms"
