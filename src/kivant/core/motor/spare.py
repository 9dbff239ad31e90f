"""What a motor's torque leaves at a speed, beyond its load, with a margin; and up to which speed it leaves anything."""

from __future__ import annotations

import math
from bisect import bisect_right

from msgspec import Struct

from kivant.core.machine.parts import Axis, Machine, Motor
from kivant.core.motor.load import LoadAtRotor, load_of
from kivant.core.motor.torque import Drive, available_at, drive_of

USUAL_MARGIN = 1.5
FARTHEST_HZ = 1e6
"""Full steps/s beyond which nobody looks."""
_SCAN = 140


def cut_down(value: float) -> float:
    """Return a positive figure cut to three significant digits, never more than it is; 0 for others."""
    if not value > 0:
        return 0.0
    grain = 10.0 ** (math.floor(math.log10(value)) - 2)
    return float(f"{math.floor(value / grain * (1 + 1e-12)) * grain:.3g}")


def pulled_at(drive: Drive, motor: Motor, full_steps_hz: float) -> float:
    """Return the torque that can be pulled at one speed, N m: of the data sheet's points, modelled without them.

    Between points the torque changes evenly; below the first it is that of the first, beyond the last there is none.
    """
    points = motor.torque_points
    if not points:
        return available_at(drive, full_steps_hz)
    above = bisect_right([point[0] for point in points], full_steps_hz)
    if above == 0:
        return points[0][1]
    (low, high), share = points[above - 1 : above + 1] if above < len(points) else (points[-1], points[-1]), 0.0
    if above == len(points):
        return high[1] if full_steps_hz == high[0] else 0.0
    share = (full_steps_hz - low[0]) / (high[0] - low[0])
    return low[1] + share * (high[1] - low[1])


class Spare(Struct, frozen=True):
    """A motor with its drive, load and margin."""

    motor: Motor
    drive: Drive
    load: LoadAtRotor
    margin: float

    def left_nm(self, full_steps_hz: float) -> float:
        """Return what the torque leaves for acceleration at a speed, N m, in the harder direction."""
        return pulled_at(self.drive, self.motor, full_steps_hz) / self.margin - self.needed_nm(full_steps_hz)

    def needed_nm(self, full_steps_hz: float) -> float:
        """Return the torque of the load at a speed, N m, in the harder direction."""
        radians = 2 * math.pi / self.drive.full_steps
        return self.load.worst_nm() + self.load.viscous_nms * full_steps_hz * radians

    def usable_hz(self) -> float:
        """Return the speed from 0 up to which there is something left, full steps/s; at most a million."""
        low, ratio = 0.0, FARTHEST_HZ ** (1 / _SCAN)
        if self.left_nm(0.0) <= 0:
            return 0.0
        for k in range(_SCAN + 1):
            high = ratio**k
            if self.left_nm(high) <= 0:
                break
            low = high
        else:
            return FARTHEST_HZ
        for _ in range(50):
            middle = (low + high) / 2
            low, high = (middle, high) if self.left_nm(middle) > 0 else (low, middle)
        return low


def jump_at(spare: Spare, full_steps_hz: float, direction: int = 0) -> float:
    """Return the torque that a jump from standstill to a speed needs, N m; in the harder direction where none is given.

    The rotor has to gain the speed before the field has left it behind. It is taken to do so evenly over one full step:
    the work of the torque over it is the energy of the rotor. An estimate of the pull-in speed, not a bound.
    """
    radians, load = 2 * math.pi / spare.drive.full_steps, spare.load
    against = load.friction_nm + load.pull_nm(direction) if direction else load.worst_nm()
    return load.inertia_kgm2 * full_steps_hz**2 / 2 * radians + against + load.viscous_nms * radians * full_steps_hz


def pull_in_hz(spare: Spare) -> float:
    """Return the speed that may be jumped to from standstill in the harder direction, full steps/s, by halving."""
    low, high = 0.0, FARTHEST_HZ
    for _ in range(60):
        middle = (low + high) / 2
        can = jump_at(spare, middle) <= pulled_at(spare.drive, spare.motor, middle) / spare.margin
        low, high = (middle, high) if can else (low, middle)
    return low


def spare_of(machine: Machine, axis: Axis, margin: float | None = None) -> Spare:
    """Return what moves an axis and what it moves; `margin` instead of the axis's own."""
    own = margin if margin is not None else axis.margin or USUAL_MARGIN
    return Spare(axis.motor, drive_of(machine, axis), load_of(axis), own)
