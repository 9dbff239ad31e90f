"""Abilities: what all axes of a machine can do, in columns, as planning needs it; a machine remembers its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.drive.drivers import driver_kind, switches_off
from kivant.core.errors import Fault
from kivant.core.machine.parts import Machine, shape_of
from kivant.core.motion.exact import Ratios
from kivant.core.motion.plan import PlanError
from kivant.core.motion.rates import Bands, Rates, bands_of, pauses_of, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import Pull
from kivant.core.motion.waits import Gaps
from kivant.core.motor.pulling import pulls_of
from kivant.core.path import axis_path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.play import Play, play_of

_KEY = "abilities"
_ROUNDED = 1.001  # what rounding may add to the greatest speed


class Abilities(NamedTuple):
    """What the axes of a machine can do; distances in steps.

    Parameters
    ----------
    ratios : Ratios
        Steps for one axis unit.
    rates : array, shape (6, axes)
        Its rows are those of `Rates`.
    gaps : Gaps
    lead_in_s : float, s
        Until all drivers are enabled.
    switches_off : sequence of bool
        Whether power is taken away at rest.
    plays : sequence of Play
    has_play : bool
        Whether any axis has some.
    avoid : mapping of axis to bands
        Speeds, (low, high), that it is never to stay in.
    pulls : mapping of axis to a pair of Pull
        What an axis that follows its torque has forwards and backwards.
    """

    ratios: Ratios
    rates: Reals
    gaps: Gaps
    lead_in_s: float
    switches_off: Sequence[bool]
    plays: Sequence[Play]
    has_play: bool
    avoid: Mapping[int, Bands]
    pulls: Mapping[int, tuple[Pull, Pull]]


def abilities_of(machine: Machine) -> Abilities:
    """Return what the axes of a machine can do.

    Raises
    ------
    PlanError
        If a sequence turns no rotor, or an axis is to follow its torque and has none to spare.
    """
    known: Abilities | None = machine.__dict__.get(_KEY)
    if known is None:
        known = machine.__dict__[_KEY] = _abilities_of(machine)
    return known


def rates_table(rates: Sequence[Rates]) -> Reals:
    """Return what axes can do as a table, of which the rows are those of `Rates`; shape (6, axes)."""
    return np.array(rates, np.float64).reshape(-1, len(Rates._fields)).T


def _abilities_of(machine: Machine) -> Abilities:
    axes = machine.axes
    for index, axis in enumerate(axes):
        obstacle = driver_kind(axis.driver).obstacle(axis.driver)
        if obstacle:
            place, remedy = axis_path(index, "driver", "sequence"), "Correct its rows, or choose another sequence."
            raise PlanError(Fault(place, obstacle, remedy))
    pauses, plays = [pauses_of(machine, axis) for axis in axes], [play_of(axis) for axis in axes]
    rows, farthest = [], 0.0
    for own, rates in zip(pauses, [rates_of(machine, axis) for axis in axes], strict=True):
        top = _ROUNDED * min(rates.speed, rates.pulse_rate)
        rows.append((*rates, own.set_up_s, own.gap_s, top))
        farthest = max(farthest, own.set_up_s * top, own.gap_s * top)
    count = len(Rates._fields)
    table = np.array(rows).reshape(-1, count + 3).T
    set_up_s, reversal_s, fastest = table[count:]
    return Abilities(
        Ratios.of([steps_per_unit(axis) for axis in axes]),
        table[:count],
        Gaps(set_up_s, reversal_s, fastest, np.array(farthest)),
        max([own.lead_s for own in pauses], default=0.0),
        [switches_off(axis.driver) for axis in axes],
        plays,
        any(play.steps for play in plays),
        {index: bands_of(axis) for index, axis in enumerate(axes) if axis.limits.avoid},
        {index: _pulls(machine, index) for index, axis in enumerate(axes) if shape_of(axis.limits) == "torque"},
    )


def _pulls(machine: Machine, index: int) -> tuple[Pull, Pull]:
    axis = machine.axes[index]
    pulls = pulls_of(machine, axis)
    if any(len(pull.speeds) < 2 for pull in pulls):
        message = f"The ramps of {axis.name} follow its torque, but with its margin it cannot move its load."
        remedy = "Lower the load or the margin, raise current or voltage, or choose another shape."
        raise PlanError(Fault(axis_path(index, "limits", "shape"), message, remedy))
    return pulls
