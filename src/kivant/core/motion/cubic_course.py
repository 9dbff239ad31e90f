"""Cubics of time that axes go along from place to place, and the courses that they make."""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np

from kivant.core.motion.segment import Reals
from kivant.core.motion.speed_course import Course, Piece


class Cubics(NamedTuple):
    """Cubics through positions with speeds, each of shape (places, axes); ``times`` from place to place, s."""

    at: Reals
    speeds: Reals
    times: Reals

    def slower(self, times: float) -> Cubics:
        """Return the same way, gone so many times as slow."""
        return Cubics(self.at, self.speeds / times, self.times * times)

    def middle(self) -> Reals:
        """Return the positions half way in time, shape (places - 1, axes)."""
        return (self.at[1:] + self.at[:-1]) / 2 + (self.speeds[:-1] - self.speeds[1:]) * self.times[:, None] / 8

    def rates(self) -> tuple[Reals, Reals]:
        """Return the accelerations at the beginning and at the end of each cubic, shape (places - 1, axes)."""
        seconds = self.times[:, None]
        mean = np.diff(self.at, axis=0) / seconds
        first, last = self.speeds[:-1], self.speeds[1:]
        return (6 * mean - 4 * first - 2 * last) / seconds, (2 * first + 4 * last - 6 * mean) / seconds

    def jerks(self) -> Reals:
        """Return the jerk of each cubic, shape (places - 1, axes)."""
        first, last = self.rates()
        return (last - first) / self.times[:, None]

    def greatest_speeds(self) -> Reals:
        """Return the greatest speed of each cubic, in either sense, shape (places - 1, axes)."""
        rate, jerk = self.rates()[0], self.jerks()
        when = np.clip(-rate / np.where(jerk == 0, np.inf, jerk), 0.0, self.times[:, None])
        peak = self.speeds[:-1] + when * (rate + when * jerk / 2)
        found = np.maximum(np.abs(peak), np.maximum(np.abs(self.speeds[:-1]), np.abs(self.speeds[1:])))
        return np.asarray(found)


def course_along(cubics: Cubics, axis: int) -> Course:
    """Return the course of an axis, by its column: cubics, cut where they turn round or peak."""
    found: Course = []
    columns = cubics.speeds[:-1, axis], cubics.rates()[0][:, axis], cubics.jerks()[:, axis], cubics.times
    for begin, rate, jerk, seconds in zip(*(column.tolist() for column in columns), strict=True):
        if seconds <= 0:
            continue
        cuts = {0.0, seconds, *_roots(jerk / 2, rate, begin, seconds)}
        if jerk:
            cuts |= {t for t in (-rate / jerk,) if 0 < t < seconds}
        for a, b in pairwise(sorted(cuts)):
            found.append(_piece(begin, rate, jerk, a, b))
    return found


def _roots(a: float, b: float, c: float, most: float) -> list[float]:
    """Return where ``a t² + b t + c`` is 0 within a time."""
    if abs(a) < 1e-300:
        roots = [-c / b] if b else []
    else:
        under = b * b - 4 * a * c
        if under < 0:
            return []
        q = -(b + (1 if b >= 0 else -1) * under**0.5) / 2
        roots = [q / a, *([c / q] if q else [])]
    return [t for t in roots if 1e-9 * most < t < most * (1 - 1e-9)]


def _piece(begin: float, rate: float, jerk: float, first: float, last: float) -> Piece:
    seconds = last - first
    speed = begin + first * (rate + first * jerk / 2)
    middle = begin + (first + last) / 2 * (rate + (first + last) / 4 * jerk)
    sense = 1 if middle > 0 else -1 if middle < 0 else 0
    if not sense:
        return Piece(0, seconds)
    return Piece(sense, seconds, max(sense * speed, 0.0), sense * (rate + first * jerk), sense * jerk)
