"""How one axis goes from speed to speed: courses of pieces of constant jerk, in axis units and seconds.

Scalars and no arrays: a course is asked for block by block. Speeds have no sign here; each piece says in which sense.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from msgspec.structs import replace

from kivant.core.kept import kept
from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.motion.rates import outside_bands, pauses_of, pulse_rate
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.play import play_of

_HALVINGS = 70


class Piece(NamedTuple):
    """A stretch of a course; ``speed`` and ``rate`` (of change) are those at its beginning, ``sense`` 0 is rest."""

    sense: int
    seconds: float
    speed: float = 0.0
    rate: float = 0.0
    jerk: float = 0.0

    def speed_after(self, seconds: float) -> float:
        """Return the speed so long after its beginning."""
        return self.speed + seconds * (self.rate + seconds * self.jerk / 2)

    def way_after(self, seconds: float) -> float:
        """Return the way so long after its beginning."""
        return seconds * (self.speed + seconds * (self.rate / 2 + seconds * self.jerk / 6))


Course = list[Piece]


def seconds_of(course: Sequence[Piece]) -> float:
    """Return how long a course takes, s."""
    return math.fsum(piece.seconds for piece in course)


def way_of(course: Sequence[Piece]) -> float:
    """Return how far a course goes, both ways added, in axis units."""
    return math.fsum(piece.way_after(piece.seconds) for piece in course)


def cut_off(course: Course, seconds: float) -> Course:
    """Return what a course does within a time."""
    found: Course = []
    for piece in course:
        if piece.seconds >= seconds:
            return [*found, piece._replace(seconds=seconds)] if seconds > 0 else found
        found.append(piece)
        seconds -= piece.seconds
    return found


def greatest(low: float, high: float, fits: Callable[[float], bool]) -> float:
    """Return the greatest number between two, by halving, that fits; `low` does."""
    if fits(high):
        return high
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        if middle in (low, high):
            break
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low


class Moving(NamedTuple):
    """How an axis moves at an instant: its speed with sign, which way it went last, and how long it has stood, s."""

    speed: float = 0.0
    sense: int = 0
    stood_s: float = math.inf

    def after(self, course: Sequence[Piece]) -> Moving:
        """Return how it moves when a course is done."""
        found = self
        for piece in course:
            if piece.sense:
                found = Moving(piece.sense * piece.speed_after(piece.seconds), piece.sense, 0.0)
            else:
                found = Moving(0.0, found.sense, found.stood_s + piece.seconds)
        return found


class Pace:
    """How one axis changes its speed, by the shape of its ramps; with a share of its accelerations, if one is given."""

    def __init__(self, machine: Machine, axis: Axis, share: float = 1.0) -> None:
        limits = axis.limits
        if share < 1.0:
            up, down = share * limits.acceleration, share * limits.deceleration
            limits = replace(limits, acceleration=up, deceleration=down)
        self.shape, self.limits, self.share = shape_of(limits), limits, share
        self.gap_s = pauses_of(machine, axis).gap_s
        self.keeps_rate = self.shape == "s_curve"  # its acceleration cannot begin in the midst of a change
        self.play = play_of(axis).steps / float(steps_per_unit(axis))
        self._machine, self._axis = machine, axis
        self._take_ups: dict[int, Course] = {}

    def start(self, speed: float) -> float:
        """Return what may be jumped to, on the way to a speed, and from."""
        return speed if self.shape == "none" else min(self.limits.start_speed, speed)

    def change(self, sense: int, first: float, last: float) -> Course:
        """Return the ramp from one speed to another."""
        if first == last or self.shape == "none":
            return []
        rises = last > first
        rate = self.limits.acceleration if rises else self.limits.deceleration
        if self.shape == "torque":
            return self._along_torque(sense, first, last, rate)
        if self.shape == "trapezoid" or self.limits.jerk is None:
            return [Piece(sense, abs(last - first) / rate, first, rate if rises else -rate)]
        # As `s_curve` does it: up to the greatest acceleration, some time at it, and back.
        gain, jerk, sign = abs(last - first), self.limits.jerk, 1 if rises else -1
        most = min(rate, math.sqrt(jerk * gain))
        easing, gained = most / jerk, sign * most * most / jerk / 2
        steady = max(gain / most - easing, 0.0) if most == rate else 0.0
        return [
            Piece(sense, easing, first, 0.0, sign * jerk),
            *([Piece(sense, steady, first + gained, sign * most)] if steady else []),
            Piece(sense, easing, last - gained, sign * most, -sign * jerk),
        ]

    def take_up(self, sense: int) -> Course:
        """Return how the play is taken up in a sense: from rest to rest over its way, nothing without play."""
        if self.play and sense not in self._take_ups:
            self._take_ups[sense] = self.go(sense, self.play)
        return self._take_ups.get(sense, [])

    def go(self, sense: int, way: float, factor: float = 1.0) -> Course:
        """Return how the axis goes a way in a sense, from rest to rest, if its wished speed is scaled by a factor."""
        most = outside_bands(min(self.ceiling(sense)[0], factor * self.limits.speed), self.limits.avoid or ())

        def ramps(peak: float) -> tuple[Course, Course]:
            first = self.start(peak)
            return self.change(sense, first, peak), self.change(sense, peak, first)

        def fits(peak: float) -> bool:
            return math.fsum(map(way_of, ramps(peak))) <= way

        peak = greatest(self.start(0.0), most, fits)
        up, down = ramps(peak)
        left = way - way_of(up) - way_of(down)
        return [*up, *([Piece(sense, left / peak, peak)] if left > 0 else []), *down]

    @kept
    def _pulls(self) -> Any:
        from kivant.core.motor.pulling import pulls_of  # only where torque is followed: NumPy

        return pulls_of(self._machine, self._axis)

    def ceiling(self, sense: int) -> tuple[float, str]:
        """Return the greatest speed in a sense, and what sets it."""
        ratio, found = float(steps_per_unit(self._axis)), (self.limits.speed, "its speed")
        hz = pulse_rate(self._machine, self._axis)
        if hz < found[0] * ratio:
            found = hz / ratio, "the pulses of driver and board"
        if self.shape == "torque":
            pull = self._pulls[0 if sense > 0 else 1]
            top = float(pull.speeds[-1]) / ratio if len(pull.speeds) > 1 else 0.0
            found = min(found, (top, "its torque"))
        return found

    def _along_torque(self, sense: int, first: float, last: float, rate: float) -> Course:
        import numpy as np  # only where torque is followed: a check of a machine needs no arrays

        from kivant.core.motion.torque_ramp import torque_change

        pull = self._pulls[0 if sense > 0 else 1]
        ratio, rises = float(steps_per_unit(self._axis)), last > first
        low, high = np.array([min(first, last)]), np.array([max(first, last)])
        curve = self.share * (pull.up if rises else pull.down) / ratio
        ramp = torque_change(
            low, high, lambda speeds: np.minimum(np.interp(speeds * ratio, pull.speeds, curve), rate), rises=rises
        )
        columns = np.diff(ramp.breaks_s[0]), ramp.speeds[0], ramp.accelerations[0], ramp.jerks[0]
        pieces = zip(*(column.tolist() for column in columns), strict=False)
        return [Piece(sense, *piece) for piece in pieces if piece[0] > 0]

    def to_speed(self, moving: Moving, speed: float) -> Course:
        """Return the course from how the axis moves to a speed with sign, over a standstill where it turns round."""
        found: Course = []
        sense = math.copysign(1, speed) if speed else 0
        if moving.speed and moving.speed * speed <= 0:
            found = self.to_rest(moving.speed)
            moving = Moving(0.0, moving.sense, 0.0)
        if not speed:
            return found
        if not moving.speed:
            if moving.sense == -sense:
                stands = max(self.gap_s - moving.stood_s, 0.0) + seconds_of(self.take_up(int(sense)))
                found += [Piece(0, stands)] if stands else []
            return found + self.change(int(sense), self.start(abs(speed)), abs(speed))
        return self.change(int(sense), abs(moving.speed), abs(speed))

    def to_rest(self, speed: float) -> Course:
        """Return the course from a speed with sign to rest."""
        return self.change(int(math.copysign(1, speed)), abs(speed), self.start(abs(speed))) if speed else []
