"""A contact sheet: one small ladder a track, with the flags that a recipe would put down.

A dashed flag is proposed, a hollow one is in doubt, one that is crossed out stays away; a solid one is a hand's.
"""

from __future__ import annotations

from collections.abc import Sequence

import attrs
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractScrollArea

from ...core.cues.prospects import DOUBT, Flag, Prospect
from ...core.cues.recipe_places import sure_words
from ...core.cues.recipes import Key
from ...core.form.phrase_edits import phrase_at
from ...core.model.cue import Cue
from ...core.model.form import letter_number
from ..theme.palette import letter_of, role_inks, tint
from ..theme.style import Theme
from ..theme.tr import tr
from .base import small

GAP, LEAST_WIDTH, HEIGHT = 10, 310, 176
EDGE = 1
"""Px at the left and right, so that a card's frame isn't cut; else cards stand under the buttons' edges."""
HEAD, FOOT, SIDE = 26, 38, 12
LEAST_ROW, MOST_ROW, NAMED = 5.0, 18.0, 12.0
FLAG_WIDTH, FLAG_HEIGHT = 15.0, 12.0
LONGEST, SHORT = 64.0, 160.0


@attrs.frozen
class Card:
    """A track of the sheet: what a recipe would do, which flags stay away, whether all of it does.

    `state` is a word, `words` the line at the foot, `alarming` whether that line wants to be read.
    """

    prospect: Prospect
    left: frozenset[Key] = frozenset()
    out: bool = False
    state: str = ""
    words: str = ""
    alarming: bool = False


