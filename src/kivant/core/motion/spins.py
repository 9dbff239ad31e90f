"""Spins: what axes do in rows of spins, one behind the other, in which speeds change on their ramps without a stop.

A row of spins begins and ends at rest. From the beginning of each spin an axis that it names goes to its speed, and one
that it does not name brakes; in the last one, all brake within its time.
"""

from __future__ import annotations

from array import array
from collections.abc import Callable, Iterator, Mapping, Sequence
from decimal import Decimal, localcontext
from itertools import groupby
from typing import NamedTuple, Protocol, cast

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.blocks import Spin
from kivant.core.motion.outline import Places
from kivant.core.motion.speed_course import Course, Moving, Pace, Piece, cut_off, greatest, seconds_of, way_of
from kivant.core.path import Path

MOST_SPINS = 100_000
"""Spins that a routine may make, all turns of repeats counted: each is worked out by itself."""

_PLACE = Decimal("1e-12")  # of an axis unit: to which the end of a spin is told
_SAME = 1e-12


class Share(NamedTuple):
    """What an axis does within one row in one sense: a way (with sign), and the pieces it is made of.

    Without a way, it takes up its play there.
    """

    row: int
    begin_s: float
    way: Decimal
    pieces: tuple[Piece, ...]


class RowFault(NamedTuple):
    """Why the block of a row cannot be done; ``inner`` leads from the block to what is wrong."""

    row: int
    inner: Path
    message: str
    remedy: str


class RowError(Exception):
    """The block of a row cannot be done; ``words`` are those of its `RowFault`."""

    def __init__(self, inner: Path, message: str, remedy: str) -> None:
        super().__init__(message)
        self.words = inner, message, remedy


class Spins(NamedTuple):
    """What axes do in all rows of spins.

    Parameters
    ----------
    heads : mapping of int to int
        For each row of a spin, the first row of those that follow one another without a stop.
    seconds : mapping of int to float
        How long each row takes, s.
    shares : sequence of lists of Share
        For each axis, in order.
    faults : list of RowFault
    """

    heads: Mapping[int, int]
    seconds: Mapping[int, float]
    shares: Sequence[Sequence[Share]]
    faults: Sequence[RowFault]


NO_SPINS = Spins({}, {}, (), ())


class Commanded(Protocol):
    """What an axis is commanded: see `kivant.core.motion.routine.AxisTargets`."""

    keys: array[int]
    values: list[Decimal | int]


def spun(
    machine: Machine, places: Places, rows: Sequence[int], targets: Sequence[Commanded],
    checkpoint: Callable[[], None], shares: Mapping[int, float],
) -> Spins:  # fmt: skip
    """Return what axes do in rows of spins, and add to their targets where they come to.

    `shares` are those of their accelerations that axes use, by the first row of those that follow one another.
    """
    found = Spins({}, {}, [[] for _ in machine.axes], [])
    if len(rows) > MOST_SPINS:
        message = f"The routine makes {len(rows)} spins; the limit is {MOST_SPINS}."
        return found._replace(faults=[RowFault(rows[0], Path(), message, "Repeat them less often.")])
    paces = {
        share: {axis.name: Pace(machine, axis, share) for axis in machine.axes} for share in {1.0, *shares.values()}
    }
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        for run in _runs(rows):
            checkpoint()
            blocks = [cast(Spin, places.block(row)) for row in run]
            _Run(machine, paces[shares.get(run[0], 1.0)], run, blocks, found).solve()
    for axis, own in zip(targets, found.shares, strict=True):
        if own:
            _merge(axis, own)
    return found


def _runs(rows: Sequence[int]) -> Iterator[list[int]]:
    """Yield rows that follow one another."""
    for _key, group in groupby(enumerate(rows), lambda item: item[1] - item[0]):
        yield [row for _index, row in group]


def _merge(axis: Commanded, shares: Sequence[Share]) -> None:
    """Add ways at their rows; no other target is in one of them."""
    entries = [*zip(axis.keys, axis.values, strict=True), *((2 * s.row + 1, s.way) for s in shares)]
    entries.sort(key=lambda entry: entry[0])  # stable: two of one row stay in their order
    axis.keys[:] = array("q", [key for key, _value in entries])
    axis.values[:] = [value for _key, value in entries]


