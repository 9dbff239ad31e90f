"""The stall map: which speeds and accelerations a motor follows, each cell one move of a simulated rotor.

A cell is a move at constant acceleration up to a speed, a short cruise and the same down again. It is simulated twice
at the most: with all that the rotor moves made heavier by the margin, and, where it does not follow that, as it is.
Only cells along the borders of the coarse map are looked at again in the finer ones.
"""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.rates import pulse_rate
from kivant.core.motion.segment import Reals
from kivant.core.motor.following import mode_of, rotor_of
from kivant.core.motor.pulling import pulls_of
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.rotor_motion import Mode, Rotor, Winding, simulate
from kivant.core.travel.conversion import steps_per_full_step, steps_per_unit
from kivant.core.travel.sense import rotor_sense

UNKNOWN, SLIPS, FOLLOWS, SURE = -1, 0, 1, 2
"""What is known of a cell: nothing (yet, or it would take too long); it slips, follows, or follows with the margin."""

SIZES = (8, 16, 32)
"""Cells along each side, from the coarsest map to the finest."""

_CRUISE_S, _SETTLE_S = 0.01, 0.02
_CRUISE_FULL_STEPS = 8
_MOST_STEPS, _LONGEST_S = 500_000, 20.0  # of a cell's ramps: what is longer is left out
_LOOK_S = 0.02
_TELL = 24  # cells after which a map is handed out as far as it is known
_FARTHEST = 15.0  # times the axis's speed: how far the map goes
_RANGE = 100.0  # from the least acceleration of the map to the greatest


class Ranges(Struct, frozen=True):
    """What a map spans, in axis units and seconds: speeds evenly from 0, accelerations evenly in their logarithm."""

    speed: float
    least: float
    most: float

    def at(self, size: int) -> tuple[Reals, Reals]:
        """Return the speeds and accelerations at the middles of a map's cells."""
        share = (np.arange(size) + 0.5) / size
        return self.speed * share, self.least * (self.most / self.least) ** share


class StallMap(Struct, frozen=True, eq=False):
    """What happens: `cells` of shape (accelerations, speeds), how many were simulated, whether it is the finest."""

    ranges: Ranges
    cells: NDArray[np.int8]
    simulated: int
    done: bool


class _Case(Struct, frozen=True):
    """What every cell has in common: rotors as they are and made heavier, what drives them, steps of an axis unit."""

    rotor: Rotor
    heavier: Rotor
    winding: Winding
    mode: Mode
    ratio: float
    full: float
    sense: int

    def cell(self, speed: float, acceleration: float, checkpoint: Callable[[], None]) -> int:
        checkpoint()
        if speed * speed / acceleration * self.ratio > _MOST_STEPS or speed / acceleration > _LONGEST_S:
            return UNKNOWN
        instants = ramp_instants(speed * self.ratio, acceleration * self.ratio, _CRUISE_FULL_STEPS * self.full)
        signs = np.full(len(instants), self.sense)
        for rotor, fate in ((self.heavier, SURE), (self.rotor, FOLLOWS)):
            motion = simulate(
                instants, signs, self.mode, rotor, self.winding, _SETTLE_S, checkpoint=checkpoint, until_slip=True
            )
            if motion.follows:
                return fate
        return SLIPS


def ramp_instants(speed: float, acceleration: float, least_cruise: float) -> Reals:
    """Return the instants of a move from rest to a speed and back to rest, s; in steps and seconds.

    Uniformly accelerated motion: step k is made at k - 1/2 steps, at sqrt(2 x / a) on the way up.
    """
    rise = speed * speed / (2 * acceleration)
    cruise = max(speed * _CRUISE_S, least_cruise)
    count = max(int(2 * rise + cruise), 2)
    x = np.arange(count) + 0.5
    end = count / speed + speed / acceleration if 2 * rise <= count else 2 * math.sqrt(count / acceleration)
    up = np.sqrt(2 * x / acceleration)
    steady = speed / acceleration + (x - rise) / speed
    down = end - np.sqrt(2 * (count - x) / acceleration)
    found: Reals = np.where(x < min(rise, count / 2), up, np.where(x <= count - rise, steady, down))
    return found


