"""Edits of an axis's calibration: what a fit has found put into it, on top of what was there, and taken away."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal

from kivant.core.machine.edits import Edit, with_value
from kivant.core.machine.parts import Calibration, Machine
from kivant.core.path import axis_path
from kivant.core.travel.calibrating import Fit
from kivant.core.travel.conversion import chain_steps_per_unit


def deserved(value: float, uncertainty: float) -> Decimal:
    """Return a value with the digits that its uncertainty deserves: two of the uncertainty's own."""
    if not uncertainty > 0:
        return Decimal(f"{value:.9f}").normalize() + 0
    decimals = min(max(1 - math.floor(math.log10(uncertainty)), 0), 9)
    return Decimal(f"{value:.{decimals}f}")


def apply_fit(index: int, found: Fit, day: str) -> Edit:
    """Put what a fit has found into an axis.

    What was observed was moved with the calibration in force, so that the scale multiplies the one before; lost motion
    that is left comes on top of what is taken up already.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        before = axis.calibration or Calibration()
        scale = deserved(found.scale * float(before.scale), found.scale_se * float(before.scale))
        lost = found.backlash if abs(found.backlash) > 2 * found.backlash_se else 0.0
        backlash = max(float(deserved(before.backlash + lost, found.backlash_se)), 0.0)
        residual, chain = float(f"{found.residual:.2g}"), chain_steps_per_unit(axis)
        told = f"{chain.numerator}/{chain.denominator}"
        changed = replace(before, scale=scale, backlash=backlash, measured=day, residual=residual, chain=told)
        return with_value(machine, axis_path(index, "calibration"), changed)

    return edit


def forget_calibration(index: int) -> Edit:
    """Take an axis's calibration away."""
    return lambda machine: with_value(machine, axis_path(index, "calibration"), None)
