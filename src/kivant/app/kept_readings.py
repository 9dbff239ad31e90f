"""The files of what was read of axes: one a machine, by where that lies; the oldest ones go."""

from __future__ import annotations

import contextlib
import hashlib
import json
import math
import os
from fractions import Fraction
from pathlib import Path
from typing import Any

from kivant.app.document.memory import read_json
from kivant.app.measuring import Measuring
from kivant.core.travel.calibrating import Observation
from kivant.core.travel.play import Play
from kivant.files.write import private_folder, write_atomically

MOST_FILES = 200
"""Machines of which readings are kept; those that were not touched longest go first."""
_MOST_READINGS = 10_000


def file_of(folder: Path, machine: Path) -> Path:
    """Return where the readings of a machine's file are kept in a folder."""
    return folder / f"{hashlib.sha256(os.fsencode(os.path.realpath(machine))).hexdigest()[:32]}.json"


def keep(file: Path, machine: str, axes: dict[str, Any]) -> None:
    """Keep what `written` made of the axes of a machine; what cannot be kept is left."""
    with contextlib.suppress(OSError):
        if not axes:
            file.unlink(missing_ok=True)
            return
        private_folder(file.parent)
        body = json.dumps({"machine": machine, "axes": axes}, indent=1)
        write_atomically(file, [body.encode(errors="replace")], private=True)
        by_age = sorted(file.parent.glob("*.json"), key=lambda other: other.stat().st_mtime_ns, reverse=True)
        for old in by_age[MOST_FILES:]:
            old.unlink(missing_ok=True)


def written(measuring: Measuring) -> dict[str, Any]:
    """Return what was read of one axis as it is kept."""
    rows = {key: [[o.position, o.approach, o.observed] for o in getattr(measuring, key)] for key in ("read", "before")}
    if measuring.taken_with is None:
        return rows
    ratio, play = measuring.taken_with
    return {**rows, "taken_with": [f"{ratio.numerator}/{ratio.denominator}", play.steps, play.first]}


def readings_in(file: Path) -> dict[str, Measuring]:
    """Return what was kept, by the names of axes; whatever is damaged is taken for missing."""
    axes = read_json(file).get("axes")
    found = {}
    for name, body in axes.items() if isinstance(axes, dict) else ():
        with contextlib.suppress(TypeError, ValueError, ArithmeticError, KeyError, AttributeError):
            ratio, steps, first = body.get("taken_with") or ("0", 0, 1)
            found[name] = Measuring(
                read=_observations(body["read"]),
                before=_observations(body["before"]),
                taken_with=(Fraction(ratio), Play(int(steps), int(first))) if body.get("taken_with") else None,
            )
    return found


def _observations(rows: list[list[float]]) -> list[Observation]:
    found = [Observation(float(position), int(approach), float(seen)) for position, approach, seen in rows]
    for o in found:
        if not (math.isfinite(o.position) and math.isfinite(o.observed) and o.approach in (-1, 0, 1)):
            raise ValueError("no reading")
    return found[:_MOST_READINGS]
