"""Exporting: a plan written to a file in the background, with how far it is; it can be cancelled."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from kivant.app.event import Event
from kivant.app.planning.background import Background, Calm, Checkpoint
from kivant.app.planning.planning import Post
from kivant.core.errors import KivantError

if TYPE_CHECKING:
    from kivant.core.plan import Plan


class Exporting:
    """One file at a time; ``changed`` tells that one was begun or has ended, ``noticed`` (with a text) how."""

    def __init__(self, post: Post, calm: Calm) -> None:
        self.changed, self.noticed = Event(), Event()
        self.path: Path | None = None
        """The file that is being written."""
        self._post, self._calm = post, calm
        self._done = self._whole = 0

    @cached_property
    def _background(self) -> Background:
        """A thread of its own, begun with the first file: a long one holds nothing else up."""
        return Background(self._calm)

    @property
    def share(self) -> float:
        """About how much of the file is written, from 0 to 1."""
        return min(self._done / self._whole, 1.0) if self._whole else 0.0

    def begin(self, plan: Plan, path: Path, *, geometry: bool = False) -> bool:
        """Write a plan to a file, also over one that is there; return whether that was begun: one at a time is."""
        if self.path is not None:
            return False
        from kivant.app.export import estimated_bytes, export, writer_of  # with the writers: not for the start

        self.path, self._done, self._whole = path, 0, 0

        def work(checkpoint: Checkpoint) -> None:
            def told(size: int) -> None:
                checkpoint()
                self._done += size

            self._whole = estimated_bytes(plan, writer_of(path))
            export(plan, path, replace=True, geometry=geometry, told=told)

        def deliver(_nothing: None) -> None:
            size = self._done / 1e6
            self._end(f"Written to {path}: {size:.3g} MB, all steps of “{plan.routine.name}”.")

        self._background.wish("export", work, deliver, lambda error: self._end(_said(error)))
        self.changed()
        return True

    def cancel(self) -> None:
        """Write no further; what was at the path before stays, unless the file is whole already."""
        if self.path is not None:
            self._background.drop("export")
            self.path = None
            self.changed()

    def close(self) -> None:
        """End what goes on."""
        self.path = None
        if "_background" in self.__dict__:
            self._background.close()

    def _end(self, said: str) -> None:
        def act() -> None:
            self.path = None
            self.changed()
            self.noticed(said)

        self._post(act)


def _said(error: KivantError) -> str:
    return f"Nothing was written. {error}"
