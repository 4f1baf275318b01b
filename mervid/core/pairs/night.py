"""The order of a night: steps of tempo and drive small, pairs safe.

The price of playing one after another is what the pair risks, how far the tempo must be stretched, and how far the
drive jumps; a short way through all tracks is found by nearest neighbours and mended by turning pieces round and moving
single tracks (2-opt and or-opt, common heuristics of the travelling salesman problem).
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence

from ..arrays import Floats

_STRETCH, _DRIVE, _RISK = 12.0, 0.12, 1.0
_DROPS = 1.5
"""A drive that falls costs so many times what one that rises does."""
_ROUNDS = 60


def price(stretch: float, risk: float, drives: tuple[float | None, float | None]) -> float:
    """What it costs to play one track after another.

    Parameters
    ----------
    stretch : how much faster the second must run; 0.03 is 3 %
    risk : chance that they part, 0 to 1
    drives : of the first and the second
    """
    a, b = drives
    step = 0.0 if a is None or b is None else (b - a if b >= a else _DROPS * (a - b))
    return _STRETCH * abs(stretch) + _DRIVE * step + _RISK * risk


def total(prices: Floats, order: Sequence[int]) -> float:
    """What a night costs in this order."""
    return float(sum(prices[a, b] for a, b in itertools.pairwise(order)))


def propose_order(prices: Floats, *, first: int | None = 0, stop: Callable[[], bool] = lambda: False) -> list[int]:
    """An order of all tracks that costs little.

    Parameters
    ----------
    prices : (n, n) what it costs to play column after row
    first : the track that opens the night; None for any

    Examples
    --------
    >>> import numpy as np
    >>> propose_order(np.array([[0, 9, 1.0], [1, 0, 9], [9, 1, 0]]))
    [0, 2, 1]
    """
    n = len(prices)
    if n < 3:
        return list(range(n))
    starts = [first] if first is not None else list(range(n))
    best = min((_nearest(prices, s) for s in starts), key=lambda order: total(prices, order))
    fixed = 1 if first is not None else 0
    for _ in range(_ROUNDS):
        better = _mended(prices, best, fixed)
        if better is None or stop():
            break
        best = better
    return best


def _nearest(prices: Floats, start: int) -> list[int]:
    order, left = [start], set(range(len(prices))) - {start}
    while left:
        order.append(min(sorted(left), key=lambda k: prices[order[-1], k]))
        left.remove(order[-1])
    return order


def _mended(prices: Floats, order: list[int], fixed: int) -> list[int] | None:
    """The best of all orders with one piece turned round or one track elsewhere; None where none is better."""
    n, now = len(order), total(prices, order)
    best, least = None, now - 1e-9
    for a in range(fixed, n):
        for b in range(a + 1, n):
            for tried in (
                order[:a] + order[a : b + 1][::-1] + order[b + 1 :],
                order[:a] + order[a + 1 : b + 1] + [order[a]] + order[b + 1 :],
                [*order[:a], order[b], *order[a:b], *order[b + 1 :]],
            ):
                cost = total(prices, tried)
                if cost < least:
                    best, least = tried, cost
    return best
