"""The supplies of the machine: name, voltage, greatest current, and whom each feeds; all typed in place."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.core.drive.feeds import Feed, feeds, greatest_current
from kivant.core.machine.edits import UNKNOWN
from kivant.core.machine.feeding import add_supply, remove_supply, rename_supply, type_supply
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal, unaccelerated
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField

_MOST = 6


class SupplyRows(QWidget):
    """A row for each supply; ``looked_at`` tells which one's current is wanted."""

    looked_at = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.number = 0
        self.fields: list[tuple[ValueField, ValueField, ValueField]] = []
        self.lookers: list[QPushButton] = []
        self._shape: object = None
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(0, 1)
        self.add = QPushButton("+ supply")
        self.add.setProperty("kind", "plain")
        self.add.setToolTip("Name a supply: it feeds the axes of the voltage that is shown, if they have none yet.")
        self.add.clicked.connect(self._add)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(self._grid)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)

    def feeds(self) -> tuple[Feed, ...]:
        """Return what is shown: supplies, and voltages without one."""
        return feeds(self.session.document.machine)[:_MOST]

    def look_at(self, number: int) -> None:
        """Show one supply's current."""
        self.number = number
        self.looked_at.emit(number)
        self.refresh()

    def _add(self) -> None:
        shown = self.feeds()
        feed = shown[min(self.number, len(shown) - 1)] if shown else None
        loose = feed is not None and feed.place is None
        edit = add_supply(feed.axes if feed and loose else (), feed.volts if feed and loose else None)
        if self.session.try_edit(edit, "new supply"):
            self.look_at(len(self.session.document.machine.supplies or ()) - 1)

    def refresh(self) -> None:
        """Show the supplies as they are now."""
        shown = self.feeds()
        shape = [feed.place for feed in shown]
        if shape != self._shape:
            self._shape = shape
            self._rebuild(shown)
        machine = self.session.document.machine
        letters = figures.letters(machine)
        for number, (feed, looker) in enumerate(zip(shown, self.lookers, strict=True)):
            total, unknown = greatest_current(machine, feed)
            fed = " ".join(letters[i] for i in feed.axes) or "nothing"
            looker.setText(unaccelerated(f"{fed}: up to {total:.3g} A{' + ?' if unknown else ''}"))
            more = f"; not counted: {', '.join(unknown)}" if unknown else ""
            looker.setToolTip(literal(f"Show its current over the plan{more}."))
            looker.setChecked(number == min(self.number, len(shown) - 1))
        for fields in self.fields:
            for field in fields:
                field.refresh()
        self.add.setEnabled(not self.session.running.active)

    def _rebuild(self, shown: tuple[Feed, ...]) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.fields, self.lookers = [], []
        for line, feed in enumerate(shown):
            if feed.place is None:
                label = QLabel(f"{feed.name}, not named" if feed.volts is not None else "no supply known")
                label.setFont(font("small"))
                self._grid.addWidget(label, line, 0, 1, 3)
            else:
                self._add_fields(line, feed.place)
            looker = QPushButton()
            looker.setProperty("kind", "plain")
            looker.setCheckable(True)
            looker.clicked.connect(partial(self._look, line))
            self.lookers.append(looker)
            self._grid.addWidget(looker, line, 3, Qt.AlignmentFlag.AlignLeft)

    def _look(self, number: int, _checked: bool = False) -> None:
        self.look_at(number)

    def _add_fields(self, line: int, place: int) -> None:
        name = ValueField(self.session, "Name of the supply", partial(self._name, place), partial(self._rename, place))
        volts = self._figure(place, "volts", "Voltage", "V")
        most = self._figure(place, "max_a", "Greatest current", "A")
        self.fields.append((name, volts, most))
        for column, (field, width) in enumerate(((name, 0), (volts, 64), (most, 84))):
            if width:
                field.setFixedWidth(width)
            self._grid.addWidget(field, line, column)
        gone = QPushButton("×")
        gone.setProperty("kind", "plain")
        gone.setToolTip("Remove the supply; the axes that it feeds keep its voltage.")
        gone.clicked.connect(lambda: self.session.try_edit(remove_supply(place), "removed supply"))
        self._grid.addWidget(gone, line, 4)

    def _name(self, place: int) -> str:
        supplies = self.session.document.machine.supplies or ()
        return supplies[place].name if place < len(supplies) else ""

    def _rename(self, place: int, text: str, _merge: bool) -> None:
        self.session.edit(rename_supply(place, text), "name of a supply")

    def _figure(self, place: int, key: str, name: str, unit: str) -> ValueField:
        def show() -> str:
            supplies = self.session.document.machine.supplies or ()
            value = getattr(supplies[place], key) if place < len(supplies) else None
            return UNKNOWN if value is None else f"{figures.plain(value)} {unit}"

        def take(text: str, merge: bool) -> None:
            self.session.edit(type_supply(place, key, text), f"{name.lower()} of a supply", merge=merge)

        return ValueField(self.session, name, show, take)
