"""Two scales side by side: steps above, the axis's unit below, around the position that is asked about."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from kivant.core.travel.conversion import Conversion
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale, paint_marks
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_STEPS_SHOWN = 24.0


class Scales(QWidget):
    """Shows where between two steps a position lies."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Conversion | None = None
        self.setMinimumHeight(120)
        self.setAccessibleName("Steps and positions side by side")
        session.theme_changed.connect(self.update)

    def show_position(self, found: Conversion) -> None:
        """Show the surroundings of a position."""
        self.found = found
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        found, axis = self.found, self.session.choice.axis
        if found is None or axis is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        left, right = 60.0, self.width() - 20.0
        steps_y, unit_y = self.height() * 0.40, self.height() * 0.70
        painter.setFont(font("small"))
        for y, name, color in ((steps_y, "steps", theme.color("ink")), (unit_y, axis.unit, hue)):
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.setPen(color)
            painter.drawText(QRectF(0, y - 10, 50, 20), Qt.AlignmentFlag.AlignVCenter, name)
        every = 2 if len(str(found.steps)) < 8 else 6
        # Counted from a step nearby: far from 0, floats could not tell one step from the next.
        base = found.steps - found.steps % every
        here = float(found.steps_exact - base)
        steps = Scale(here - _STEPS_SHOWN / 2, here + _STEPS_SHOWN / 2, left, right)
        ink = theme.color("ink")
        paint_marks(painter, steps, steps_y, 1.0, every, (-9, -16), lambda k: figures.grouped(base + k), ink)
        self._paint_unit_scale(painter, found, (left, right), unit_y)
        x = steps.at(float(found.steps - base))
        painter.setPen(theme.pen(theme.color("accent"), 3))
        painter.drawLine(QPointF(x, steps_y), QPointF(x, steps_y - 18))
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawLine(QPointF(steps.at(here), steps_y + 2), QPointF(steps.at(here), unit_y + 14))

    def _paint_unit_scale(self, painter: QPainter, found: Conversion, ends: tuple[float, float], y: float) -> None:
        half = _STEPS_SHOWN / 2 / float(found.steps_per_unit)
        mark = figures.nice_span(half / 20)
        # Labels stand on round figures: 5, 10 or 20 where the marks are 1, 2 or 5 apart.
        every = 4 if round(mark / 10.0 ** math.floor(math.log10(mark) + 1e-9)) == 5 else 5
        decimals = max(0, min(9, -math.floor(math.log10(mark * every) + 1e-9)))
        position = float(found.position)
        scale = Scale(position - half, position + half, *ends)
        hue = self.session.theme.axis(self.session.choice.index)
        paint_marks(painter, scale, y, mark, every, (8, 14), lambda k: figures.position(k * mark, decimals), hue)
