"""The Microsteps face: what finer steps bring and what they do not, the numbers to choose from, and the switches."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.drive.comparison import Microstep, microstep_table, microsteps_to_move
from kivant.core.drive.phases import microstep_torque
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import steps_per_full_step, steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Token, font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.alternative import Alternative, Choice, Line
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.switch_view import SwitchView
from kivant.desktop.widgets.axis_field import AxisField

_NUMBERS = (1, 2, 4, 8, 16, 32)
LEVELS = (8, 16, 32, 64, 128, 256)
_MOST_DRAWN = 256


def choices(axis: Axis, index: int) -> list[Choice]:
    """Return for some numbers of microsteps what they mean: smallest move, torque of one step, current."""
    now, current = int(steps_per_full_step(axis)), getattr(axis.driver, "current_a", None)
    numbers = sorted({*_NUMBERS, now})
    numbers = numbers if len(numbers) <= 6 else [n for n in numbers if n != 1]
    found = []
    for number in numbers:
        per_unit = float(steps_per_unit(axis)) / now * number
        lines = (Line("one step", f"{figures.short(1 / per_unit)} {axis.unit}", 1 / number),)
        note = f"torque {microstep_torque(number):.2g}" + (f", {current:g} A" if current else "")
        name = f"{number} microsteps" if number > 1 else "full steps"
        edit = set_value(axis_path(index, "driver", "microsteps"), number)
        found.append(Choice(name, note, lines, number == now, edit))
    return found


class StepsChart(QWidget):
    """Currents of both coils over one full step; below, how far the field is beside the ideal."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.levels = 32
        self.setMinimumSize(220, 150)
        self.setAccessibleName("Currents and field over one full step")
        session.theme_changed.connect(self.update)

    def table(self) -> tuple[Microstep, ...]:
        """Return the microsteps that are drawn."""
        axis = self.session.choice.axis
        count = int(steps_per_full_step(axis)) if axis else 1
        return microstep_table(min(count, _MOST_DRAWN), self.levels)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme, table = self.session.theme, self.table()
        left, right = 44.0, self.width() - 8.0
        upper = QRectF(left, 20, right - left, (self.height() - 62) * 0.62)
        lower = QRectF(left, upper.bottom() + 30, right - left, self.height() - upper.bottom() - 36)
        for box, title in ((upper, "currents of A and B, against the set current"), (lower, "field beside the ideal")):
            painter.setFont(font("small"))
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(left, box.top() - 19, box.width(), 18), 0, title)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(box.bottomLeft(), box.bottomRight())
            painter.drawLine(box.topLeft(), box.bottomLeft())
        lines: tuple[tuple[str, Token], ...] = (("a", "accent"), ("b", "warn"))
        for name, token in lines:
            painter.setPen(theme.pen(theme.color(token), 2))
            painter.drawPolyline(_stairs(upper, [getattr(step, name) for step in table]))
        painter.setPen(theme.pen(theme.color("muted"), 1, axis=2))
        for f in (math.cos, math.sin):
            curve = [(k / 40, f(math.pi / 2 * k / 40)) for k in range(41)]
            painter.drawPolyline(QPolygonF([_point(upper, x, y) for x, y in curve]))
        painter.setFont(font("strong"))
        for text, token, y in (("A", lines[0][1], upper.top() - 4), ("B", lines[1][1], upper.bottom() - 18)):
            painter.setPen(theme.color(token))
            painter.drawText(QRectF(left - 26, y, 20, 18), Qt.AlignmentFlag.AlignRight, text)
        self._paint_errors(painter, lower, table)

    def _paint_errors(self, painter: QPainter, box: QRectF, table: tuple[Microstep, ...]) -> None:
        """Draw each microstep's error in degrees as a stem; the scale is one microstep, or the greatest error."""
        theme = self.session.theme
        errors = [step.field_deg - step.ideal_deg for step in table]
        one = 90.0 / (len(table) - 1)
        scale = max(one, max(map(abs, errors)))
        middle = box.center().y()
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        band = box.height() / 2 * min(one / scale, 1.0)
        painter.fillRect(
            QRectF(box.left(), middle - band / 2, box.width(), band), theme.tint(theme.color("good"), 0.15)
        )
        painter.setPen(theme.pen(theme.color("ink"), 1.4))
        for k, error in enumerate(errors):
            x = box.left() + box.width() * k / (len(table) - 1)
            painter.drawLine(QPointF(x, middle), QPointF(x, middle - error / scale * box.height() / 2))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, box.top() - 8, box.left() - 5, 18), right, f"{scale:.2g}°")


