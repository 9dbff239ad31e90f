"""Autosave: unsaved changes are kept in the state folder, and found again after a crash."""

from __future__ import annotations

import contextlib
import json
import os
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from kivant.app.document.document import Document
from kivant.app.document.memory import read_json
from kivant.core.errors import KivantError
from kivant.core.machine import Machine
from kivant.files import project
from kivant.files.write import private_folder, write_atomically

if TYPE_CHECKING:
    from filelock import BaseFileLock

_LOCK = ".lock"


class Leftover(Struct, frozen=True):
    """Unsaved changes of a Kivant that did not end well; nobody else finds them while this one has the lock."""

    machine: Machine
    path: Path | None
    files: tuple[Path, ...]
    lock: BaseFileLock

    def document(self) -> Document:
        """Return a document with the changes, not saved yet."""
        document = Document(self.machine, self.path)
        document.mark_unsaved()
        return document

    def forget(self) -> None:
        """Take the files away."""
        for file in self.files:
            with contextlib.suppress(OSError):
                file.unlink()
        _drop(self.lock)


def _take(file: Path) -> BaseFileLock | None:
    """Return the lock of a copy, None where a process that lives has it: the system drops it when that one ends.

    Raises
    ------
    OSError
        If there can be no lock.
    """
    from filelock import FileLock, Timeout  # used when there are unsaved changes; the start does not wait for it

    lock = FileLock(file.with_suffix(_LOCK), timeout=0, mode=0o600, thread_local=False)
    try:
        lock.acquire()
    except Timeout:
        return None
    return lock


def _drop(lock: BaseFileLock) -> None:
    with contextlib.suppress(OSError):
        Path(lock.lock_file).unlink()
    lock.release()


class Autosave:
    """Keeps the unsaved changes of one document where they are found again, on a thread of its own."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "unsaved"
        self._name = f"{os.getpid()}-{os.urandom(4).hex()}"
        self._lock: BaseFileLock | None = None
        self.trouble = ""  # why the latest change could not be kept
        self._wanted: Machine | None = None
        self._kept: Machine | None = None
        self._about = b""  # as it is kept beside
        self._writer = ThreadPoolExecutor(max_workers=1, thread_name_prefix="autosave")

    @property
    def _machine_file(self) -> Path:
        return self._folder / f"{self._name}.kivant"

    @property
    def _about_file(self) -> Path:
        return self._folder / f"{self._name}.json"

    def prepare(self, path: Path | None) -> None:
        """Have done what can be done before a machine is kept: it takes a while the first time, and on a slow disk."""
        self._writer.submit(self._make_ready, path)

    def _make_ready(self, path: Path | None) -> None:
        with contextlib.suppress(OSError):  # told when the changes themselves cannot be kept
            self._keep_about(path)

    def _keep_about(self, path: Path | None) -> None:
        """Have the lock, and the file beside that says which machine the changes belong to."""
        private_folder(self._folder.parent)
        private_folder(self._folder)
        self._lock = self._lock or _take(self._machine_file)
        about = json.dumps({"path": str(path) if path else None}).encode()
        if about != self._about or not self._about_file.exists():
            write_atomically(self._about_file, [about], private=True)
            self._about = about

    def keep(self, machine: Machine, path: Path | None) -> Future[bool]:
        """Have the machine written, if it is another one than was kept last; the result: whether it is kept."""
        self._wanted = machine
        return self._writer.submit(self._keep, machine, path)

    def _keep(self, machine: Machine, path: Path | None) -> bool:
        if machine is not self._wanted or machine is self._kept:  # superseded, or there already
            return machine is self._kept
        try:
            self._keep_about(path)
            write_atomically(self._machine_file, [project.dumps(machine)], private=True)
        except Exception as error:  # whatever it was: nothing is kept, and that has to be told
            self.trouble = getattr(error, "strerror", None) or f"{type(error).__name__}: {error}"
            return False
        self._kept, self.trouble = machine, ""
        return True

    def drop(self) -> None:
        """Forget what was kept: it is saved, or not wanted."""
        self._wanted = None
        self._writer.submit(self._remove)

    def abandon(self) -> None:
        """End the thread, and leave what was kept to be found at the next start."""
        self._writer.shutdown(wait=False)
        if self._lock is not None:
            self._lock.release()

    def close(self) -> None:
        """Forget what was kept, and end the thread."""
        self._wanted = None
        self._writer.shutdown()
        self._remove()

    def _remove(self) -> None:
        self._kept, self._about = None, b""
        for file in (self._machine_file, self._about_file):
            with contextlib.suppress(OSError):
                file.unlink()
        if self._lock is not None:
            _drop(self._lock)
            self._lock = None


def _written_s(file: Path) -> float:
    try:
        return file.stat().st_mtime
    except OSError:  # a link to nowhere, or gone by now
        return 0.0


def leftovers(folder: Path) -> list[Leftover]:
    """Return what processes that are gone have left unsaved, the newest first; each copy is judged for itself."""
    copies = sorted((folder / "unsaved").glob("*.kivant"), key=_written_s, reverse=True)
    _clear_without_copy(folder / "unsaved", {file.stem for file in copies})
    found = map(_leftover, copies)
    return [leftover for leftover in found if leftover is not None]


def _clear_without_copy(folder: Path, copies: set[str]) -> None:
    """Take away what processes have left that were killed before they kept anything."""
    for about in folder.glob("*.json"):  # written by those that have their lock
        if about.stem not in copies:
            with contextlib.suppress(OSError):
                lock = _take(about)
                if lock is not None:
                    about.unlink()
                    _drop(lock)


def _leftover(file: Path) -> Leftover | None:
    """Return what is in a copy, None if its process lives or it cannot be read."""
    try:
        lock = _take(file)
    except OSError:
        return None
    if lock is None:
        return None
    about_file = file.with_suffix(".json")
    path = read_json(about_file).get("path")
    known = isinstance(path, str) and "\0" not in path
    try:
        machine = project.load(file)
    except KivantError:
        _drop(lock)
        return None
    return Leftover(machine, Path(str(path)) if known else None, (file, about_file), lock)
