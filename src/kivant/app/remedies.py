"""Remedies that a machine can do by itself: the edit that makes a finding go away."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

from kivant.app.adding import free_lines
from kivant.app.editing import Edit, limit_value, with_axis
from kivant.core.errors import Fault, KivantError
from kivant.core.findings import pulse_rate
from kivant.core.machine import Machine
from kivant.core.travel import steps_per_unit


def remedy_of(code: str, place: str) -> Edit | None:
    """Return the edit that mends a finding, None where only a person can."""
    match = re.match(r"axes\[(\d+)\]", place)
    if not match:
        return None
    index = int(match.group(1))

    def free_line(machine: Machine) -> Machine:
        key, free = place.rpartition(".")[2], free_lines(machine)
        if not free:
            raise KivantError(Fault(place, "No line of the board is free.", "Add one to board.lines."))
        axis = machine.axes[index]
        change: dict[str, Any] = {key: free[0]}
        lines: Any = replace(axis.driver.lines, **change)
        return with_axis(machine, index, replace(axis, driver=replace(axis.driver, lines=lines)))

    def slower(machine: Machine) -> Machine:
        axis = machine.axes[index]
        reached = pulse_rate(machine, axis) / float(steps_per_unit(axis))
        return limit_value(index, "speed", reached)(machine)

    def from_standstill(machine: Machine) -> Machine:
        return limit_value(index, "start_speed", 0.0)(machine)

    edits: dict[str, Edit] = {
        "line-shared": free_line,
        "enable-missing": free_line,
        "pulse-rate-capped": slower,
        "no-ramp": from_standstill,
    }
    return edits.get(code)
