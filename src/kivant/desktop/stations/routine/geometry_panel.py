"""The geometry of the machine: its kind, which axis has which part, lengths, and the limits of the tool."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QMenu, QPushButton, QVBoxLayout, QWidget

from kivant.core.geometry import GEOMETRIES, TwoLink, geometry_kind
from kivant.core.machine import geometries
from kivant.core.machine.edits import Edit
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField

_LIMITS = {"tool_speed": ("tool speed", "/s"), "tool_acceleration": ("tool acceleration", "/s²")}
_LENGTHS = ("upper arm", "forearm")


class GeometryPanel(QWidget):
    """Choices and values of the geometry, one below the other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.choices: dict[str, QPushButton] = {}
        self.values: dict[str, ValueField] = {}
        self._shown: object = ()
        title = QLabel("Geometry")
        title.setFont(font("heading"))
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(1, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(title)
        column.addLayout(self._grid)
        column.addStretch(1)
        self.setFixedWidth(226)

    def refresh(self) -> None:
        """Show the geometry as it is now."""
        machine = self.session.document.machine
        shown = machine.geometry, tuple(axis.name for axis in machine.axes)
        if self._shown != shown:
            self._shown = shown
            self._rebuild()
        for choice in self.choices.values():
            choice.setEnabled(not self.session.running.active)
        for value in self.values.values():
            value.refresh()

    def _rebuild(self) -> None:
        while self._grid.count():
            item = self._grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.choices, self.values = {}, {}
        machine, geometry = self.session.document.machine, self.session.document.machine.geometry
        record = geometry_kind(geometry) if geometry is not None else GEOMETRIES["independent"]
        kinds = [(kind.title, geometries.choose_geometry(key)) for key, kind in GEOMETRIES.items()]
        self._choice("kind", "moves", record.title, kinds)
        if geometry is None:
            return
        for role in record.roles:
            own = getattr(geometry.axes, role.key)
            fitting = [axis.name for axis in machine.axes if axis.unit == role.unit]
            axes = [(name, geometries.choose_role(role.key, name)) for name in fitting]
            none = [("none", geometries.choose_role(role.key, None))] if role.optional else []
            self._choice(role.key, role.words, own or "none", [*axes, *none])
        if isinstance(geometry, TwoLink):
            sides = [(side, geometries.choose_elbow(side)) for side in ("left", "right")]
            self._choice("elbow side", "elbow on the", geometry.elbow, sides)
            for index, name in enumerate(_LENGTHS):
                self._value(name, partial(self._length, index), partial(geometries.typed_length, index))
        for key, (name, over) in _LIMITS.items() if record.coordinates else ():
            unit = f"{'mm' if 'x' in record.coordinates else 'deg'}{over}"
            self._value(name, partial(self._limit, key, unit), partial(geometries.typed_tool_limit, key))

    def _length(self, index: int) -> str:
        geometry = self.session.document.machine.geometry
        lengths = geometry.lengths_mm if isinstance(geometry, TwoLink) else ()
        return f"{figures.plain(lengths[index])} mm" if index < len(lengths) else ""

    def _limit(self, key: str, unit: str) -> str:
        value = getattr(self.session.document.machine.geometry, key, None)
        return "" if value is None else f"{figures.plain(value)} {unit}"

    def _row(self, text: str, widget: QWidget) -> None:
        label = QLabel(text)
        label.setFont(font("small"))
        row = self._grid.rowCount()
        self._grid.addWidget(label, row, 0)
        self._grid.addWidget(widget, row, 1)

    def _choice(self, key: str, text: str, shown: str, offers: list[tuple[str, Edit]]) -> None:
        button = QPushButton(unaccelerated(figures.shortened(shown, 22)))
        button.setProperty("kind", "word")
        button.setAccessibleName(f"Geometry: {text}")
        menu = QMenu(button)
        for name, edit in offers:
            action = menu.addAction(unaccelerated(name))
            action.setCheckable(True)
            action.setChecked(name == shown)
            action.triggered.connect(lambda _checked=False, e=edit: self.session.try_edit(e, "geometry"))
        button.setMenu(menu)
        self.choices[key] = button
        self._row(text, button)

    def _value(self, name: str, show: Callable[[], str], edit: Callable[[str], Edit]) -> None:
        def take(text: str, merge: bool) -> None:
            self.session.edit(edit(text), f"{name} of the geometry", merge=merge)

        field = ValueField(self.session, name, show, take)
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        if name.startswith("tool"):
            field.setPlaceholderText("no limit")
        self.values[name] = field
        self._row(name, field)
