"""A driver's switches as they stand, with what they give, and how they would have to stand."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QGridLayout, QLabel, QMenu, QPushButton, QWidget

from kivant.core.drive.switches import TABLES, Bank, given, new_bank, setting_for, table_text, words
from kivant.core.machine.drives import describe_switches
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField, type_over

VALUES = {"switches": ("microsteps", "microsteps"), "current_switches": ("current_a", "A")}
"""For each bank of a driver: which value of the driver it gives, and what that is counted in."""
_WIDE, _TALL = 26.0, 46.0


class Slides(QWidget):
    """The switches; a click, or the digit of a switch, turns one over. A mark shows where each should stand."""

    def __init__(self, session: Session, key: str) -> None:
        super().__init__()
        self.session, self.key = session, key
        self.setFixedHeight(74)
        self.setMinimumWidth(90)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "The switches as they are set. Click one, or press its number, to flip it. "
            "Double click a name to change it."
        )
        session.theme_changed.connect(self.update)

    def bank(self) -> Bank | None:
        """Return the switches of the chosen axis's driver."""
        axis = self.session.choice.axis
        return getattr(axis.driver, self.key, None) if axis else None

    def wanted(self) -> str | None:
        """Return how they should stand."""
        bank, axis = self.bank(), self.session.choice.axis
        value = getattr(axis.driver, VALUES[self.key][0], None) if axis else None
        return setting_for(bank, value) if bank is not None and value is not None else None

    def place(self, number: int) -> QRectF:
        """Return where a switch is drawn."""
        return QRectF(4 + number * (_WIDE + 6), 4, _WIDE, _TALL)

    def turn_over(self, number: int) -> None:
        """Turn a switch over, in the description: a hand does it at the driver."""
        bank, axis = self.bank(), self.session.choice.axis
        if bank is None or axis is None or self.session.running.active or number >= len(bank.names):
            return
        bits = list(bank.setting or "0" * len(bank.names))
        bits[number] = "0" if bits[number] == "1" else "1"
        place = axis_path(self.session.choice.index, "driver", self.key)
        changed: Any = replace(bank, setting="".join(bits))
        self.session.try_edit(set_value(place, changed), f"switches of {axis.name}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        bank = self.bank()
        for number in range(len(bank.names) if bank else 0):
            if self.place(number).contains(event.position()):
                self.turn_over(number)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        bank = self.bank()
        for number in range(len(bank.names) if bank else 0):
            box = self.place(number)
            if QRectF(box.left(), box.bottom(), box.width(), 22).contains(event.position()):
                self.rename(number)

    def rename(self, number: int) -> None:
        """Type what stands beside a switch, where it is shown."""
        axis, place = self.session.choice.axis, axis_path(self.session.choice.index, "driver", self.key)
        if axis is None or self.session.running.active:
            return

        def show() -> str:
            bank = self.bank()
            return bank.names[number] if bank is not None and number < len(bank.names) else ""

        def take(text: str, _merge: bool) -> None:
            bank = self.bank()
            if bank is not None:
                names = (*bank.names[:number], text.strip(), *bank.names[number + 1 :])
                changed: Any = replace(bank, names=names)
                self.session.edit(set_value(place, changed), f"switches of {axis.name}")

        box = self.place(number)
        field = ValueField(self.session, f"Name of switch {number + 1}", show, take)
        type_over(self, QRectF(box.left() - 2, box.bottom(), 70, 24).toRect(), field)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().isdigit() and event.text() != "0" and not event.isAutoRepeat():
            self.turn_over(int(event.text()) - 1)
        else:
            event.ignore()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        bank = self.bank()
        if bank is None:
            return
        theme, wanted = self.session.theme, self.wanted()
        setting = bank.setting or "0" * len(bank.names)
        painter.setFont(font("small"))
        for number, name in enumerate(bank.names):
            box, on = self.place(number), setting[number] == "1"
            painter.setPen(theme.pen(theme.color("accent" if self.hasFocus() else "edge"), 1.4))
            painter.setBrush(theme.color("sheet"))
            painter.drawRoundedRect(box, 4, 4)
            knob = QRectF(box.left() + 4, box.top() + (4 if on else _TALL / 2), _WIDE - 8, _TALL / 2 - 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("ink" if bank.setting else "muted"))
            painter.drawRoundedRect(knob, 3, 3)
            if wanted is not None and wanted[number] != setting[number]:
                y = box.top() + _TALL * (0.25 if wanted[number] == "1" else 0.75)
                painter.setBrush(theme.color("warn"))
                tip = QPointF(box.right() - 1, y)
                painter.drawPolygon(QPolygonF([tip, tip + QPointF(7, -5), tip + QPointF(7, 5)]))
            painter.setPen(theme.color("muted"))
            shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(_WIDE + 4))
            painter.drawText(
                QRectF(box.left() - 2, box.bottom() + 2, _WIDE + 4, 18), Qt.AlignmentFlag.AlignHCenter, shown
            )


