"""The ramps of spins: what an axis does in one sense within a row, as a ramp from 0 to 1 like any other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.spins import Share


def along(shares: Sequence[Share]) -> Ramps:
    """Return the ramps of shares, in their order; times count from the beginning of the row."""
    most = max(len(share.pieces) for share in shares)
    breaks, places, speeds = (np.zeros((len(shares), most + 1)) for _ in range(3))
    rates, jerks = (np.zeros((len(shares), most)) for _ in range(2))
    for row, share in enumerate(shares):
        count = len(share.pieces)
        _senses, seconds, own, rate, jerk = (np.array(column, np.float64) for column in zip(*share.pieces, strict=True))
        lengths = seconds * (own + seconds * (rate / 2 + seconds * jerk / 6))
        way = lengths.sum()
        breaks[row, 0] = share.begin_s
        breaks[row, 1 : count + 1] = share.begin_s + np.cumsum(seconds)
        places[row, 1 : count + 1] = np.cumsum(lengths) / way
        breaks[row, count + 1 :], places[row, count:] = breaks[row, count], 1.0
        speeds[row, :count], speeds[row, count:] = own / way, share.pieces[-1].speed_after(seconds[-1]) / way
        rates[row, :count], jerks[row, :count] = rate / way, jerk / way
    return Ramps(breaks, places, speeds, rates, jerks)
