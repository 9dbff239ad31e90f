"""What was read of the axes of the open machine: kept in the state folder, so that a closed window loses none of it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from kivant.app.choice import Choice

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

    from kivant.app.measuring import Measuring


class Measurings:
    """One `Measuring` for each axis of the open document, by the axis's name.

    Parameters
    ----------
    choice : Choice
        Knows the open document and the chosen axis.
    folder : Path or None
        The state folder; None keeps nothing. A machine without a file is not kept either: nothing would find it again.
    """

    def __init__(self, choice: Choice, folder: Path | None) -> None:
        self._choice, self._folder = choice, folder / "readings" if folder else None
        self._document: object = None
        self._of: dict[str, Measuring] = {}
        self._thread: ThreadPoolExecutor | None = None

    @property
    def now(self) -> Measuring:
        """The chosen axis's; it belongs to the open document."""
        from kivant.app.kept_readings import readings_in  # with all that fits: not for the start
        from kivant.app.measuring import Measuring

        if self._document is not self._choice.document:
            self._document = self._choice.document
            file = self._file()
            self._of = readings_in(file) if file else {}
        axis = self._choice.axis
        return self._of.setdefault(axis.name if axis else "", Measuring())

    def keep(self) -> None:
        """Keep what was read so far, aside; what cannot be kept is there as long as the window is open."""
        file = self._file()
        if file is None or self._document is not self._choice.document:
            return
        from concurrent.futures import ThreadPoolExecutor

        from kivant.app import kept_readings

        axes = {name: kept_readings.written(one) for name, one in self._of.items() if one.read or one.before}
        if self._thread is None:
            self._thread = ThreadPoolExecutor(1, "readings")
        self._thread.submit(kept_readings.keep, file, str(self._choice.document.path), axes)

    def close(self) -> None:
        """Wait until all is kept."""
        if self._thread is not None:
            self._thread.shutdown()

    def _file(self) -> Path | None:
        path = self._choice.document.path
        if self._folder is None or path is None:
            return None
        from kivant.app.kept_readings import file_of

        return file_of(self._folder, path)
