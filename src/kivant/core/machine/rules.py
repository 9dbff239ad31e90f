"""Rules of a machine that relate several fields: names that must exist, stages that must fit the unit."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.drive.sequence_table import LEAST_ROWS
from kivant.core.drive.switches import faults_of_bank
from kivant.core.errors import Fault
from kivant.core.machine.geometry_rules import broken_rules_of_geometry
from kivant.core.machine.parts import Axis, Machine, Motor, Routine
from kivant.core.machine.program_rules import broken_rules_of_poses, broken_rules_of_routine, known
from kivant.core.path import Path, axis_path, routine_path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.stages import stage_kind


def broken_rules(machine: Machine) -> Iterator[Fault]:
    """Yield every fault that only shows when several fields are seen together."""
    yield from _doubled(machine)
    for i, axis in enumerate(machine.axes):
        place = axis_path(i)
        yield from _lines(machine, place, axis)
        yield from _sequence(place, axis)
        yield from _feeding(machine, place, axis)
        yield from _travel(place / "travel", axis)
        yield from _ratio(place, axis)
        yield from _limits(place, axis)
        if axis.motor.torque_points:
            yield from point_faults(place / "motor" / "torque_points", axis.motor)
        yield from _load(place, axis)
    yield from broken_rules_of_geometry(machine)
    yield from broken_rules_of_poses(machine)
    for i, routine in enumerate(machine.routines):
        yield from broken_rules_of_routine(machine, routine, routine_path(i))


def place_of(machine: Machine, routine: Routine) -> Path:
    """Return the path of a routine of the machine; of one that is not, the path ``move``."""
    names = [other.name for other in machine.routines]
    return routine_path(names.index(routine.name)) if routine.name in names else Path(("move",))


def _doubled(machine: Machine) -> Iterator[Fault]:
    """Yield a fault for each name that appears twice in a list."""
    board, parts = machine.board, (machine.axes, machine.supplies or (), machine.routines)
    axes, supplies, routines = ([part.name for part in own] for own in parts)
    for names, what, place, *inner in (
        (board.lines, "line", ("board", "lines")), (board.inputs, "input", ("board", "inputs")),
        (axes, "axis", ("axes",), "name"), (supplies, "supply", ("supplies",), "name"),
        (routines, "routine", ("routines",), "name"),
    ):  # fmt: skip
        seen: set[str] = set()
        for index, name in enumerate(names if len(set(names)) < len(names) else ()):
            if name in seen:
                where = Path((*place, index, *inner))
                yield Fault(where, f"The {what} “{name}” appears twice.", "Give each a different name.")
            seen.add(name)


def _lines(machine: Machine, place: Path, axis: Axis) -> Iterator[Fault]:
    there = set(machine.board.lines)
    for key, line in board_lines(axis.driver).items():
        if line not in there:
            yield Fault(
                place / "driver" / "lines" / key,
                f"There is no line “{line}” on the board.",
                f"Use one of board.lines ({known(machine.board.lines)}), or add it there.",
            )


def _sequence(place: Path, axis: Axis) -> Iterator[Fault]:
    table = driver_kind(axis.driver).rows(axis.driver)
    if table is not None and len(table) < LEAST_ROWS:
        message = f"Expected at least {LEAST_ROWS} rows; found {len(table)}."
        yield Fault(place / "driver" / "sequence" / "rows", message, "Give the words of one cycle.")


def _feeding(machine: Machine, place: Path, axis: Axis) -> Iterator[Fault]:
    names = [supply.name for supply in machine.supplies or ()]
    if axis.driver.supply is not None and axis.driver.supply not in names:
        remedy = f"Use one of supplies ({known(names)}), or add it there."
        yield Fault(place / "driver" / "supply", f"There is no supply “{axis.driver.supply}”.", remedy)
    for key in ("switches", "current_switches"):
        bank = getattr(axis.driver, key, None)
        if bank is not None:
            yield from faults_of_bank(bank, place / "driver" / key)


def _travel(place: Path, axis: Axis) -> Iterator[Fault]:
    for k, stage in enumerate(axis.travel):
        yield from stage_kind(stage).faults(stage, place / k)
    linear = [k for k, stage in enumerate(axis.travel) if stage_kind(stage).linear]
    if axis.unit == "deg" and linear:
        yield Fault(
            place / linear[0],
            "An axis in deg has no belt or screw, rack or drum.",
            "Remove the stage, or set the unit to mm.",
        )
    elif axis.unit == "mm" and linear != [len(axis.travel) - 1]:
        yield Fault(
            place,
            f"An axis in mm has exactly one belt or screw, rack or drum, as its last stage; found {len(linear)}.",
            "Add or move the stage, or set the unit to deg.",
        )


_MOST_RATIO = 10**12  # steps that an axis may make for a unit, and units for a step


def _ratio(place: Path, axis: Axis) -> Iterator[Fault]:
    ratio = steps_per_unit(axis)
    if not ratio.denominator <= _MOST_RATIO * ratio.numerator <= _MOST_RATIO**2 * ratio.denominator:
        yield Fault(
            place / "travel",
            f"The stages make {_power(ratio)} steps per {axis.unit}; expected between 1e-12 and 1e12.",
            "Check the teeth, ratios, pitch and lead.",
        )


def _power(value: Fraction) -> str:
    return f"about 1e{len(str(value.numerator)) - len(str(value.denominator))}"


def point_faults(place: Path, motor: Motor) -> Iterator[Fault]:
    """Yield what is wrong with the points of a motor's torque."""
    latest = -1.0
    for index, point in enumerate(motor.torque_points or ()):
        if len(point) != 2:
            yield Fault(place / index, "A point is a speed and a torque.", "Write full steps/s and N m: [500, 0.2].")
        elif point[0] <= latest:
            message = f"The speed {point[0]:g} does not lie above the one before, {latest:g}."
            yield Fault(place / index, message, "Put the points in the order of rising speeds, each speed once.")
        if point:
            latest = max(latest, point[0])


