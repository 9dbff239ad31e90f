"""Path rates: how fast a path may be gone at each of its places, within limits of speed and of acceleration.

A path q(s) from 0 to 1 is gone at the rate s'. With z = s'^2 and u = s'' an axis has the acceleration q' u + q'' z, so
that each limit is a strip of the plane of u and z. From one place to the next, a way d further, u is constant and z
grows by 2 d u. Backwards from the end, the greatest z from which rest can still be reached is found at each place; then
the greatest u that stays below is taken from the beginning on. That is the fastest way there is.

References
----------
J. E. Bobrow, S. Dubowsky and J. S. Gibson, "Time-Optimal Control of Robotic Manipulators Along Specified Paths",
International Journal of Robotics Research, 1985 (limits as strips); L. S. Pontryagin et al., *The Mathematical Theory
of Optimal Processes*, Wiley, 1962 (why the extremes are fastest); R. Bellman, *Dynamic Programming*, Princeton, 1957
(backwards first).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from kivant.core.motion.segment import Reals

_TINY = 1e-12


class Strips(NamedTuple):
    """Limits ``low <= slopes * u + bends * z <= high`` between places, each of shape (places - 1, limits)."""

    slopes: Reals
    bends: Reals
    low: Reals
    high: Reals


def greatest_rates(
    share: Reals, most: Reals, strips: Strips, jumps: tuple[float, float] = (0.0, 0.0),
    lowered: Callable[[Reals], Reals] = lambda rates: rates,
) -> tuple[Reals, Reals]:  # fmt: skip
    """Return the rates at each place, and those that speeds and bends alone allow, shape (places,).

    Parameters
    ----------
    share : array, shape (places,)
        Where the places are on the path, from 0 to 1.
    most : array, shape (places,)
        The greatest rates by limits of speed, 1/s.
    strips : Strips
        Limits of acceleration.
    jumps : two floats, optional
        The rates that may be jumped to at the beginning, and from at the end; rest if not told.
    lowered : callable, optional
        Returns what else leaves of the rates that speeds and bends allow.
    """
    slopes = np.where(strips.slopes < 0, -1.0, 1.0) * np.maximum(np.abs(strips.slopes), _TINY)
    bend = strips.bends / slopes
    edges = strips.low / slopes, strips.high / slopes
    low, high = np.minimum(*edges), np.maximum(*edges)
    ways = np.diff(share)[:, None]
    own = _ceilings(low, high, bend, 0.5 / ways)
    ceilings = np.minimum(most**2, np.append(own, own[-1]))
    back = _kept(low, bend, 0.5 / ways)
    squares = (lowered(np.sqrt(ceilings)) ** 2).tolist()
    squares[-1] = min(squares[-1], jumps[1] ** 2)
    for place, (fixed, gain) in reversed(list(enumerate(zip(*(column.tolist() for column in back), strict=True)))):
        after = squares[place + 1]
        squares[place] = min(squares[place], *(a + b * after for a, b in zip(fixed, gain, strict=True)))
    squares[0] = min(squares[0], jumps[0] ** 2)
    ahead = (2 * ways * high).tolist(), (1 - 2 * ways * bend).tolist()
    for place, (fixed, gain) in enumerate(zip(*ahead, strict=True)):
        now = squares[place]
        squares[place + 1] = max(min(squares[place + 1], *(a + b * now for a, b in zip(fixed, gain, strict=True))), 0.0)
    return np.sqrt(squares), np.sqrt(ceilings)


def _ceilings(low: Reals, high: Reals, bend: Reals, half: Reals) -> Reals:
    """Return the greatest z at which any u lies within all strips (which at z = 0 it does), shape (places - 1,)."""
    apart = bend[:, :, None] - bend[:, None, :]
    room = high[:, :, None] - low[:, None, :]
    pairs = np.where(apart > 0, room / np.where(apart > 0, apart, 1.0), np.inf).min(axis=(1, 2))
    # The square of the rate at the next place is not below 0.
    falls = np.where(bend > half, high / np.where(bend > half, bend - half, 1.0), np.inf).min(axis=1)
    return np.asarray(np.minimum(pairs, falls))


def _kept(low: Reals, bend: Reals, half: Reals) -> tuple[Reals, Reals]:
    """Return a and b of the greatest z, a + b Z, from which u can bring it to Z at the next place, for each strip."""
    room = half - bend
    open_ = room > 0
    some = np.where(open_, room, 1.0)
    return np.where(open_, -low / some, np.inf), np.where(open_, half / some, 0.0)
