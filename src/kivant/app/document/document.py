"""The open machine: its file, its history, and what has not been saved. No Qt."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Machine
from kivant.files import project


class SaveError(KivantError):
    """The machine could not be saved; the file that was there is untouched."""


class Step(Struct, frozen=True):
    """A machine, and what was done to get there (``new routine Lift and turn``)."""

    machine: Machine
    name: str


class Document:
    """A machine with its past and future; undo is going back in it, as far as it was opened.

    Machines share all that an edit leaves as it is, so that a long past takes little.
    """

    def __init__(self, machine: Machine, path: Path | None = None) -> None:
        self.path = path
        self._past: list[Step] = []
        self._goes_on = False  # the latest thing done was an edit
        self._future: list[Step] = []
        self._now = Step(machine, "")
        self._saved: Machine | None = machine
        self._stamp = _stamp(path)

    @classmethod
    def open(cls, path: Path) -> Document:
        """Return the document in a file.

        Raises
        ------
        ProjectError
            As `project.load` does.
        """
        return cls(project.load(path), path)

    @property
    def machine(self) -> Machine:
        """The machine as it is now."""
        return self._now.machine

    def mark_unsaved(self) -> None:
        """Take what is open for changed, whatever the file holds."""
        self._saved = None

    @property
    def changed_on_disk(self) -> bool:
        """Whether another program has written the file since it was opened or saved."""
        return self.path is not None and _stamp(self.path) not in (self._stamp, None)

    @property
    def modified(self) -> bool:
        """Whether anything differs from what was last saved or opened."""
        return self._now.machine is not self._saved

    @property
    def undo_name(self) -> str | None:
        """What undo would take back, None if there is nothing."""
        return self._now.name if self._past else None

    @property
    def redo_name(self) -> str | None:
        """What redo would do again, None if there is nothing."""
        return self._future[-1].name if self._future else None

    def edit(self, machine: Machine, name: str, *, merge: bool = False) -> None:
        """Make `machine` the present one; `name` says what was done.

        With `merge` it is part of the edit before, as while a handle is dragged: undo takes back both. After an undo,
        or a redo, or an edit of another name, there is no such edit to be part of.
        """
        if not (merge and self._goes_on and self._now.name == name):
            self._past.append(self._now)
        self._now, self._goes_on = Step(machine, name), True
        self._future.clear()

    def undo(self) -> None:
        """Go back by one edit, if there is one."""
        if self._past:
            self._future.append(self._now)
            self._now, self._goes_on = self._past.pop(), False

    def redo(self) -> None:
        """Go forward by one edit, if there is one."""
        if self._future:
            self._past.append(self._now)
            self._now, self._goes_on = self._future.pop(), False

    def save(self, path: Path | None = None) -> None:
        """Save to `path`, or to the file it came from.

        Raises
        ------
        SaveError
            If there is no path or it cannot be written.
        """
        target = path or self.path
        if target is None:
            raise SaveError(Fault("", "The machine has no file yet.", "Choose where to save it."))
        machine = self.machine  # it may be edited while it is being written
        try:
            project.save(machine, target)
        except project.ProjectError as error:
            raise SaveError(*error.faults) from error
        except OSError as error:
            reason = error.strerror or str(error)
            fault = Fault(
                str(target),
                f"The file cannot be written: {reason}.",
                "Choose another folder, or free some disk space.",
            )
            raise SaveError(fault) from error
        self.path, self._saved, self._stamp = target, machine, _stamp(target)


def _stamp(path: Path | None) -> tuple[int, int] | None:
    """Return what tells one state of a file from another: time of writing and size; None if it is not there."""
    try:
        found = path.stat() if path else None
    except OSError:
        return None
    return (found.st_mtime_ns, found.st_size) if found else None
