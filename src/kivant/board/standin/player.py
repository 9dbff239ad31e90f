"""Playing motion records in time: counts, lack of spans, and braking along the path. No text, no real clock.

Braking slows the playing down, so that all axes stay on their common path: `kivant.board.standin.braking` says how.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Sequence
from typing import Literal

from kivant.board.protocol.record import Span
from kivant.board.standin.axis_play import AxisPlay
from kivant.board.standin.braking import MARGIN_S, Slowing, grain_s, slope, stopping_s
from kivant.board.standin.sums import steps_in

State = Literal["IDLE", "MOVE", "BRAKE", "STOP"]

_MOST_AXIS_SPANS = 4096  # the memory of a board is not endless


class Player:
    """A buffer of spans and how far it has been played.

    ``state`` is IDLE before a start and after a whole motion, MOVE and BRAKE while it plays, STOP after it was
    stopped before its end.
    """

    def __init__(self, tick_hz: float, capacity: int = 512) -> None:
        self.tick_hz, self.capacity = tick_hz, capacity
        self._most_spans = capacity
        self.state: State = "IDLE"
        self.axes: list[AxisPlay] = []
        self.complete = False
        self.starved = False
        self.accepted = 0
        self.elapsed_s = 0.0
        self.within_s = 0.0  # of the span that is played
        self._buffer: deque[Span] = deque()
        self._buffered_ticks = 0
        self.rate = 1.0  # at which spans are played: less while it brakes
        self._stopping_s = 0.0  # how long before the end of the buffer braking has to begin
        self._slowing = Slowing()

    @property
    def playing(self) -> Span | None:
        """The span that is played."""
        return self._buffer[0] if self._buffer and self.moving else None

    @property
    def room(self) -> int:
        """How many more spans the buffer takes."""
        return self.capacity - len(self._buffer)

    @property
    def begun(self) -> int:
        """How many spans have begun to be played."""
        return self.accepted - len(self._buffer) + (self.moving and bool(self._buffer))

    @property
    def moving(self) -> bool:
        """Whether spans are being played."""
        return self.state in ("MOVE", "BRAKE")

    def reset(self, axes: int) -> None:
        """Forget the buffer and have so many axes, all counts 0."""
        self.clear()
        self.state = "IDLE"
        self.axes = [AxisPlay() for _ in range(axes)]
        self.capacity = min(self._most_spans, _MOST_AXIS_SPANS // max(axes, 1))
        self.elapsed_s = 0.0

    def clear(self) -> None:
        """Forget the buffer: nothing is left to play."""
        self._buffer.clear()
        self._buffered_ticks, self.within_s = 0, 0.0
        self.complete = False
        self.accepted = 0
        self.rate = 1.0

    def append(self, spans: Sequence[Span]) -> None:
        """Add spans to the buffer; the caller has seen to it that there is room."""
        was_empty = not self._buffer
        self._buffer.extend(spans)
        self._buffered_ticks += sum(span.ticks for span in spans)
        self.accepted += len(spans)
        self._stopping_s = stopping_s(reversed(self._buffer), self.tick_hz)
        if self.moving and was_empty and self._buffer:
            self._enter()

    def too_steep(self, spans: Sequence[Span], first: int) -> bool:
        """Return whether spans from number `first` on have more steps than ticks, which no sum can take."""
        kept = len(self._buffer) - (self.accepted - first)
        before = self._buffer[kept - 1].axes if kept else None
        places = [axis.end for axis in before] if before else [axis.place for axis in self.axes]
        for span in spans:
            for k, own in enumerate(span.axes):
                if abs(steps_in(places[k], own)) > span.ticks + 1:
                    return True
                places[k] = own.end
        return False

    def cut(self, first: int) -> None:
        """Forget the spans from number `first` on (from 0), none of which has begun."""
        while self.accepted > first:
            self._buffered_ticks -= self._buffer.pop().ticks
            self.accepted -= 1
        self._stopping_s = stopping_s(reversed(self._buffer), self.tick_hz)
        self.complete = False

    def start(self) -> None:
        """Begin to play what is in the buffer."""
        self.state, self.rate, self.elapsed_s, self.starved = "MOVE", 1.0, 0.0, False
        self._enter()

    def brake(self) -> None:
        """Begin to brake."""
        if self.state == "MOVE":
            self.state, self._slowing = "BRAKE", Slowing()

    def halt(self) -> None:
        """Stand still at once where the motion is."""
        for axis in self.axes:
            axis.halt(self.within_s)
        self.state = "STOP"
        self.clear()

    def advance(self, seconds: float, most_spans: int | None = None) -> float:
        """Let so much time pass, or as much as so many spans take; return how much is left."""
        last = None if most_spans is None else self.begun + most_spans
        while seconds > 0.0 and self.moving:
            if last is not None and self.begun > last:
                return seconds
            if not self._buffer:
                self._run_out()
            elif self.state == "BRAKE":
                span, ticks = self._buffer[0], self.within_s * self.tick_hz
                part = min(seconds, grain_s(span, ticks, self.rate, self.tick_hz))
                self._slowing.count(span, ticks, self.rate, part)
                self._slow_down(part)
                seconds -= part
                if self._slowing.is_false and self.moving:
                    self.halt()
            else:
                ahead = self._until_short()
                if ahead <= 1e-9:
                    self.starved = True
                    self.brake()
                else:
                    seconds -= self._play(min(seconds, ahead))
        return 0.0

    def _enter(self) -> None:
        if self._buffer:
            for axis, span in zip(self.axes, self._buffer[0].axes, strict=True):
                axis.begin(span, self._buffer[0].ticks, self.tick_hz)

    def _play(self, seconds: float) -> float:
        """Play at most `seconds` of the first span; return how much was."""
        span = self._buffer[0]
        length = span.ticks / self.tick_hz
        part = min(seconds, length - self.within_s)
        self.elapsed_s += part
        self.within_s += part
        if part < seconds or self.within_s >= length:
            for axis, own in zip(self.axes, span.axes, strict=True):
                axis.finish(own, length)
            self._buffer.popleft()
            self._buffered_ticks -= span.ticks
            self.within_s = 0.0
            self._enter()
            if not self._buffer:
                self._run_out()
        return part

    def _slow_down(self, seconds: float) -> None:
        """Let time pass while braking: the midpoint rule."""
        span, ticks = self._buffer[0], self.within_s * self.tick_hz
        half = self.rate - slope(span, ticks, self.rate) * seconds / 2
        middle = ticks + self.rate * seconds / 2 * self.tick_hz
        falls = slope(span, middle, half) if half > 0.0 else math.inf
        before, self.rate = self.rate, self.rate - falls * seconds
        if self.rate <= 0.0:
            self.halt()
            return
        ahead = seconds * (before + self.rate) / 2
        while ahead > 0.0 and self._buffer:
            ahead -= self._play(ahead)

    def _until_short(self) -> float:
        """Return how long it is until what is left is only just enough to brake in, s."""
        if self.complete:
            return math.inf
        return max(self._buffered_ticks / self.tick_hz - self.within_s - self._stopping_s - MARGIN_S, 0.0)

    def _run_out(self) -> None:
        self.starved = self.starved or not self.complete
        self.state = "IDLE" if self.complete else "STOP"
        self.clear()

    def now(self) -> list[int]:
        """Return the counts at this moment."""
        return [axis.at(self.within_s) for axis in self.axes]

    def direction(self, axis: int) -> int:
        """Return which way an axis's direction line points: to its next step, once the latest one allows it."""
        own = self.axes[axis]
        known = own.direction(self.within_s)
        if known is not None:
            return known
        place = own.place
        for span in self._buffer:
            steps = steps_in(place, span.axes[axis])
            if steps and span is not self._buffer[0]:
                return 1 if steps > 0 else -1
            place = span.axes[axis].end
        return own.sign
