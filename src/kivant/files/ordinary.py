"""Reading a file that somebody has named: an ordinary one, of a bounded size, with the reason where it cannot be."""

from __future__ import annotations

from pathlib import Path

from kivant.core.errors import Fault, KivantError


def read_ordinary(path: Path, most_bytes: int, error: type[KivantError]) -> bytes:
    """Return what is in a file, one byte more than `most_bytes` at the most.

    Raises
    ------
    KivantError
        Of the kind `error`, if it is no ordinary file (a pipe would be waited for) or cannot be read.
    """
    try:
        if path.exists() and not path.is_file() and not path.is_dir():
            raise error(Fault(str(path), "This is not a regular file.", "Choose another file."))
        with path.open("rb") as file:
            return file.read(most_bytes + 1)
    except OSError as refused:
        reason = refused.strerror or str(refused)
        fault = Fault(str(path), f"The file cannot be read: {reason}.", "Check the name and permissions.")
        raise error(fault) from refused
