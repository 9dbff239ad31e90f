"""Dividing, in the Travel station: equal parts or a list of places, with the step and the error of each."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtGui import QGuiApplication, QPainter
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from kivant.core import quantity
from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.machine.axes import visit_places
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.dividing import Division, divide, drift, span_of, typed_places
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.per_axis import PerAxis
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField
from kivant.files.write import write_atomically

_MOST_ROWS = 500
_ROUNDS = 10
_COLUMNS = ("place", "position", "step", "error")


class Wanted:
    """How many parts, or which places, as they were typed."""

    def __init__(self) -> None:
        self.count, self.text = 12, ""


class PlacesPicture(QWidget):
    """The places on a dial or along a ruler; a stem shows how far each is off, half a step reaching its full length."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.places: tuple[Division, ...] = ()
        self.setMinimumSize(170, 120)
        self.setAccessibleName("The places and their errors")
        session.theme_changed.connect(self.update)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, theme = self.session.choice.axis, self.session.theme
        if axis is None or not self.places:
            return
        hue, half = theme.axis(self.session.choice.index), 0.5 / float(steps_per_unit(axis))
        low, high = span_of(axis)
        painter.setPen(theme.pen(theme.color("edge"), 1.5))
        middle, radius = QPointF(self.width() / 2, self.height() / 2), min(self.width(), self.height()) / 2 - 22
        left, wide, y = 14.0, self.width() - 28.0, self.height() / 2
        if axis.unit == "deg":
            painter.drawEllipse(middle, radius, radius)
        else:
            painter.drawLine(QPointF(left, y), QPointF(left + wide, y))
        for place in self.places[:_MOST_ROWS]:
            share = float((place.position - low) / (high - low))
            off = float(place.error) / half
            if axis.unit == "deg":
                painter.save()
                painter.translate(middle)
                painter.rotate(360 * share * (1 if axis.positive == "cw" else -1))
                painter.setPen(theme.pen(hue, 2))
                painter.drawLine(QPointF(0, -radius + 5), QPointF(0, -radius - 5))
                painter.setPen(theme.pen(theme.color("accent"), 3))
                painter.drawLine(QPointF(0, -radius - 9), QPointF(16 * off, -radius - 9))
                painter.restore()
            elif 0 <= share <= 1:
                x = left + wide * share
                painter.setPen(theme.pen(hue, 2))
                painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
                painter.setPen(theme.pen(theme.color("accent"), 3))
                painter.drawLine(QPointF(x, y - 10), QPointF(x, y - 10 - 24 * off))


class DivideFace(QWidget):
    """A number of parts or a list, the picture, the table, and what can be made of it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._wanted = PerAxis(session, Wanted)
        self.places: tuple[Division, ...] = ()
        self.count = ValueField(session, "Number of parts", self._count_text, self._take_count)
        self.count.setFixedWidth(70)
        self.listed = ValueField(session, "List of places", lambda: self._wanted.now.text, self._take_list)
        self.listed.setPlaceholderText("or places: 0 90deg 0.5rev")
        self.picture = PlacesPicture(session)
        self.told = QLabel()
        self.told.setFont(font("small"))
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(34)
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setHorizontalHeaderLabels(list(_COLUMNS))
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.copy = self._button("Copy", "Copy the table, to be pasted into a spreadsheet.", self._copy)
        self.save = self._button("Save as CSV …", "Save the table.", self._save)
        self.make = self._button("Make a routine", "A routine that visits each place and pauses there.", self._make)
        self._lay_out()

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.clicked.connect(act)
        return button

    def _lay_out(self) -> None:
        typed = QHBoxLayout()
        typed.setSpacing(6)
        for widget in (QLabel("parts"), self.count, self.listed):
            typed.addWidget(widget, 1 if widget is self.listed else 0)
        buttons = QHBoxLayout()
        for button in (self.copy, self.save, self.make):
            buttons.addWidget(button)
        buttons.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addLayout(typed)
        right.addWidget(self.table, 1)
        right.addWidget(self.told)
        right.addLayout(buttons)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(18)
        row.addWidget(self.picture, 2)
        row.addLayout(right, 3)

    def _count_text(self) -> str:
        wanted = self._wanted.now
        return str(len(self.places) if wanted.text else wanted.count)

    def _take_count(self, text: str, _merge: bool) -> None:
        axis, number = self.session.choice.axis, quantity.whole(text, "number of parts", ("parts",))
        if axis is not None:
            divide(axis, number)  # refuses what cannot be
            self._wanted.now.count, self._wanted.now.text = number, ""
            self.follow(axis)

    def _take_list(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            if text.strip():
                typed_places(axis, text)
            self._wanted.now.text = text.strip()
            self.follow(axis)

    def follow(self, axis: Axis) -> None:
        """Show the places of an axis as they are now."""
        wanted = self._wanted.now
        try:
            self.places = typed_places(axis, wanted.text) if wanted.text else divide(axis, wanted.count)
        except KivantError:  # the unit of the axis is another one by now
            wanted.text = ""
            self.places = divide(axis, wanted.count)
        for field in (self.count, self.listed):
            field.refresh()
        self.picture.places = self.places
        self.picture.update()
        self._fill(axis)
        most = max(abs(float(place.error)) for place in self.places)
        said = f"No place is more than {most:.3g} {axis.unit} off, after any number of rounds."
        if not wanted.text:
            off = abs(float(drift(axis, self.places, _ROUNDS)))
            said += f" Each way rounded by itself would be {off:.3g} {axis.unit} off after {_ROUNDS} rounds."
        self.told.setText(said)
        self.make.setEnabled(not self.session.running.active)

    def rows(self, axis: Axis) -> list[tuple[str, str, str, str]]:
        """Return the table as text."""
        return [
            (str(k), f"{float(p.position):.9g}", str(p.steps), f"{float(p.error):+.4g}" if p.error else "0")
            for k, p in enumerate(self.places)
        ]

    def _fill(self, axis: Axis) -> None:
        self.table.setHorizontalHeaderLabels([_COLUMNS[0], f"position, {axis.unit}", "step", f"error, {axis.unit}"])
        rows = self.rows(axis)[:_MOST_ROWS]
        self.table.setRowCount(len(rows))
        for line, row in enumerate(rows):
            for column, text in enumerate(row):
                self.table.setItem(line, column, QTableWidgetItem(text.replace("-", figures.MINUS)))

    def _copy(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            lines = ["\t".join(_COLUMNS), *("\t".join(row) for row in self.rows(axis))]
            QGuiApplication.clipboard().setText("\n".join(lines) + "\n")
            self.session.notice(f"Copied: {len(self.places)} places.")

    def _save(self) -> None:
        name, _filter = QFileDialog.getSaveFileName(self, "Save the table", "places.csv", "CSV (*.csv)")
        if name:
            self.save_to(Path(name))

    def save_to(self, path: Path) -> None:
        """Save the table as CSV (RFC 4180)."""
        axis = self.session.choice.axis
        if axis is None:
            return
        text = "".join(",".join(row) + "\r\n" for row in (_COLUMNS, *self.rows(axis)))
        try:
            write_atomically(path, [text.encode()])
        except OSError as error:
            self.session.notice(f"{path.name} cannot be saved: {error.strerror or error}. Check the folder.")
            return
        self.session.notice(f"Saved: {path.name}.")

    def _make(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            edit = visit_places(self.session.choice.index, [place.position for place in self.places])
            if self.session.try_edit(edit, f"routine of {len(self.places)} places"):
                self.session.notice(
                    f"Added as the routine “{self.session.document.machine.routines[-1].name}”, at Run."
                )