class MicrostepsFace(Face):
    """The chart, the choices, the switches."""

    with_lines = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.chart = StepsChart(session)
        self.number = AxisField(session, Path.of("driver", "microsteps"), "number of microsteps")
        self.number.setFixedWidth(60)
        self.levels = QComboBox()
        self.levels.addItems([str(level) for level in LEVELS])
        self.levels.setCurrentText(str(self.chart.levels))
        self.levels.setToolTip("How many levels of current the driver has (32: five bits).")
        self.levels.setAccessibleName("Levels of current")
        self.levels.currentTextChanged.connect(self._set_levels)
        self.told = QLabel()
        self.told.setFont(font("small"))
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(52)
        self.switches = SwitchView(session, "switches", "switches")
        self.choices: list[Alternative] = []
        self._side = QVBoxLayout()
        self._side.setSpacing(3)
        self._side.setContentsMargins(0, 0, 0, 0)
        self._lay_out()

    def _lay_out(self) -> None:
        typed = QHBoxLayout()
        typed.setSpacing(6)
        for widget in (QLabel("microsteps"), self.number, QLabel("levels of current"), self.levels):
            typed.addWidget(widget)
        typed.addStretch(1)
        middle = QVBoxLayout()
        middle.setSpacing(4)
        middle.addLayout(typed)
        middle.addWidget(self.chart, 1)
        middle.addWidget(self.told)
        side = QWidget()
        side.setFixedWidth(252)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self._side)
        column.addStretch(1)
        column.addWidget(self.switches)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(16)
        row.addLayout(middle, 1)
        row.addWidget(side)

    def _set_levels(self, text: str) -> None:
        self.chart.levels = int(text)
        self.chart.update()
        if (axis := self.session.choice.axis) is not None:
            self.told.setText(self._words(axis))

    def _words(self, axis: Axis) -> str:
        """Say what the number of microsteps brings, and what it does not."""
        count = int(steps_per_full_step(axis))
        lag = microsteps_to_move(axis)
        pull = f"One microstep pulls with {100 * microstep_torque(count):.3g} % of the holding torque."
        if lag is None:
            moves = "With the motor's holding torque known, Kivant tells how many it takes to move the load."
        elif lag == math.inf:
            moves = "Friction and detent torque are stronger than the motor: it does not move."
        elif lag < 1:
            moves = "Each microstep moves the rotor."
        else:
            moves = f"Friction and detent torque absorb the first {math.ceil(lag)} of them at each reversal."
        wrong = max(abs(step.field_deg - step.ideal_deg) for step in self.chart.table())
        beside = f"With {self.chart.levels} levels the field is up to {wrong / 90 * count:.2g} microsteps off."
        return f"{pull} {moves} {beside}"

    def follow(self, axis: Axis) -> None:
        """Show the microsteps of an axis as they are now."""
        self.number.refresh()
        self.chart.update()
        self.told.setText(self._words(axis))
        self.switches.refresh()
        wanted = choices(axis, self.session.choice.index)
        if [choice.looks for choice in wanted] != [button.choice.looks for button in self.choices]:
            self._rebuild(wanted)
        for button, choice in zip(self.choices, wanted, strict=True):
            button.choice = choice
            button.setChecked(choice.chosen)
            button.setEnabled(not self.session.running.active)
            button.update()

    def _rebuild(self, wanted: list[Choice]) -> None:
        for button in self.choices:
            button.hide()
            button.deleteLater()
        self.choices = [Alternative(self.session, choice) for choice in wanted]
        for button in self.choices:
            button.clicked.connect(lambda _checked=False, b=button: self._choose(b.choice))
            self._side.addWidget(button)

    def _choose(self, choice: Choice) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.try_edit(choice.edit, f"{choice.name} for {axis.name}")
            self.follow(self.session.choice.axis or axis)


def _point(box: QRectF, x: float, y: float) -> QPointF:
    return QPointF(box.left() + box.width() * x, box.bottom() - box.height() * y)


def _stairs(box: QRectF, values: list[float]) -> QPolygonF:
    """Return a line that holds each value until the next one."""
    corners, count = [], len(values) - 1
    for k, value in enumerate(values):
        corners.append(_point(box, max(k - 0.5, 0) / count, value))
        corners.append(_point(box, min(k + 0.5, count) / count, value))
    return QPolygonF(corners)
