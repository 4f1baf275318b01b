"""The right side of Gather: what is known of the chosen track, or of many; words to edit; what fits it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....core.errors import MervidError
from ....core.figures import share
from ....core.sound.names import shown
from ....store import neighbours
from ....store.copies import Group
from ....store.track import READY, Track
from ...session.session import Session
from ...theme.figures import clock
from ...theme.tr import marked, tr
from ...theme.words import Words, tip_of
from ...widgets.parts import heading
from ...widgets.track_columns import day, key, rate, state_words, tempo, waits
from ..frame import Panel
from .tag_form import TagForm

ABOUT = (
    marked("Tempo"), marked("Key"), marked("Drive"), marked("Loudness"), marked("Length"), marked("Form"),
    marked("Cues"), marked("Lists"), marked("Format"), marked("Added"), marked("Played"), marked("Made from"),
    marked("File"),
)  # fmt: skip
"""What is told of a track, in this order."""

LEAVES = ("ABOUT", "TAGS", "FITS")
COVER = 84


class GatherPanel(Panel):
    """Emits what is asked for: name and argument."""

    asked = pyqtSignal(str, object)

    def __init__(self, session: Session, covers: Path) -> None:
        super().__init__()
        self._session, self._covers = session, covers
        column = self.body(8)
        self.picture = Words()
        self.picture.setFixedSize(COVER, COVER)
        self.title, self.below, self.state = Words(), Words(), Words()
        self.title.setObjectName("title")
        self.below.setObjectName("faint")
        for label in (self.title, self.below, self.state):
            label.setWordWrap(True)
        head = QHBoxLayout()
        head.setSpacing(10)
        words = QVBoxLayout()
        words.setSpacing(2)
        for label in (self.title, self.below, self.state):
            words.addWidget(label)
        words.addStretch(1)
        head.addWidget(self.picture, 0, Qt.AlignmentFlag.AlignTop)
        head.addLayout(words, 1)
        column.addLayout(head)
        leaves = QHBoxLayout()
        leaves.setSpacing(6)
        self.leaves = QButtonGroup(self)
        for k, name in enumerate(LEAVES):
            b = QPushButton(name)
            b.setObjectName("leaf")
            b.setCheckable(True)
            b.setChecked(k == 0)
            self.leaves.addButton(b, k)
            leaves.addWidget(b)
        leaves.addStretch(1)
        column.addLayout(leaves)
        self.stack = QStackedWidget()
        self.about, self.tags, self.fits = About(self.asked), TagForm(session), Fits(self.asked)
        for page in (self.about, self.tags, self.fits):
            self.stack.addWidget(page)
        self.leaves.idClicked.connect(self.turn)
        column.addWidget(self.stack, 1)
        self.tags.asked.connect(self.asked)

    def turn(self, leaf: int) -> None:
        """Show a leaf."""
        button = self.leaves.button(leaf)
        if button is not None:
            button.setChecked(True)
        self.stack.setCurrentIndex(leaf)
        self.show_chosen()

    def next_leaf(self) -> None:
        """The next leaf, and round."""
        self.turn((self.stack.currentIndex() + 1) % len(LEAVES))

    def show_chosen(self) -> None:
        """Show what is known of the tracks that are chosen."""
        ids = self._session.selection.ids
        try:
            tracks = self._session.library.tracks(ids[:1]) if len(ids) == 1 else []
            one = tracks[0] if tracks else None
            self._head(one, len(ids))
            leaf = self.stack.currentIndex()
            if leaf == 0:
                group = self._session.copies.group_of(one) if one is not None else None
                held = self._session.bookcase.lists.with_track(one.id) if one is not None else []
                origin = self._session.straightening.origin_of(one.id) if one is not None else ""
                self.about.show_track(one, group, held, origin, len(ids))
            elif leaf == 1:
                self.tags.show_tracks(ids)
            else:
                found = neighbours.neighbours(self._session.library, one) if one is not None else []
                self.fits.show_found(one, found)
        except MervidError as e:
            self._session.say.problem(str(e))

    def _head(self, t: Track | None, count: int) -> None:
        self.picture.setVisible(t is not None and bool(t.cover))
        if t is None:
            self.title.setText(tr("{0:,} tracks").format(count) if count else tr("No track is chosen"))
            self.below.setText(tr("What is typed under Tags is written to all of them.") if count else "")
            self.state.setText("")
            return
        if t.cover:
            pixmap = QPixmap(str(self._covers / t.cover))
            mode = Qt.AspectRatioMode.KeepAspectRatio
            self.picture.setPixmap(pixmap.scaled(COVER, COVER, mode, Qt.TransformationMode.SmoothTransformation))
            self.picture.setVisible(not pixmap.isNull())
        self.title.setText(t.title[:200])
        self.below.setText(t.artists[:200])
        self.state.setText(state_words(t))


class About(QWidget):
    """Facts of one track, what waits, its copies."""

    def __init__(self, asked: pyqtBoundSignal) -> None:
        super().__init__()
        self._asked = asked
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.waits = QFrame()
        self.waits.setObjectName("note")
        row = QVBoxLayout(self.waits)
        row.setContentsMargins(4, 2, 4, 2)
        self.finding = Words()
        self.finding.setWordWrap(True)
        row.addWidget(self.finding)
        self.mend = QPushButton(tr("Work on it"))
        self.mend.clicked.connect(lambda: asked.emit("work-on", None))
        row.addWidget(self.mend, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.waits)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnStretch(1, 1)
        self.values: dict[str, Words] = {}
        self.names: list[Words] = []
        for k, name in enumerate(ABOUT):
            label, value = Words(tr(name)), Words()
            label.setObjectName("faint")
            value.setWordWrap(True)
            self.grid.addWidget(label, k, 0, Qt.AlignmentFlag.AlignTop)
            self.grid.addWidget(value, k, 1)
            self.values[name] = value
            self.names.append(label)
        column.addLayout(self.grid)
        self.set_key = QPushButton(tr("Set the key…"))
        self.set_key.clicked.connect(lambda: asked.emit("set-key", None))
        column.addWidget(self.set_key, 0, Qt.AlignmentFlag.AlignLeft)
        self.copies = QWidget()
        self.copies_column = QVBoxLayout(self.copies)
        self.copies_column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.copies)
        column.addStretch(1)

    def show_track(self, t: Track | None, group: Group | None, held: list[str], origin: str, count: int) -> None:
        """Fill in what is known."""
        text = waits(t) if t is not None else ""
        self.waits.setVisible(bool(text))
        self.finding.setText(text)
        missing = t is not None and t.gone
        self.mend.setText(
            tr("Find the file…") if missing else tr("Hear it again") if t and t.state != READY else tr("Work on it")
        )
        for label in (*self.names, *self.values.values()):
            label.setVisible(t is not None)
        self.set_key.setVisible(count > 0)
        for label in (self.names[list(self.values).index("Made from")], self.values["Made from"]):
            label.setVisible(bool(origin))
        for value in self.values.values():
            value.setText("")
        self._show_copies(t, group)
        if t is None:
            return
        say = self.values
        say["Tempo"].setText(" ".join(x for x in (tempo(t) and tr("{0} BPM").format(tempo(t)), t.kind) if x) or "–")
        say["Key"].setText(_key_words(t))
        say["Drive"].setText(tr("{0:.1f} of 9").format(t.drive) if t.drive is not None else "–")
        say["Loudness"].setText(_loudness(t))
        say["Length"].setText(clock(t.seconds) if t.seconds else "–")
        say["Form"].setText((t.form.replace(":", " ").replace("  ", " ") and _form_words(t.form)) or "–")
        say["Cues"].setText(f"{t.cues}: {t.roles.replace(',', ', ')}" if t.cues else tr("none"))
        say["Lists"].setText(", ".join(held) or "none")
        lossless = "lossless" if t.lossless else "lossy" if t.bitrate else ""
        delay = "" if t.delay_known else tr("encoder's delay not known")
        say["Format"].setText(", ".join(x for x in (rate(t), lossless, delay) if x))
        say["Added"].setText(day(t.added))
        say["Played"].setText(day(t.played) or "never")
        say["Made from"].setText(origin)
        say["File"].setText(_breakable(shown(t.path)))
        say["File"].setToolTip(tip_of(str(t.path)))

    def _show_copies(self, t: Track | None, group: Group | None) -> None:
        while (item := self.copies_column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.copies.setVisible(group is not None)
        if group is None or t is None:
            return
        self.copies_column.addWidget(heading(tr("THE SAME PERFORMANCE")))
        for k, other in enumerate(group.tracks):
            better = tr(", the better one: {0}").format(group.why) if k == 0 else ""
            here = tr(" (this one)") if other.id == t.id else ""
            line = Words(f"{shown(other.path)}{here}: {rate(other)}, {clock(other.seconds)}{better}")
            line.setWordWrap(True)
            line.setToolTip(tip_of(str(other.path)))
            self.copies_column.addWidget(line)
            if other.id != t.id:
                b = QPushButton(tr("Take its grid, phrases and cues"))
                b.setToolTip(
                    tr("The preparation of that file is given to this one, moved to where the music begins in it")
                )
                b.clicked.connect(lambda _=False, i=other.id: self._asked.emit("take-over-copy", i))
                self.copies_column.addWidget(b, 0, Qt.AlignmentFlag.AlignLeft)


def _breakable(text: str) -> str:
    """A long name that may go on in the next line."""
    return "\u200b".join(text[k : k + 24] for k in range(0, len(text), 24))


def _key_words(t: Track) -> str:
    if t.own_key:
        return tr("{0}, set by hand").format(t.own_key)
    if not t.key:
        return "–"
    second = tr(", else {0} {1}").format(t.second, share(t.second_chance)) if t.second else ""
    return f"{key(t).rstrip(' ?')} {share(t.key_chance)}{second}"


def _loudness(t: Track) -> str:
    if t.lufs is None:
        return "–"
    peak = tr(", true peak {0:.1f} dBTP").format(t.true_peak) if t.true_peak is not None else ""
    return tr("{0:.1f} LUFS{1}").format(t.lufs, peak).replace("-", "−")


def _form_words(form: str) -> str:
    return " · ".join(f"{bars} {letter}" for letter, _, bars in (w.partition(":") for w in form.split()))


class Fits(QWidget):
    """Tracks that go well after the chosen one; a click chooses one."""

    def __init__(self, asked: pyqtBoundSignal) -> None:
        super().__init__()
        self._asked = asked
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.found: list[neighbours.Neighbour] = []

    def show_found(self, track: Track | None, found: list[neighbours.Neighbour]) -> None:
        """List what fits, the best first."""
        self.found = found
        while (item := self.column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if not found:
            why = (
                tr("Choose one track to see what fits it.")
                if track is None
                else tr("Nothing in the library is near its tempo.")
            )
            label = Words(why)
            label.setObjectName("faint")
            label.setWordWrap(True)
            self.column.addWidget(label)
        for one in found:
            self.column.addWidget(_Found(one, partial(self._asked.emit, "show-track", one.track.id)))
        self.column.addStretch(1)


class _Found(QPushButton):
    """One track that fits: its title, and under it why."""

    def __init__(self, one: neighbours.Neighbour, act: Callable[[], object]) -> None:
        super().__init__()
        self.setObjectName("found")
        self.setAccessibleName(f"{one.track.title}: {one.words}")
        self.setToolTip(tip_of(f"{one.track.title}\n{one.track.artists}\n{one.words}"))
        self.clicked.connect(act)
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 3, 4, 3)
        column.setSpacing(0)
        title, words = Words(), Words()
        title.setText(title.fontMetrics().elidedText(one.track.title, Qt.TextElideMode.ElideRight, 270))
        words.setText(words.fontMetrics().elidedText(one.words, Qt.TextElideMode.ElideRight, 270))
        words.setObjectName("faint")
        for label in (title, words):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(label)
        self.setMinimumHeight(42)
