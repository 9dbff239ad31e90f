"""Two scales side by side: steps above, the axis's unit below, around the position that is asked about."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from kivant.core.travel import Conversion
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font

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
        found, axis = self.found, self.session.axis
        if found is None or axis is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, hue = self.session.theme, self.session.theme.axis(self.session.selected)
        left, right = 60.0, self.width() - 20.0
        middle, per_step = (left + right) / 2, (right - left) / _STEPS_SHOWN
        steps_y, unit_y = self.height() * 0.40, self.height() * 0.70
        painter.setFont(font("small"))
        for y, name, color in ((steps_y, "steps", theme.color("ink")), (unit_y, axis.unit, hue)):
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.setPen(color)
            painter.drawText(QRectF(0, y - 10, 50, 20), Qt.AlignmentFlag.AlignVCenter, name)
        exact, nearest = found.steps_exact, found.steps
        every = 2 if len(str(nearest)) < 8 else 6
        for k in range(-13, 14):
            step = nearest + k
            x = middle + float(step - exact) * per_step
            if not left <= x <= right:
                continue
            labelled = step % every == 0
            painter.setPen(theme.pen(theme.color("ink"), 1.4 if labelled else 1))
            painter.drawLine(QPointF(x, steps_y), QPointF(x, steps_y - (16 if labelled else 9)))
            if labelled:
                box = QRectF(x - 60, steps_y - 36, 120, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, figures.grouped(step))
        self._paint_unit_scale(painter, middle, per_step * float(found.steps_per_unit), unit_y, (left, right))
        x = middle + float(nearest - exact) * per_step
        painter.setPen(theme.pen(theme.color("accent"), 3))
        painter.drawLine(QPointF(x, steps_y), QPointF(x, steps_y - 18))
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawLine(QPointF(middle, steps_y + 2), QPointF(middle, unit_y + 14))

    def _paint_unit_scale(
        self, painter: QPainter, middle: float, per_unit: float, y: float, ends: tuple[float, float]
    ) -> None:
        found, theme = self.found, self.session.theme
        assert found is not None
        hue = theme.axis(self.session.selected)
        span = (ends[1] - ends[0]) / per_unit
        mark = figures.nice_span(span / 40)
        position = float(found.position)
        # Labels stand on round figures: 5, 10 or 20 where the marks are 1, 2 or 5 apart.
        every = 4 if round(mark / 10.0 ** math.floor(math.log10(mark) + 1e-9)) == 5 else 5
        decimals = max(0, min(9, -math.floor(math.log10(mark * every) + 1e-9)))
        first = math.ceil((position - span / 2) / mark)
        for k in range(first, first + 60):
            x = middle + (k * mark - position) * per_unit
            if x > ends[1]:
                break
            labelled = k % every == 0
            painter.setPen(theme.pen(hue, 1.4 if labelled else 1))
            painter.drawLine(QPointF(x, y), QPointF(x, y + (14 if labelled else 8)))
            if labelled and ends[0] + 20 < x < ends[1] - 20:
                box = QRectF(x - 60, y + 16, 120, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, figures.position(k * mark, decimals))
