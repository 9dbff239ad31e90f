"""The pulses a driver takes, drawn to scale."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.drive.drivers import PulseDriver
from kivant.core.drive.pulse_timing import LineTiming, PulseTiming, pulse_timing
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_PLACES = (0.34, 0.72)  # of the two lines, as shares of the height
_TALL = 0.20  # how far a line is up
_WORD = 24.0  # pixels above a line, for a measure and its word


class PulseDrawing(QWidget):
    """Two pulses one way, a turn, and one the other way, as fast as the driver takes them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(250, 120)
        self.setAccessibleName("Pulse timing to scale")

    def timing(self) -> PulseTiming | None:
        """Return what is drawn, None for an axis without pulses."""
        axis = self.session.choice.axis
        return pulse_timing(axis.driver) if axis and isinstance(axis.driver, PulseDriver) else None

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        timing = self.timing()
        if timing is None:
            return
        theme = self.session.theme
        scale = Scale(0.0, timing.total_us, 52.0, self.width() - 10.0)
        for line, place in zip(timing.lines, _PLACES, strict=False):
            y = self.height() * place
            tall = self.height() * _TALL
            painter.setFont(font("strong"))
            painter.setPen(theme.color("ink"))
            painter.drawText(QRectF(0, y - tall / 2 - 10, 46, 20), Qt.AlignmentFlag.AlignVCenter, line.key)
            painter.setPen(theme.pen(theme.axis(self.session.choice.index), 1.8))
            painter.drawPolyline(_levels(line, scale, y, tall))
        self._paint_words(painter, timing, scale)
        painter.setPen(theme.pen(theme.color("muted"), 1))
        _paint_measure(painter, scale.begin, scale.end, self.height() - 21.0)
        end = QRectF(scale.begin, self.height() - 18, scale.end - scale.begin, 18)
        painter.drawText(end, Qt.AlignmentFlag.AlignHCenter, f"{figures.short(timing.total_us)} µs in all")

    def _paint_words(self, painter: QPainter, timing: PulseTiming, scale: Scale) -> None:
        """Write what each span of time is, where there is room."""
        painter.setPen(self.session.theme.pen(self.session.theme.color("accent"), 1))
        painter.setFont(font("small"))
        pulses, directions = (self.height() * (place - _TALL) - min(_WORD, self.height() * 0.12) for place in _PLACES)
        for low, high, y, word in (
            (0.0, timing.high_us, pulses, "high"),
            (timing.high_us, timing.period_us, pulses, "low"),
            (timing.period_us, timing.turn_us, directions, "hold"),
            (timing.turn_us, timing.last_us, directions, "set-up"),
        ):
            begin, end = scale.at(low), scale.at(high)
            if end - begin > 3:
                _paint_measure(painter, begin, end, y)
            if end - begin > painter.fontMetrics().horizontalAdvance(word) + 2:
                painter.drawText(QRectF(begin, y + 1, end - begin, 16), Qt.AlignmentFlag.AlignCenter, word)


def _levels(line: LineTiming, scale: Scale, low: float, tall: float) -> QPolygonF:
    """Return a line's level over time; high is above low."""
    y = low - tall * line.before
    corners = [QPointF(scale.begin, y)]
    for us, level in line.changes:
        x = scale.at(us)
        corners.append(QPointF(x, y))
        y = low - tall * level
        corners.append(QPointF(x, y))
    return QPolygonF([*corners, QPointF(scale.end, y)])


def _paint_measure(painter: QPainter, begin: float, end: float, y: float) -> None:
    """Paint a line with a tick at each of its ends, as on a drawing with measures."""
    painter.drawLine(QPointF(begin, y), QPointF(end, y))
    for x in (begin, end):
        painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
