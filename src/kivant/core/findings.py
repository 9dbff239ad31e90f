"""Findings: facts about a machine and its routines that need attention, each with its place and remedy."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from kivant.core.driver import board_lines, pulse_rate_limit
from kivant.core.machine import Axis, CoilDriver, Machine, Move, PulseDriver, Routine
from kivant.core.routine import start_positions, walk
from kivant.core.travel import steps_per_unit

Severity = Literal["error", "warning", "note"]

COIL_CURRENT_MARGIN = 1.1
"""By how much supply over resistance may exceed a motor's current: the tolerance of a winding."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One checked fact; ``place`` is a key path in the project file."""

    code: str
    severity: Severity
    place: str
    message: str
    remedy: str


def figure(value: float | Fraction) -> str:
    """Return a figure as a person writes it: six significant digits, no needless zeros."""
    return f"{float(value):.6g}"


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


def _shared_lines(machine: Machine) -> Iterator[Finding]:
    used: dict[str, str] = {}
    for i, axis in enumerate(machine.axes):
        for key, line in board_lines(axis.driver).items():
            if line not in used:
                used[line] = f"{axis.name}'s {key}"
                continue
            taken = {n for a in machine.axes for n in board_lines(a.driver).values()}
            free = [name for name in machine.board.lines if name not in taken]
            remedy = f"Use a free line, such as {free[0]}." if free else "Add a line to the board: none is free."
            yield Finding(
                "line-shared",
                "error",
                f"axes[{i}].driver.lines.{key}",
                f"{axis.name}'s {key} uses line {line}, which {used[line]} uses already.",
                remedy,
            )


def _pulse_rate_capped(machine: Machine) -> Iterator[Finding]:
    for i, axis in enumerate(machine.axes):
        rate, wished = pulse_rate(machine, axis), axis.limits.speed * float(steps_per_unit(axis))
        if wished <= rate * (1 + 1e-9):
            continue
        holder = "driver" if rate == pulse_rate_limit(axis.driver) else "board"
        reached = rate / float(steps_per_unit(axis))
        yield Finding(
            "pulse-rate-capped",
            "warning",
            f"axes[{i}].limits.speed",
            f"{axis.name}'s speed of {figure(axis.limits.speed)} {axis.unit}/s needs {figure(wished)} steps/s; "
            f"the {holder} takes {figure(rate)}, so it will not go faster than {figure(reached)} {axis.unit}/s.",
            f"Lower the speed to {figure(reached)} {axis.unit}/s, or use fewer microsteps or a faster {holder}.",
        )


def _no_ramp(machine: Machine) -> Iterator[Finding]:
    for i, axis in enumerate(machine.axes):
        limits = axis.limits
        if limits.start_speed >= limits.speed:
            yield Finding(
                "no-ramp",
                "warning",
                f"axes[{i}].limits.start_speed",
                f"{axis.name} jumps to its full speed of {figure(limits.speed)} {axis.unit}/s at once: the start "
                f"speed is {figure(limits.start_speed)} {axis.unit}/s, so its acceleration is never used.",
                "Set the start speed to what the motor can jump to (often 0 to 100 full steps/s) "
                "and let the ramp do the rest.",
            )


def _coil_current(machine: Machine) -> Iterator[Finding]:
    for i, axis in enumerate(machine.axes):
        driver, motor = axis.driver, axis.motor
        if not isinstance(driver, CoilDriver) or driver.supply_v is None:
            continue
        if motor.resistance_ohm is None or motor.current_a is None:
            continue
        current = driver.supply_v / motor.resistance_ohm
        if current > COIL_CURRENT_MARGIN * motor.current_a:
            yield Finding(
                "coil-current",
                "warning",
                f"axes[{i}].driver.supply_v",
                f"{axis.name}'s coils would draw {figure(current)} A at {figure(driver.supply_v)} V and "
                f"{figure(motor.resistance_ohm)} ohm; the motor is made for {figure(motor.current_a)} A.",
                f"Supply at most {figure(motor.current_a * motor.resistance_ohm)} V, "
                "or use a driver that limits the current.",
            )


def _enable_missing(machine: Machine) -> Iterator[Finding]:
    for i, axis in enumerate(machine.axes):
        if isinstance(axis.driver, PulseDriver) and axis.driver.lines.EN is None:
            yield Finding(
                "enable-missing",
                "note",
                f"axes[{i}].driver.lines.EN",
                f"{axis.name}'s driver has no enable line, so a stop cannot take its power away.",
                "Wire the driver's enable input to a free line and name it under EN.",
            )


def outside_limits(
    machine: Machine, routine: Routine, place: str, checkpoint: Callable[[], None] = lambda: None
) -> Iterator[Finding]:
    """Yield a finding for every position of `routine` beyond an axis's limits; `place` is its key path.

    `checkpoint` is called before every block; what it raises ends the search.
    """
    starts = start_positions(machine, routine)
    bounds = [
        (None if axis.limits.min is None else Fraction(axis.limits.min),
         None if axis.limits.max is None else Fraction(axis.limits.max))
        for axis in machine.axes
    ]  # fmt: skip

    def check(i: int, position: Fraction, where: str) -> Iterator[Finding]:
        low, high = bounds[i]
        if (low is None or position >= low) and (high is None or position <= high):
            return
        axis = machine.axes[i]
        side, bound = ("max", high) if high is not None and position > high else ("min", low)
        assert bound is not None
        yield Finding(
            "outside-limits",
            "error",
            where,
            f"{axis.name} would go to {figure(position)} {axis.unit}, beyond its {side} of {figure(bound)}.",
            f"Stay within {side} {figure(bound)} {axis.unit}, or change axes[{i}].limits.{side}.",
        )

    for i, position in enumerate(starts):
        if routine.start and machine.axes[i].name in routine.start:
            yield from check(i, position, f"{place}.start.{machine.axes[i].name}")
    for step in walk(machine, routine):
        checkpoint()
        if isinstance(step.block, Move):
            for i, axis in enumerate(machine.axes):
                for key, targets in (("to", step.block.to), ("by", step.block.by)):
                    if targets and axis.name in targets:
                        yield from check(i, step.after[i], f"{place}.blocks[{step.index}].{key}.{axis.name}")


def machine_findings(machine: Machine) -> tuple[Finding, ...]:
    """Return what is to be said about the machine itself, whatever it does; errors first."""
    checks = (_shared_lines, _pulse_rate_capped, _no_ramp, _coil_current, _enable_missing)
    return by_severity(finding for check in checks for finding in check(machine))


def routine_findings(machine: Machine, checkpoint: Callable[[], None] = lambda: None) -> tuple[Finding, ...]:
    """Return what is to be said about every routine; `checkpoint` as in `outside_limits`."""
    return tuple(
        finding
        for i, routine in enumerate(machine.routines)
        for finding in outside_limits(machine, routine, f"routines[{i}]", checkpoint)
    )


def all_findings(machine: Machine) -> tuple[Finding, ...]:
    """Return what is to be said about the machine and every one of its routines; errors first."""
    return by_severity((*machine_findings(machine), *routine_findings(machine)))


def by_severity(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return the findings with errors first, then warnings, then notes, otherwise in their order."""
    order = {"error": 0, "warning": 1, "note": 2}
    return tuple(sorted(findings, key=lambda finding: order[finding.severity]))
