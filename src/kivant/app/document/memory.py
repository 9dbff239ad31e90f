"""What a window remembers: recent files, and how it was.

Everything lies in one folder, by default the state folder of the XDG base directories. Damaged files there are
taken for missing: nothing in it is worth refusing to start.
"""

from __future__ import annotations

import contextlib
import json
import os
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from kivant.files.write import private_folder, write_atomically

MOST_RECENT = 10


def state_folder() -> Path:
    """Return the folder of this user's state; ``KIVANT_STATE`` names another one."""
    return Path(os.environ.get("KIVANT_STATE") or user_state_path("kivant"))


def read_json(path: Path) -> dict[str, Any]:
    """Return the object in a small JSON file, an empty one if there is none."""
    try:
        found = json.loads(path.read_bytes()[:1_000_000])
    except (OSError, ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:  # no name that a file could have
        return False


class Memory:
    """Recent files and the window's state, in one small file."""

    def __init__(self, folder: Path) -> None:
        self._file = folder / "window.json"

    def _change(self, **changes: Any) -> None:
        with contextlib.suppress(OSError):
            private_folder(self._file.parent)
            body = json.dumps({**read_json(self._file), **changes}, indent=2).encode()
            write_atomically(self._file, [body], private=True)

    @property
    def recent(self) -> list[Path]:
        """The files opened or saved lately that are still there, the newest first."""
        listed = read_json(self._file).get("recent")
        names = [name for name in listed if isinstance(name, str)] if isinstance(listed, list) else []
        return [Path(name) for name in names[:MOST_RECENT] if _is_file(Path(name))]

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
