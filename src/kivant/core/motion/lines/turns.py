"""Turns: where an axis turns round on the way, it stands for as long as its driver needs between steps of two senses.

How long lies between its last step one way and its first one back depends on how far beyond the last step it turns. If
that is too short, the axis leaves that step out and stands just before it instead.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import groupby

from kivant.core.motion.speed_course import Course, Piece, greatest, way_of

_BESIDE = 1e-3  # of a step, before the one that is left out


class TurnError(Exception):
    """An axis has to turn round more quickly than its driver can."""


def stand_at_turns(course: Course, begin: float, ratio: float, gap_s: float) -> tuple[Course, float]:
    """Return a course in which an axis stands long enough where it turns round, and how far off it is then at most.

    Parameters
    ----------
    course : Course
        In axis units.
    begin : float, steps
    ratio : float, steps for an axis unit
    gap_s : float, s
        How long lies at least between the last step one way and the first one back.

    Raises
    ------
    TurnError
        If it would have to leave out all of a way.
    """
    groups = [list(group) for _sense, group in groupby(course, lambda piece: piece.sense)]
    most, at = 0.0, begin
    for index in range(len(groups) - 1):
        first, after = groups[index], groups[index + 1]
        sense = first[-1].sense
        at += sense * way_of(first) * ratio
        if not sense or after[0].sense != -sense:
            continue
        depth = _left_out(sense * at, (first, after), ratio, gap_s)
        if depth:
            before, back = (_time_within(part, depth / ratio) for part in (_reversed(first), after))
            groups[index] = _reversed(_without(_reversed(first), before))
            groups[index + 1] = [Piece(0, before + back), *_without(after, back)]
            at -= sense * depth
            most = max(most, depth / ratio)
    return [piece for group in groups for piece in group], most


def _left_out(peak: float, parts: tuple[Course, Course], ratio: float, gap_s: float) -> float:
    """Return by how many steps an axis stays below where it would turn round: 0 if there is time enough."""
    depth = (peak - 0.5) % 1.0  # beyond the last step, which is taken half way
    left, shorter = 0.0, ratio * min(map(way_of, parts))
    if depth >= shorter:
        return 0.0  # it takes no step one way, or none back
    while math.fsum(_time_within(part, depth / ratio) for part in (_reversed(parts[0]), parts[1])) < gap_s:
        left = depth + _BESIDE
        if left > shorter:
            raise TurnError
        depth += 1.0
    return left


def _time_within(course: Sequence[Piece], way: float) -> float:
    """Return how long a course in one sense takes for a way from its beginning: all its time, if it is not as long."""
    seconds = 0.0
    for piece in course:
        own = piece.way_after(piece.seconds)
        if own >= way:
            return seconds + greatest(0.0, piece.seconds, lambda t, p=piece, w=way: p.way_after(t) <= w)  # type: ignore[misc]
        way, seconds = way - own, seconds + piece.seconds
    return seconds


def _reversed(course: Sequence[Piece]) -> Course:
    """Return a course as it is backwards in time; its senses stay."""
    return [
        Piece(p.sense, p.seconds, max(p.speed_after(p.seconds), 0.0), -(p.rate + p.seconds * p.jerk), p.jerk)
        for p in reversed(course)
    ]


def _without(course: Course, seconds: float) -> Course:
    """Return a course without its first seconds."""
    found: Course = []
    for piece in course:
        if seconds <= 0:
            found.append(piece)
        elif seconds < piece.seconds:
            rate = piece.rate + seconds * piece.jerk
            speed = max(piece.speed_after(seconds), 0.0)
            found.append(Piece(piece.sense, piece.seconds - seconds, speed, rate, piece.jerk))
        seconds -= piece.seconds
    return found
