"""The clock of a plan: when each row begins and ends, with durations that are added exactly.

With many blocks, rounded sums would drift apart from the truth. A time is two whole numbers, of 2^-30 s and of 2^-70 s:
exact for every duration that is a float of some microseconds or more, and for sums of eight million of them.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from kivant.core.motion.segment import Reals

# So many in a second, in each of those, and in all; short columns take longer with numbers of Python's.
_COARSE, _FINE, _FINEST = map(np.array, (2.0**30, 2.0**40, 2.0**70))


def on_clock(begin_s: float, durations_s: Reals, waits_s: Mapping[int, float]) -> tuple[Reals, Reals]:
    """Return when each row begins and ends, s, if the first may begin at `begin_s`; a wait comes before its row.

    Parameters
    ----------
    begin_s : float, s
    durations_s : array, shape (rows,), s
    waits_s : mapping
        Waits by row, s.
    """
    spans = np.zeros(2 * len(durations_s))  # the wait before each row, and its duration
    spans[1::2], spans[:1] = durations_s, begin_s
    if waits_s:
        spans[::2][list(waits_s)] += list(waits_s.values())
    scaled = spans * _COARSE
    coarse = scaled.astype(np.int64)
    fine = ((scaled - coarse) * _FINE).astype(np.int64)
    seconds = np.add.accumulate(coarse) / _COARSE + np.add.accumulate(fine) / _FINEST
    return seconds[::2], seconds[1::2]
