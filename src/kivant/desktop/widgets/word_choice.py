"""A word of the chosen axis that is changed where it stands: a click, or Space, opens the others."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtWidgets import QMenu, QPushButton

from kivant.core.machine import Axis
from kivant.core.machine.edits import Edit, set_value
from kivant.core.path import Path, axis_path
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.state.session import Session

Words = Mapping[Any, str]


class WordChoice(QPushButton):
    """One value out of a few.

    Parameters
    ----------
    session : Session
    path : Path
        Where in an axis the value stands.
    name : str
        What the value is.
    words : mapping, or callable of an axis that returns one
        Each value that there is, and its words.
    edit : callable (axis index, value), optional
        The edit that takes a value; otherwise it is just set.
    """

    def __init__(
        self,
        session: Session,
        path: Path,
        name: str,
        words: Words | Callable[[Axis], Words],
        edit: Callable[[int, Any], Edit] | None = None,
    ) -> None:
        super().__init__()
        self.session, self.path, self._name, self._words = session, path, name, words
        self._edit = edit or (lambda index, value: set_value(axis_path(index) / path, value))
        self.setProperty("kind", "word")
        self.setToolTip(f"{name[0].upper()}{name[1:]}: click to change it.")
        self.setMenu(QMenu(self))
        self.menu().aboutToShow.connect(self._fill)

    def words(self) -> Words:
        """Return each value that there is now, and its words."""
        axis = self.session.choice.axis
        if axis is None:
            return {}
        return self._words(axis) if callable(self._words) else self._words

    def value(self) -> Any:
        """Return the value now, None where the axis has none."""
        axis = self.session.choice.axis
        try:
            return self.path.look_up(axis) if axis else None
        except (LookupError, AttributeError):
            return None

    def refresh(self) -> None:
        """Show the word as it is now."""
        value = self.value()
        text = self.words().get(value, str(value))
        self.setText(unaccelerated(text))
        self.setAccessibleName(f"{self._name}: {text}")
        self.setEnabled(not self.session.running.active)

    def _fill(self) -> None:
        menu = self.menu()
        menu.clear()
        for value, text in self.words().items():
            action = menu.addAction(unaccelerated(text))
            action.setCheckable(True)
            action.setChecked(value == self.value())
            action.triggered.connect(lambda _checked=False, v=value: self.take(v))

    def take(self, value: Any) -> None:
        """Take another value."""
        axis = self.session.choice.axis
        if axis is not None and value != self.value():
            self.session.try_edit(self._edit(self.session.choice.index, value), f"{self._name} of {axis.name}")
        self.refresh()
