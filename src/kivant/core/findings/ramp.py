"""Findings about ramps: jumps a motor cannot follow, speeds that are to be avoided, and steps that a rotor loses.

Steps are simulated only where the torque model sees a risk: that takes time, and nearly always there is none.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from kivant.core.findings.checked_routine import CheckedRoutine
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.findings.motor import full_steps_of, known_axes
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Axis, Machine, find_named, shape_of
from kivant.core.machine.ramps import choose_shape
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Each, Move, walk
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import Spare, cut_down, jump_at, pull_in_hz, pulled_at, spare_of
from kivant.core.path import Path, axis_path, routine_path

if TYPE_CHECKING:
    from kivant.core.motion.plan import AxisPlan, Plan

_RISKY = 0.5
"""Share of the torque there is from which on a rotor is simulated."""
_LONGEST_S = 60.0
"""Longest routine that is simulated for a finding, s."""


def _jumped(axis: Axis) -> float:
    """Return the speed that an axis jumps to from standstill, axis units/s."""
    limits = axis.limits
    return limits.speed if shape_of(limits) == "none" else min(limits.start_speed, limits.speed)


def _over_pull_in(machine: Machine) -> Iterator[Case]:
    for i, axis, spare in known_axes(machine):
        usable = pull_in_hz(spare) / full_steps_of(axis)
        if _jumped(axis) > usable:
            figures = {
                "axis": axis.name, "speed": figure(_jumped(axis)), "usable": figure(float(f"{usable:.3g}")),
                "unit": axis.unit, "margin": figure(spare.margin),
            }  # fmt: skip
            key = "speed" if shape_of(axis.limits) == "none" else "start_speed"
            yield Case(axis_path(i, "limits", key), figures)


def _with_ramp(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        index, axis = axis_at(machine, place)
        if shape_of(axis.limits) == "none":
            return choose_shape(index, "trapezoid")(machine)
        usable = pull_in_hz(spare_of(machine, axis)) / full_steps_of(axis)
        return with_value(machine, place, cut_down(usable))

    return edit


def _in_band(machine: Machine) -> Iterator[Case]:
    avoid = {axis.name: axis for axis in machine.axes if axis.limits.avoid}
    for i, axis in enumerate(machine.axes):
        yield from _dwelling(axis, axis.limits.speed, axis_path(i, "limits", "speed"))
    for r, routine in enumerate(machine.routines if avoid else ()):
        for place, block in walk(routine.blocks, routine_path(r, "blocks")):
            if isinstance(block, Move | Each) and block.speed_factor is not None:
                for own in (avoid[name] for name in _named(machine, block) if name in avoid):
                    wished = own.limits.speed * block.speed_factor
                    yield from _dwelling(own, wished, place / "speed_factor", mends=False)


def _named(machine: Machine, block: Move | Each) -> Iterable[str]:
    """Return the axes that a block names, by itself, by its pose or by a place of the tool."""
    tool = tool_of(machine)
    if isinstance(block, Move) and block.tool is not None and tool is not None:
        return [machine.axes[index].name for role, index in tool.axes.items() if role != "z" or "z" in block.tool]
    if isinstance(block, Move) and block.pose is not None:
        return find_named(machine.poses or (), block.pose).at
    return [*(block.to or ()), *(block.by or ())]


def _dwelling(axis: Axis, wished: float, place: Path, *, mends: bool = True) -> Iterator[Case]:
    for low, high in axis.limits.avoid or ():
        if low < wished < high:
            ends = {"speed": figure(wished), "low": figure(low), "high": figure(high)}
            figures = {"axis": axis.name, "unit": axis.unit, **ends}
            yield Case(place, figures, mends)


def _to_the_edge(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        edges = [low for low, high in axis.limits.avoid or () if low < axis.limits.speed < high]
        return with_value(machine, place, edges[0]) if edges else machine

    return edit


def _guessed(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        guesses = nameplate(axis.motor).estimates
        if guesses and (shape_of(axis.limits) == "torque" or axis.margin is not None):
            what = ", ".join(guess.key.rpartition("_")[0].replace("_", " ") for guess in guesses)
            yield Case(axis_path(i, "motor"), {"axis": axis.name, "what": what})


def _risky(axis: Axis, spare: Spare) -> bool:
    """Return whether an axis may need more than half of the torque there is, wherever it is in a ramp."""
    hz, limits = axis.limits.speed * full_steps_of(axis), axis.limits
    jump = _jumped(axis) * full_steps_of(axis)
    radians = 2 * math.pi / spare.drive.full_steps
    rate = 0.0 if shape_of(limits) in ("none", "torque") else max(limits.acceleration, limits.deceleration)
    needed = spare.load.inertia_kgm2 * radians * rate * full_steps_of(axis) + spare.needed_nm(hz)
    there = min(pulled_at(spare.drive, spare.motor, f) for f in (0.0, hz))
    return (
        shape_of(limits) == "torque" or needed > _RISKY * there
        or jump_at(spare, jump) > _RISKY * pulled_at(spare.drive, spare.motor, jump)
    )  # fmt: skip


def _risky_plans(checked: CheckedRoutine) -> Iterator[tuple[Plan, AxisPlan, Spare]]:
    """Yield a routine's plan for each axis in it that may need more than half of the torque there is."""
    risky = {axis.name: spare for _i, axis, spare in known_axes(checked.machine) if _risky(axis, spare)}
    made = checked.plan if risky else None
    if made is not None and made.duration <= _LONGEST_S:
        for planned in made.axes:
            if planned.name in risky and planned.steps:
                yield made, planned, risky[planned.name]


