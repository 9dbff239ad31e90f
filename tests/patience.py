"""Waiting for what is to come, and not for a time."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable


def wait_until(so: Callable[[], object], seconds: float = 30.0) -> None:
    """Return as soon as something is so; fail when it has not come in time."""
    end, pause = time.monotonic() + seconds, threading.Event()
    while not so():
        if time.monotonic() > end:
            raise AssertionError("waited in vain")
        pause.wait(0.004)
