"""Shafts: how far each of the chain has turned when the axis stands at a position."""

from __future__ import annotations

from fractions import Fraction

from kivant.core.machine.parts import Axis
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_rev, units_per_turn
from kivant.core.travel.stages import stage_kind, stage_ratio


def shaft_turns(axis: Axis, position: float) -> list[float]:
    """Return the revolutions of each shaft from the rotor outwards, clockwise positive, seen facing the output.

    There is one shaft more than stages that turn. The last one turns in the axis's positive direction as the axis
    goes to larger positions; a stage that reverses turns its shafts against each other.
    """
    sense = -1.0 if axis.positive == "ccw" else 1.0
    if axis.travel and stage_kind(axis.travel[-1]).linear and axis.travel[-1].reverses:
        sense = -sense
    turns = [sense * position / float(units_per_turn(axis))]
    for stage in reversed([stage for stage in axis.travel if not stage_kind(stage).linear]):
        turns.append(turns[-1] * float(stage_ratio(stage)) * (-1 if stage.reverses else 1))
    return turns[::-1]


def ratio_so_far(axis: Axis, stages: int) -> Fraction:
    """Return the reduction of the first `stages` stages; linear ones count for nothing."""
    found = Fraction(1)
    for stage in axis.travel[:stages]:
        if not stage_kind(stage).linear:
            found *= stage_ratio(stage)
    return found


def resolution_so_far(axis: Axis, stages: int) -> Fraction:
    """Return by how much one step turns the shaft behind the first `stages` stages, in deg."""
    return Fraction(360) / (steps_per_rev(axis) * ratio_so_far(axis, stages))


def shaft_rates(axis: Axis) -> list[float]:
    """Return the turns of each shaft for one axis unit: the rotor's first, then behind each stage that turns."""
    rotor = float(rotor_turns_per_unit(axis))
    turning = sum(not stage_kind(stage).linear for stage in axis.travel)
    return [rotor / float(ratio_so_far(axis, k)) for k in range(turning + 1)]
