"""The panel at the right of Rehearse: the two tracks, the verdict, places to meet, what to do, how they meet."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ....core.figures import change, sentence, share, signed
from ....core.pairs import places
from ....core.pairs.judgement import Judgement
from ....core.pairs.meeting import CLOCKS, LAWS, MOST_STRETCH, Meeting
from ....core.pairs.mending import Remark
from ....core.pairs.proposals import Proposal
from ....core.pairs.side import Side
from ....core.rendering.duet import COMING, LEAVING
from ...theme.figures import ms, trust
from ...theme.style import Theme
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.choice import Choice
from ...widgets.parts import heading
from ..frame import Keys, Panel, asking

MOST_PLACES = 3
CLOCK_WORDS = dict(zip(CLOCKS, ("the leaving track's", "one steady tempo", "glides over"), strict=True))
BANDS = "both all along", "hands over half way", "hands over at once", "hands over at the end"


class SmallZipper(QWidget):
    """Two bars, the leaving track over the coming one, as far as they overlap."""

    def __init__(self, leaving: Side, coming: Side, m: Meeting) -> None:
        super().__init__()
        self._parts = (
            (leaving, m.at, 1.0, "percussive", 3.0),
            (coming, m.enter, m.level, "coming", 13.0),
        )
        self._beats = m.bars * leaving.grid.beats_per_bar(m.at)
        self.setFixedSize(QSize(84, 24))

    def paintEvent(self, e: QPaintEvent | None) -> None:
        p, pal = QPainter(self), Theme.palette
        # the whole of both tracks goes across, in beats from the meeting
        ends = [
            tuple((float(side.grid.beat_at(t)) - at) / level for t in (0.0, side.duration))
            for side, at, level, _, _ in self._parts
        ]
        low, high = min(a for a, _ in ends), max(b for _, b in ends)
        scale = (self.width() - 2) / max(1.0, high - low)
        p.fillRect(QRectF(1 - low * scale, 0, self._beats * scale, self.height()), pal.color("band"))
        for (side, at, level, color, y), (a, b) in zip(self._parts, ends, strict=True):
            p.fillRect(QRectF(1 + (a - low) * scale, y, (b - a) * scale, 7), pal.color(color, 0.8))
            p.setPen(QPen(pal.color("paper"), 1))
            for q in side.phrases:
                x = 1 + ((q.start - at) / level - low) * scale
                p.drawLine(QPointF(x, y), QPointF(x, y + 7))
        p.end()


class PlaceRow(QFrame):
    """A meeting that is proposed: a small zipper, where it is, and why. Press it to meet there."""

    pressed = pyqtSignal()

    def __init__(self, leaving: Side, coming: Side, proposal: Proposal) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        m = proposal.meeting
        where = f"{places.name(leaving, m.at)} → {places.name(coming, m.enter)}"
        self.setAccessibleName(tr("{0}, {1} bars. {2}").format(where, m.bars, proposal.words))
        self.setToolTip(tip_of(proposal.words))
        self.mark = Words("")
        self.mark.setFixedWidth(12)
        head = QHBoxLayout()
        head.setSpacing(6)
        text = Words(tr("{0}, {1} bars").format(where, m.bars))
        text.setWordWrap(True)
        head.addWidget(SmallZipper(leaving, coming, m))
        head.addWidget(text, 1)
        head.addWidget(self.mark)
        why = Words(proposal.words)
        why.setObjectName("faint")
        why.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 4, 2, 4)
        column.setSpacing(2)
        column.addLayout(head)
        column.addWidget(why)

    def show_chosen(self, chosen: bool) -> None:
        """Whether this is where they meet now."""
        self.mark.setText("●" if chosen else "")

    def mousePressEvent(self, e: object) -> None:
        self.pressed.emit()

    def keyPressEvent(self, e) -> None:  # type: ignore[no-untyped-def]
        if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.pressed.emit()
        else:
            super().keyPressEvent(e)


class RehearsePanel(Panel):
    """Emits `asked(name, argument)` for everything that can be pressed; the stage knows what it means."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self._keys = keys
        self._places_of: object = None
        self._remarks_of: object = None
        self.place_rows: list[tuple[Proposal, PlaceRow]] = []
        column = self.body(5)
        self._tracks(column)
        self._verdict(column)
        self._keeping(column)
        self._ears(column)
        self._lists(column)
        self._fields(column)
        self._kept(column)
        column.addStretch(1)

    def _button(self, text: str, name: str, tip: str, argument: object = None) -> QPushButton:
        return asking(text, name, argument, tip, self.asked, self._keys)

    def _tip(self, words: str, name: str, argument: object = None) -> str:
        keys = self._keys(name, argument)
        return f"{words} ({keys})" if keys else words

    def _tracks(self, column: QVBoxLayout) -> None:
        self.names: list[Words] = []
        for word in (tr("LEAVES"), tr("COMES")):
            row = QHBoxLayout()
            head = heading(word)
            head.setFixedWidth(58)
            name = Words("–")
            name.setObjectName("title")
            row.addWidget(head)
            row.addWidget(name, 1)
            self.names.append(name)
            column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self._button(tr("Swap"), "swap", tr("The coming track leaves, the leaving one comes")))
        row.addWidget(
            self._button(tr("It leaves"), "leaves", tr("The open track leaves from now on; open another: it comes"))
        )
        row.addWidget(
            self._button(tr("Next pair"), "next-pair", tr("The coming track leaves, the next one of the list comes"))
        )
        column.addLayout(row)

    def _verdict(self, column: QVBoxLayout) -> None:
        self.verdict, self.details = Words(""), Words("")
        for words in (self.verdict, self.details):
            words.setWordWrap(True)
        self.details.setObjectName("faint")
        column.addSpacing(3)
        column.addWidget(self.verdict)
        column.addWidget(self.details)

    def _ears(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        label = Words(tr("Hear only"))
        label.setObjectName("faint")
        row.addWidget(label)
        self.solo_leaving = self._button(tr("Leaving"), "solo", tr("Hear the leaving track alone"), LEAVING)
        self.solo_coming = self._button(tr("Coming"), "solo", tr("Hear the coming track alone"), COMING)
        self.split = self._button(tr("Split"), "split-ears", tr("The leaving track left, the coming one right"))
        for b in (self.solo_leaving, self.solo_coming, self.split):
            b.setCheckable(True)
            row.addWidget(b)
        column.addLayout(row)

    def _fields(self, column: QVBoxLayout) -> None:
        column.addWidget(heading(tr("HOW THEY MEET")))
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setHorizontalSpacing(6)
        grid.setColumnStretch(1, 1)
        self.at, self.enter, self.bars, self.nudge = Words("–"), Words("–"), Words("–"), Words("–")
        self._line(
            grid,
            0,
            tr("Leaves at"),
            self.at,
            self._button(tr("Type…"), "type-place", tr("Type where they meet, and for how long")),
        )
        self._line(
            grid,
            1,
            tr("Comes from"),
            self.enter,
            self._button(tr("Its drop…"), "land-drop", tr("So that its drop falls on a change")),
        )
        steps = QHBoxLayout()
        steps.setSpacing(3)
        for text, step, tip in (("−", -1, tr("Half as long")), ("+", 1, tr("Twice as long"))):
            steps.addWidget(self._button(text, "length", tip, step))
        self._line(grid, 2, "Overlap", self.bars, _box(steps))
        self.clock = Choice(tr("Clock"), tuple(CLOCK_WORDS.values()), self._tip(tr("Whose time is kept"), "next-clock"))
        self.clock.activated.connect(lambda i: self.asked.emit("clock", CLOCKS[i]))
        self.pitch = Choice(
            tr("Pitch"), ("held", tr("goes with speed")), self._tip(tr("Pitch when the speed differs"), "pitch")
        )
        self.pitch.activated.connect(lambda i: self.asked.emit("set-pitch", i == 0))
        self._pair(grid, 3, "Clock", self.clock)
        self.match = self._button(tr("As loud"), "match", tr("The coming track is set as loud as the leaving one"))
        self.match.setCheckable(True)
        self._pair(grid, 4, "Pitch", self.pitch, self.match)
        self.fade_out = Choice(tr("Leaving fades"), LAWS, tr("How the leaving track goes, over the second half"))
        self.fade_in = Choice(tr("Coming fades"), LAWS, tr("How the coming track comes, over the first half"))
        self.fade_out.activated.connect(lambda i: self.asked.emit("fade", ("fade_out", LAWS[i])))
        self.fade_in.activated.connect(lambda i: self.asked.emit("fade", ("fade_in", LAWS[i])))
        self._pair(grid, 5, "Fades", self.fade_out, self.fade_in)
        self.low = Choice(
            tr("Low sound"), BANDS, tr("Where low sound passes from one to the other, so that two basses don't sound")
        )
        self.low.activated.connect(lambda i: self.asked.emit("low", i))
        self._pair(grid, 6, tr("Low sound"), self.low)
        nudges = QHBoxLayout()
        nudges.setSpacing(3)
        for text, by in (("−", -1.0), ("+", 1.0)):
            nudges.addWidget(
                self._button(text, "nudge", tr("The coming track 1 ms earlier") if by < 0 else tr("1 ms later"), by)
            )
        to_grid = self._button(tr("To its grid"), "nudge-grid", tr("Move the coming track's grid instead, for good"))
        nudges.addWidget(to_grid)
        self._line(grid, 7, "Nudge", self.nudge, _box(nudges))
        to_grid.setMinimumWidth(74)
        column.addLayout(grid)

    def _line(self, grid: QGridLayout, row: int, name: str, value: Words, more: QWidget) -> None:
        label = Words(name)
        label.setObjectName("faint")
        value.setMinimumWidth(30)
        box = QHBoxLayout()
        box.setSpacing(4)
        box.addWidget(value, 1)
        box.addWidget(more)
        grid.addWidget(label, row, 0)
        grid.addWidget(_box(box), row, 1, 1, 2)

    def _pair(self, grid: QGridLayout, row: int, name: str, *fields: QWidget) -> None:
        label = Words(name)
        label.setObjectName("faint")
        grid.addWidget(label, row, 0)
        box = QHBoxLayout()
        box.setSpacing(4)
        for field in fields:
            if isinstance(field, Choice):
                # texts are cut rather than the panel made wider
                field.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
                field.setMinimumContentsLength(5)
            box.addWidget(field, 1)
        grid.addWidget(_box(box), row, 1, 1, 2)

    def _lists(self, column: QVBoxLayout) -> None:
        self.remarks_heading, self.places_heading = heading(tr("WHAT TO DO")), heading(tr("PLACES TO MEET"))
        self.remarks, self.places = QVBoxLayout(), QVBoxLayout()
        self._titled(column, self.places_heading, self.places)
        self._titled(column, self.remarks_heading, self.remarks)

    def _kept(self, column: QVBoxLayout) -> None:
        self.others_heading, self.others = heading(tr("KEPT MEETINGS")), QVBoxLayout()
        self._titled(column, self.others_heading, self.others)

    def _titled(self, column: QVBoxLayout, head: Words, box: QVBoxLayout) -> None:
        box.setSpacing(0)
        column.addSpacing(3)
        column.addWidget(head)
        column.addLayout(box)

    def _keeping(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.keep = self._button(tr("Keep this meeting"), "keep-meeting", tr("Keep it in the library, at both tracks"))
        self.write = self._button(
            tr("Write the mix…"), "write-mix", tr("As FLAC or WAV, with an account of every beat")
        )
        row.addWidget(self.keep, 1)
        row.addWidget(self.write, 1)
        column.addLayout(row)

    # showing

    def show_names(self, leaving: str, coming: str) -> None:
        """The two tracks."""
        for label, name in zip(self.names, (leaving, coming), strict=True):
            metrics = label.fontMetrics()
            label.setText(metrics.elidedText(name or "–", Qt.TextElideMode.ElideRight, 218))
            label.setToolTip(tip_of(name))

    def show_judged(self, judged: Judgement | None, problem: str, kept: bool) -> None:
        """The verdict, and the meeting as it is."""
        for w in (self.clock, self.pitch, self.fade_in, self.fade_out, self.low, self.match, self.keep, self.write):
            w.setEnabled(judged is not None)
        self.keep.setText(tr("Kept") if kept else tr("Keep this meeting"))
        if judged is None:
            self.verdict.setText(problem)
            self.details.setText("")
            for value in (self.at, self.enter, self.bars, self.nudge):
                value.setText("–")
            return
        e, t = judged.expected, judged.together
        will = "will" if e.is_safe else tr("will probably") if e.is_probable else ""
        word = tr("They {0} stay together").format(will) if will else tr("They may part")
        self.verdict.setText(tr("{0} {1}: {2} sure").format(trust(e), word, share(e.safe)))
        speed = change(t.mean_stretch)
        most = max((abs(x) for x in t.stretch), default=0.0)
        told = (
            tr(", up to {0}: beyond {1} it is heard").format(share(most), share(MOST_STRETCH))
            if most > MOST_STRETCH
            else ""
        )
        text = tr("Foretold: 95 % within {0:.0f} ms. Heard: {1}. Coming runs {2}{3}.")
        text = text.format(e.p95, ms(judged.line.p95), speed, told)
        self.details.setText(f"{text} {sentence(judged.keys)}".strip())

    def show_meeting(self, leaving: Side | None, coming: Side | None, m: Meeting | None) -> None:
        """The fields."""
        if leaving is None or coming is None or m is None:
            return
        self.at.setText(_elided(self.at, places.name(leaving, m.at)))
        self.enter.setText(_elided(self.enter, places.name(coming, m.enter)))
        level = {1.0: "", 0.5: tr(", at half"), 2.0: tr(", at double")}[m.level]
        self.bars.setText(tr("{0} bars{1}").format(m.bars, level))
        self.clock.show_text(CLOCK_WORDS[m.clock])
        self.pitch.setCurrentIndex(0 if m.hold_pitch else 1)
        self.fade_in.show_text(m.fade_in)
        self.fade_out.show_text(m.fade_out)
        at = {None: 0, m.bars // 2: 1, 0: 2, m.bars: 3}.get(m.swap, 1)
        self.low.setCurrentIndex(at)
        self.match.setChecked(m.match)
        self.nudge.setText(signed(m.nudge, "ms") if m.nudge else tr("none"))

    def show_ears(self, solo: str, split: bool) -> None:
        """What is heard of the two."""
        self.solo_leaving.setChecked(solo == LEAVING)
        self.solo_coming.setChecked(solo == COMING)
        self.split.setChecked(split)

    def show_places(self, leaving: Side | None, coming: Side | None, found: list[Proposal], m: Meeting | None) -> None:
        """The places that are proposed; the one in use is marked."""
        if self._places_of is not found:
            self._places_of = found
            _empty(self.places)
            self.place_rows = []
            for proposal in found[:MOST_PLACES] if leaving is not None and coming is not None else ():
                assert leaving is not None and coming is not None
                row = PlaceRow(leaving, coming, proposal)
                row.pressed.connect(lambda p=proposal: self.asked.emit("meet", p.meeting))
                self.places.addWidget(row)
                row.show()
                self.place_rows.append((proposal, row))
            self.fit()
        self.places_heading.setVisible(bool(found))
        for proposal, row in self.place_rows:
            there = proposal.meeting
            row.show_chosen(m is not None and (there.at, there.enter, there.bars) == (m.at, m.enter, m.bars))

    def show_remarks(self, remarks: tuple[Remark, ...]) -> None:
        """Sentences, with a button where something mends it."""
        self.remarks_heading.setVisible(bool(remarks))
        if self._remarks_of == remarks:
            return
        self._remarks_of = remarks
        _empty(self.remarks)
        for remark in remarks:
            row = QFrame()
            row.setObjectName("finding")
            box = QVBoxLayout(row)
            box.setContentsMargins(2, 4, 2, 4)
            box.setSpacing(3)
            text = Words(remark.text)
            text.setWordWrap(True)
            box.addWidget(text)
            if remark.meeting is not None:
                box.addWidget(self._mends(remark.label, "meet", remark.meeting), 0, Qt.AlignmentFlag.AlignLeft)
            if remark.tie is not None:
                b = self._mends(remark.label, "pull", remark.tie)
                b.setToolTip(self._tip(tr("Another beat: the one at the playhead"), "pull-here"))
                box.addWidget(b, 0, Qt.AlignmentFlag.AlignLeft)
            if remark.follow is not None:
                box.addWidget(self._mends(remark.label, "follow-it", remark.follow), 0, Qt.AlignmentFlag.AlignLeft)
            if remark.straighten is not None:
                words = tr("Straighten {0}").format(_elided(text, remark.straighten.title))
                b = self._mends(words, "straighten-it", remark.straighten)
                b.setToolTip(tr("To Deliver, where it is rendered anew at one steady tempo"))
                box.addWidget(b, 0, Qt.AlignmentFlag.AlignLeft)
            self.remarks.addWidget(row)
            row.show()
        self.fit()

    def _mends(self, words: str, name: str, what: object) -> QPushButton:
        """The button of a remark."""
        b = QPushButton(words)
        b.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        b.clicked.connect(lambda: self.asked.emit(name, what))
        return b

    def show_others(self, others: list[tuple[str, tuple[int, int]]]) -> None:
        """Meetings that are kept of either track, as words and numbers."""
        self.others_heading.setVisible(bool(others))
        _empty(self.others)
        for text, pair in others:
            b = QPushButton(text)
            b.setObjectName("plain")
            b.setStyleSheet("text-align: left")
            b.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            b.clicked.connect(lambda _=False, k=pair: self.asked.emit("pair", k))
            self.others.addWidget(b)


def _box(row: QHBoxLayout) -> QWidget:
    out = QWidget()
    row.setContentsMargins(0, 0, 0, 0)
    out.setLayout(row)
    return out


def _elided(label: Words, text: str) -> str:
    return label.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, 112)


def _empty(box: QVBoxLayout) -> None:
    while (item := box.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()
