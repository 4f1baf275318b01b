"""What a window has done elsewhere: plans, files and sheets made by a process of its own, with a share done and a stop.

Every function here is asked by name through `Errand`; in the process, tracks come from the library as it lies on the
disk, and nothing is ever written to it.
"""

from __future__ import annotations

import multiprocessing
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import attrs

from ..core.cues import habit
from ..core.cues.habit import Held
from ..core.cues.prospects import Prospect
from ..core.cues.recipes import Recipe
from ..core.delivery import sheet
from ..core.delivery.losses import Goal, Loss
from ..core.delivery.profile import Profile
from ..core.delivery.sheet import Row, Sheet
from ..core.errors import Cancelled, MervidError, Refused
from ..core.library.outgoing import Change
from ..core.library.template import Template
from ..core.model.preparation import Preparation
from ..core.pairs import report
from ..core.pairs.meeting import Meeting
from ..core.pairs.side import Side
from ..core.rendering.straightening import Wish
from ..core.sound.decoding import Decoded
from ..formats import tag_writing
from ..store import batch, handed, sides
from ..store.library import Library
from ..store.track import Track
from . import deliver, delivery_plan, straighten, tagging
from .delivery_plan import Choices, Item, Plan
from .lifeline import OneProcess, taken
from .straighten import Even

_FLAGS = 64
"""Things that can wait for one process at once, each with a sign that it is not wanted any more."""
_shared: dict[str, Any] = {}
"""In the process: the share done, the signs, and which of them is that of what is being done."""


def _begin(share: Any, stops: Any) -> None:
    """First in the process."""
    _shared["share"], _shared["stops"] = share, stops


def _run(number: int, function: Callable[..., Any], args: tuple[Any, ...]) -> Any:
    _shared["number"] = number
    if _stopped():
        raise Cancelled("Stopped.")
    return function(*args)


def _progress(share: float) -> None:
    if "share" in _shared:
        _shared["share"].value = share


def _stopped() -> bool:
    return "number" in _shared and bool(_shared["stops"][_shared["number"] % _FLAGS])


@contextmanager
def _library(path: Path) -> Iterator[Library]:
    found = Library.reader(path)
    if found is None:
        raise MervidError("Your library can't be read.")
    with closing(found):
        yield found


# a folder for a player


@attrs.frozen
class StepSeen:
    """A track of a plan as it is shown: its number, title, file, state, what it becomes and what is said of it."""

    track: int
    title: str
    file: str
    state: str
    goal: Goal
    losses: tuple[Loss, ...]
    straight: bool


@attrs.frozen
class PlanSeen:
    """A plan as it is shown: steps in the order of the list, sentences on the whole, whether it fits, leftovers."""

    steps: tuple[StepSeen, ...]
    sentences: tuple[str, ...]
    fits: bool
    todo: int
    leftovers: tuple[str, ...]
    problems: tuple[str, ...]


@attrs.frozen
class Order:
    """What is to be delivered: tracks by number, for which player, where, how."""

    ids: tuple[int, ...]
    title: str
    profile: Profile
    out: Path
    choices: Choices
    template: Template


def _plan(library: Library, order: Order) -> tuple[Plan, list[int], list[str]]:
    items: dict[int, Item] = {}
    problems: list[str] = []
    wanted: list[int] = []
    unique = list(dict.fromkeys(order.ids))
    for k, number in enumerate(unique):
        if _stopped():
            raise Cancelled("Stopped.")
        try:
            track = library.track(number)
            side, known, _ = handed.outgoing(library, track)
            items[number] = delivery_plan.item(side, known, track.path)
        except MervidError as e:
            problems.append(str(e))
        _progress(k / len(unique) * 0.9)
    wanted = [i for i in order.ids if i in items]
    made = delivery_plan.plan(
        [items[i] for i in wanted], order.profile, order.out, order.title, order.choices, order.template
    )
    first = list(dict.fromkeys(wanted))
    return made, first, problems


