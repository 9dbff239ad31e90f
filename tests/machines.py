"""Machines for tests: small, made up, with figures that make arithmetic easy to follow."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import (
    Axis,
    Block,
    Board,
    CoilDriver,
    CoilLines,
    Limits,
    Machine,
    Motor,
    Move,
    OwnSequence,
    PulsePairDriver,
    PulsePairLines,
    Routine,
    Screw,
    StepDirectionDriver,
    StepDirectionLines,
)

MOTOR = Motor(winding="bipolar", full_steps_per_rev=200)


def limits(
    speed: float = 40.0, up: float = 300.0, down: float | None = None, start: float = 0.0, **more: Any
) -> Limits:
    """Return limits in a few words."""
    return Limits(speed=speed, acceleration=up, deceleration=down or up, start_speed=start, **more)


def screw_axis(name: str = "Lift", first_line: int = 0, *, microsteps: int = 8, **kinds: Any) -> Axis:
    """Return an axis of 25 full steps/mm with a step/direction driver (200 steps/mm at 8 microsteps)."""
    lines = StepDirectionLines(STEP=f"P{first_line}", DIR=f"P{first_line + 1}", EN=kinds.pop("enable", None))
    driver = StepDirectionDriver(microsteps=microsteps, lines=lines)
    driver = replace(driver, **kinds.pop("driver", {}))
    screw = (Screw(lead=Decimal(8)),)
    return Axis(name=name, unit="mm", motor=MOTOR, driver=driver, travel=screw, limits=kinds.pop("limits", limits()))


def pair_axis(name: str = "Reach", first_line: int = 0, **driver: Any) -> Axis:
    """Return an axis like `screw_axis`, with a pulse line for each direction."""
    lines = PulsePairLines(CW=f"P{first_line}", CCW=f"P{first_line + 1}")
    made = PulsePairDriver(microsteps=8, lines=lines)
    return replace(screw_axis(name), driver=replace(made, **driver))


def coil_axis(name: str = "Disc", first_line: int = 0, *, sequence: str | OwnSequence = "half", **kinds: Any) -> Axis:
    """Return a rotary axis without gears, coil by coil: 10/9 steps/deg at half steps."""
    a, b, c, d = (f"P{first_line + k}" for k in range(4))
    driver = CoilDriver(sequence=sequence, lines=CoilLines(A=a, B=b, C=c, D=d), **kinds.pop("driver", {}))  # type: ignore[arg-type]
    return Axis(name=name, unit="deg", motor=MOTOR, driver=driver, limits=kinds.pop("limits", limits(720.0, 3600.0)))


def move(to: Mapping[str, Any] | None = None, by: Mapping[str, Any] | None = None, **more: Any) -> Move:
    """Return a move; targets may be given as text, so that they are exact."""
    exact = [None if t is None else {k: Decimal(v) for k, v in t.items()} for t in (to, by)]
    return Move(to=exact[0], by=exact[1], **more)


def machine(
    *axes: Axis, blocks: tuple[Block, ...] = (), start: Mapping[str, Any] | None = None, **board: Any
) -> Machine:
    """Return a machine with one routine called “test”."""
    begin = {k: Decimal(v) for k, v in start.items()} if start else None
    routine = Routine(name="test", blocks=blocks, start=begin)
    lines = tuple(f"P{k}" for k in range(64))
    return Machine(name="bench", board=Board(**{"lines": lines, **board}), axes=axes, routines=(routine,))


def through_play(motor: Any, play: float) -> Any:
    """Return where a tool is, behind so much play, while its motor is at places, one after the other (play operator).

    It is pushed by the motor that goes up, and pulled by one that goes down, once the play is taken up.
    """
    found, at = np.empty_like(motor), motor[0]
    for k, stands in enumerate(motor.tolist()):
        at = found[k] = min(max(at, stands), stands + play)
    return found
