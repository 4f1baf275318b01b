"""The picture of the phrase ladder: one row a phrase, as long as it has bars, with its ink and the cues hanging on it.

Rows with the same letter share a tint. The length stands at the end of a row; unusual ones stand out, told as they are
counted: 20 = 16 + 4.
"""

from __future__ import annotations

from collections.abc import Sequence

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPen

from ...core.arrays import Floats, Singles
from ...core.cues import cue_edits, recipes
from ...core.cues.prospects import DOUBT
from ...core.figures import share, signed
from ...core.fitting.bar_fold import INK_RATE
from ...core.form import phrase_edits
from ...core.form.skips import Skip
from ...core.model.beatgrid import Grid
from ...core.model.cue import Cue
from ...core.model.form import Form, letter_number
from ...core.model.preparation import Preparation
from ...core.sound.waveform import Waveform, columns
from ..theme.palette import tint
from ..theme.tr import tr
from .base import View, bars_image, draw_flag, small

LEFT, RIGHT, HEAD, FOOT = 116, 146, 20, 6
SECTION = 46
"""So far from the right edge stands the bracket of a section, px."""
LEAST_ROW, MOST_ROW = 30.0, 62.0
FLAG = 15
MOST_BARS = 64


@attrs.frozen
class Held:
    """What is held: the beginning of phrase `index`, or a cue; `beat` where it is now."""

    index: int = -1
    cue: str = ""
    beat: float = 0.0
    moved: bool = False
    x: float = 0.0


