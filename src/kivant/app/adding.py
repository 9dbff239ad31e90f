"""New axes: what each kind is until its figures are typed, copies of axes, and free lines of the board for both."""

from __future__ import annotations

from dataclasses import replace
from types import MappingProxyType
from typing import Any

from kivant.app.editing import NEW_STAGES, Edit, checked
from kivant.core.driver import board_lines
from kivant.core.machine import (
    Axis,
    CoilDriver,
    CoilLines,
    Driver,
    Limits,
    Machine,
    Motor,
    PulseDriver,
    PulsePairLines,
    StepDirectionLines,
)


def free_lines(machine: Machine) -> list[str]:
    """Return the board's lines that no axis uses."""
    used = {line for axis in machine.axes for line in board_lines(axis.driver).values()}
    return [line for line in machine.board.lines if line not in used]


def _rewired(machine: Machine, axis: Axis) -> tuple[Machine, Axis]:
    """Return the axis on free board lines, and the machine with lines added where too few were free."""
    keys, free = list(board_lines(axis.driver)), free_lines(machine)
    lines, number_ = list(machine.board.lines), 0
    while len(free) < len(keys):
        while f"P{number_}" in lines:
            number_ += 1
        lines.append(f"P{number_}")
        free.append(f"P{number_}")
    names: dict[str, Any] = dict(zip(keys, free, strict=False))
    wired: Any = replace(axis.driver.lines, **names)
    board = replace(machine.board, lines=tuple(lines))
    return replace(machine, board=board), replace(axis, driver=replace(axis.driver, lines=wired))


def free_axis_name(machine: Machine, wanted: str) -> str:
    """Return a name no axis has, like the one wanted."""
    taken, name, count = {axis.name for axis in machine.axes}, wanted, 2
    while name in taken:
        name, count = f"{wanted} {count}", count + 1
    return name


def duplicate_axis(index: int) -> Edit:
    """Add an axis like this one behind it, on free board lines."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        copy = replace(axis, name=free_axis_name(machine, axis.name)[:80])
        machine, copy = _rewired(machine, copy)
        axes = (*machine.axes[: index + 1], copy, *machine.axes[index + 1 :])
        return checked(replace(machine, axes=axes))

    return edit


_PAIR = PulsePairLines(CW="", CCW="", EN="")
_DRIVERS: tuple[tuple[str, Driver], ...] = (
    (
        "step/direction driver",
        PulseDriver(kind="step_direction", microsteps=8, lines=StepDirectionLines(STEP="", DIR="", EN="")),
    ),
    (
        "driver with two pulse lines",
        PulseDriver(kind="pulse_pair", microsteps=8, lines=_PAIR),
    ),
    ("coil driver", CoilDriver(sequence="half", lines=CoilLines(A="", B="", C="", D=""))),
)


def _new(driver: Driver, *, slides: bool) -> Axis:
    coils = isinstance(driver, CoilDriver)
    return Axis(
        name="Axis",
        unit="mm" if slides else "deg",
        motor=Motor(winding="unipolar" if coils else "bipolar", full_steps_per_rev=200),
        driver=driver,
        travel=(NEW_STAGES["screw"],) if slides else (),
        limits=Limits(speed=10.0, acceleration=50.0, deceleration=50.0)
        if slides
        else Limits(speed=90.0, acceleration=360.0, deceleration=360.0),
    )


NEW_AXES = MappingProxyType(
    {
        f"{'Sliding' if slides else 'Turning'}, {name}": _new(driver, slides=slides)
        for slides in (False, True)
        for name, driver in _DRIVERS
    }
)
"""What a new axis of each kind is until its figures are typed: a common motor, no gears, a screw where it slides."""


def add_axis(kind: str) -> Edit:
    """Add an axis of a kind of `NEW_AXES` at the end, on free board lines (and new ones, where too few are free)."""

    def edit(machine: Machine) -> Machine:
        new = NEW_AXES[kind]
        machine, wired = _rewired(machine, replace(new, name=free_axis_name(machine, new.name)))
        return checked(replace(machine, axes=(*machine.axes, wired)))

    return edit
