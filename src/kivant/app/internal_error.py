"""Internal errors: exceptions that nobody outside has caused, told like other faults, and the log of them."""

from __future__ import annotations

import contextlib
import time
from pathlib import Path

from kivant import __version__
from kivant.core.errors import Fault, KivantError
from kivant.files.write import private_folder, write_atomically

NO_MEMORY = "There is not enough memory.", "Close other programs, or shorten the routine."
"""What is told where memory runs out: message and remedy."""

_SOURCE = Path(__file__).parents[1]
_MOST_BYTES = 200_000


class InternalError(KivantError):
    """An exception of Kivant's own as a fault, which says where in the code it was raised."""

    def __init__(self, error: BaseException) -> None:
        message = f"Internal error: {type(error).__name__}{_where(error)}."
        remedy = "Take back the last change, or try other values. Your machine is kept."
        if isinstance(error, MemoryError):
            message, remedy = NO_MEMORY
        super().__init__(Fault("", message, remedy))


def _where(error: BaseException) -> str:
    """Return the last line of our own code on the way to an exception, in words; an empty text where there is none."""
    from traceback import walk_tb  # needed where something went wrong, and not by a start

    found = ""
    for frame, line in walk_tb(error.__traceback__):
        path = Path(frame.f_code.co_filename)
        if path.is_relative_to(_SOURCE):
            found = f" in {path.relative_to(_SOURCE)}, line {line}"
    return found


class ErrorLog:
    """The latest internal errors with their tracebacks, in a file; each of them once."""

    def __init__(self, folder: Path) -> None:
        self.file = folder / "errors.txt"
        self._known: set[str] = set()

    def add(self, error: BaseException) -> InternalError | None:
        """Keep an exception, and return it as it is to be told; None where it was told before."""
        told = InternalError(error)
        if str(told) in self._known:
            return None
        self._known.add(str(told))
        from traceback import format_exception

        lines = [time.strftime("%Y-%m-%d %H:%M:%S, Kivant "), __version__, "\n", *format_exception(error), "\n"]
        with contextlib.suppress(OSError):
            private_folder(self.file.parent)
            before = self.file.read_bytes() if self.file.exists() else b""
            write_atomically(
                self.file, [(before + "".join(lines).encode(errors="replace"))[-_MOST_BYTES:]], private=True
            )
        return told
