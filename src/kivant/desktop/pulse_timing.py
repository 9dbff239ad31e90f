"""The times of a pulse driver drawn to scale: a pulse, the next one, and a change of direction between."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.core.machine import PulseDriver
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField

_TIMES = (
    ("pulse_high_us", "pulse, at least"),
    ("pulse_low_us", "pause, at least"),
    ("direction_hold_us", "direction hold"),
    ("direction_setup_us", "direction set-up"),
    ("enable_lead_us", "enable lead"),
)


class PulseDrawing(QWidget):
    """Two pulses one way, a turn, and one the other way, as fast as the driver takes them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(250, 120)
        self.setAccessibleName("Pulse timing to scale")

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.session.axis
        if axis is None or not isinstance(axis.driver, PulseDriver):
            return
        driver, theme = axis.driver, self.session.theme
        high, low = driver.pulse_high_us, driver.pulse_low_us
        hold, setup = max(driver.direction_hold_us, high), driver.direction_setup_us
        turn = high + low + hold  # the second pulse begins at high + low; its hold ends here
        last = turn + setup
        if last < 2 * (high + low):
            last = 2 * (high + low)
        total = last + high + low
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, right = 52.0, self.width() - 10.0

        def x(us: float) -> float:
            return left + us / total * (right - left)

        names = ("STEP", "DIR") if driver.kind == "step_direction" else ("CW", "CCW")
        rows = {names[0]: self.height() * 0.34, names[1]: self.height() * 0.72}
        tall = self.height() * 0.20
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink"))
        for name, y in rows.items():
            painter.drawText(QRectF(0, y - tall / 2 - 10, 46, 20), Qt.AlignmentFlag.AlignVCenter, name)
        active = driver.pulse_active == "high"
        pulses = [0.0, high + low] if driver.kind == "pulse_pair" else [0.0, high + low, last]
        painter.setPen(theme.pen(theme.axis(self.session.selected), 1.8))
        self._paint_line(painter, [(x(p), x(p + high)) for p in pulses], (left, right), rows[names[0]], tall, active)
        second = [(x(last), x(last + high))] if driver.kind == "pulse_pair" else [(left, x(turn))]
        level = active if driver.kind == "pulse_pair" else driver.positive_level == "high"
        self._paint_line(painter, second, (left, right), rows[names[1]], tall, level)
        painter.setPen(theme.pen(theme.color("accent"), 1))
        for begin, end, word, y in (
            (high + low, turn, "hold", self.height() * 0.44),
            (turn, last, "set-up", self.height() * 0.44),
            (0.0, high, "high", self.height() * 0.06),
            (high, high + low, "low", self.height() * 0.06),
        ):
            if end > begin and x(end) - x(begin) > 3:
                painter.drawLine(QPointF(x(begin), y), QPointF(x(end), y))
                painter.setFont(font("small"))
                if x(end) - x(begin) > painter.fontMetrics().horizontalAdvance(word) + 2:
                    painter.drawText(QRectF(x(begin), y + 1, x(end) - x(begin), 16), Qt.AlignmentFlag.AlignCenter, word)
        painter.setPen(theme.color("muted"))
        painter.drawText(
            QRectF(left, self.height() - 18, right - left, 18),
            Qt.AlignmentFlag.AlignRight,
            f"{figures.short(total)} µs",
        )

    @staticmethod
    def _paint_line(
        painter: QPainter,
        on: list[tuple[float, float]],
        ends: tuple[float, float],
        base: float,
        tall: float,
        active_high: bool,
    ) -> None:
        rest, active = (base, base - tall) if active_high else (base - tall, base)
        at = ends[0]
        for begin, end in on:
            painter.drawLine(QPointF(at, rest), QPointF(begin, rest))
            painter.drawLine(QPointF(begin, rest), QPointF(begin, active))
            painter.drawLine(QPointF(begin, active), QPointF(end, active))
            painter.drawLine(QPointF(end, active), QPointF(end, rest))
            at = end
        painter.drawLine(QPointF(at, rest), QPointF(ends[1], rest))


class PulseTiming(QWidget):
    """The drawing with its times to type."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.drawing = PulseDrawing(session)
        self.fields = {key: self._field(key, name) for key, name in _TIMES}
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        for line, (key, name) in enumerate(_TIMES):
            grid.addWidget(QLabel(name), line, 0)
            grid.addWidget(self.fields[key], line, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.drawing, 1)
        column.addLayout(grid)

    def _field(self, key: str, name: str) -> ValueField:
        def show() -> str:
            axis = self.session.axis
            return (
                f"{figures.plain(getattr(axis.driver, key))} µs"
                if axis and isinstance(axis.driver, PulseDriver)
                else ""
            )

        def take(text: str, goes_on: bool) -> None:
            axis = self.session.machine.axes[self.session.selected]
            self.session.edit(
                editing.driver_time(self.session.selected, key, text), f"{name} of {axis.name}", goes_on=goes_on
            )

        return ValueField(self.session, name.capitalize(), show, take)

    def refresh(self) -> None:
        """Show the times as they are now."""
        for field in self.fields.values():
            field.refresh()
        self.drawing.update()