class ContactCards(QAbstractScrollArea):
    """Emits what hands want: a card chosen, opened, taken out or in; a flag taken out or in; the next one in doubt."""

    chosen = pyqtSignal(int)
    opened = pyqtSignal(int)
    toggled = pyqtSignal(int)
    flag_toggled = pyqtSignal(int, object)
    next_wanted = pyqtSignal()
    fine_said = pyqtSignal()
    left_alone = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Contact sheet"))
        self.setAccessibleDescription(tr("One small ladder for each track, with the cues that the recipe would place."))
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is not None and bar is not None:
            port.setMouseTracking(True)
            bar.setSingleStep(HEIGHT // 3)
        self.cards: list[Card] = []
        self.at = 0
        self.flag = -1

    def sizeHint(self) -> QSize:
        return QSize(1000, 600)

    # what is shown

    def show_cards(self, cards: Sequence[Card], at: int) -> None:
        """Draw other cards; the one at `at` is chosen."""
        moved = at != self.at
        self.cards, self.at = list(cards), at
        if moved:
            self.flag = -1
        self._scrollable()
        if moved:
            self.see(at)
        self._again()

    def _again(self) -> None:
        port = self.viewport()
        if port is not None:
            port.update()

    def see(self, place: int) -> None:
        """Scroll so that a card is in sight."""
        bar, port = self.verticalScrollBar(), self.viewport()
        if bar is not None and port is not None:
            top = self._top(place)
            bar.setValue(min(max(bar.value(), top + HEIGHT + GAP - port.height()), top))

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        self._scrollable()
        super().resizeEvent(e)

    def _scrollable(self) -> None:
        bar, port = self.verticalScrollBar(), self.viewport()
        if bar is None or port is None:
            return
        whole = self._top(max(0, len(self.cards) - 1)) + HEIGHT + GAP
        bar.setRange(0, max(0, whole - port.height()))
        bar.setPageStep(port.height())

    # places

    @property
    def columns(self) -> int:
        """How many cards stand side by side."""
        port = self.viewport()
        return max(1, ((port.width() if port is not None else 0) - 2 * EDGE + GAP) // (LEAST_WIDTH + GAP))

    def _top(self, place: int) -> int:
        return GAP + place // self.columns * (HEIGHT + GAP)

    def box_of(self, place: int) -> QRectF:
        """Where a card lies, in px of what is seen."""
        port, bar = self.viewport(), self.verticalScrollBar()
        assert port is not None
        assert bar is not None
        wide = (port.width() - 2 * EDGE + GAP) / self.columns
        x = EDGE + place % self.columns * wide
        return QRectF(x, self._top(place) - bar.value(), wide - GAP, HEIGHT)

    def place_at(self, at: QPointF) -> int:
        """Which card lies under a place; -1 for none."""
        return next((k for k in self._seen() if self.box_of(k).contains(at)), -1)

    def _seen(self) -> range:
        """The cards in sight."""
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return range(0)
        step = HEIGHT + GAP
        first = max(0, bar.value() - GAP) // step * self.columns
        last = (bar.value() + port.height()) // step * self.columns + self.columns
        return range(first, min(last, len(self.cards)))

    def _rows(self, x: Prospect, box: QRectF) -> tuple[float, float, int]:
        """Height of a row of the small ladder, px a bar, and how many rows there is room for."""
        room = HEIGHT - HEAD - FOOT
        height = min(max(room / max(1, len(x.bars)), LEAST_ROW), MOST_ROW)
        longest = min(LONGEST, max([8.0, *x.bars]))
        return height, (box.width() - 2 * SIDE - FLAG_WIDTH) / longest, int(room / height)

    def _spot(self, x: Prospect, box: QRectF, beat: float) -> QPointF | None:
        """Where a beat lies in the small ladder; None beyond the rows that are drawn."""
        if x.form is None:
            return None
        height, wide, most = self._rows(x, box)
        row = phrase_at(x.form, beat)
        if row >= most:
            return None
        starts = [q.start for q in x.form.phrases] + [x.form.end]
        share = (beat - starts[row]) / max(1e-9, starts[row + 1] - starts[row])
        share = min(max(share, 0.0), 1.0)
        return QPointF(box.left() + SIDE + share * min(x.bars[row], LONGEST) * wide, box.top() + HEAD + row * height)

    def flags_of(self, place: int) -> list[tuple[Flag, QRectF]]:
        """The flags of a card that are drawn, and where."""
        x, box = self.cards[place].prospect, self.box_of(place)
        out = []
        for f in x.flags:
            at = self._spot(x, box, f.key[0])
            if at is not None:
                out.append((f, QRectF(at.x(), at.y() - 1, FLAG_WIDTH, FLAG_HEIGHT)))
        return out

    # drawing

    def paintEvent(self, e: QPaintEvent | None) -> None:
        port = self.viewport()
        if port is None:
            return
        p = QPainter(port)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(port.rect(), Theme.palette.color("paper"))
        for place in self._seen():
            self._card(p, place)
        if not self.cards:
            p.setPen(Theme.palette.color("faint"))
            p.drawText(port.rect(), Qt.AlignmentFlag.AlignCenter, tr("The tracks are being looked at…"))
        p.end()

    def _card(self, p: QPainter, place: int) -> None:
        pal, card, box = Theme.palette, self.cards[place], self.box_of(place)
        x, current = card.prospect, place == self.at
        p.fillRect(box, pal.color("raised"))
        strong = current and self.hasFocus()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(pal.color("hand" if current else "hairline"), 2.5 if strong else 1.5 if current else 1))
        p.drawRect(box)
        self._tick(p, self.tick_of(place), card)
        p.setPen(pal.color("faint" if card.out else "ink"))
        p.setFont(small(9.5, bold=True))
        title = QRectF(box.left() + 32, box.top(), box.width() - 112, HEAD)
        words = p.fontMetrics().elidedText(" ".join(x.title.split()), Qt.TextElideMode.ElideRight, int(title.width()))
        p.drawText(title, Qt.AlignmentFlag.AlignVCenter, words)
        p.setFont(small(8.5, bold=card.alarming))
        p.setPen(pal.color("attention" if card.alarming else "faint"))
        right = QRectF(box.right() - 84, box.top(), 84 - SIDE, HEAD)
        p.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, card.state)
        p.setOpacity(0.4 if card.out else 1.0)
        self._ladder(p, x, box)
        for cue in x.standing:
            self._standing(p, x, box, cue)
        for k, (flag, place_) in enumerate(self.flags_of(place)):
            self._flag(p, flag, place_, away=flag.key in card.left)
            if current and k == self.flag and self.hasFocus():
                p.setPen(QPen(pal.color("hand"), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(place_.adjusted(-2, -2, 2, 2))
        p.setOpacity(1.0)
        p.setFont(small(8.5))
        p.setPen(pal.color("attention" if card.alarming else "faint"))
        foot = QRectF(box.left() + SIDE, box.bottom() - FOOT + 6, box.width() - 2 * SIDE, FOOT - 8)
        p.drawText(foot, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter, self._short(p, card.words, foot))

    @staticmethod
    def _short(p: QPainter, words: str, box: QRectF) -> str:
        """As much as two lines hold."""
        most = int(box.width() * 1.85)
        return p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, most)

    def tick_of(self, place: int) -> QRectF:
        """The box of a card that says whether it is taken."""
        box = self.box_of(place)
        return QRectF(box.left() + SIDE, box.top() + (HEAD - 13) / 2, 13, 13)

    @staticmethod
    def _tick(p: QPainter, at: QRectF, card: Card) -> None:
        pal = Theme.palette
        p.setPen(QPen(pal.color("border"), 1.2))
        p.drawRect(at)
        if not card.out and not card.prospect.skipped:
            p.setPen(QPen(pal.color("ink"), 2))
            corner, end = at.topLeft(), at.topRight() + QPointF(-2.5, 3)
            p.drawLine(QLineF(corner + QPointF(3, 7), corner + QPointF(5.5, 10)))
            p.drawLine(QLineF(corner + QPointF(5.5, 10), end))

    def _ladder(self, p: QPainter, x: Prospect, box: QRectF) -> None:
        pal = Theme.palette
        height, wide, most = self._rows(x, box)
        top = box.top() + HEAD
        if x.form is None:
            return
        for row, (q, bars) in enumerate(zip(x.form.phrases, x.bars, strict=True)):
            if row >= most:
                break
            body = QRectF(box.left() + SIDE, top + row * height, min(bars, LONGEST) * wide, height - 1.5)
            p.fillRect(body, tint(pal, letter_number(q.letter)))
            p.setPen(QPen(pal.color("ink"), 1.2 if not q.joins else 0.4))
            p.drawLine(QLineF(body.left(), body.top(), body.left(), body.bottom()))
            if height >= NAMED:
                p.setFont(small(7.5))
                p.setPen(pal.color("faint"))
                words = f"{q.role} {bars:g}"
                # flags need the room of a short row: there its name stands beside it
                short = body.width() < SHORT
                place = QRectF(body.right() + 5, body.top(), 90, body.height()) if short else body.adjusted(0, 0, -4, 0)
                side = Qt.AlignmentFlag.AlignLeft if short else Qt.AlignmentFlag.AlignRight
                p.drawText(place, side | Qt.AlignmentFlag.AlignVCenter, words)
        if len(x.bars) > most:
            p.setPen(pal.color("faint"))
            p.setFont(small(8))
            room = QRectF(box.left(), top, box.width() - SIDE, most * height)
            more = tr("{0} more").format(len(x.bars) - most)
            p.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, more)

    def _standing(self, p: QPainter, x: Prospect, box: QRectF, cue: Cue) -> None:
        if cue.beat is None:
            return
        at = self._spot(x, box, cue.beat)
        if at is not None:
            hue, _ = role_inks(Theme.palette, cue.role)
            p.fillRect(QRectF(at.x() - 1, at.y() - 1, 3.5, FLAG_HEIGHT), hue)

    @staticmethod
    def _flag(p: QPainter, flag: Flag, at: QRectF, *, away: bool) -> None:
        pal = Theme.palette
        (hue, ink), letter = role_inks(pal, flag.cue.role), letter_of(flag.cue.role)
        sure = 1 - flag.chance < DOUBT
        p.setPen(QPen(pal.color("ink"), 1.2, Qt.PenStyle.DashLine))
        p.setBrush(hue if sure and not away else pal.color("raised"))
        p.drawRect(at)
        p.setPen(ink if sure and not away else pal.color("ink"))
        p.setFont(small(7.5, bold=True))
        p.drawText(at, Qt.AlignmentFlag.AlignCenter, letter if sure else f"{letter}?")
        if away:
            p.setPen(QPen(pal.color("attention"), 2))
            p.drawLine(QLineF(at.bottomLeft(), at.topRight()))

    # hands

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or e.button() != Qt.MouseButton.LeftButton:
            return
        at = e.position()
        place = self.place_at(at)
        if place < 0:
            return
        self.chosen.emit(place)
        if self.tick_of(place).adjusted(-4, -4, 4, 4).contains(at):
            self.toggled.emit(place)
            return
        for flag, box in reversed(self.flags_of(place)):
            if box.contains(at):
                self.flag_toggled.emit(place, flag.key)
                return

    def mouseDoubleClickEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and (place := self.place_at(e.position())) >= 0:
            self.opened.emit(place)

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        place = self.place_at(e.position())
        over = next((f for f, box in self.flags_of(place) if box.contains(e.position())), None) if place >= 0 else None
        self.setToolTip(_told(over) if over is not None else self.cards[place].words if place >= 0 else "")

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None or not self.cards:
            return
        steps = {
            Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self.columns, Qt.Key.Key_Down: self.columns,
            Qt.Key.Key_Home: -len(self.cards), Qt.Key.Key_End: len(self.cards),
        }  # fmt: skip
        key = Qt.Key(e.key())
        if key in steps:
            goal = self.at + steps[key]
            whole = key in (Qt.Key.Key_Home, Qt.Key.Key_End)
            if whole or 0 <= goal < len(self.cards):
                self.chosen.emit(min(max(goal, 0), len(self.cards) - 1))
        elif key == Qt.Key.Key_N:
            self.next_wanted.emit()
        elif key == Qt.Key.Key_X:
            self.fine_said.emit()
        elif key == Qt.Key.Key_Return:
            self.opened.emit(self.at)
        elif key == Qt.Key.Key_Space:
            self.toggled.emit(self.at)
        elif key in (Qt.Key.Key_Comma, Qt.Key.Key_Period):
            flags = self.flags_of(self.at)
            if flags:
                self.flag = (self.flag + (1 if key == Qt.Key.Key_Period else -1)) % len(flags)
                self._again()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            flags = self.flags_of(self.at)
            if 0 <= self.flag < len(flags):
                self.flag_toggled.emit(self.at, flags[self.flag][0].key)
        elif key == Qt.Key.Key_Escape:
            self.left_alone.emit()
        else:
            super().keyPressEvent(e)


def _told(flag: Flag) -> str:
    sure = "" if flag.chance >= 1 else f", {sure_words(flag.chance)}"
    return tr("{0} at {1}{2}. A click takes it out or in.").format(flag.cue.name, flag.at, sure)
