"""What holds straight lines of a tool back: the limit of an axis, or of the tool, without which each takes least."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from contextlib import suppress
from fractions import Fraction
from typing import NamedTuple, cast

import numpy as np

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


class _Gone(NamedTuple):
    """A straight row from stop to stop: its lines, and how its axes turn, each by itself, while the tool stands."""

    lines: Sequence[Line]
    turns: Sequence[RowTime]
    factor: float
    tolerance: float

    def cubics(self, limits: LineLimits) -> list[Cubics]:
        """Return how the axes go along its lines."""
        return [cubics_along(line, limits, self.factor, self.tolerance) for line in self.lines]

    def turning_s(self, rates: Sequence[Rates]) -> float:
        """Return how long axes turn while the tool stands; ``rates`` are those of all axes in steps."""
        return math.fsum(max(gone for gone, _whole in turn.paths(rates, self.factor)) for turn in self.turns)


def held_lines(machine: Machine, commanded: Commands, checkpoint: Callable[[], None]) -> dict[int, HeldBack]:
    """Return what holds back each line of a routine, by its entry in the outline."""
    tool = tool_of(machine)
    assert tool is not None
    limits, rates = line_limits(machine, tool), [rates_of(machine, axis) for axis in machine.axes]
    found: dict[int, HeldBack] = {}
    known: dict[tuple[int, float], HeldBack] = {}
    for row, lines in commanded.lines.items():
        checkpoint()
        entry, block = commanded.places.of[row], cast(Move, commanded.places.block(row))
        key = id(lines), block.factor
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
        elif all(line.length for line in lines) and (len(known) < MOST_LINES or key in known):
            if key not in known:
                turns = _turns(machine, lines, commanded.positions(row))
                gone = _Gone(lines, turns, block.factor, block.tolerance or TOLERANCE_MM)
                known[key] = _held(gone, limits, rates, commanded.spins.seconds[row])
            found[entry] = known[key]._replace(entry=entry)
    return found


def _turns(machine: Machine, lines: Sequence[Line], before: Sequence[Fraction]) -> list[RowTime]:
    """Return how axes turn to where each line begins, the first time from where they are `before` all of them."""
    found, now = list[RowTime](), [float(position) for position in before]
    for line in lines:
        ways = {axis: way * float(steps_per_unit(machine.axes[axis])) for axis, way in line.ways_from(now).items()}
        found += [RowTime(machine, RowWays(ways, together=False))] if ways else []
        now = line.end
    return found


def _held(gone: _Gone, limits: LineLimits, rates: Sequence[Rates], seconds: float) -> HeldBack:
    """Return what holds a row back that takes `seconds`."""
    ways, axes = gone.cubics(limits), gone.lines[0].axes
    takes = _seconds(ways) + gone.turning_s(rates)
    moved = {axes[column] for own in ways for column in (own.last != own.first).any(axis=0).nonzero()[0]}
    turned = {axis for turn in gone.turns for axis in turn.row.ways}
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
            turning_s = gone.turning_s(rates if axis is None else freed(rates, axis, limit))
            saved = takes - turning_s - _seconds(gone.cubics(free))
            if saved > best[0] and saved > _LEAST * takes:
                best = saved, axis, limit
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, {}, len(turned | moved))


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