class LadderPicture(View):
    """What is shown of a track's form, where it lies, and how it is drawn."""

    def __init__(self) -> None:
        super().__init__(tr("Phrase ladder"), tr("One row for each phrase, with its length in bars and its cues."))
        self.preparation = Preparation()
        self.form: Form | None = None
        self.ghosts: tuple[Cue, ...] = ()
        self.skips: list[Skip] = []
        self.left_out: tuple[float, float] | None = None
        self.waveform: Waveform | None = None
        self.ink: NDArray[np.float32] = np.zeros(0, np.float32)
        self.position = 0.0
        self.current = 0
        self.cue_id = ""
        self.message = ""
        self.offset = 0.0
        self.held: Held | None = None
        self.starts: list[float] = []
        self.bars: list[float] = []
        self.longest = 8.0
        self.inside: list[int] = []
        self._images: dict[object, QImage] = {}
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(700, 380)

    # what is shown

    def show_sound(self, waveform: Waveform | None, ink: NDArray[np.float32], message: str = "") -> None:
        """Draw another recording."""
        self.waveform, self.ink, self.message = waveform, ink, message
        self._images.clear()
        self.offset = 0.0
        self.held = None
        self.refresh()

    def show_chosen(self, phrase: int, cue_id: str) -> None:
        """Mark what is chosen."""
        self.current, self.cue_id = phrase, cue_id
        self.refresh()

    def show_ghosts(self, cues: tuple[Cue, ...]) -> None:
        """Cues that a recipe would place."""
        self.ghosts = cues
        self.refresh()

    def show_left_out(self, left_out: tuple[float, float] | None) -> None:
        """The beats that a skip in progress leaves out."""
        if left_out != self.left_out:
            self.left_out = left_out
            self.refresh()

    def show_form(
        self,
        preparation: Preparation,
        form: Form | None,
        skips: list[Skip],
        message: str = "",
        inside: Sequence[int] = (),
    ) -> None:
        """Draw another preparation, or its phrases anew.

        Parameters
        ----------
        form : a phrase for each row
        message : stands where there are none
        inside : how many phrases each row holds; one each where nothing is said
        """
        if form != self.form or preparation.cues != self.preparation.cues:
            # what a hand held may not be there any more
            self.held = None
        self.inside = list(inside)
        self.preparation, self.form, self.skips, self.message = preparation, form, skips, message
        self.starts = [q.start for q in form.phrases] + [form.end] if form is not None else []
        self.bars = phrase_edits.bars_in(preparation.grid, form) if form is not None and preparation.grid else []
        self.longest = max([8.0, *self.bars])
        if len(self._images) > 400:
            self._images.clear()
        self.refresh()

    def set_position(self, position: float) -> None:
        """Move the playhead."""
        if self.grid is None or not self.bars:
            self.position = position
            return
        for y in {int(self.row_top(self.row_of(float(self.grid.beat_at(t))))) for t in (self.position, position)}:
            self.update(0, y - 1, self.width(), int(self.row_height) + 3)
        self.position = position

    @property
    def grid(self) -> Grid | None:
        """The grid of what is shown."""
        return self.preparation.grid

    # places

    @property
    def row_height(self) -> float:
        """Height of a row, px."""
        return min(max((self.height() - HEAD - FOOT) / max(1, len(self.bars)), LEAST_ROW), MOST_ROW)

    @property
    def bar_width(self) -> float:
        """Width of a bar, px: the longest phrase fills the view, or eight bars do."""
        return (self.width() - LEFT - RIGHT) / min(MOST_BARS, self.longest)

    def row_top(self, row: int) -> float:
        """Top edge of a row, px."""
        return HEAD + row * self.row_height - self.offset

    def row_of(self, beat: float) -> int:
        """Which row holds a beat."""
        return phrase_edits.phrase_at(self.form, beat) if self.form is not None else 0

    def x_of(self, row: int, beat: float) -> float:
        """Horizontal place of a beat in a row, px."""
        a, b = self.starts[row], self.starts[row + 1]
        return LEFT + (beat - a) / max(1e-9, b - a) * self.bars[row] * self.bar_width

    def place_of(self, beat: float) -> tuple[float, float]:
        """Place of a beat: x, and the top of its row, px."""
        row = self.row_of(beat)
        return self.x_of(row, beat), self.row_top(row)

    def beat_at(self, x: float, y: float, row: int | None = None) -> float | None:
        """Beat under a place; None outside the rows. `row` holds on to one, beyond its ends, too."""
        free = row is None
        row = int((y - HEAD + self.offset) // self.row_height) if row is None else row
        if not 0 <= row < len(self.bars):
            return None
        a, b = self.starts[row], self.starts[row + 1]
        share = (x - LEFT) / max(1e-9, self.bars[row] * self.bar_width)
        if free and not -0.02 <= share <= 1.02:
            return None
        return a + share * (b - a)

    def beat_of(self, cue: Cue) -> float:
        assert self.grid is not None
        return cue.beat if cue.beat is not None else float(self.grid.beat_at(cue.at(self.grid)))

    def flag_width(self, cue: Cue) -> float:
        return 24.0 + 6.0 * min(len(self._flag_text(cue)), 14)

    def _flag_text(self, cue: Cue) -> str:
        slot = str(cue.slot + 1) if cue.is_hot and cue.slot is not None else ""
        waits = "▮" if cue.is_standby else ""
        loop = f" ↻{cue.bars}" if cue.bars else ""
        name = cue.name if len(cue.name) <= 14 else cue.name[:13] + "…"
        # a recipe's cue says so where its role is as likely as not
        name += "?" if 1 - recipes.chance_of(self.form, cue) >= DOUBT else ""
        return f"{slot}{waits} {name}{loop}".strip()

    # drawing

    def draw(self, p: QPainter) -> None:
        p.setFont(small())
        if self.form is None or self.grid is None or not self.bars:
            self.draw_message(p, self.message or tr("No phrases yet: the track needs a grid and a few bars of music."))
            return
        self._draw_head(p)
        height = self.row_height
        first = max(0, int((self.offset - HEAD) // height))
        for row in range(first, min(len(self.bars), int((self.offset - HEAD + self.height()) // height) + 1)):
            self._draw_row(p, row, self.row_top(row))
        self._draw_sections(p)
        self._draw_left_out(p)
        self._draw_skips(p)
        self._draw_cues(p)
        self._draw_drag(p)
        p.fillRect(QRectF(0, 0, self.width(), HEAD - 2), self.palette_.color("paper"))
        self._draw_head(p)

    def _draw_head(self, p: QPainter) -> None:
        """Every fourth bar of a phrase, numbered, so that lengths can be read off."""
        pal = self.palette_
        p.setFont(small(8))
        step = 4 if self.bar_width * 4 > 26 else 8
        for bar in range(0, int(self.longest) + 1, step):
            x = LEFT + bar * self.bar_width
            p.setPen(pal.color("faint"))
            p.drawText(QRectF(x - 20, 2, 40, HEAD - 6), Qt.AlignmentFlag.AlignCenter, str(bar))
            p.setPen(QPen(pal.color("border"), 1))
            p.drawLine(QLineF(x, HEAD - 4, x, HEAD - 1))

    def _draw_row(self, p: QPainter, row: int, top: float) -> None:
        assert self.form is not None
        assert self.grid is not None
        pal, q = self.palette_, self.form.phrases[row]
        height, width = self.row_height - 3, self.bars[row] * self.bar_width
        body = QRectF(LEFT, top, width, height)
        letter = letter_number(q.letter)
        p.fillRect(body, tint(pal, letter))
        self._draw_ink(p, row, body)
        self._draw_bars(p, row, body)
        chosen = row == self.current
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(pal.color("hand" if chosen else "border"), 2 if chosen else 1))
        p.drawRect(body)
        # two strokes where a phrase starts
        p.setPen(QPen(pal.color("ink"), 1.4))
        for x in (LEFT, LEFT + 3):
            p.drawLine(QLineF(x, top, x, top + height))
        if chosen:
            p.fillRect(QRectF(0, top, 4, height), pal.color("hand"))
        box = QRectF(10, top + height / 2 - 11, 22, 22)
        p.fillRect(box, tint(pal, letter))
        p.setPen(QPen(pal.color("border"), 1))
        p.drawRect(box)
        p.setPen(pal.color("ink"))
        p.setFont(small(10.5, bold=True))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, q.letter)
        p.setFont(small(9.5, bold=True))
        head = QRectF(38, top + height / 2 - 17, LEFT - 40, 17)
        p.drawText(head, Qt.AlignmentFlag.AlignVCenter, q.role)
        if q.raised:
            head.setLeft(head.left() + p.fontMetrics().horizontalAdvance(q.role) + 6)
            p.setPen(pal.color("attention"))
            p.drawText(head, Qt.AlignmentFlag.AlignVCenter, signed(q.raised))
        p.setFont(small(8))
        p.setPen(pal.color("faint"))
        at = phrase_edits.bar_of(self.grid, q.start, self.preparation.origin)
        sure = "" if q.hand else f"  {share(q.chance)}"
        p.drawText(
            QRectF(38, top + height / 2, LEFT - 40, 15),
            Qt.AlignmentFlag.AlignVCenter,
            tr("bar {0}{1}").format(at, sure),
        )
        self._draw_length(p, row, body)

    def _draw_length(self, p: QPainter, row: int, body: QRectF) -> None:
        pal = self.palette_
        odd = not phrase_edits.usual(round(self.bars[row], 2))
        words = phrase_edits.length_words(self.bars[row])
        p.setFont(small(11.5 if odd else 10, bold=odd))
        p.setPen(pal.color("attention" if odd else "ink"))
        # behind the flags, which may reach beyond a short phrase
        cues = [(c, self.beat_of(c)) for c in (*self.preparation.cues, *self.ghosts)]
        ends = [self.x_of(row, beat) + self.flag_width(c) for c, beat in cues if self.row_of(beat) == row]
        left = max([body.right(), *ends]) + 8
        place = QRectF(left, body.top(), self.width() - left, body.height())
        p.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)

    def _draw_sections(self, p: QPainter) -> None:
        """Beside the lengths: a bracket around the phrases of one section, with all its bars; closed ones are named."""
        assert self.form is not None
        pal, height, origin = self.palette_, self.row_height, self.row_top(0)
        for s in self.form.sections:
            top, bottom = origin + s.first * height + 2, origin + s.stop * height - 5
            closed = self.inside[s.first] if s.first < len(self.inside) else 1
            if bottom < HEAD or top > self.height() or (len(s) < 2 and closed < 2):
                continue
            x = self.width() - SECTION
            p.setPen(QPen(pal.color("ink"), 1.6))
            p.drawLine(QLineF(x, top, x, bottom))
            for y in (top, bottom):
                p.drawLine(QLineF(x - 4, y, x, y))
            words = f"{sum(self.bars[s.first : s.stop]):g}" if closed < 2 else f"{closed}×"
            p.setFont(small(10, bold=True))
            p.drawText(QRectF(x + 5, (top + bottom) / 2 - height / 2, 30, height), Qt.AlignmentFlag.AlignVCenter, words)

    def _row_times(self, row: int) -> Floats:
        """When a row begins and ends, s."""
        assert self.grid is not None
        return np.asarray(self.grid.time_at([self.starts[row], self.starts[row + 1]]))

    def _shape(self, start: float, stop: float, count: int) -> tuple[Singles, Singles]:
        """Level of the waveform and strength of attacks in `count` columns from `start` to `stop` s."""
        level = np.zeros(count, np.float32)
        if self.waveform is not None:
            level = np.abs(columns(self.waveform, start, stop, count)).max(axis=1)
        struck = np.zeros(count, np.float32)
        if len(self.ink):
            edges = np.clip((np.linspace(start, stop, count + 1) * INK_RATE).astype(int), 0, len(self.ink) - 1)
            part = self.ink[edges[0] : edges[-1] + 1]
            struck = np.maximum.reduceat(part, edges[:-1] - edges[0])[:count].astype(np.float32)
        return level, struck

    def _draw_ink(self, p: QPainter, row: int, body: QRectF) -> None:
        """Sustained sound behind, attacks before it, both standing on the row."""
        pal = self.palette_
        count = max(4, int(body.width()))
        room = int(body.height()) - FLAG - 3
        a, b = (float(t) for t in self._row_times(row))
        key = (round(a, 4), round(b, 4), count, room, pal.name)
        if key not in self._images:
            level, struck = self._shape(a, b, count)
            foot = np.full(count, room, np.float32)
            back = (foot - np.float32(0.9 * room) * level, foot, pal.color("sustained"))
            front = (foot - np.float32(0.95 * room) * struck, foot, pal.color("percussive", 0.85))
            self._images[key] = bars_image(max(1, room), (back, front))
        p.drawImage(QPointF(body.left(), body.bottom() - 1 - room), self._images[key])

    def _draw_bars(self, p: QPainter, row: int, body: QRectF) -> None:
        pal = self.palette_
        for bar in range(1, int(np.ceil(self.bars[row]))):
            x = body.left() + bar * self.bar_width
            p.setPen(QPen(pal.color("ink" if bar % 4 == 0 else "border", 0.75 if bar % 4 == 0 else 0.6), 1))
            p.drawLine(QLineF(x, body.top() + (0 if bar % 4 == 0 else FLAG), x, body.bottom()))

    def _draw_left_out(self, p: QPainter) -> None:
        """The bars that a skip in progress leaves out, hatched."""
        if self.left_out is None:
            return
        a, b = self.left_out
        for row in range(len(self.bars)):
            first, last = max(a, self.starts[row]), min(b, self.starts[row + 1])
            if last - first > 1e-6:
                x, stop = self.x_of(row, first), self.x_of(row, last)
                area = QRectF(x, self.row_top(row), stop - x, self.row_height - 3)
                p.fillRect(area, self.palette_.color("paper", 0.55))
                p.fillRect(area, QBrush(self.palette_.color("attention"), Qt.BrushStyle.BDiagPattern))

    def _draw_skips(self, p: QPainter) -> None:
        """Between choruses that can be changed over at any place: a line down the right side, with a dot at each."""
        pal = self.palette_
        nearest: dict[int, int] = {}
        for s in self.skips:
            if s.keeps:
                nearest[s.source] = min(s.target, nearest.get(s.source, s.target))
        x, height = self.width() - 9.0, self.row_height
        for i, j in nearest.items():
            a, b = (HEAD + (k + 0.5) * height - self.offset for k in (i, j))
            if b < 0 or a > self.height():
                continue
            p.setPen(QPen(pal.color("ink"), 1.6, Qt.PenStyle.DotLine))
            p.drawLine(QLineF(x, a, x, b))
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(pal.color("ink"))
            for y in (a, b):
                p.drawEllipse(QPointF(x, y), 3.5, 3.5)

    def _draw_cues(self, p: QPainter) -> None:
        assert self.grid is not None
        held = self.held.cue if self.held is not None and self.held.moved else ""
        standing = {(c.beat, c.role) for c in self.preparation.cues}
        ghosts = [c for c in self.ghosts if c.beat is not None and (c.beat, c.role) not in standing]
        shown = [(self.beat_of(c), c, False) for c in self.preparation.cues if c.id != held]
        shown = sorted(shown + [(self.beat_of(c), c, True) for c in ghosts], key=lambda one: one[0])
        for (beat, c, ghost), after in zip(shown, [*(beat for beat, *_ in shown[1:]), 1e9], strict=False):
            # a flag ends before the next one in its row, or at the edge
            row = self.row_of(beat)
            same = row < len(self.bars) and after < self.starts[row + 1]
            room = (self.x_of(row, after) - 1 if same else self.width()) - self.x_of(row, beat)
            self._draw_cue(p, c, beat, ghost=ghost, room=room)

    def _draw_cue(self, p: QPainter, cue: Cue, beat: float, *, ghost: bool = False, room: float = 1e9) -> None:
        if not self.starts[0] - 1e-6 <= beat <= self.starts[-1] + 1e-6:
            return
        pal = self.palette_
        x, top = self.place_of(beat)
        loop = cue_edits.loop_of(self.preparation, cue)
        if loop is not None and self.grid is not None:
            stop = self.x_of(self.row_of(beat), float(self.grid.beat_at(loop[1])))
            p.fillRect(QRectF(x, top + FLAG, stop - x, 3), pal.color("ink"))
        p.setPen(QPen(pal.color("ink"), 1.6, Qt.PenStyle.DashLine if ghost else Qt.PenStyle.SolidLine))
        p.drawLine(QLineF(x, top, x, top + self.row_height - 3))
        p.setOpacity(0.8 if ghost else 1.0)
        box = draw_flag(p, x, top + 1, self._flag_text(cue), cue.role, room)
        p.setOpacity(1.0)
        if cue.id == self.cue_id and not ghost:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(pal.color("hand"), 2))
            p.drawRect(box.adjusted(-1, -1, 1, 1))

    def _draw_drag(self, p: QPainter) -> None:
        if self.held is None or not self.held.moved or self.grid is None:
            return
        d, pal = self.held, self.palette_
        if d.cue:
            cue = next((c for c in self.preparation.cues if c.id == d.cue), None)
            if cue is not None:
                self._draw_cue(p, cue, d.beat)
            return
        row = d.index - 1 if d.beat <= self.starts[d.index] + 1e-6 else d.index
        x, top = self.x_of(row, d.beat), self.row_top(row)
        p.setPen(QPen(pal.color("hand"), 3))
        p.drawLine(QLineF(x, top, x, top + self.row_height - 3))
        ends = (self.starts[d.index - 1], d.beat, self.starts[d.index + 1])
        start, here, stop = (int(self.grid.bar_index(b + 1e-6)[0]) for b in ends)
        text = f"{here - start} | {stop - here}"
        p.setFont(small(10, bold=True))
        box = QRectF(x - 30, top - 4, 60, 18)
        p.fillRect(box, pal.color("hand"))
        p.setPen(QColor(pal.on_hand))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def draw_over(self, p: QPainter) -> None:
        """The playhead in its row."""
        if self.grid is None or not self.bars:
            return
        beat = float(self.grid.beat_at(self.position))
        if self.starts[0] - 4 <= beat <= self.starts[-1] + 4:
            x, top = self.place_of(min(max(beat, self.starts[0]), self.starts[-1]))
            p.setClipRect(QRectF(0, HEAD - 2, self.width(), self.height() - HEAD + 2))
            p.setPen(QPen(self.palette_.color("ink"), 2.4))
            p.drawLine(QLineF(x, top - 1, x, top + self.row_height - 2))
            p.setClipping(False)
