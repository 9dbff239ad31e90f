"""Sequences and microsteps side by side: what each would mean for one axis.

References
----------
P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 1 (torque as a vector sum) and
ch. 6 (microstepping: currents in quadrature, torque of a small displacement).
"""

from __future__ import annotations

import math
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from kivant.core.drive.copper import at_rest, draws, mean_draw, supply_volts
from kivant.core.drive.drivers import OwnSequence, driver_kind
from kivant.core.drive.phases import MOST_TORQUE, SEQUENCES
from kivant.core.drive.wiring import field_steps
from kivant.core.machine.parts import Axis, Machine
from kivant.core.travel.conversion import steps_per_rev, steps_per_unit


class SequenceFigures(Struct, frozen=True):
    """What a sequence means for an axis.

    Parameters
    ----------
    sequence : str or OwnSequence
    words : tuple of int
    steps_per_rev, steps_per_unit : float
        Of the rotor, and of an axis unit.
    smallest : float
        What one row moves, axis units.
    uneven_deg : float
        By how much the longest step of the field differs from the shortest, electrical degrees.
    torque : tuple of (float, float)
        The least and the greatest over the rows, relative to one coil's.
    supply_a, moving_w, rest_w : float or None
        Mean current from the supply and copper loss while it moves, and the greatest loss at rest; None if unknown.
    """

    sequence: str | OwnSequence
    words: tuple[int, ...]
    steps_per_rev: float
    steps_per_unit: float
    smallest: float
    uneven_deg: float
    torque: tuple[float, float]
    supply_a: float | None
    moving_w: float | None
    rest_w: float | None


def compare(machine: Machine, axis: Axis) -> tuple[SequenceFigures, ...]:
    """Return the figures of each sequence for an axis with a coil driver, and of its own table where it has one."""
    named: tuple[str | OwnSequence, ...] = tuple(SEQUENCES)
    now = axis.driver.sequence  # type: ignore[attr-defined]
    volts = supply_volts(machine, axis)
    return tuple(_figures(axis, sequence, volts) for sequence in (named if now in named else (*named, now)))


def _figures(axis: Axis, sequence: str | OwnSequence, volts: float | None) -> SequenceFigures:
    driver: Any = replace(axis.driver, sequence=sequence)
    tried = replace(axis, driver=driver)
    rows = driver_kind(driver).rows(driver) or ()
    steps, moving = field_steps(rows), mean_draw(tried, volts)
    rests = [at_rest(tried, draw).loss_w for draw in draws(tried, volts)]
    torques = [row.torque for row in rows]
    per_unit = float(steps_per_unit(tried))
    return SequenceFigures(
        sequence=sequence,
        words=tuple(row.word for row in rows),
        steps_per_rev=float(steps_per_rev(tried)),
        steps_per_unit=per_unit,
        smallest=1 / per_unit,
        uneven_deg=max(steps, default=0.0) - min(steps, default=0.0),
        torque=(min(torques), max(torques)),
        supply_a=moving.supply_a,
        moving_w=moving.loss_w,
        rest_w=max((loss for loss in rests if loss is not None), default=None),
    )


class Microstep(Struct, frozen=True):
    """One microstep of a full step.

    Parameters
    ----------
    ideal_deg, field_deg : float
        Where the field should be, and where the currents that the driver can make put it, electrical degrees.
    a, b : float
        Currents of both coils, relative to the set one.
    """

    ideal_deg: float
    field_deg: float
    a: float
    b: float


def microstep_table(microsteps: int, levels: int) -> tuple[Microstep, ...]:
    """Return the microsteps of one full step, both ends included, of a driver with so many levels of current.

    Each current is rounded to the nearest of `levels` equal ones between 0 and the set one. A level is what a driver's
    converter can tell apart: 32 with five bits.

    Raises
    ------
    ValueError
        If there are no microsteps, or no levels.
    """
    if microsteps < 1 or levels < 1:
        raise ValueError("at least one microstep and one level are needed")
    found = []
    for k in range(microsteps + 1):
        ideal = 90.0 * k / microsteps
        a, b = (round(f(math.radians(ideal)) * levels) / levels for f in (math.cos, math.sin))
        found.append(Microstep(ideal, math.degrees(math.atan2(b, a)), a, b))
    return tuple(found)


def microsteps_to_move(axis: Axis) -> float | None:
    """Return how many microsteps the field must go ahead before the rotor breaks away; None if it cannot be told.

    The torque of a small displacement is the holding torque of the microstepped field times its electrical sine;
    friction and detent torque are against it. Infinite where they are stronger.
    """
    motor = axis.motor
    if motor.holding_torque_nm is None:
        return None
    set_a = getattr(axis.driver, "current_a", None)
    share = min(set_a / motor.current_a, 1.0) if set_a and motor.current_a else 1.0
    against = axis.load.friction_torque_nm + (motor.detent_torque_nm or 0.0)
    ratio = against / (motor.holding_torque_nm / MOST_TORQUE * share)
    if ratio >= 1:
        return math.inf
    microsteps = driver_kind(axis.driver).steps_per_full_step(axis.driver)
    return math.degrees(math.asin(ratio)) / 90 * float(microsteps)
