"""A manual move: one axis goes as fast as it is pulled, within its limits, and brakes when it is let go.

Spans are made as they are needed, just so far ahead that the board always has the path to brake along.
"""

from __future__ import annotations

import math
from decimal import Decimal

from kivant.app.planning.own_move import own_move
from kivant.board.protocol.spans import Span
from kivant.core.errors import Fault
from kivant.core.machine import Machine
from kivant.core.motion.plan import PlanError
from kivant.core.motion.rates import rates_of
from kivant.core.motion.reach import beyond_limits, beyond_words
from kivant.core.motion.routine import start_positions
from kivant.core.travel.conversion import nearest_step, steps_per_unit

SPAN_S = 0.02
AHEAD_S = 0.25
"""What the board wants to have ahead beside half the braking time, and a poll."""


class ManualMove:
    """One manual move of one axis, from where the axes stand: a hand pulls, and lets go.

    Parameters
    ----------
    machine : Machine
    index : int
        Which axis.
    here : dict
        Where the axes stand, in axis units by name.

    Raises
    ------
    PlanError
        If an axis stands outside its limits.
    """

    poll_s = 0.01
    stops_itself = True

    def __init__(self, machine: Machine, index: int, here: dict[str, Decimal], ahead_s: float = AHEAD_S) -> None:
        standing = own_move({}, here)
        faults = [Fault(f.path, *beyond_words(machine, f)) for f in beyond_limits(machine, standing)]
        if faults:
            raise PlanError(*faults)
        self.machine, self.index = machine, index
        starts = zip(start_positions(machine, standing), machine.axes, strict=True)
        exact = [position * steps_per_unit(axis) for position, axis in starts]
        self.start_steps = tuple(map(nearest_step, exact))
        axis = machine.axes[index]
        ratio = float(steps_per_unit(axis))
        self.rates = rates_of(machine, axis)
        self._top_speed = self.rates.top_speed()
        self._start_speed = min(self.rates.start_speed, self._top_speed)
        limits = axis.limits
        self._ends = [None if end is None else float(end) * ratio for end in (limits.min, limits.max)]
        self._position = float(exact[index])
        self._speed, self._moved, self.steps = 0.0, 0.0, self.start_steps[index]
        self._pull, self._released = 0.0, False
        self._ahead_s, self._sent_s = ahead_s, 0.0
        self._queued: list[tuple[float, float]] = []  # end and braking time of the spans that are not played yet

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
        """Whether it was let go and stands."""
        return self._released and self._speed == 0.0

    def final_steps(self) -> tuple[int, ...]:
        """Return where every axis stands after the spans that were taken."""
        return tuple(self.steps if i == self.index else steps for i, steps in enumerate(self.start_steps))

    def take(self, played_s: float, room: int) -> list[Span]:
        """Return spans until the board has enough ahead of what it has played to brake along, whatever its speed."""
        self._queued = [(end, brake) for end, brake in self._queued if end > played_s]
        found: list[Span] = []
        while not self.ended and len(found) < room:
            brake_s = max((brake for _end, brake in self._queued), default=0.0)
            if self._sent_s - played_s >= brake_s / 2 + self._ahead_s:
                break
            found.append(self.next_span())
            self._sent_s += SPAN_S
            self._queued.append((self._sent_s, found[-1].brake_us * 1e-6))
        return found

    def next_span(self) -> Span:
        """Return the motion of the next moment, as fast as pulled within every limit, stopping short of the ends."""
        wanted = 0.0 if self._released else self._pull * self._top_speed
        if wanted:
            wanted = math.copysign(min(abs(wanted), self._speed_before_end(wanted)), wanted)
        before = self._speed
        after, moved = self._change(before, wanted)
        self._speed, self._moved = after, moved
        end = self._ends[moved > 0]
        if moved and end is not None and (self._position + moved - end) * moved > 0:
            moved = end - self._position if (end - self._position) * moved > 0 else 0.0
        self._position += moved
        now = math.floor(self._position + 0.5)
        steps, self.steps = now - self.steps, now
        brake_us = math.ceil(max(abs(before), abs(after)) / self.rates.deceleration * 1e6)
        row = [0] * len(self.start_steps)
        row[self.index] = steps
        ticks = round(SPAN_S * self.machine.board.tick_hz)
        return Span(ticks, tuple(row), min(brake_us, 2**32 - 1), abs(after) < abs(before))

    def _change(self, before: float, wanted: float) -> tuple[float, float]:
        """Return the speed at the end of a span that begins at `before`, and the way in it, in steps.

        From rest the start speed may be jumped to, and to rest jumped from; another direction is taken after a span
        at rest.
        """
        rates, jump = self.rates, self._start_speed
        if before == 0.0 and wanted * self._moved < 0.0:
            return 0.0, 0.0
        if before == 0.0 and wanted:
            first = min(jump, abs(wanted))
            last = min(first + rates.acceleration * SPAN_S, abs(wanted))
            return math.copysign(last, wanted), math.copysign((first + last) / 2 * SPAN_S, wanted)
        if wanted * before <= 0.0 and abs(before) - rates.deceleration * SPAN_S <= jump:
            braking_s = max(abs(before) - jump, 0.0) / rates.deceleration
            return 0.0, math.copysign((abs(before) + min(abs(before), jump)) / 2 * braking_s, before)
        toward_rest = abs(wanted) < abs(before) or wanted * before < 0
        change = (rates.deceleration if toward_rest else rates.acceleration) * SPAN_S
        after = before + min(max(wanted - before, -change), change)
        return after, (before + after) / 2 * SPAN_S

    def _speed_before_end(self, wanted: float) -> float:
        """Return how fast the axis may be to brake before the end it is pulled to, one span of delay taken off."""
        end = self._ends[wanted > 0]
        if end is None:
            return math.inf
        way = (end - self._position) * math.copysign(1.0, wanted)
        room = max(way - abs(self._speed) * SPAN_S, 0.0)
        return math.sqrt(2 * self.rates.deceleration * room * 0.98)
