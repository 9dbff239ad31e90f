"""Sums: at which ticks of a span an axis takes its steps, as a board finds them by adding whole numbers.

A board adds the speed to the place and the change to the speed, tick after tick; a step is taken when the whole part
of the place moves on. After n ticks that is ``place + n speed + n (n - 1) / 2 change``: here the tick of each step is
solved for, and then checked in the same whole numbers, so that every step comes at the tick at which a board has it.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivant.board.protocol.record import PLACE_BITS, SUM_BITS, AxisSpan

_ONE = 2.0**SUM_BITS
_PLACE_ONE = 1 << PLACE_BITS


def steps_in(begin: int, span: AxisSpan) -> int:
    """Return how many steps, with sign, lead from place `begin` to the end of a span; places are modulo 2^64."""
    way = (span.end >> PLACE_BITS) - (begin >> PLACE_BITS)
    return (way + 2**31) % 2**32 - 2**31


def step_ticks(begin: int, span: AxisSpan, ticks: int) -> NDArray[np.float64]:
    """Return the tick of each step of a span of so many ticks that begins at place `begin`, from 1, ascending.

    A step that the sums have not reached at the last tick is taken there; none goes beyond the count at the end, and
    none goes back.
    """
    steps = steps_in(begin, span)
    # Down is up in a mirror: counts are whole parts, so a place on the verge of a step is mirrored past it.
    place = begin % _PLACE_ONE << SUM_BITS - PLACE_BITS
    sign, place = (1, place) if steps >= 0 else (-1, (1 << SUM_BITS) - 1 - place)
    speed, change = sign * span.speed, sign * span.change
    numbers = np.arange(1, abs(steps) + 1)
    tick = np.clip(np.ceil(_solved(numbers - place / _ONE, speed / _ONE, change / _ONE, ticks)), 1, ticks)
    early = _whole(place, speed, change, tick - 1) >= numbers
    late = ~early & (_whole(place, speed, change, tick) < numbers)
    return np.maximum.accumulate(np.clip(tick - early + late, 1, ticks))


def _solved(way: Any, speed: float, change: float, ticks: int) -> NDArray[np.float64]:
    """Return after how many ticks each way is gone; all of them where it never is."""
    middle = speed - change / 2  # so that the way is an even quadratic of the ticks
    with np.errstate(divide="ignore", invalid="ignore"):
        found = 2 * way / (middle + np.sqrt(middle * middle + 2 * change * way))
    return np.where(np.isfinite(found) & (found >= 0), found, ticks)


def _whole(place: int, speed: int, change: int, tick: NDArray[np.float64]) -> NDArray[np.int64]:
    """Return the whole part of the place after so many ticks: the sums modulo 4 steps, put near their real value."""
    n = tick.astype(np.uint64)
    first, second = (np.uint64(number % 2**64) for number in (speed, change))
    sums = np.uint64(place) + n * first + n * (n - np.uint64(1)) // np.uint64(2) * second
    real = place / _ONE + tick * (speed / _ONE) + tick * (tick - 1) / 2 * (change / _ONE)
    rounds = np.rint((real - sums / _ONE) / 4)
    return (sums >> np.uint64(SUM_BITS)).astype(np.int64) + 4 * rounds.astype(np.int64)
