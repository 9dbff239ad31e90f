"""Writing a file so that it is there whole or not at all."""

from __future__ import annotations

import contextlib
import fcntl
import os
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

_PART = ".part"
_YOUNG_S = 2.0  # a file so young may belong to a writer that has not locked it yet
_STALE_S = 3600.0  # nobody writes a file for as long as that, where locks are not known
_MOST_NAME_BYTES = 100  # of a temporary name: with what is added, it fits where 255 bytes do


def write_atomically(path: Path, chunks: Iterable[bytes], *, private: bool = False) -> None:
    """Write `chunks` to `path` by way of a temporary file beside it, flushed to disk and renamed.

    A link is followed, so that the file it names is replaced; permissions of a file that is there are kept. A
    `private` file can be read by nobody else.

    Raises
    ------
    OSError
        If it cannot be written; whatever was at `path` is then untouched, and nothing is left behind.
    """
    target = Path(os.path.realpath(path))
    try:
        mode = target.stat().st_mode & 0o777
    except FileNotFoundError:  # a name too long, or a link that leads to itself, is refused
        mode = 0o666 & ~_umask()
    if private:
        mode = 0o600
    begin = os.fsencode(target.name)[:_MOST_NAME_BYTES].decode(errors="ignore")
    _clear_stale(target.parent, f".{begin}.")
    handle, name = tempfile.mkstemp(prefix=f".{begin}.", suffix=_PART, dir=target.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            with contextlib.suppress(OSError):  # the system drops it with this process
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            os.fchmod(file.fileno(), mode)
            for chunk in chunks:
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
        Path(name).replace(target)
    except BaseException:
        with contextlib.suppress(OSError):
            Path(name).unlink()
        raise
    with contextlib.suppress(OSError):  # some file systems cannot flush a folder
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def _clear_stale(folder: Path, prefix: str) -> None:
    """Take away what earlier writers of the same file have left because they were killed."""
    with contextlib.suppress(OSError), os.scandir(folder) as found:
        for entry in found:
            ours = entry.name.startswith(prefix) and entry.name.endswith(_PART)
            if ours and entry.is_file(follow_symlinks=False):
                with contextlib.suppress(OSError):
                    age_s = time.time() - entry.stat(follow_symlinks=False).st_mtime
                    if age_s > _STALE_S or (age_s > _YOUNG_S and _is_free(entry.path)):
                        Path(entry.path).unlink()


def _is_free(path: str) -> bool:
    """Return whether no living process holds the lock of a file; False where locks are not known."""
    handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(handle)
    return True


def private_folder(path: Path) -> None:
    """Have a folder; one that is made here can be looked into by nobody else.

    Raises
    ------
    OSError
        If there can be none.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    path.mkdir(mode=0o700, exist_ok=True)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
