"""Ramps: how speed is built up and taken away over a distance, as a piecewise polynomial of time.

One movement only, without axes or steps: distance and time in whatever units the caller uses. A shape of ramp is a
function with the parameters of `trapezoid`; `kivant.core.motion.shapes` is the table of them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

Coefficients = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Ramp:
    """Distance over time, a polynomial of at most the third degree on each piece.

    On every piece the speed only rises, only falls, or stays: a shape that peaks within a piece cuts it there.

    Parameters
    ----------
    breaks_s : tuple of float, length m + 1, s
        Where the pieces meet; the first is 0, the last the duration.
    coefficients : tuple of tuple of float, shape (m, 4), distance, distance/s, distance/s², distance/s³
        On piece i the distance is ``c0 + c1 u + c2 u² + c3 u³`` with ``u = t - breaks_s[i]``.
    speeds : tuple of float, length m + 1, distance/s
        Speeds at the breaks, as designed: from rounded times and coefficients they could only be guessed.
    distance : float
        Distance at the end.
    """

    breaks_s: tuple[float, ...]
    coefficients: tuple[Coefficients, ...]
    speeds: tuple[float, ...]
    distance: float

    @property
    def duration_s(self) -> float:
        """How long the movement takes, s."""
        return self.breaks_s[-1]

    @property
    def braking_s(self) -> float:
        """When its last braking begins, s; its end, where it does not brake at its end."""
        piece = len(self.coefficients)
        while piece and self.speeds[piece] < self.speeds[piece - 1]:
            piece -= 1
        return self.breaks_s[piece]

    @property
    def peak_speed(self) -> float:
        """The greatest speed, distance/s."""
        return max(self.speeds, default=0.0)

    @property
    def peak_acceleration(self) -> float:
        """The greatest acceleration or deceleration, distance/s²."""
        found = 0.0
        for i, (_c0, _c1, c2, c3) in enumerate(self.coefficients):
            length = self.breaks_s[i + 1] - self.breaks_s[i]
            found = max(found, abs(2 * c2), abs(2 * c2 + 6 * c3 * length))
        return found


def trapezoid(
    distance: float,
    *,
    speed: float,
    acceleration: float,
    deceleration: float,
    start_speed: float = 0.0,
    end_speed: float | None = None,
) -> Ramp:
    """Return the fastest movement over `distance` within the limits: acceleration, cruise, deceleration.

    Both speeds at the ends are upper limits: where one could not be reached from, or braked to, the other
    within the distance, it is lowered. Too short a distance for `speed` gives a triangle.

    Parameters
    ----------
    distance : float, > 0
    speed : float, distance/s, > 0
    acceleration, deceleration : float, distance/s², > 0
    start_speed, end_speed : float, distance/s, >= 0
        Speeds that may be jumped to at the beginning and from at the end; the end's is the start's if None.

    References
    ----------
    Uniformly accelerated motion, v² = v0² + 2 a x, from any textbook of mechanics. Times are found as
    t = 2 x / (v0 + v), which has no difference of nearly equal speeds in it.
    """
    first = min(start_speed, speed)
    last = min(start_speed if end_speed is None else end_speed, speed)
    if first > last:
        first = min(first, math.sqrt(last * last + 2 * deceleration * distance))
    else:
        last = min(last, math.sqrt(first * first + 2 * acceleration * distance))

    rates = acceleration + deceleration
    peak_squared = (
        2 * acceleration * deceleration * distance + deceleration * first**2 + acceleration * last**2
    ) / rates
    if peak_squared <= speed * speed:
        peak = max(math.sqrt(peak_squared), first, last)
        up = (2 * deceleration * distance + last**2 - first**2) / (2 * rates)
        up = min(max(up, 0.0), distance)
        cruise, down = 0.0, distance - up
    else:
        peak = speed
        up = (peak - first) * (peak + first) / (2 * acceleration)
        down = (peak - last) * (peak + last) / (2 * deceleration)
        cruise = max(distance - up - down, 0.0)
    return _joined(
        distance,
        (
            (up, first, peak, acceleration / 2),
            (cruise, peak, peak, 0.0),
            (down, peak, last, -deceleration / 2),
        ),
    )


def _joined(distance: float, pieces: tuple[tuple[float, float, float, float], ...]) -> Ramp:
    """Return the ramp of pieces given by length, speeds at both ends and half the acceleration."""
    breaks: list[float] = [0.0]
    coefficients: list[Coefficients] = []
    speeds: list[float] = []
    done = 0.0
    for length, begin, end, half_rate in pieces:
        duration = 2 * length / (begin + end)
        if duration > 0.0:
            coefficients.append((done, begin, half_rate, 0.0))
            breaks.append(breaks[-1] + duration)
            speeds = speeds or [begin]
            speeds.append(end)
            done += length
    return Ramp(tuple(breaks), tuple(coefficients), tuple(speeds), distance)
