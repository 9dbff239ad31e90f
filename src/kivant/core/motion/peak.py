"""The peak of a ramp: the greatest speed up to which, and down from which, a distance suffices; many at once."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from kivant.core.motion.segment import Reals

_NEWTON, _TURNS = 40, 110  # the last of them by halving, which always suffices
_EXACT = 1e-14  # of a distance: what rounding may make of it
_SHUT = 4e-16  # of a speed: bounds between which there is none
_TINY = 1e-300


def peak_speed(low: Reals, high: Reals, distance: Reals, way: Callable[[Reals], tuple[Reals, Reals]]) -> Reals:
    """Return the greatest speeds between two for which distances suffice; arrays of shape (n,).

    Parameters
    ----------
    low, high : arrays, distance/s
        Speeds for which they do, and the greatest that are wanted, which are returned where they do.
    distance : array
    way : callable
        Takes n speeds, and returns the ways that they need, which only grow, and by how much those grow with the speed.

    References
    ----------
    W. H. Press et al., *Numerical Recipes*, 3rd ed., Cambridge, 2007, sec. 9.4: Newton's method within bounds, which
    are halved where a step would leave them.
    """
    peak = high
    for turn in range(_TURNS):
        needed, growth = way(peak)
        over = needed - distance
        low, high = np.where(over <= 0.0, peak, low), np.where(over <= 0.0, high, peak)
        found = (np.abs(over) <= _EXACT * distance) | (high - low <= _SHUT * high)
        if found.all():
            break
        step = over / np.maximum(growth, _TINY)
        nearer = peak - np.copysign(np.maximum(np.abs(step), _SHUT * peak), over)  # far enough to shut the bounds
        usable = (nearer > low) & (nearer < high) & (turn < _NEWTON)
        peak = np.where(found, peak, np.where(usable, nearer, (low + high) / 2))
    return np.where(over <= _EXACT * distance, peak, low)