class SwitchView(QWidget):
    """The switches, what they give, and their table; where none are described, how to do it."""

    def __init__(self, session: Session, key: str, title: str) -> None:
        super().__init__()
        self.session, self.key = session, key
        self.slides = Slides(session, key)
        self.told = QLabel()
        self.told.setFont(font("small"))
        self.told.setWordWrap(True)
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setMinimumHeight(36)
        self.table = ValueField(session, f"Table of the {title}", self._table_text, self._take, "small")
        self.table.setToolTip("Patterns, each followed by what it gives: 000 1, 100 2. 1 is on. Empty: no switches.")
        self.offer = QPushButton("tables")
        self.offer.setProperty("kind", "plain")
        self.offer.setMenu(QMenu(self))
        self.offer.menu().aboutToShow.connect(self._fill)
        self.offer.setVisible(key == "switches")
        heading = QLabel(title.capitalize())
        heading.setFont(font("heading"))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        grid.addWidget(heading, 0, 0)
        grid.addWidget(self.offer, 0, 1, Qt.AlignmentFlag.AlignRight)
        grid.addWidget(self.slides, 1, 0, 1, 2)
        grid.addWidget(self.told, 2, 0, 1, 2)
        grid.addWidget(self.table, 3, 0, 1, 2)

    def _table_text(self) -> str:
        bank = self.slides.bank()
        return table_text(bank) if bank is not None else ""

    def _take(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            edit = describe_switches(self.session.choice.index, self.key, text)
            self.session.edit(edit, f"switches of {axis.name}")

    def _fill(self) -> None:
        menu = self.offer.menu()
        menu.clear()
        for name in TABLES:
            inner = menu.addMenu(name[0].upper() + name[1:])
            for count in (1, 2, 3, 4):
                action = inner.addAction(f"{count} switch{'es' if count > 1 else ''}")
                action.triggered.connect(lambda _checked=False, n=count, t=name: self.use_table(n, t))
        menu.addSeparator()
        action = menu.addAction("No switches")
        action.triggered.connect(lambda: self._try(describe_switches(self.session.choice.index, self.key, "")))

    def _try(self, edit: Any) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.try_edit(edit, f"switches of {axis.name}")

    def use_table(self, count: int, table: str) -> None:
        """Describe so many switches by a common table, set to what the driver is set to."""
        axis = self.session.choice.axis
        if axis is not None:
            bank = new_bank(count, table, getattr(axis.driver, "microsteps", 1))
            self._try(set_value(axis_path(self.session.choice.index, "driver", self.key), bank))

    def refresh(self) -> None:
        """Show the switches as they are now."""
        bank, axis = self.slides.bank(), self.session.choice.axis
        self.table.refresh()
        self.offer.setEnabled(not self.session.running.active)
        self.slides.setVisible(bank is not None)
        self.slides.update()
        self.told.setText(self._words(bank, getattr(axis.driver, VALUES[self.key][0], None) if axis else None))

    def _words(self, bank: Bank | None, value: float | None) -> str:
        unit = VALUES[self.key][1]
        if bank is None:
            example = "00 1, 10 2" if self.key == "switches" else "00 0.5, 10 1"
            return f"None described. Type what the driver's label says, such as {example}."
        now = given(bank)
        told = "How they are set is not known." if now is None else f"As they are set: {now:g} {unit}."
        if value is None or (now is not None and abs(now - value) <= 1e-9 * now):
            return told
        wanted = setting_for(bank, value)
        if wanted is None:
            return f"{told} {value:g} {unit} cannot be set with them."
        return f"{told} For {value:g} {unit}: {words(bank, wanted)}."
