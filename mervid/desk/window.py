"""The window: track list at the left, the stage in the middle, the transport along the bottom, words in between."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ..core.model import preparation
from ..core.model.tempo_range import TempoRange
from ..formats import exchange
from ..store.batch import Outcome
from ..store.library import READY
from .commands.finder import Edits, Finder, KeySheet, fill_menu
from .commands.table import ALIGN, COMMANDS, PHRASE_STAGE, Command
from .session.open_track import Workbench
from .sound.player import Player
from .stages.align.stage import AlignStage
from .stages.phrase.stage import PhraseStage
from .theme import style
from .theme.palette import DAY, NIGHT
from .theme.style import Theme, icon
from .widgets import file_dialogs, tempo_range_menu
from .widgets.batch_report import BatchReport
from .widgets.parts import Empty, KeepKeys, Note
from .widgets.track_list import TrackList
from .widgets.transport import Transport

STAGES = (
    ("Align", "Tempo, pins, downbeats, drift (F2)"),
    ("Phrase", "The form of the track, cues, loops, recipes (F3)"),
)


class Window(QMainWindow):
    """Everything on one desk."""

    def __init__(self, bench: Workbench, player: Player) -> None:
        super().__init__()
        self.bench, self.player = bench, player
        self._stage = 0
        self.setWindowTitle("Mervid")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(960, 600)
        self.transport = Transport()
        self.align = AlignStage(bench, player, self.transport)
        self.phrase = PhraseStage(bench, player)
        self.list = TrackList(bench)
        self.note = Note()
        self._build()
        self._use_range(tempo_range_menu.chosen())
        self._connect()
        self._keys()
        self._own_keys()
        self.dress()
        self._shown()
        self.go_to_stage(0)
        self.first.setFocus()

    # building

    def _build(self) -> None:
        side = QFrame()
        side.setObjectName("side")
        side.setFixedWidth(218)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(4)
        head = QLabel("   TRACKS")
        head.setObjectName("heading")
        column.addWidget(head)
        column.addWidget(self.list, 1)
        self.range = QToolButton()
        self.range.setObjectName("plain")
        self.range.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.range.setToolTip("Where tempi are expected: settles half or double for new tracks, and asks about others")
        menu = QMenu(self.range)
        menu.aboutToShow.connect(
            lambda: tempo_range_menu.fill(menu, self.bench.range, "any tempo", self, self.set_range)
        )
        self.range.setMenu(menu)
        column.addWidget(self.range)
        self.first = QPushButton("Open recordings…")
        self.first.clicked.connect(self.open_dialog)
        self.pages = QStackedWidget()
        self.pages.addWidget(Empty(self.first))
        self.pages.addWidget(self.align)
        self.pages.addWidget(self.phrase)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(side)
        middle.addWidget(self.pages, 1)
        whole = QVBoxLayout()
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self._header())
        whole.addLayout(middle, 1)
        whole.addWidget(self.note)
        whole.addWidget(self.transport)
        body = QWidget()
        body.setLayout(whole)
        self.setCentralWidget(body)

    def set_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected in this program from now on."""
        tempo_range_menu.choose(wanted)
        self._use_range(wanted)

    def _use_range(self, wanted: TempoRange | None) -> None:
        self.bench.set_range(wanted)
        self.range.setText(f"Expect {wanted.text}" if wanted else "Expect any tempo")

    def _header(self) -> QFrame:
        header = QFrame()
        header.setObjectName("header")
        row = QHBoxLayout(header)
        row.setContentsMargins(14, 4, 10, 0)
        row.setSpacing(6)
        mark = QLabel("Mervid")
        mark.setObjectName("wordmark")
        row.addWidget(mark)
        row.addSpacing(24)
        self.stages = QButtonGroup(self)
        for i, (text, tip) in enumerate(STAGES):
            b = QPushButton(text)
            b.setObjectName("stage")
            b.setCheckable(True)
            b.setToolTip(tip)
            b.setAccessibleDescription(tip)
            self.stages.addButton(b, i)
            row.addWidget(b, 0, Qt.AlignmentFlag.AlignBottom)
        self.stages.idClicked.connect(self.go_to_stage)
        row.addStretch(1)
        self.buttons: dict[str, QToolButton] = {}

        def button(name: str, text: str, tip: str, act: object) -> QToolButton:
            b = QToolButton()
            b.setObjectName("plain")
            b.setText(text)
            b.setToolTip(tip)
            b.setAccessibleName(tip)
            style_ = Qt.ToolButtonStyle.ToolButtonTextBesideIcon if text else Qt.ToolButtonStyle.ToolButtonIconOnly
            b.setToolButtonStyle(style_)
            b.clicked.connect(act)  # type: ignore[arg-type]
            self.buttons[name] = b
            row.addWidget(b)
            return b

        button("open", "Open", "Open recordings (Ctrl+O)", self.open_dialog)
        button("undo", "Undo", "Undo (Ctrl+Z)", self.bench.undo)
        button("redo", "Redo", "Redo (Ctrl+Shift+Z)", self.bench.redo)
        hand_over = button("export", "Hand over", "Export or import beats", lambda: None)
        menu = QMenu(hand_over)
        keys = {exchange.JAMS: "\tCtrl+E", exchange.BEATS: "\tCtrl+Shift+E"}
        for ending, words in exchange.FORMS.items():
            menu.addAction(f"{words}…{keys.get(ending, '')}", lambda e=ending: self.export_dialog(e))
        menu.addSeparator()
        menu.addAction("Import beats, phrases, cues…\tCtrl+I", self.import_dialog)
        hand_over.setMenu(menu)
        hand_over.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button("lock", "Lock", "Lock or unlock this track (Ctrl+L)", lambda: self.align.ask("lock"))
        button("night", "", "Day or night (Ctrl+N)", self.toggle_night)
        more = button("pen", "Commands", "Everything that can be done, with its keys (/ finds, F1 lists)", lambda: None)
        menu = QMenu(more)
        menu.addAction("Find a command…\t/", self._do_find)
        menu.addAction("All keys…\tF1", self._do_keys)
        menu.addAction("All edits of this track…\tCtrl+U", self._do_history)
        menu.addSeparator()
        fill_menu(menu, self.run)
        more.setMenu(menu)
        more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        return header

    def _connect(self) -> None:
        b = self.bench
        b.said.connect(self.note.say)
        b.track_opened.connect(self._opened)
        b.shown_changed.connect(self._shown)
        b.tracks_changed.connect(self._counts)
        b.tracks_changed.connect(self._choose_page)
        self.list.chosen.connect(b.open)
        b.advice.changed.connect(
            lambda: self.keep_key.setEnabled(b.advice.opinion is not None or b.compare.look is not None)
        )
        for stage in (self.align, self.phrase):
            stage.reading.connect(self.transport.hover.setText)
        self.list.lent.connect(self._lent)
        selection = self.list.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(lambda *_: self.phrase.show_chosen_tracks(len(self.list.chosen_ids())))
        self.phrase.batch_wanted.connect(self._recipe_over_tracks)
        self.phrase.state.batch_step.connect(self._batch_step)
        self.phrase.state.batch_done.connect(self._batch_done)

    def _keys(self) -> None:
        def act(keys: str, do: object) -> QAction:
            a = QAction(self)
            a.setShortcut(QKeySequence(keys))
            a.triggered.connect(do)  # type: ignore[arg-type]
            self.addAction(a)
            return a

        by_key: dict[str, list[Command]] = {}
        for command in COMMANDS:
            by_key.setdefault(command.keys, []).append(command)
        for keys, commands in by_key.items():
            key = act(keys, lambda _=False, c=commands: self._key(c))
            if keys == "Return":
                # fields and lists have it, except while there is something to keep
                self.keep_key = key
                key.setEnabled(False)
        act("Ctrl+Y", self.bench.redo)

    def run(self, command: Command) -> None:
        """Do what a command says, in its own stage."""
        if command.window:
            getattr(self, f"_do_{command.name.replace('-', '_')}")()
            return
        if command.stage and command.stage != self.seen:
            self.go_to_stage([ALIGN, PHRASE_STAGE].index(command.stage))
        if self.seen == PHRASE_STAGE and self.phrase.can(command.name):
            self.phrase.ask(command.name, command.argument)
        else:
            self.align.ask(command.name, command.argument)

    @property
    def seen(self) -> str:
        """The stage that is seen."""
        return PHRASE_STAGE if self._stage == 1 else ALIGN

    def go_to_stage(self, number: int) -> None:
        """Show Align (0) or Phrase (1)."""
        self._stage = number
        self.align.listening.end_tour()
        self._choose_page()
        button = self.stages.button(number)
        if button is not None:
            button.setChecked(True)

    def _do_to_align(self) -> None:
        self.go_to_stage(0)

    def _do_to_phrase(self) -> None:
        self.go_to_stage(1)

    # a recipe over many tracks

    def _recipe_over_tracks(self) -> None:
        ids = self.list.chosen_ids()
        if ids:
            self.phrase.state.apply_to(ids)

    def _batch_step(self, done: int, of: int) -> None:
        if of > 3:
            self.note.say("done", f"Recipe: {done} of {of} tracks …")

    def _batch_done(self, outcomes: list[Outcome]) -> None:
        recipe = self.phrase.state.recipe
        report = BatchReport(self, recipe.name if recipe is not None else "", outcomes)
        report.taken_back.connect(self._batch_back)
        report.open()

    def _batch_back(self) -> None:
        undone, kept = self.phrase.state.take_batch_back()
        words = f"Taken back in {undone} track{'s' if undone != 1 else ''}."
        if kept:
            words += f" Changed since, so left as they are: {', '.join(kept[:4])}{' …' if len(kept) > 4 else ''}."
        self.note.say("done", words)

    def _do_play(self) -> None:
        self._space()

    def _lent(self, full: int, borrower: int) -> None:
        """One track was dragged onto another: borrow its grid."""
        self.bench.open(borrower)
        self.align.ask("borrow", full)

    def _do_click(self) -> None:
        self.transport.click.toggle()

    def _do_next_beat(self) -> None:
        self.transport.next_pattern()

    def _do_split(self) -> None:
        self.transport.split.toggle()

    def _do_beat_halves(self) -> None:
        self.transport.toggle_halves()

    def _do_loop(self) -> None:
        self.align.listening.toggle_loop()

    def _do_loop_longer(self) -> None:
        self.align.listening.step_length(1)

    def _do_loop_shorter(self) -> None:
        self.align.listening.step_length(-1)

    def _do_half_speed(self) -> None:
        self.align.listening.toggle_half()

    def _do_home(self) -> None:
        self.player.seek(0.0)

    def _do_end(self) -> None:
        self.player.seek(self.player.duration)

    def _do_open(self) -> None:
        self.open_dialog()

    def _do_export(self) -> None:
        self.export_dialog(".jams")

    def _do_export_beats(self) -> None:
        self.export_dialog(".beats.txt")

    def _do_import(self) -> None:
        self.import_dialog()

    def _do_undo(self) -> None:
        self.bench.undo()

    def _do_redo(self) -> None:
        self.bench.redo()

    def _do_night(self) -> None:
        self.toggle_night()

    def _do_keys(self) -> None:
        KeySheet(self, self.seen).open()

    def _do_find(self) -> None:
        finder = Finder(self)
        finder.chosen.connect(self.run)
        finder.open()

    def _do_history(self) -> None:
        t = self.bench.track
        if t is not None:
            names, done = self.bench.library.names(t.id)
            edits = Edits(self, names, done)
            edits.chosen.connect(self.bench.go_to_edit)
            edits.open()

    def _space(self) -> None:
        """Play or pause; on a button that Tab has reached, press it."""
        focus = QApplication.focusWidget()
        if isinstance(focus, QAbstractButton):
            focus.click()
        else:
            self.player.toggle()

    def _own_keys(self) -> None:
        """Lists and sliders keep the keys they move by; a click on a button doesn't take Space away from playing."""
        move = {Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End}
        edit = {Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Return, Qt.Key.Key_Escape}
        for widget, keys in (
            (self.list, move | edit),
            (self.align.readings.cues, move | edit),
            (self.phrase.panel.cues, move | edit),
            *((t, move | edit) for t in (self.align.tables.pins, self.align.tables.bars, self.align.tables.spots)),
            *((s.slider, move | {Qt.Key.Key_Left, Qt.Key.Key_Right}) for s in self.align.readings.tolerances),
            (self.transport.balance, move | {Qt.Key.Key_Left, Qt.Key.Key_Right}),
        ):
            widget.installEventFilter(KeepKeys(widget, keys))
        for button in self.findChildren(QAbstractButton):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def _key(self, commands: list[Command]) -> None:
        here = [c for c in commands if c.window or c.stage in ("", self.seen)]
        if not here and commands[0].keys in ("Escape", "Return"):
            return
        if not here:
            other = commands[0]
            place = "Align" if other.stage == ALIGN else "Phrase"
            self.note.say("refused", f"In {place}, {other.keys} is: {other.words[0].lower()}{other.words[1:]}.")
            return
        # what belongs to the stage that is seen goes before what is known everywhere
        command = min(here, key=lambda c: c.stage != self.seen)
        # letters belong to a text field while one is being typed in
        if command.window or not isinstance(QApplication.focusWidget(), QLineEdit | QPlainTextEdit):
            self.run(command)

    # showing

    def dress(self) -> None:
        """Draw icons in the palette in force."""
        for name, b in self.buttons.items():
            file = name if name != "lock" else "lock" if self.bench.preparation.locked else "unlock"
            b.setIcon(icon(file, Theme.palette.ink, 18))
        self.transport.dress(self.player.playing)

    def toggle_night(self) -> None:
        """Swap paper for slate."""
        self.set_night(Theme.palette is DAY)

    def set_night(self, night: bool) -> None:
        """Use the night or the day palette, and remember it."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            style.apply(app, NIGHT if night else DAY)
        QSettings().setValue("night", night)
        self.dress()
        self.update()

    def _choose_page(self) -> None:
        page = 1 + self._stage if self.list.tracks.rows else 0
        for b in self.stages.buttons():
            b.setEnabled(page > 0)
        if page != self.pages.currentIndex():
            self.pages.setCurrentIndex(page)
            (self.first, self.align.fold, self.phrase.ladder)[page].setFocus()

    def _counts(self) -> None:
        waiting = sum(self.list.tracks.state_of(t)[1] in ("", preparation.DRAFT) for t in self.list.tracks.rows)
        bare = sum(t.state == READY and not self.list.tracks.has_cues(t) for t in self.list.tracks.rows)
        for i, (count, why) in enumerate(((waiting, "not checked yet"), (bare, "without cues"))):
            button, (text, tip) = self.stages.button(i), STAGES[i]
            if button is not None:
                button.setText(f"{text}   {count}" if count else text)
                button.setToolTip(f"{tip}. {count} track{'s are' if count != 1 else ' is'} {why}")

    def _opened(self) -> None:
        self._shown()
        t = self.bench.track
        self.setWindowTitle(f"{t.title} – Mervid" if t else "Mervid")
        if t is not None and not t.delay_known:
            self.note.say(
                "done", f"{t.title} does not say its encoder's delay: other programs may place time zero 25 ms off."
            )

    def _shown(self) -> None:
        b = self.bench
        self.transport.show_position(self.player.position, b.shown, b.form)
        if b.shown is not b.preparation:
            return
        for name, words in (("undo", b.undo_name), ("redo", b.redo_name)):
            button = self.buttons[name]
            button.setEnabled(words is not None)
            tip = f"{name.capitalize()}: {words}" if words else f"Nothing to {name}"
            button.setToolTip(tip)
        lock = self.buttons["lock"]
        lock.setText("Unlock" if b.preparation.locked else "Lock")
        lock.setEnabled(b.preparation.grid is not None)
        self.buttons["export"].setEnabled(b.track is not None)
        lock.setIcon(icon("lock" if b.preparation.locked else "unlock", Theme.palette.ink, 18))

    # files

    def open_dialog(self) -> None:
        """Choose recordings to open."""
        file_dialogs.open_recordings(self, self.bench)

    def export_dialog(self, ending: str) -> None:
        """Choose where to write the open track, in the form that `ending` asks for."""
        file_dialogs.hand_over(self, self.bench, ending)

    def import_dialog(self) -> None:
        """Choose a file of beats."""
        file_dialogs.take(self, self.bench)

    def dragEnterEvent(self, e: QDragEnterEvent | None) -> None:
        mime = e.mimeData() if e is not None else None
        if e is not None and mime is not None and mime.hasUrls():
            e.acceptProposedAction()

    def dropEvent(self, e: QDropEvent | None) -> None:
        mime = e.mimeData() if e is not None else None
        if e is None or mime is None:
            return
        paths = file_dialogs.dropped_paths(mime.urls())
        if paths:
            self.bench.intake.add_files(paths)
            e.acceptProposedAction()
        else:
            self.note.say("problem", "There is no recording in what was dropped.")

    def closeEvent(self, e: QCloseEvent | None) -> None:
        QSettings().setValue("geometry", self.saveGeometry())
        self.phrase.state.stop()
        self.align.borrowing.close()
        self.player.close()
        self.bench.close()
        super().closeEvent(e)
