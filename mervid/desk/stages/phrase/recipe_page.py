"""A recipe in words: one sentence a rule, with what became of it on this track at its end."""

from __future__ import annotations

import attrs
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ....core.cues import cue_edits, recipes
from ....core.cues.recipes import Line, Recipe, Rule, Told
from ....core.errors import Refused
from ....core.form.phrase_edits import bar_of
from ....core.model.beatgrid import Grid
from ....core.model.cue import KINDS, SLOTS
from ...theme.tr import tr
from ...theme.words import Elided, Words
from ...widgets.choice import Arrowed, Choice
from ...widgets.parts import restyle
from ...widgets.text_fields import TextField

PLACES = (
    "first downbeat", "half of the intro", "first vocal", "first verse", "each chorus", "first break", "the drop",
    "the outro", "half of the outro", "16 bars before the drop", "every 16 bars from the first downbeat", "last 8 bars",
)  # fmt: skip
SURE = (
    ("any role", 0.0),
    ("if 50 % sure", 0.5),
    ("if 60 % sure", 0.6),
    ("if 70 % sure", 0.7),
    ("if 80 % sure", 0.8),
    ("if 90 % sure", 0.9),
)


class RuleRow(QFrame):
    """One rule as a sentence."""

    changed = pyqtSignal()
    removed = pyqtSignal()

    def __init__(self, rule: Rule) -> None:
        super().__init__()
        self.rule = rule
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.what = Choice(tr("What"), cue_edits.CUE_ROLES, tr("What the cue is for"))
        self.what.show_text(rule.what)
        self.where = Arrowed()
        self.where.setEditable(True)
        self.where.addItems(PLACES)
        self.where.setAccessibleName(tr("Where"))
        self.where.setToolTip(tr("Where, in words: the drop, each chorus, half of the intro, 4 bars before the drop …"))
        self.where.setCurrentText(rule.where)
        self.where.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.where.setMinimumContentsLength(13)
        self.kind = Choice(tr("As"), KINDS, tr("Hot, standby or both"))
        self.kind.show_text(rule.kind)
        self.slot = Choice(
            tr("Slot"),
            (tr("any slot"), *(tr("slot {0}").format(n + 1) for n in range(SLOTS))),
            tr("Which hot cue it becomes"),
        )
        self.slot.setCurrentIndex(rule.slot)
        loops = tuple(tr("no loop") if n == 0 else tr("loop {0}").format(n) for n in cue_edits.LOOPS)
        self.loop = Choice(tr("Loop"), loops, tr("A loop that begins there"))
        self.loop.setCurrentIndex(cue_edits.LOOPS.index(rule.loop) if rule.loop in cue_edits.LOOPS else 0)
        self.outcome = Elided()
        self.outcome.setMinimumWidth(70)
        self.away = QPushButton("×")
        self.away.setObjectName("plain")
        self.away.setAccessibleName(tr("Take this rule out"))
        self.away.setToolTip(tr("Take this rule out of the recipe"))
        self.away.clicked.connect(self.removed)
        for word, widget, stretch in (
            (tr("Put"), self.what, 0),
            ("at", self.where, 2),
            ("as", self.kind, 0),
            ("", self.slot, 0),
            ("", self.loop, 0),
            ("", self.outcome, 2),
            ("", self.away, 0),
        ):
            if word:
                label = Words(word)
                label.setObjectName("faint")
                row.addWidget(label)
            row.addWidget(widget, stretch)
        for widget, width in ((self.what, 98), (self.kind, 82), (self.slot, 82), (self.loop, 82), (self.away, 28)):
            widget.setFixedWidth(width)
        for choice in (self.what, self.kind, self.slot, self.loop):
            choice.activated.connect(self._read)
        self.where.activated.connect(self._read)
        edit = self.where.lineEdit()
        if edit is not None:
            edit.editingFinished.connect(self._read)

    def _read(self) -> None:
        kind = self.kind.currentText()
        rule = attrs.evolve(
            self.rule,
            what=self.what.currentText(),
            where=self.where.currentText().strip(),
            kind=kind,
            slot=0 if kind == "standby" else self.slot.currentIndex(),
            loop=cue_edits.LOOPS[self.loop.currentIndex()],
        )
        if rule == self.rule:
            return
        try:
            recipes.check(rule)
        except Refused as e:
            self.say(str(e), wrong=True)
            return
        self.rule = rule
        self.slot.setCurrentIndex(rule.slot)
        self.changed.emit()

    def say(self, text: str, *, wrong: bool) -> None:
        """What became of this rule."""
        self.outcome.setObjectName("warn" if wrong else "faint")
        restyle(self.outcome)
        self.outcome.say(text)


