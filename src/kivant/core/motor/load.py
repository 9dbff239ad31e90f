"""What a rotor has to move: friction, weights, masses and inertias, brought back to it through the chain.

Power is what both ends of the chain share: a force at the tool is a torque at the rotor by the way of the tool for one
radian of the rotor, and more than that by what the stages lose where the motor drives, less where the load drives it.
"""

from __future__ import annotations

import math

from msgspec import Struct

from kivant.core.machine.parts import Axis
from kivant.core.motor.nameplate import nameplate
from kivant.core.travel.conversion import rotor_turns_per_unit
from kivant.core.travel.shafts import ratio_so_far


class Term(Struct, frozen=True):
    """One part of a load, in words, and what it is at the rotor: N m or kg m²."""

    name: str
    value: float


class LoadAtRotor(Struct, frozen=True):
    """All that a rotor has to move.

    Parameters
    ----------
    inertias : tuple of Term
        kg m², the rotor's own first.
    friction_nm : float
        Against any motion.
    constant_nm : float
        Of what pulls at the tool, against positive motion, as if the stages lost nothing.
    viscous_nms : float
        Torque for one radian/s of the rotor, N m s, stages' losses included.
    efficiency : float
        Of the whole chain.
    """

    inertias: tuple[Term, ...]
    friction_nm: float
    constant_nm: float
    viscous_nms: float
    efficiency: float

    @property
    def inertia_kgm2(self) -> float:
        """All inertias together."""
        return sum(term.value for term in self.inertias)

    def pull_nm(self, direction: int) -> float:
        """Return the torque of what pulls at the tool against motion in a direction (1 or -1); negative: it helps."""
        pull = direction * self.constant_nm
        return pull / self.efficiency if pull > 0 else pull * self.efficiency

    def worst_nm(self) -> float:
        """Return the torque against motion from standstill in the harder direction."""
        return self.friction_nm + max(self.pull_nm(1), self.pull_nm(-1))


def metres_per_radian(axis: Axis) -> float:
    """Return the way of a sliding tool for one radian of the rotor, m."""
    return 1e-3 / (2 * math.pi * float(rotor_turns_per_unit(axis)))


def load_of(axis: Axis) -> LoadAtRotor:
    """Return what the rotor of an axis has to move."""
    load, efficiency = axis.load, axis.load.efficiency or 1.0
    inertias = [Term("rotor", nameplate(axis.motor).inertia_kgm2)]
    if load.inertia_kgm2:
        inertias.append(Term("inertia at the rotor", load.inertia_kgm2))
    if axis.unit == "mm":
        way = metres_per_radian(axis)
        slower = float(ratio_so_far(axis, len(axis.travel)))
        constant = (load.force_n or 0.0) * way + (load.torque_nm or 0.0) / slower
        if load.mass_kg:
            inertias.append(Term("moving mass", load.mass_kg * way * way))
    else:
        slower = 360.0 * float(rotor_turns_per_unit(axis))
        constant = (load.torque_nm or 0.0) / slower
    viscous = (load.viscous_nms or 0.0) / (slower * slower * efficiency)
    return LoadAtRotor(tuple(inertias), load.friction_torque_nm, constant, viscous, efficiency)
