"""Ctrl+C, a request to end, and a terminal that is closed."""

from __future__ import annotations

import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any

_REQUESTS = (signal.SIGTERM, signal.SIGHUP)


def end_in_order() -> None:
    """Have a request to end leave by way of `SystemExit`, so that nothing stays half-written; the usual status."""
    for number in _REQUESTS:
        if signal.getsignal(number) is signal.SIG_DFL:  # else somebody wants it to be ignored
            signal.signal(number, lambda number, _frame: sys.exit(128 + number))


@contextmanager
def on_interrupt(action: Any) -> Iterator[None]:
    """Call `action` at Ctrl+C or a request to end, instead of ending."""

    def handler(_signal: int, _frame: FrameType | None) -> None:
        action()

    heard = [number for number in (signal.SIGINT, *_REQUESTS) if signal.getsignal(number) is not signal.SIG_IGN]
    before = {number: signal.signal(number, handler) for number in heard}
    try:
        yield
    finally:
        for number, old in before.items():
            signal.signal(number, old)
