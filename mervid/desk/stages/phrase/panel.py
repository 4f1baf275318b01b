"""The panel at the right of Phrase: the line of words, the chosen phrase, the cues, and the recipe in hand."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRectF, Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ....core.cues import cue_edits, recipe_places, recipes
from ....core.cues.recipes import Told
from ....core.figures import semitones, share
from ....core.form import phrase_edits
from ....core.model.cue import KINDS, SLOTS, Cue
from ....core.model.form import PHRASE_ROLES, Form
from ....core.model.preparation import Preparation
from ...session.kept import Once
from ...theme.figures import clock
from ...theme.palette import letter_of, role_inks
from ...theme.style import Theme, aligned
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...views.base import small
from ...widgets.choice import Choice
from ...widgets.parts import edit_by_click_and_key, heading
from ...widgets.text_fields import TextField
from ..frame import Keys, Panel, asking

ID = Qt.ItemDataRole.UserRole
ROLE = Qt.ItemDataRole.UserRole + 1
COLUMNS = ("", "cue", "bar", "as", "loop")


class _Badge(QStyledItemDelegate):
    """Slot and letter of a cue on the hue of its role."""

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if p is None:
            return
        role = str(index.data(ROLE))
        (hue, ink), letter = role_inks(Theme.palette, role), letter_of(role)
        r = QRectF(option.rect).adjusted(2, 3, -1, -3)
        p.fillRect(r, hue)
        p.setPen(ink)
        p.setFont(small(8.5, bold=True))
        p.drawText(r, Qt.AlignmentFlag.AlignCenter, f"{index.data() or ''}{letter}")


class CueTable(QTableWidget):
    """The cues in order of time; Enter goes there, Shift+Enter renames, Delete deletes."""

    jumped = pyqtSignal(str)
    chosen = pyqtSignal(str)
    renamed = pyqtSignal(str, str)
    deleted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(0, len(COLUMNS))
        self.setObjectName("cues")
        self.setAccessibleName(tr("Cues"))
        self.setHorizontalHeaderLabels(COLUMNS)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        edit_by_click_and_key(self)
        self.setShowGrid(False)
        self.setMinimumHeight(110)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabKeyNavigation(False)
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        if rows is not None and columns is not None:
            rows.hide()
            rows.setDefaultSectionSize(25)
            columns.setHighlightSections(False)
            columns.setDefaultAlignment(aligned())
            columns.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
            self.setItemDelegateForColumn(0, _Badge(self))
            for column, width in ((0, 30), (2, 46), (3, 62), (4, 44)):
                self.setColumnWidth(column, width)
        self._filling = False
        self.itemSelectionChanged.connect(self._select)
        self.itemChanged.connect(self._change)
        self.cellDoubleClicked.connect(lambda row, column: self._emit(row, self.jumped) if column != 1 else None)

    def fill(self, p: Preparation, form: Form | None, seams: dict[str, str], chosen: str) -> None:
        """Show the cues of a preparation; `seams` has a word about each loop, `form` says how sure roles are."""
        self._filling = True
        self.setRowCount(len(p.cues))
        for row, c in enumerate(p.cues):
            at = c.at(p.grid)
            where = "free"
            if p.grid is not None and c.beat is not None:
                where = phrase_edits.place_of(p.grid, c.beat, p.origin)
            slot = str(c.slot + 1) if c.slot is not None and c.is_hot else ""
            loop = tr("{0} bars").format(c.bars) if c.bars else ""
            for column, text in enumerate((slot, c.name, where, c.kind, loop.replace(" bars", ""))):
                item = QTableWidgetItem(text)
                item.setData(ID, c.id)
                flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                item.setFlags(flags | Qt.ItemFlag.ItemIsEditable if column == 1 else flags)
                sure = recipes.chance_of(form, c)
                doubt = "" if sure >= 1 else f", {recipe_places.sure_words(sure)}"
                tip = f"{c.role}{doubt}, {clock(at, digits=3)}"
                item.setToolTip(tip_of(f"{tip}. {loop}, {seams[c.id]}" if c.id in seams else tip))
                if column == 0:
                    item.setData(ROLE, c.role)
                self.setItem(row, column, item)
        at = next((i for i, c in enumerate(p.cues) if c.id == chosen), -1)
        if at >= 0:
            self.setCurrentCell(at, 1)
        else:
            self.clearSelection()
            self.setCurrentItem(None)
        self._filling = False

    def paintEvent(self, e: QPaintEvent | None) -> None:
        super().paintEvent(e)
        port = self.viewport()
        if not self.rowCount() and port is not None:
            p = QPainter(port)
            p.setPen(Theme.palette.color("faint"))
            words = tr("No cues yet. 1 to 8 set one\nat the playhead, A applies the recipe.")
            p.drawText(port.rect(), Qt.AlignmentFlag.AlignCenter, words)
            p.end()

    def _emit(self, row: int, signal: pyqtBoundSignal) -> None:
        item = self.item(row, 1)
        if item is not None:
            signal.emit(item.data(ID))

    def _select(self) -> None:
        if not self._filling and self.currentRow() >= 0:
            self._emit(self.currentRow(), self.chosen)

    def _change(self, item: QTableWidgetItem) -> None:
        if not self._filling and item.column() == 1:
            self.renamed.emit(item.data(ID), item.text())

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and self.currentRow() >= 0 and self.state() != QAbstractItemView.State.EditingState:
            if e.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self._emit(self.currentRow(), self.deleted)
                return
            if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._emit(self.currentRow(), self.jumped)
                return
        super().keyPressEvent(e)


class PhrasePanel(Panel):
    """Emits `asked(name, argument)` for everything that can be pressed; the stage knows what it means."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self._line = Once[str]()
        self._keys = keys
        column = self.body(5)
        self._words(column)
        self._phrase(column)
        self._cues(column)
        self._recipe(column)

    def _button(self, text: str, name: str, argument: object, tip: str) -> QPushButton:
        return asking(text, name, argument, tip, self.asked, self._keys)

    def _row(self, column: QVBoxLayout, *widgets: QWidget) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        for w in widgets:
            row.addWidget(w, 1 if isinstance(w, TextField | QPushButton) else 0)
        column.addLayout(row)

    def _words(self, column: QVBoxLayout) -> None:
        self.title = Words("")
        self.title.setObjectName("title")
        column.addWidget(self.title)
        self.line = TextField()
        self.line.setAccessibleName(tr("The track in one line"))
        self.line.setToolTip(tr("The track in one line: your words, or made from its form if empty (Shift+W)"))
        self.line.finished.connect(lambda text: self.asked.emit("line-written", text))
        column.addWidget(self.line)
        self.counting: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        row.setSpacing(0)
        label = Words(tr("Bars count"))
        label.setObjectName("faint")
        row.addWidget(label)
        row.addSpacing(8)
        group = QButtonGroup(self)
        for name, text, tip in (
            ("start", tr("from bar 1"), tr("Bars count 1, 2, 3 … from the first downbeat (O changes)")),
            ("drop", tr("from the drop"), tr("The lead-in counts −16 … −1, the drop is bar 1 (O changes)")),
        ):
            b = QPushButton(text)
            b.setCheckable(True)
            b.setToolTip(tip)
            b.clicked.connect(lambda _=False, n=name: self.asked.emit("count", n))
            group.addButton(b)
            self.counting[name] = b
            row.addWidget(b)
        row.addStretch(1)
        column.addLayout(row)

    def _phrase(self, column: QVBoxLayout) -> None:
        self.phrase_heading = heading(tr("PHRASE"))
        column.addWidget(self.phrase_heading)
        self.role = Choice(tr("Role of the phrase"), PHRASE_ROLES, tr("What this phrase is for (R steps through)"))
        self.role.textActivated.connect(lambda t: self.asked.emit("role", t))
        self.letter = TextField()
        self.letter.setAccessibleName(tr("Letter of the phrase"))
        self.letter.setToolTip(tr("Phrases with the same letter are alike (Alt+R takes the next)"))
        self.letter.setMaximumWidth(44)
        self._letter_of = 0
        self.letter.finished.connect(lambda text: self.asked.emit("letter", (self._letter_of, text)))
        self._row(
            column,
            self.role,
            self.letter,
            self._button(tr("−1 bar"), "shift-start", -1, tr("Begin this phrase a bar earlier")),
            self._button(tr("+1 bar"), "shift-start", 1, tr("Begin this phrase a bar later")),
        )
        self.divide = self._button(
            tr("Section from here"), "section", None, tr("A section begins with this phrase, or goes on")
        )
        self.shut = self._button(
            tr("Close section"), "fold", None, tr("Its phrases as one row of the ladder, or each as its own")
        )
        self._row(column, self.divide, self.shut)
        self._row(
            column,
            self._button(
                tr("Split here"), "split-here", None, tr("A new phrase begins on the bar line at the playhead")
            ),
            self._button(tr("Merge up"), "merge", None, tr("Make this phrase part of the one before it")),
            self._button(tr("As heard"), "as-heard", None, tr("Forget what hands did to the phrases")),
        )
        self.reason = Words("")
        self.reason.setObjectName("faint")
        self.reason.setWordWrap(True)
        self.reason.setMinimumHeight(34)
        self.reason.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(self.reason)

    def _cues(self, column: QVBoxLayout) -> None:
        self.cue_heading = heading(tr("CUES"))
        column.addWidget(self.cue_heading)
        head = QHBoxLayout()
        head.setSpacing(4)
        label = Words(tr("At the"))
        label.setObjectName("faint")
        head.addWidget(label)
        self.snap = Choice(
            tr("Where new cues snap to"), cue_edits.SNAPS, tr("New and moved cues go to the nearest of these")
        )
        self.snap.textActivated.connect(lambda t: self.asked.emit("snap", t))
        head.addWidget(self.snap)
        head.addWidget(self._button(tr("Hot"), "cue", False, tr("Set a hot cue at the playhead")), 1)
        head.addWidget(self._button(tr("Standby"), "standby", None, tr("Set a standby cue at the playhead")), 1)
        column.addLayout(head)
        self.cues = CueTable()
        column.addWidget(self.cues, 1)
        self.cue_role = Choice(tr("Role of the cue"), cue_edits.CUE_ROLES, tr("What the chosen cue is for"))
        self.kind = Choice(
            tr("Kind of the cue"), KINDS, tr("Hot: plays at once. Standby: a player jumps there and waits")
        )
        self.slot = Choice(
            tr("Slot of the cue"), tuple(tr("slot {0}").format(n + 1) for n in range(SLOTS)), tr("Its slot")
        )
        self.loop = Choice(
            tr("Loop at the cue"),
            tuple(tr("no loop") if n == 0 else tr("loop {0}").format(n) for n in cue_edits.LOOPS),
            tr("Bars of the loop that begins here"),
        )
        self.cue_role.textActivated.connect(lambda t: self.asked.emit("cue-role", t))
        self.kind.textActivated.connect(lambda t: self.asked.emit("cue-kind", t))
        self.slot.activated.connect(lambda n: self.asked.emit("cue-slot", n))
        self.loop.activated.connect(lambda n: self.asked.emit("loop-of-cue", cue_edits.LOOPS[n]))
        self.cue_controls = (self.cue_role, self.kind, self.slot, self.loop)
        self.hear = self._button(tr("Hear it"), "hear-loop", None, tr("Go round the loop of the chosen cue"))
        for pair in ((self.cue_role, self.kind), (self.slot, self.loop, self.hear)):
            row = QHBoxLayout()
            row.setSpacing(4)
            for widget in pair:
                row.addWidget(widget, 1)
            column.addLayout(row)
        self.seam = Words("")
        self.seam.setObjectName("faint")
        column.addWidget(self.seam)

    def _recipe(self, column: QVBoxLayout) -> None:
        column.addWidget(heading(tr("CUE RECIPE")))
        self.unread = Words("")
        self.unread.setObjectName("warn")
        self.unread.setWordWrap(True)
        column.addWidget(self.unread)
        self.recipes = Choice(tr("Recipe"), (), tr("Rules that place cues by role"))
        self.recipes.activated.connect(lambda n: self.asked.emit("recipe", n))
        self.recipes.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        column.addWidget(self.recipes)
        self.all_button = self._button(
            tr("To chosen tracks"), "apply-all", None, tr("Apply it to all tracks chosen at the left")
        )
        self._row(
            column,
            self._button(tr("Apply"), "apply", None, tr("Place its cues; what a hand set stays")),
            self.all_button,
        )
        self.report = Words("")
        self.report.setObjectName("faint")
        self.report.setWordWrap(True)
        column.addWidget(self.report)

    # what is shown

    def show_track(self, title: str, p: Preparation, form: Form | None) -> None:
        """The track, its line, and how its bars are counted."""
        self.title.setText(title)
        self.line.show_text(self._line.of((p.line, p.grid, form, p.origin), lambda: phrase_edits.line_of(p, form)))
        self.line.setPlaceholderText(tr("No phrases yet"))
        self.counting["start"].setChecked(p.origin is None)
        self.counting["drop"].setChecked(p.origin is not None)

    def show_phrase(self, p: Preparation, form: Form | None, index: int, *, closed: bool = False) -> None:
        """The chosen phrase; with `closed` it stands for all of its section."""
        there = form is not None and p.grid is not None and index < len(form.phrases)
        for w in (self.role, self.letter):
            w.setEnabled(there)
        if not there or form is None or p.grid is None:
            self.phrase_heading.setText(tr("PHRASE"))
            self.reason.setText("")
            self.role.show_text("")
            return
        q = form.phrases[index]
        bars, section = phrase_edits.bars_in(p.grid, form), form.section_of(index)
        length = phrase_edits.length_words(sum(bars[section.first : section.stop]) if closed else bars[index])
        at = phrase_edits.bar_of(p.grid, q.start, p.origin)
        what = (
            tr("SECTION OF {0} PHRASES").format(len(section))
            if closed
            else tr("PHRASE {0} OF {1}").format(index + 1, len(form.phrases))
        )
        self.phrase_heading.setText(tr("{0}    BAR {1}, {2} BARS").format(what, at, length))
        self.divide.setText(tr("Section from here") if q.joins else tr("Same section"))
        self.divide.setEnabled(index > 0)
        self.shut.setText(tr("Open it") if closed else tr("Close section"))
        self.shut.setEnabled(len(section) > 1)
        self.role.show_text(q.role)
        if index != self._letter_of:
            # what was typed so far is the letter of the phrase that was selected until now
            self.letter.finish()
            self._letter_of = index
        self.letter.show_text(q.letter)
        sure = q.role.capitalize() if q.hand else f"{q.role.capitalize()}, {share(q.chance)}"
        key = tr(" The key here: {0} from the beginning.").format(semitones(q.raised)) if q.raised else ""
        self.reason.setText((f"{sure}: {q.reason}." if q.reason else f"{sure}.") + key)

    def show_cues(self, p: Preparation, form: Form | None, seams: dict[str, str], cue: Cue | None, snap: str) -> None:
        """The cues and the chosen one."""
        hot = sum(c.is_hot for c in p.cues)
        self.cue_heading.setText(
            tr("CUES   {0} hot, {1} standby").format(hot, sum(c.is_standby for c in p.cues)) if p.cues else tr("CUES")
        )
        self.cues.fill(p, form, seams, cue.id if cue is not None else "")
        self.snap.show_text(snap)
        for w in (*self.cue_controls, self.hear, self.seam):
            w.setVisible(cue is not None)
        self.hear.setEnabled(cue is not None and bool(cue.bars))
        self.seam.setText(seams.get(cue.id, "") if cue is not None else "")
        if cue is None:
            for w in self.cue_controls:
                w.show_text("")
            return
        self.cue_role.show_text(cue.role)
        self.kind.show_text(cue.kind)
        self.slot.show_text(tr("slot {0}").format(cue.slot + 1) if cue.slot is not None and cue.is_hot else "")
        self.slot.setEnabled(cue.is_hot)
        self.loop.show_text(tr("no loop") if not cue.bars else tr("loop {0}").format(cue.bars))

    def show_recipes(self, names: list[str], at: int, told: Told | None, chosen: int, unread: list[str]) -> None:
        """The recipes, the one in hand, what it would do, and why files among one's own are `unread`."""
        self.recipes.blockSignals(True)
        self.recipes.clear()
        self.recipes.addItems(names if at >= 0 else [*names, tr("(changed, not saved)")])
        self.recipes.setCurrentIndex(at if at >= 0 else len(names))
        self.recipes.blockSignals(False)
        self.show_chosen_tracks(chosen)
        more = tr(" (and {0} more)").format(len(unread) - 1) if len(unread) > 1 else ""
        self.unread.setText(tr("Left out: {0}{1}").format(unread[0], more) if unread else "")
        self.unread.setToolTip(tip_of("\n".join(unread)))
        self.unread.setVisible(bool(unread))
        if told is None:
            self.report.setText("")
            return
        text = f"Places {told.placed} cue{'s' if told.placed != 1 else ''} here"
        if told.problems:
            text += tr("; not placed: {0}").format("; ".join(told.problems[:2]))
            text += tr(" and {0} more").format(len(told.problems) - 2) if len(told.problems) > 2 else ""
        self.report.setText(text + ".")

    def show_chosen_tracks(self, count: int) -> None:
        """So many tracks are chosen in the list."""
        self.all_button.setText(tr("To {0} tracks").format(count) if count > 1 else tr("To chosen tracks"))
