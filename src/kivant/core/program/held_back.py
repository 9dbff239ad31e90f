"""What holds blocks back: the axis or tool, and its limit, without which each move would take least.

The time of a spin is typed: nothing holds it back.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal, localcontext
from functools import partial
from typing import Any

from msgspec.structs import replace

from kivant.core.fields import EXACT_DIGITS
from kivant.core.latest import Latest
from kivant.core.machine.basis import Basis
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import bounded_tool_of
from kivant.core.motion.blocks import Each
from kivant.core.motion.commanded import Commands
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.program.holder import LIMITS, HeldBack, Limit, freed, may_hold
from kivant.core.program.path_times import RowTime, RowWays
from kivant.core.travel.conversion import steps_per_unit

MOST_LOOKED_AT = 2000
"""Moves that differ from one another and are looked at: in a longer program, the first ones tell."""

_LEAST = 1e-6  # of its time: what a move saves is nothing, if it is less
_LATEST = Latest[HeldBack](2 * MOST_LOOKED_AT)  # an edit of one block has the others looked at no more


def held_back(machine: Machine, commanded: Commands, checkpoint: Callable[[], None] = lambda: None) -> list[HeldBack]:
    """Return what holds back each block that moves axes to targets, in the order in which they are laid."""
    rates = [rates_of(machine, axis) for axis in machine.axes]
    ratios = [float(steps_per_unit(axis)) for axis in machine.axes]
    factors = dict(zip(commanded.factors.rows, commanded.factors.values, strict=True))
    machines, basis = [machine, *_without_tool(machine)], Basis(machine)
    found: dict[int, HeldBack] = {}
    looked_at: set[tuple[object, ...]] = set()
    for row, ways in _ways_of_rows(commanded, len(machine.axes)):
        checkpoint()
        entry = commanded.places.of[row]
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
            continue
        together = not isinstance(commanded.places.block(row), Each)
        at = commanded.positions(row) if len(machines) > 1 else ()
        factor = factors.get(row, 1.0)
        key = (together, factor, at, *sorted(ways.items()))
        if key not in looked_at and len(looked_at) >= MOST_LOOKED_AT:
            break
        looked_at.add(key)
        own = RowWays({axis: float(way) * ratios[axis] for axis, way in ways.items()}, together, at)
        held = _LATEST.of((basis, key), partial(_held, machines, rates, own, factor))
        found[entry] = held._replace(entry=entry)
    if commanded.lines:
        from kivant.core.program.held_lines import held_lines  # NumPy, where a tool goes straight

        found |= held_lines(machine, commanded, checkpoint)
    return [found[entry] for entry in sorted(found)]


def _ways_of_rows(commanded: Commands, axes: int) -> Iterator[tuple[int, dict[int, Decimal]]]:
    """Yield the rows in which axes go to targets, and how far each goes, with sign."""
    rows: dict[int, dict[int, Decimal]] = {}
    with localcontext(prec=EXACT_DIGITS):
        for axis in range(axes):
            for row, before, after in commanded.axes[axis].goes():
                if before != after:
                    rows.setdefault(row, {})[axis] = after - before
    for row in sorted(rows):
        if row not in commanded.spins.heads:
            yield row, rows[row]


def _without_tool(machine: Machine) -> list[Machine]:
    """Return the machine without the speed and without the acceleration of its tool; none, if that has no limits."""
    geometry: Any = machine.geometry
    if bounded_tool_of(machine) is None:
        return []
    lifted = (replace(geometry, **{key: None}) for key in ("tool_speed", "tool_acceleration"))
    return [replace(machine, geometry=own) for own in lifted]


def _held(machines: Sequence[Machine], rates: Sequence[Rates], row: RowWays, factor: float) -> HeldBack:
    """Return what holds a row back; `machines` are the one and what it is without each limit of its tool."""
    machine, times = machines[0], [RowTime(machine, row) for machine in machines]
    seconds = times[0].seconds(rates, factor)
    free: list[tuple[int | None, Limit, RowTime, Sequence[Rates]]] = [
        (axis, limit, times[0], freed(rates, axis, limit))
        for axis in row.ways
        for limit in LIMITS
        if may_hold(rates[axis], limit, factor)
    ]
    free += [(None, limit, time, rates) for limit, time in zip(LIMITS, times[1:], strict=False)]
    best: tuple[float, int | None, Limit | None] = (0.0, next(iter(row.ways)), None)
    for axis, limit, time, own in free:
        saved = seconds - time.seconds(own, factor)
        if saved > best[0] * (1 + 1e-9) and saved > _LEAST * seconds:
            best = saved, axis, limit
    needed = {}
    paths = times[0].paths(rates, factor)
    by_tool = seconds > max(gone for gone, _whole in paths) * (1 + _LEAST)  # no way is too short then
    for group, (_gone, whole) in zip(row.groups, paths, strict=True):
        # The axis whose speed would be the path's.
        slowest = min(group, key=lambda axis: rates[axis].speed / abs(group[axis]))
        way = abs(group[slowest]) * whole / float(steps_per_unit(machine.axes[slowest]))
        needed[slowest] = way if whole > 1.0 and not by_tool else 0.0
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, needed, len(row.ways))
