"""The instants of steps, against square roots and loops."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from tests.core.motion.trains import ramps_of, train_along

from benchmarks.measuring import best, row
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import torque_ramp
from kivant.core.motion.train import StepTrain


def _train(steps: int, speed: float) -> StepTrain:
    """Return a million steps in moves of so many."""
    count = 1_000_000 // steps
    ramps = ramps_of([1.0] * count, speed=speed, acceleration=0.03, deceleration=0.02)
    return train_along([Fraction(k * steps) for k in range(count + 1)], ramps, ramps.durations_s * np.arange(count))


def step_instants() -> None:
    """Compare a million steps, in one move and in many, with one square root over as many numbers."""
    table = [
        ("one trapezoid", 1_000_000, 0.05, 3), ("one triangle", 1_000_000, 9.0, 3),
        ("moves of 30,000", 30_000, 0.05, 3), ("moves of 3,000", 3_000, 0.05, 8), ("moves of 100", 100, 0.05, 15),
    ]  # fmt: skip
    for name, steps, speed, most in table:
        train = _train(steps, speed)
        numbers = np.arange(train.count, dtype=np.float64)
        ours, root = best(train.instants, lambda x=numbers: np.sqrt(x), rounds=9)
        row(f"instants of 1e6 steps, {name}, against one numpy.sqrt", ours, root, f"at most {most}")


def shapes() -> None:
    """Compare a million steps along ramps of pieces with jerk with one square root over as many numbers."""
    one = np.ones(1)

    def falls(at: Reals) -> tuple[Reals, Reals]:
        return 1 / (1 + 3 * at) ** 2, 1 / (1 + at) ** 2

    for name, ramps in (
        ("an S-curve with a cruise", s_curve(one, speed=0.05, acceleration=0.3, deceleration=0.2, jerk=1.0)),
        ("an S-curve of four pieces", s_curve(one, speed=9.0, acceleration=0.3, deceleration=0.2, jerk=0.1)),
        ("along a torque", torque_ramp(one, np.zeros(1), np.full(1, 2.0), falls)),
    ):
        train = train_along([Fraction(0), Fraction(1_000_000)], ramps, [0.0])
        numbers = np.arange(train.count, dtype=np.float64)
        train.instants()  # machine code is made once
        ours, root = best(train.instants, lambda x=numbers: np.sqrt(x), rounds=9)
        row(f"instants of 1e6 steps, {name}, against one numpy.sqrt", ours, root, "at most 6")


def python_loop() -> None:
    """Compare the same with a loop over steps."""
    ramps = ramps_of([1.0], speed=0.5, acceleration=0.3, deceleration=0.2)
    train = train_along((Fraction(0), Fraction(100_000)), ramps, [0.0])
    ours, loop = best(train.instants, lambda: [train.instant(k) for k in range(train.count)], rounds=3)
    row("step instants of 1e5 steps against a Python loop", ours, loop, "at most 0.02")
