"""The list in sight on its way to a player: which one, where to, what would be lost, and what was written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import attrs
from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal

from ...core.delivery.profile import Profile
from ...core.errors import Cancelled, MervidError
from ...formats import delivered, profile_files
from ...formats.delivered import Loaded, Stick
from ...jobs import errands
from ...jobs.deliver import Report
from ...jobs.delivery_plan import Choices
from ...jobs.errands import Order, PlanSeen
from ..names import kept_folder
from ..theme.tr import tr
from .errands import NO_LIBRARY, Errands
from .messages import Messages
from .shown_list import ShownList
from .tag_writing import TagWriting

SETTLES_MS = 150
"""The list is looked at so long after it changed last."""
MOST = 5000
"""Tracks that are delivered at once."""


class Delivering(QObject):
    """`changed` when the plan, the target or what was written is another.

    Attributes
    ----------
    profiles : all there are, a person's own first
    profile : the player that it is for
    out : the folder; None until one is chosen
    choices : what is done of what is proposed
    plan : what would be written; None while it isn't known
    report : what was written last
    stick : the folder as its player reads it; None where none was written
    """

    changed = pyqtSignal()

    def __init__(self, shown: ShownList, tags: TagWriting, work: Errands, say: Messages) -> None:
        super().__init__()
        self.shown, self.tags, self.work, self.say = shown, tags, work, say
        self.profiles: list[Profile] = []
        self.problems: list[str] = []
        self.load_profiles()
        wanted = str(QSettings().value("player", "") or "")
        self.profile = next((p for p in self.profiles if p.name == wanted), self.profiles[0])
        self.out: Path | None = kept_folder("stick")
        self.choices = Choices()
        self.plan: PlanSeen | None = None
        self.why = ""
        self.report: Report | None = None
        self.stick: Stick | None = None
        self.writing = False
        self._active = False
        self._asked = self._looking = self._hand = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLES_MS)
        self._timer.timeout.connect(self.look)
        shown.changed.connect(self._again)

    def load_profiles(self) -> None:
        """Read the profiles: some may have been added or mended meanwhile."""
        own, self.problems = profile_files.own()
        self.profiles = [*own, *profile_files.shipped()]

    def activate(self, active: bool) -> None:
        """It is looked at, or no longer."""
        begins = active and not self._active
        self._active = active
        if begins:
            self.look()

    def _again(self) -> None:
        if self._active:
            self._timer.start()

    # the target

    def use(self, name: str) -> None:
        """Another player."""
        self.profile = next((p for p in self.profiles if p.name == name), self.profile)
        QSettings().setValue("player", self.profile.name)
        self.look()

    def set_out(self, out: Path) -> None:
        """Another folder."""
        self.out = out
        QSettings().setValue("stick", str(out))
        self.report = None
        self.look()

    def choose(self, **changes: bool) -> None:
        """Other choices."""
        self.choices = attrs.evolve(self.choices, **changes)
        self.look()

    # looking

    def _order(self, ids: Sequence[int]) -> Order:
        assert self.out is not None
        return Order(tuple(ids), self.shown.title, self.profile, self.out, self.choices, self.tags.template)

    def _ids(self) -> list[int]:
        return [int(i) for i in self.shown.ids[: MOST + 1]]

    def look(self) -> None:
        """Work the plan out anew."""
        self._asked += 1
        self.plan, self.why = None, ""
        ids = self._ids()
        if self.out is None:
            self.why = tr("Choose a folder, or a stick that is plugged in.")
        elif not ids:
            self.why = tr("There is no track in sight: choose a list in Gather.")
        elif len(ids) > MOST:
            self.why = tr("{0:,} tracks are too many for one folder ({1:,} at most): choose a list.").format(
                len(self.shown), MOST
            )
        else:
            asked = self._asked
            # what was asked before is not waited for
            self.work.looks.stop(self._looking)
            self._looking = self.work.look(
                lambda answer: self._planned(asked, answer), errands.plan_delivery, self._order(ids)
            )
            self.why = "" if self._looking else NO_LIBRARY
        self._read_stick()
        self.changed.emit()

    def _planned(self, asked: int, answer: object) -> None:
        if asked != self._asked:
            return
        if isinstance(answer, PlanSeen):
            self.plan = answer
        else:
            self.why = errands.words_of(answer)
        self.changed.emit()

    def _read_stick(self) -> None:
        self.stick = None
        if self.out is not None and (self.out / delivered.HOME / delivered.PROFILE).is_file():
            try:
                self.stick = delivered.read(self.out)
            except MervidError:
                self.stick = None

    def load(self, path: Path) -> Loaded | None:
        """A track of the stick as its player has it; None where it can't be read, which is said."""
        if self.stick is None:
            return None
        try:
            return delivered.load(self.stick, path)
        except MervidError as e:
            self.say.problem(str(e))
            return None

    # writing

    def why_not(self) -> str:
        """Why nothing can be written now; empty where it can."""
        if self.writing:
            return tr("It is being written already.")
        if self.plan is None:
            return self.why or tr("The plan is still being worked out.")
        if not self.plan.fits:
            return self.plan.sentences[-1]
        return "" if self.plan.steps else tr("None of these tracks can be delivered.")

    def write(self, *, remove: bool = False) -> None:
        """Write what the plan says."""
        why = self.why_not()
        if why:
            self.say.refused(why)
            return
        self.writing, self.report = True, None
        self._hand = self.work.write(self._written, errands.carry_out, self._order(self._ids()), remove)
        self.changed.emit()

    def stop(self) -> None:
        """Stop writing; what is whole stays, and the next run goes on from there."""
        if self.writing:
            self.work.hands.stop(self._hand)
            self.say.done(tr("Stopping after the track that is being written…"))

    def _written(self, answer: object) -> None:
        self.writing = False
        if isinstance(answer, tuple):
            self.plan, self.report = answer
            done, failed = len(self.report.written), len(self.report.problems)
            words = tr("{0} tracks written and read back, {1} were there already.").format(done, self.report.same)
            if failed:
                self.say.problem("\n".join((words, *self.report.problems[:3])))
            else:
                self.say.done(words)
        elif not isinstance(answer, Cancelled):
            self.say.problem(tr("Nothing was written: {0}").format(errands.words_of(answer)))
        self.look()
