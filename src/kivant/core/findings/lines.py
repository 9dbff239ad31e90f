"""Findings about lines: shared ones, too few of them, and drivers that nothing can switch off."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.errors import Fault, KivantError
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at
from kivant.core.machine.check import checked
from kivant.core.machine.edits import with_value
from kivant.core.machine.lines import free_lines, needed_lines, uses, wired, with_lines
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


def _short(machine: Machine) -> Iterator[Case]:
    needed, there = needed_lines(machine), len(machine.board.lines)
    if needed > there:
        yield Case(Path(("board", "lines")), {"needed": needed, "there": there, "missing": needed - there})


def _more_lines(_place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        """Add what is missing, and give every second user of a line a free one."""
        machine = with_lines(machine, sum(len(users) - 1 for users in uses(machine).values() if users))
        for users in uses(machine).values():
            for use in users[1:]:
                axes = list(machine.axes)
                axes[use.axis] = wired(axes[use.axis], {use.key: free_lines(machine)[0]})
                machine = replace(machine, axes=tuple(axes))
        return checked(machine)

    return edit


LINES_SHORT = FindingKind(
    code="lines-short",
    severity="error",
    subject="machine",
    title="The drivers need more lines than the board has.",
    check=_short,
    message="The drivers need {needed} lines; the board has {there}.",
    remedy="Use a board with more lines, or drivers that need fewer; if the board has {missing} more, add them.",
    mend=_more_lines,
)

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
