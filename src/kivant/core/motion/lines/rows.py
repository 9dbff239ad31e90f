"""Rows in which a tool goes straight: what their axes do, in place of going straight themselves."""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Callable, Sequence
from decimal import Decimal, localcontext
from itertools import groupby
from typing import TYPE_CHECKING, cast

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.basis import Basis
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import UnreachableError, tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.lines.courses import Gone
from kivant.core.motion.lines.known import lines_of
from kivant.core.motion.shortest_ways import take_shortest_ways, turn_on
from kivant.core.motion.speed_course import Piece, seconds_of, way_of
from kivant.core.motion.spins import Commanded, RowError, RowFault, Share, Spins
from kivant.core.motion.whole_turns import TURN
from kivant.core.path import Path
from kivant.core.quantity import as_decimal

if TYPE_CHECKING:
    from kivant.core.motion.commanded import AxisTargets, Commands

_GRAIN = Decimal("1e-9")  # of an axis unit, to which the end of a line is told
_PLACE = Decimal("1e-12")


def with_straights(machine: Machine, found: Commands, checkpoint: Callable[[], None]) -> Spins:
    """Return what axes do in rows of spins and of straight lines, and make their ends the targets of those rows."""
    tool = tool_of(machine)
    assert tool is not None
    spins, lines = found.spins, lines_of(Basis(machine))
    shares: list[list[Share]] = [list(own) for own in spins.shares] or [[] for _ in machine.axes]
    heads, seconds = dict(spins.heads), dict(spins.seconds)
    replaced: dict[int, list[Share]] = {axis: [] for axis in tool.axes.values()}
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        placed = array("q", found.placed)
        for row in found.straight:
            checkpoint()
            between = placed[: bisect_left(placed, row)]
            if between:
                take_shortest_ways(tool, found, between)
                placed = placed[len(between) :]
            before = found.positions(row)
            try:
                one = lines.of(cast(Move, found.places.block(row)), before, checkpoint)
            except UnreachableError as error:
                fault = error.faults[0]
                found.unreachable.append(RowFault(row, Path.of("tool"), fault.message, fault.remedy))
                continue
            except RowError as error:
                found.unreachable.append(RowFault(row, *error.words))
                continue
            found.lines[row] = one.parts
            if one.is_singular:
                found.slowed.append((row, one.slowest, tool.words(one.where)))
            heads[row], seconds[row] = row, one.seconds
            for axis, own in replaced.items():
                end = (Decimal(repr(one.ends[axis])).quantize(_GRAIN)).normalize() + 0
                _aim(found.axes[axis], row, end, wraps=tool.wraps(axis))
                own += _shares(row, one, axis, end - as_decimal(before[axis]))
        if placed:
            take_shortest_ways(tool, found, placed)
    for axis, own in replaced.items():
        _merge(found.axes[axis], own, set(found.lines))
        shares[axis] = sorted([*shares[axis], *own], key=lambda share: share.row)
    return spins._replace(heads=heads, seconds=seconds, shares=shares)


def _shares(row: int, gone: Gone, axis: int, whole: Decimal) -> list[Share]:
    """Return a share for each sense of what an axis does, whose ways add up to the whole one, and its take-ups."""
    found: list[Share] = []
    begin = 0.0
    for sense, group in groupby(gone.courses[axis], lambda piece: piece.sense):
        pieces: tuple[Piece, ...] = tuple(piece for piece in group if piece.seconds > 0)
        way = (sense * Decimal(way_of(pieces))).quantize(_PLACE)
        if sense and abs(way) > _GRAIN:
            found.append(Share(row, begin, way, pieces))
        begin += seconds_of(pieces)
    if found:  # what rounding leaves is of no account in the longest
        far = max(range(len(found)), key=lambda k: abs(found[k].way))
        found[far] = found[far]._replace(way=found[far].way + whole - sum((share.way for share in found), Decimal(0)))
    found += (Share(row, taken.begin_s, Decimal(0), taken.pieces) for taken in gone.take_ups if taken.axis == axis)
    return sorted(found, key=lambda share: share.begin_s)


def _aim(axis: AxisTargets, row: int, end: Decimal, *, wraps: bool) -> None:
    """Make a position the absolute target of an axis in a row; where it wraps, all that follow go on from there."""
    index = bisect_left(axis.keys, 2 * row)
    if index < len(axis.keys) and axis.keys[index] == 2 * row:
        turns = round((end - Decimal(axis.values[index])) / TURN)
        axis.values[index] = end
        if wraps and turns:
            turn_on(axis, row, turns)


def _merge(axis: Commanded, shares: Sequence[Share], rows: set[int]) -> None:
    """Put ways in the place of the targets of rows."""
    kept = [pair for pair in zip(axis.keys, axis.values, strict=True) if pair[0] >> 1 not in rows]
    entries = [*kept, *((2 * share.row + 1, share.way) for share in shares)]
    entries.sort(key=lambda entry: entry[0])
    axis.keys[:] = array("q", [key for key, _value in entries])
    axis.values[:] = [value for _key, value in entries]