class RecipePage(QWidget):
    """Emits the recipe whenever a rule changes, and what is wanted of it."""

    changed = pyqtSignal(object)
    saved = pyqtSignal(object)
    opened = pyqtSignal()
    habit_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.recipe: Recipe | None = None
        self.rows: list[RuleRow] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 4)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.setSpacing(6)
        self.name = TextField()
        self.name.setAccessibleName(tr("Name of the recipe"))
        self.name.setFixedWidth(170)
        self.name.finished.connect(lambda _: self._named())
        head.addWidget(self.name)
        for text, tip, act in (
            (tr("Add a rule"), tr("One more sentence at the end"), self.add),
            (tr("Save"), tr("Keep it among your own recipes, under this name"), self._save),
            (tr("From a file…"), tr("Take a recipe from a TOML file"), self.opened.emit),
            (
                tr("From my cues…"),
                tr("Read a recipe from the cues that you set by hand (Alt+A)"),
                self.habit_wanted.emit,
            ),
        ):
            b = QPushButton(text)
            b.setToolTip(tip)
            b.clicked.connect(act)
            head.addWidget(b)
        self.sure = Choice(
            tr("Sure"), tuple(words for words, _ in SURE), tr("How likely a role must be for a cue to stand there")
        )
        self.sure.activated.connect(self._emit)
        head.addWidget(self.sure)
        self.about = Elided()
        self.about.setObjectName("faint")
        # it takes what room is left, and asks for none
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        head.addWidget(self.about, 1)
        column.addLayout(head)
        self.body = QWidget()
        self.body.setObjectName("paper")
        self.lines = QVBoxLayout(self.body)
        self.lines.setContentsMargins(0, 0, 0, 0)
        self.lines.setSpacing(3)
        self.lines.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(self.body)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(scroll, 1)

    def show_recipe(self, recipe: Recipe | None) -> None:
        """Write a recipe's sentences, unless they stand there already."""
        if recipe == self.recipe:
            return
        same = self.recipe is not None and recipe is not None and recipe.rules == tuple(r.rule for r in self.rows)
        self.recipe = recipe
        if recipe is None:
            return
        self.name.show_text(recipe.name)
        self.about.say(recipe.about)
        self.sure.setCurrentIndex(min(range(len(SURE)), key=lambda k: abs(SURE[k][1] - recipe.sure)))
        if same:
            return
        for row in self.rows:
            self._drop(row)
        self.rows = []
        for rule in recipe.rules:
            self._row(rule)

    def _drop(self, row: RuleRow) -> None:
        # it goes in the next turn of the event loop, and must not be seen until then
        row.hide()
        self.lines.removeWidget(row)
        row.deleteLater()

    def _row(self, rule: Rule) -> None:
        row = RuleRow(rule)
        row.changed.connect(self._emit)
        row.removed.connect(lambda r=row: self._remove(r))
        self.rows.append(row)
        self.lines.insertWidget(self.lines.count() - 1, row)

    def add(self) -> None:
        """One more rule."""
        self._row(Rule("own", tr("first downbeat")))
        self._emit()

    def _remove(self, row: RuleRow) -> None:
        if len(self.rows) > 1:
            self.rows.remove(row)
            self._drop(row)
            self._emit()

    def _named(self) -> None:
        if self.recipe is not None and self.name.text().strip():
            self._emit()

    def _made(self) -> Recipe | None:
        if self.recipe is None:
            return None
        name = self.name.text().strip()[:80] or self.recipe.name
        chosen, now = SURE[self.sure.currentIndex()][1], self.recipe.sure
        # a chance from a file that stands between two of these stays as it is
        sure = now if chosen == min((x for _, x in SURE), key=lambda x: abs(x - now)) else chosen
        return attrs.evolve(self.recipe, name=name, rules=tuple(r.rule for r in self.rows), sure=sure)

    def _emit(self) -> None:
        made = self._made()
        if made is not None and made != self.recipe:
            self.recipe = made
            self.changed.emit(made)

    def _save(self) -> None:
        made = self._made()
        if made is not None:
            self.saved.emit(made)

    def show_told(self, told: Told | None, grid: Grid | None, origin: float | None) -> None:
        """At the end of each sentence: where its cues come to stand on this track, or why they don't."""
        for row, line in zip(self.rows, told.lines if told is not None else (), strict=False):
            text, wrong = _outcome(line, grid, origin)
            row.say(text, wrong=wrong)


def _outcome(line: Line, grid: Grid | None, origin: float | None) -> tuple[str, bool]:
    if grid is None:
        return "", False
    bars = ", ".join(bar_of(grid, b, origin) for b in line.placed[:4])
    more = tr(" and {0} more").format(len(line.placed) - 4) if len(line.placed) > 4 else ""
    where = tr("bar {0}{1}").format(bars, more) if line.placed else ""
    text = "; ".join(x for x in (where, line.problem) if x)
    return text, bool(line.problem and not line.placed)
