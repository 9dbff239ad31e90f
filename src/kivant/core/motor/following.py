"""Whether the motors of a machine follow a plan: each axis simulated by its own motor, load, driver and supply."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kivant.core.drive.drivers import driver_kind
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.plan import AxisPlan
from kivant.core.motion.segment import Reals
from kivant.core.motor.load import load_of
from kivant.core.motor.torque import drive_of
from kivant.core.rotor_motion import Mode, Motion, Rotor, Winding, simulate
from kivant.core.travel.sense import rotor_sense


def rotor_of(machine: Machine, axis: Axis) -> tuple[Rotor, Winding]:
    """Return the rotor of an axis with all that it moves, in its own positive sense, and one of its windings."""
    drive, load = drive_of(machine, axis), load_of(axis)
    pull = load.pull_nm(1) if load.constant_nm > 0 else -load.pull_nm(-1)
    rotor = Rotor(
        teeth=drive.full_steps / 4,
        inertia_kgm2=load.inertia_kgm2,
        torque_nm=drive.torque_constant * drive.current_a,
        viscous_nms=load.viscous_nms,
        friction_nm=load.friction_nm,
        detent_nm=axis.motor.detent_torque_nm or 0.0,
        load_nm=rotor_sense(axis) * pull,
    )
    rows = driver_kind(axis.driver).rows(axis.driver) is not None
    return rotor, Winding(
        drive.current_a, drive.resistance_ohm, drive.inductance_h, drive.supply_v, "voltage" if rows else "chopper"
    )


def _ends_on(axis: Axis, rows: int) -> tuple[int, ...]:
    """Return the ends of the windings that each row switches on, as words with A as the lowest bit."""
    states = (driver_kind(axis.driver).excitation(axis.driver, row) for row in range(rows))
    return tuple(sum(1 << bit for bit, on in enumerate(state.coils) if on) for state in states)


def mode_of(axis: Axis) -> Mode:
    """Return what the steps of an axis command: microsteps, or the rows of its sequence."""
    table = driver_kind(axis.driver).rows(axis.driver)
    return _ends_on(axis, len(table)) if table is not None else axis.driver.microsteps  # type: ignore[attr-defined]


def follow_steps(
    machine: Machine, axis: Axis, instants_s: Reals, signs: NDArray[np.int8], settle_s: float = 0.3,
    checkpoint: Callable[[], None] = lambda: None, traced: bool = False,
) -> Motion:  # fmt: skip
    """Return what the rotor of an axis makes of steps; full steps count in the rotor's clockwise sense.

    `checkpoint` is called now and then and may raise.
    """
    rotor, winding = rotor_of(machine, axis)
    ways = signs * rotor_sense(axis)
    return simulate(instants_s, ways, mode_of(axis), rotor, winding, settle_s, checkpoint=checkpoint, traced=traced)


def follow(
    machine: Machine, planned: AxisPlan, settle_s: float = 0.3, checkpoint: Callable[[], None] = lambda: None,
    *, traced: bool = False,
) -> Motion:  # fmt: skip
    """Return what the rotor of an axis makes of its plan, as `follow_steps` does."""
    return follow_steps(machine, planned.axis, planned.instants, planned.signs, settle_s, checkpoint, traced)
