"""The panel at the right of Align: what the grid achieves, the two ways to fit it, work by hand, and cues."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....core.edits import grid_edits
from ....core.figures import share
from ....core.findings.report import Report
from ....core.fitting.drift import Summary
from ....core.model import preparation
from ....core.model.hints import ALIKE, EVEN, QUIET, TEMPO
from ....core.model.preparation import Preparation
from ....core.model.tolerance import Tolerance
from ....jobs.fitter import FOLLOW, STEADY, Offer
from ...theme.figures import achieves, clock, ms, tempo
from ...theme.tr import marked, tr
from ...theme.words import Words
from ...widgets.parts import heading, restyle
from ...widgets.text_fields import TextField
from ..frame import Keys, Panel
from .ear_leaf import EarLeaf
from .findings_list import FindingsList
from .pieces import Cues, FitCard, Notes, ToleranceSlider

ZONES, ELSEWHERE = marked("Mix zones"), marked("Elsewhere")


class AlignPanel(Panel):
    """Emits `asked(name, argument)` for everything that can be pressed; the stage knows what it means."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self._keys = keys
        column = self.body(6)
        self._readings(column)
        self._findings(column)
        self._fits(column)
        self._pages(column)
        self._readiness(column)

    def _button(self, text: str, name: str, argument: object = None, tip: str = "") -> QPushButton:
        b = QPushButton(text)
        b.setMinimumWidth(36)
        b.setToolTip(tip)
        b.clicked.connect(lambda: self.asked.emit(name, argument))
        return b

    def _readings(self, column: QVBoxLayout) -> None:
        self.title = Words("")
        self.title.setObjectName("title")
        self.title.setWordWrap(True)
        self.verdict = Words("")
        self.verdict.setWordWrap(True)
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        column.addWidget(self.title)
        column.addWidget(self.verdict)
        table = QGridLayout()
        table.setVerticalSpacing(2)
        table.setHorizontalSpacing(8)
        for c, text in enumerate(("ERROR", "TYPICAL", "WORST", "ALLOWED")):
            table.addWidget(heading(text), 0, c, Qt.AlignmentFlag.AlignLeft if c == 0 else Qt.AlignmentFlag.AlignRight)
        self.cells: dict[tuple[str, str], Words] = {}
        for r, row in enumerate((ZONES, ELSEWHERE), 1):
            table.addWidget(Words(tr(row)), r, 0)
            for c, name in enumerate(("typical", "worst", "allowed"), 1):
                cell = Words("–")
                self.cells[row, name] = cell
                table.addWidget(cell, r, c, Qt.AlignmentFlag.AlignRight)
        table.setColumnStretch(0, 1)
        column.addLayout(table)

    def _findings(self, column: QVBoxLayout) -> None:
        column.addSpacing(2)
        self.findings_heading = heading(tr("FINDINGS"))
        column.addWidget(self.findings_heading)
        self.findings = FindingsList()
        self.findings.chosen.connect(lambda f: self.asked.emit("go-to", f))
        self.findings.looked.connect(lambda f: self.asked.emit("look-at", f))
        self.findings.used.connect(lambda f: self.asked.emit("fix", f))
        column.addWidget(self.findings, 1)

    def _fits(self, column: QVBoxLayout) -> None:
        column.addWidget(heading(tr("FIT THE GRID")))
        self.steady = FitCard(tr("One steady tempo"), "S")
        self.follow = FitCard("Follow", "F")
        row = QHBoxLayout()
        row.setSpacing(6)
        for card, name in ((self.steady, STEADY), (self.follow, FOLLOW)):
            card.clicked.connect(lambda _=False, n=name: self.asked.emit("fit", n))
            row.addWidget(card, 1)
        column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.tolerances: list[ToleranceSlider] = []
        for name, words in (("mix", tr("in the mix zones")), ("else", "elsewhere")):
            slider = ToleranceSlider(name, words)
            slider.moved.connect(lambda: self.asked.emit("tolerance-tried", self.tolerance))
            slider.placed.connect(lambda: self.asked.emit("tolerance-set", self.tolerance))
            self.tolerances.append(slider)
            row.addWidget(slider, 1)
        column.addLayout(row)

    @property
    def tolerance(self) -> tuple[float, float]:
        """What the two sliders say, ms."""
        tight, loose = (float(s.value) for s in self.tolerances)
        return tight, max(tight, loose)

    def show_tolerance(self, p: Preparation) -> None:
        """Set the sliders to what is saved."""
        for slider, value in zip(self.tolerances, (p.tolerance.tight, p.tolerance.loose), strict=True):
            slider.show_value(value)

    def show_tried(self, tolerance: Tolerance, offer: Offer) -> None:
        """On the card of following: what it would give within another tolerance."""
        if (tolerance.tight, tolerance.loose) == self.tolerance and offer.preparation is not None:
            grid = offer.preparation.grid
            if grid is not None:
                self.follow.say(
                    tr("within {0:g}, {1:g} ms: {2} pins\n{3}").format(
                        tolerance.tight, tolerance.loose, len(grid.pins), achieves(offer.summary)
                    )
                )

    def _pages(self, column: QVBoxLayout) -> None:
        """Work by hand, on a part, the cues, a note: leaves in one place."""
        column.addSpacing(2)
        self.leaves = QStackedWidget()
        head = QHBoxLayout()
        head.setSpacing(4)
        group = QButtonGroup(self)
        self.leaf_buttons: list[QPushButton] = []
        self.leaf_names = ["HAND", "PART", "CUES", "NOTE", "EAR"]
        for i, (text, build, tip) in enumerate(
            (
                ("HAND", self._by_hand, tr("Work by hand")),
                ("PART", self._part, tr("The chosen part")),
                ("CUES", self._cues, tr("Hot cues")),
                ("NOTE", self._notes, tr("A note of your own")),
                ("EAR", self._ear, tr("Work by ear")),
            )
        ):
            b = QPushButton(text)
            b.setObjectName("leaf")
            b.setCheckable(True)
            b.setChecked(i == 0)
            b.setAccessibleName(tip)
            b.setToolTip(tr("{0} (W changes)").format(tip))
            group.addButton(b, i)
            self.leaf_buttons.append(b)
            head.addWidget(b)
            leaf = QWidget()
            inner = QVBoxLayout(leaf)
            inner.setContentsMargins(0, 0, 0, 0)
            inner.setSpacing(5)
            build(inner)
            self.leaves.addWidget(leaf)
        head.addStretch(1)
        group.idClicked.connect(self.turn_to)
        column.addLayout(head)
        self.leaves.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        column.addWidget(self.leaves)
        self.turn_to(0)

    def turn_to(self, leaf: int) -> None:
        """Show the tools (0), those for a part (1), the cues (2), the note (3) or the tools for the ear (4)."""
        # the leaf that is seen takes its own room only: what is free belongs to the findings
        for i in range(self.leaves.count()):
            page = self.leaves.widget(i)
            if page is not None:
                fit = QSizePolicy.Policy.Preferred if i == leaf else QSizePolicy.Policy.Ignored
                page.setSizePolicy(QSizePolicy.Policy.Preferred, fit)
        self.leaves.setCurrentIndex(leaf)
        self.leaves.updateGeometry()
        self.leaf_buttons[leaf].setChecked(True)

    def _row(self, column: QVBoxLayout, items: tuple[tuple[str, str, object, str], ...], label: str = "") -> None:
        """A row of buttons: text, request, argument, and what it does."""
        row = QHBoxLayout()
        row.setSpacing(4)
        if label:
            words = Words(label)
            words.setObjectName("faint")
            row.addWidget(words)
        for text, name, argument, tip in items:
            key = self._keys(name, argument)
            row.addWidget(self._button(text, name, argument, f"{tip} ({key})" if key else tip))
        column.addLayout(row)

    def _by_hand(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.tempo = TextField(waits=True)
        self.tempo.setPlaceholderText(tr("BPM"))
        self.tempo.setAccessibleName(tr("Tempo in BPM"))
        self.tempo.setToolTip(
            tr("Type a tempo and press Enter: one steady tempo, kept in place at the first hand pin (T)")
        )
        self.tempo.setMaximumWidth(80)
        self.tempo.finished.connect(lambda text: self.asked.emit("tempo", text))
        row.addWidget(self.tempo)
        row.addWidget(self._button(tr("Set"), "tempo-typed", None, tr("Use the typed tempo")))
        row.addWidget(
            self._button(tr("Whole"), "round", None, tr("Round to a whole number; the cost is shown (Shift+T)"))
        )
        row.addWidget(self._button(tr("2 points"), "two-points", None, tr("Mark an early and a late downbeat (Alt+D)")))
        column.addLayout(row)
        self._row(column, (
            ("÷ 2", "edit", grid_edits.halve, tr("Count every second beat")),
            ("× 2", "edit", grid_edits.double, tr("Count twice as many beats")),
            (tr("3 for 2"), "edit", grid_edits.three_for_two, tr("Count three beats for two")),
            (tr("2 for 3"), "edit", grid_edits.two_for_three, tr("Count two beats for three")),
        ), "Count")  # fmt: skip
        self._row(column, (
            ("−½", "slide-beats", -0.5, tr("Move the whole grid half a beat earlier")),
            ("−10", "slide", -10.0, tr("Move the whole grid 10 ms earlier")),
            ("−1", "slide", -1.0, tr("Move the whole grid 1 ms earlier")),
            ("+1", "slide", 1.0, tr("Move the whole grid 1 ms later")),
            ("+10", "slide", 10.0, tr("Move the whole grid 10 ms later")),
            ("+½", "slide-beats", 0.5, tr("Move the whole grid half a beat later")),
        ), "Slide")  # fmt: skip
        self._row(column, (
            (tr("Beat here"), "beat", None, tr("The attack at the playhead is a beat: listen again")),
            (tr("Bar here"), "downbeat", None, tr("The beat at the playhead begins a bar")),
            ("Pin", "pin", None, tr("Tie the nearest beat to the attack at the playhead")),
            ("Unpin", "unpin", None, tr("Remove the chosen pin, or the nearest")),
        ))  # fmt: skip
        self._row(column, (
            (tr("Bar 1 here"), "count-from", None, tr("Call the bar at the playhead bar 1: no instant moves")),
            (tr("Count anew here"), "restart", None, tr("A bar begins here, the one before may be odd")),
        ))  # fmt: skip

    def _part(self, column: QVBoxLayout) -> None:
        """What can be done to a chosen part."""
        row = QHBoxLayout()
        row.setSpacing(4)
        self.part_edges = (TextField(waits=True), TextField(waits=True))
        for edit, name in zip(self.part_edges, ("begins", "ends"), strict=True):
            edit.setAccessibleName(tr("The part {0} at").format(name))
            edit.setToolTip(tr("Where the part {0}: type such as 1:23.4 and press Enter").format(name))
            edit.setMaximumWidth(112)
            edit.setPlaceholderText(tr("beginning") if name == "begins" else tr("end"))
            edit.finished.connect(lambda _: self._finish_part())
            row.addWidget(edit)
        row.addWidget(self._button(tr("All"), "part-whole", None, tr("Let go of the part: the whole track (Esc)")))
        column.addLayout(row)
        self._row(column, (
            (tr("Near tempo"), "part", TEMPO, tr("Listen again with tempi near the typed one")),
            ("Even", "part", EVEN, tr("Listen again: one steady tempo in this part")),
            (tr("No beats"), "part", QUIET, tr("Listen again: nothing is a beat in this part")),
            (tr("Count on"), "part", ALIKE, tr("Bars of this part count on from what comes before")),
        ))  # fmt: skip
        self._row(column, (
            ("beat", "pin-every", "beat", tr("A hand pin on every beat heard in the part")),
            ("bar", "pin-every", "1", tr("A hand pin on every bar of the part")),
            ("2 bars", "pin-every", "2", tr("A hand pin on every second bar of the part")),
            ("4 bars", "pin-every", "4", tr("A hand pin on every fourth bar of the part")),
        ), tr("Pin every"))  # fmt: skip
        self._row(column, (
            (tr("Follow it"), "follow-part", None, tr("The fewest pins within tolerance, in the part only")),
            (tr("Own tempo"), "own-tempo", None, tr("One steady tempo for the part, as it is heard; Shift+L types it")),
            ("Ramp", "ramp", None, tr("From one tempo to another over the part")),
        ))  # fmt: skip
        self._row(column, (
            ("Pause", "pause", None, tr("No beats run in the part")),
            (tr("Mix zone"), "zone", None, tr("The part is a mix zone, or is no longer one")),
        ))  # fmt: skip
        self.show_part(None)

    def _finish_part(self) -> None:
        for edit in self.part_edges:
            edit.forget()
        self.asked.emit("part-typed", tuple(edit.text() for edit in self.part_edges))

    def show_part(self, part: tuple[float, float] | None) -> None:
        """Say which part the buttons are about."""
        for edit, at in zip(self.part_edges, part or (None, None), strict=True):
            edit.show_text("" if at is None else clock(at, digits=2))
        self.leaf_names[1] = "PART •" if part else "PART"
        self._name_leaves()

    def _name_leaves(self) -> None:
        for b, name in zip(self.leaf_buttons, self.leaf_names, strict=False):
            b.setText(name)

    def _notes(self, column: QVBoxLayout) -> None:
        self.notes = Notes()
        self.notes.finished.connect(lambda text: self.asked.emit("write-notes", text))
        column.addWidget(self.notes, 1)

    def _ear(self, column: QVBoxLayout) -> None:
        self.ear = EarLeaf(self._keys)
        self.ear.asked.connect(self.asked)
        column.addWidget(self.ear)

    def _cues(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        hint = Words(tr("Enter jumps, Shift+Enter renames"))
        hint.setObjectName("faint")
        row.addWidget(hint)
        row.addStretch(1)
        add = self._button(
            tr("Set cue"), "cue-pressed", None, tr("On the nearest downbeat (C); just here with Shift (Shift+C)")
        )
        row.addWidget(add)
        column.addLayout(row)
        self.cues = Cues()
        self.cues.jumped.connect(lambda i: self.asked.emit("jump", i))
        self.cues.renamed.connect(lambda i, n: self.asked.emit("rename", (i, n)))
        self.cues.deleted.connect(lambda i: self.asked.emit("delete", i))
        column.addWidget(self.cues, 1)

    def _readiness(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.setSpacing(0)
        self.ready: dict[str, QPushButton] = {}
        tips = {
            preparation.DRAFT: tr("Analysis or a hand is still at work"),
            preparation.CHECKED: tr("You looked at it and it is right"),
            preparation.LOCKED: tr("Safe to play: nothing changes until you unlock it (Ctrl+L)"),
        }
        for name in preparation.READINESS:
            b = self._button(name.capitalize(), "readiness", name, tips[name])
            b.setCheckable(True)
            self.ready[name] = b
            row.addWidget(b)
        column.addLayout(row)

    # what is shown

    def show_reading(self, title: str, p: Preparation, summary: Summary | None, kind: str, waiting: str) -> None:
        """Fill in everything but the fits and findings."""
        self.title.setText(title)
        self.cues.fill(p)
        self.leaf_names[2] = tr("CUES {0}").format(len(p.cues)) if p.cues else "CUES"
        self.leaf_names[3] = "NOTE •" if p.notes else "NOTE"
        self._name_leaves()
        self.notes.show_text(p.notes)
        self.show_tolerance(p)
        self.show_readiness(p.readiness)
        for b in self.ready.values():
            b.setEnabled(p.grid is not None)
        for (row, name), cell in self.cells.items():
            cell.setText(self._cell(row, name, p, summary))
        for row, worst, limit in (
            (ZONES, summary.worst_tight if summary else None, p.tolerance.tight),
            (ELSEWHERE, summary.worst_loose if summary else None, p.tolerance.loose),
        ):
            cell = self.cells[row, "worst"]
            cell.setObjectName("warn" if worst is not None and worst > limit else "")
            restyle(cell)
        self.tempo.show_text(f"{p.grid.tempo_overall():.3f}" if p.grid else "")
        self.verdict.setText(waiting or verdict(p, summary, kind))

    def show_readiness(self, readiness: str) -> None:
        """Which of draft, checked and locked the track is."""
        for name, b in self.ready.items():
            b.setChecked(readiness == name)

    @staticmethod
    def _cell(row: str, name: str, p: Preparation, s: Summary | None) -> str:
        tight = row == ZONES
        if name == "allowed":
            return f"{p.tolerance.tight if tight else p.tolerance.loose:.0f} ms"
        if s is None:
            return "–"
        return ms(getattr(s, f"{name}_{'tight' if tight else 'loose'}"))

    def show_offers(self, offers: dict[str, Offer], current: Preparation) -> None:
        """Say on both cards what they would achieve, and check the one the grid is."""
        for name, card in ((STEADY, self.steady), (FOLLOW, self.follow)):
            offer = offers.get(name)
            same = offer is not None and offer.preparation is not None and offer.preparation.grid == current.grid
            card.setChecked(same)
            if offer is None:
                card.say("")
            elif offer.preparation is None or offer.preparation.grid is None:
                card.say(tr("not possible here:\npress to see why"))
            else:
                grid = offer.preparation.grid
                card.say(tr("{0}, {1} pins\n{2}").format(tempo(grid), len(grid.pins), achieves(offer.summary)))

    def show_report(self, report: Report, fresh: bool, waiting: str) -> None:
        """Fill in the findings; their fixes can be taken while they are fresh."""
        doubts = report.doubts
        words = tr("FINDINGS   {0} to decide").format(doubts) if doubts else "FINDINGS"
        self.findings_heading.setText(words)
        self.findings.fill(report.findings, waiting)
        self.findings.set_fresh(fresh)


def verdict(p: Preparation, s: Summary | None, kind: str = "") -> str:
    """What kind of time the recording keeps, and how the grid stands to it."""
    if p.grid is None:
        return tr("No grid yet. Type a tempo, or set pins.")
    hand = sum(q.hand for q in p.grid.pins)
    pins = tr("{0} pins").format(len(p.grid.pins)) + (tr(" ({0} by hand)").format(hand) if hand else "")
    begin = f"{kind.capitalize()}. " if kind else ""
    if s is None:
        return tr("{0}{1} BPM, {2}.").format(begin, tempo(p.grid), pins)
    return tr("{0}{1} BPM, {2}, {3} of the beats within tolerance.").format(begin, tempo(p.grid), pins, share(s.within))
