"""``kivant sequence``: what a table of coil words is, and how to mend it."""

from __future__ import annotations

import argparse
from typing import Any

from kivant.cli.say import print_json
from kivant.core.drive.sequence_table import Table, analyse, described, parse_table


def run(options: argparse.Namespace) -> int:
    """Analyse a table; raises `TableError` if the text is none."""
    table = analyse(parse_table(" ".join(options.rows)), options.winding)
    if options.json:
        print_json(_summary(table))
    else:
        _print(table)
    return 0


def _summary(table: Table) -> dict[str, Any]:
    rows = [
        {"word": row.word, "angle_deg": row.field_deg if row.torque else None, "torque": row.torque}
        for row in table.rows
    ]
    return {
        "rows": rows,
        "is": table.known or "other",
        "sense": table.sense,
        "start_row": table.start_row,
        "wires": table.wires,
        "active": table.active,
        "turns": table.turns,
        "even": table.even,
        "faults": list(table.faults),
        "repair": list(table.repair) if table.repair else None,
    }


def _print(table: Table) -> None:
    for number, row in enumerate(table.rows):
        field = f"{row.field_deg:6.1f} deg, torque {row.torque:.3f}" if row.torque else "no field"
        print(f"row {number:>2}  {row.word:04b}  {field}")
    senses = {1: "turns forward", -1: "turns the other way", 0: "does not turn"}
    print(f"{described(table)} It {senses[table.sense]}; electrical turns a cycle: {table.turns}.")
    for fault in table.faults:
        print(fault)
    if table.repair:
        print(f"as it was meant: {', '.join(map(str, table.repair))}")
