"""Whether a load stays where it is while nothing moves: with power, at rest, and without it."""

from __future__ import annotations

from msgspec import Struct

from kivant.core.drive.copper import at_rest, draw_at, supply_volts
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motor.load import load_of
from kivant.core.motor.torque import drive_of


class Holding(Struct, frozen=True):
    """What holds and what has to be held, all at the rotor, N m; what friction holds by itself is counted off.

    Parameters
    ----------
    needed_nm : float
        What the load pulls beyond the friction.
    powered_nm, rest_nm, unpowered_nm : float
        While the motor is energised; once a plan has ended; without power.
    """

    needed_nm: float
    powered_nm: float
    rest_nm: float
    unpowered_nm: float


def holding(machine: Machine, axis: Axis) -> Holding:
    """Return what holds an axis at a standstill. Friction and the losses of the stages hold, too."""
    drive, load = drive_of(machine, axis), load_of(axis)
    pull = abs(load.constant_nm) * load.efficiency  # the load would have to drive the motor
    detent = axis.motor.detent_torque_nm or 0.0
    draw = draw_at(axis, supply_volts(machine, axis), 0)
    share = at_rest(axis, draw).torque / draw.torque if draw.torque else 0.0
    return Holding(max(pull - load.friction_nm, 0.0), drive.held_nm, max(drive.held_nm * share, detent), detent)
