"""A value that is computed once for a state and kept for it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")


class Once(Generic[T]):
    """The value of the newest state.

    Examples
    --------
    >>> square = Once()
    >>> square.of(3, lambda: 9), square.of(3, lambda: 1 / 0)
    (9, 9)
    """

    def __init__(self) -> None:
        self._kept: tuple[object, T] | None = None

    def of(self, key: object, make: Callable[[], T]) -> T:
        """The value of the state `key`, made by `make` unless it is known."""
        known = self._kept
        # an equal state is kept in the place of the old one: the same objects are compared at once the next time
        self._kept = (key, make() if known is None or known[0] != key else known[1])
        return self._kept[1]
