"""What is left of a motor's torque for speed and acceleration, with a margin, and what limits both."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine, Motor
from kivant.core.motion.rates import pulse_rate
from kivant.core.motor.load import LoadAtRotor, load_of
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.torque import Drive, available_nm, drive_of
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_unit

Reals = NDArray[np.float64]
LimitedBy = Literal["torque", "driver", "board"]

USUAL_MARGIN = 1.5
_GRID = 250
_FARTHEST_HZ = 1e6


@dataclass(frozen=True, slots=True)
class Ability:
    """What the motor of an axis can do with its load.

    Parameters
    ----------
    drive : Drive
    load : LoadAtRotor
    margin : float
        By what the available torque is divided.
    speed, acceleration : float
        Usable ones, in axis units and seconds.
    limited_by : str
        What keeps the speed from being higher.
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


def ability(machine: Machine, axis: Axis, margin: float | None = None) -> Ability:
    """Return what the motor of an axis can do; `margin` instead of the axis's own."""
    own = margin if margin is not None else axis.margin or USUAL_MARGIN
    drive, load = drive_of(machine, axis), load_of(axis)
    per_unit = float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev  # full steps of one axis unit
    radians = 2 * math.pi / axis.motor.full_steps_per_rev

    def left(rate: Reals) -> Reals:
        """Return what the torque leaves for acceleration at full steps/s, N m, in the harder direction."""
        found: Reals = pulled_nm(drive, axis.motor, rate) / own - load.worst_nm() - load.viscous_nms * rate * radians
        return found

    torque_hz = _first_zero(left)
    ratio = float(steps_per_unit(axis))
    caps: dict[LimitedBy, float] = {
        "torque": torque_hz / per_unit,
        "driver": pulse_rate_limit(axis.driver) / ratio,
        "board": pulse_rate(machine, axis) / ratio,
    }
    limited_by = min(caps, key=lambda key: caps[key])
    speed = caps[limited_by]
    up_to = np.linspace(0.0, min(speed, axis.limits.speed) * per_unit, _GRID)
    least = max(float(left(up_to).min()), 0.0)
    acceleration = least / load.inertia_kgm2 / radians / per_unit
    end = _end_of(drive, axis.motor, torque_hz)
    rates = np.linspace(0.0, end, 81)
    curve = np.stack((rates, pulled_nm(drive, axis.motor, rates)), axis=1)
    guessed = tuple(estimate.key for estimate in nameplate(axis.motor).estimates)
    return Ability(drive, load, own, speed, acceleration, limited_by, curve, guessed)


def _first_zero(left: object) -> float:
    """Return the speed from 0 up to which a falling function stays positive, full steps/s; at most a million."""
    assert callable(left)
    grid = np.concatenate(([0.0], np.geomspace(1.0, _FARTHEST_HZ, _GRID)))
    short = np.flatnonzero(left(grid) <= 0)
    if not len(short):
        return _FARTHEST_HZ
    if short[0] == 0:
        return 0.0
    low, high = float(grid[short[0] - 1]), float(grid[short[0]])
    for _ in range(4):
        finer = np.linspace(low, high, 120)
        end = int(np.flatnonzero(left(finer) <= 0)[0])
        low, high = float(finer[end - 1]), float(finer[end])
    return low


def _end_of(drive: Drive, motor: Motor, torque_hz: float) -> float:
    """Return up to which speed a curve is worth drawing: where hardly any torque is left."""
    if motor.torque_points:
        return float(motor.torque_points[-1][0])
    grid = np.geomspace(10.0, _FARTHEST_HZ, 120)
    pulled = available_nm(drive, grid)
    weak = np.flatnonzero(pulled < 0.03 * pulled.max(initial=0.0))
    return max(float(grid[weak[0]]) if len(weak) else _FARTHEST_HZ, 1.2 * min(torque_hz, _FARTHEST_HZ / 2))
