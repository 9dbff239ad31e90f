"""From a place in the project file to where it is seen and changed in the window."""

from __future__ import annotations

import re

_STATIONS = (
    ("].limits.min", 1),
    ("].limits.max", 1),
    ("].driver", 0),
    ("].motor", 1),
    ("].travel", 1),
    ("].limits", 2),
)
RUN = 3


def station_of(place: str) -> int:
    """Return the number of the station to which a place belongs, counted from 0."""
    if not place.startswith("axes["):
        return RUN
    return next((number for part, number in _STATIONS if part in place), RUN)


def axis_of(place: str) -> int | None:
    """Return the axis that a place lies in, None if it lies in none."""
    match = re.match(r"axes\[(\d+)\]", place)
    return int(match.group(1)) if match else None


def routine_of(place: str) -> int | None:
    """Return the routine that a place lies in, None if it lies in none."""
    match = re.match(r"routines\[(\d+)\]", place)
    return int(match.group(1)) if match else None


def key_of(place: str) -> str:
    """Return the key of a place within its axis, such as ``limits.speed``."""
    return re.sub(r"^axes\[\d+\]\.", "", place)
