"""Recordings of axes that were moved by hand: paths of points, thinned to a tolerance, that take the time they took.

References
----------
D. H. Douglas and T. K. Peucker, "Algorithms for the Reduction of the Number of Points Required to Represent a Digitized
Line or Its Caricature", Cartographica, 1973.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from itertools import groupby, pairwise
from typing import NamedTuple

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Block, Move, Pause
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.motion.speed_course import greatest
from kivant.core.program.path_times import RowTime, RowWays
from kivant.core.program.poses import kept_place
from kivant.core.travel.conversion import steps_per_unit

_REST_S = 0.1  # shorter rests are taken for slow motion
_STILL = 1e-9
_LEAST = 1e-6  # factor that a file can hold


class Sample(NamedTuple):
    """Where the axes of a machine were, in axis units, and when, s."""

    seconds: float
    places: tuple[float, ...]


def thinned(points: Reals, tolerance: float) -> list[int]:
    """Return which points to keep of a path, so that none is farther from it, and none farther back on it.

    Parameters
    ----------
    points : array, shape (points, axes)
    tolerance : float
        By how much, in the units of the axes, whatever those are.
    """
    kept = {0, len(points) - 1}
    spans = [(0, len(points) - 1)]
    while spans:
        first, last = spans.pop()
        if last - first < 2:
            continue
        chord, beside = points[last] - points[first], points[first + 1 : last] - points[first]
        length = float(chord @ chord)
        share = np.clip(beside @ chord / length, 0.0, 1.0) if length else np.zeros(len(beside))
        off = np.sqrt(((beside - share[:, None] * chord) ** 2).sum(axis=1))
        back = (np.maximum.accumulate(share) - share) * length**0.5  # a way gone back is not to be cut short
        if off.max() > tolerance:
            middle = first + 1 + int(off.argmax())
        elif back.max() > tolerance:
            middle = first + 1 + int(share[: int(back.argmax()) + 1].argmax())
        else:
            continue
        kept.add(middle)
        spans += [(first, middle), (middle, last)]
    return sorted(kept)


def recorded(machine: Machine, samples: Sequence[Sample], tolerance: float) -> tuple[Block, ...]:
    """Return moves and pauses through what was recorded; moves are as slow as the hand was, or as fast as they can be.

    Parameters
    ----------
    machine : Machine
    samples : sequence of Sample
        In the order of time; of all axes of the machine.
    tolerance : float
        How far the path may be from a sample, in axis units.
    """
    if not samples:
        return ()
    points = np.array([sample.places for sample in samples], dtype=np.float64)
    times = [sample.seconds for sample in samples]
    rates = [rates_of(machine, axis) for axis in machine.axes]
    here = [kept_place(axis, place) for axis, place in zip(machine.axes, samples[0].places, strict=True)]
    blocks: list[Block] = []
    for moving, first, last in _stretches(times, points):
        if not moving:
            blocks.append(Pause(seconds=round(times[last] - times[first], 3)))
            continue
        corners = [first + index for index in thinned(points[first : last + 1], tolerance)]
        for begin, end in pairwise(corners):
            there = [kept_place(axis, place) for axis, place in zip(machine.axes, samples[end].places, strict=True)]
            to = {axis.name: new for axis, old, new in zip(machine.axes, here, there, strict=True) if old != new}
            if to:
                factor = _factor(machine, rates, here, there, times[end] - times[begin])
                blocks.append(Move(to=to, speed_factor=factor))
                here = there
    while blocks and isinstance(blocks[-1], Pause):
        blocks.pop()
    return tuple(blocks[next((k for k, block in enumerate(blocks) if isinstance(block, Move)), len(blocks)) :])


def _stretches(times: Sequence[float], points: Reals) -> Iterator[tuple[bool, int, int]]:
    """Yield stretches of motion and of rest between samples, as whether they move, and their first and last sample."""
    moves = (np.abs(np.diff(points, axis=0)).max(axis=1, initial=0.0) > _STILL).tolist()
    at = 0
    parts: list[tuple[bool, int, int]] = []
    for moving, group in groupby(moves):
        count = sum(1 for _ in group)
        parts.append((moving or times[at + count] - times[at] < _REST_S, at, at + count))
        at += count
    for moving, same in groupby(parts, lambda part: part[0]):
        own = list(same)
        yield moving, own[0][1], own[-1][2]


def _factor(
    machine: Machine, rates: list[Rates], here: Sequence[Decimal], there: Sequence[Decimal], seconds: float
) -> float | None:
    """Return the speed factor with which axes take so long from place to place, None where they cannot be so fast."""
    gaps = zip(machine.axes, here, there, strict=True)
    ways = {k: float(new - old) * float(steps_per_unit(axis)) for k, (axis, old, new) in enumerate(gaps) if old != new}
    time = RowTime(machine, RowWays(ways, together=True))
    found = greatest(_LEAST, 1.0, lambda factor: time.paths(rates, factor)[0][0] >= seconds)
    return None if found == 1.0 else float(f"{found:.4g}")
