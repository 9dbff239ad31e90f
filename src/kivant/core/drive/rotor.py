"""The rotor at a moment of a plan: electrical and mechanical angle, field and torque, without dynamics.

The rotor is taken to stand where the field pulls it: one full step is 90 electrical degrees.
"""

from __future__ import annotations

import math

from msgspec import Struct

from kivant.core.drive.drivers import driver_kind
from kivant.core.machine import Axis
from kivant.core.travel.conversion import steps_per_rev
from kivant.core.travel.sense import rotor_sense


class RotorState(Struct, frozen=True):
    """Angles in degrees, clockwise positive, seen facing the rotor's shaft; coil currents relative to the rated one.

    Parameters
    ----------
    electrical_deg : float
        Angle of the stator field, in [0, 360).
    mechanical_deg : float
        Angle of the rotor shaft since row 0, in [0, 360).
    coils : tuple of float, for A, B, C, D
        What flows in each coil (end): 0 to 1 for switched coils, -1 to 1 in A and B for a microstepping driver.
    torque : float
        Length of the field relative to one coil's.
    """

    electrical_deg: float
    mechanical_deg: float
    coils: tuple[float, ...]
    torque: float


def rotor_state(axis: Axis, steps: int) -> RotorState:
    """Return the rotor `steps` steps, with sign, from row 0.

    References
    ----------
    P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 1: torque as a vector
    sum of the fields of the coils that are on.
    """
    per_rev, kind, steps = steps_per_rev(axis), driver_kind(axis.driver), rotor_sense(axis) * steps
    excitation = kind.excitation(axis.driver, steps)
    mechanical = float(kind.sense(axis.driver) * steps % per_rev * 360 / per_rev)
    return RotorState(excitation.electrical_deg, mechanical, excitation.coils, excitation.torque)


def electrical_eighth(axis: Axis, steps: int) -> int:
    """Return which eighth of an electrical turn the axis is in `steps` steps from row 0: 0 to 7."""
    excitation = driver_kind(axis.driver).excitation(axis.driver, rotor_sense(axis) * steps)
    return math.floor(excitation.electrical_deg / 45.0 + 1e-9) % 8


def row_in_force(axis: Axis, steps: int) -> int:
    """Return which row is in force `steps` steps, with sign, from row 0; 0 where the driver makes the currents."""
    table = driver_kind(axis.driver).rows(axis.driver)
    return rotor_sense(axis) * steps % len(table) if table else 0


def coils_flow_both_ways(axis: Axis) -> bool:
    """Return whether current flows both ways through a coil: bipolar motors, and all that a driver microsteps."""
    return axis.motor.winding == "bipolar" or driver_kind(axis.driver).rows(axis.driver) is None