def _load(place: Path, axis: Axis) -> Iterator[Fault]:
    for key, instead in (("mass_kg", "an inertia at the rotor"), ("force_n", "torque_nm")):
        if axis.unit == "deg" and getattr(axis.load, key) is not None:
            yield Fault(place / "load" / key, f"{axis.name} turns: its load has no {key}.", f"Give {instead} instead.")


def _limits(place: Path, axis: Axis) -> Iterator[Fault]:
    low, high = axis.limits.min, axis.limits.max
    if low is not None and high is not None and low > high:
        yield Fault(
            place / "limits" / "max",
            f"The greatest position {high} lies below the least, {low}.",
            "Swap the two.",
        )
    yield from _ramp(place, axis)
    if axis.limits.wrap is not None and axis.unit != "deg":
        message = "Only an axis in deg wraps; this one is in mm."
        yield Fault(place / "limits" / "wrap", message, "Remove wrap, or set the unit to deg.")
    if axis.driver.at_rest == "reduced" and axis.driver.reduced_percent is None:
        yield Fault(
            place / "driver" / "reduced_percent",
            "at_rest is “reduced”, but reduced_percent is missing.",
            "Give reduced_percent, such as 50.",
        )


_LEAST_LEFT = 0.01  # of an axis's speed: a band that leaves it less covers everything

LONGEST_RAMP_S = 3600.0
"""Longest time that a jerk may make an axis take to its speed, s."""


def _ramp(place: Path, axis: Axis) -> Iterator[Fault]:
    limits = axis.limits
    if limits.jerk is not None:
        seconds = _jerky_s(limits.speed, limits.acceleration, limits.jerk)
        if seconds > LONGEST_RAMP_S:
            least = next(jerk for k in range(400) if _jerky_s(limits.speed, math.inf, jerk := 10.0 ** (k - 12)) < 60)
            message = f"With so little jerk {axis.name} takes {seconds / 3600:.3g} h to reach its speed."
            remedy = f"Give {least:g} {axis.unit}/s³ or more, or lower the speed."
            yield Fault(place / "limits" / "jerk", message, remedy)
    elif limits.shape == "s_curve":
        remedy = f"Give a jerk, such as {10 * limits.acceleration:g} {axis.unit}/s³, or choose another shape."
        yield Fault(place / "limits" / "jerk", f"The ramps of {axis.name} are S-curves, but there is no jerk.", remedy)
    latest = 0.0
    for index, band in enumerate(limits.avoid or ()):
        where = place / "limits" / "avoid" / index
        if len(band) != 2 or band[0] >= band[1]:
            yield Fault(where, "A band is two speeds, the lower first.", "Write it as [40, 55].")
        elif band[0] <= latest:
            message = f"The band from {band[0]:g} does not lie above the one before, which ends at {latest:g}."
            yield Fault(where, message, "Join the two, or put them in the order of rising speeds.")
        elif band[0] < _LEAST_LEFT * limits.speed < limits.speed < band[1]:
            message = (
                f"The band from {band[0]:g} to {band[1]:g} leaves hardly any speed to {axis.name}, which is to go "
            )
            message += f"{limits.speed:g} {axis.unit}/s."
            yield Fault(where, message, "Give a narrower band, or lower the speed.")
        latest = max(latest, *band) if band else latest


def _jerky_s(speed: float, acceleration: float, jerk: float) -> float:
    """Return how long a jerk-limited ramp to a speed takes, s."""
    return speed / acceleration + acceleration / jerk if speed > acceleration**2 / jerk else 2 * math.sqrt(speed / jerk)
