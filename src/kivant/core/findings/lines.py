"""Findings about lines: shared ones, and drivers that nothing can switch off."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.errors import Fault, KivantError
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at
from kivant.core.machine.axes import free_lines
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine
from kivant.core.path import Path, axis_path


def _shared(machine: Machine) -> Iterator[Case]:
    used: dict[str, str] = {}
    free = free_lines(machine)
    remedy = f"Use a free line, such as {free[0]}." if free else "Add a line to the board; none is free."
    for i, axis in enumerate(machine.axes):
        for key, line in board_lines(axis.driver).items():
            if line not in used:
                used[line] = f"{axis.name}'s {key}"
                continue
            figures = {"axis": axis.name, "key": key, "line": line, "other": used[line], "remedy": remedy}
            yield Case(axis_path(i, "driver", "lines", key), figures)


def _without_enable(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        may_have = "EN" in driver_kind(axis.driver).optional_keys
        if may_have and axis.driver.lines.EN is None:
            yield Case(axis_path(i, "driver", "lines", "EN"), {"axis": axis.name})


def _free_line(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        free = free_lines(machine)
        if not free:
            raise KivantError(Fault(place, "No board line is free.", "Add one to board.lines."))
        axis_at(machine, place)
        return with_value(machine, place, free[0])

    return edit


LINE_SHARED = FindingKind(
    code="line-shared",
    severity="error",
    subject="machine",
    title="Two lines of drivers are wired to the same line of the board.",
    check=_shared,
    message="{axis}'s {key} uses line {line}, which {other} already uses.",
    remedy="{remedy}",
    mend=_free_line,
)

ENABLE_MISSING = FindingKind(
    code="enable-missing",
    severity="note",
    subject="machine",
    title="A driver that takes pulses has no enable line.",
    check=_without_enable,
    message="{axis}'s driver has no enable line, so a stop cannot take its power away.",
    remedy="Wire the driver's enable input to a free line and set EN to it.",
    mend=_free_line,
)