class _Run:
    """Spins that follow one another without a stop."""

    def __init__(
        self, machine: Machine, paces: Mapping[str, Pace], rows: Sequence[int], blocks: Sequence[Spin], found: Spins
    ) -> None:
        self.rows, self.blocks, self.found = rows, blocks, found
        named = {name for block in blocks for name in block.speeds}
        self.axes = {axis.name: axis for axis in machine.axes if axis.name in named}
        self.index = {axis.name: i for i, axis in enumerate(machine.axes)}
        self.paces, self.moving = paces, dict.fromkeys(self.axes, Moving())

    def solve(self) -> None:
        """Work out one spin after the other; the first that cannot be done ends it."""
        for row, block in zip(self.rows, self.blocks, strict=True):
            self.found.heads[row] = self.rows[0]  # type: ignore[index]
            try:
                self._solve(row, block, last=row == self.rows[-1])
            except RowError as error:
                self.found.faults.append(RowFault(row, *error.words))  # type: ignore[attr-defined]
                return

    def _solve(self, row: int, block: Spin, *, last: bool) -> None:
        speeds = {name: float(speed) * block.factor for name, speed in block.speeds.items()}
        for name, speed in speeds.items():
            self._refuse_speed(name, speed)
        leader = next(iter(block.speeds))
        courses: dict[str, Course] = {}
        if block.seconds is not None:
            seconds = block.seconds
        else:
            whole = self._distance(block, self.axes[leader])
            courses[leader] = self._over(leader, speeds[leader], float(whole), last=last)
            seconds = seconds_of(courses[leader])
            self._add(row, leader, courses[leader], whole)
        self.found.seconds[row] = seconds  # type: ignore[index]
        for name in self.axes:
            if name not in courses:
                courses[name] = self._within(name, speeds.get(name, 0.0), seconds, last=last)
                self._add(row, name, courses[name])
            moving = self.moving[name].after(courses[name])
            if not moving.speed:
                moving = moving.after([Piece(0, max(seconds - seconds_of(courses[name]), 0.0))])
            self.moving[name] = moving

    def _refuse_speed(self, name: str, speed: float) -> None:
        axis, pace, place = self.axes[name], self.paces[name], Path.of("speeds", name)
        most, why = pace.ceiling(-1 if speed < 0 else 1)
        if abs(speed) > most * (1 + _SAME):
            message = f"{name} would spin at {abs(speed):g} {axis.unit}/s; the limit, by {why}, is {most:.6g}."
            raise RowError(place, message, f"Spin it at {most:.6g} {axis.unit}/s or less, or raise that limit.")
        for low, high in axis.limits.avoid or ():
            if low < abs(speed) < high:
                message = f"{name} avoids {low:g} to {high:g} {axis.unit}/s, and would spin at {abs(speed):g}."
                raise RowError(place, message, f"Spin it at {low:g} or at {high:g} {axis.unit}/s.")

    def _distance(self, block: Spin, axis: Axis) -> Decimal:
        if block.distance is not None:
            return Decimal(repr(block.distance))
        if axis.unit != "deg":
            message = f"The turns are those of {axis.name}, which slides."
            raise RowError(Path.of("turns"), message, "Give a distance, or name an axis first that turns.")
        return 360 * Decimal(repr(block.turns))

    def _within(self, name: str, speed: float, seconds: float, *, last: bool) -> Course:
        """Return what an axis does within the time of a spin."""
        pace, moving = self.paces[name], self.moving[name]
        if last:
            return self._ended(name, speed, seconds, seconds_of)
        course = pace.to_speed(moving, speed)
        needed = seconds_of(course)
        if needed > seconds * (1 + _SAME):
            if pace.keeps_rate:
                raise self._too_short(name, speed, needed)
            return cut_off(course, seconds)
        return [*course, *_cruise(speed, seconds - needed)]

    def _too_short(self, name: str, speed: float, needed: float) -> RowError:
        axis = self.axes[name]
        message = f"{name} needs {needed:.4g} s to change its speed to {speed:g} {axis.unit}/s: the spin is shorter."
        return RowError(Path(), message, f"Give the spin at least {needed:.4g} s.")

    def _ended(self, name: str, speed: float, most: float, measure: Callable[[Course], float]) -> Course:
        """Return what an axis does up to rest, within a most of what is measured: all of the time, or of the way."""
        pace, moving, axis = self.paces[name], self.moving[name], self.axes[name]
        brake = pace.to_speed(moving, 0.0)
        if measure(brake) > most * (1 + _SAME):
            unit = "s" if measure is seconds_of else axis.unit
            message = f"{name} needs {measure(brake):.4g} {unit} to brake from {abs(moving.speed):.6g} {axis.unit}/s."
            raise RowError(Path(), message, f"Give this last spin at least {measure(brake):.4g} {unit}.")
        sense = -1 if speed < 0 else 1

        def ramps(peak: float) -> tuple[Course, Course]:
            return pace.to_speed(moving, sense * peak), pace.to_rest(sense * peak)

        def fits(peak: float) -> bool:
            up, down = ramps(peak)
            return measure([*up, *down]) <= most

        goes_on = moving.speed * speed > 0
        least = abs(moving.speed) if goes_on else pace.start(abs(speed))
        if not speed:
            return brake
        if not fits(abs(speed)) and (least >= abs(speed) or not fits(least)):
            # There is not even time for the way to that speed: it goes on as it is for a while, and brakes.
            return [*_stay(moving, most - measure(brake), measure), *brake] if goes_on else brake
        peak = abs(speed) if fits(abs(speed)) else greatest(least, abs(speed), fits)
        up, down = ramps(peak)
        left = most - measure([*up, *down])
        return [*up, *_cruise(sense * peak, left if measure is seconds_of else left / peak), *down]

    def _over(self, name: str, speed: float, distance: float, *, last: bool) -> Course:
        """Return what the leading axis does over its distance."""
        pace, moving = self.paces[name], self.moving[name]
        if last:
            return self._ended(name, speed, distance, way_of)
        course = pace.to_speed(moving, speed)
        way = way_of(course)
        if way <= distance:
            return [*course, *_cruise(speed, (distance - way) / abs(speed))]
        if pace.keeps_rate:
            raise self._too_short(name, speed, seconds_of(course))
        upto = greatest(0.0, seconds_of(course), lambda seconds: way_of(cut_off(course, seconds)) <= distance)
        return cut_off(course, upto)

    def _add(self, row: int, name: str, course: Course, whole: Decimal | None = None) -> None:
        """Add the shares of a course: what lies between two standstills, in one sense each, after play is taken up."""
        shares: list[Share] = []
        begin, before = 0.0, self.moving[name].sense
        for sense, group in groupby(course, lambda piece: piece.sense):
            pieces = tuple(piece for piece in group if piece.seconds > 0)
            way = (sense * Decimal(way_of(pieces))).quantize(_PLACE) if sense else Decimal(0)
            if way:
                taken = self.paces[name].take_up(sense) if before == -sense else []
                if taken:
                    shares.append(Share(row, begin - seconds_of(taken), Decimal(0), tuple(taken)))
                shares.append(Share(row, begin, way, pieces))
                before = sense
            begin += seconds_of(pieces)
        if whole is not None and shares:  # as far as was typed, and not as rounded sums tell
            sense = 1 if shares[-1].way > 0 else -1
            gone = sum((abs(share.way) for share in shares[:-1]), Decimal(0))
            shares[-1] = shares[-1]._replace(way=sense * (whole - gone))
        cast(list[Share], self.found.shares[self.index[name]]).extend(shares)


def _cruise(speed: float, seconds: float) -> Course:
    if seconds <= 0:
        return []
    return [Piece(0, seconds)] if not speed else [Piece(1 if speed > 0 else -1, seconds, abs(speed))]


def _stay(moving: Moving, left: float, measure: Callable[[Course], float]) -> Course:
    """Return going on at a speed for what is left of what is measured."""
    return _cruise(moving.speed, left if measure is seconds_of else left / abs(moving.speed))
