"""The ramps of all moves of a routine: coordinated ones, axes that go apart, spins and lines of a tool."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, bounded_tool_of
from kivant.core.motion.abilities import abilities_of, rates_table
from kivant.core.motion.commanded import Commands
from kivant.core.motion.coordination import coordinate
from kivant.core.motion.layout import Layout
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import Reals
from kivant.core.motion.shapes import one_table
from kivant.core.motion.special import Special
from kivant.core.motion.spin_ramps import along
from kivant.core.motion.tool_limits import tool_limits
from kivant.core.motion.tool_pace import slowed, slowness
from kivant.core.travel.conversion import steps_per_unit


def row_ramps(machine: Machine, layout: Layout, commanded: Commands) -> Ramps:
    """Return the ramps of all moves, in the order of the layout."""
    able, bounded = abilities_of(machine), bounded_tool_of(machine)
    tool = None if bounded is None else _Tool(machine, bounded, layout, commanded)
    count = len(layout.rows) - len(layout.spins)
    axis, move, way = layout.moves.axis, layout.moves.move, layout.moves.way
    if layout.spins:
        own = (move < count).nonzero()[0]
        axis, move, way = axis[own], move[own], way[own]
    special = Special(axis, able.avoid, able.pulls) if able.avoid or able.pulls else None
    rates, factors = able.rates.take(axis, axis=1), layout.factors(commanded, move)
    laid = coordinate(count, move, way, rates, factors, special, tool.together() if tool else None)
    if tool:
        laid = tool.apart(laid)
    if not layout.spins:
        return laid
    parts = [(np.arange(count), laid), (np.arange(count, len(layout.rows)), along(layout.spins))]
    return one_table(len(layout.rows), parts)


class _Tool:
    """What the limits of a tool make of the moves of its axes."""

    def __init__(self, machine: Machine, tool: Tool, layout: Layout, commanded: Commands) -> None:
        self._machine, self._tool, self._layout = machine, tool, layout
        self._ratios = np.array(abilities_of(machine).ratios.fractions, np.float64)
        moves, rows, loose = layout.moves, layout.rows, layout.loose
        count = len(rows) - len(layout.spins)
        apart = np.zeros(len(commanded.places), np.bool_)
        apart[np.array(commanded.apart, np.int64)] = True
        row = rows[moves.move]
        own = np.flatnonzero((moves.move < count) & (loose.own[loose.origin[row]] == row))
        is_apart = apart[loose.origin[row[own]]]
        self._together, self._apart = own[~is_apart], own[is_apart]
        self._before = np.empty((count, len(machine.axes)))
        named, (over, below) = loose.positions.rows, loose.positions.steps
        for index, (low, high) in enumerate(pairwise(loose.positions.bounds)):
            at = low + np.searchsorted(named[low:high], rows[:count], "left") - 1
            self._before[:, index] = np.asarray(over[at] / below[at], np.float64) / self._ratios[index]

    def together(self) -> tuple[Reals, Reals] | None:
        """Return the greatest speed and acceleration of the paths in which axes go together."""
        moves, own = self._layout.moves, self._together
        axis, move = moves.axis[own], moves.move[own]
        starts, ways = self._before[move, axis], moves.way[own] / self._ratios[axis]
        return tool_limits(self._machine, move, axis, starts, ways, self._before)

    def apart(self, ramps: Ramps) -> Ramps:
        """Return the ramps, slower in rows in which axes go apart where the tool would not keep to its limits."""
        moves, carried = self._layout.moves, list(self._tool.axes.values())
        own = self._apart[np.isin(moves.axis[self._apart], carried)]
        row = self._layout.rows[moves.move[own]]
        own = own[np.argsort(row, kind="stable")]
        times, known = np.ones(len(ramps.places)), dict[bytes, float]()
        for shares in np.split(own, np.flatnonzero(np.diff(np.sort(row))) + 1):
            move, axis = moves.move[shares], moves.axis[shares]
            ways = moves.way[shares] / self._ratios[axis]
            if not len(move):
                continue
            before, laid = self._before[move[0]], Ramps(ramps.table.take(move, axis=2))
            key = b"".join(column.tobytes() for column in (before, axis, ways, laid.breaks_s))
            if key not in known:
                known[key] = slowness(self._tool, before.tolist(), axis.tolist(), ways, laid)
            times[move] = known[key]
        return slowed(ramps, times) if (times > 1.0).any() else ramps


def slowness_apart(
    machine: Machine, before: Sequence[float], ways: Mapping[int, float], rates: Sequence[Rates], factor: float
) -> dict[int, float]:
    """Return how many times as slow axes that carry the tool have to go, each by itself, for ways in steps from places.

    `ways` and `rates` are by the places of axes, in steps; `before` is where all axes are, in axis units.
    """
    tool = bounded_tool_of(machine)
    own = [axis for axis in ways if tool is not None and axis in tool.axes.values()]
    if tool is None or not own:
        return {}
    far = np.array([ways[axis] for axis in own])
    places, special = np.arange(len(own)), Special(np.array(own), abilities_of(machine).avoid, {})
    ramps = coordinate(len(own), places, far, rates_table([rates[axis] for axis in own]), factor, special)
    ratios = np.array([float(steps_per_unit(machine.axes[axis])) for axis in own])
    return dict.fromkeys(own, slowness(tool, before, own, far / ratios, ramps))
