"""What a meter showed between the wires of a motor, as CSV (RFC 4180) with the header ``from,to,ohm``."""

from __future__ import annotations

import re
from pathlib import Path

from kivant.core.drive.windings import Reading, Seen
from kivant.core.errors import Fault, KivantError, shown
from kivant.files.csv_rows import csv_rows
from kivant.files.ordinary import read_ordinary

HEADER = ["from", "to", "ohm"]
MOST_BYTES, MOST_ROWS = 1 << 20, 1000
_MOST_OHM, _MOST_NAME = 1e6, 40
_NUMBER = re.compile(r"(\d{1,7}(\.\d{0,9})?|\.\d{1,9})(\s*(ohm|Ω|\u03a9))?", re.ASCII)


class ReadingsError(KivantError):
    """Readings that cannot be used; each fault names its line."""


def load_readings(path: Path) -> list[Reading]:
    """Return the readings in a file.

    Raises
    ------
    ReadingsError
        If it cannot be read, or a line is no reading.
    """
    return parse_readings(read_ordinary(path, MOST_BYTES, ReadingsError).decode("utf-8-sig", "replace"))


def parse_readings(text: str) -> list[Reading]:
    """Return the readings in a text.

    Raises
    ------
    ReadingsError
        If a line is no reading.
    """
    lines = csv_rows(text, HEADER, ReadingsError, most=MOST_ROWS)
    found: list[Reading] = []
    faults: list[Fault] = []
    for number, fields in lines:
        read = _reading(fields)
        if isinstance(read, str):
            remedy = "Write two wires and what the meter showed: ohms, open or connected."
            faults.append(Fault(f"line {number}", read, remedy))
        else:
            found.append(read)
    if faults:
        raise ReadingsError(*faults[:20])
    return found


def _reading(fields: list[str]) -> Reading | str:
    """Return a reading, or what is wrong with it."""
    if len(fields) != len(HEADER):
        return f"Expected three fields; found {len(fields)}."
    first, second, text = fields
    for name in (first, second):
        if not name or len(name) > _MOST_NAME or not name.isprintable():
            return f"“{shown(name)}” is not the name of a wire."
    if first == second:
        return f"A reading is between two wires; found “{shown(first)}” twice."
    seen = _seen(text)
    return Reading((first, second), seen) if seen is not None else f"“{shown(text)}” is not what a meter shows."


def _seen(text: str) -> Seen | None:
    if text.lower() == "open":
        return "open"
    if text.lower() == "connected":
        return "connected"
    match = _NUMBER.fullmatch(text)
    ohm = float(match.group(1)) if match else -1.0
    return ohm if 0.0 <= ohm <= _MOST_OHM else None
