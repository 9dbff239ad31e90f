"""The natural frequency of a rotor held by its field, and the speeds at which its steps excite it."""

from __future__ import annotations

import math

from kivant.core.machine.parts import Axis, Machine
from kivant.core.motor.load import load_of
from kivant.core.motor.torque import drive_of
from kivant.core.travel.conversion import rotor_turns_per_unit

_WIDTH = 0.2  # of the speed, to both sides


def natural_hz(machine: Machine, axis: Axis) -> float:
    """Return at which frequency a rotor swings about a step with all that it moves, Hz.

    The torque T sin(p x) of a rotor with p electrical turns is a spring of stiffness p T for small angles, so that
    f = sqrt(p T / J) / 2 pi (P. Acarnley, *Stepping Motors*, 4th ed., IET, 2002, ch. 4).
    """
    drive, load = drive_of(machine, axis), load_of(axis)
    stiffness = drive.full_steps / 4 * drive.held_nm
    return math.sqrt(stiffness / load.inertia_kgm2) / (2 * math.pi)


def band_of(machine: Machine, axis: Axis) -> tuple[float, float]:
    """Return the band of speeds to avoid, axis units/s: those at which full steps come at the natural frequency."""
    full_steps = abs(float(rotor_turns_per_unit(axis))) * axis.motor.full_steps_per_rev
    middle = natural_hz(machine, axis) / full_steps
    low, high = (float(f"{middle * (1 + side * _WIDTH):.3g}") for side in (-1, 1))
    return low, high
