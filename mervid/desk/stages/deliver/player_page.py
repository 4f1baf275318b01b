"""For a player: the target at the right, and between it and the list what would be lost and what is proposed."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from ....core.delivery.profile import Profile
from ....jobs.delivery_plan import AGAIN, SAME
from ....jobs.errands import StepSeen
from ...session.delivering import Delivering
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.choice import Choice
from ...widgets.parts import ShareDone, Switch, heading, restyle
from ...widgets.plain_table import PlainTable
from ..frame import Keys, Panel, asking

STATES = {SAME: "there already", AGAIN: "changed: again"}
COLUMNS = (("TRACK", 150), ("BECOMES", 122), ("WHAT WOULD BE LOST, AND WHAT IS DONE", 0), ("STATE", 106))


class PlayerTarget(Panel):
    """Emits `asked(name, argument)`: the player, the folder, what is done of what is proposed, and one button."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys, profiles: list[Profile]) -> None:
        super().__init__()
        column = self.body(6)
        column.addWidget(heading(tr("THE PLAYER")))
        self.player = Choice(
            tr("The player"), tuple(p.name for p in profiles), tr("Whom it is for: a profile says what it can do")
        )
        self.player.textActivated.connect(lambda name: self.asked.emit("player", name))
        column.addWidget(self.player)
        self.note = Words("")
        self.note.setWordWrap(True)
        self.note.setObjectName("faint")
        column.addWidget(self.note)
        self.able = Words("")
        self.able.setWordWrap(True)
        column.addWidget(self.able)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(
            asking(tr("Own profiles…"), "profiles", None, tr("Open the folder of your own profiles"), self.asked, keys)
        )
        row.addStretch(1)
        column.addLayout(row)
        column.addSpacing(6)
        column.addWidget(heading(tr("WHERE TO")))
        self.where = Words("")
        self.where.setWordWrap(True)
        column.addWidget(self.where)
        folder = QHBoxLayout()
        folder.addWidget(
            asking(tr("Folder or stick…"), "folder", None, tr("Choose where it is written"), self.asked, keys)
        )
        folder.addStretch(1)
        column.addLayout(folder)
        column.addSpacing(6)
        column.addWidget(heading(tr("PROPOSED")))
        self.standby = self._switch(
            tr("Keep lost hot cues as standby cues"), "standby", tr("In what is written; your cues stay")
        )
        self.straight = self._switch(
            tr("Make straight what wanders"), "make-straight", tr("Rendered at one tempo, for a player with one")
        )
        self.remove = self._switch(
            tr("Remove what is in no list any more"), "remove", tr("Only files that Mervid wrote, and nobody changed")
        )
        self.standby.setChecked(True)
        for b in (self.standby, self.straight, self.remove):
            column.addWidget(b)
        column.addSpacing(8)
        self.sentences = Words("")
        self.sentences.setWordWrap(True)
        column.addWidget(self.sentences)
        self.write = asking(tr("Write"), "write", None, tr("Write, read back and compare"), self.asked, keys)
        self.write.setObjectName("way")
        column.addWidget(self.write)
        self.bar = ShareDone()
        self.stop = asking(tr("Stop"), "stop", None, tr("What is whole stays; the next run goes on"), self.asked, keys)
        column.addWidget(self.bar)
        column.addWidget(self.stop)
        column.addStretch(1)

    def _switch(self, text: str, name: str, tip: str) -> Switch:
        b = Switch(text, tip)
        b.switched.connect(lambda on: self.asked.emit(name, on))
        return b

    def show_target(self, d: Delivering) -> None:
        """What it is for, and what would come of it."""
        p = d.profile
        self.player.show_text(p.name)
        self.note.setText(p.note)
        self.able.setText(abilities(p))
        self.where.setText(str(d.out) if d.out is not None else tr("No folder is chosen yet."))
        self.where.setToolTip(tip_of(str(d.out or "")))
        for b, on in ((self.standby, d.choices.standby), (self.straight, d.choices.straighten)):
            b.show_on(on)
        self.straight.setEnabled(not p.variable_grids)
        left = len(d.plan.leftovers) if d.plan is not None else 0
        self.remove.setVisible(left > 0)
        self.remove.setText(tr("Remove {0} files in no list any more").format(left))
        busy = d.plan is None and not d.why
        words = d.why or (tr("Looking at every track…") if busy else " ".join(d.plan.sentences if d.plan else ()))
        self.sentences.setObjectName("warn" if d.why or (d.plan is not None and not d.plan.fits) else "")
        restyle(self.sentences)
        self.sentences.setText(words)
        todo = d.plan.todo if d.plan is not None else 0
        self.write.setText(tr("Write {0} tracks").format(todo) if todo != 1 else tr("Write 1 track"))
        if d.plan is not None and not todo:
            self.write.setText(tr("Write the lists"))
        self.write.setEnabled(not d.why_not())
        self.stop.setVisible(d.writing)
        self.bar.setVisible(d.writing)


