"""What becomes of a case, and the journal that lets a run go on where it ended."""

from __future__ import annotations

import json
from collections import defaultdict
from pathlib import Path

import attrs

RIGHT, REFUSED, DAMAGED, BAD = "right", "refused", "damaged", "BAD"


@attrs.frozen
class Outcome:
    """How one case went: right, refused in words, told as damaged, or BAD; s and MB that it took."""

    group: str
    number: int
    kind: str
    words: str = ""
    seconds: float = 0.0
    rss_mb: float = 0.0


class Journal:
    """Outcomes on disk, a line each: a second start skips what is there."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.outcomes: list[Outcome] = []
        if path.exists():
            for line in path.read_text("utf-8").splitlines():
                try:
                    self.outcomes.append(Outcome(**json.loads(line)))
                except (ValueError, TypeError):
                    # the run was killed while it wrote this line
                    continue
        self._file = path.open("a", encoding="utf-8")

    def done(self, part: str) -> set[int]:
        """Numbers of the cases of a part that are there."""
        return {o.number for o in self.outcomes if o.group.split()[0] == part}

    def add(self, outcome: Outcome) -> None:
        self.outcomes.append(outcome)
        self._file.write(json.dumps(attrs.asdict(outcome)) + "\n")
        self._file.flush()


def table(outcomes: list[Outcome]) -> str:
    """By group: how many cases, how they ended, the slowest and the largest."""
    groups: dict[str, list[Outcome]] = defaultdict(list)
    for o in outcomes:
        groups[o.group].append(o)
    lines = [
        f"{'':16s} {'cases':>6s} {RIGHT:>7s} {REFUSED:>8s} {DAMAGED:>8s} {BAD:>4s} {'slowest s':>10s} {'most MB':>8s}"
    ]
    for name in sorted(groups):
        some = groups[name]
        counts = [sum(o.kind == k for o in some) for k in (RIGHT, REFUSED, DAMAGED, BAD)]
        slow, large = max(o.seconds for o in some), max(o.rss_mb for o in some)
        lines.append(
            f"{name:16s} {len(some):6d} {counts[0]:7d} {counts[1]:8d} {counts[2]:8d} {counts[3]:4d} "
            f"{slow:10.2f} {large:8.0f}"
        )
    lines += [f"BAD {o.group} {o.number}: {o.words}" for o in outcomes if o.kind == BAD]
    return "\n".join(lines)
