"""Edits of an axis's calibration: what a fit has found put into it, on top of what was there, and taken away."""

from __future__ import annotations

import math
from decimal import Decimal
from typing import TYPE_CHECKING

from msgspec.structs import replace

from kivant.core.machine.edits import Edit, turn_axis_round, turn_stage_round, with_value
from kivant.core.machine.parts import MOST_PAST, Calibration, Machine, PastCalibration
from kivant.core.path import axis_path
from kivant.core.travel.conversion import chain_steps_per_unit

if TYPE_CHECKING:
    from kivant.core.travel.calibrating import Fit


def deserved(value: float, uncertainty: float) -> Decimal:
    """Return a value with the digits that its uncertainty deserves: two of the uncertainty's own."""
    if not uncertainty > 0:
        return Decimal(f"{value:.9f}").normalize() + 0
    decimals = min(max(1 - math.floor(math.log10(uncertainty)), 0), 9)
    return Decimal(f"{value:.{decimals}f}")


def _with_past(known: Calibration | None) -> tuple[PastCalibration, ...] | None:
    """Return the history of a calibration with itself at the end."""
    if known is None:
        return None
    past = PastCalibration(
        scale=known.scale, backlash=known.backlash, measured=known.measured, residual=known.residual, chain=known.chain
    )
    return (*(known.history or ()), past)[-MOST_PAST:]


def go_back(index: int, number: int) -> Edit:
    """Put an earlier calibration of an axis in force again; the one that was becomes the latest of the history."""

    def edit(machine: Machine) -> Machine:
        known = machine.axes[index].calibration or Calibration()
        past = (known.history or ())[number]
        again = replace(
            known, scale=past.scale, backlash=past.backlash, measured=past.measured, residual=past.residual,
            chain=past.chain, history=_with_past(known),
        )  # fmt: skip
        return with_value(machine, axis_path(index, "calibration"), again)

    return edit


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
        changed = replace(
            before, scale=scale, backlash=backlash, sense=-1 if found.sense < 0 else None, measured=day,
            residual=residual, chain=told, history=_with_past(axis.calibration),
        )  # fmt: skip
        return with_value(machine, axis_path(index, "calibration"), changed)

    return edit


def agree_with_seen(index: int) -> Edit:
    """Turn an axis's chain round, as it was seen to go: its first stage reverses, or where there is none the axis."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        turned = (turn_stage_round(index, 0) if axis.travel else turn_axis_round(index))(machine)
        known = axis.calibration or Calibration()
        return with_value(turned, axis_path(index, "calibration"), replace(known, sense=None))

    return edit


def forget_calibration(index: int) -> Edit:
    """Take an axis's calibration away."""
    return lambda machine: with_value(machine, axis_path(index, "calibration"), None)
