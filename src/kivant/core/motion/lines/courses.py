"""What axes do along straight lines of a tool: drivers get the time they need, and play is taken up on the way.

Where an axis with play turns round, the tool stops on its line; the axis takes up its play, and the line goes on. So it
does at the centre of a turntable, where that has to turn before the line can go on.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import partial
from typing import NamedTuple

import numpy as np

from kivant.core.latest import Latest
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, UnreachableError
from kivant.core.motion.blocks import Move
from kivant.core.motion.lines.limits import line_limits
from kivant.core.motion.lines.line import Line
from kivant.core.motion.lines.stops import LineJoiner, TakeUp
from kivant.core.motion.lines.straight import TOLERANCE_MM, LineError, Straight, off_line, straight
from kivant.core.motion.lines.turns import TurnError, stand_at_turns
from kivant.core.motion.speed_course import Course, Pace
from kivant.core.motion.spins import RowError
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_unit

_BESIDE = 0.3  # of the tolerance: what standing where an axis turns round may take of it
_GRAIN = 1e-9  # of an axis unit: a shorter way is none
_END = 1e-6  # of a line: an axis that turns round nearer to its ends does so before or after it
_CUTS = (0.01, 0.5)  # of the tolerance: so much of a line is left out where an axis would all but leap there
_LEAST = 1e-12  # mm: a line that is shorter is none
_KNOWN = 400  # lines, each of which takes 25 KB, or 150 KB with a jerk
_WORTH = 0.99  # of the time that a line takes: if it takes less, more of it is left out


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
    """The straight lines of a machine: each is worked out once, and known as long as it is among the latest."""

    def __init__(self, machine: Machine, tool: Tool) -> None:
        self._machine, self._tool = machine, tool
        self._limits = line_limits(machine, tool)
        self._paces = {axis: Pace(machine, machine.axes[axis]) for axis in sorted(tool.axes.values())}
        self._known = Latest[Gone](_KNOWN)

    def of(self, block: Move, before: Sequence[Fraction], checkpoint: Callable[[], None]) -> Gone:
        """Return how axes go along the line of a block from where all axes are.

        `checkpoint` is called now and then; what it raises ends the work.

        Raises
        ------
        RowError, UnreachableError
            If they cannot.
        """
        assert block.tool is not None
        # Where other axes are is of no account.
        start = tuple(float(at) if axis in self._paces else 0.0 for axis, at in enumerate(before))
        here = dict(zip(self._tool.coordinates, self._tool.place(start), strict=True))
        target = tuple(float(block.tool.get(name, here[name])) for name in here)
        wanted = start, target, block.factor, block.tolerance or TOLERANCE_MM
        try:
            return self._known.of(wanted, partial(self._made, *wanted, checkpoint))
        except LineError as error:
            raise RowError(Path.of("tolerance"), str(error), "Allow more, or split the line.") from None

    def _made(
        self,
        start: Sequence[float],
        target: Sequence[float],
        factor: float,
        tolerance: float,
        checkpoint: Callable[[], None],
    ) -> Gone:
        """Return how axes go to a place of the tool from where all of them are."""
        line = Line(self._tool, start, target)
        checkpoint()
        if line.length < _LEAST:
            stands = {axis: start[axis] for axis in self._paces}
            return Gone((line,), 0.0, stands, {axis: [] for axis in stands}, (), False, 1.0, ())
        self._refuse_other_side(line, tolerance)
        gone, errors = None, list[Exception]()
        for parts in self._options(line, tolerance):
            try:
                other = self._along(line, parts, factor, tolerance, checkpoint)
            except (LineError, RowError, UnreachableError) as error:
                errors.append(error)
            else:
                gone = other if gone is None or other.seconds < _WORTH * gone.seconds else gone
        if gone is None:
            raise errors[0]
        return gone

    def _options(self, line: Line, tolerance: float) -> list[tuple[Line, ...]]:
        """Return in which parts a line may be gone: as it is, and with cuts where axes all but leap.

        Where one leaps however narrow the cut is, the line as it is would take hours.
        """
        narrow, wide = (part * tolerance / line.length for part in _CUTS)
        leaps = line.leaps(wide)
        if not leaps:
            return [(line,)]
        sharp = line.leaps(narrow)
        return [line.parts(_cuts(sharp, narrow)) if sharp else (line,), line.parts(_cuts(leaps, wide))]

    def _along(
        self, line: Line, parts: Sequence[Line], factor: float, tolerance: float, checkpoint: Callable[[], None]
    ) -> Gone:
        """Return how axes go along the parts of a line, with a stop wherever one has to take up its play."""
        checkpoint()
        entered, now = list[Line](), line.begin
        for part in parts:
            entered.append(part.entered(now))
            now = entered[-1].end
        parts = [piece for part in entered for piece in part.parts(self._stops(part))]
        found = [straight(part, self._limits, factor, tolerance, checkpoint) for part in parts]
        gone = self._joined(line, parts, found, factor, tolerance)
        courses = {axis: self._turned(axis, course, line, tolerance) for axis, course in gone.courses.items()}
        return gone._replace(courses=courses)

    def _refuse_other_side(self, line: Line, tolerance: float) -> None:
        """Refuse a line that begins where the axes are not as the geometry has them, unless they may turn in place."""
        ways = line.ways_from(line.begin)
        if line.off(line.begin, ways) > tolerance:
            for axis, way in ways.items():
                own = self._machine.axes[axis]
                at, here = f"{line.begin[axis] + way:.7g} {own.unit}", f"{line.begin[axis]:.7g}"
                message = f"For a straight line from here, the geometry has {own.name} at {at}; it is at {here}."
                remedy = f"Move {own.name} there first, or go to a place of the tool."
                raise RowError(Path.of("straight"), message, remedy)

    def _stops(self, line: Line) -> list[tuple[float, float]]:
        """Return the shares of a line at which axes have to take up play, twice each: nothing is cut out."""
        columns = [column for column, axis in enumerate(line.axes) if self._paces[axis].play]
        found = sorted({share for column in columns for share in line.turns(column) if _END < share < 1 - _END})
        return [(share, share) for share in found]

    def _joined(
        self, line: Line, parts: Sequence[Line], found: Sequence[Straight], factor: float, tolerance: float
    ) -> Gone:
        """Return the parts one behind the other, with stops in which axes turn and take up play between them."""
        joiner, now, turned = LineJoiner(self._paces, factor), list(line.begin), []
        for part, one in zip(parts, found, strict=True):
            ways = part.ways_from(now)
            if ways:
                off = line.off(now, ways)
                if off > tolerance:
                    raise off_line(line, off, tolerance)
                turned.append((np.array(self._tool.place(now)) + part.start) / 2)
            joiner.turn(ways)
            joiner.go(one.seconds, one.courses)
            for axis, end in one.ends.items():
                now[axis] = end
        slowest = min(found, key=lambda one: one.slowest)
        where = tuple(turned[0].tolist()) if turned else slowest.where
        return Gone(
            tuple(part for part in parts if part.length) or (line,), joiner.seconds, found[-1].ends, joiner.courses,
            tuple(joiner.take_ups), bool(turned) or slowest.is_singular, 0.0 if turned else slowest.slowest, where,
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
            message = f"{own.name} reverses on this line faster than its driver can, which needs {gap:.3g} s."
            remedy = "Go slower, allow a greater tolerance, or split the line where it reverses."
            raise RowError(Path.of("straight"), message, remedy)
        return found


def _cuts(leaps: Sequence[float], wide: float) -> list[tuple[float, float]]:
    """Return stretches of a line, so wide, around some of its shares."""
    return [(max(share - wide / 2, 0.0), min(share + wide / 2, 1.0)) for share in leaps]
