"""What was read of the axes of the open machine: kept in the state folder, so that a closed window loses none of it."""

from __future__ import annotations

import contextlib
import json
import math
import os
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from typing import Any

from kivant.app.choice import Choice
from kivant.app.document.memory import read_json
from kivant.app.measuring import Measuring
from kivant.core.travel.calibrating import Observation
from kivant.core.travel.play import Play
from kivant.files.write import private_folder, write_atomically

MOST_FILES = 200
"""Machines of which readings are kept; those that were not touched longest go first."""
_MOST_READINGS = 10_000


class Measurings:
    """One `Measuring` for each axis of the open document, by the axis's name.

    Parameters
    ----------
    choice : Choice
        Knows the open document and the chosen axis.
    folder : Path or None
        The state folder; None keeps nothing. A machine without a file is not kept either: nothing would find it again.
    """

    def __init__(self, choice: Choice, folder: Path | None) -> None:
        self._choice, self._folder = choice, folder / "readings" if folder else None
        self._document: object = None
        self._of: dict[str, Measuring] = {}
        self._thread: ThreadPoolExecutor | None = None

    @property
    def now(self) -> Measuring:
        """The chosen axis's; it belongs to the open document."""
        if self._document is not self._choice.document:
            self._document = self._choice.document
            file = self._file()
            self._of = _read(read_json(file)) if file else {}
        axis = self._choice.axis
        return self._of.setdefault(axis.name if axis else "", Measuring())

    def keep(self) -> None:
        """Keep what was read so far, aside; what cannot be kept is there as long as the window is open."""
        file = self._file()
        if file is None or self._document is not self._choice.document:
            return
        axes = {name: _written(one) for name, one in self._of.items() if one.read or one.before}
        if self._thread is None:
            self._thread = ThreadPoolExecutor(1, "readings")
        self._thread.submit(_keep, file, str(self._choice.document.path), axes)

    def close(self) -> None:
        """Wait until all is kept."""
        if self._thread is not None:
            self._thread.shutdown()

    def _file(self) -> Path | None:
        path = self._choice.document.path
        if self._folder is None or path is None:
            return None
        import hashlib  # not for the start, which has no readings to look for

        return self._folder / f"{hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:32]}.json"


def _keep(file: Path, machine: str, axes: dict[str, Any]) -> None:
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


def _written(measuring: Measuring) -> dict[str, Any]:
    rows = {key: [[o.position, o.approach, o.observed] for o in getattr(measuring, key)] for key in ("read", "before")}
    if measuring.taken_with is None:
        return rows
    ratio, play = measuring.taken_with
    return {**rows, "taken_with": [f"{ratio.numerator}/{ratio.denominator}", play.steps, play.first]}


def _read(document: dict[str, Any]) -> dict[str, Measuring]:
    """Return what was kept; whatever is damaged is taken for missing."""
    axes = document.get("axes")
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
