"""A manual move: one axis goes as fast as it is pulled, within its limits, and brakes when it is let go.

What the board has ahead always ends at rest: a little that follows the hand, and the braking behind it. When the hand
pulls otherwise, all but the span that is played and the one after it are replaced.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from msgspec import Struct

from kivant.app.planning.own_move import own_move
from kivant.app.running.source import Feed
from kivant.app.running.standing import Standing
from kivant.board.protocol.record import MOST_TICKS, PLACE_BITS, SHARE_ONE, Span
from kivant.board.protocol.spans import LONGEST_S, place_of, quadratic
from kivant.core.errors import Fault
from kivant.core.machine import Machine
from kivant.core.motion.plan import PlanError
from kivant.core.motion.rates import bands_of, outside_bands, pauses_of
from kivant.core.motion.reach import beyond_limits, beyond_words
from kivant.core.motion.routine import commands
from kivant.core.motor.pulling import steady_rates_of
from kivant.core.travel.conversion import nearest_step, steps_per_unit
from kivant.core.travel.play import play_of

SPAN_S = 0.02
"""A span that follows the hand: two of them are how long an answer may take."""
AHEAD_S = 0.25
"""For how long the board follows the hand as it pulled last, if it hears nothing more."""

_STILL = (0.0, 0.0)


class _Knot(Struct, frozen=True):
    """Where the axis is between two spans: steps, and steps/s with sign; `way` is the sign of its latest motion."""

    position: float
    speed: float = 0.0
    way: int = 0

    @property
    def place(self) -> int:
        return place_of(self.position, math.floor(self.position + 0.5))


class _Stretch(Struct, frozen=True):
    """One span: its ticks, the speeds in it at its beginning and its end (start speeds are jumped over), its end."""

    ticks: int
    speeds: tuple[float, float]
    end: _Knot


class _Offer(NamedTuple):
    """What the board was offered: its knots, the pull that it follows, and up to which span."""

    knots: list[_Knot]
    pull: float
    follows: int


class ManualMove:
    """One manual move of one axis, from where the axes stand: a hand pulls, and lets go.

    Parameters
    ----------
    machine : Machine
    index : int
        Which axis.
    standing : Standing
        Where the axes stand.
    ahead_s : float
        For how long the board is to follow the hand as it pulled last.

    Raises
    ------
    PlanError
        If an axis stands outside its limits.
    """

    poll_s = 0.01
    stops_itself = True

    def __init__(self, machine: Machine, index: int, standing: Standing, ahead_s: float = AHEAD_S) -> None:
        still = own_move({}, standing.of(machine))
        faults = [
            Fault(f.path, *beyond_words(machine, f)) for f in beyond_limits(machine, still, commands(machine, still))
        ]
        if faults:
            raise PlanError(*faults)
        self.machine, self.index = machine, index
        exact = [standing.motor_steps(axis) for axis in machine.axes]
        self.start_places = tuple(place_of(float(steps), nearest_step(steps)) for steps in exact)
        axis = machine.axes[index]
        self.hand = Hand(machine, index)
        self._ahead = max(math.ceil(ahead_s / SPAN_S), 1)
        pauses = pauses_of(machine, axis)
        self._lead_s = max(pauses.lead_s, pauses.set_up_s)
        count = nearest_step(exact[index])
        here_steps = min(max(float(exact[index]), count - 0.5), count + 0.5 - 1e-9)  # a tie is counted away from 0
        self._knots = [_Knot(here_steps)]  # where span number _base begins, and all after it
        self._base = 0
        self._follows = 0  # number of the first span that was sent and does not follow the hand any more
        self._offered = _Offer([], 0.0, 0)
        self._pull, self._pulled, self._released, self._ended = 0.0, 0.0, False, False

    def pull(self, share: float) -> None:
        """Pull: a share of the greatest speed, from -1 to 1."""
        self._pull = min(max(share, -1.0), 1.0)

    def release(self) -> None:
        """Let go: the axis brakes on its ramp, and the motion ends when it stands."""
        self._released = True

    def stop(self) -> None:
        """Brake as when it is let go."""
        self._released = True

    @property
    def ended(self) -> bool:
        """Whether it was let go, and the board has all that leads to rest."""
        return self._ended

    def final_steps(self) -> tuple[int, ...]:
        """Return where every axis stands after the spans that were taken."""
        places = list(self.start_places)
        places[self.index] = self._knots[-1].place
        return tuple(place >> PLACE_BITS for place in places)

    @property
    def _sent(self) -> int:
        return self._base + len(self._knots) - 1

    def offer(self, begun: int, room: int) -> Feed | None:
        """Return what the board is to play from the span after the next one on, if that is not what it has."""
        released = self._released  # asked once: another thread lets go
        pull = 0.0 if released else self._pull
        enough = pull == self._pulled and self._follows - begun > self._ahead // 2
        if self._ended or (enough and not released):
            return None
        first = min(begun + 1, self._sent) if self._sent else 0
        knot = self._knots[first - self._base]
        space = room + self._sent - first
        follow = self.hand.rest(knot, self._lead_s) if not first and not released else []
        if not released:
            follow += self.hand.follow(follow[-1].end if follow else knot, pull, min(self._ahead, max(space // 2, 1)))
        whole = follow + self.hand.brake(follow[-1].end if follow else knot)
        if not released:  # so that the board has always more than the time it needs to brake
            whole += self.hand.rest(whole[-1].end, LONGEST_S)
        if not whole and first == self._sent:  # let go where it stands
            self._ended = True
            return None
        self._offered = _Offer([knot, *(stretch.end for stretch in whole)], pull, first + len(follow))
        spans = [self._span(begin, stretch) for begin, stretch in zip(self._offered.knots, whole, strict=False)]
        return Feed(spans, first, last=released) if space >= len(spans) else None

    def accept(self, feed: Feed) -> None:
        """Take what was offered for what is played."""
        first, offered = feed.first or 0, self._offered
        self._knots = [*self._knots[: first - self._base], *offered.knots]
        self._pulled, self._follows, self._ended = offered.pull, offered.follows, feed.last
        played = max(first - 2 - self._base, 0)
        del self._knots[:played]
        self._base += played

    def _span(self, begin: _Knot, stretch: _Stretch) -> Span:
        ticks, seconds = stretch.ticks, stretch.ticks / self.hand.tick_hz
        first, last = stretch.speeds
        bend = (last - first) / seconds / self.hand.tick_hz**2
        axes = [quadratic(ticks, place, place, 0.0) for place in self.start_places]
        axes[self.index] = quadratic(ticks, begin.place, stretch.end.place, bend)
        needs = tuple(abs(speed) / self.hand.rates.deceleration for speed in (first, last))
        brakes = tuple(math.ceil(need * 1e6) for need in needs)
        share = math.ceil((needs[0] - needs[1]) / seconds * SHARE_ONE - 1e-4)
        return Span(ticks, tuple(axes), (brakes[0], brakes[1]), share)


class Hand:
    """What a pull makes of one axis, within every limit, and always so that it can stop short of its ends."""

    def __init__(self, machine: Machine, index: int) -> None:
        axis = machine.axes[index]
        self.tick_hz = machine.board.tick_hz
        self.rates = steady_rates_of(machine, axis)
        self.top_speed = min(self.rates.speed, self.rates.pulse_rate)
        self.jump = min(self.rates.start_speed, self.top_speed)
        ratio = float(steps_per_unit(axis))
        play = play_of(axis)  # the tool comes to its least position with the play taken up that way
        ends = ((axis.limits.min, play.offset(-1)), (axis.limits.max, play.offset(1)))
        self._ends = [None if end is None else float(end) * ratio + beside for end, beside in ends]
        self._avoid = bands_of(axis)
        self._span = max(round(SPAN_S * self.tick_hz), 1)
        self._turn = max(math.ceil(pauses_of(machine, axis).gap_s * self.tick_hz), self._span)

    def rest(self, knot: _Knot, seconds: float) -> list[_Stretch]:
        """Return a rest."""
        ticks = math.ceil(seconds * self.tick_hz)
        most = min(MOST_TICKS, max(int(LONGEST_S * self.tick_hz), 1))
        return [_Stretch(min(most, ticks - done), _STILL, knot) for done in range(0, ticks, most)]

    def follow(self, knot: _Knot, pull: float, spans: int) -> list[_Stretch]:
        """Return so many spans that follow a pull."""
        found: list[_Stretch] = []
        for _ in range(spans):
            wanted = outside_bands(abs(pull) * self.top_speed, self._avoid)
            found.append(self._next(knot, math.copysign(wanted, pull)))
            knot, left = found[-1].end, self._span - found[-1].ticks
            if left > 0:  # it came to rest within a span
                found.append(_Stretch(left, _STILL, knot))
        return found

    def brake(self, knot: _Knot) -> list[_Stretch]:
        """Return the braking from a knot to rest; nothing where the axis may stop at once."""
        found: list[_Stretch] = []
        most = min(MOST_TICKS, max(int(LONGEST_S * self.tick_hz), 1))
        while knot.speed:
            found.append(self._slower(knot, most))
            knot = found[-1].end
        return found

    def _slower(self, knot: _Knot, most: int) -> _Stretch:
        """Return a span of so many ticks at the most in which the axis brakes with all it has."""
        speed, jump = abs(knot.speed), self.jump
        need = max(math.ceil((speed - jump) / self.rates.deceleration * self.tick_hz), 1)
        ticks = min(need, most)
        after = jump if need <= most else speed - (speed - jump) * ticks / need
        after = min(after, speed)
        way = math.copysign((speed + after) / 2 * ticks / self.tick_hz, knot.speed)
        end = 0.0 if need <= most else math.copysign(after, knot.speed)
        speeds = knot.speed, math.copysign(after, knot.speed)
        return _Stretch(ticks, speeds, _Knot(self._held(knot.position + way), end, knot.way))

    def _next(self, knot: _Knot, wanted: float) -> _Stretch:
        """Return the next span toward a speed that is wanted."""
        seconds, way = self._span / self.tick_hz, 1 if wanted > 0 else -1
        if knot.speed and wanted * knot.speed <= 0:
            return self._slower(knot, self._span)
        if not wanted:
            return _Stretch(self._span, _STILL, knot)
        if knot.way == -way:
            return _Stretch(self._turn, _STILL, _Knot(knot.position))
        speed = abs(knot.speed) or min(self.jump, abs(wanted))
        fall, rise = self.rates.deceleration * seconds, self.rates.acceleration * seconds
        after = max(min(abs(wanted), speed + rise), speed - fall)
        after = min(after, self._most_before_end(knot.position, speed, way, seconds))
        if after < speed - fall or after < 0.0:
            if knot.speed:
                return self._slower(knot, self._span)
            return _Stretch(self._span, _STILL, knot)
        gone = way * (speed + after) / 2 * seconds
        return _Stretch(
            self._span, (way * speed, way * after), _Knot(self._held(knot.position + gone), way * after, way)
        )

    def _held(self, position: float) -> float:
        """Return a position within the ends: rounding may lead past them by a billionth of a step."""
        low, high = self._ends
        return min(max(position, -math.inf if low is None else low), math.inf if high is None else high)

    def _most_before_end(self, position: float, speed: float, way: int, seconds: float) -> float:
        """Return the speed after a span from which the axis can still stop short of the end it is pulled to."""
        end = self._ends[way > 0]
        if end is None:
            return math.inf
        # (speed + v)/2 seconds + v²/(2 deceleration) = room, solved for v; a tick is lost where braking begins.
        room = (end - position) * way - speed / self.tick_hz
        half = self.rates.deceleration * seconds / 2
        square = half * half + self.rates.deceleration * (2 * room - speed * seconds)
        return math.sqrt(square) - half if square >= 0.0 else -1.0
