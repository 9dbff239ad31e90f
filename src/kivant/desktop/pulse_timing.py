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

    def instants_us(self, driver: PulseDriver) -> tuple[float, float, float]:
        """Return when, after the first pulse, the direction may change, the next pulse comes, and it all ends."""
        period = driver.pulse_high_us + driver.pulse_low_us
        turn = period + max(driver.direction_hold_us, driver.pulse_high_us)
        last = max(turn + driver.direction_setup_us, 2 * period)
        return turn, last, last + period

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.session.axis
        if axis is None or not isinstance(axis.driver, PulseDriver):
            return
        driver = axis.driver
        high, period = driver.pulse_high_us, driver.pulse_high_us + driver.pulse_low_us
        turn, last, total = self.instants_us(driver)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ends = (52.0, self.width() - 10.0)

        def x(us: float) -> float:
            return ends[0] + us / total * (ends[1] - ends[0])

        pair = driver.kind == "pulse_pair"
        active = driver.pulse_active == "high"
        first = [0.0, period] if pair else [0.0, period, last]
        second = [(x(last), x(last + high))] if pair else [(ends[0], x(turn))]
        lines = (
            ("CW" if pair else "STEP", 0.34, [(x(p), x(p + high)) for p in first], active),
            ("CCW" if pair else "DIR", 0.72, second, active if pair else driver.positive_level == "high"),
        )
        tall = self.height() * 0.20
        for name, place, on, level in lines:
            y = self.height() * place
            painter.setFont(font("strong"))
            painter.setPen(self.session.theme.color("ink"))
            painter.drawText(QRectF(0, y - tall / 2 - 10, 46, 20), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(self.session.theme.pen(self.session.theme.axis(self.session.selected), 1.8))
            self._paint_line(painter, on, ends, y, tall, level)
        self._paint_words(
            painter,
            [
                (x(0.0), x(high), 0.06, "pulse"),
                (x(high), x(period), 0.06, "pause"),
                (x(period), x(turn), 0.44, "hold"),
                (x(turn), x(last), 0.44, "set-up"),
            ],
        )
        painter.setPen(self.session.theme.pen(self.session.theme.color("muted"), 1))
        _paint_measure(painter, *ends, self.height() - 21.0)
        end = QRectF(ends[0], self.height() - 18, ends[1] - ends[0], 18)
        painter.drawText(end, Qt.AlignmentFlag.AlignHCenter, f"{figures.short(total)} µs in all")

    def _paint_words(self, painter: QPainter, spans: list[tuple[float, float, float, str]]) -> None:
        """Write what each span of time is, where there is room."""
        painter.setPen(self.session.theme.pen(self.session.theme.color("accent"), 1))
        painter.setFont(font("small"))
        for begin, end, place, word in spans:
            y = self.height() * place
            if end - begin > 3:
                _paint_measure(painter, begin, end, y)
            if end - begin > painter.fontMetrics().horizontalAdvance(word) + 2:
                painter.drawText(QRectF(begin, y + 1, end - begin, 16), Qt.AlignmentFlag.AlignCenter, word)

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


def _paint_measure(painter: QPainter, begin: float, end: float, y: float) -> None:
    """Paint a line with a tick at each of its ends, as on a drawing with measures."""
    painter.drawLine(QPointF(begin, y), QPointF(end, y))
    for x in (begin, end):
        painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))


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

        return ValueField(self.session, name.capitalize(), show, take, key=f"driver.{key}")

    def refresh(self) -> None:
        """Show the times as they are now."""
        for field in self.fields.values():
            field.refresh()
        self.drawing.update()
