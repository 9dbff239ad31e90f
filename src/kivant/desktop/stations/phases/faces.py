"""The face that each kind of driver has in the Phases station: its words, its figure, and the ways to drive."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from kivant.core.drive.drivers import driver_kind, sequence_name
from kivant.core.drive.phases import (
    MOST_TORQUE,
    SEQUENCES,
    mean_coils_on,
    microstep_torque,
    torque_range,
)
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.core.travel.conversion import steps_per_full_step, steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.stations.phases.alternative import Choice, Line

_MICROSTEPS = (1, 2, 4, 8, 16, 32)


@dataclass(frozen=True, slots=True)
class Face:
    """How a kind of driver looks.

    Parameters
    ----------
    words : str
        How it drives, as the rest of a heading.
    middle : str
        What stands in the middle: the ``ring`` of its rows, or the ``pulses`` it takes.
    figure : callable
        The figure of the plate, of an axis.
    choices : callable
        The ways to drive an axis, of the axis and its place.
    """

    words: str
    middle: Literal["ring", "pulses"]
    figure: Callable[[Axis], str]
    choices: Callable[[Axis, int], list[Choice]]


def sequence_choices(axis: Axis, index: int) -> list[Choice]:
    """Return for each sequence what it means: torque over its rows, mean current, smallest move."""
    now, per_unit = float(steps_per_full_step(axis)), float(steps_per_unit(axis))
    found = []
    for name, sequence in SEQUENCES.items():
        low, high = torque_range(name)
        mean, finer = mean_coils_on(name), sequence.steps_per_full_step
        torque = f"{low:.2f}" if math.isclose(low, high) else f"{low:.2f}–{high:.2f}"
        current = f"{mean * axis.motor.current_a:.3g} A" if axis.motor.current_a else f"{mean:g} coils"
        lines = (
            Line("torque", torque, (low + high) / 2 / MOST_TORQUE),
            Line("current", current, mean / 2),
            Line("smallest move", f"{figures.short(now / per_unit / finer)} {axis.unit}", finer / 2),
        )
        edit = set_value(axis_path(index, "driver", "sequence"), name)
        found.append(Choice(name, "", lines, sequence.words == _words(axis), edit))
    return found


def _words(axis: Axis) -> tuple[int, ...]:
    return tuple(row.word for row in driver_kind(axis.driver).rows(axis.driver) or ())


def microstep_choices(axis: Axis, index: int) -> list[Choice]:
    """Return for some numbers of microsteps what they mean: smallest move, torque of one step, current."""
    now, current = int(steps_per_full_step(axis)), getattr(axis.driver, "current_a", None)
    numbers = sorted({*_MICROSTEPS, now})
    numbers = numbers if len(numbers) <= 6 else [n for n in numbers if n != 1]
    found = []
    for number in numbers:
        per_unit = float(steps_per_unit(axis)) / now * number
        lines = (Line("one step", f"{figures.short(1 / per_unit)} {axis.unit}", 1 / number),)
        note = f"torque {microstep_torque(number):.2g}" + (f", {current:g} A" if current else "")
        name = f"{number} microsteps" if number > 1 else "full steps"
        edit = set_value(axis_path(index, "driver", "microsteps"), number)
        found.append(Choice(name, note, lines, number == now, edit))
    return found


_PULSES = Face(
    words="pulse by pulse",
    middle="pulses",
    figure=lambda axis: f"{steps_per_full_step(axis)} microsteps",
    choices=microstep_choices,
)
_COILS = Face(
    words="coil by coil",
    middle="ring",
    figure=lambda axis: f"{sequence_name(axis.driver)}, {len(_words(axis))} rows",  # type: ignore[arg-type]
    choices=sequence_choices,
)

FACES: dict[str, Face] = {"coils": _COILS, "step_direction": _PULSES, "pulse_pair": _PULSES}
"""The face of each kind of driver."""
