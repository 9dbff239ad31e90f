"""How long the ways of axes take by their rates, one at a time: what a check of a machine asks.

Ramps that follow a torque are taken for those of their accelerations. Arrays are used only where a tool has limits of
its own, so that a check of most machines needs none.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import NamedTuple

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import bounded_tool_of
from kivant.core.motion.ramp_seconds import PathRates, ramp_seconds
from kivant.core.motion.rates import Bands, Rates, bands_of, path_outside_bands
from kivant.core.travel.conversion import steps_per_unit

Bound = tuple[float, float]
"""Speed and acceleration that a path from 0 to 1 may have by the limits of the tool."""
UNBOUND: Bound = (math.inf, math.inf)

_FASTEST = 1e12  # stands for no limit


def path_seconds(
    ways: Mapping[int, float], rates: Sequence[Rates], factor: float, tool: Bound, avoid: Mapping[int, Bands]
) -> tuple[float, float]:
    """Return what `ramp_seconds` does for the straight path of axes by their places; ways and rates are in steps.

    `avoid` are the bands of speed that axes avoid, in steps/s.
    """
    own = [(rates[axis], abs(way)) for axis, way in ways.items()]

    def tightest(key: str, scale: float = 1.0) -> float:
        return float(min(scale * getattr(rate, key) / way for rate, way in own))

    speed = min(tightest("speed", factor), tightest("pulse_rate"), tool[0])
    shares = ((abs(way), avoid.get(axis, ())) for axis, way in ways.items())
    speed = path_outside_bands(min(speed, _FASTEST), shares)
    up, down = (min(tightest(key), tool[1]) for key in ("acceleration", "deceleration"))
    return ramp_seconds(PathRates(speed, up, down, tightest("start_speed"), tightest("jerk")))


class RowWays(NamedTuple):
    """The ways of a row, in steps with sign, by the places of axes: gone together or each by itself, from `at` on."""

    ways: Mapping[int, float]
    together: bool
    at: Sequence[Fraction] = ()

    @property
    def groups(self) -> list[Mapping[int, float]]:
        """The ways that are gone together."""
        return [self.ways] if self.together else [{axis: way} for axis, way in self.ways.items()]


class RowTime:
    """How long a ``row`` takes on a machine, where axes avoid bands of speed."""

    def __init__(self, machine: Machine, row: RowWays) -> None:
        self._machine, self.row = machine, row
        self._avoid = {axis: bands_of(machine.axes[axis]) for axis in row.ways if machine.axes[axis].limits.avoid}
        self._limited = bounded_tool_of(machine) is not None
        self._bound = self._path_bound() if self._limited and row.together else UNBOUND

    def seconds(self, rates: Sequence[Rates], factor: float) -> float:
        """Return it for rates of all axes in steps, with wished speeds scaled by a factor, s."""
        if not self._limited or self.row.together:
            return max(path[0] for path in self.paths(rates, factor, self._bound))
        from kivant.core.motion.row_ramps import slowness_apart  # NumPy, where a tool has limits

        times = slowness_apart(self._machine, list(map(float, self.row.at)), self.row.ways, rates, factor)
        paths = zip(self.row.ways, self.paths(rates, factor), strict=True)
        return max(times.get(axis, 1.0) * path[0] for axis, path in paths)

    def paths(self, rates: Sequence[Rates], factor: float, bound: Bound = UNBOUND) -> list[tuple[float, float]]:
        """Return what `path_seconds` does for each of its groups, by default as if the tool had no limits."""
        return [path_seconds(group, rates, factor, bound, self._avoid) for group in self.row.groups]

    def _path_bound(self) -> Bound:
        import numpy as np  # where a tool has limits

        from kivant.core.motion.tool_limits import tool_limits

        before = np.array([[float(position) for position in self.row.at]])
        axes = np.array(list(self.row.ways), np.int64)
        ratios = np.array([float(steps_per_unit(self._machine.axes[axis])) for axis in self.row.ways])
        own = np.array(list(self.row.ways.values())) / ratios
        found = tool_limits(self._machine, np.zeros_like(axes), axes, before[0, axes], own, before)
        return UNBOUND if found is None else (float(found[0][0]), float(found[1][0]))
