"""The rotor at a moment of a plan: electrical and mechanical angle, field and torque, without dynamics.

The rotor is taken to stand where the field pulls it: one full step is 90 electrical degrees.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from kivant.core.machine import Axis, CoilDriver
from kivant.core.phases import row_index, rows
from kivant.core.travel import steps_per_rev


@dataclass(frozen=True, slots=True)
class RotorState:
    """Angles in degrees, positive in the axis's positive direction; coil currents relative to the rated one.

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
    P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 1 and 6: torque as a
    vector sum; microstepping by currents in quadrature, i_A = I cos, i_B = I sin of the electrical angle.
    """
    per_rev = steps_per_rev(axis)
    mechanical = steps % per_rev * 360.0 / per_rev
    if isinstance(axis.driver, CoilDriver):
        table = rows(axis.driver.sequence)
        row = table[row_index(axis.driver.sequence, steps)]
        coils = tuple(float(row.word >> bit & 1) for bit in range(4))
        return RotorState(row.field_deg, mechanical, coils, row.torque)
    electrical = steps % (4 * axis.driver.microsteps) * 90.0 / axis.driver.microsteps
    a, b = math.cos(math.radians(electrical)), math.sin(math.radians(electrical))
    return RotorState(electrical, mechanical, (a, b, -a, -b), 1.0)
