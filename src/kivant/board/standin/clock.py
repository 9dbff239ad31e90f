"""The clock of a stand-in: real time, but for moments in which its process was not allowed to run."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

LONGEST_S = 0.1
"""What may pass between two looks at the clock; who looks more rarely than that was kept from it."""


class SteadyClock:
    """Seconds that go on as those of `source`, but never by more than `LONGEST_S` between two looks.

    A board of its own goes on while the computer of its host stands still; a stand-in stands still with it. So a
    loaded computer makes its motions slower and does not starve them of spans.
    """

    def __init__(self, source: Callable[[], float] = time.monotonic) -> None:
        self._source, self._lock = source, threading.Lock()
        self._seen, self._now = source(), 0.0

    def __call__(self) -> float:
        """Return the time in seconds since the clock was made, as far as it was looked at."""
        with self._lock:
            seen = self._source()
            self._now += min(max(seen - self._seen, 0.0), LONGEST_S)
            self._seen = seen
            return self._now
