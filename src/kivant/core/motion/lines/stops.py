"""Stops on a straight line of a tool: while it stands there, axes turn to where the line goes on, and take up play."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

from kivant.core.motion.speed_course import Course, Pace, Piece, seconds_of, way_of

_GRAIN = 1e-9  # of an axis unit: a shorter way is none


class TakeUp(NamedTuple):
    """When an axis, by its place, takes up its play on a line, s from its beginning, and how."""

    axis: int
    begin_s: float
    pieces: tuple[Piece, ...]


class LineJoiner:
    """Joins what axes do on the parts of a line, with stops between them.

    ``seconds`` is how long all of it takes, ``courses`` what each axis does, and ``take_ups`` where play is taken up.
    """

    def __init__(self, paces: Mapping[int, Pace], factor: float) -> None:
        """Take how each axis changes its speed, by its place, and by how much wished speeds are scaled."""
        self._paces, self._factor = paces, factor
        self._gap_s = max(pace.gap_s for pace in paces.values())
        self._senses = dict.fromkeys(paces, 0)
        self.seconds, self.take_ups = 0.0, list[TakeUp]()
        self.courses: dict[int, Course] = {axis: [] for axis in paces}

    def go(self, seconds: float, courses: Mapping[int, Course]) -> None:
        """Go along a part of the line; what turns round since the part before takes up its play first."""
        own = {axis: _one_way(course) if self._paces[axis].play else course for axis, course in courses.items()}
        senses = {axis: _sense(course) for axis, course in own.items()}
        if self.seconds:
            self._stand(self._gap_s)
        self._take_up(senses)
        for axis, course in own.items():
            self.courses[axis] += course
        self.seconds += seconds
        self._fill()

    def turn(self, ways: Mapping[int, float]) -> None:
        """Turn axes by ways while the tool stands."""
        if not ways:
            return
        if self.seconds:
            self._stand(self._gap_s)
        senses = {axis: 1 if way > 0 else -1 for axis, way in ways.items()}
        self._take_up(senses)
        for axis, way in ways.items():
            self.courses[axis] += self._paces[axis].go(senses[axis], abs(way), self._factor)
        self.seconds = max(seconds_of(self.courses[axis]) for axis in ways)
        self._fill()

    def _take_up(self, senses: Mapping[int, int]) -> None:
        turned = [axis for axis, sense in senses.items() if sense and self._senses[axis] == -sense]
        own = [TakeUp(axis, self.seconds, tuple(self._paces[axis].take_up(senses[axis]))) for axis in turned]
        self.take_ups += [one for one in own if one.pieces]
        self._stand(max((seconds_of(one.pieces) for one in own), default=0.0))
        self._senses.update((axis, sense) for axis, sense in senses.items() if sense)

    def _stand(self, seconds: float) -> None:
        self.seconds += seconds
        self._fill()

    def _fill(self) -> None:
        """Let axes that are there before the others stand."""
        for course in self.courses.values():
            left = self.seconds - seconds_of(course)
            if left > 0:
                course.append(Piece(0, left))


def _way(course: Course) -> float:
    """Return how far a course leads, with sign."""
    return math.fsum(piece.sense * piece.way_after(piece.seconds) for piece in course)


def _sense(course: Course) -> int:
    """Return in which sense a course leads; 0 for none."""
    way = _way(course)
    return 0 if abs(way) <= _GRAIN else 1 if way > 0 else -1


def _one_way(course: Course) -> Course:
    """Return a course in its main sense only: between stops, an axis turns round by what cubics overshoot, no more.

    It is slowed down for that, so that it goes as far.
    """
    way = _way(course)
    kept = [piece if piece.sense * way > 0 else Piece(0, piece.seconds) for piece in course]
    gone = way_of(kept)
    share = abs(way) / gone if gone else 1.0
    return [Piece(p.sense, p.seconds, share * p.speed, share * p.rate, share * p.jerk) for p in kept]
