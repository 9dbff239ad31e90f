"""The choice: which axis and which routine of the open machine somebody is looking at."""

from __future__ import annotations

from kivant.app.document.document import Document
from kivant.app.event import Event
from kivant.app.planning.own_move import OwnMove
from kivant.core.machine import Axis, Machine


class Choice:
    """An axis by its place and a routine by its name (None: the move of one's own).

    ``axis_changed`` and ``routine_changed`` tell of another one.
    """

    def __init__(self, document: Document) -> None:
        self.axis_changed, self.routine_changed = Event(), Event()
        self.document = document
        self.own_move = OwnMove()
        self.index = 0
        self.routine_name = self._first()
        self._routine_at = 0  # where it was, for when it has another name

    @property
    def machine(self) -> Machine:
        """The machine as it is now."""
        return self.document.machine

    @property
    def axis(self) -> Axis | None:
        """The chosen axis, None where the machine has none."""
        axes = self.machine.axes
        return axes[self.index] if self.index < len(axes) else None

    def _first(self) -> str | None:
        return self.machine.routines[0].name if self.machine.routines else None

    def select(self, index: int) -> None:
        """Choose an axis by its place."""
        if index != self.index and 0 <= index < len(self.machine.axes):
            self.index = index
            self.axis_changed()

    def choose_routine(self, name: str | None) -> None:
        """Choose a routine of the machine, or (None) the move of one's own."""
        if name != self.routine_name:
            self.routine_name = name
            self.keep_up()
            self.routine_changed()

    def adopt(self, document: Document) -> None:
        """Choose what there is in a document that has just been opened."""
        self.document, self.index = document, 0
        self.routine_name = self._first()
        self.own_move.clear()
        self.keep_up()

    def keep_up(self) -> None:
        """Choose something that is there, after a change of the machine."""
        routines = self.machine.routines
        names = [routine.name for routine in routines]
        if self.routine_name in names:
            self._routine_at = names.index(self.routine_name)
        elif self.routine_name is not None:
            self._routine_at = min(self._routine_at, max(len(routines) - 1, 0))
            self.routine_name = names[self._routine_at] if names else None
        self.index = min(self.index, max(len(self.machine.axes) - 1, 0))
