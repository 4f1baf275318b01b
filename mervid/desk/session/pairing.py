"""The pair in Rehearse: which track leaves, which comes, where they meet, and what that is worth.

The coming track is the open one; the leaving one stays while others are tried against it. What takes longer than a
blink, reading a track and looking for places, is done by a thread.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

import attrs
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import grid_edits
from ...core.errors import MervidError, Refused
from ...core.figures import signed
from ...core.model import preparation
from ...core.model.beatgrid import Grid
from ...core.model.preparation import Preparation
from ...core.pairs import proposals, tying
from ...core.pairs.judgement import Judgement, judge
from ...core.pairs.meeting import Meeting
from ...core.pairs.placed import Placed
from ...core.pairs.proposals import Proposal
from ...core.pairs.side import Side
from ...core.pairs.tying import Tie
from ...store import sides
from ...store.pairs import Pair
from ...store.track import READY, Track
from ...store.undo import Act
from ..theme.tr import tr
from .bookcase import Bookcase
from .messages import Messages
from .open_track import OpenTrack
from .pair_edits import PairEdits
from .questions import Question, Questions

log = logging.getLogger(__name__)
NO_TRACK = "Open a track at the left: it leaves. The next one that you open comes in over it."
NOTHING = "Rehearse lays one track over another. Choose a second track at the left: it comes, this one leaves."


_SIDE, _PLACES = "side", "places"
"""What the thread is asked for: a track of the pair, and where the two could meet."""


@attrs.frozen
class _Step:
    """One step that can be taken back: to a meeting, or of what is kept in the library.

    `edited` is the track whose grid was edited with it, under the name `edit`.
    """

    name: str
    before: Placed | None = None
    edited: int | None = None
    edit: str = ""


@attrs.frozen(eq=False)
class Met:
    """Two tracks, and where they meet."""

    leaving: Side
    coming: Side
    meeting: Meeting


def _propose(leaving: Side, coming: Side) -> list[Proposal]:
    # what is heard is worked out here, too, where nobody waits
    assert leaving.heard is not None and coming.heard is not None
    return proposals.propose(leaving, coming)


class Pairing(QObject):
    """`paired` when another track leaves or comes, `changed` when the meeting did or what is known of it.

    Attributes
    ----------
    leaving_row, leaving, coming : None where there is none yet
    proposals : meetings, the best first
    meeting, judged : None while there is nothing to judge; then `problem` says why
    kept : the pair as it is in the library
    """

    paired = pyqtSignal()
    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, bookcase: Bookcase, say: Messages) -> None:
        super().__init__()
        self.track, self.bookcase, self.say = track, bookcase, say
        self.library = track.catalogue.library
        self.pairs, self.edits = bookcase.pairs, PairEdits(track, say)
        self._questions = Questions("pair")
        self._questions.answered.connect(self._take)
        self.active = False
        self.leaving_row: Track | None = None
        self.leaving: Side | None = None
        self.coming: Side | None = None
        self.proposals: list[Proposal] = []
        self.meeting: Meeting | None = None
        self.judged: Judgement | None = None
        self.kept: Pair | None = None
        self.problem = ""
        self._placed: Placed | None = None
        self._places_of: tuple[Grid, Grid] | None = None
        self._of: tuple[int, int] | None = None
        self._steps: list[_Step] = []
        self._undone: list[_Step] = []
        track.opened.connect(self._opened)
        track.saved_changed.connect(self._edited)
        bookcase.acted.connect(self._reread)

    def close(self) -> None:
        """End the thread."""
        self._questions.close()

    # which two

    def activate(self, active: bool) -> None:
        """Rehearse is seen, or no longer: nothing is worked out behind another stage."""
        self.active = active
        if not active:
            return
        if self.meeting is None or self.key is None or self.key != self._of:
            self._opened()
            return
        # back from another stage: the meeting stays, the tracks may have been mended there
        assert self.leaving_row is not None
        try:
            changed = self.library.track(self.leaving_row.id).changed != self.leaving_row.changed
        except MervidError as e:
            self.say.problem(str(e))
            return
        if changed:
            self._read_leaving("again", self.leaving_row.id)
        self._edited()

    def set_leaving(self, track_id: int) -> None:
        """This track leaves from now on."""
        self.leaving_row = self.leaving = None
        self._forget()
        self.paired.emit()
        self._read_leaving("leaving", track_id)

    def _read_leaving(self, what: str, track_id: int) -> None:
        question = Question(_SIDE, what, track_id)
        if self.library.path is not None:
            self._questions.ask(question, sides.read, self.library.path, track_id)
        else:
            # a library in memory belongs to this thread
            self._questions.ask_here(question, sides.with_row, self.library, track_id)

    def hand_over(self) -> None:
        """The coming track leaves from now on: the night goes on."""
        if self.track.row is not None:
            self.set_leaving(self.track.row.id)

    @property
    def key(self) -> tuple[int, int] | None:
        """The numbers of both tracks; None where one is missing."""
        row = self.track.row
        return (self.leaving_row.id, row.id) if self.leaving_row is not None and row is not None else None

    def _forget(self) -> None:
        self.proposals, self.meeting, self.judged, self.kept, self.problem = [], None, None, None, ""
        self._placed = None
        self._steps, self._undone = [], []

    def _take(self, question: Question, answer: Any) -> None:
        if isinstance(answer, MervidError):
            self.problem = str(answer)
            self.changed.emit()
        elif isinstance(answer, BaseException):
            log.error("A pair could not be read.", exc_info=answer)
            self.problem = tr("This pair can't be read ({0}).").format(type(answer).__name__)
            self.changed.emit()
        elif question.name == "leaving":
            self.leaving_row, self.leaving = answer
            self._opened()
        elif question.name == "again":
            self.leaving_row, self.leaving = answer
            self._edited()
        elif question.of == self.key and self.leaving is not None and self.coming is not None:
            # for these two, and neither was taken away meanwhile
            self.proposals = answer
            (self._begin if question.name == "propose" else self._judge)()

    # the coming track

    def _opened(self) -> None:
        """Another track is open: it comes."""
        if not self.active:
            return
        self._forget()
        self.coming = self._side()
        row = self.track.row
        if row is not None and self.leaving_row is None and not self._questions.any_asked:
            self.set_leaving(row.id)
            return
        if self.leaving is None or self.leaving_row is None or self.coming is None or row is None:
            self.problem = self.problem or self._why_not()
        elif self.leaving_row.id == row.id:
            self.problem = NOTHING
        else:
            self._look_for_places("propose")
        self.paired.emit()

    def _look_for_places(self, what: str) -> None:
        assert self.leaving is not None and self.coming is not None
        self._places_of = self.leaving.grid, self.coming.grid
        self._questions.ask(Question(_PLACES, what, self.key), _propose, self.leaving, self.coming)

    def _why_not(self) -> str:
        row = self.track.row
        if row is None:
            return NO_TRACK
        if row.state != READY:
            return tr("{0} isn't heard yet.").format(row.title)
        if self.track.preparation.grid is None:
            return tr("{0} has no grid yet: give it one in Align first.").format(row.title)
        return ""

    def _side(self) -> Side | None:
        t = self.track
        if t.row is None or t.row.state != READY or t.preparation.grid is None:
            return None
        r = t.row
        return Side(r.title, t.preparation, t.evidence, t.duration, t.form, r.key, r.lufs, r.drive)

    def _edited(self) -> None:
        """A grid was mended: the meeting stays where it is in both recordings, and is judged anew."""
        if not self.active or self.leaving is None or self.coming is None:
            return
        self.coming = self._side()
        if self._placed is not None and self.key is not None and self.coming is not None:
            grids = self.leaving.grid, self.coming.grid
            self.meeting = self._placed.under(*grids)
            self._read_kept()
            self._judge()
            if grids != self._places_of:
                # what was proposed may name other beats, and was foretold of other grids
                self._look_for_places("places")
        self.paired.emit()

    # the meeting

    def _begin(self) -> None:
        """The kept meeting, or the best one."""
        assert self.key is not None
        self._of = self.key
        self._read_kept()
        kept = self.kept.meeting if self.kept is not None else None
        self._place(kept or self.proposals[0].meeting)
        self._judge()
        self.paired.emit()

    def _read_kept(self) -> None:
        assert self.key is not None
        try:
            self.kept = self.pairs.of(*self.key)
        except MervidError as e:
            self.kept = None
            self.say.problem(str(e))

    def _place(self, meeting: Meeting) -> None:
        assert self.leaving is not None and self.coming is not None
        self.meeting, self._placed = meeting, Placed.of(meeting, self.leaving.grid, self.coming.grid)

    def _judge(self) -> None:
        assert self.leaving is not None and self.coming is not None and self.meeting is not None
        self.problem = ""
        try:
            best = self.proposals[0] if self.proposals else None
            self.judged = judge(self.leaving, self.coming, self.meeting, best)
        except Refused as e:
            self.judged, self.problem = None, str(e)
        self.changed.emit()

    def set(self, meeting: Meeting, name: str) -> bool:
        """Meet otherwise; False where that can't be, with the reason said."""
        if self.leaving is None or self.coming is None or self.meeting is None:
            self.say.refused(NOTHING)
            return False
        if meeting == self.meeting:
            return False
        best = self.proposals[0] if self.proposals else None
        try:
            judged = judge(self.leaving, self.coming, meeting, best)
        except Refused as e:
            self.say.refused(str(e))
            self.changed.emit()
            return False
        self._steps.append(_Step(name, self._placed))
        self._undone.clear()
        self._place(meeting)
        self.judged, self.problem = judged, ""
        self.changed.emit()
        return True

    def wanted(self) -> Met | None:
        """Both tracks and the meeting; None, with the reason said, where there is none."""
        if self.meeting is None or self.leaving is None or self.coming is None:
            self.say.refused(self.problem or NOTHING)
            return None
        return Met(self.leaving, self.coming, self.meeting)

    def alter(self, name: str, **changes: Any) -> bool:
        """Change some of the meeting."""
        met = self.wanted()
        if met is None:
            return False
        try:
            return self.set(attrs.evolve(met.meeting, **changes), name)
        except Refused as e:
            self.say.refused(str(e))
            self.changed.emit()
            return False

    def try_out(self, meeting: Meeting) -> Judgement | None:
        """What another meeting would be worth; nothing changes."""
        if self.leaving is None or self.coming is None:
            return None
        try:
            return judge(self.leaving, self.coming, meeting)
        except Refused:
            return None

    def slide_grid(self) -> None:
        """Move the coming track's grid by what the meeting is nudged, and nudge no more."""
        m = self.meeting
        if m is None or not m.nudge:
            self.say.refused(tr("The meeting isn't nudged: there is nothing to move into the grid."))
            return
        # heard later by so much, its beats lie earlier in the recording
        if self.track.apply(grid_edits.slide, -m.nudge):
            # a beat keeps its number, however far it slid
            if self.alter(tr("Nudge into the grid"), nudge=0.0, enter=m.enter):
                row, slide = self.track.row, preparation.name_of(grid_edits.slide)
                assert row is not None
                self._steps[-1] = attrs.evolve(self._steps[-1], edited=row.id, edit=slide)
            moved = signed(-m.nudge, "ms", digits=1)
            self.say.done(tr("The coming track's grid moved by {0}.").format(moved))

    def pull(self, tie: Tie) -> None:
        """Pull a beat of either grid onto what is heard; the step can be taken back here."""
        met = self.wanted()
        if met is None or self.key is None:
            return
        side = met.coming if tie.coming else met.leaving
        by = signed(1000 * (tie.time - float(side.grid.time_at(tie.beat))), "ms", digits=1)
        if self._edit_grid(tr("Pull a beat"), side, tying.tied, side.evidence, tie):
            words = tr("{0}: its beat in bar {1} of the overlap moved by {2}.")
            self.say.done(words.format(side.title, tie.bar + 1, by))

    def follow(self, side: Side) -> None:
        """Let the grid of either track follow its recording; the step can be taken back here."""
        if side not in (self.leaving, self.coming):
            return
        if self._edit_grid(tr("Follow the recording"), side, grid_edits.follow_recording, side.heard):
            self.say.done(tr("The grid of {0} follows its recording.").format(side.title))

    def _edit_grid(self, name: str, side: Side, edit: Callable[..., Preparation], *args: Any) -> bool:
        assert self.key is not None
        edited, before = self.key[side is self.coming], self._placed
        done = self.edits.make(edited, side.title, edit, *args)
        if done:
            self._steps.append(_Step(name, before, edited, preparation.name_of(edit)))
            self._undone.clear()
            if not self.track.is_open(edited):
                self._read_leaving("again", edited)
        self.changed.emit()
        return done

    # kept

    @property
    def is_kept(self) -> bool:
        """Whether the meeting is in the library as it is."""
        return self.kept is not None and self.meeting is not None and self.kept.meeting == self.meeting

    def keep(self, notes: str | None = None) -> None:
        """Keep the meeting in the library, at both tracks."""
        if self.key is None or self.meeting is None:
            self.say.refused(self.problem or NOTHING)
        elif self.bookcase.keep_pair(*self.key, self.meeting, notes):
            self._steps.append(_Step(tr("Keep a meeting")))
            self._undone.clear()

    def forget_kept(self) -> None:
        """Forget the meeting that is kept; what is shown stays."""
        if self.key is None or self.kept is None:
            self.say.refused(tr("No meeting of these two is kept."))
        elif self.bookcase.forget_pair(*self.key):
            self._steps.append(_Step(tr("Forget a meeting")))
            self._undone.clear()

    def _reread(self) -> None:
        """Something was kept, forgotten or taken back in the library."""
        if self.active and self.key is not None:
            self._read_kept()
            self.changed.emit()

    # back

    def names(self) -> tuple[str | None, str | None]:
        """What undo and redo would touch."""
        return (self._steps[-1].name if self._steps else None), (self._undone[-1].name if self._undone else None)

    def undo(self) -> None:
        """One step back."""
        acts = self.bookcase.undoing.done
        self._step(self._steps, self._undone, acts, self.bookcase.undo, tr("There is nothing to undo here."))

    def redo(self) -> None:
        """One step forward again."""
        acts = self.bookcase.undoing.undone
        self._step(self._undone, self._steps, acts, self.bookcase.redo, tr("There is nothing to redo here."))

    def _step(
        self, source: list[_Step], target: list[_Step], acts: list[Act], library_step: Callable[[], None], nothing: str
    ) -> None:
        if not source:
            self.say.refused(nothing)
            return
        step = source[-1]
        if step.before is None and (not acts or acts[-1].name != step.name):
            self.say.refused(tr("Something else was done to your library since: take that back in Gather first."))
            return
        if step.edited is not None and not self._step_of_grid(step.edited, step.edit, source is self._steps):
            return
        source.pop()
        target.append(attrs.evolve(step, before=self._placed if step.before is not None else None))
        if step.before is None:
            library_step()
            return
        assert self.leaving is not None and self.coming is not None
        self._placed = step.before
        self.meeting = step.before.under(self.leaving.grid, self.coming.grid)
        self._judge()

    def _step_of_grid(self, edited: int, name: str, back: bool) -> bool:
        done = self.edits.step(edited, name, back=back)
        if done and not self.track.is_open(edited):
            self._read_leaving("again", edited)
        return done