def abilities(p: Profile) -> str:
    """What a player can do, in a few lines."""
    cues = f"{p.hot_cues or 'no'} hot cues, {p.standby_cues or 'no'} standby cues"
    rates = tr("up to {0:g} kHz, {1} bits").format(max(p.rates) / 1000, p.bits)
    grid = tr("follows grids that bend") if p.variable_grids else tr("one tempo a track")
    reads = [w for w, on in (("tags", p.tags), ("chapters", p.chapters), (tr("JAMS"), p.jams)) if on]
    return (
        f"{', '.join(f.upper() for f in p.formats)}; {rates}.\n{cues[0].upper()}{cues[1:]}; {grid}.\n"
        f"Reads {', '.join(reads) or 'nothing but sound'}; lists as {' and '.join(x.upper() for x in p.lists)}."
    )


class PlayerDelivery(QWidget):
    """The tracks, sentence by sentence, and the ledger of what was written."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.table = PlainTable(tr("What becomes of each track"), COLUMNS, wrapped=True)
        self.ledger = QPlainTextEdit()
        self.ledger.setReadOnly(True)
        self.ledger.setAccessibleName(tr("What was written"))
        self.ledger.setFixedHeight(112)
        self.ledger.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.head = heading(tr("LEDGER"))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(5)
        column.addWidget(self.table, 1)
        column.addWidget(self.head)
        column.addWidget(self.ledger)

    def show_plan(self, d: Delivering) -> None:
        """What would be written, or was."""
        plan = d.plan
        steps = plan.steps if plan is not None else ()
        written = set(d.report.written) if d.report is not None else set()
        rows, warned = [], []
        for s in steps:
            said = "\n".join(x.text for x in s.losses) or tr("Nothing is lost.")
            state = "written ✓" if s.file in written else STATES.get(s.state, "to be written")
            rows.append((s.track, (s.title, _becomes(s), said, state)))
            warned.append(False)
        for problem in plan.problems if plan is not None else ():
            rows.append((None, ("–", "", problem, "can't go")))  # type: ignore[arg-type]
            warned.append(True)
        self.table.fill(rows, warned=warned)
        self.head.setVisible(d.report is not None or d.stick is not None)
        self.ledger.setVisible(d.report is not None or d.stick is not None)
        self.ledger.setPlainText("\n".join(_ledger(d)))


def _becomes(s: StepSeen) -> str:
    if s.straight:
        return f"straight, {s.goal.codec.upper()}"
    if s.goal.copied:
        return tr("copied bit for bit")
    bits = tr(" {0} bits").format(s.goal.bits) if s.goal.bits else ""
    return f"{s.goal.codec.upper()}{bits}"


def _ledger(d: Delivering) -> list[str]:
    """What was written last, and what a player finds there now."""
    out = []
    r = d.report
    if r is not None:
        out.append(
            tr("{0} tracks written and read back, {1} there already, {2} removed.").format(
                len(r.written), r.same, len(r.removed)
            )
        )
        out += [f"✕ {p}" for p in r.problems]
        out += [f"✓ {f}" for f in r.written]
        out += [f"− {f}" for f in r.removed]
    elif d.stick is not None:
        lists = ", ".join(f"{name} ({len(files)})" for name, files in d.stick.lists) or tr("no list")
        out.append(tr("There is a folder for {0}: {1}.").format(d.stick.profile.name, lists))
        out += [f"✕ {p}" for p in d.stick.problems]
    return out
