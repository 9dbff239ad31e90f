"""Findings about wires: coils that are plugged in an order in which the motor does not turn as it should."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import COILS
from kivant.core.drive.wiring import nearest_forward, orders
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path, axis_path

_DOES = {"reverse": "turns the other way", "shudders": "only shudders"}


def _words(axis: Axis) -> tuple[int, ...]:
    return tuple(row.word for row in driver_kind(axis.driver).rows(axis.driver) or ())


def _permuted(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        wires = getattr(axis.driver, "wires", None)
        if wires is None:
            continue
        verdict = next(order.verdict for order in orders(_words(axis)) if order.wires == wires)
        if verdict != "forward":
            better = nearest_forward(_words(axis), wires)
            swapped = [coil for coil, end, other in zip(COILS, wires, better, strict=True) if end != other]
            remedy = (
                f"Swap the plugs of outputs {' and '.join(swapped)}" if len(swapped) == 2 else "Plug the outputs anew"
            )
            figures = {"axis": axis.name, "wires": wires, "does": _DOES[verdict], "remedy": remedy, "better": better}
            yield Case(axis_path(i, "driver", "wires"), figures)


def _without_taps(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        outputs = getattr(axis.driver, "outputs", None)
        if outputs in ("sink", "source") and axis.motor.winding == "bipolar":
            yield Case(axis_path(i, "motor", "winding"), {"axis": axis.name, "outputs": outputs})


def _bridged(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        index, _axis = axis_at(machine, place)
        return with_value(machine, axis_path(index, "driver", "outputs"), "bridge")

    return edit


def _replugged(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        better = nearest_forward(_words(axis), getattr(axis.driver, "wires", None) or "".join(COILS))
        return with_value(machine, place, None if better == "".join(COILS) else better)

    return edit


WIRES_PERMUTED = FindingKind(
    code="wires-permuted",
    severity="warning",
    subject="machine",
    title="Coils are plugged in an order in which the motor does not turn as it should.",
    check=_permuted,
    message="With the outputs A, B, C, D on the ends {wires}, {axis} {does}.",
    remedy="{remedy}, so that they reach {better}.",
    mend=_replugged,
)

WINDING_MISMATCH = FindingKind(
    code="winding-mismatch",
    severity="warning",
    subject="machine",
    title="A driver that only switches one way feeds windings without taps.",
    check=_without_taps,
    message="{axis}'s outputs only {outputs} current, but its windings have no taps: no current flows back.",
    remedy="Use a driver with a bridge for each winding, or a motor with taps. If the driver has bridges, say so.",
    mend=_bridged,
)
