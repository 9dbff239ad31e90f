"""Writing a plan to a file: the format by its suffix, and no start that cannot be finished."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from kivant.core.drive.drivers import driver_kind, line_keys
from kivant.core.errors import Fault, KivantError
from kivant.core.machine.tool import Tool, tool_of
from kivant.core.motion.plan import Plan
from kivant.files.csv_trace import csv_chunks
from kivant.files.vcd_trace import vcd_chunks
from kivant.files.write import write_atomically

WRITERS = {".csv": csv_chunks, ".vcd": vcd_chunks}


class ExportError(KivantError):
    """A plan cannot be written there."""


def writer_of(path: Path) -> str:
    """Return the suffix that says how to write to `path`.

    Raises
    ------
    ExportError
        If no writer goes by that suffix.
    """
    if path.suffix.lower() not in WRITERS:
        message = f"A plan can be saved as .csv or .vcd, not as “{path.suffix or 'a file without an extension'}”."
        raise ExportError(Fault(str(path), message, "Use a name that ends in .csv or .vcd."))
    return path.suffix.lower()


def tool_for(plan: Plan, path: Path) -> Tool:
    """Return the tool whose places a file is to hold.

    Raises
    ------
    ExportError
        If the file cannot hold any, or the machine has no tool.
    """
    tool = tool_of(plan.machine)
    if writer_of(path) != ".csv":
        raise ExportError(Fault(str(path), "Only a .csv file can hold the places of the tool.", "Write one."))
    if tool is None:
        raise ExportError(Fault("geometry", "The axes of this machine are independent.", "Leave it out."))
    return tool


def estimated_bytes(plan: Plan, suffix: str) -> int:
    """Return about how large the file will be."""
    time_digits = len(str(int(plan.duration)))
    total = 0
    for axis in plan.axes:
        if suffix == ".csv":
            name = len(axis.name.encode())
            total += axis.steps * (time_digits + 10 + name + 5 + len(str(abs(axis.final_steps))) + 2)
        else:
            driver = axis.axis.driver
            edges = 2.0 if driver_kind(driver).rows(driver) is None else 1.5
            total += int(axis.steps * edges * (time_digits + 9 + 2 + 3)) + 40 * len(line_keys(driver))
    return total


def export(
    plan: Plan,
    path: Path,
    *,
    replace: bool = False,
    geometry: bool = False,
    told: Callable[[int], None] = lambda _bytes: None,
) -> None:
    """Write the plan to `path`, whole or not at all; with `geometry`, where the tool is at each step, too.

    `told` is called with the size of each piece before it is written; what it raises ends the work.

    Raises
    ------
    ExportError
        If the suffix is unknown, the file is there and `replace` is false, its folder is missing or too full,
        or it cannot be written.
    """
    suffix, tool = writer_of(path), tool_for(plan, path) if geometry else None
    try:
        _refuse_place(path, replace=replace)
        needed, free = estimated_bytes(plan, suffix), shutil.disk_usage(path.parent).free
        if needed > free:
            message = f"The file would be about {needed / 1e9:.3g} GB; {free / 1e9:.3g} GB are free there."
            raise ExportError(Fault(str(path), message, "Free some disk space, or shorten the routine."))
        chunks = csv_chunks(plan, tool) if tool is not None else WRITERS[suffix](plan)
        write_atomically(path, _telling(chunks, told))
    except OSError as error:
        message = f"The file cannot be written: {error.strerror or error}."
        raise ExportError(
            Fault(str(path), message, "Check the name, and the folder's permissions and free space.")
        ) from error


def _telling(chunks: Iterable[bytes], told: Callable[[int], None]) -> Iterator[bytes]:
    for chunk in chunks:
        told(len(chunk))
        yield chunk


def _refuse_place(path: Path, *, replace: bool) -> None:
    if path.exists() and not replace:
        raise ExportError(Fault(str(path), "The file already exists.", "Choose another name, or use --force."))
    if path.is_dir() or not path.parent.is_dir():
        what = "This is a folder." if path.is_dir() else "Its folder does not exist."
        raise ExportError(Fault(str(path), what, "Choose a file in a folder that exists."))
    if path.exists() and not path.is_file():  # a pipe would be replaced, a device too
        raise ExportError(Fault(str(path), "This is not a regular file.", "Choose another name."))
