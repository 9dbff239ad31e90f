"""Moving one axis by hand: it goes as fast as it is pulled, within its limits, and brakes when it is let go.

Spans are made as they are needed, just so far ahead that the board always has the path to brake along.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from decimal import Decimal

from kivant.app.composing import own_move
from kivant.app.run import AxisResult, Run
from kivant.board.link import Link
from kivant.board.protocol import block
from kivant.board.spans import Span, pack
from kivant.core.findings import pulse_rate
from kivant.core.machine import Machine
from kivant.core.plan import plan
from kivant.core.travel import steps_per_unit

SPAN_S = 0.02
_POLL_S = 0.01
_AHEAD_S = 0.25  # beside half the braking time: what the board wants to have, and a poll


class Jog(Run):
    """One pull of one axis, from where the axes stand; used like a run.

    Parameters
    ----------
    machine : Machine
    index : int
        Which axis.
    here : dict
        Where the axes stand, in axis units by name.
    address, clock
        As for `Run`.

    Raises
    ------
    PlanError
        If an axis stands outside its limits.
    """

    by_hand = True

    def __init__(
        self,
        machine: Machine,
        index: int,
        here: dict[str, Decimal],
        address: str | None = None,
        *,
        clock: Callable[[], float] | None = None,
    ) -> None:
        super().__init__(plan(machine, own_move({}, here)), address, clock=clock)
        self.index = index
        axis = machine.axes[index]
        self.ratio = float(steps_per_unit(axis))
        limits = axis.limits
        self._fastest = min(limits.speed * self.ratio, pulse_rate(machine, axis))
        self._up, self._down = limits.acceleration * self.ratio, limits.deceleration * self.ratio
        self._ends = [None if end is None else float(end) * self.ratio for end in (limits.min, limits.max)]
        self._position = float(self.plan.axes[index].train.start)
        self._speed, self._steps = 0.0, self.plan.axes[index].start_steps
        self._pull, self._released = 0.0, False
        self._sent_s = 0.0
        self._queued: list[tuple[float, float]] = []  # end and braking time of the spans that are not played yet

    def pull(self, share: float) -> None:
        """Pull: a share of the greatest speed, from -1 to 1."""
        self._pull = min(max(share, -1.0), 1.0)

    def release(self) -> None:
        """Let go: the axis brakes on its ramp, and the run ends when it stands."""
        self._released = True
        self._wake.set()

    def next_span(self) -> Span:
        """Return the motion of the next moment, as fast as pulled within every limit, stopping short of the ends."""
        wanted = 0.0 if self._released or self._stops else self._pull * self._fastest
        if wanted:
            wanted = math.copysign(min(abs(wanted), self._speed_before_end(wanted)), wanted)
        before = self._speed
        toward_rest = abs(wanted) < abs(before) or wanted * before < 0
        change = (self._down if toward_rest else self._up) * SPAN_S
        after = before + min(max(wanted - before, -change), change)
        if after * before < 0:  # through standstill: rest there for a span before turning round
            after = 0.0
        self._speed = after
        moved = (before + after) / 2 * SPAN_S
        end = self._ends[moved > 0]
        if moved and end is not None and (self._position + moved - end) * moved > 0:
            moved = end - self._position if (end - self._position) * moved > 0 else 0.0
        self._position += moved
        now = math.floor(self._position + 0.5)
        steps, self._steps = now - self._steps, now
        brake_us = math.ceil(max(abs(before), abs(after)) / self._down * 1e6)
        row = [0] * len(self.plan.axes)
        row[self.index] = steps
        ticks = round(SPAN_S * self.plan.machine.board.tick_hz)
        return Span(ticks, tuple(row), min(brake_us, 2**32 - 1), abs(after) < abs(before))

    def _speed_before_end(self, wanted: float) -> float:
        """Return how fast the axis may be to brake before the end it is pulled to, one span of delay taken off."""
        end = self._ends[wanted > 0]
        if end is None:
            return math.inf
        way = (end - self._position) * math.copysign(1.0, wanted)
        room = max(way - abs(self._speed) * SPAN_S, 0.0)
        return math.sqrt(2 * self._down * room * 0.98)

    @property
    def _resting(self) -> bool:
        return (self._released or bool(self._stops)) and self._speed == 0.0

    def _feed(self, link: Link, played_s: float) -> None:
        """Send spans until the board has enough ahead of what it has played to brake along, whatever its speed."""
        self._queued = [(end, brake) for end, brake in self._queued if end > played_s]
        spans: list[Span] = []
        while not self._resting:
            brake_s = max((brake for _end, brake in self._queued), default=0.0)
            if self._sent_s - played_s >= brake_s / 2 + _AHEAD_S:
                break
            spans.append(self.next_span())
            self._sent_s += SPAN_S
            self._queued.append((self._sent_s, spans[-1].brake_us * 1e-6))
        if spans:
            link.ask("MOTion:APPend? ", block(pack(spans)))

    def _stream(self, link: Link) -> None:
        self._feed(link, 0.0)
        if not self._sent_s:  # let go before anything moved
            self._finish(link, "done")
            return
        ended = self._resting
        if ended:
            link.tell("MOTion:END")
        link.tell("INITiate")
        self._refuse_reported(link, "refused to move")
        self._publish(phase="moving")
        while True:
            self._cut_power(link)
            state, _room = self._look(link)
            if state in ("STOP", "IDLE"):
                self._finish(link, "stopped" if state == "STOP" else "done")
                return
            if state == "MOVE":
                self._feed(link, self.status.elapsed_s)
            if self._resting and not ended:
                link.tell("MOTion:END")
                ended = True
            self._wake.wait(_POLL_S)
            self._wake.clear()

    def _finish(self, link: Link, phase: str) -> None:
        self._cut_power(link)
        if phase == "stopped" and not self._stops:
            self._refuse_reported(link, "stopped by itself")
        counts = [int(part) for part in link.ask("POSition?").split(",")]
        planned = [axis.start_steps for axis in self.plan.axes]
        planned[self.index] = self._steps
        rows = zip(self.plan.axes, planned, counts, strict=True)
        results = tuple(AxisResult(axis.name, want, count) for axis, want, count in rows)
        self._publish(phase=phase, counts=tuple(counts), results=results)
