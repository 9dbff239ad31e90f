"""The tool of a machine: where axes put it, and which positions put it at a place."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from kivant.core.errors import Fault, KivantError
from kivant.core.geometry import Geometry, GeometryKind, geometry_kind
from kivant.core.geometry.kind import Functions, Place
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path

_GRAIN = Decimal("1e-9")  # of an axis unit, to which positions are told
_DIGITS = 4  # decimal places of what is told of a place: less is rounding
_TURN = 360.0
_FAR = 1000.0  # mm, for an axis without limits
_GRID, _ROUNDS = 9, 12  # places that are tried along each axis, and how often the grid is narrowed
_NARROWER = 2.5  # times each time
_SAME = 1e-6
_THERE = 0.05  # mm or deg: the nearest place is the place itself
_NEAR = 1e-8  # of how far a place is: what rounding makes of one that is reached


class UnreachableError(KivantError):
    """No positions put the tool at a place; ``nearest`` is where it can be instead."""

    def __init__(self, fault: Fault, nearest: Place) -> None:
        super().__init__(fault)
        self.nearest = nearest


class Tool:
    """The tool of a machine with a geometry; places are tuples in the order of ``coordinates``, in mm (or deg)."""

    def __init__(self, machine: Machine, geometry: Geometry) -> None:
        self.geometry, self.kind = geometry, geometry_kind(geometry)
        names = [axis.name for axis in machine.axes]
        self.axes: dict[str, int] = {}
        for role in self.kind.roles:
            name = getattr(geometry.axes, role.key)
            if name is not None:
                self.axes[role.key] = names.index(name)
        self._machine = machine
        # Axes, by their places, of which a whole turn leaves the tool where it is.
        self.turning = {self.axes[role.key] for role in self.kind.roles if role.turns and role.key in self.axes}

    @property
    def coordinates(self) -> tuple[str, ...]:
        """What tells where the tool is."""
        return tuple(c for c in self.kind.coordinates if c != "z" or "z" in self.axes)

    @property
    def unit(self) -> str:
        """The unit of the coordinates."""
        return "mm" if "x" in self.kind.coordinates else "deg"

    @property
    def bounds(self) -> tuple[float, float]:
        """The greatest speed and acceleration of the tool, in its unit and s; infinite where nothing is said."""
        own = (getattr(self.geometry, key, None) for key in ("tool_speed", "tool_acceleration"))
        speed, acceleration = (math.inf if bound is None else bound for bound in own)
        return speed, acceleration

    def wraps(self, axis: int) -> bool:
        """Return whether an axis, by its place in the machine, has a rule of its own for whole turns."""
        return self._machine.axes[axis].limits.wrap is not None

    def _axis(self, role: str) -> Axis:
        return self._machine.axes[self.axes[role]]

    def roles(self, positions: Sequence[Any]) -> dict[str, Any]:
        """Return positions by role, of positions of all axes in their order."""
        return {role.key: positions[self.axes[role.key]] if role.key in self.axes else 0.0 for role in self.kind.roles}

    def place(self, positions: Sequence[Any], functions: Functions = math) -> Place:
        """Return where axes at positions put the tool; with NumPy as `functions`, of arrays."""
        found = self.kind.forward(self.geometry, self.roles(positions), functions)
        return tuple(found[: len(self.coordinates)])

    def links(self, positions: Sequence[float]) -> tuple[tuple[float, float], ...]:
        """Return the joints of what carries the tool, as points seen from above."""
        return self.kind.links(self.geometry, self.roles(positions))

    def targets(self, place: Mapping[str, Decimal | float]) -> dict[str, Decimal]:
        """Return the positions by axis name that put the tool at a place; of a place without z, z stays as it is.

        Raises
        ------
        UnreachableError
            If there are none within lengths and limits; it names the nearest place.
        """
        wanted = tuple(float(place.get(c, 0)) for c in self.kind.coordinates)
        found = self.kind.inverse(self.geometry, wanted, math)
        if math.dist(self.kind.forward(self.geometry, found, math), wanted) > _NEAR * (1 + max(map(abs, wanted))):
            raise self._unreachable(wanted, "lies beyond its reach", len(place))
        at: dict[str, Decimal] = {}
        for role, index in self.axes.items():
            if role == "z" and "z" not in place:
                continue
            axis = self._machine.axes[index]
            value = _within(found[role], *self.limits(index), turns=index in self.turning)
            if value is None:
                position = f"{found[role]:.5g} {axis.unit}"
                raise self._unreachable(wanted, f"would need {axis.name} at {position}, beyond its limits", len(place))
            at[axis.name] = (Decimal(repr(value)).quantize(_GRAIN)).normalize() + 0
        return at

    def along(self, places: Any, begin: Sequence[float]) -> Any:
        """Return the positions that put the tool at places of a path, as arrays of shape (places, axes of the tool).

        The columns are in the order of the axes of the machine. Axes that turn go on from place to place, the first
        being within half a turn of where all axes `begin`.

        Parameters
        ----------
        places : array, shape (places, coordinates)
        begin : sequence of float, axis units

        Raises
        ------
        UnreachableError
            If there are none; it is about the first such place. Limits are not looked at.
        """
        import numpy as np  # where paths are looked at: a check of a machine needs no arrays

        every = dict(zip(self.coordinates, places.T, strict=True))
        wanted = tuple(every.get(name, np.zeros(len(places))) for name in self.kind.coordinates)
        found = self.kind.inverse(self.geometry, wanted, np)
        there = self.kind.forward(self.geometry, found, np)
        missed = np.sqrt(sum((a - b) ** 2 for a, b in zip(there, wanted, strict=True)))
        for row in np.flatnonzero(missed > _NEAR * (1 + np.abs(places).max()))[:1]:
            raise self._unreachable(tuple(float(column[row]) for column in wanted), "lies beyond its reach")
        columns = []
        for index, role in sorted((index, role) for role, index in self.axes.items()):
            at = found[role]
            if index in self.turning:
                at = np.unwrap(at, period=_TURN)
                at = at + _TURN * np.round((begin[index] - at[0]) / _TURN)
            columns.append(at)
        return np.stack(columns, axis=-1)

    def refuse_beyond(self, places: Any, positions: Any) -> None:
        """Refuse places of a path at which positions, as `along` returns them, are beyond limits.

        Raises
        ------
        UnreachableError
            It is about the first such place.
        """
        for index, at in zip(sorted(self.axes.values()), positions.T.tolist(), strict=True):
            axis = self._machine.axes[index]
            low, high = self.limits(index)
            for row, position in enumerate(at):
                if not low - _SAME <= position <= high + _SAME:
                    why = f"would need {axis.name} at {position:.5g} {axis.unit}, beyond its limits"
                    at_row = dict(zip(self.coordinates, places[row].tolist(), strict=True))
                    raise self._unreachable(tuple(at_row.get(name, 0.0) for name in self.kind.coordinates), why)

    def limits(self, axis: int) -> tuple[float, float]:
        """Return the least and the greatest position of an axis, by its place in the machine; infinite without one."""
        own = self._machine.axes[axis].limits
        return -math.inf if own.min is None else float(own.min), math.inf if own.max is None else float(own.max)

    def avoids(self, axis: int) -> Sequence[Sequence[float]]:
        """Return the bands of speed that an axis, by its place in the machine, avoids, axis units/s."""
        return self._machine.axes[axis].limits.avoid or ()

    def _unreachable(self, wanted: Place, why: str, told: int | None = None) -> UnreachableError:
        """Return why the tool cannot be at a place, of which only so many coordinates were `told`."""
        nearest = self.nearest(wanted)
        where, near = self.words(wanted[:told]), self.words(nearest[:told])
        remedy = f"The nearest place that the tool reaches is {near}."
        if math.dist(nearest, wanted[: len(nearest)]) < _THERE:
            other = "Choose the other side of the elbow, or change" if hasattr(self.geometry, "elbow") else "Change"
            remedy = f"The axes can reach it, but not in the way the geometry is set. {other} the limits."
        return UnreachableError(Fault(Path.of("tool"), f"The tool cannot be at {where}: that {why}.", remedy), nearest)

    def words(self, place: Place) -> str:
        """Return a place in words: ``x 80, y 60``."""
        pairs = zip(self.coordinates, (round(value, _DIGITS) for value in place), strict=False)
        return ", ".join(f"{name} {float(f'{value:.5g}') + 0:g}" for name, value in pairs) + f" {self.unit}"

    def nearest(self, wanted: Place) -> Place:
        """Return about the nearest place that lengths and limits of the axes allow, by a grid that narrows down."""
        import numpy as np  # where a place cannot be reached: a check of a machine needs no arrays

        roles = [role for role in self.axes if role != "z" or "z" in self.kind.coordinates]
        spans = [_span(self._axis(role)) for role in roles]
        start = self.kind.inverse(self.geometry, wanted, math)
        best = [min(max(start[role], low), high) for role, (low, high) in zip(roles, spans, strict=True)]
        rest = {role.key: 0.0 for role in self.kind.roles}
        for turn in range(_ROUNDS):
            share = np.linspace(-0.5, 0.5, _GRID) / _NARROWER**turn
            own = zip(best, spans, strict=True)
            steps = [np.clip(value + (high - low) * share, low, high) for value, (low, high) in own]
            tried = [axis.ravel() for axis in np.meshgrid(*steps, indexing="ij")]
            there = self.kind.forward(self.geometry, rest | dict(zip(roles, tried, strict=True)), np)
            far = sum((a - b) ** 2 for a, b in zip(there, wanted, strict=True))
            least = int(np.argmin(far))
            best = [float(axis[least]) for axis in tried]
        at = rest | dict(zip(roles, best, strict=True))
        return tuple(self.kind.forward(self.geometry, at, math)[: len(self.coordinates)])


def tool_of(machine: Machine) -> Tool | None:
    """Return the tool of a machine; None where its axes are independent."""
    geometry = machine.geometry
    return Tool(machine, geometry) if geometry is not None and geometry_kind(geometry).coordinates else None


def bounded_tool_of(machine: Machine) -> Tool | None:
    """Return the tool of a machine if it has limits of its own."""
    tool = tool_of(machine)
    return tool if tool is not None and min(tool.bounds) < math.inf else None


def kind_of(machine: Machine) -> GeometryKind | None:
    """Return the kind of a machine's geometry, None where it has none."""
    return geometry_kind(machine.geometry) if machine.geometry is not None else None


def _within(value: float, low: float, high: float, *, turns: bool) -> float | None:
    """Return a position within limits, of an axis that turns a whole number of turns away; None if none is."""
    whole = [0]
    if turns:
        least = math.ceil((low - value) / _TURN - _SAME) if math.isfinite(low) else -1
        most = math.floor((high - value) / _TURN + _SAME) if math.isfinite(high) else 1
        whole = sorted(range(max(least, -1000), min(most, 1000) + 1), key=abs)
    for turn in whole:
        found = value + turn * _TURN
        if low - _SAME <= found <= high + _SAME:
            return min(max(found, low), high)
    return None


def _span(axis: Axis) -> tuple[float, float]:
    wide = _TURN / 2 if axis.unit == "deg" else _FAR
    low, high = axis.limits.min, axis.limits.max
    if low is not None and high is not None:
        return float(low), float(high)
    if low is not None:
        return float(low), float(low) + 2 * wide
    return (float(high) - 2 * wide, float(high)) if high is not None else (-wide, wide)
