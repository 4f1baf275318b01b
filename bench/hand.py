"""How many actions a careful person needs to make a grid true: `.venv/bin/python bench/hand.py [FOLDER ...]`.

FOLDERs as for `bench/findings.py`, whose kept evidence is used. The person begins with what analysis proposes, always
mends the worst place they can see or hear next, and has only the edit functions that the window calls:

- 3/2, 2/3, half, double (H ...), 'this is a beat' (B), 'a bar starts here' (D), 'follow' (F): one action each;
- ink pulled onto its thread in the fold, on the attack under the mouse, or freely where no attack lies: one action;
- 'near tempo' for a part: three actions (choose the part, type the tempo, press).

They are done when every true beat lies within 8 ms of the grid in the mix zones and 15 ms elsewhere, and nine bars in
ten begin on a true downbeat. A player's own jitter is no fault of a grid: a beat that lies j ms off the line through
its eight neighbours (robust, four on each side) may lie j ms more from the grid, 10 ms at most.

Beside it the customary way is counted: a pin on every beat of the mix zones and on every eighth beat elsewhere.
"""

from __future__ import annotations

import json
import sys
import warnings
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]
from findings import evidence_of

from training.spread import spread

CLASSES = ("live", "stepped", "ramp", "vinyl", "hiphop", "intro")
MOST = 60
JITTER_MOST = 10.0


def jitter(times: Any) -> Any:
    """How far each beat lies off the line through its neighbours, ms, (n,)."""
    from mervid.core.maths.regression import fit_line

    out = np.zeros(len(times))
    for i in range(len(times)):
        near = np.array([k for k in range(max(0, i - 4), min(len(times), i + 5)) if k != i])
        origin, period = fit_line(near.astype(float), times[near], np.ones(len(near)))
        out[i] = abs(times[i] - origin - period * i) * 1000
    return np.minimum(out, JITTER_MOST)


