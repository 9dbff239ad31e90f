"""The fastest safe ramp of an axis over a distance: limits for one shape, with the reasons that led to them.

The torque model says what is left at each speed, with the margin; the shortest duration is looked for over the speed
of the cruise, as a higher one leaves less acceleration for all the way up to it. What is found is tried by simulating
the rotor, and taken back little by little until the rotor surely follows.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kivant.core.errors import Fault, KivantError
from kivant.core.machine.parts import Axis, Limits, Machine, ShapeName
from kivant.core.motion.ramp import trapezoid
from kivant.core.motion.rates import outside_bands, pulse_rate
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import Pull
from kivant.core.motor.pulling import pulls_of
from kivant.core.motor.resonance import natural_hz
from kivant.core.motor.spare import cut_down, pull_in_hz, spare_of
from kivant.core.path import axis_path
from kivant.core.ramps.candidates import Candidate, candidate_of, with_axis
from kivant.core.travel.conversion import steps_per_full_step, steps_per_unit

_TRIED = 200  # speeds of the cruise
_BACK = 0.85
_MOST_TRIES = 25
_SAFE_LAG_DEG = 160.0  # at 180 it slips


class Fastest(Struct, frozen=True):
    """Limits that make the fastest safe ramp of a shape, how it does, and the reasons, a sentence each."""

    shape: ShapeName
    limits: Limits
    candidate: Candidate
    reasons: tuple[str, ...]


def fastest_ramp(
    machine: Machine, index: int, distance: Decimal, shape: ShapeName, margin: float | None = None,
    checkpoint: Callable[[], None] = lambda: None,
) -> Fastest:  # fmt: skip
    """Return the limits with which an axis takes a distance in the least time and surely follows.

    Raises
    ------
    KivantError
        If the distance is 0, the motor cannot move its load, or the rotor does not follow even slowly.
    """
    axis = machine.axes[index]
    axis = axis if margin is None else replace(axis, margin=margin)
    place = axis_path(index, "limits")
    if not distance:
        raise KivantError(Fault(place, "Nothing moves over a distance of 0.", "Give another distance."))
    wide = replace(axis, limits=replace(axis.limits, speed=pulse_rate(machine, axis) / float(steps_per_unit(axis))))
    pulls = pulls_of(machine, wide)
    if any(len(pull.speeds) < 2 for pull in pulls):
        message = f"With its margin the motor of {axis.name} cannot move its load."
        raise KivantError(Fault(place, message, "Lower the load or the margin, or raise current or voltage."))
    limits, reasons = _designed(machine, wide, abs(float(distance)), shape, pulls)
    for tried in range(_MOST_TRIES):
        checkpoint()
        changed = replace(axis, limits=limits)
        found = candidate_of(with_axis(machine, index, changed), index, distance, shape, checkpoint)
        if found.motion.follows and found.motion.greatest_lag_deg <= _SAFE_LAG_DEG:
            return Fastest(shape, limits, found, (*reasons, *_proof(found, tried)))
        limits = _slower(limits, shape)
    message = f"The simulated rotor of {axis.name} does not follow, however gently it is moved."
    raise KivantError(Fault(place, message, "Check the motor's figures: torque, inertia, current and supply."))


def _proof(found: Candidate, tried: int) -> Iterator[str]:
    if tried:
        taken = f"{100 * _BACK**tried:.0f} %"
        yield f"The simulated rotor slips with that, or nearly: all was taken back to {taken}."
    yield f"Simulated, the rotor follows, at most {found.motion.greatest_lag_deg:.0f} deg behind of 180."


def _slower(limits: Limits, shape: ShapeName) -> Limits:
    """Return limits that ask for less."""
    less = replace(limits, speed=outside_bands(cut_down(limits.speed * _BACK), limits.avoid or ()))
    if shape == "none":
        return less
    return replace(
        less, acceleration=cut_down(limits.acceleration * _BACK), deceleration=cut_down(limits.deceleration * _BACK),
        jerk=None if limits.jerk is None else cut_down(limits.jerk * _BACK),
    )  # fmt: skip


def _designed(
    machine: Machine, axis: Axis, distance: float, shape: ShapeName, pulls: tuple[Pull, Pull]
) -> tuple[Limits, tuple[str, ...]]:
    """Return the limits that the torque model allows, and the reasons."""
    unit, ratio, bands = axis.unit, float(steps_per_unit(axis)), axis.limits.avoid or ()
    spare = spare_of(machine, axis)
    base = replace(axis.limits, shape=shape, start_speed=0.0)
    top = min(float(pull.speeds[-1]) for pull in pulls) / ratio
    kept = f"With a margin of {spare.margin:g} torque is left up to {cut_down(top):g} {unit}/s."
    if shape == "none":
        jumped = min(pull_in_hz(spare) * float(steps_per_full_step(axis)) / ratio, top)
        return replace(base, speed=outside_bands(cut_down(jumped), bands)), (
            f"Without a ramp the rotor must gain its speed within about a full step: it has the energy to do so up to "
            f"{cut_down(jumped):g} {unit}/s.", *_avoided(cut_down(jumped), axis),
        )  # fmt: skip
    up, down = (np.min([getattr(pull, key).max() for pull in pulls]) / ratio for key in ("up", "down"))
    if shape == "torque":
        limits = replace(
            base, speed=outside_bands(cut_down(top), bands), acceleration=cut_down(float(up)),
            deceleration=cut_down(float(down)),
        )  # fmt: skip
        follows = f"The ramp follows the torque up to that, from {cut_down(float(up)):g} {unit}/s² on."
        return limits, (kept, follows, *_avoided(cut_down(top), axis))
    hz = natural_hz(machine, axis) if shape == "s_curve" else 0.0
    speeds, ups, downs = _least_up_to(pulls, ratio, [low for low, _high in bands])
    seconds = _durations(distance, speeds, ups, downs, hz)
    allowed = np.array([outside_bands(v, bands) == v for v in map(cut_down, speeds.tolist())])
    faster = _avoided(cut_down(float(speeds[np.argmin(seconds)])), axis)
    best = int(np.argmin(np.where(allowed, seconds, np.inf)))
    v, a, d = (cut_down(float(column[best])) for column in (speeds, ups, downs))
    reasons = [
        kept, *faster,
        f"Up to {v:g} {unit}/s it can keep {a:g} {unit}/s²; with more speed and less acceleration, or the other way "
        f"round, the move takes longer.",
    ]  # fmt: skip
    jerk = None
    if shape == "s_curve":
        jerk = cut_down(min(a, d) * hz)
        reasons.append(
            f"The acceleration changes over one period of the rotor's swing, {1000 / hz:.3g} ms, so that it is not set "
            f"ringing: {jerk:g} {unit}/s³."
        )
    return replace(base, speed=v, acceleration=a, deceleration=d, jerk=jerk), tuple(reasons)


def _avoided(wished: float, axis: Axis) -> Iterator[str]:
    """Yield why an axis does not go a speed that is wished: it lies in a band that it avoids."""
    for low, high in axis.limits.avoid or ():
        if low < wished < high:
            yield f"{wished:g} {axis.unit}/s would be faster, but {axis.name} avoids {low:g} to {high:g} {axis.unit}/s."


def _least_up_to(pulls: tuple[Pull, Pull], ratio: float, edges: Sequence[float]) -> tuple[Reals, Reals, Reals]:
    """Return speeds, and the accelerations and decelerations that are kept all the way up to each; axis units.

    Some `edges` are among them, as far as they are not too fast.
    """
    top = min(float(pull.speeds[-1]) for pull in pulls)
    own = np.array([edge * ratio for edge in edges if edge * ratio < top])
    speeds = np.union1d(top * np.linspace(1 / _TRIED, 1.0, _TRIED), own)
    found = []
    for key in ("up", "down"):
        least = [np.interp(speeds, p.speeds, np.minimum.accumulate(getattr(p, key))) for p in pulls]
        found.append(np.min(least, axis=0) / ratio)
    return speeds / ratio, found[0], found[1]


def _durations(distance: float, speeds: Reals, ups: Reals, downs: Reals, hz: float) -> Reals:
    """Return how long a distance takes at each speed of cruise, s."""
    x, limits = np.full(len(speeds), distance), {"speed": speeds, "acceleration": ups, "deceleration": downs}
    if hz:
        return s_curve(x, **limits, jerk=np.minimum(ups, downs) * hz).durations_s
    return trapezoid(x, **limits).durations_s


def changes(before: Limits, after: Limits) -> dict[str, object]:
    """Return the limits that differ, by name."""
    names = ("speed", "acceleration", "deceleration", "start_speed", "jerk", "shape")
    return {name: getattr(after, name) for name in names if getattr(before, name) != getattr(after, name)}
