"""The clock of a plan: when each row begins and ends, with durations that are added exactly.

With many blocks, rounded sums would drift apart from the truth. A time is two whole numbers, of 2^-30 s and of 2^-70 s:
exact for every duration that is a float of some microseconds or more, and for sums of eight million of them.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from kivant.core.motion.segment import Reals, Wholes

_COARSE, _FINE = 30, 40
_MASK = (1 << _FINE) - 1


def on_clock(begin_s: float, durations_s: Reals, waits_s: Mapping[int, float]) -> tuple[Reals, Reals]:
    """Return when each row begins and ends, s, if the first may begin at `begin_s`; a wait comes before its row.

    Parameters
    ----------
    begin_s : float, s
    durations_s : array, shape (rows,), s
    waits_s : mapping
        Waits by row, s.
    """
    own = gaps = _parts(durations_s)
    if waits_s:
        waited = np.zeros(len(durations_s))
        waited[list(waits_s)] = list(waits_s.values())
        gaps = [parts + more for parts, more in zip(own, _parts(waited), strict=True)]
    first = divmod(int(begin_s * 2.0 ** (_COARSE + _FINE)), 1 << _FINE)
    ends = [np.add.accumulate(parts) + start for parts, start in zip(gaps, first, strict=True)]
    begins = [sums - parts for sums, parts in zip(ends, own, strict=True)]
    return _seconds(*begins), _seconds(*ends)


def _seconds(coarse: Wholes, fine: Wholes) -> Reals:
    return (coarse + (fine >> _FINE)) * 2.0**-_COARSE + (fine & _MASK) * 2.0 ** -(_COARSE + _FINE)


def _parts(seconds: Reals) -> list[Wholes]:
    scaled = seconds * 2.0**_COARSE
    coarse = np.floor(scaled)
    return [coarse.astype(np.int64), ((scaled - coarse) * 2.0**_FINE).astype(np.int64)]
