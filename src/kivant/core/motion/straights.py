"""Rows in which a tool goes straight: what their axes do, in place of going straight themselves."""

from __future__ import annotations

from array import array
from collections.abc import Callable, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from itertools import groupby
from typing import TYPE_CHECKING, cast

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import UnreachableError, tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.speed_course import Course, Piece, seconds_of, way_of
from kivant.core.motion.spins import Commanded, RowFault, Share, Spins
from kivant.core.motion.straight import TOLERANCE_MM, Straight, is_singular, straight
from kivant.core.path import Path
from kivant.core.quantity import as_decimal
from kivant.core.travel.play import play_of

if TYPE_CHECKING:
    from kivant.core.motion.routine import Commands

_GRAIN = Decimal("1e-9")  # of an axis unit, to which the end of a line is told
_PLACE = Decimal("1e-12")


def with_straights(machine: Machine, found: Commands, checkpoint: Callable[[], None]) -> Spins:
    """Return what axes do in rows of spins and of straight lines, and make their ends the targets of those rows."""
    tool = tool_of(machine)
    assert tool is not None
    spins = found.spins
    shares: list[list[Share]] = [list(own) for own in spins.shares] or [[] for _ in machine.axes]
    heads, seconds = dict(spins.heads), dict(spins.seconds)
    known: dict[tuple[object, ...], Straight] = {}
    replaced: dict[int, list[Share]] = {axis: [] for axis in tool.axes.values()}
    rows = list(found.straight)
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        for row in rows:
            checkpoint()
            block, before = cast(Move, found.places.block(row)), found.positions(row)
            key = (id(block), *(before[axis] for axis in replaced))
            try:
                if key not in known:
                    known[key] = _line(machine, found, block, before)
            except UnreachableError as error:
                fault = error.faults[0]
                found.unreachable.append(RowFault(row, Path.of("tool"), fault.message, fault.remedy))
                continue
            one = known[key]
            if is_singular(one):
                found.slowed.append((row, one.slowest, tool.words(one.where)))
            heads[row], seconds[row] = row, one.seconds
            for axis, own in replaced.items():
                end = (Decimal(repr(one.ends[axis])).quantize(_GRAIN)).normalize() + 0
                _aim(found.axes[axis], row, end)
                made = _shares(row, one.courses[axis], end - as_decimal(before[axis]))
                own += made
                if len({share.way > 0 for share in made}) > 1 and play_of(machine.axes[axis]).steps:
                    name = machine.axes[axis].name
                    message = f"{name} turns round on this line, and has play to take up there."
                    remedy = "Part the line where it turns, or go there without “straight”."
                    found.unreachable.append(RowFault(row, Path.of("straight"), message, remedy))
    done = set(heads) & set(rows)
    for axis, own in replaced.items():
        _merge(found.axes[axis], own, done)
        shares[axis] = sorted([*shares[axis], *own], key=lambda share: share.row)
    return spins._replace(heads=heads, seconds=seconds, shares=shares)


def _line(machine: Machine, found: Commands, block: Move, before: Sequence[Fraction]) -> Straight:
    tool = tool_of(machine)
    assert tool is not None and block.tool is not None
    start = [float(position) for position in before]
    here = dict(zip(tool.coordinates, tool.place(start), strict=True))
    target = [float(block.tool.get(name, Decimal(repr(here[name])))) for name in tool.coordinates]
    factor = 1.0 if block.speed_factor is None else block.speed_factor
    return straight(machine, tool, start, target, factor, block.tolerance or TOLERANCE_MM)


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
