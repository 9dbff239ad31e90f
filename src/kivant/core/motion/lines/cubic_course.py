"""Cubics of time that axes go along from place to place, and the courses that they make."""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np

from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.speed_course import Course, Piece


class Cubics(NamedTuple):
    """Cubics of axes one behind the other: positions and speeds at both ends of each, and its time, s.

    All are of shape (cubics, axes) but the times, (cubics,).
    """

    first: Reals
    last: Reals
    begin: Reals
    end: Reals
    times: Reals

    @classmethod
    def through(cls, at: Reals, speeds: Reals, times: Reals) -> Cubics:
        """Return cubics through positions with speeds, each of shape (places, axes), and the times between them."""
        return cls(at[:-1], at[1:], speeds[:-1], speeds[1:], times)

    def slower(self, times: float) -> Cubics:
        """Return the same way, gone so many times as slow."""
        return self._replace(begin=self.begin / times, end=self.end / times, times=self.times * times)

    def joined(self, seconds: Wholes) -> Cubics:
        """Return a cubic in the place of each of some and the one before it."""
        times = self.times[seconds - 1] + self.times[seconds]
        return Cubics(self.first[seconds - 1], self.last[seconds], self.begin[seconds - 1], self.end[seconds], times)

    def with_joined(self, seconds: Wholes) -> Cubics:
        """Return the cubics with some of them, no two in a row, joined to those before them."""
        found = [column.copy() for column in self]
        for column, joined in zip(found, self.joined(seconds), strict=True):
            column[seconds - 1] = joined
        return Cubics(*(np.delete(column, seconds, axis=0) for column in found))

    def inside(self, shares: Reals) -> tuple[Reals, Reals, Reals]:
        """Return positions, speeds and accelerations at shares of the time of each, shape (cubics, shares, axes)."""
        t = (self.times[:, None] * shares)[:, :, None]
        begin, rate, jerk = self.begin[:, None], self.rates()[0][:, None], self.jerks()[:, None]
        at = self.first[:, None] + t * (begin + t * (rate / 2 + t * jerk / 6))
        return at, begin + t * (rate + t * jerk / 2), rate + t * jerk

    def rates(self) -> tuple[Reals, Reals]:
        """Return the accelerations at the beginning and at the end of each cubic, shape (cubics, axes)."""
        seconds = self.times[:, None]
        mean = (self.last - self.first) / seconds
        return (6 * mean - 4 * self.begin - 2 * self.end) / seconds, (
            2 * self.begin + 4 * self.end - 6 * mean
        ) / seconds

    def jerks(self) -> Reals:
        """Return the jerk of each cubic, shape (cubics, axes)."""
        first, last = self.rates()
        return (last - first) / self.times[:, None]

    def turning_speeds(self) -> Reals:
        """Return the speed of each cubic, in either sense, where it is greatest or least, shape (cubics, axes)."""
        rate, jerk = self.rates()[0], self.jerks()
        when = np.clip(-rate / np.where(jerk == 0, np.inf, jerk), 0.0, self.times[:, None])
        return np.asarray(np.abs(self.begin + when * (rate + when * jerk / 2)))

    def greatest_speeds(self) -> Reals:
        """Return the greatest speed of each cubic, in either sense, shape (cubics, axes)."""
        return np.asarray(np.maximum(self.turning_speeds(), np.maximum(np.abs(self.begin), np.abs(self.end))))


def course_along(cubics: Cubics, axis: int) -> Course:
    """Return the course of an axis, by its column: cubics, cut where they turn round or peak."""
    found: Course = []
    columns = cubics.begin[:, axis], cubics.rates()[0][:, axis], cubics.jerks()[:, axis], cubics.times
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
