"""Findings about calibration: one of another chain, readings that scatter, and moves that are lost in the play."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from kivant.core.findings.checked_routine import CheckedRoutine
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.calibrations import agree_with_seen
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import chain_steps_per_unit, steps_per_unit
from kivant.core.travel.play import play_of

MOST_SCATTER = 3.0
"""Steps by which readings may scatter before it is worth telling: less is the rounding to steps, and the eye."""


def _stale(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        known = axis.calibration
        if known is not None and known.chain is not None and Fraction(known.chain) != chain_steps_per_unit(axis):
            when = f" of {known.measured}" if known.measured else ""
            yield Case(axis_path(i, "calibration"), {"axis": axis.name, "when": when})


def _forgotten(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        axis_at(machine, place)
        return with_value(machine, place, None)

    return edit


def _scattered(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        known = axis.calibration
        if known is None or known.residual is None:
            continue
        steps = known.residual * float(steps_per_unit(axis))
        if steps > MOST_SCATTER:
            figures = {
                "axis": axis.name,
                "residual": figure(known.residual),
                "unit": axis.unit,
                "steps": f"{steps:.2g}",
            }
            yield Case(axis_path(i, "calibration", "residual"), figures)


def _against(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        if axis.calibration is not None and axis.calibration.sense == -1:
            yield Case(axis_path(i, "calibration", "sense"), {"axis": axis.name})


def _agreeing(place: Path) -> Edit:
    return lambda machine: agree_with_seen(axis_at(machine, place)[0])(machine)


def _lost(checked: CheckedRoutine) -> Iterator[Case]:
    loose = [(k, axis, play_of(axis).steps) for k, axis in enumerate(checked.machine.axes)]
    if not any(steps for _k, _axis, steps in loose):
        return
    commanded = checked.commanded
    for k, axis, steps in loose:
        if not steps:
            continue
        for row, before, after in commanded.axes[k].goes():
            way = abs(Fraction(after) - Fraction(before)) * steps_per_unit(axis)
            if 0 < way < steps:
                figures = {"axis": axis.name, "way": f"{float(way):.3g}", "play": str(steps)}
                yield Case(checked.place / commanded.places.path(row), figures)
                break  # one of an axis tells it


CALIBRATION_STALE = FindingKind(
    code="calibration-stale",
    severity="warning",
    subject="machine",
    title="The chain of an axis was changed after it was calibrated.",
    check=_stale,
    message="{axis}'s stages or motor were changed after its calibration{when}: its scale is that of another chain.",
    remedy="Calibrate it again at Travel, or remove the calibration.",
    mend=_forgotten,
)

TURNS_THE_OTHER_WAY = FindingKind(
    code="turns-the-other-way",
    severity="warning",
    subject="machine",
    title="A tool was seen to go against the positive direction of its axis.",
    check=_against,
    message="{axis}'s readings fell where its positions rose: its direction is not the one that was seen.",
    remedy="Let a stage of the chain reverse the direction, or swap the wires of one winding and measure again.",
    mend=_agreeing,
)

RESIDUAL_LARGE = FindingKind(
    code="residual-large",
    severity="note",
    subject="machine",
    title="Readings of a calibration scatter more than the step and reading by eye explain.",
    check=_scattered,
    message="The readings of {axis}'s calibration scatter by {residual} {unit}, {steps} steps: something is loose or "
    "slips.",
    remedy="Tighten what may be loose, and measure again at more places.",
)

BACKLASH_EXCEEDS_MOVE = FindingKind(
    code="backlash-exceeds-move",
    severity="note",
    subject="routine",
    title="A move is shorter than the play of its axis.",
    check=_lost,
    message="{axis} moves by {way} steps here, and its play is {play} steps: where it reverses, most of the time goes "
    "into taking that up.",
    remedy="Approach such places from one side, or remove the play from the machine.",
)
