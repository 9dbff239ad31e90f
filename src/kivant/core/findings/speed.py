"""Findings about speed: more than driver or board can do, and no ramp at all."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine
from kivant.core.motion.rates import pulse_rate
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import steps_per_unit


def _capped(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        rate, wished = pulse_rate(machine, axis), axis.limits.speed * float(steps_per_unit(axis))
        if wished <= rate * (1 + 1e-9):
            continue
        figures = {
            "axis": axis.name,
            "speed": figure(axis.limits.speed),
            "unit": axis.unit,
            "wished": figure(wished),
            "holder": "driver" if rate == pulse_rate_limit(axis.driver) else "board",
            "rate": figure(rate),
            "reached": figure(rate / float(steps_per_unit(axis))),
        }
        yield Case(axis_path(i, "limits", "speed"), figures)


def _slower(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        return with_value(machine, place, pulse_rate(machine, axis) / float(steps_per_unit(axis)))

    return edit


def _without_ramp(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        limits = axis.limits
        if limits.start_speed >= limits.speed:
            figures = {"axis": axis.name, "unit": axis.unit, "speed": figure(limits.speed)}
            yield Case(axis_path(i, "limits", "start_speed"), figures | {"start": figure(limits.start_speed)})


PULSE_RATE_CAPPED = FindingKind(
    code="pulse-rate-capped",
    severity="warning",
    subject="machine",
    title="The speed of an axis needs more pulses than its driver or the board can take.",
    check=_capped,
    message="{axis}'s speed of {speed} {unit}/s needs {wished} steps/s; the {holder} takes {rate}, so it will not "
    "go faster than {reached} {unit}/s.",
    remedy="Lower the speed to {reached} {unit}/s, or use fewer microsteps or a faster {holder}.",
    mend=_slower,
)

NO_RAMP = FindingKind(
    code="no-ramp",
    severity="warning",
    subject="machine",
    title="An axis jumps to its full speed at once.",
    check=_without_ramp,
    message="{axis} jumps to its full speed of {speed} {unit}/s at once: the start speed is {start} {unit}/s, so its "
    "acceleration is never used.",
    remedy="Set the start speed to what the motor can jump to (often 0 to 100 full steps/s) and let the ramp do "
    "the rest.",
    mend=lambda place: lambda machine: with_value(machine, place, 0.0),
)
