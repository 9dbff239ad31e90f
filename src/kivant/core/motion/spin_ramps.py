"""The ramps of spins: what an axis does in one sense within a row, as a ramp from 0 to 1 like any other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.spins import Share


def along(shares: Sequence[Share]) -> Ramps:
    """Return the ramps of shares, in their order; times count from the beginning of the row."""
    table = np.zeros((5, len(shares), max(len(share.pieces) for share in shares) + 1))
    for (breaks, places, speeds, rates, jerks), share in zip(table.swapaxes(0, 1), shares, strict=True):
        count = len(share.pieces)
        _senses, seconds, own, rate, jerk = (np.array(column, np.float64) for column in zip(*share.pieces, strict=True))
        lengths = seconds * (own + seconds * (rate / 2 + seconds * jerk / 6))
        way = lengths.sum()
        breaks[:] = share.begin_s
        breaks[1:] += np.pad(np.cumsum(seconds), (0, len(breaks) - 1 - count), "edge")
        places[1 : count + 1] = np.cumsum(lengths) / way
        places[count:] = 1.0
        speeds[:count], speeds[count:] = own / way, share.pieces[-1].speed_after(seconds[-1]) / way
        rates[:count], jerks[:count] = rate / way, jerk / way
    return Ramps(table)
