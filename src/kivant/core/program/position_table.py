"""Positions as a table: what blocks tell each axis, as text that a spreadsheet takes and gives."""

from __future__ import annotations

from collections.abc import Sequence

from kivant.core import quantity
from kivant.core.errors import Fault, ValueTextError, shown
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.blocks import Block, Move
from kivant.core.program.targets import target_text, with_target

MOST_ROWS = 100_000
"""Rows of a table that are read."""


def table_of(machine: Machine, blocks: Sequence[Block]) -> str:
    """Return what blocks tell the axes: columns parted by tabs, headed by their names; ``by 5`` is a way."""
    lines = ["\t".join(axis.name for axis in machine.axes)]
    for block in blocks:
        cells = (target_text(block, axis).removesuffix(f" {axis.unit}") for axis in machine.axes)
        lines.append("\t".join(cells))
    return "\n".join(lines) + "\n"


def is_table(text: str) -> bool:
    """Return whether a text may be a table, and is no blocks in JSON."""
    return bool(text.strip()) and text.lstrip()[0] not in "{["


def _rows(machine: Machine, text: str) -> tuple[list[Axis], list[list[str]]]:
    rows = [[cell.strip() for cell in line.split("\t")] for line in text.splitlines() if line.strip()]
    if len(rows) > MOST_ROWS:
        message = f"The table has {len(rows)} rows; the limit is {MOST_ROWS}."
        raise ValueTextError(Fault("clipboard", message, "Paste it in parts."))
    names = {axis.name: axis for axis in machine.axes}
    if rows and all(cell in names for cell in rows[0] if cell) and any(rows[0]):
        return [names[cell] for cell in rows[0]], rows[1:]
    return list(machine.axes), rows


def moves_of(machine: Machine, text: str, before: Sequence[Block] = ()) -> list[Block]:
    """Return a move for each row of a table; where there is one of `before` for each, with other targets.

    The columns are those of the names in the first row, else the axes in their order. An empty cell leaves its axis
    as it is.

    Raises
    ------
    ValueTextError
        If a cell is no position, telling its row and column.
    """
    axes, rows = _rows(machine, text)
    into: Sequence[Block | None] = before if len(before) == len(rows) else [None] * len(rows)
    found: list[Block] = []
    for number, (cells, block) in enumerate(zip(rows, into, strict=True), 1):
        if len(cells) > len(axes):
            message = f"Row {number} has {len(cells)} columns; there are {len(axes)} axes."
            raise ValueTextError(Fault("clipboard", message, "Write the names of the axes above the columns."))
        made = block
        for axis, cell in zip(axes, cells, strict=False):
            if cell:
                made = _told(made, axis, cell, number)
        if made is None:
            raise ValueTextError(Fault("clipboard", f"Row {number} is empty.", "Leave it out."))
        found.append(made)
    if not found:
        raise ValueTextError(Fault("clipboard", "The table has no rows.", "Copy at least one row of positions."))
    return found


def _told(block: Block | None, axis: Axis, cell: str, number: int) -> Block:
    try:
        if block is not None:
            return with_target(block, axis, cell)
        value = quantity.as_decimal(quantity.position(axis).parse(cell.removeprefix("by ")))
        return Move(by={axis.name: value}) if cell.startswith("by ") else Move(to={axis.name: value})
    except ValueTextError as error:
        fault = error.faults[0]
        message = f"Row {number}, {axis.name}: {fault.message}"
        raise ValueTextError(Fault("clipboard", shown(message, 160), fault.remedy)) from None