def _seen(made: Plan, numbers: Sequence[int], problems: Sequence[str]) -> PlanSeen:
    steps = tuple(
        StepSeen(n, s.item.side.title, s.file, s.state, s.goal, s.losses, s.straight)
        for n, s in zip(numbers, made.steps, strict=True)
    )
    left = tuple(e.file for e in made.leftovers)
    return PlanSeen(steps, tuple(delivery_plan.sentences(made)), made.fits, made.todo, left, tuple(problems))


def plan_delivery(path: Path, order: Order) -> PlanSeen:
    """What would be written for a player. Raises `MervidError`, `OSError`."""
    with _library(path) as library:
        return _seen(*_plan(library, order))


def carry_out(path: Path, order: Order, remove: bool) -> tuple[PlanSeen, deliver.Report]:
    """Write it; the plan as it was, and what became of it. Raises `MervidError`, `OSError`."""
    with _library(path) as library:
        made, numbers, problems = _plan(library, order)
    report_ = deliver.carry_out(made, remove=remove, progress=_progress, stop=_stopped)
    return _seen(made, numbers, problems), report_


# tags


@attrs.frozen
class TagSeen:
    """What a track's file would get: its number, title, changes; and why it can't have any."""

    track: int
    title: str
    changes: tuple[Change, ...]
    problem: str = ""


def _tag_plan(library: Library, track: Track, template: Template, marks: bool) -> tagging.Plan:
    side, known, rate = handed.outgoing(library, track)
    p = side.preparation
    made = None
    if marks and p.grid is not None:
        made = tag_writing.marks_of(p.grid, side.form, p.cues, side.duration)
    return tagging.plan(track.path, known, template, made, rate)


def plan_tags(path: Path, ids: Sequence[int], template: Template, marks: bool) -> list[TagSeen]:
    """What would change in the files of tracks. Raises `MervidError`."""
    out = []
    with _library(path) as library:
        for k, number in enumerate(ids):
            if _stopped():
                raise Cancelled("Stopped.")
            track = library.track(number)
            try:
                out.append(TagSeen(number, track.title, _tag_plan(library, track, template, marks).changes))
            except MervidError as e:
                out.append(TagSeen(number, track.title, (), str(e)))
            _progress((k + 1) / len(ids))
    return out


def write_tags(path: Path, ids: Sequence[int], template: Template, marks: bool, name: str) -> tagging.Report:
    """Write into the files of tracks. Raises `MervidError`."""
    plans: list[tagging.Plan] = []
    problems: list[str] = []
    with _library(path) as library:
        for number in ids:
            try:
                plans.append(_tag_plan(library, library.track(number), template, marks))
            except MervidError as e:
                problems.append(str(e))
    done = tagging.write(plans, name, progress=_progress, stop=_stopped)
    return attrs.evolve(done, problems=(*problems, *done.problems))


# recipes


def look_at(path: Path, ids: Sequence[int], recipe: Recipe) -> list[Prospect]:
    """What a recipe would do to tracks. Raises `MervidError`."""
    out = []
    with _library(path) as library:
        for k, number in enumerate(ids):
            if _stopped():
                raise Cancelled("Stopped.")
            if library.has(number):
                out.append(batch.look(library, number, recipe))
            _progress((k + 1) / len(ids))
    return out


def learn_habit(path: Path) -> tuple[tuple[Held, ...], int]:
    """The rules by which a person sets cues, and in how many tracks they were set. Raises `MervidError`."""
    with _library(path) as library:
        found = batch.examples(library, _progress)
    return habit.learn(found), len(found)


# straightening


@attrs.frozen(eq=False)
class Straightened:
    """What became of a recording, fit to be sent: see `straighten.Outcome`."""

    path: Path
    preparation: Preparation
    gain: float
    true_peak: float | None
    before: Even
    after: Even
    facts: Decoded | None
    remarks: tuple[str, ...]


