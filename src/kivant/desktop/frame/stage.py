"""The stage: the open station, or what to do first where the machine has no axes."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from kivant.desktop.state.session import Session

if TYPE_CHECKING:
    from kivant.desktop.frame.empty_stage import EmptyStage


class Stage(QStackedWidget):
    """Shows one of the two; `open_example` opens an example by its file."""

    open_wanted = Signal()
    axis_wanted = Signal(QWidget)
    """A list of kinds of axes is wanted, at a widget."""

    def __init__(self, session: Session, pages: QWidget, open_example: Callable[[str], object]) -> None:
        super().__init__()
        self._session, self._pages, self._open_example = session, pages, open_example
        self.addWidget(pages)
        session.machine_changed.connect(self.refresh)
        self.refresh()

    @cached_property
    def empty(self) -> EmptyStage:
        """What to do first, made when it is first looked at."""
        from kivant.desktop.frame.empty_stage import EmptyStage

        made = EmptyStage(self._open_example)
        made.open.clicked.connect(self.open_wanted)
        made.add.clicked.connect(lambda: self.axis_wanted.emit(made.add))
        self.addWidget(made)
        return made

    def refresh(self) -> None:
        """Show what there is now."""
        self.setCurrentWidget(self._pages if self._session.document.machine.axes else self.empty)
