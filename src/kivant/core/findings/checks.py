"""All kinds of findings in their table, and what they find in a machine."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from kivant.core.findings.calibration import (
    BACKLASH_EXCEEDS_MOVE,
    CALIBRATION_STALE,
    RESIDUAL_LARGE,
    TURNS_THE_OTHER_WAY,
)
from kivant.core.findings.checked_routine import CheckedRoutine
from kivant.core.findings.current import COIL_CURRENT, HOLD_WARMS
from kivant.core.findings.finding import Finding, by_severity
from kivant.core.findings.kind import Edit, FindingKind, Subject
from kivant.core.findings.limits import OUTSIDE_LIMITS, PLACE_UNREACHABLE, SPIN_IMPOSSIBLE
from kivant.core.findings.lines import ENABLE_MISSING, LINE_SHARED, LINES_SHORT
from kivant.core.findings.motor import (
    ACCELERATION_OVER_TORQUE,
    LOAD_NOT_HELD,
    SPEED_OVER_TORQUE,
    SUPPLY_LOW,
)
from kivant.core.findings.program import (
    AXIS_HOLDS_BACK,
    BLOCK_WITHOUT_EFFECT,
    NEVER_REACHES_SPEED,
    POSE_UNREACHABLE,
    REPEAT_WITHOUT_PAUSE,
    SINGULAR,
)
from kivant.core.findings.ramp import (
    ACCELERATION_IN_PLAN,
    MOTOR_DATA_ESTIMATED,
    SPEED_IN_AVOID_BAND,
    START_SPEED_OVER_PULL_IN,
    STEPS_LOST,
)
from kivant.core.findings.sequence import SEQUENCE_DEAD_ROW, SEQUENCE_UNEVEN
from kivant.core.findings.speed import NO_RAMP, PULSE_RATE_CAPPED
from kivant.core.findings.supply import SUPPLY_MISMATCH, SUPPLY_OVERLOADED
from kivant.core.findings.switches import SWITCHES_DIFFER
from kivant.core.findings.travel import RATIO_DIFFERS_FROM_SOLD, RESOLUTION_COARSE
from kivant.core.findings.wires import WINDING_MISMATCH, WIRES_PERMUTED
from kivant.core.machine.parts import Machine
from kivant.core.path import routine_path

FINDINGS: dict[str, FindingKind] = {
    kind.code: kind
    for kind in (
        LINES_SHORT,
        LINE_SHARED,
        PULSE_RATE_CAPPED,
        NO_RAMP,
        COIL_CURRENT,
        SPEED_OVER_TORQUE,
        ACCELERATION_OVER_TORQUE,
        START_SPEED_OVER_PULL_IN,
        SUPPLY_LOW,
        LOAD_NOT_HELD,
        SUPPLY_OVERLOADED,
        SUPPLY_MISMATCH,
        SWITCHES_DIFFER,
        WINDING_MISMATCH,
        WIRES_PERMUTED,
        SEQUENCE_DEAD_ROW,
        SEQUENCE_UNEVEN,
        RESOLUTION_COARSE,
        CALIBRATION_STALE,
        TURNS_THE_OTHER_WAY,
        RESIDUAL_LARGE,
        BACKLASH_EXCEEDS_MOVE,
        ENABLE_MISSING,
        RATIO_DIFFERS_FROM_SOLD,
        HOLD_WARMS,
        SPEED_IN_AVOID_BAND,
        MOTOR_DATA_ESTIMATED,
        OUTSIDE_LIMITS,
        SPIN_IMPOSSIBLE,
        PLACE_UNREACHABLE,
        POSE_UNREACHABLE,
        REPEAT_WITHOUT_PAUSE,
        BLOCK_WITHOUT_EFFECT,
        AXIS_HOLDS_BACK,
        NEVER_REACHES_SPEED,
        SINGULAR,
        STEPS_LOST,
    )
}
"""Every kind by its code; the same may be seen in the plan of a routine, too: see `IN_PLANS`."""

IN_PLANS: tuple[FindingKind, ...] = (ACCELERATION_IN_PLAN,)
"""Kinds that show in a plan what another of the same code finds in the machine."""


def machine_findings(machine: Machine, checkpoint: Callable[[], None] = lambda: None) -> tuple[Finding, ...]:
    """Return what is to be said about the machine itself, errors first; `checkpoint` is called before each check."""
    return by_severity(_of_machine(machine, checkpoint))


def routine_findings(machine: Machine, checkpoint: Callable[[], None] = lambda: None) -> tuple[Finding, ...]:
    """Return what is seen of every routine without a simulation; `checkpoint` is called before checks and blocks."""
    return by_severity(_of_routines(machine, "routine", checkpoint))


def simulated_findings(machine: Machine, checkpoint: Callable[[], None] = lambda: None) -> tuple[Finding, ...]:
    """Return what only a simulation of the rotors shows of every routine; `checkpoint` may raise to end it."""
    return by_severity(_of_routines(machine, "simulation", checkpoint))


def _of_machine(machine: Machine, checkpoint: Callable[[], None]) -> Iterator[Finding]:
    for kind in FINDINGS.values():
        if kind.subject == "machine":
            checkpoint()
            for case in kind.check(machine):
                yield kind.finding(case)


def _of_routines(machine: Machine, subject: Subject, checkpoint: Callable[[], None]) -> Iterator[Finding]:
    for i, routine in enumerate(machine.routines):
        checked = CheckedRoutine(machine, routine, routine_path(i), checkpoint)
        for kind in (*FINDINGS.values(), *IN_PLANS):
            if kind.subject == subject:
                checkpoint()
                for case in kind.check(checked):
                    yield kind.finding(case)


def all_findings(machine: Machine) -> tuple[Finding, ...]:
    """Return what is to be said about the machine and every one of its routines; errors first."""
    return by_severity((*machine_findings(machine), *routine_findings(machine), *simulated_findings(machine)))


def remedy_of(finding: Finding) -> Edit | None:
    """Return the edit that mends a finding, None where only a person can."""
    mend = FINDINGS[finding.code].mend if finding.mends else None
    return None if mend is None else mend(finding.place)
