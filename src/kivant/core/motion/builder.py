"""The plan builder: lays a routine's blocks one behind the other in time, within every limit of the machine."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

from kivant.core.drive.drivers import driver_kind, switches_off
from kivant.core.errors import Fault, shown
from kivant.core.machine.check import faults_of, faults_of_routine
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.rules import known, place_of
from kivant.core.motion.axis_move import AxisMove, AxisMoves, axis_move
from kivant.core.motion.blocks import Commanded, block_kind
from kivant.core.motion.coordination import coordinate
from kivant.core.motion.plan import AxisPlan, Plan, PlanError, PlannedBlock
from kivant.core.motion.rates import pulse_rate, rates_of
from kivant.core.motion.reach import Reach, beyond_words
from kivant.core.motion.routine import start_positions, walk
from kivant.core.motion.train import BYTES_PER_STEP, StepTrain
from kivant.core.travel.conversion import steps_per_unit

MOST_STEPS = 10**15
"""Farthest position in steps: whole numbers up to here are exact in the float arithmetic of instants."""

LONGEST_S = 10**9
"""Longest plan, s: its nanoseconds still fit a 64-bit integer, some thirty years."""

LEAST_STANDING_S = 1e-3
"""How long the last step stands before power is taken away, s: less would not hold a rotor that has yet to arrive."""

MOST_BYTES = 8_000_000_000
"""Memory that the steps of a plan may take where nobody says otherwise."""


def _difference(a: Fraction, b: Fraction) -> float:
    """Return a - b, rounded once: a quotient of whole numbers, where a fraction would first be reduced."""
    return (a.numerator * b.denominator - b.numerator * a.denominator) / (a.denominator * b.denominator)


class PlanBuilder:
    """The moves of all axes as they are laid one behind the other in time; blocks call `rest` and `move`."""

    def __init__(self, machine: Machine, starts: Sequence[Fraction], begin_s: float, most_bytes: int) -> None:
        self.axes = machine.axes
        self.steps, self.most_bytes = 0, most_bytes
        self.ratios = [steps_per_unit(axis) for axis in machine.axes]
        self.rates = [rates_of(machine, axis) for axis in machine.axes]
        self.start = [p * ratio for p, ratio in zip(starts, self.ratios, strict=True)]
        self.position = list(self.start)  # exact, in steps
        for i, position in enumerate(self.start):
            self._refuse_far(i, position)
        kinds = [(driver_kind(axis.driver), axis) for axis in machine.axes]
        self.gaps_s = [kind.reversal_gap_s(axis.driver, pulse_rate(machine, axis)) for kind, axis in kinds]
        self.setups_s = [kind.first_set_up_s(axis.driver) for kind, axis in kinds]
        self.moves = [AxisMoves() for _ in machine.axes]
        self.stepping: list[AxisMove | None] = [None for _ in machine.axes]
        self.blocks: list[PlannedBlock] = []
        # Durations are added exactly: with many blocks, rounded sums would drift apart from the truth.
        self.clock = Fraction(begin_s)

    def rest(self, commanded: Commanded, seconds: float) -> None:
        """Let all axes rest for so many seconds."""
        begin = float(self.clock)
        self.clock += Fraction(seconds)
        self._note(commanded, begin, float(self.clock))

    def move(self, commanded: Commanded, speed_factor: float) -> None:
        """Move all axes straight to where the block commands them, together.

        Raises
        ------
        PlanError
            If a position is too far to be counted, or there are more steps than memory may be used for.
        """
        before = self.position
        moving = [i for i, p in enumerate(commanded.after) if p != commanded.before[i]]
        after = {i: commanded.after[i] * self.ratios[i] for i in moving}
        for i, position in after.items():
            self._refuse_far(i, position)
        distances = [_difference(after[i], before[i]) for i in moving]
        ramp = coordinate(distances, [self.rates[i] for i in moving], speed_factor)
        begin = float(self.clock)
        if ramp is None:
            self._note(commanded, begin, begin)
            return
        parts = {i: axis_move(begin, ramp, before[i], after[i]) for i in moving}
        wait = max(self._wait(i, part) for i, part in parts.items())
        if wait > 0.0:
            self.clock += Fraction(wait)
            begin = float(self.clock)
            parts = {i: replace(part, begin_s=begin) for i, part in parts.items()}
        for i, part in parts.items():
            self.position[i] = after[i]
            self.moves[i].add(part)
            if part.count:
                self.stepping[i] = part
                self._refuse_many(i, part.count)
        self.clock += Fraction(ramp.duration_s)
        self._note(commanded, begin, float(self.clock), begin + ramp.braking_s)

    def _note(self, commanded: Commanded, begin_s: float, end_s: float, braking_s: float | None = None) -> None:
        braking_s = end_s if braking_s is None else braking_s
        self.blocks.append(PlannedBlock(commanded.path, commanded.block, begin_s, end_s, braking_s))

    def _refuse_far(self, i: int, position: Fraction) -> None:
        if abs(position) > MOST_STEPS:
            message = f"{self.axes[i].name} would stand at step {float(position):.3g}; the limit is {MOST_STEPS:.0e}."
            raise PlanError(Fault(self.axes[i].name, message, "Stay closer to position 0, or check the travel."))

    def _refuse_many(self, i: int, count: int) -> None:
        self.steps += count
        needed = self.steps * BYTES_PER_STEP
        if needed > self.most_bytes:
            message = (
                f"The plan would have {self.steps:.3g} steps or more and take {needed / 1e9:.3g} GB of memory; "
                f"{self.most_bytes / 1e9:.3g} GB may be used."
            )
            raise PlanError(Fault(self.axes[i].name, message, "Shorten its moves, or split the routine."))

    def refuse_long(self) -> None:
        """Refuse a plan whose instants could not be told to the nanosecond.

        Raises
        ------
        PlanError
            If it lasts longer than `LONGEST_S`.
        """
        if self.clock > LONGEST_S:
            years = float(self.clock) / (365.25 * 86400)
            message = f"The plan would take {years:.3g} years; the limit is {LONGEST_S / (365.25 * 86400):.0f}."
            raise PlanError(Fault("", message, "Raise the speeds and accelerations, or shorten the routine."))

    def _wait(self, i: int, part: AxisMove) -> float:
        last = self.stepping[i]
        if not part.count or (last is not None and last.sign == part.sign):
            return 0.0
        if last is None:
            return self.setups_s[i] - part.instant(0)
        return last.instant(last.count - 1) + self.gaps_s[i] - part.instant(0)


def _stands_until(axis: AxisPlan) -> float:
    """Return how long an axis must stay powered, s: its last step stands as long as its shortest one."""
    if not axis.steps or not switches_off(axis.axis.driver):
        return 0.0
    return axis.train.instant(axis.steps - 1) + max(1 / axis.peak_pulse_hz, LEAST_STANDING_S)


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
        names = known(f"“{r.name}”" for r in machine.routines)
        fault = Fault("routines", f"There is no routine “{shown(routine)}”.", f"Use one of {names}.")
        raise PlanError(fault) from None


def plan(
    machine: Machine,
    routine: str | Routine | None = None,
    *,
    most_bytes: int = MOST_BYTES,
    trusted: bool = False,
    checkpoint: Callable[[], None] = lambda: None,
) -> Plan:
    """Return the plan of a routine: the fastest within every limit of the machine.

    Parameters
    ----------
    machine : Machine
    routine : str, Routine or None
        A routine of the machine by name, any routine for this machine, or its first one.
    most_bytes : int, optional
        Refuse a plan whose steps take more memory.
    trusted : bool, optional
        Machine and routine were read from a file or made by edits, which have checked them: that is not done again.
    checkpoint : callable, optional
        Called before every block; what it raises ends the planning.

    Raises
    ------
    PlanError
        If there is no such routine, the machine or the routine is not what a project file could hold, a position
        lies outside an axis's limits or beyond 1e15 steps, there are too many steps, or the plan would take more
        than 1e9 s.
    """
    chosen = _find_routine(machine, routine)
    if not trusted:
        faults = [*faults_of(replace(machine, routines=())), *faults_of_routine(machine, chosen)]
        if faults:
            raise PlanError(*faults)
    place, reach, starts = place_of(machine, chosen), Reach(machine), start_positions(machine, chosen)
    beyond = reach.starts(chosen, starts)
    leads = (driver_kind(axis.driver).enable_lead_s(axis.driver) for axis in machine.axes)
    lead_in = max(leads, default=0.0)
    builder = PlanBuilder(machine, starts, lead_in, most_bytes)
    for commanded in walk(machine, chosen):
        checkpoint()
        beyond += reach.beyond(commanded)
        if not beyond:
            block_kind(commanded.block).lay(commanded.block, commanded, builder)
    if beyond:
        raise PlanError(*(Fault(place / found.path, *beyond_words(machine, found)) for found in beyond))
    builder.refuse_long()
    axes = tuple(
        AxisPlan(axis, builder.ratios[i], StepTrain(builder.start[i], builder.position[i], builder.moves[i]))
        for i, axis in enumerate(machine.axes)
    )
    duration = max([float(builder.clock), *map(_stands_until, axes)])
    return Plan(machine, chosen, lead_in, duration, tuple(builder.blocks), axes)
