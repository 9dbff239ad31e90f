"""The clock of a plan: when each row begins and ends, with durations that are added exactly.

With many blocks, rounded sums would drift apart from the truth. A time is two whole numbers, of 2^-30 s and of 2^-70 s:
exact for every duration that is a float of some microseconds or more, and for sums of eight million of them.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from kivant.core.motion.segment import Reals

_COARSE, _FINE = 30, 40


def on_clock(begin_s: float, durations_s: Reals, waits_s: Mapping[int, float]) -> tuple[Reals, Reals]:
    """Return when each row begins and ends, s, if the first may begin at `begin_s`; a wait comes before its row.

    Parameters
    ----------
    begin_s : float, s
    durations_s : array, shape (rows,), s
    waits_s : mapping
        Waits by row, s.
    """
    spans = np.zeros((len(durations_s), 2))  # the wait before each row, and its duration
    spans[:, 1] = durations_s
    spans[:1, 0] = begin_s
    if waits_s:
        spans[list(waits_s), 0] += list(waits_s.values())
    scaled = spans.ravel() * 2.0**_COARSE
    coarse = scaled.astype(np.int64)
    fine = ((scaled - coarse) * 2.0**_FINE).astype(np.int64)
    seconds = np.add.accumulate(coarse) * 2.0**-_COARSE + np.add.accumulate(fine) * 2.0 ** -(_COARSE + _FINE)
    return seconds[::2], seconds[1::2]
