"""The ramps of spins: what an axis does in one sense within a row, as a ramp from 0 to 1 like any other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.spins import Share


def along(shares: Sequence[Share]) -> Ramps:
    """Return the ramps of shares, in their order; times count from the beginning of the row."""
    counts = np.array([len(share.pieces) for share in shares])
    upto = np.add.accumulate(counts)
    pieces = np.array([piece for share in shares for piece in share.pieces], np.float64)
    _senses, seconds, speeds, rates, jerks = pieces.T
    which = np.arange(len(shares)).repeat(counts)
    at = np.arange(len(pieces)) - (upto - counts)[which]
    table = np.zeros((5, int(counts.max()) + 1, len(shares)))
    # Behind the last piece of a share, its end stands again and again.
    table[0, at + 1, which] = seconds
    table[1, at + 1, which] = seconds * (speeds + seconds * (rates / 2 + seconds * jerks / 6))
    np.add.accumulate(table[:2], axis=1, out=table[:2])
    way = table[1, -1].copy()
    table[0] += [share.begin_s for share in shares]
    table[1] /= way
    ends = (speeds + seconds * (rates + seconds * jerks / 2))[upto - 1]
    table[2] = ends / way
    table[2:, at, which] = np.array((speeds, rates, jerks)) / way[which]
    return Ramps(table)
