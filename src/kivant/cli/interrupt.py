"""Ctrl+C and a request to end, for verbs that keep going."""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any


@contextmanager
def on_interrupt(action: Any) -> Iterator[None]:
    """Call `action` at Ctrl+C or a request to end, instead of raising."""

    def handler(_signal: int, _frame: FrameType | None) -> None:
        action()

    before = {number: signal.signal(number, handler) for number in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield
    finally:
        for number, old in before.items():
            signal.signal(number, old)
