"""Commands beside their handlers: what can be asked for, in words, with its key, registered where it is done.

A set of commands is a class. A method marked with `command` can be asked for by key, menu, finder and button; one
marked with `request` by a button or a view only. The name of both is the method's, with dashes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeAlias, TypeVar

import attrs

F = TypeVar("F", bound=Callable[..., Any])
Word: TypeAlias = str | int | float | None

LOOK, EAR, GRID, COUNT, PINS, PART, PHRASES, CUES, TRUST, PROGRAM = (
    "Look and go", "By ear", "Whole grid", "Beats and bars", "Pins", "The chosen part", "Phrases", "Cues", "Trust",
    "Program",
)  # fmt: skip
GROUPS = (LOOK, EAR, GRID, COUNT, PINS, PART, PHRASES, CUES, TRUST, PROGRAM)
"""The headings in their order; others come after them."""


class Unhandled(Exception):
    """A request that no stage carries out: an error in the program, never in its use."""


@attrs.frozen
class Command:
    """One thing that can be asked for.

    Attributes
    ----------
    keys : the shortcut; empty where there is none
    name, argument : the request
    words : what it does, as menus and the finder say it
    group : under which heading it stands
    also : other words for it, which the finder knows
    stage : the stage it belongs to; empty where all know it
    typing : whether its key works while text is typed, too
    keys_in_list : the keys as lists show them: 'Shift+1 to 8' for eight commands; None for its own, "" to leave it out
    words_in_list : what stands beside them there; empty for its own words
    is_own : whether a person chose its key
    """

    keys: str
    name: str
    argument: object
    words: str
    group: str
    also: str = ""
    stage: str = ""
    typing: bool = False
    keys_in_list: str | None = None
    words_in_list: str = ""
    is_own: bool = False

    @property
    def word(self) -> Word:
        """The argument as files hold it: edits by their names."""
        a = self.argument
        return a if a is None or isinstance(a, str | int | float) else str(getattr(a, "__name__", a))

    @property
    def id(self) -> str:
        """What it is called where keys are kept: 'align slide -1.0'; the stage is '-' where all know it."""
        return " ".join((self.stage or "-", self.name, *([] if self.word is None else [str(self.word)])))


def command(
    keys: str, words: str, group: str, argument: object = None, *, also: str = "", typing: bool = False
) -> Callable[[F], F]:
    """Mark a method as the handler of a command; several marks make several commands, in the order they stand."""

    def mark(method: F) -> F:
        _add(method, Command(keys, _name(method), argument, words, group, also, typing=typing))
        return method

    return mark


def numbered(keys: str, words: str, group: str, count: int, in_list: str, *, also: str = "") -> Callable[[F], F]:
    """Mark a method as the handler of `count` commands with the arguments 0, 1, …; `{}` in keys and words is 1, 2, …

    Parameters
    ----------
    in_list : what all of them do, in one line of the key sheet
    """

    def mark(method: F) -> F:
        for k in reversed(range(count)):
            shown = keys.format(f"1 to {count}") if k == 0 else ""
            made = Command(keys.format(k + 1), _name(method), k, words.format(k + 1), group, also)
            _add(method, attrs.evolve(made, keys_in_list=shown, words_in_list=in_list))
        return method

    return mark


def request(method: F) -> F:
    """Mark a method as something that a button or a view can ask for."""
    _commands(method)
    return method


def _name(method: Callable[..., Any]) -> str:
    return method.__name__.strip("_").replace("_", "-")


def _commands(method: Any) -> list[Command]:
    if not hasattr(method, "commands"):
        method.commands = []
    kept: list[Command] = method.commands
    return kept


def _add(method: Any, made: Command) -> None:
    # decorators are applied from the last to the first
    _commands(method).insert(0, made)


class CommandSet:
    """Handlers with their commands beside them; with `typing`, their keys work while text is typed, too."""

    typing = False

    @classmethod
    def commands(cls) -> tuple[Command, ...]:
        """All commands of the set, in the order in which they are written."""
        return tuple(attrs.evolve(c, typing=c.typing or cls.typing) for m in _marked(cls) for c in m.commands)

    def handlers(self) -> dict[str, Callable[[Any], object]]:
        """What carries out each request, by name; each takes the request's argument."""
        return {_name(method): getattr(self, method.__name__) for method in _marked(type(self))}


