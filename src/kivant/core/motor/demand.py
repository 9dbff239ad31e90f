"""What a motion asks of a motor at each moment, beside what the motor has: torques at the rotor."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from kivant.core.machine.parts import Axis
from kivant.core.motion.plan import AxisPlan
from kivant.core.motion.segment import Reals
from kivant.core.motor.spare import Spare, jump_at, pulled_at
from kivant.core.motor.usable import pulled_nm
from kivant.core.travel.conversion import steps_per_full_step

_POINTS = 9  # of every segment
_NOTHING_NM = 1e-12


class Demand(NamedTuple):
    """Torques over time, arrays of shape (n,).

    Parameters
    ----------
    times_s : array
    needed_nm : array
        What the motor has to give, along the motion; negative where it brakes.
    available_nm : array
        What it can pull at that speed, without any margin.
    jump_ratio : float
        Of the jumps of speed, the greatest torque needed over what is available.
    """

    times_s: Reals
    needed_nm: Reals
    available_nm: Reals
    jump_ratio: float

    @property
    def worst(self) -> tuple[float, float]:
        """The greatest torque needed over what is available, jumps left out, and when that is, s."""
        shares = np.abs(self.needed_nm) / np.maximum(self.available_nm, _NOTHING_NM)
        at = int(np.argmax(shares)) if len(shares) else 0
        return (float(shares[at]), float(self.times_s[at])) if len(shares) else (0.0, 0.0)

    @property
    def ratio(self) -> float:
        """The greatest torque needed over what is available, jumps included."""
        return max(self.worst[0], self.jump_ratio)


def _against(spare: Spare, hz: Reals, sign: Reals | int) -> Reals:
    """Return the torque of the load against the motion, N m."""
    radians = 2 * math.pi / spare.drive.full_steps
    pull = np.where(np.asarray(sign) >= 0, spare.load.pull_nm(1), spare.load.pull_nm(-1))
    return np.asarray(spare.load.friction_nm + pull + spare.load.viscous_nms * radians * hz)


def demand_of(spare: Spare, planned: AxisPlan, *, from_rest: bool = True) -> Demand:
    """Return what the plan of an axis asks of its motor.

    Jumps are those of its speed at the ends of moves, unless it does not begin and end at rest.
    """
    times, speeds, rates = planned.train.course(_POINTS)
    full = float(steps_per_full_step(planned.axis))
    sign, hz, rates = np.sign(speeds), np.abs(speeds) / full, rates / full
    sign = np.where(sign == 0, sign[:, 4:5], sign)  # at standstill, that of the segment
    needed = spare.load.inertia_kgm2 * 2 * math.pi / spare.drive.full_steps * rates + _against(spare, hz, sign)
    jump = _jumps(spare, times, hz, sign) if from_rest else 0.0
    available = pulled_nm(spare.drive, spare.motor, hz)
    return Demand(times.ravel(), needed.ravel(), available.ravel(), jump)


def _jumps(spare: Spare, times: Reals, hz: Reals, sign: Reals) -> float:
    """Return the greatest ratio of the jumps from and to standstill."""
    if not len(times):
        return 0.0
    apart = (times[1:, 0] > times[:-1, -1] + 1e-9) | (np.abs(hz[1:, 0] - hz[:-1, -1]) > 1e-6 * hz.max())
    begins, ends = np.append(True, apart), np.append(apart, True)
    jumps = np.concatenate((hz[begins, 0], hz[ends, -1]))
    signs = np.concatenate((sign[begins, 4], sign[ends, 4]))
    return _greatest(spare, set(zip(jumps.tolist(), signs.astype(int).tolist(), strict=True)))


def _greatest(spare: Spare, jumps: Iterable[tuple[float, int]]) -> float:
    """Return the greatest ratio of jumps to speeds in directions."""
    asked = [(hz, sign) for hz, sign in jumps if hz > 0]
    pulled = [max(pulled_at(spare.drive, spare.motor, hz), _NOTHING_NM) for hz, _sign in asked]
    return max((jump_at(spare, *jump) / there for jump, there in zip(asked, pulled, strict=True)), default=0.0)


def demand_of_steps(spare: Spare, axis: Axis, instants_s: Reals, sign: int) -> Demand:
    """Return what steps one way ask of a motor: each interval for its mean speed, what changes between for its mean."""
    hz = 1 / np.diff(instants_s) / float(steps_per_full_step(axis))
    middles = (instants_s[1:] + instants_s[:-1]) / 2
    rates = np.gradient(hz, middles) if len(hz) > 1 else np.zeros(len(hz))
    needed = spare.load.inertia_kgm2 * 2 * math.pi / spare.drive.full_steps * rates + _against(spare, hz, sign)
    ratio = _greatest(spare, ((float(hz[k]), sign) for k in ((0, -1) if len(hz) else ())))
    return Demand(middles, needed, pulled_nm(spare.drive, spare.motor, hz), ratio)