def make_straight(
    path: Path, number: int, target: Path, wish: Wish, turn_down: bool, known: Sequence[Path]
) -> Straightened:
    """Straighten a track into a file. Raises `MervidError`, `OSError`."""
    with _library(path) as library:
        track = library.track(number)
        side = sides.side(library, track)
    done = straighten.write(
        side, track.path, target, wish, turn_down=turn_down, sources=known, progress=_progress, stop=_stopped
    )
    straighten.write_account(target.with_suffix(".json"), done)
    facts = done.heard[0] if done.heard is not None else None
    return Straightened(
        done.path, done.preparation, done.gain, done.true_peak, done.before, done.after, facts, done.remarks
    )


def propose_straight(path: Path, number: int) -> Wish:
    """What is proposed for a track. Raises `MervidError`."""
    with _library(path) as library:
        return straighten.proposed(sides.side(library, library.track(number)))


# paper


def make_sheet(
    path: Path, ids: Sequence[int], title: str, notes: str, kept: dict[tuple[int, int], Meeting | None]
) -> Sheet:
    """The prep sheet of tracks in their order. Raises `MervidError`."""
    rows: list[Row] = []
    known: dict[int, tuple[Side, Track] | None] = {}
    with _library(path) as library:
        for k, number in enumerate(dict.fromkeys(ids)):
            track = library.track(number)
            try:
                known[number] = sides.side(library, track), track
            except Refused:
                known[number] = None
            _progress(k / len(ids) * 0.5)
            if _stopped():
                raise Cancelled("Stopped.")
        for k, number in enumerate(ids):
            found = known[number]
            track = library.track(number)
            if found is None:
                rows.append(Row(k + 1, track.title, track.artists, "", "not prepared yet", track.key, track.seconds))
                continue
            after = known[ids[k + 1]] if k + 1 < len(ids) else None
            pair = None
            if after is not None and ids[k + 1] != number:
                pair = report.report(found[0], after[0], kept.get((number, ids[k + 1])))
            rows.append(sheet.row(k + 1, found[0], track.artists, track.key, title=track.title, following=pair))
            _progress(0.5 + k / len(ids) * 0.5)
            if _stopped():
                raise Cancelled("Stopped.")
    return Sheet(title, tuple(rows), notes)


# asking


class Errand:
    """A process that does one thing after another; answers are collected by `poll`.

    Attributes
    ----------
    busy : how many things are not answered yet
    """

    def __init__(self, name: str) -> None:
        context = multiprocessing.get_context("spawn")
        self._share, self._stops = context.Value("d", 0.0), context.Array("b", _FLAGS)
        self._process = OneProcess(name, initializer=_begin, initargs=(self._share, self._stops))
        self._asked = 0
        self._answers: deque[tuple[Callable[[object], None], object]] = deque()
        self.busy = 0

    @property
    def share(self) -> float:
        """How much of what is being done is done, 0 to 1."""
        return float(self._share.value)

    def ask(self, tell: Callable[[object], None], function: Callable[..., Any], *args: Any) -> int:
        """Have something done; `tell` is given what it returned or raised, by a later `poll`. The number of that."""
        self.busy += 1
        self._asked += 1
        self._stops[self._asked % _FLAGS] = 0
        self._process.later(self._work, self._asked, tell, function, args)
        return self._asked

    def _work(
        self, number: int, tell: Callable[[object], None], function: Callable[..., Any], args: tuple[Any, ...]
    ) -> None:
        self._share.value = 0.0
        try:
            self._answers.append((tell, self._process.call(_run, number, function, args)))
        except Exception as e:
            self._answers.append((tell, e))

    def stop(self, number: int) -> None:
        """Let one thing that was asked for end soon, or not begin; it is answered all the same."""
        self._stops[number % _FLAGS] = 1

    def poll(self) -> None:
        """Hand on what came since the last call."""
        for tell, answer in taken(self._answers):
            self.busy -= 1
            tell(answer)

    def close(self) -> None:
        """End the process, whatever it does."""
        for k in range(_FLAGS):
            self._stops[k] = 1
        self._process.close()


def words_of(error: object) -> str:
    """What went wrong, in words for a person."""
    if isinstance(error, OSError):
        return f"{error.strerror or error}."
    if isinstance(error, MervidError):
        return str(error)
    return f"Something unforeseen went wrong ({type(error).__name__})."
