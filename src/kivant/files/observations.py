"""What was observed of an axis, as CSV (RFC 4180) with the header ``position,approach,observed``."""

from __future__ import annotations

from pathlib import Path

from kivant.core.errors import Fault, KivantError, ValueTextError, shown
from kivant.core.machine import Axis
from kivant.core.quantity import parse_position
from kivant.core.travel.calibrating import Observation
from kivant.files.csv_rows import csv_rows
from kivant.files.ordinary import read_ordinary

HEADER = ["position", "approach", "observed"]
MOST_BYTES, MOST_ROWS = 1 << 20, 10_000
_APPROACHES = {"1": 1, "+1": 1, "+": 1, "-1": -1, "-": -1, "\u2212": -1, "\u22121": -1, "": 0, "0": 0}


class ObservationsError(KivantError):
    """Observations that cannot be used; each fault names its line."""


def load_observations(axis: Axis, path: Path) -> list[Observation]:
    """Return the observations of an axis in a file.

    Raises
    ------
    ObservationsError
        If it cannot be read, or a line is no observation.
    """
    return parse_observations(axis, observations_text(path))


def observations_text(path: Path) -> str:
    """Return the text of a file of observations.

    Raises
    ------
    ObservationsError
        If it cannot be read.
    """
    return read_ordinary(path, MOST_BYTES, ObservationsError).decode("utf-8-sig", "replace")


def parse_observations(axis: Axis, text: str) -> list[Observation]:
    """Return the observations in a text: values in axis units, unless they have a unit of their own.

    Raises
    ------
    ObservationsError
        If a line is no observation.
    """
    found: list[Observation] = []
    faults: list[Fault] = []
    for number, fields in csv_rows(text, HEADER, ObservationsError, most=MOST_ROWS):
        try:
            found.append(_observation(axis, fields))
        except ValueTextError as error:
            faults.append(Fault(f"line {number}", error.faults[0].message, error.faults[0].remedy))
    if faults:
        raise ObservationsError(*faults[:20])
    return found


def _observation(axis: Axis, fields: list[str]) -> Observation:
    if len(fields) != len(HEADER):
        remedy = "Write the commanded position, +1 or -1, and what was read; decimals with a point."
        raise ValueTextError(Fault("", f"Expected three fields; found {len(fields)}.", remedy))
    position, approach, observed = fields
    if approach not in _APPROACHES:
        message = f"“{shown(approach)}” is not an approach."
        raise ValueTextError(Fault("", message, "Write 1 where the axis came from below, and -1 from above."))
    return Observation(
        float(parse_position(axis, position)), _APPROACHES[approach], float(parse_position(axis, observed))
    )
