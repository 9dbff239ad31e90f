"""Findings about current and heat: a supply that would cook the coils, and what is held for nothing."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.copper import greatest_draw, supply_volts
from kivant.core.drive.drivers import driver_kind
from kivant.core.findings.kind import Case, Edit, FindingKind, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine
from kivant.core.path import Path, axis_path

WARM_W = 2.0
"""Copper loss at rest that is worth telling: a motor that a hand can close around gets warm of it."""
HALF = 0.5
"""The share of the current that usually holds a load at rest."""
MARGIN = 1.1
"""By how much supply over resistance may exceed a motor's current: the tolerance of a winding."""


def _too_much(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        driver, motor = axis.driver, axis.motor
        switched = driver_kind(driver).rows(driver) is not None  # nothing but the winding limits the current then
        volts = supply_volts(machine, axis)
        if not switched or volts is None or motor.resistance_ohm is None or motor.current_a is None:
            continue
        current = volts / motor.resistance_ohm
        if current > MARGIN * motor.current_a:
            figures = {
                "axis": axis.name,
                "current": figure(current),
                "supply": figure(volts),
                "resistance": figure(motor.resistance_ohm),
                "rated": figure(motor.current_a),
                "most": figure(motor.current_a * motor.resistance_ohm),
            }
            yield Case(axis_path(i, "driver", "supply" if driver.supply else "supply_v"), figures)


def _held(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        loss = greatest_draw(axis, supply_volts(machine, axis)).loss_w
        if axis.driver.at_rest == "hold" and loss is not None and loss >= WARM_W:
            figures = {"axis": axis.name, "loss": f"{loss:.2g}", "less": f"{loss * HALF * HALF:.2g}"}
            yield Case(axis_path(i, "driver", "at_rest"), figures)


def _halved(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        driver = place.parent
        return with_value(with_value(machine, driver / "reduced_percent", 100 * HALF), place, "reduced")

    return edit


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

HOLD_WARMS = FindingKind(
    code="hold-warms",
    severity="note",
    subject="machine",
    title="A motor turns its full current into heat at rest.",
    check=_held,
    message="{axis} holds with its full current at rest, which makes up to {loss} W of heat in the motor.",
    remedy="Reduce the current at rest to 50 %: {less} W are left, and half the torque. Or switch it off, if "
    "friction or detent torque holds the load.",
    mend=_halved,
)
