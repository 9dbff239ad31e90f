"""Sense: which way the rotor turns for positive motion, from the stages and the axis's positive direction.

Rows played in their order (DIR at its positive level, pulses on CW) turn the rotor clockwise seen facing its shaft, as
far as the wiring is the standard one; every stage that reverses turns the sense round. Where what comes out at the
tool is not what the axis calls positive, positive motion plays rows backwards. Steps stay positive for positive motion.
"""

from __future__ import annotations

from kivant.core.machine.parts import Axis


def chain_sense(axis: Axis) -> int:
    """Return 1 if the last shaft turns as the rotor does, each seen facing its output, -1 if against it."""
    return -1 if sum(bool(stage.reverses) for stage in axis.travel) % 2 else 1


def rotor_sense(axis: Axis) -> int:
    """Return which way the rotor turns for positive motion: 1 clockwise, with rows in their order; -1 backwards."""
    return chain_sense(axis) * (1 if axis.positive == "cw" else -1)
