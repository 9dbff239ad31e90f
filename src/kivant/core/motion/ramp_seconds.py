"""How long a ramp along a path takes, for one path at a time and without arrays: what a check of a machine asks."""

from __future__ import annotations

import math
from typing import NamedTuple

_HALVINGS = 60


class PathRates(NamedTuple):
    """What limits a path from 0 to 1; infinite where nothing does."""

    speed: float
    acceleration: float
    deceleration: float
    start_speed: float
    jerk: float = math.inf


def _rise(first: float, last: float, rate: float, jerk: float) -> tuple[float, float]:
    """Return the time and the way of a change from one speed to a higher one (or back)."""
    gain = max(last - first, 0.0)
    if math.isinf(rate) and math.isinf(jerk):
        return 0.0, 0.0
    if math.isinf(jerk):
        seconds = gain / rate
    else:
        most = min(rate, math.sqrt(jerk * gain))
        seconds = most / jerk + gain / most if most else 0.0
    return seconds, (first + last) / 2 * seconds


def ramp_seconds(rates: PathRates) -> tuple[float, float]:
    """Return the least time along a path from 0 to 1, s, and the way that both ramps to its whole speed take.

    Where that is more than 1, the speed is not reached.

    References
    ----------
    Uniformly accelerated motion, where the area below the speed is the way; with a jerk L. Biagiotti and C. Melchiorri,
    *Trajectory Planning for Automatic Machines and Robots*, Springer, 2008, sec. 3.4: where the speed is not reached,
    the greatest is found by halving.
    """
    speed, up, down, start, jerk = rates
    first = min(start, speed)

    def ramps(peak: float) -> tuple[float, float]:
        rise, fall = _rise(first, peak, up, jerk), _rise(first, peak, down, jerk)
        return rise[0] + fall[0], rise[1] + fall[1]

    seconds, whole = ramps(speed)
    if whole <= 1.0:
        return seconds + (1.0 - whole) / speed, whole
    if math.isinf(jerk):
        peak = math.sqrt(first * first + 2 / (1 / up + 1 / down))
        return (peak - first) * (1 / up + 1 / down), whole
    low, high = first, speed
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if ramps(middle)[1] <= 1.0 else (low, middle)
    seconds, way = ramps(low)
    return seconds + max(1.0 - way, 0.0) / low if low else seconds, whole
