"""Autosave: unsaved changes are kept in the state folder, and found again after a crash."""

from __future__ import annotations

import contextlib
import json
import os
import uuid
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from kivant.app.document.document import Document
from kivant.app.document.memory import read_json
from kivant.core.errors import KivantError
from kivant.core.machine import Machine
from kivant.files import project
from kivant.files.write import private_folder, write_atomically


@dataclass(frozen=True, slots=True)
class Leftover:
    """Unsaved changes of a Kivant that did not end well."""

    machine: Machine
    path: Path | None
    files: tuple[Path, ...]

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


class Autosave:
    """Keeps the unsaved changes of one document where they are found again, on a thread of its own."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "unsaved"
        self._name = f"{os.getpid()}-{uuid.uuid4().hex[:8]}"
        self._wanted: Machine | None = None
        self._kept: Machine | None = None
        self._writer = ThreadPoolExecutor(max_workers=1, thread_name_prefix="autosave")

    @property
    def _machine_file(self) -> Path:
        return self._folder / f"{self._name}.kivant"

    @property
    def _about_file(self) -> Path:
        return self._folder / f"{self._name}.json"

    def keep(self, machine: Machine, path: Path | None) -> Future[bool]:
        """Have the machine written, if it is another one than was kept last; the result: whether it is kept."""
        self._wanted = machine
        return self._writer.submit(self._keep, machine, path)

    def _keep(self, machine: Machine, path: Path | None) -> bool:
        if machine is not self._wanted or machine is self._kept:  # superseded, or there already
            return machine is self._kept
        try:
            private_folder(self._folder.parent)
            private_folder(self._folder)
            about = {"pid": os.getpid(), "path": str(path) if path else None}
            write_atomically(self._about_file, [json.dumps(about).encode()], private=True)
            write_atomically(self._machine_file, [project.dumps(machine)], private=True)
        except OSError:
            return False
        self._kept = machine
        return True

    def drop(self) -> None:
        """Forget what was kept: it is saved, or not wanted."""
        self._wanted = None
        self._writer.submit(self._remove)

    def close(self) -> None:
        """Forget what was kept, and end the thread."""
        self._wanted = None
        self._writer.shutdown()
        self._remove()

    def _remove(self) -> None:
        self._kept = None
        for file in (self._machine_file, self._about_file):
            with contextlib.suppress(OSError):
                file.unlink()


def _alive(pid: object) -> bool:
    if not isinstance(pid, int) or not 0 < pid < 2**31:  # not one that we have written
        return False
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _written_s(file: Path) -> float:
    try:
        return file.stat().st_mtime
    except OSError:  # a link to nowhere, or gone by now
        return 0.0


def leftovers(folder: Path) -> list[Leftover]:
    """Return what processes that are gone have left unsaved, the newest first; each copy is judged for itself."""
    found = []
    for file in sorted((folder / "unsaved").glob("*.kivant"), key=_written_s, reverse=True):
        about_file = file.with_suffix(".json")
        about = read_json(about_file)
        if _alive(about.get("pid")):
            continue
        path = about.get("path")
        try:
            machine = project.load(file)
        except KivantError:
            continue
        found.append(Leftover(machine, Path(path) if isinstance(path, str) else None, (file, about_file)))
    return found
