"""Findings about travel: steps that are too coarse, and a gearbox that is not what it was sold as."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.drivers.kind import Finer
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sold import sold_drift


def _coarse(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        step = 1 / steps_per_unit(axis)
        if axis.tolerance is not None and step > Fraction(str(axis.tolerance)):
            finer = _finer(axis)
            advice = f"Drive it {finer.words}" if finer else "Gear it down"
            figures = {
                "axis": axis.name, "step": figure(step), "tolerance": figure(axis.tolerance), "unit": axis.unit,
                "advice": advice,
            }  # fmt: skip
            yield Case(axis_path(i, "tolerance"), figures, finer is not None)


def _finer(axis: Axis) -> Finer | None:
    """Return the coarsest way of driving an axis whose steps are within its tolerance; None where none is."""
    needed = 1 / (steps_per_unit(axis) * Fraction(str(axis.tolerance)))
    return next((way for way in driver_kind(axis.driver).finer(axis.driver) if way.times >= needed), None)


def _refined(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        index, axis = axis_at(machine, place)
        finer = _finer(axis) if axis.tolerance is not None else None
        return with_value(machine, axis_path(index, "driver", finer.key), finer.value) if finer else machine

    return edit


def _differs(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        found = sold_drift(axis)
        if found is not None and found.per_turn:
            figures = {
                "axis": axis.name, "sold": figure(found.sold), "true": figure(found.true), "unit": axis.unit,
                "turn": figure(abs(found.per_turn)), "hundred": figure(abs(100 * found.per_turn)),
            }  # fmt: skip
            yield Case(axis_path(i, "sold"), figures)


RESOLUTION_COARSE = FindingKind(
    code="resolution-coarse",
    severity="warning",
    subject="machine",
    title="The steps of an axis are larger than the error it may have.",
    check=_coarse,
    message="One step moves {axis} by {step} {unit}, and its tolerance is {tolerance} {unit}.",
    remedy="{advice}, or allow more.",
    mend=_refined,
)

RATIO_DIFFERS_FROM_SOLD = FindingKind(
    code="ratio-differs-from-sold",
    severity="note",
    subject="machine",
    title="A gearbox is not what it was sold as.",
    check=_differs,
    message="{axis}'s gearbox was sold as 1:{sold} and is 1:{true}.",
    remedy="Use 1:{true}, as Kivant does: with the ratio on its label, a turn is {turn} {unit} off, and 100 turns "
    "{hundred} {unit}.",
)