def ranges_of(machine: Machine, axis: Axis) -> Ranges:
    """Return what the map of an axis is to span: beyond what its motor can do, and its own ramp with some room."""
    ratio, limits = float(steps_per_unit(axis)), axis.limits
    fastest = pulse_rate(machine, axis) / ratio
    pull = pulls_of(machine, replace(axis, limits=replace(limits, speed=fastest)), margin=1.0)[0]
    speed = min(max(1.25 * float(pull.speeds[-1]) / ratio, 1.15 * limits.speed), max(fastest, limits.speed))
    speed = min(speed, _FARTHEST * limits.speed)  # beyond that the ramp would be lost in a corner of the map
    most = max(1.5 * float(pull.up[0]) / ratio, 1.2 * limits.acceleration, 1e-9)
    return Ranges(_rounded(speed), _rounded(min(most / _RANGE, limits.acceleration / 1.5)), _rounded(most))


def _rounded(value: float) -> float:
    """Return a value on two digits: a map need not be made anew for every change of a limit."""
    return float(f"{value:.2g}")


def model_line(machine: Machine, axis: Axis, ranges: Ranges, margin: float) -> tuple[Reals, Reals]:
    """Return speeds, and the constant acceleration that the torque model allows up to each, in axis units."""
    ratio = float(steps_per_unit(axis))
    wide = replace(axis, limits=replace(axis.limits, speed=ranges.speed))
    pull = pulls_of(machine, wide, margin)[0]
    least = np.minimum.accumulate(np.minimum(pull.up, pull.down))
    return pull.speeds / ratio, least / ratio


def stall_map(
    machine: Machine, axis: Axis, take: Callable[[StallMap], None], checkpoint: Callable[[], None] = lambda: None,
    sizes: tuple[int, ...] = SIZES,
) -> None:  # fmt: skip
    """Hand ever finer maps of an axis's positive motion to `take`; what `checkpoint` raises ends the work."""
    rotor, winding = rotor_of(machine, axis)
    margin = axis.margin or USUAL_MARGIN
    heavier = replace(
        rotor, inertia_kgm2=rotor.inertia_kgm2 * margin, friction_nm=rotor.friction_nm * margin,
        viscous_nms=rotor.viscous_nms * margin, load_nm=rotor.load_nm * margin,
    )  # fmt: skip
    case = _Case(rotor, heavier, winding, mode_of(axis), float(steps_per_unit(axis)),
                 float(steps_per_full_step(axis)), rotor_sense(axis))  # fmt: skip
    ranges, stop, simulated = ranges_of(machine, axis), _Stop(), 0
    cells: NDArray[np.int8] = np.full((1, 1), UNKNOWN, np.int8)
    with ThreadPoolExecutor(os.cpu_count() or 1) as workers:
        try:
            for size in sizes:
                cells, wanted = _finer(cells, size)
                for done in _simulate(case, ranges, cells, wanted, (workers, stop, checkpoint)):
                    take(StallMap(ranges, cells.copy(), simulated + done, done=False))
                simulated += int(wanted.sum())
                take(StallMap(ranges, cells.copy(), simulated, size == sizes[-1]))
        except BaseException:
            stop.asked = True
            workers.shutdown(cancel_futures=True)
            raise


class _StoppedError(Exception):
    """The map is not wanted any more."""


class _Stop:
    """Whether the cells that are under way are to be given up."""

    asked = False


def _simulate(
    case: _Case, ranges: Ranges, cells: NDArray[np.int8], wanted: NDArray[np.bool_],
    work: tuple[ThreadPoolExecutor, _Stop, Callable[[], None]],
) -> Iterator[int]:  # fmt: skip
    """Fill the wanted cells in, on all cores; now and then yield how many are."""
    workers, stop, checkpoint = work

    def go_on() -> None:
        if stop.asked:
            raise _StoppedError

    speeds, rates = ranges.at(len(cells))
    waiting: dict[Future[int], tuple[int, int]] = {
        workers.submit(case.cell, float(speeds[k]), float(rates[i]), go_on): (i, k)
        for i, k in np.argwhere(wanted).tolist()
    }
    count, told = len(waiting), 0
    while waiting:
        checkpoint()
        done, _not_yet = wait(waiting, _LOOK_S, FIRST_COMPLETED)
        for future in done:
            cells[waiting.pop(future)] = future.result()
        if count - len(waiting) >= told + _TELL:
            told = count - len(waiting)
            yield told


def _finer(cells: NDArray[np.int8], size: int) -> tuple[NDArray[np.int8], NDArray[np.bool_]]:
    """Return a map of more cells, and which of them are to be simulated: those beside one of another fate."""
    times = size // len(cells)
    finer = np.repeat(np.repeat(cells, times, axis=0), times, axis=1)
    padded = np.pad(finer, times, mode="edge")
    wanted = finer == UNKNOWN
    for down in (-times, 0, times):
        for across in (-times, 0, times):
            there = padded[times + down : times + down + size, times + across : times + across + size]
            wanted |= there != finer
    return finer, wanted
