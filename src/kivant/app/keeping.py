"""What outlives a window: unsaved changes after a crash, recent files, and how the window was. No Qt.

Everything lies in one folder, by default the state folder of the XDG base directories. Damaged files there are
taken for missing: nothing in it is worth refusing to start.
"""

from __future__ import annotations

import contextlib
import json
import os
import uuid
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from kivant.app.document import Document
from kivant.core.errors import KivantError
from kivant.core.machine import Machine
from kivant.files import project
from kivant.files.write import write_atomically

MOST_RECENT = 10


def state_folder() -> Path:
    """Return the folder of this user's state; ``KIVANT_STATE`` names another one."""
    return Path(os.environ.get("KIVANT_STATE") or user_state_path("kivant"))


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
            self._folder.mkdir(parents=True, exist_ok=True)
            about = {"pid": os.getpid(), "path": str(path) if path else None}
            write_atomically(self._about_file, [json.dumps(about).encode()])
            write_atomically(self._machine_file, [project.dumps(machine)])
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


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def leftovers(folder: Path) -> list[Leftover]:
    """Return what processes that are gone have left unsaved, the newest first."""
    found = []
    with contextlib.suppress(OSError):
        for file in sorted((folder / "unsaved").glob("*.kivant"), key=lambda f: f.stat().st_mtime, reverse=True):
            about_file = file.with_suffix(".json")
            about = read_json(about_file)
            pid = about.get("pid")
            if isinstance(pid, int) and _alive(pid):
                continue
            path = about.get("path")
            try:
                machine = project.load(file)
            except KivantError:
                continue
            found.append(Leftover(machine, Path(path) if isinstance(path, str) else None, (file, about_file)))
    return found


def read_json(path: Path) -> dict[str, Any]:
    """Return the object in a small JSON file, an empty one if there is none."""
    try:
        found = json.loads(path.read_bytes()[:1_000_000])
    except (OSError, ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


class Memory:
    """Recent files and the window's state, in one small file."""

    def __init__(self, folder: Path) -> None:
        self._file = folder / "window.json"

    def _change(self, **changes: Any) -> None:
        with contextlib.suppress(OSError):
            self._file.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(self._file, [json.dumps({**read_json(self._file), **changes}, indent=2).encode()])

    @property
    def recent(self) -> list[Path]:
        """The files opened or saved lately that are still there, the newest first."""
        listed = read_json(self._file).get("recent")
        names = [name for name in listed if isinstance(name, str)] if isinstance(listed, list) else []
        return [Path(name) for name in names[:MOST_RECENT] if Path(name).is_file()]

    def remember(self, path: Path) -> None:
        """Put a file first in the list."""
        first = path.resolve()
        rest = [p for p in self.recent if p != first]
        self._change(recent=[str(p) for p in [first, *rest][:MOST_RECENT]])

    @property
    def night(self) -> bool | None:
        """Which light was chosen, None if none was."""
        chosen = read_json(self._file).get("night")
        return chosen if isinstance(chosen, bool) else None

    @property
    def size(self) -> tuple[int, int] | None:
        """How large the window was."""
        size = read_json(self._file).get("size")
        if isinstance(size, list) and len(size) == 2 and all(isinstance(n, int) and 600 <= n <= 8000 for n in size):
            return size[0], size[1]
        return None

    @property
    def place(self) -> tuple[int, int] | None:
        """Where the window's corner was, in pixels of the desktop; it may lie on a screen that is gone."""
        place = read_json(self._file).get("place")
        if isinstance(place, list) and len(place) == 2 and all(isinstance(n, int) and abs(n) < 50_000 for n in place):
            return place[0], place[1]
        return None

    @property
    def maximized(self) -> bool:
        """Whether the window filled its screen."""
        return read_json(self._file).get("maximized") is True

    def keep_window(
        self, size: tuple[int, int], place: tuple[int, int], *, maximized: bool, night: bool | None
    ) -> None:
        """Remember how the window is."""
        light = {} if night is None else {"night": night}
        self._change(size=list(size), place=list(place), maximized=maximized, **light)
