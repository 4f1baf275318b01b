"""Questions that take longer than a blink, answered by a thread: of each kind only the newest one."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import attrs
from PyQt6.QtCore import QObject, pyqtSignal


@attrs.frozen(eq=False)
class Question:
    """What is asked: a newer one of the same kind takes its place, whatever it is of."""

    kind: str
    name: str
    of: object


class Questions(QObject):
    """`answered` (question, answer) with what was found, or the exception that was raised."""

    answered = pyqtSignal(object, object)
    _done = pyqtSignal(object, object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._hand = ThreadPoolExecutor(1, thread_name_prefix=name)
        self._closed = False
        self._newest: dict[str, Question] = {}
        self._done.connect(self._tell)

    def close(self) -> None:
        """End the thread; nothing is answered any more."""
        self._closed = True
        self._hand.shutdown(wait=True, cancel_futures=True)

    @property
    def any_asked(self) -> bool:
        """Whether anything was ever asked."""
        return bool(self._newest)

    def ask(self, question: Question, act: Callable[..., object], *args: Any) -> None:
        """Let the thread do `act`."""
        self._newest[question.kind] = question

        def work() -> object:
            # not what was asked before somebody went on
            return act(*args) if self._newest[question.kind] is question else None

        def tell(future: Future[object]) -> None:
            if not self._closed and not future.cancelled():
                self._done.emit(question, future.exception() or future.result())

        self._hand.submit(work).add_done_callback(tell)

    def ask_here(self, question: Question, act: Callable[..., object], *args: Any) -> None:
        """Do `act` in this thread, for what belongs to it."""
        self._newest[question.kind] = question
        try:
            answer = act(*args)
        except Exception as e:
            answer = e
        self._tell(question, answer)

    def _tell(self, question: Question, answer: object) -> None:
        if not self._closed and self._newest[question.kind] is question:
            self.answered.emit(question, answer)
