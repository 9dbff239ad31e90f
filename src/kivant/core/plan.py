"""Plans: the instant and direction of every step of a routine, by one pure function."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kivant.core.coordination import Rates, coordinate
from kivant.core.driver import enable_lead_s, first_set_up_s, reversal_gap_s
from kivant.core.errors import Fault, KivantError
from kivant.core.findings import Finding, by_severity, machine_findings, outside_limits, pulse_rate
from kivant.core.machine import Axis, Block, Machine, Move, Pause, Routine
from kivant.core.routine import Commanded, start_positions, walk
from kivant.core.stroke import Stroke, Strokes, stroke
from kivant.core.timing import BYTES_PER_STEP, Train
from kivant.core.travel import nearest_step, steps_per_unit

MOST_STEPS = 10**15
"""Farthest position in steps: whole numbers up to here are exact in the float arithmetic of instants."""

LONGEST_S = 10**9
"""Longest plan, s: its nanoseconds still fit a 64-bit integer, some thirty years."""


class PlanError(KivantError):
    """No plan can be made; ``findings`` holds those that forbid it, where there are any."""

    def __init__(self, *faults: Fault, findings: tuple[Finding, ...] = ()) -> None:
        super().__init__(*faults)
        self.findings = findings


@dataclass(frozen=True, slots=True)
class PlannedBlock:
    """When a block begins and ends, in s from the plan's start; a wait for a driver comes before it.

    ``braking_s`` is when the move's own braking begins (its end, where it has none).
    """

    index: int
    block: Block
    begin_s: float
    end_s: float
    braking_s: float


@dataclass(frozen=True)
class AxisPlan:
    """What one axis does in a plan."""

    axis: Axis
    steps_per_unit: Fraction
    train: Train

    @property
    def name(self) -> str:
        """The axis's name."""
        return self.axis.name

    @cached_property
    def instants(self) -> NDArray[np.float64]:
        """When each step happens: s from the plan's start, ascending, shape (steps,), read-only."""
        instants = self.train.instants()
        instants.flags.writeable = False
        return instants

    @cached_property
    def signs(self) -> NDArray[np.int8]:
        """The direction of each step, +1 or -1, shape (steps,), read-only."""
        signs = self.train.signs()
        signs.flags.writeable = False
        return signs

    def ideal(self, times_s: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Return the exact commanded position at `times_s` (s from the plan's start), in steps."""
        return self.train.ideal(times_s)

    @property
    def steps(self) -> int:
        """How many steps the axis takes, in both directions together."""
        return self.train.count

    @property
    def start_steps(self) -> int:
        """Position before the plan, in whole steps."""
        return nearest_step(self.train.start)

    @property
    def final_steps(self) -> int:
        """Position at the end, in whole steps."""
        return nearest_step(self.train.end)

    @property
    def final_position(self) -> float:
        """Position reached at the end, in axis units."""
        return float(self.final_steps / self.steps_per_unit)

    @cached_property
    def peak_pulse_hz(self) -> float:
        """The greatest speed, in steps/s."""
        return float(np.max(np.abs(self.train.corners()[1]), initial=0.0))

    @property
    def peak_speed(self) -> float:
        """The greatest speed, in axis units/s."""
        return self.peak_pulse_hz / float(self.steps_per_unit)

    @property
    def peak_acceleration(self) -> float:
        """The greatest acceleration or deceleration, in axis units/s²."""
        return self.train.peak_acceleration / float(self.steps_per_unit)


@dataclass(frozen=True)
class Plan:
    """The computed outcome of a routine.

    Parameters
    ----------
    machine : Machine
    routine : Routine
    lead_in_s : float, s
        Time for the drivers to be enabled before anything moves.
    duration : float, s
        From the plan's start to its end, the lead-in included.
    blocks : tuple of PlannedBlock
    axes : tuple of AxisPlan
        In the order of the machine's axes.
    findings : tuple of Finding
        What is to be said about the machine; none of them forbids the plan.
    """

    machine: Machine
    routine: Routine
    lead_in_s: float
    duration: float
    blocks: tuple[PlannedBlock, ...]
    axes: tuple[AxisPlan, ...]
    findings: tuple[Finding, ...]

    def axis(self, name: str) -> AxisPlan:
        """Return the plan of the axis called `name`.

        Raises
        ------
        KeyError
            If the machine has no such axis.
        """
        for axis in self.axes:
            if axis.name == name:
                return axis
        raise KeyError(name)

    def slices(self, most_steps: int = 200_000) -> Iterator[tuple[slice, ...]]:
        """Yield, for each axis, which of its steps belong to the next span of time.

        The spans follow one another and hold at most `most_steps` of each axis, so that an export needs no
        memory for all axes' steps in time order.
        """
        done = [0] * len(self.axes)
        while any(d < a.steps for d, a in zip(done, self.axes, strict=True)):
            ahead = [
                a.instants[d + most_steps] for d, a in zip(done, self.axes, strict=True) if d + most_steps < a.steps
            ]
            until = min(ahead, default=np.inf)
            upto = [int(np.searchsorted(a.instants, until)) for a in self.axes]
            yield tuple(slice(d, u) for d, u in zip(done, upto, strict=True))
            done = upto


def available_bytes() -> int:
    """Return how much memory a plan may take: half of what the machine has."""
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2


def _rates(machine: Machine, axis: Axis) -> Rates:
    ratio, limits = float(steps_per_unit(axis)), axis.limits
    speed = min(limits.speed * ratio, pulse_rate(machine, axis))
    return Rates(speed, limits.acceleration * ratio, limits.deceleration * ratio, limits.start_speed * ratio)


def _difference(a: Fraction, b: Fraction) -> float:
    """Return a - b, rounded once: a quotient of whole numbers, where a fraction would first be reduced."""
    return (a.numerator * b.denominator - b.numerator * a.denominator) / (a.denominator * b.denominator)


class _Score:
    """The moves of all axes as they are laid one behind the other in time."""

    def __init__(self, machine: Machine, starts: Sequence[Fraction], begin_s: float, most_bytes: int) -> None:
        self.axes = machine.axes
        self.steps, self.most_bytes = 0, most_bytes
        self.ratios = [steps_per_unit(axis) for axis in machine.axes]
        self.rates = [_rates(machine, axis) for axis in machine.axes]
        self.start = [p * ratio for p, ratio in zip(starts, self.ratios, strict=True)]
        self.position = list(self.start)  # exact, in steps
        for i, position in enumerate(self.start):
            self._refuse_far(i, position)
        self.gaps_s = [reversal_gap_s(axis.driver, pulse_rate(machine, axis)) for axis in machine.axes]
        self.setups_s = [first_set_up_s(axis.driver) for axis in machine.axes]
        self.strokes = [Strokes() for _ in machine.axes]
        self.stepping: list[Stroke | None] = [None for _ in machine.axes]
        self.blocks: list[PlannedBlock] = []
        # Durations are added exactly: with many blocks, rounded sums would drift apart from the truth.
        self.clock = Fraction(begin_s)

    def pause(self, index: int, pause: Pause) -> None:
        begin = float(self.clock)
        self.clock += Fraction(pause.seconds)
        self.blocks.append(PlannedBlock(index, pause, begin, float(self.clock), float(self.clock)))

    def move(self, commanded: Commanded, move: Move) -> None:
        index, before = commanded.index, self.position
        moving = [i for i, p in enumerate(commanded.after) if p != commanded.before[i]]
        after = {i: commanded.after[i] * self.ratios[i] for i in moving}
        for i, position in after.items():
            self._refuse_far(i, position)
        distances = [_difference(after[i], before[i]) for i in moving]
        ramp = coordinate(distances, [self.rates[i] for i in moving], move.speed_factor or 1.0)
        begin = float(self.clock)
        if ramp is None:
            self.blocks.append(PlannedBlock(index, move, begin, begin, begin))
            return
        strokes = {i: stroke(begin, ramp, before[i], after[i]) for i in moving}
        wait = max(self._wait(i, part) for i, part in strokes.items())
        if wait > 0.0:
            self.clock += Fraction(wait)
            begin = float(self.clock)
            strokes = {i: replace(part, begin_s=begin) for i, part in strokes.items()}
        for i, part in strokes.items():
            self.position[i] = after[i]
            self.strokes[i].add(part)
            if part.count:
                self.stepping[i] = part
                self._refuse_many(i, part.count)
        self.clock += Fraction(ramp.duration_s)
        braking = begin + (ramp.breaks_s[-2] if ramp.coefficients[-1][2] < 0 else ramp.duration_s)
        self.blocks.append(PlannedBlock(index, move, begin, float(self.clock), braking))

    def _refuse_far(self, i: int, position: Fraction) -> None:
        if abs(position) > MOST_STEPS:
            message = (
                f"{self.axes[i].name} would stand at step {float(position):.3g}; {MOST_STEPS:.0e} is the farthest."
            )
            raise PlanError(Fault(self.axes[i].name, message, "Stay nearer to position 0, or check the travel."))

    def _refuse_many(self, i: int, count: int) -> None:
        self.steps += count
        needed = self.steps * BYTES_PER_STEP
        if needed > self.most_bytes:
            message = (
                f"The plan would have {self.steps:.3g} steps or more and take {needed / 1e9:.3g} GB of memory; "
                f"{self.most_bytes / 1e9:.3g} GB may be used here."
            )
            raise PlanError(Fault(self.axes[i].name, message, "Shorten its moves, or split the routine."))

    def refuse_long(self) -> None:
        """Refuse a plan whose instants could not be told to the nanosecond."""
        if self.clock > LONGEST_S:
            years = float(self.clock) / (365.25 * 86400)
            message = f"The plan would take {years:.3g} years; {LONGEST_S / (365.25 * 86400):.0f} are the most."
            raise PlanError(Fault("", message, "Raise the speeds and accelerations, or shorten the routine."))

    def _wait(self, i: int, part: Stroke) -> float:
        last = self.stepping[i]
        if not part.count or (last is not None and last.sign == part.sign):
            return 0.0
        if last is None:  # the direction is set at time 0, whatever it was before
            return self.setups_s[i] - part.instant(0)
        return last.instant(last.count - 1) + self.gaps_s[i] - part.instant(0)


def _refuse(machine: Machine, routine: Routine, checkpoint: Callable[[], None]) -> None:
    names = [known.name for known in machine.routines]
    place = f"routines[{names.index(routine.name)}]" if routine.name in names else "move"
    errors = tuple(outside_limits(machine, routine, place, checkpoint))
    if errors:
        raise PlanError(*(Fault(e.place, e.message, e.remedy) for e in errors), findings=errors)


def _find_routine(machine: Machine, routine: str | Routine | None) -> Routine:
    if isinstance(routine, Routine):
        return routine
    if not machine.routines:
        raise PlanError(Fault("routines", "The machine has no routine to plan.", "Add one to the project file."))
    if routine is None:
        return machine.routines[0]
    try:
        return machine.routine(routine)
    except KeyError:
        known = ", ".join(f"“{r.name}”" for r in machine.routines[:12])
        more = " …" if len(machine.routines) > 12 else ""
        fault = Fault("routines", f"There is no routine “{routine}”.", f"Name one of {known}{more}.")
        raise PlanError(fault) from None


def plan(
    machine: Machine,
    routine: str | Routine | None = None,
    *,
    most_bytes: int | None = None,
    checkpoint: Callable[[], None] = lambda: None,
) -> Plan:
    """Return the plan of a routine: the fastest within every limit of the machine.

    Parameters
    ----------
    machine : Machine
    routine : str, Routine or None
        A routine of the machine by name, any routine for this machine, or its first one.
    most_bytes : int, optional
        Refuse a plan whose steps take more memory; half of the machine's memory if not given.
    checkpoint : callable, optional
        Called before every block; what it raises ends the planning.

    Raises
    ------
    PlanError
        If there is no such routine, a position lies outside an axis's limits or beyond 1e15 steps, there are
        too many steps, or the plan would take more than 1e9 s.
    """
    chosen = _find_routine(machine, routine)
    _refuse(machine, chosen, checkpoint)
    lead_in = max((enable_lead_s(axis) for axis in machine.axes), default=0.0)
    most = available_bytes() if most_bytes is None else most_bytes
    score = _Score(machine, start_positions(machine, chosen), lead_in, most)
    for commanded in walk(machine, chosen):
        checkpoint()
        if isinstance(commanded.block, Pause):
            score.pause(commanded.index, commanded.block)
        else:
            score.move(commanded, commanded.block)
    score.refuse_long()
    axes = tuple(
        AxisPlan(axis, score.ratios[i], Train(score.start[i], score.position[i], score.strokes[i]))
        for i, axis in enumerate(machine.axes)
    )
    findings = by_severity(machine_findings(machine))
    return Plan(machine, chosen, lead_in, float(score.clock), tuple(score.blocks), axes, findings)
