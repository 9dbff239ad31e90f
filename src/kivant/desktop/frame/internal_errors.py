"""Exceptions that nobody has caught: told by a notice, with the log in which their details are."""

from __future__ import annotations

import sys
import threading
from types import TracebackType

from PySide6.QtCore import QObject, Qt, Signal

from kivant.app.internal_error import ErrorLog
from kivant.core.errors import KivantError


class InternalErrors(QObject):
    """As long as it is entered, ``came`` tells of what nobody has caught, on any thread; it is printed all the same."""

    came = Signal(str)
    _raised = Signal(str)

    def __init__(self, log: ErrorLog) -> None:
        super().__init__()
        self._log = log
        # Not at once: it may have been raised while something is painted, or before there is a window.
        self._raised.connect(self.came, Qt.ConnectionType.QueuedConnection)
        self._before = sys.excepthook, threading.excepthook

    def __enter__(self) -> InternalErrors:
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook, threading.excepthook = self._uncaught, self._of_thread
        return self

    def __exit__(self, *_raised: object) -> None:
        sys.excepthook, threading.excepthook = self._before

    def _uncaught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        self._before[0](kind, error, trace)
        self._tell(error)

    def _of_thread(self, raised: threading.ExceptHookArgs) -> None:
        self._before[1](raised)
        if raised.exc_value is not None:
            self._tell(raised.exc_value)

    def _tell(self, error: BaseException) -> None:
        if isinstance(error, KivantError):
            self._raised.emit(str(error))
        elif isinstance(error, Exception):
            told = self._log.add(error)
            if told is not None:
                self._raised.emit(f"{told}\nDetails are in {self._log.file}.")
