"""Edits of an axis's ramps: their shape, and all their limits at once."""

from __future__ import annotations

from msgspec.structs import replace

from kivant.core.machine.edits import Edit, set_value
from kivant.core.machine.parts import Axis, Limits, ShapeName, shape_of
from kivant.core.path import axis_path

CHANGE_S = 0.1
"""How long the acceleration takes to be there where nobody chose a jerk, s."""


def with_shape(axis: Axis, shape: ShapeName) -> Axis:
    """Return an axis with another shape of ramps, and with a jerk where that needs one and has none."""
    limits = replace(axis.limits, shape=shape)
    if shape == "s_curve" and limits.jerk is None:
        limits = replace(limits, jerk=float(f"{limits.acceleration / CHANGE_S:.3g}"))
    return replace(axis, limits=limits)


def choose_shape(index: int, shape: ShapeName) -> Edit:
    """Give an axis another shape of ramps."""
    return lambda machine: take_limits(index, with_shape(machine.axes[index], shape).limits)(machine)


def take_limits(index: int, limits: Limits) -> Edit:
    """Give an axis other limits; a shape that is the one without any word is not written."""
    plain = shape_of(replace(limits, shape=None)) == limits.shape
    return set_value(axis_path(index, "limits"), replace(limits, shape=None) if plain else limits)
