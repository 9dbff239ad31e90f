"""The sheets of a window, each made when it is first looked at."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from kivant.core.path import Path
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.sheet import Sheet

if TYPE_CHECKING:
    from kivant.desktop.frame.findings_list import FindingsList
    from kivant.desktop.frame.keys_sheet import KeysSheet
    from kivant.desktop.frame.log_sheet import LogSheet
    from kivant.desktop.frame.notes_sheet import NotesSheet


class Sheets:
    """What can be laid over the stage of a window; `go` leads to a place of the machine."""

    def __init__(self, over: QWidget, session: Session, go: Callable[[Path], None]) -> None:
        self._over, self._session, self._go = over, session, go

    @cached_property
    def findings(self) -> FindingsList:
        """What needs attention."""
        from kivant.desktop.frame.findings_list import FindingsList

        return FindingsList(self._over, self._session, self._go)

    @cached_property
    def log(self) -> LogSheet:
        """What was said to the board, and by it."""
        from kivant.desktop.frame.log_sheet import LogSheet

        return LogSheet(self._over, self._session)

    @cached_property
    def keys(self) -> KeysSheet:
        """What each key does."""
        from kivant.desktop.frame.keys_sheet import KeysSheet

        return KeysSheet(self._over, self._session)

    @cached_property
    def notes(self) -> NotesSheet:
        """What somebody has noted about the machine."""
        from kivant.desktop.frame.notes_sheet import NotesSheet

        return NotesSheet(self._over, self._session)

    @property
    def open(self) -> list[Sheet]:
        """Those that are seen."""
        return [sheet for sheet in self.__dict__.values() if isinstance(sheet, Sheet) and sheet.isVisible()]
