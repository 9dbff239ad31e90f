"""What axes do along straight lines of a tool: drivers get the time they need, and play is taken up on the way.

Where an axis with play turns round, the tool stops on its line; the axis takes up its play, and the line goes on.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool
from kivant.core.motion.blocks import Move
from kivant.core.motion.line_limits import line_limits
from kivant.core.motion.speed_course import Course, Pace, Piece, seconds_of, way_of
from kivant.core.motion.spins import RowError
from kivant.core.motion.straight import TOLERANCE_MM, LineError, Straight, straight
from kivant.core.motion.tool_line import Line
from kivant.core.motion.turns import TurnError, stand_at_turns
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_unit

_BESIDE = 0.3  # of the tolerance: what standing where an axis turns round may take of it
_GRAIN = 1e-9  # of an axis unit: a shorter way is none
_SIDE = 1e-4  # of an axis unit: an axis that is farther away is on another side
_END = 1e-6  # of a line: an axis that turns round nearer to its ends does so before or after it


class TakeUp(NamedTuple):
    """When an axis, by its place, takes up its play on a line, s from its beginning, and how."""

    axis: int
    begin_s: float
    pieces: tuple[Piece, ...]


class Gone(NamedTuple):
    """How axes go along a line: the parts between the stops on it, its time, s, and for each axis the end and course.

    ``slowest`` and ``where`` are those of `Straight`.
    """

    parts: tuple[Line, ...]
    seconds: float
    ends: dict[int, float]
    courses: dict[int, Course]
    take_ups: tuple[TakeUp, ...]
    is_singular: bool
    slowest: float
    where: tuple[float, ...]


class Lines:
    """The straight lines of a routine, each of which is worked out once."""

    def __init__(self, machine: Machine, tool: Tool) -> None:
        self._machine, self._tool = machine, tool
        self._limits = line_limits(machine, tool)
        self._paces = {axis: Pace(machine, machine.axes[axis]) for axis in sorted(tool.axes.values())}
        self._known: dict[tuple[object, ...], Gone] = {}

    def of(self, block: Move, before: Sequence[Fraction]) -> Gone:
        """Return how axes go along the line of a block from where all axes are.

        Raises
        ------
        RowError, UnreachableError
            If they cannot.
        """
        key = (id(block), *(before[axis] for axis in self._paces))
        if key not in self._known:
            self._known[key] = self._made(block, before)
        return self._known[key]

    def _made(self, block: Move, before: Sequence[Fraction]) -> Gone:
        assert block.tool is not None
        start = [float(position) for position in before]
        here = dict(zip(self._tool.coordinates, self._tool.place(start), strict=True))
        target = [float(block.tool.get(name, here[name])) for name in self._tool.coordinates]
        line, tolerance = Line(self._tool, start, target), block.tolerance or TOLERANCE_MM
        self._refuse_other_side(line)
        self._refuse_leap(line)
        stops = self._stops(line)
        parts = line.parts(sorted(stops)) if stops else (line,)
        try:
            found = [straight(part, self._limits, block.factor, tolerance) for part in parts]
        except LineError as error:
            raise RowError(Path.of("tolerance"), str(error), "Allow more, or part the line.") from None
        gone = self._joined(parts, found, [stops[share] for share in sorted(stops)])
        courses = {axis: self._turned(axis, course, line, tolerance) for axis, course in gone.courses.items()}
        return gone._replace(courses=courses)

    def _refuse_other_side(self, line: Line) -> None:
        """Refuse a line that begins where the axes are not as the geometry has them for that place."""
        for axis, position in zip(line.axes, line.at(np.zeros(1))[0].tolist(), strict=True):
            if abs(position - line.begin[axis]) > _SIDE:
                own = self._machine.axes[axis]
                at, here = f"{position:.7g} {own.unit}", f"{line.begin[axis]:.7g}"
                message = f"For a straight line from here, the geometry has {own.name} at {at}; it is at {here}."
                remedy = f"Move {own.name} there first, or go to a place of the tool."
                raise RowError(Path.of("straight"), message, remedy)

    def _refuse_leap(self, line: Line) -> None:
        """Refuse a line on which an axis would have to turn while the tool stands."""
        for column, axis in enumerate(line.axes):
            own = self._machine.axes[axis]
            if own.unit == "deg" and (leap := line.leap(column)) is not None:
                begin, end, share = leap
                where = self._tool.words(tuple((line.start + share * line.way).tolist()))
                message = f"{own.name} would have to turn from {begin:.4g} to {end:.4g} deg at once, near {where}."
                raise RowError(Path.of("straight"), message, "Go past that place, or stop there and turn it.")

    def _stops(self, line: Line) -> dict[float, dict[int, int]]:
        """Return the shares of a line at which axes have to take up play, and which, with the sense they go on in."""
        found: dict[float, dict[int, int]] = {}
        for column, axis in enumerate(line.axes):
            if self._paces[axis].play and line.length:
                for share in line.turns(column):
                    if _END < share < 1 - _END:
                        here, after = line.at(np.array([share, share + _END]))[:, column].tolist()
                        found.setdefault(share, {})[axis] = 1 if after > here else -1
        return found

    def _joined(self, parts: Sequence[Line], found: Sequence[Straight], stops: Sequence[dict[int, int]]) -> Gone:
        """Return the parts one behind the other, with a standstill in which play is taken up between them."""
        courses: dict[int, Course] = {axis: [] for axis in self._paces}
        taken: list[TakeUp] = []
        seconds = 0.0
        for one, stop in zip(found, (*stops, {}), strict=True):
            seconds += one.seconds
            gap = max(pace.gap_s for pace in self._paces.values()) if stop else 0.0
            own = [TakeUp(axis, seconds + gap, tuple(self._paces[axis].take_up(sense))) for axis, sense in stop.items()]
            stands = gap + max((seconds_of(take_up.pieces) for take_up in own), default=0.0)
            taken += own
            seconds += stands
            for axis, course in one.courses.items():
                course = _one_way(course) if self._paces[axis].play else course
                left = one.seconds - seconds_of(course)  # what rounding makes of sums
                courses[axis] += [*course, *([Piece(0, stands + left)] if stop else [])]
        slowest = min(found, key=lambda one: one.slowest)
        return Gone(
            tuple(parts), seconds, found[-1].ends, courses, tuple(taken), slowest.is_singular, slowest.slowest,
            slowest.where,
        )  # fmt: skip

    def _turned(self, axis: int, course: Course, line: Line, tolerance: float) -> Course:
        """Return a course in which an axis has time enough to turn round."""
        own, gap = self._machine.axes[axis], self._paces[axis].gap_s
        if len({piece.sense for piece in course if piece.sense and piece.way_after(piece.seconds) > _GRAIN}) < 2:
            return course
        ratio = float(steps_per_unit(own))
        try:
            found, off = stand_at_turns(course, line.begin[axis] * ratio, ratio, gap)
            wide = line.moved_by(axis, off) > _BESIDE * tolerance
        except TurnError:
            wide = True
        if wide:
            message = f"{own.name} turns round on this line more quickly than its driver can, which needs {gap:.3g} s."
            remedy = "Go slower, allow a greater tolerance, or part the line where it turns."
            raise RowError(Path.of("straight"), message, remedy)
        return found


def _one_way(course: Course) -> Course:
    """Return a course in its main sense only: between stops, an axis turns round by what cubics overshoot, no more.

    It is slowed down for that, so that it goes as far.
    """
    way = math.fsum(piece.sense * piece.way_after(piece.seconds) for piece in course)
    kept = [piece if piece.sense * way > 0 else Piece(0, piece.seconds) for piece in course]
    gone = way_of(kept)
    share = abs(way) / gone if gone else 1.0
    return [Piece(p.sense, p.seconds, share * p.speed, share * p.rate, share * p.jerk) for p in kept]
