"""Motion as a board takes it: short spans of time with whole steps for each axis. No I/O.

A span lies within one block of the plan, so that all steps of an axis in it go one way; the board spreads
them evenly. Span ends are whole ticks, each rounded for itself, and the steps up to each are those of the
plan, so that neither time nor position ever drifts.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.blocks import block_kind
from kivant.core.motion.plan import Plan

SPAN_S = 0.01
"""Longest span in which something moves: half of it is by how much a step may come early or late."""
REST_S = 0.25
"""Longest span in which nothing moves."""
_MOST_STEPS = 30_000
_MOST_BRAKE_US = 2**32 - 1
_CLOSE_S = 1e-9  # beside an instant, so that rounding cannot move a step over the end of a span


@dataclass(frozen=True, slots=True)
class Span:
    """So many steps of each axis, evenly spread over so many ticks.

    Parameters
    ----------
    ticks : int
    steps : tuple of int
        With sign, one for each axis.
    brake_us : int
        How long the fastest axis needs from its speed here to standstill at its deceleration, us.
    braking : bool
        Whether the plan itself is braking here.
    """

    ticks: int
    steps: tuple[int, ...]
    brake_us: int = 0
    braking: bool = False


def pack(spans: Sequence[Span]) -> bytes:
    """Return spans as the body of a block: big-endian uint32 ticks, uint32 brake time, uint16 flags, int16 steps."""
    return b"".join(struct.pack(f">IIH{len(s.steps)}h", s.ticks, s.brake_us, int(s.braking), *s.steps) for s in spans)


def unpack(data: bytes, axes: int) -> list[Span]:
    """Return the spans in the body of a block for so many axes.

    Raises
    ------
    ValueError
        If the length fits no whole number of spans, or a span has no ticks.
    """
    form = struct.Struct(f">IIH{axes}h")
    if len(data) % form.size:
        raise ValueError(f"{len(data)} bytes are no whole number of spans of {form.size} bytes")
    spans = [
        Span(ticks, tuple(steps), brake, bool(flags & 1)) for ticks, brake, flags, *steps in form.iter_unpack(data)
    ]
    if any(span.ticks == 0 for span in spans):
        raise ValueError("a span has no ticks")
    return spans


def spans(plan: Plan) -> Iterator[Span]:
    """Yield the whole plan from its start to its end, the lead-in included."""
    fastest = max((axis.peak_pulse_hz for axis in plan.axes), default=0.0)
    longest = min(SPAN_S, _MOST_STEPS / fastest) if fastest else SPAN_S
    done = _Cursor(plan)
    for block in plan.blocks:
        if not block_kind(block.block).moves:
            yield from done.rest(block.end_s)
            continue
        yield from done.rest(block.begin_s)
        yield from done.move(block.braking_s, longest, braking=False)
        yield from done.move(block.end_s, longest, braking=True)
    yield from done.rest(plan.duration)


class _Cursor:
    """How far the plan has been cut up."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.hz = plan.machine.board.tick_hz
        self.at_s, self.ticks = 0.0, 0
        self.steps = [axis.start_steps for axis in plan.axes]
        self.decelerations = [axis.axis.limits.deceleration * float(axis.steps_per_unit) for axis in plan.axes]

    def rest(self, end_s: float) -> Iterator[Span]:
        """Yield spans up to a time at which a move may begin: its first step is the move's."""
        return self._upto(end_s, REST_S, -1.0, braking=False)

    def move(self, end_s: float, longest_s: float, *, braking: bool) -> Iterator[Span]:
        """Yield spans up to a time within a move or at its end: a step that falls on it is the move's."""
        return self._upto(end_s, longest_s, 1.0, braking=braking)

    def _upto(self, end_s: float, longest_s: float, sense: float, *, braking: bool) -> Iterator[Span]:
        if end_s <= self.at_s:
            return
        parts = max(int(np.ceil((end_s - self.at_s) / longest_s)), 1)
        for low in range(0, parts, 4096):
            high = min(low + 4096, parts)
            times = self.at_s + np.arange(low, high + 1) / parts * (end_s - self.at_s)
            if high == parts:
                times[-1] = end_s
            yield from self._cut(times, sense, braking)
        self.at_s = end_s

    def _cut(self, times: NDArray[np.float64], sense: float, braking: bool) -> Iterator[Span]:
        ends = times[1:] + sense * (_CLOSE_S + 4 * np.spacing(times[1:]))
        axes = self.plan.axes
        positions = [axis.train.steps_at(ends) for axis in axes]
        brakes = np.zeros(len(times) - 1)
        for axis, deceleration in zip(axes, self.decelerations, strict=True):
            # Just inside the span: at its very ends a speed that may be jumped to counts as standstill.
            inside = np.stack((times[:-1] + _CLOSE_S, times[1:] - _CLOSE_S))
            speeds = np.max(np.abs(axis.train.speed(inside)), axis=0)
            np.maximum(brakes, speeds / deceleration, out=brakes)
        ticks = np.rint(times[1:] * self.hz).astype(np.int64)
        for k in range(len(ticks)):
            upto = max(int(ticks[k]), self.ticks + 1)
            now = [int(p[k]) for p in positions]
            steps = tuple(a - b for a, b in zip(now, self.steps, strict=True))
            brake_us = min(int(np.ceil(brakes[k] * 1e6)), _MOST_BRAKE_US)
            yield Span(upto - self.ticks, steps, brake_us, braking)
            self.ticks, self.steps = upto, now
