"""Findings about current: a supply that would cook the coils."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.drivers import driver_kind
from kivant.core.findings.kind import Case, FindingKind, figure
from kivant.core.machine.parts import Machine
from kivant.core.path import axis_path

MARGIN = 1.1
"""By how much supply over resistance may exceed a motor's current: the tolerance of a winding."""


def _too_much(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        driver, motor = axis.driver, axis.motor
        switched = driver_kind(driver).rows(driver) is not None  # nothing but the winding limits the current then
        if not switched or driver.supply_v is None or motor.resistance_ohm is None or motor.current_a is None:
            continue
        current = driver.supply_v / motor.resistance_ohm
        if current > MARGIN * motor.current_a:
            figures = {
                "axis": axis.name,
                "current": figure(current),
                "supply": figure(driver.supply_v),
                "resistance": figure(motor.resistance_ohm),
                "rated": figure(motor.current_a),
                "most": figure(motor.current_a * motor.resistance_ohm),
            }
            yield Case(axis_path(i, "driver", "supply_v"), figures)


COIL_CURRENT = FindingKind(
    code="coil-current",
    severity="warning",
    subject="machine",
    title="Coils that are switched would draw more than the motor is made for.",
    check=_too_much,
    message="{axis}'s coils would draw {current} A at {supply} V and {resistance} ohm; the motor is made for "
    "{rated} A.",
    remedy="Supply at most {most} V, or use a driver that limits the current.",
)
