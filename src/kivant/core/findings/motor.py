"""Findings about motors whose figures are known: asked for more speed, acceleration or hold than they have."""

from __future__ import annotations

import math
from collections.abc import Iterator

from kivant.core.drive.copper import supply_volts
from kivant.core.drive.drivers import driver_kind
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.motor.holding import holding
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import Spare, cut_down, spare_of
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import rotor_turns_per_unit

_LOOKS = 24
"""Speeds up to the axis's own at which its acceleration is looked at."""


def known_axes(machine: Machine) -> Iterator[tuple[int, Axis, Spare]]:
    """Yield the axes of which nothing has to be guessed, by their index, and what moves them."""
    for i, axis in enumerate(machine.axes):
        moves = not driver_kind(axis.driver).obstacle(axis.driver)
        if moves and supply_volts(machine, axis) is not None and not nameplate(axis.motor).estimates:
            yield i, axis, spare_of(machine, axis)


def full_steps_of(axis: Axis) -> float:
    """Return the full steps of one axis unit."""
    return float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev


def _usable(axis: Axis, spare: Spare) -> float:
    return spare.usable_hz() / full_steps_of(axis)


def _too_fast(machine: Machine) -> Iterator[Case]:
    for i, axis, spare in known_axes(machine):
        rate = axis.limits.speed * full_steps_of(axis)
        if spare.left_nm(rate) < 0:
            usable = _usable(axis, spare)
            figures = {
                "axis": axis.name, "speed": figure(axis.limits.speed), "usable": figure(float(f"{usable:.3g}")),
                "unit": axis.unit, "margin": figure(spare.margin),
            }  # fmt: skip
            yield Case(axis_path(i, "limits", "speed"), figures, usable > 0)


def _slower(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        usable = _usable(axis, spare_of(machine, axis))
        return with_value(machine, place, cut_down(usable)) if usable > 0 else machine

    return edit


def _least_acceleration(axis: Axis, spare: Spare) -> float:
    """Return what acceleration can be kept up to the axis's speed, axis units/s²; not above 0 where none can."""
    per_unit = full_steps_of(axis)
    rates = (axis.limits.speed * per_unit * k / _LOOKS for k in range(_LOOKS + 1))
    least = min(map(spare.left_nm, rates))
    return least / spare.load.inertia_kgm2 / (2 * math.pi * float(rotor_turns_per_unit(axis)))


def _too_hard(machine: Machine) -> Iterator[Case]:
    for i, axis, spare in known_axes(machine):
        if shape_of(axis.limits) not in ("trapezoid", "s_curve"):
            continue  # none has no acceleration, and along the torque it is only a bound
        usable = _least_acceleration(axis, spare)
        if 0 < usable < axis.limits.acceleration:
            figures = {
                "axis": axis.name, "acceleration": figure(axis.limits.acceleration), "unit": axis.unit,
                "usable": figure(float(f"{usable:.3g}")), "ratio": f"{axis.limits.acceleration / usable:.3g}",
                "margin": figure(spare.margin),
            }  # fmt: skip
            yield Case(axis_path(i, "limits", "acceleration"), figures)


def _softer(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        usable = _least_acceleration(axis, spare_of(machine, axis))
        return with_value(machine, place, cut_down(usable)) if usable > 0 else machine

    return edit


def _weak_supply(machine: Machine) -> Iterator[Case]:
    for i, axis, spare in known_axes(machine):
        drive = spare.drive
        needed = drive.current_a * drive.resistance_ohm
        if driver_kind(axis.driver).rows(axis.driver) is None and drive.supply_v < needed:
            figures = {
                "axis": axis.name, "volts": figure(drive.supply_v), "needed": figure(float(f"{needed:.3g}")),
                "amps": figure(drive.current_a), "less": figure(cut_down(drive.supply_v / drive.resistance_ohm)),
            }  # fmt: skip
            yield Case(axis_path(i, "driver", "current_a"), figures)


def _less_current(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        drive = spare_of(machine, axis).drive
        return with_value(machine, place, cut_down(drive.supply_v / drive.resistance_ohm))

    return edit


def _falls(machine: Machine) -> Iterator[Case]:
    for i, axis, _spare in known_axes(machine):
        found = holding(machine, axis)
        if found.rest_nm < found.needed_nm:
            figures = {
                "axis": axis.name, "needed": figure(float(f"{found.needed_nm:.3g}")),
                "rest": figure(float(f"{found.rest_nm:.3g}")),
            }  # fmt: skip
            yield Case(axis_path(i, "driver", "at_rest"), figures, found.powered_nm >= found.needed_nm)


def _held(place: Path) -> Edit:
    return lambda machine: with_value(machine, place, "hold")


SPEED_OVER_TORQUE = FindingKind(
    code="speed-over-torque",
    severity="warning",
    subject="machine",
    title="A motor has too little torque at the speed of its axis.",
    check=_too_fast,
    message="{axis}'s motor moves its load up to {usable} {unit}/s with a margin of {margin}; its speed is {speed} "
    "{unit}/s: it may stall.",
    remedy="Lower the speed, raise the voltage, or use a motor with less inductance.",
    mend=_slower,
)

ACCELERATION_OVER_TORQUE = FindingKind(
    code="acceleration-over-torque",
    severity="warning",
    subject="machine",
    title="A motor has too little torque for the acceleration of its axis.",
    check=_too_hard,
    message="{axis} is to be sped up by {acceleration} {unit}/s², {ratio} times what its motor has torque for with a "
    "margin of {margin}.",
    remedy="Lower the acceleration to {usable} {unit}/s², or gear it down.",
    mend=_softer,
)

SUPPLY_LOW = FindingKind(
    code="supply-low",
    severity="warning",
    subject="machine",
    title="A supply cannot drive the current that a driver is set to.",
    check=_weak_supply,
    message="{axis}'s driver is set to {amps} A, for which its winding needs {needed} V even at rest; the supply "
    "has {volts} V.",
    remedy="Supply several times {needed} V, or set the current to {less} A.",
    mend=_less_current,
)

LOAD_NOT_HELD = FindingKind(
    code="load-not-held",
    severity="warning",
    subject="machine",
    title="A load pulls its motor away once a plan has ended.",
    check=_falls,
    message="{axis}'s load pulls {needed} N m at the rotor, and at rest {rest} N m hold it.",
    remedy="Keep the current at rest, or use a self-locking screw or worm, or a brake.",
    mend=_held,
)
