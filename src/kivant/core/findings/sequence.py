"""Findings about tables of one's own: rows without a field, and fields that go on unevenly."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.drivers import OwnSequence, sequence_of
from kivant.core.drive.sequence_table import Table, analyse
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path, axis_path


def _own(axis: Axis) -> Table | None:
    sequence = getattr(axis.driver, "sequence", None)
    return analyse(sequence.rows, axis.motor.winding) if isinstance(sequence, OwnSequence) else None


def _remedy(table: Table) -> str:
    meant = ", ".join(map(str, table.repair)) if table.repair else ""
    return f"It was probably meant as {meant}." if meant else "Choose another sequence, or correct the rows."


def _dead_rows(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        table = _own(axis)
        dead = [number for number, row in enumerate(table.rows) if not row.torque] if table else []
        if table and dead:
            rows = ("row " if len(dead) == 1 else "rows ") + ", ".join(map(str, dead))
            figures = {"axis": axis.name, "rows": rows, "remedy": _remedy(table)}
            yield Case(axis_path(i, "driver", "sequence"), figures)


def _uneven(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        table = _own(axis)
        if table and not table.even and all(row.torque for row in table.rows):
            figures = {"axis": axis.name, "fault": table.faults[-1], "remedy": _remedy(table)}
            yield Case(axis_path(i, "driver", "sequence"), figures)


def _mended(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        table = _own(axis)
        meant = table.repair if table is not None else None
        return with_value(machine, place, sequence_of(meant) if meant else "half")

    return edit


SEQUENCE_DEAD_ROW = FindingKind(
    code="sequence-dead-row",
    severity="warning",
    subject="machine",
    title="A table of one's own has rows that make no field.",
    check=_dead_rows,
    message="{axis} is not held in {rows} of its table: there is no field.",
    remedy="{remedy}",
    mend=_mended,
)

SEQUENCE_UNEVEN = FindingKind(
    code="sequence-uneven",
    severity="warning",
    subject="machine",
    title="A table of one's own turns the field unevenly, or not at all.",
    check=_uneven,
    message="{axis}'s table is uneven. {fault}",
    remedy="{remedy}",
    mend=_mended,
)
