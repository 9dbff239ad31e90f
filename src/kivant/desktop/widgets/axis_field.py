"""A field for one value of the chosen axis, by its path: shown with its unit, and taken as it is typed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.machine.edits import FREE, typed
from kivant.core.path import Path, axis_path
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import Role
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField

Unit = Callable[[Axis], str]


class AxisField(ValueField):
    """One value of the chosen axis.

    Parameters
    ----------
    session : Session
    path : Path
        Where in an axis the value stands, such as ``limits.speed``.
    name : str
        What the value is.
    unit : callable
        What stands behind it, of an axis: `` mm/s``.
    """

    def __init__(
        self,
        session: Session,
        path: Path,
        name: str,
        unit: Unit = lambda _axis: "",
        role: Role = "strong",
        parent: QWidget | None = None,
    ) -> None:
        self.path, self._unit, self._name = path, unit, name
        super().__init__(session, name[0].upper() + name[1:], self._shown, self._taken, role, parent=parent)

    def value(self) -> object:
        """Return the value now; None where the axis has none."""
        axis = self.session.choice.axis
        try:
            return self.path.look_up(axis) if axis else None
        except (LookupError, AttributeError):
            return None

    def _shown(self) -> str:
        axis, value = self.session.choice.axis, self.value()
        if axis is None:
            return ""
        if value is None:
            return FREE
        text = value if isinstance(value, str) else figures.plain(float(value))  # type: ignore[arg-type]
        return f"{text}{self._unit(axis)}"

    def _taken(self, text: str, merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            edit = typed(axis_path(self.session.choice.index) / self.path, text)
            self.session.edit(edit, f"{self._name} of {axis.name}", merge=merge)
