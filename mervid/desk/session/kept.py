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
        if self._kept is None or self._kept[0] != key:
            self._kept = (key, make())
        return self._kept[1]
