"""What is left of a motor's torque for speed and acceleration, with a margin, and what limits both."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike, NDArray

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine, Motor
from kivant.core.motion.rates import pulse_rate
from kivant.core.motor.load import LoadAtRotor
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import FARTHEST_HZ, Spare, spare_of
from kivant.core.motor.torque import Drive, available_nm
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_unit

Reals = NDArray[np.float64]
LimitedBy = Literal["torque", "driver", "board"]

_GRID = 250


class Ability(Struct, frozen=True):
    """What the motor of an axis can do with its load.

    Parameters
    ----------
    drive : Drive
    load : LoadAtRotor
    margin : float
        By what the available torque is divided.
    speed, acceleration : float
        Usable ones, in axis units and seconds.
    caps : dict
        How fast torque, driver and board each let it go.
    limited_by : str
        Which of them keeps the speed from being higher.
    curve : float64 array, shape (n, 2)
        Full steps/s and the torque that can be pulled there, N m.
    estimated : tuple of str
        Keys of the motor's figures that were guessed.
    """

    drive: Drive
    load: LoadAtRotor
    margin: float
    speed: float
    acceleration: float
    caps: dict[LimitedBy, float]
    limited_by: LimitedBy
    curve: Reals
    estimated: tuple[str, ...]


def pulled_nm(drive: Drive, motor: Motor, full_steps_hz: ArrayLike) -> Reals:
    """Return the torque that can be pulled at speeds, N m: of the data sheet's points if there are any, else modelled.

    Between points the torque changes evenly; below the first it is that of the first, beyond the last there is none.
    """
    if not motor.torque_points:
        return available_nm(drive, full_steps_hz)
    rates, torques = np.array(motor.torque_points, np.float64).T
    found: Reals = np.interp(np.asarray(full_steps_hz, np.float64), rates, torques, right=0.0)
    return found


def speed_caps(machine: Machine, axis: Axis, spare: Spare) -> dict[LimitedBy, float]:
    """Return how fast the torque, the driver and the board each let an axis go, in its units."""
    ratio = float(steps_per_unit(axis))
    return {
        "torque": spare.usable_hz() / (float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev),
        "driver": pulse_rate_limit(axis.driver) / ratio,
        "board": pulse_rate(machine, axis) / ratio,
    }


def top_speed(machine: Machine, axis: Axis, spare: Spare) -> tuple[float, LimitedBy]:
    """Return how fast an axis can go, in its units, and what keeps it from going faster."""
    caps = speed_caps(machine, axis, spare)
    limited_by = min(caps, key=lambda key: caps[key])
    return caps[limited_by], limited_by


def ability(machine: Machine, axis: Axis, margin: float | None = None) -> Ability:
    """Return what the motor of an axis can do; `margin` instead of the axis's own."""
    spare = spare_of(machine, axis, margin)
    drive, load = spare.drive, spare.load
    per_unit = float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev  # full steps of one axis unit
    radians = 2 * math.pi / axis.motor.full_steps_per_rev
    caps = speed_caps(machine, axis, spare)
    limited_by = min(caps, key=lambda key: caps[key])
    speed = caps[limited_by]
    up_to = np.linspace(0.0, min(speed, axis.limits.speed) * per_unit, _GRID)
    needed = load.worst_nm() + load.viscous_nms * up_to * radians
    least = max(float((pulled_nm(drive, axis.motor, up_to) / spare.margin - needed).min()), 0.0)
    acceleration = least / load.inertia_kgm2 / radians / per_unit
    rates = np.linspace(0.0, _end_of(drive, axis.motor, speed * per_unit), 81)
    curve = np.stack((rates, pulled_nm(drive, axis.motor, rates)), axis=1)
    guessed = tuple(estimate.key for estimate in nameplate(axis.motor).estimates)
    return Ability(drive, load, spare.margin, speed, acceleration, caps, limited_by, curve, guessed)


def _end_of(drive: Drive, motor: Motor, usable_hz: float) -> float:
    """Return up to which speed a curve is worth drawing: where hardly any torque is left."""
    if motor.torque_points:
        return float(motor.torque_points[-1][0])
    grid = np.geomspace(10.0, FARTHEST_HZ, 120)
    pulled = available_nm(drive, grid)
    weak = np.flatnonzero(pulled < 0.03 * pulled.max(initial=0.0))
    return max(float(grid[weak[0]]) if len(weak) else FARTHEST_HZ, 1.2 * usable_hz)
