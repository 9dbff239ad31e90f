"""Rows in which a tool goes straight: what their axes do, in place of going straight themselves."""

from __future__ import annotations

import math
from array import array
from collections.abc import Callable, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from itertools import groupby
from typing import TYPE_CHECKING, cast

from kivant.core.drive.drivers import driver_kind
from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, UnreachableError, tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.line_limits import line_limits
from kivant.core.motion.rates import pulse_rate
from kivant.core.motion.speed_course import Course, Piece, seconds_of, way_of
from kivant.core.motion.spins import Commanded, RowError, RowFault, Share, Spins
from kivant.core.motion.straight import TOLERANCE_MM, Line, LineError, Straight, straight
from kivant.core.motion.turns import TurnError, stand_at_turns
from kivant.core.path import Path
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.play import play_of

if TYPE_CHECKING:
    from kivant.core.motion.routine import Commands

_GRAIN = Decimal("1e-9")  # of an axis unit, to which the end of a line is told
_BESIDE = 0.3  # of the tolerance: what standing where an axis turns round may take of it
_PLACE = Decimal("1e-12")


def with_straights(machine: Machine, found: Commands, checkpoint: Callable[[], None]) -> Spins:
    """Return what axes do in rows of spins and of straight lines, and make their ends the targets of those rows."""
    tool = tool_of(machine)
    assert tool is not None
    spins, lines = found.spins, _Lines(machine, tool)
    shares: list[list[Share]] = [list(own) for own in spins.shares] or [[] for _ in machine.axes]
    heads, seconds = dict(spins.heads), dict(spins.seconds)
    replaced: dict[int, list[Share]] = {axis: [] for axis in tool.axes.values()}
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        for row in found.straight:
            checkpoint()
            before = found.positions(row)
            try:
                line, one = lines.of(cast(Move, found.places.block(row)), before)
            except UnreachableError as error:
                fault = error.faults[0]
                found.unreachable.append(RowFault(row, Path.of("tool"), fault.message, fault.remedy))
                continue
            except RowError as error:
                found.unreachable.append(RowFault(row, *error.words))
                continue
            found.lines[row] = line
            if one.is_singular:
                found.slowed.append((row, one.slowest, tool.words(one.where)))
            heads[row], seconds[row] = row, one.seconds
            for axis, own in replaced.items():
                end = (Decimal(repr(one.ends[axis])).quantize(_GRAIN)).normalize() + 0
                _aim(found.axes[axis], row, end)
                own += _shares(row, one.courses[axis], end - as_decimal(before[axis]))
    for axis, own in replaced.items():
        _merge(found.axes[axis], own, set(found.lines))
        shares[axis] = sorted([*shares[axis], *own], key=lambda share: share.row)
    return spins._replace(heads=heads, seconds=seconds, shares=shares)


class _Lines:
    """The straight lines of a routine, each of which is worked out once."""

    def __init__(self, machine: Machine, tool: Tool) -> None:
        self._machine, self._tool = machine, tool
        self._limits = line_limits(machine, tool)
        self._known: dict[tuple[object, ...], tuple[Line, Straight]] = {}

    def of(self, block: Move, before: Sequence[Fraction]) -> tuple[Line, Straight]:
        """Return the line of a block from where all axes are, and how axes go along it."""
        key = (id(block), *(before[axis] for axis in self._tool.axes.values()))
        if key not in self._known:
            self._known[key] = self._made(block, before)
        return self._known[key]

    def _made(self, block: Move, before: Sequence[Fraction]) -> tuple[Line, Straight]:
        assert block.tool is not None
        start = [float(position) for position in before]
        here = dict(zip(self._tool.coordinates, self._tool.place(start), strict=True))
        target = [float(block.tool.get(name, here[name])) for name in self._tool.coordinates]
        line, tolerance = Line(self._tool, start, target), block.tolerance or TOLERANCE_MM
        try:
            found = straight(line, self._limits, block.factor, tolerance)
        except LineError as error:
            raise RowError(Path.of("tolerance"), str(error), "Allow more, or part the line.") from None
        courses = {axis: self._turned(axis, course, line, tolerance) for axis, course in found.courses.items()}
        return line, found._replace(courses=courses)

    def _turned(self, axis: int, course: Course, line: Line, tolerance: float) -> Course:
        """Return a course in which an axis has time enough to turn round."""
        own = self._machine.axes[axis]
        if len({piece.sense for piece in course if piece.sense and piece.way_after(piece.seconds) > _GRAIN}) < 2:
            return course
        if play_of(own).steps:
            message = f"{own.name} turns round on this line, and has play to take up there."
            remedy = "Part the line where it turns, or go there without “straight”."
            raise RowError(Path.of("straight"), message, remedy)
        ratio = float(steps_per_unit(own))
        gap = driver_kind(own.driver).reversal_gap_s(own.driver, pulse_rate(self._machine, own))
        try:
            found, off = stand_at_turns(course, line.begin[axis] * ratio, ratio, gap)
        except TurnError:
            off, found = math.inf, course
        if off and line.moved_by(axis, off) > _BESIDE * tolerance:
            message = f"{own.name} turns round on this line more quickly than its driver can, which needs {gap:.3g} s."
            remedy = "Go slower, allow a greater tolerance, or part the line where it turns."
            raise RowError(Path.of("straight"), message, remedy)
        return found


def _shares(row: int, course: Course, whole: Decimal) -> list[Share]:
    """Return a share for each sense of a course, whose ways add up to the whole one."""
    found: list[Share] = []
    begin = 0.0
    for sense, group in groupby(course, lambda piece: piece.sense):
        pieces: tuple[Piece, ...] = tuple(piece for piece in group if piece.seconds > 0)
        way = (sense * Decimal(way_of(pieces))).quantize(_PLACE)
        if sense and abs(way) > _GRAIN:
            found.append(Share(row, begin, way, pieces))
        begin += seconds_of(pieces)
    if found:
        found[-1] = found[-1]._replace(way=whole - sum((share.way for share in found[:-1]), Decimal(0)))
    return found


def _aim(axis: Commanded, row: int, end: Decimal) -> None:
    """Make a position the absolute target of an axis in a row."""
    index = axis.keys.index(2 * row) if 2 * row in axis.keys else -1
    if index >= 0:
        axis.values[index + 1] = end


def _merge(axis: Commanded, shares: Sequence[Share], rows: set[int]) -> None:
    """Put ways in the place of the targets of rows."""
    kept = [pair for pair in zip(axis.keys, axis.values[1:], strict=True) if pair[0] >> 1 not in rows]
    entries = [*kept, *((2 * share.row + 1, share.way) for share in shares)]
    entries.sort(key=lambda entry: entry[0])
    axis.keys[:] = array("q", [key for key, _value in entries])
    axis.values[1:] = [value for _key, value in entries]
