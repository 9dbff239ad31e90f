"""What the motor of an axis can accelerate and decelerate at each speed, with its load and margin."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import Pull, speed_grid
from kivant.core.motor.spare import FARTHEST_HZ, Spare, spare_of
from kivant.core.motor.usable import pulled_nm
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_full_step

LEAST_SHARE = 0.01
"""Of the acceleration at standstill: a speed at which less is left would be crept up to for ever."""
_SPEEDS = 1024


def pulls_of(machine: Machine, axis: Axis, margin: float | None = None) -> tuple[Pull, Pull]:
    """Return what an axis can do at each speed up to its own, forwards and backwards, in steps and seconds.

    While it accelerates, what is available divided by the margin, less the load; while it brakes, what is available
    divided by the margin, and the load. A table of a single speed is one of a motor that cannot move its load.
    """
    spare = spare_of(machine, axis, margin)
    forward, backward = (_pull(axis, spare, direction) for direction in (1, -1))
    return forward, backward


def torques_at(spare: Spare, full_steps_hz: Reals, direction: int) -> tuple[Reals, Reals]:
    """Return what can be pulled with the margin at speeds, and what the load needs in a direction (1 or -1), N m."""
    radians = 2 * math.pi / spare.drive.full_steps
    needed = spare.load.friction_nm + spare.load.pull_nm(direction) + spare.load.viscous_nms * radians * full_steps_hz
    return pulled_nm(spare.drive, spare.motor, full_steps_hz) / spare.margin, needed


def _pull(axis: Axis, spare: Spare, direction: int) -> Pull:
    steps = float(steps_per_full_step(axis))
    per_unit = abs(float(rotor_turns_per_unit(axis))) * spare.drive.full_steps
    scale = spare.drive.full_steps / (2 * math.pi) * steps / spare.load.inertia_kgm2  # steps/s² for one N m

    def rates(hz: Reals) -> tuple[Reals, Reals, np.ndarray]:
        pulled, needed = torques_at(spare, hz, direction)
        up, down = (pulled - needed) * scale, (pulled + needed) * scale
        return up, down, (up < LEAST_SHARE * up[0]) | (down < LEAST_SHARE * down[0])

    coarse = np.concatenate(([0.0], np.geomspace(1.0, FARTHEST_HZ, 400)))
    up, down, weak = rates(coarse)
    if up[0] <= 0 or down[0] <= 0:
        return Pull(np.zeros(1), up[:1], down[:1])
    end = min(float(coarse[np.argmax(weak)]) if weak.any() else FARTHEST_HZ, axis.limits.speed * per_unit)
    hz = speed_grid(np.zeros(()), np.asarray(end), _SPEEDS)
    up, down, weak = rates(hz)
    kept = max(int(np.argmax(weak)) if weak.any() else len(hz), 2)
    floor = LEAST_SHARE * min(up[0], down[0]) / 2
    return Pull(hz[:kept] * steps, np.maximum(up[:kept], floor), np.maximum(down[:kept], floor))


def steady_rates_of(machine: Machine, axis: Axis) -> Rates:
    """Return what an axis can do at any of its speeds, in steps and seconds: by hand, and to brake in between."""
    rates = rates_of(machine, replace(axis, limits=replace(axis.limits, shape="trapezoid")))
    if shape_of(axis.limits) != "torque":
        return rates
    pulls = pulls_of(machine, axis)
    if any(len(pull.speeds) < 2 for pull in pulls):
        return rates
    return rates._replace(
        speed=min(rates.speed, *(float(pull.speeds[-1]) for pull in pulls)),
        acceleration=min(rates.acceleration, *(float(pull.up.min()) for pull in pulls)),
        deceleration=min(rates.deceleration, *(float(pull.down.min()) for pull in pulls)),
    )
