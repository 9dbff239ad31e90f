"""What holds straight lines of a tool back: the limit of an axis, or of the tool, without which each takes least."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from contextlib import suppress
from fractions import Fraction
from functools import partial
from typing import NamedTuple, cast

import numpy as np

from kivant.core.latest import Latest
from kivant.core.machine.basis import Basis
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.commanded import Commands
from kivant.core.motion.lines.cubic_course import Cubics
from kivant.core.motion.lines.limits import LineLimits, line_limits
from kivant.core.motion.lines.line import Line
from kivant.core.motion.lines.straight import TOLERANCE_MM, LineError, cubics_along
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.program.holder import LIMITS, HeldBack, Limit, freed, may_hold
from kivant.core.program.path_times import RowTime, RowWays
from kivant.core.travel.conversion import steps_per_unit

MOST_LINES = 200
"""Lines that differ from one another and are looked at: of more, the first ones tell."""

_NEAR = 0.5  # of a limit: one that is never nearer holds nothing back
_LEAST = 1e-4  # of its time: what a line saves is nothing, if it is less
_LATEST = Latest[HeldBack](4 * MOST_LINES)  # an edit of one line has the others looked at no more


class _Gone(NamedTuple):
    """A straight row from stop to stop: its lines, where the axes of the tool are before it, and how long it takes."""

    lines: tuple[Line, ...]
    begin: tuple[Fraction, ...]
    factor: float
    tolerance: float
    seconds: float

    def cubics(self, limits: LineLimits, checkpoint: Callable[[], None]) -> list[Cubics]:
        """Return how the axes go along its lines."""
        return [cubics_along(line, limits, self.factor, self.tolerance, checkpoint) for line in self.lines]

    def turns(self, machine: Machine) -> list[RowTime]:
        """Return how axes turn, each by itself, to where each line begins, while the tool stands."""
        found, now = list[RowTime](), [0.0] * len(machine.axes)
        for axis, at in zip(self.lines[0].axes, self.begin, strict=True):
            now[axis] = float(at)
        for line in self.lines:
            ways = {axis: way * float(steps_per_unit(machine.axes[axis])) for axis, way in line.ways_from(now).items()}
            found += [RowTime(machine, RowWays(ways, together=False))] if ways else []
            now = line.end
        return found


def held_lines(machine: Machine, commanded: Commands, checkpoint: Callable[[], None]) -> dict[int, HeldBack]:
    """Return what holds back each line of a routine, by its entry in the outline."""
    found: dict[int, HeldBack] = {}
    looked_at: set[_Gone] = set()
    basis = Basis(machine)
    for row, lines in commanded.lines.items():
        checkpoint()
        entry, block = commanded.places.of[row], cast(Move, commanded.places.block(row))
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
        elif all(line.length for line in lines):
            before = commanded.positions(row)
            begin = tuple(before[axis] for axis in lines[0].axes)
            gone = _Gone(lines, begin, block.factor, block.tolerance or TOLERANCE_MM, commanded.spins.seconds[row])
            if len(looked_at) < MOST_LINES or gone in looked_at:
                looked_at.add(gone)
                held = _LATEST.of((basis, gone), partial(_held, machine, gone, checkpoint))
                found[entry] = held._replace(entry=entry)
    return found


def _held(machine: Machine, gone: _Gone, checkpoint: Callable[[], None]) -> HeldBack:
    """Return what holds a row back."""
    tool = tool_of(machine)
    assert tool is not None
    limits, rates = line_limits(machine, tool), [rates_of(machine, axis) for axis in machine.axes]
    turns = gone.turns(machine)
    ways, axes = gone.cubics(limits, checkpoint), gone.lines[0].axes
    takes = _seconds(ways) + _turning_s(turns, rates, gone.factor)
    moved = {axes[column] for own in ways for column in (own.last != own.first).any(axis=0).nonzero()[0]}
    turned = {axis for turn in turns for axis in turn.row.ways}
    near = {limit: np.max([_near(own, limits, gone.factor)[limit] for own in ways], axis=0) for limit in LIMITS}
    options: list[tuple[int | None, Limit]] = [
        (axis, limit) for limit in LIMITS for column, axis in enumerate(axes)
        if may_hold(rates[axis], limit, gone.factor)
        and (axis in turned or (axis in moved and (near[limit][column] > _NEAR or _sets_pace(limits, column, limit))))
    ]  # fmt: skip
    options += [(None, "speed")] if np.isfinite(limits.tool_speed) else []
    options += [(None, "acceleration")] if np.isfinite(limits.tool_acceleration) else []
    best: tuple[float, int | None, Limit | None] = (0.0, None, None)
    for axis, limit in options:
        free = limits.without(limit, None if axis is None else axes.index(axis))
        with suppress(LineError):  # so fast, the tool would be off its line
            other = rates if axis is None else freed(rates, axis, limit)
            saved = takes - _turning_s(turns, other, gone.factor) - _seconds(gone.cubics(free, checkpoint))
            if saved > best[0] and saved > _LEAST * takes:
                best = saved, axis, limit
    return HeldBack(0, best[1], best[2], best[0], gone.seconds, 1, {}, len(turned | moved))


def _turning_s(turns: Sequence[RowTime], rates: Sequence[Rates], factor: float) -> float:
    """Return how long axes turn while the tool stands; ``rates`` are those of all axes in steps."""
    return math.fsum(max(gone for gone, _whole in turn.paths(rates, factor)) for turn in turns)


def _seconds(ways: Sequence[Cubics]) -> float:
    return math.fsum(float(cubics.times.sum()) for cubics in ways)


def _sets_pace(limits: LineLimits, column: int, limit: Limit) -> bool:
    """Return whether an axis, by its column, may set the pace by a limit that it does not come near."""
    if limit == "speed":
        return bool(limits.avoid[column])
    return limit == "acceleration" and bool(np.isfinite(limits.jerk).any())


def _near(cubics: Cubics, limits: LineLimits, factor: float) -> dict[Limit, Reals]:
    """Return how near each axis comes to each of its limits, as a share of it."""
    speeds, (first, last) = cubics.greatest_speeds(), cubics.rates()
    rate = np.maximum(np.abs(first), np.abs(last)) / np.minimum(*limits.rates(speeds))
    return {
        "speed": (speeds / (factor * limits.speed)).max(axis=0),
        "pulse rate": (speeds / limits.pulse_rate).max(axis=0),
        "acceleration": rate.max(axis=0),
        "jerk": np.where(np.isfinite(limits.jerk), 1.0, 0.0),
    }
