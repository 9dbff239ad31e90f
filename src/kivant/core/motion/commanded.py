"""What a routine commands, in rows, and the exact positions of every axis. No time.

A row is what axes do at once: a rest, or a move that they begin and end together. Targets are kept for each axis, at
those rows only that name it.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from functools import partial
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec import Struct, field

from kivant.core.fields import EXACT_DIGITS
from kivant.core.motion.outline import Places
from kivant.core.motion.spins import NO_SPINS, RowFault, Spins

if TYPE_CHECKING:
    from kivant.core.motion.lines.line import Line

BEGINNING = -1
"""The row at which an axis is where it begins: before all others."""

_FAR = Decimal("inf")
_wholes = partial(array, "q")


class AxisTargets(Struct):
    """What one axis is commanded: ``values``, of which the first is where it begins, and their ``keys``.

    A key is twice the row, which is -1 for the beginning, and 1 more where the value is a way from the last commanded
    exact position.
    """

    values: list[Decimal | int]
    keys: array[int] = field(default_factory=partial(array, "q", [2 * BEGINNING]))

    def position(self, row: int) -> Fraction:
        """Return the exact commanded position before a row, in axis units."""
        index, found = bisect_left(self.keys, 2 * row) - 1, Fraction(0)
        while self.keys[index] & 1:
            found += Fraction(self.values[index])
            index -= 1
        return found + Fraction(self.values[index])

    def positions(self) -> list[Decimal]:
        """Return where the axis begins, and the exact commanded position after each row that names it."""
        position, found = Decimal(0), []
        with localcontext() as context:
            context.prec = EXACT_DIGITS
            for key, value in zip(self.keys, self.values, strict=True):
                position = position + value if key & 1 else Decimal(value)
                found.append(position)
        return found

    def goes(self) -> Iterator[tuple[int, Decimal, Decimal]]:
        """Yield each row that names the axis, and its exact commanded positions before and after it."""
        for key, (before, after) in zip(self.keys[1:], pairwise(self.positions()), strict=True):
            yield key >> 1, before, after

    def beyond(self, least: Decimal | None, most: Decimal | None) -> list[tuple[int, Decimal]]:
        """Return the rows that command a position outside of two limits, if there are any, and the positions."""
        low, high = -_FAR if least is None else least, _FAR if most is None else most
        return [(row, position) for row, _before, position in self.goes() if not low <= position <= high]


class Sparse(Struct):
    """Values of some rows, ascending."""

    rows: array[int] = field(default_factory=_wholes)
    values: array[float] = field(default_factory=lambda: array("d"))

    def add(self, row: int, value: float) -> None:
        """Add the value of a row behind all others."""
        self.rows.append(row)
        self.values.append(value)


class Commands(Struct):
    """The rows of a routine: their places, and what each axis is commanded.

    ``rests`` holds how long rows rest, s, ``factors`` by how much wished speeds are scaled, each as rows and values,
    where it matters; ``apart`` rows in which axes move each by itself, ``spun`` those in which they spin, ``straight``
    and ``placed`` those in which the tool goes to a place, straight or as axes go; ``spins`` says of spins and of
    straight lines what axes do. ``lines`` holds the lines of a straight row from stop to stop, ``slowed`` rows near a
    singular place: how slow, and where.
    """

    axes: Sequence[AxisTargets]
    places: Places = field(default_factory=Places)
    rests: Sparse = field(default_factory=Sparse)
    factors: Sparse = field(default_factory=Sparse)
    apart: array[int] = field(default_factory=_wholes)
    spun: array[int] = field(default_factory=_wholes)
    straight: array[int] = field(default_factory=_wholes)
    placed: array[int] = field(default_factory=_wholes)
    spins: Spins = NO_SPINS
    unreachable: list[RowFault] = field(default_factory=list)
    lines: dict[int, tuple[Line, ...]] = field(default_factory=dict)
    slowed: list[tuple[int, float, str]] = field(default_factory=list)

    def positions(self, row: int) -> tuple[Fraction, ...]:
        """Return the exact commanded positions before a row, in axis units; one row on, those after it."""
        return tuple(axis.position(row) for axis in self.axes)
