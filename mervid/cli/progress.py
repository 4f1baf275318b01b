"""One line of progress for all recordings."""

from __future__ import annotations

import sys


class Progress:
    """One line for all recordings: written over on a terminal, else anew at each tenth.

    Parameters
    ----------
    of : how many there are
    logged : whether it is written where there is no terminal, too; can be set later, when nothing is refused any more
    """

    def __init__(self, of: int, *, logged: bool = True) -> None:
        self._of, self._last, self.logged = of, "", logged

    def show(self, done: int, share: float) -> None:
        """So many are done, and so much of all."""
        percent = int(100 * share / self._of)
        terminal = sys.stderr.isatty()
        if not terminal and not self.logged:
            return
        text = f"{done} of {self._of} done, {percent if terminal else percent // 10 * 10} %"
        if text != self._last:
            self._last = text
            print(f"\r{text}" if terminal else text, end="" if terminal else "\n", file=sys.stderr, flush=True)

    def clear(self) -> None:
        """Make room for another line."""
        if self._last and sys.stderr.isatty():
            print("\r\033[K", end="", file=sys.stderr, flush=True)
            self._last = ""