class Person:
    """One recording, its truth, and hands that know only the edits of the window."""

    def __init__(self, evidence: Any, duration: float, beats: Any, downs: Any) -> None:
        from mervid.core.edits import listening_edits

        self.evidence, self.beats, self.downs = evidence, beats, downs
        self.p = listening_edits.propose(evidence, duration)
        self.actions: list[str] = []
        self.jitter = jitter(beats)
        self.tried: set[tuple[str, int]] = set()

    def error(self, grid: Any) -> Any:
        """Of each true beat, ms; late is positive."""
        return (self.beats - grid.time_at(np.round(grid.beat_at(self.beats)))) * 1000

    def excess(self) -> Any:
        """How far each true beat lies beyond what is allowed, in times of the allowance."""
        allowed = self.p.tolerance.at(self.beats, self.p.mix_zones) + self.jitter
        return np.abs(self.error(self.p.grid)) / allowed

    def bars_right(self) -> float:
        """Share of the true downbeats on which a bar of the grid begins."""
        grid = self.p.grid
        inside = self.downs[(self.downs > self.beats[0] - 0.1) & (self.downs < self.beats[-1] + 0.1)]
        return float(np.mean(grid.bar_index(np.round(grid.beat_at(inside)))[1] == 0)) if len(inside) else 1.0

    def do(self, name: str, edit: Any, *args: Any, cost: int = 1) -> bool:
        """One action; it counts even where it is refused."""
        from mervid.core.errors import Refused

        self.actions += [name] * cost
        try:
            after = edit(self.p, *args)
        except Refused:
            return False
        changed = after != self.p
        self.p = after
        return changed

    def snapped(self, time: float) -> float:
        """Where the hand lets go: on the attack beside the beat, or freely where that isn't the beat."""
        from mervid.core.hearing.features import attack_near

        at = attack_near(self.evidence.attack_strength(), time, 0.03)
        return at if abs(at - time) < 0.005 else time

    def once(self, name: str, place: int = 0) -> bool:
        """Has this not been tried yet (at this place)?"""
        new = (name, place) not in self.tried
        self.tried.add((name, place))
        return new

    def step(self) -> bool:
        """The next action; False when nothing is left to mend."""
        from mervid.core.edits import grid_edits, listening_edits

        grid = self.p.grid
        if grid is None:
            return self.do("tempo", grid_edits.set_tempo, 60 / float(np.median(np.diff(self.beats))))
        over = self.excess()
        if not (over > 1).any():
            return self.bars_right() < 0.9 and self.bar()
        ratio = float(np.median(np.diff(grid.beat_at(self.beats))))
        for wanted, name in ((0.5, "double"), (2.0, "halve"), (1.5, "two_for_three"), (2 / 3, "three_for_two")):
            if abs(ratio / wanted - 1) < 0.04 and self.once(name):
                return self.do(name, getattr(grid_edits, name)) or True
        phase = grid.beat_at(self.beats) - np.round(grid.beat_at(self.beats))
        if np.median(np.abs(phase)) > 0.35 and self.once("beat"):
            middle = float(self.beats[len(self.beats) // 2])
            return self.do("beat", listening_edits.pin_beat, self.evidence, self.snapped(middle)) or True
        if len(grid.pins) == 2 and np.mean(over > 1) > 0.02 and self.once("follow"):
            heard = listening_edits.heard_of(self.evidence, self.p)
            return self.do("follow", grid_edits.follow_recording, heard) or True
        return self.mend(over)

    def bar(self) -> bool:
        """Set the bars right where they are wrong."""
        from mervid.core.edits import listening_edits

        grid = self.p.grid
        wrong = self.downs[grid.bar_index(np.round(grid.beat_at(self.downs)))[1] != 0]
        if not len(wrong):
            return False
        return self.do("bar", listening_edits.begin_bar, self.evidence, float(wrong[len(wrong) // 2])) or True

    def mend(self, over: Any) -> bool:
        """The worst place: a lost stretch is told its tempo, else ink is pulled onto its thread."""
        from mervid.core.edits import grid_edits, listening_edits
        from mervid.core.model.hints import TEMPO, Hint

        worst = int(over.argmax())
        a = b = worst
        while a > 0 and (over[max(0, a - 4) : a] > 1).any():
            a -= 1
        while b < len(over) - 1 and (over[b + 1 : b + 5] > 1).any():
            b += 1
        grid = self.p.grid
        if b - a >= 16:
            step = np.diff(grid.beat_at(self.beats[a : b + 1]))
            tempo = 60 / float(np.median(np.diff(self.beats[a : b + 1])))
            if abs(float(np.median(step)) - 1) > 0.15 and self.once("tempo", a // 16):
                hint = Hint(TEMPO, float(self.beats[a]) - 0.1, float(self.beats[b]) + 0.1, tempo)
                return self.do("near tempo", listening_edits.listen_again, self.evidence, (hint,), cost=3) or True
        time = float(self.beats[worst])
        beat = float(np.round(grid.beat_at(time)))
        if self.once("pull", worst):
            return self.do("pull", listening_edits.pull, self.evidence, beat, self.snapped(time)) or True
        # pulled before, and still off: freely, to where it is heard
        return self.do("pull", grid_edits.add_pin, beat, time) or len(self.actions) < MOST


def corrected(job: tuple[str, str]) -> dict[str, Any]:
    """What one recording needs."""
    warnings.simplefilter("ignore")
    folder, name = job
    truth = json.loads((Path(folder) / f"{name}.json").read_text())
    evidence, duration = evidence_of(folder, name)
    person = Person(evidence, duration, np.array(truth["beats"]), np.array(truth["downbeats"]))
    while len(person.actions) < MOST and person.step():
        pass
    done = bool((person.excess() <= 1).all() and person.bars_right() >= 0.9) if person.p.grid is not None else False
    inside = np.zeros(len(person.beats), bool)
    for a, b in person.p.mix_zones:
        inside |= (person.beats >= a) & (person.beats <= b)
    over = person.excess()
    return {
        "class": truth.get("class", "demo"),
        "name": name,
        "actions": person.actions,
        "done": done,
        "left": int((over > 1).sum()),
        "customary": int(inside.sum() + np.ceil((~inside).sum() / 8)),
        "pins": len(person.p.grid.pins) if person.p.grid else 0,
    }


def main() -> int:
    """Print the table."""
    given = [Path(a) for a in sys.argv[1:]]
    folders = given or [f for f in (ROOT.parent / "shared/bench/items", ROOT / "mervid/demo/tracks") if f.exists()]
    jobs = [(str(f), p.stem) for f in folders for p in sorted(f.glob("*.json"))]
    rows = [r for r in spread(corrected, jobs) if r["class"] != "acapella"]
    groups: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for r in rows:
        groups[r["class"]].append(r)
        words = " ".join(r["actions"][:8]) + (" ..." if len(r["actions"]) > 8 else "")
        state = "" if r["done"] else f"  NOT DONE, {r['left']} beats left"
        print(f"{r['name']:16} {len(r['actions']):3} actions, customary {r['customary']:4}: {words}{state}")
    print(f"\n{'class':10} {'n':>3} {'done':>5} {'median':>7} {'90 %':>6} {'worst':>6} {'customary median':>17}")
    wanted = [r for r in rows if r["class"] in CLASSES]
    for name, part in [*sorted(groups.items()), ("THE SIX", wanted), ("ALL", rows)]:
        if not part:
            continue
        count = np.array([len(r["actions"]) for r in part])
        print(
            f"{name:10} {len(part):3} {sum(r['done'] for r in part):5} {np.median(count):7.1f} "
            f"{np.percentile(count, 90):6.1f} {count.max():6} {np.median([r['customary'] for r in part]):17.0f}"
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
