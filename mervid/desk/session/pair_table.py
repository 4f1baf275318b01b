"""The whole list in Rehearse: every neighbour pair judged, on request every pair, and an order proposed."""

from __future__ import annotations

import itertools

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.errors import MervidError
from ...core.pairs import night
from ...core.pairs.meeting import Meeting
from ...core.pairs.report import Report
from ...jobs.pair_reports import PairReports, Question, shown_by
from ...store import lists
from ...store.pairs import Pair
from ...store.track import Track
from ..theme.tr import tr
from .bookcase import Bookcase
from .messages import Messages
from .shown_list import ShownList

MOST = 60
"""Tracks of a list of which every pair is judged: 3,540 pairs."""
MOST_NEIGHBOURS = 1500
UNJUDGED = 0.5
"""The risk that a pair counts as in an order, while nothing is known of it."""


class PairTable(QObject):
    """`changed` when rows came, went or are known better.

    Attributes
    ----------
    tracks : those in sight, in order
    reports : what is known, by the numbers of leaving and coming
    kept : pairs that were kept among them
    asked, done : how many pairs are asked for and how many are judged
    """

    changed = pyqtSignal()

    def __init__(self, shown: ShownList, bookcase: Bookcase, say: Messages) -> None:
        super().__init__()
        self.shown, self.bookcase, self.say = shown, bookcase, say
        self.library = bookcase.library
        self._reports: PairReports | None = None
        self.tracks: list[Track] = []
        self.reports: dict[tuple[int, int], Report] = {}
        self.kept: dict[tuple[int, int], Pair] = {}
        self._as_of: dict[int, tuple[object, ...]] = {}
        self.asked = self.done = 0
        self.active = False
        self._ordering = False
        shown.changed.connect(self._again)
        bookcase.acted.connect(self._again)

    def close(self) -> None:
        """End the process."""
        if self._reports is not None:
            self._reports.close()

    def activate(self, active: bool) -> None:
        """The list is looked at, or no longer."""
        self.active = active
        self._ordering = False
        if active:
            self.look()
        elif self._reports is not None:
            self._reports.forget()

    def _again(self) -> None:
        if self.active:
            self.look()

    # what is asked

    def pairs(self) -> list[tuple[int, int]]:
        """The neighbours, in order; a track after itself is no pair."""
        ids = [t.id for t in self.tracks]
        return [(a, b) for a, b in itertools.pairwise(ids) if a != b]

    def look(self) -> None:
        """Judge the neighbours of the list in sight."""
        ids = [int(i) for i in self.shown.ids[: MOST_NEIGHBOURS + 1]]
        try:
            known = {t.id: t for t in self.library.tracks(sorted(set(ids)))}
            self.tracks = [known[i] for i in ids if i in known]
            kept = self.bookcase.pairs.among(sorted(set(ids))) if len(ids) > 1 else {}
        except MervidError as e:
            self.say.problem(str(e))
            return
        moved = {k for k in {*kept, *self.kept} if _place(kept.get(k)) != _place(self.kept.get(k))}
        self.kept = kept
        as_of = {t.id: shown_by(t) for t in self.tracks}
        same = {i for i, before in self._as_of.items() if as_of.get(i) == before}
        self._as_of = as_of
        # what was edited since, or meets elsewhere now, is judged anew
        self.reports = {k: r for k, r in self.reports.items() if k not in moved and same.issuperset(k)}
        self._ask(self.pairs())

    def look_at_all(self) -> bool:
        """Judge every pair of the list; whether that was begun."""
        if len({t.id for t in self.tracks}) > MOST:
            self.say.refused(
                tr("Every pair of more than {0} tracks is too many to look at: choose a shorter list.").format(MOST)
            )
            return False
        ids = list(dict.fromkeys(t.id for t in self.tracks))
        self._ask([(a, b) for a in ids for b in ids if a != b])
        return True

    def _ask(self, pairs: list[tuple[int, int]]) -> None:
        missing = [k for k in dict.fromkeys(pairs) if k not in self.reports]
        self.asked, self.done = len(missing), 0
        if missing and self.library.path is not None:
            self._reports = self._reports or PairReports(self.library.path)
            self._reports.ask([Question(*k, _place(self.kept.get(k))) for k in missing])
        elif self._reports is not None:
            self._reports.forget()
        self.changed.emit()

    def poll(self) -> None:
        """Hear what the process found."""
        found = self._reports.poll() if self._reports is not None else []
        for answer in found:
            if isinstance(answer, str):
                self.asked = self.done = 0
                self._ordering = False
                self.say.problem(answer)
                continue
            for q, report in answer:
                self.reports[q.leaving, q.coming] = report
            self.done += len(answer)
        if found:
            self.changed.emit()
            if self._ordering and self.done >= self.asked:
                self._order()

    @property
    def busy(self) -> bool:
        """Whether pairs are still being judged."""
        return self.done < self.asked

    # an order

    def propose_order(self) -> None:
        """An order of the list that keeps steps small and pairs safe; it begins with the same track."""
        if self.shown.kind != lists.LIST or not self.shown.orderable:
            self.say.refused(tr("An order is proposed for a list: choose one in Gather, with nothing left out."))
            return
        if len(self.tracks) < 3:
            self.say.refused(tr("With fewer than three tracks there is no order to propose."))
            return
        if len({t.id for t in self.tracks}) < len(self.tracks):
            self.say.refused(tr("A track is in this list twice: take one out to have an order proposed."))
            return
        self._ordering = self.look_at_all()
        if self._ordering and not self.busy:
            self._order()

    def _order(self) -> None:
        self._ordering = False
        ids = [t.id for t in self.tracks]
        drive = {t.id: t.drive for t in self.tracks}
        prices = np.zeros((len(ids), len(ids)))
        for i, a in enumerate(ids):
            for k, b in enumerate(ids):
                r = self.reports.get((a, b))
                stretch, risk = (r.stretch, r.risk) if r is not None else (0.0, UNJUDGED)
                prices[i, k] = night.price(stretch, risk, (drive[a], drive[b]))
        order = night.propose_order(prices)
        before, after = night.total(prices, range(len(ids))), night.total(prices, order)
        if after >= before - 1e-9:
            self.say.done(tr("The list is in a good order as it is: none that was tried is better."))
            return
        self.bookcase.keep_order(self.shown.number, [ids[i] for i in order])
        self.say.done(
            tr("The list is in another order: {0}. Ctrl+Z in Gather takes it back.").format(_safe(self, ids, order))
        )


def _place(pair: Pair | None) -> Meeting | None:
    return pair.meeting if pair is not None else None


def _safe(table: PairTable, ids: list[int], order: list[int]) -> str:
    def parts(numbers: list[int]) -> int:
        found = (table.reports.get((ids[a], ids[b])) for a, b in itertools.pairwise(numbers))
        return sum(r is not None and r.expected.is_probable for r in found)

    n = len(ids) - 1
    return tr("{0} of {1} pairs will probably hold, before {2}").format(parts(order), n, parts(list(range(len(ids)))))