def _block_at(made: Plan, seconds: float) -> Path:
    return next((block for block in made.blocks if seconds <= block.end_s), made.blocks[-1]).path


def _too_hard_in_plan(checked: CheckedRoutine) -> Iterator[Case]:
    for made, planned, spare in _risky_plans(checked):
        from kivant.core.motor.demand import demand_of

        worst, seconds = demand_of(spare, planned).worst
        if worst > 1 / spare.margin * (1 + 1e-3):
            figures = {"axis": planned.name, "ratio": f"{worst:.3g}", "seconds": f"{seconds:.4g}"}
            figures["margin"] = figure(spare.margin)
            yield Case(checked.place / _block_at(made, seconds), figures, mends=False)


def _loses_steps(checked: CheckedRoutine) -> Iterator[Case]:
    for made, planned, _spare in _risky_plans(checked):
        from kivant.core.motor.following import follow  # machine code
        from kivant.core.rotor_motion import RotorError

        try:
            motion = follow(checked.machine, planned, checkpoint=checked.checkpoint)
        except RotorError:  # no rotor of such figures can be simulated: who wants to see it is told why
            continue
        if motion.first_slip_s is not None:
            lost = abs(motion.slipped_full_steps)
            yield Case(checked.place / _block_at(made, motion.first_slip_s), {
                "axis": planned.name, "seconds": f"{motion.first_slip_s:.4g}",
                "lost": f"loses {lost} full steps" if lost else "slips",
            })  # fmt: skip


START_SPEED_OVER_PULL_IN = FindingKind(
    code="start-speed-over-pull-in",
    severity="warning",
    subject="machine",
    title="An axis jumps to more speed than its motor can start at.",
    check=_over_pull_in,
    message="{axis} jumps to {speed} {unit}/s from standstill; with a margin of {margin} its motor can start at "
    "about {usable} {unit}/s, so it may not start at all.",
    remedy="Start at {usable} {unit}/s or less, and leave the rest to the ramp.",
    mend=_with_ramp,
)

SPEED_IN_AVOID_BAND = FindingKind(
    code="speed-in-avoid-band",
    severity="note",
    subject="machine",
    title="A wished speed lies in a band that is to be avoided.",
    check=_in_band,
    message="{axis} is to go {speed} {unit}/s, within the band from {low} to {high} {unit}/s that it avoids: it goes "
    "{low} {unit}/s.",
    remedy="Choose {low} {unit}/s or less, or more than {high} {unit}/s.",
    mend=_to_the_edge,
)

MOTOR_DATA_ESTIMATED = FindingKind(
    code="motor-data-estimated",
    severity="note",
    subject="machine",
    title="A ramp or a margin relies on a motor whose figures are guessed.",
    check=_guessed,
    message="{axis}'s ramp relies on figures of its motor that are guessed: {what}.",
    remedy="Type the figures from its data sheet at Motor.",
)

ACCELERATION_IN_PLAN = FindingKind(
    code="acceleration-over-torque",
    severity="warning",
    subject="simulation",
    title="A plan needs more torque of a motor than its margin leaves.",
    check=_too_hard_in_plan,
    message="At {seconds} s {axis} needs {ratio} of the torque that its motor has there: more than a margin of "
    "{margin} leaves.",
    remedy="Lower its acceleration or speed, or let its ramps follow the torque.",
)

STEPS_LOST = FindingKind(
    code="steps-lost",
    severity="warning",
    subject="simulation",
    title="A simulated rotor loses steps in a routine.",
    check=_loses_steps,
    message="Simulated, {axis} {lost}, first at {seconds} s.",
    remedy="Lower its speed or acceleration, or look for the fastest safe ramp at Ramp.",
)
