"""Playing spans in time: counts, lack of spans, and braking along the path. No text, no real clock.

Braking slows the playing down, so that all axes stay on their common path. At the rate r the axes run at r
times the speeds of the plan; lowering r by dr/dt = -1/brake_time costs the tightest axis just its
deceleration. Where the plan itself brakes, r² of that deceleration is taken already, so only the rest is left
for dr/dt; at r = 1 the plan's own braking is followed to its end.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from typing import Literal

from kivant.board.protocol.spans import Span

State = Literal["IDLE", "MOVE", "BRAKE", "STOP"]

_GRAIN_S = 0.0005  # step of the braking integral


class Player:
    """A buffer of spans and how far it has been played.

    ``state`` is IDLE before a start and after a whole plan, MOVE and BRAKE while it plays, STOP after it was
    stopped before its end.
    """

    def __init__(self, tick_hz: float, capacity: int = 512) -> None:
        self.tick_hz, self.capacity = tick_hz, capacity
        self.state: State = "IDLE"
        self.counts: list[int] = []
        self.complete = False
        self.starved = False
        self.accepted = 0
        self.elapsed_s = 0.0
        self.last_step_s: list[float] = []
        self.last_signs: list[int] = []
        self._buffer: deque[Span] = deque()
        self._buffered_s = 0.0
        self._within_s = 0.0
        self._rate = 1.0

    @property
    def room(self) -> int:
        """How many more spans the buffer takes."""
        return self.capacity - len(self._buffer)

    @property
    def moving(self) -> bool:
        """Whether spans are being played."""
        return self.state in ("MOVE", "BRAKE")

    def reset(self, axes: int) -> None:
        """Forget the buffer and set all counts to 0."""
        self.clear()
        self.state = "IDLE"
        self.counts = [0] * axes
        self.last_step_s, self.last_signs = [float("-inf")] * axes, [1] * axes
        self.elapsed_s = 0.0

    def clear(self) -> None:
        """Forget the buffer: nothing is left to play."""
        self._buffer.clear()
        self._buffered_s = self._within_s = 0.0
        self.complete = False
        self.accepted = 0
        self._rate = 1.0

    def append(self, spans: Sequence[Span]) -> None:
        """Add spans to the buffer; the caller has seen to it that there is room."""
        self._buffer.extend(spans)
        self._buffered_s += sum(span.ticks for span in spans) / self.tick_hz
        self.accepted += len(spans)

    def start(self) -> None:
        """Begin to play what is in the buffer."""
        self.state, self._rate, self.elapsed_s, self.starved = "MOVE", 1.0, 0.0, False

    def brake(self) -> None:
        """Begin to brake."""
        if self.state == "MOVE":
            self.state = "BRAKE"

    def halt(self) -> None:
        """Stand still at once where the motion is."""
        self._settle()
        self.state = "STOP"
        self.clear()

    def advance(self, seconds: float) -> None:
        """Let so much time pass."""
        while seconds > 0.0 and self.moving:
            if not self._buffer:
                self._run_out()
            elif self.state == "BRAKE":
                part = min(seconds, _GRAIN_S)
                self._slow_down(part)
                seconds -= part
            else:
                seconds -= self._play(seconds)
                self._guard()

    def _play(self, seconds: float) -> float:
        """Play at most `seconds` of the first span at full rate; return how much was."""
        span = self._buffer[0]
        left = span.ticks / self.tick_hz - self._within_s
        part = min(seconds, left)
        self._move_on(part, finish=part >= left)
        return part

    def _move_on(self, seconds: float, *, finish: bool) -> None:
        self.elapsed_s += seconds
        self._within_s += seconds
        if finish:
            self._settle()
            span = self._buffer.popleft()
            self._buffered_s -= span.ticks / self.tick_hz
            self._within_s = 0.0
            if not self._buffer:
                self._run_out()

    def _slow_down(self, seconds: float) -> None:
        span = self._buffer[0]
        if span.brake_us == 0:
            self.halt()
            return
        taken = self._rate * self._rate if span.braking else 0.0
        self._rate -= seconds * 1e6 / span.brake_us * (1.0 - taken)
        if self._rate <= 0.0:
            self.halt()
            return
        ahead = seconds * self._rate
        while ahead > 0.0 and self._buffer:
            ahead -= self._play(ahead)

    def _guard(self) -> None:
        """Brake while there still is path to brake along, if no more of it came in time."""
        if self.complete or not self._buffer or self.state != "MOVE":
            return
        left = self._buffered_s - self._within_s
        if left < self._buffer[0].brake_us * 0.5e-6 + 2 * self._buffer[0].ticks / self.tick_hz:
            self.starved = True
            self.brake()

    def _run_out(self) -> None:
        self.starved = self.starved or not self.complete
        self.state = "IDLE" if self.complete else "STOP"
        self.clear()

    def _settle(self) -> None:
        """Make the steps taken within the first span final."""
        if self._buffer:
            self.counts = self.now()
            # What is left of this span keeps its even spread, should the playing stop here.
            for axis, steps in enumerate(self._buffer[0].steps):
                if steps:
                    self.last_signs[axis] = 1 if steps > 0 else -1

    def now(self) -> list[int]:
        """Return the counts at this moment: step i of n in a span is taken at (i - 1/2)/n of it."""
        if not self._buffer:
            return list(self.counts)
        span = self._buffer[0]
        share = self._within_s * self.tick_hz / span.ticks
        return [
            count + (1 if n > 0 else -1) * int(min(abs(n) * share + 0.5, abs(n)))
            for count, n in zip(self.counts, span.steps, strict=True)
        ]

    def since_last_step(self, axis: int) -> float:
        """Return how long ago, in s of motion, the axis took its last step in this span; infinite if none."""
        if not self._buffer:
            return float("inf")
        span = self._buffer[0]
        count, length = abs(span.steps[axis]), span.ticks / self.tick_hz
        taken = int(min(count * self._within_s / length + 0.5, count))
        return self._within_s - (taken - 0.5) / count * length if taken else float("inf")

    def sign(self, axis: int) -> int:
        """Return the direction of the axis's present or latest motion."""
        if self._buffer and self._buffer[0].steps[axis]:
            return 1 if self._buffer[0].steps[axis] > 0 else -1
        return self.last_signs[axis]
