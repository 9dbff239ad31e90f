"""Long work of the interface thread in small parts: between them, hands and screen get their turn."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager

from PySide6.QtCore import QObject, QTimer
from shiboken6 import isValid

_TURN_S = 0.003


class Turns(QObject):
    """Does what is handed to it, one piece of work after the other, a few milliseconds a turn of the event loop."""

    def __init__(self, hurrying: Callable[[], AbstractContextManager[None]]) -> None:
        super().__init__()
        self._hurrying = hurrying
        self._work: dict[QObject, Iterator[None]] = {}
        self._next: dict[QObject, Iterator[None]] = {}
        self._begun: set[QObject] = set()
        self._timer = QTimer(self, singleShot=True, interval=0)
        self._timer.timeout.connect(self.turn)

    def do(self, owner: QObject, parts: Iterator[None]) -> None:
        """Have some work done soon, a part up to each of its yields.

        It supersedes what its owner handed in before; what has begun already is finished first, so that something
        is to be seen however fast the changes come. Nothing is done for an owner that is gone.
        """
        (self._next if owner in self._begun else self._work)[owner] = parts
        self._timer.start()

    @property
    def busy(self) -> bool:
        """Whether some work is not done yet."""
        return bool(self._work)

    def close(self) -> None:
        """Drop all that is not done."""
        self._timer.stop()
        for waiting in (self._work, self._next, self._begun):
            waiting.clear()

    def turn(self) -> None:
        """Do a turn of work."""
        end = time.perf_counter() + _TURN_S
        with self._hurrying():
            while self._work:
                owner, parts = next(iter(self._work.items()))
                self._begun.add(owner)
                if not isValid(owner) or next(parts, parts) is parts:  # gone, or at its end
                    self._begun.discard(owner)
                    del self._work[owner]
                    if owner in self._next:
                        self._work[owner] = self._next.pop(owner)
                if time.perf_counter() >= end:
                    break
        if self._work:
            self._timer.start()
