"""The one entry: a verb goes to the command line, anything else opens the window."""

from __future__ import annotations

import gc
import sys
from pathlib import Path

VERBS = (
    "schema",
    "convert",
    "plan",
    "check",
    "board",
    "run",
    "sequence",
    "windings",
    "wires",
    "symptoms",
    "supplies",
    "divide",
    "calibrate",
    "motor",
    "ramp",
    "follow",
    "routine",
)


def main() -> int:
    """Run Kivant with the arguments of the process; return its exit status."""
    arguments = sys.argv[1:]
    first = arguments[0] if arguments else ""
    if _opens_window(first):
        # The start only makes what stays: looking for garbage meanwhile would take a tenth of it.
        gc.disable()
        from kivant.desktop.main import main as open_window

        return open_window(arguments)
    try:
        from kivant.cli.interrupt import end_in_order

        end_in_order()
        from kivant.cli.main import main as command_line

        return command_line(arguments)
    except KeyboardInterrupt:  # before any verb has begun to listen for it
        return 130


def _opens_window(first: str) -> bool:
    if not first or first in ("--demo", "--"):
        return True
    # A file may be called like a verb only by a path such as ./plan; a misspelt verb is told as one.
    return not first.startswith("-") and first not in VERBS and ("." in first or "/" in first or _is_file(first))


def _is_file(name: str) -> bool:
    try:
        return Path(name).is_file()
    except OSError:  # no name that a file could have
        return False


if __name__ == "__main__":
    sys.exit(main())
