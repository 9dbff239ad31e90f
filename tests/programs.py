"""Random programs: every kind of block, nested and switched off."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, cast

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Block, Call, Each, Machine, Move, Note, Pause, Pose, Repeat, Routine, Spin
from tests.machines import limits, machine, screw_axis

NAMES = ("A", "B", "C")
QUICK = {"direction_setup_us": 0.0, "direction_hold_us": 0.0, "pulse_high_us": 1e-3, "pulse_low_us": 1e-3}
FAST: dict[str, Any] = {"tick_hz": 10**9, "max_pulse_hz": 1e9}  # such a board and such drivers are waited for some ns


def built(random: np.random.Generator) -> Machine:
    """Return a machine with a random program: every kind of block, nested and switched off."""
    axes = [
        screw_axis(name, 4 * k, driver=QUICK, limits=limits(*random.uniform((20, 200, 150, 0), (60, 500, 500, 8))))
        for k, name in enumerate(NAMES)
    ]

    def targets(low: float, high: float) -> dict[str, Decimal]:
        names = random.choice(NAMES, random.integers(1, 4), replace=False).tolist()
        return {name: Decimal(f"{random.uniform(low, high):.3f}") for name in names}

    def block(depth: int) -> Block:
        factor: dict[str, Any] = {"speed_factor": float(random.uniform(0.2, 1))} if random.random() < 0.3 else {}
        off: dict[str, Any] = {"off": True} if random.random() < 0.1 else {}
        kind = int(random.integers(0, 10 if depth < 3 else 7))
        if kind == 0:
            return Pause(seconds=float(random.uniform(0, 0.3)), **off)
        if kind == 1:
            return Note(text="here", **off)
        if kind == 2:
            return Move(pose="Home", **factor, **off)
        if kind in (3, 4):
            made: Any = Move if kind == 3 else Each
            return cast(Block, made(**{str(random.choice(["to", "by"])): targets(-20, 20)}, **factor, **off))
        if kind in (5, 6):
            return Spin(speeds=targets(-20, 20), seconds=float(random.uniform(0.4, 1.5)), **factor, **off)
        if kind == 7:
            return Call(routine="sub", **off) if depth == 0 else Note()
        return Repeat(times=int(random.integers(1, 4)), blocks=blocks(depth + 1), **off)

    def blocks(depth: int) -> tuple[Block, ...]:
        return tuple(block(depth) for _ in range(random.integers(1, 5)))

    routines = (Routine(name="test", blocks=blocks(0)), Routine(name="sub", blocks=blocks(1)))
    home = Pose(name="Home", at={"A": Decimal(5), "C": Decimal("-2.5")})
    return replace(machine(*axes, **FAST), poses=(home,), routines=routines)


_FREE: dict[str, dict[str, Any]] = {
    "speed": {"speed": 1e5},
    "acceleration": {"acceleration": 1e6, "deceleration": 1e6},
    "jerk": {"jerk": None, "shape": None},
    "pulse rate": {},
}


def free_of(own: Machine, axis: int, limit: str) -> Machine:
    """Return the machine in which a limit of an axis holds nothing back."""
    axes = list(own.axes)
    axes[axis] = replace(axes[axis], limits=replace(axes[axis].limits, **_FREE[limit]))
    return replace(own, axes=tuple(axes), board=replace(own.board, **FAST))
