"""What limits a straight line of a tool: its axes and the tool itself, in axis units and seconds."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

import numpy as np

from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.machine.tool import Tool
from kivant.core.motion.lines.path_rates import Strips
from kivant.core.motion.rates import Bands, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.motor.pulling import pulls_of
from kivant.core.travel.conversion import steps_per_unit

_STILL = 1e-6  # of the speed of an axis: at less, it stands
_TINY = 1e-300
_LEAST = 1e-9  # of what a motor that cannot move its load can accelerate: the plan says so


class Pulled(NamedTuple):
    """What an axis that follows its torque can accelerate and decelerate up to each of its speeds, in axis units."""

    speeds: Reals
    up: Reals
    down: Reals


class LineLimits(NamedTuple):
    """Limits of the axes of a tool, arrays of shape (axes,), and of the tool; infinite where there is none.

    ``pulled`` is, for each axis that follows its torque, what it has in the weaker of both directions, and ``avoid``
    are the bands of speed in which axes are never to stay.
    """

    speed: Reals
    pulse_rate: Reals
    acceleration: Reals
    deceleration: Reals
    start_speed: Reals
    jerk: Reals
    pulled: tuple[Pulled | None, ...]
    avoid: tuple[Bands, ...]
    tool_speed: float
    tool_acceleration: float

    def speeds(self, factor: float) -> Reals:
        """Return the greatest speeds of the axes, if wished ones are scaled by a factor."""
        tops = [math.inf if pulled is None else float(pulled.speeds[-1]) for pulled in self.pulled]
        return np.minimum(np.minimum(factor * self.speed, self.pulse_rate), tops)

    def rates(self, speeds: Reals) -> tuple[Reals, Reals]:
        """Return what the axes can accelerate and decelerate at any speed up to `speeds`, shape (..., axes)."""
        up, down = (np.broadcast_to(column, speeds.shape).copy() for column in (self.acceleration, self.deceleration))
        for k, pulled in enumerate(self.pulled):
            if pulled is not None:
                up[..., k] = np.minimum(up[..., k], np.interp(speeds[..., k], pulled.speeds, pulled.up))
                down[..., k] = np.minimum(down[..., k], np.interp(speeds[..., k], pulled.speeds, pulled.down))
        return up, down

    def jump(self, slopes: Reals, rate: float) -> float:
        """Return which rate may be jumped to from rest, or from to it, at a place where a line may be gone at a rate.

        `slopes` are those of the axes there.
        """
        ways = np.abs(slopes)
        moved = ways * rate > _STILL * np.minimum(self.speed, self.pulse_rate)
        return float((self.start_speed[moved] / ways[moved]).min(initial=rate))

    def from_rest(self) -> LineLimits:
        """Return the limits without start speeds."""
        return self._replace(start_speed=np.zeros_like(self.start_speed))

    def eased(self, seconds: float) -> LineLimits:
        """Return the limits with accelerations that a jerk builds up within a time."""
        up, down = (np.minimum(own, self.jerk * seconds) for own in (self.acceleration, self.deceleration))
        return self._replace(acceleration=up, deceleration=down)

    def outside_bands(self, slopes: Reals, rates: Reals) -> Reals:
        """Return the rates at places of a line, each lowered to the edge of any band in which it would keep an axis.

        `slopes` are those of the axes there, shape (places, axes).
        """
        ways = np.maximum(np.abs(slopes), _TINY)
        bands = [(ways[:, axis], band) for axis, own in enumerate(self.avoid) for band in own]
        for _ in bands:  # at the edge of one band, another axis may be within its own
            for way, (low, high) in bands:
                speeds = way * rates
                rates = np.where((speeds > low) & (speeds < high), low / way, rates)
        return rates

    def without(self, limit: Literal["speed", "acceleration", "pulse rate", "jerk"], axis: int | None) -> LineLimits:
        """Return the limits without one of an axis, by its place among them, or without one of the tool (None)."""
        if axis is None:
            return self._replace(tool_speed=math.inf) if limit == "speed" else self._replace(tool_acceleration=math.inf)
        keys = {"acceleration": ("acceleration", "deceleration"), "pulse rate": ("pulse_rate",)}.get(limit, (limit,))
        free = {key: np.where(np.arange(len(self.speed)) == axis, np.inf, getattr(self, key)) for key in keys}
        pulled = self.pulled
        if limit == "acceleration":
            pulled = tuple(None if k == axis else one for k, one in enumerate(pulled))
        return LineLimits(**{**self._asdict(), **free, "pulled": pulled})


def line_limits(machine: Machine, tool: Tool) -> LineLimits:
    """Return what limits lines of a tool, its axes in the order of the machine."""
    axes = [machine.axes[axis] for axis in sorted(tool.axes.values())]
    rates = [rates_of(machine, axis) for axis in axes]
    ratios = np.array([float(steps_per_unit(axis)) for axis in axes])
    speed, pulses, up, down, start, jerk = (
        np.array([getattr(rate, key) for rate in rates]) / ratios
        for key in ("speed", "pulse_rate", "acceleration", "deceleration", "start_speed", "jerk")
    )
    pulled = tuple(_pulled(machine, axis) if shape_of(axis.limits) == "torque" else None for axis in axes)
    avoid = tuple(axis.limits.avoid or () for axis in axes)
    return LineLimits(speed, pulses, up, down, start, jerk, pulled, avoid, *tool.bounds)


def _pulled(machine: Machine, axis: Axis) -> Pulled:
    ratio = float(steps_per_unit(axis))
    pulls = pulls_of(machine, axis)
    top = min(float(pull.speeds[-1]) for pull in pulls)
    speeds = pulls[0].speeds[pulls[0].speeds <= top]
    found = [
        np.minimum.accumulate(np.minimum(*(np.interp(speeds, pull.speeds, getattr(pull, key)) for pull in pulls)))
        for key in ("up", "down")
    ]
    return Pulled(speeds / ratio, *(np.maximum(own / ratio, _LEAST) for own in found))


def strips_of(
    ways: Reals, slopes: Reals, bends: Reals, rates: tuple[Reals, Reals], tool: tuple[float, float]
) -> Strips:
    """Return the limits of acceleration between places, each looked at from both of its ends.

    Parameters
    ----------
    ways : array, shape (places - 1,)
        From place to place, of the whole path.
    slopes, bends : arrays, shape (places, axes)
        The first and second derivatives of the positions of the axes.
    rates : two arrays, shape (places, axes)
        What the axes can accelerate and decelerate.
    tool : two floats
        How long the line is, and the acceleration of the tool.
    """
    senses = np.sign(slopes)
    forward = np.where(senses[1:] == senses[:-1], senses[1:], 0.0)
    columns: list[tuple[Reals, Reals, Reals, Reals]] = []
    for end in (slice(None, -1), slice(1, None)):
        up, down = (own[end] for own in rates)
        slope, bend = slopes[end], bends[end]
        if end.start:  # where u leads to, in terms of the place before
            slope = slope + 2 * ways[:, None] * bend
        both = np.minimum(up, down)  # an axis that turns round does either
        high = np.where(forward > 0, up, np.where(forward < 0, down, both))
        low = -np.where(forward > 0, down, np.where(forward < 0, up, both))
        columns.append((slope, bend, low, high))
    if math.isfinite(tool[1]):
        one = np.ones((len(ways), 1))
        columns.append((tool[0] * one, 0 * one, -tool[1] * one, tool[1] * one))
    return Strips(*(np.concatenate(parts, axis=1) for parts in zip(*columns, strict=True)))