def _marked(cls: type) -> list[Any]:
    found: dict[str, Any] = {}
    for base in reversed(cls.__mro__):
        found.update(
            {k: v for k, v in vars(base).items() if hasattr(v, "commands") and callable(v) and k != "commands"}
        )
    return [m for m in found.values() if isinstance(getattr(m, "commands", None), list)]


@attrs.frozen
class Table:
    """All commands of a window."""

    commands: tuple[Command, ...]

    @property
    def groups(self) -> tuple[str, ...]:
        """The headings that are in use, in their order."""
        used = dict.fromkeys(c.group for c in self.commands)
        return (*(g for g in GROUPS if g in used), *(g for g in used if g not in GROUPS))

    def of_group(self, group: str, stages: Iterable[str] | None = None) -> list[Command]:
        """The commands under a heading; with `stages`, of these only."""
        allowed = None if stages is None else {"", *stages}
        return [c for c in self.commands if c.group == group and (allowed is None or c.stage in allowed)]

    def found(self, text: str) -> list[Command]:
        """Commands whose words, other words, group or key hold every word typed; those that begin with it first."""
        wanted = text.lower().split()
        hits = [c for c in self.commands if all(w in f"{c.words} {c.also} {c.group} {c.keys}".lower() for w in wanted)]
        start = text.lower().strip()
        return sorted(hits, key=lambda c: not c.words.lower().startswith(start))

    def keys_of(self, name: str, argument: object = None) -> str:
        """The shortcut of a request; empty where it has none."""
        return next((c.keys for c in self.commands if (c.name, c.argument) == (name, argument)), "")

    def meant(self, name: str, word: Word, stage: str = "") -> list[Command]:
        """The commands of a name and an argument as files hold it; with `stage`, of this one only."""
        found = [c for c in self.commands if c.name == name and c.word == word]
        return [c for c in found if c.stage == stage] if stage else found

    def opposite(self, command: Command) -> Command | None:
        """The command that goes back by the same step; None where there is none."""
        same = [c for c in self.commands if (c.name, c.stage) == (command.name, command.stage) and c != command]
        a = command.argument
        if isinstance(a, int | float) and not isinstance(a, bool):
            same = [c for c in same if c.argument == -a] or (same if len(same) == 1 else [])
        else:
            same = []
        return same[0] if same else None

    def clashes(self) -> list[tuple[Command, Command]]:
        """Pairs of commands that have the same key where both are known."""
        by_key: dict[str, list[Command]] = {}
        out = []
        for c in self.commands:
            if c.keys:
                # a stage's own key goes before the one that all know: that is meant
                out += [(b, c) for b in by_key.get(c.keys, []) if b.stage == c.stage]
                by_key.setdefault(c.keys, []).append(c)
        return out

    def with_keys(self, own: Mapping[str, str]) -> Table:
        """The table with a person's own keys, by id; an empty one takes a key away."""
        return Table(tuple(_own_key(c, own[c.id]) if c.id in own else c for c in self.commands))


def _own_key(c: Command, keys: str) -> Command:
    return attrs.evolve(c, keys=keys, keys_in_list=None, words_in_list="", is_own=True)


def answering(commands: Iterable[Command], seen: str) -> Command | None:
    """Which of the commands of one key answers in a stage: a person's own, then the stage's, then what all know."""
    here = [c for c in commands if c.stage in ("", seen)]
    return min(here, key=lambda c: (not c.is_own, c.stage != seen), default=None)
