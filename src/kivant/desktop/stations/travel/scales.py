"""Two scales side by side: steps above, the axis's unit below, around the position that is asked about."""

from __future__ import annotations

import math
from fractions import Fraction

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtWidgets import QWidget

from kivant.core.travel.conversion import Conversion
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale, paint_marks
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_STEPS_SHOWN, _LEAST_SHOWN, _MOST_SHOWN = 24.0, 6.0, 1e6
_ZOOM = 1.25  # of one notch of the wheel
_KEYS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
_ZOOMS = {Qt.Key.Key_Plus: 1 / _ZOOM, Qt.Key.Key_Minus: _ZOOM}


class Scales(QWidget):
    """Shows where between two steps a position lies; dragged, it slides under the pointer, and the wheel zooms.

    ``moved`` tells the position, in axis units, that was slid to.
    """

    moved = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Conversion | None = None
        self.setMinimumHeight(120)
        self.span = _STEPS_SHOWN
        self._held: tuple[float, Fraction] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Steps and positions side by side")
        self.setToolTip("Drag to slide, or Left and Right by one step; the wheel, or + and −, zooms.")
        session.theme_changed.connect(self.update)

    def show_position(self, found: Conversion) -> None:
        """Show the surroundings of a position."""
        self.found = found
        self.update()

    def _per_step(self) -> float:
        return max(self.width() - 80.0, 1.0) / self.span

    def zoom(self, factor: float) -> None:
        """Show so many times as many steps."""
        self.span = min(max(self.span * factor, _LEAST_SHOWN), _MOST_SHOWN)
        self.update()

    def _slide(self, begin: Fraction, steps: float) -> None:
        """Tell a position so many steps from another one, as round as the pixels are fine."""
        if self.found is None:
            return
        place = float(begin) + steps / float(self.found.steps_per_unit)
        digits = max(0, 2 - math.floor(math.log10(self.span / float(self.found.steps_per_unit))))
        self.moved.emit(Fraction(f"{place:.{min(digits, 15)}f}"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.found is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = event.position().x(), self.found.position

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._slide(self._held[1], (self._held[0] - event.position().x()) / self._per_step())

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(_ZOOM ** (-event.angleDelta().y() / 120))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in _KEYS and self.found is not None:
            # To the step itself, exactly.
            steps = self.found.steps + _KEYS[key]
            self.moved.emit(steps / self.found.steps_per_unit)
        elif key in _ZOOMS:
            self.zoom(_ZOOMS[key])
        else:
            event.ignore()

    def event(self, event: QEvent) -> bool:
        asked = event.type() == QEvent.Type.ShortcutOverride
        if asked and isinstance(event, QKeyEvent) and (event.key() in _KEYS or event.key() in _ZOOMS):
            event.accept()
            return True
        return super().event(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        found, axis = self.found, self.session.choice.axis
        if found is None or axis is None:
            return
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        left, right = 60.0, self.width() - 20.0
        steps_y, unit_y = self.height() * 0.40, self.height() * 0.70
        painter.setFont(font("small"))
        for y, name, color in ((steps_y, "steps", theme.color("ink")), (unit_y, axis.unit, hue)):
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.setPen(color)
            painter.drawText(QRectF(0, y - 10, 50, 20), Qt.AlignmentFlag.AlignVCenter, name)
        one = max(int(figures.nice_span(self.span / _STEPS_SHOWN)), 1)
        every = (2 if len(str(found.steps)) < 8 else 6) * one
        # Counted from a step nearby: far from 0, floats could not tell one step from the next.
        base = found.steps - found.steps % every
        here = float(found.steps_exact - base)
        steps = Scale(here - self.span / 2, here + self.span / 2, left, right)
        ink = theme.color("ink")
        paint_marks(
            painter, steps, steps_y, one, every // one, (-9, -16), lambda k: figures.grouped(base + k * one), ink
        )
        self._paint_unit_scale(painter, found, (left, right), unit_y)
        x = steps.at(float(found.steps - base))
        painter.setPen(theme.pen(theme.color("accent"), 3))
        painter.drawLine(QPointF(x, steps_y), QPointF(x, steps_y - 18))
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawLine(QPointF(steps.at(here), steps_y + 2), QPointF(steps.at(here), unit_y + 14))

    def _paint_unit_scale(self, painter: QPainter, found: Conversion, ends: tuple[float, float], y: float) -> None:
        half = self.span / 2 / float(found.steps_per_unit)
        mark = figures.nice_span(half / 20)
        # Labels stand on round figures: 5, 10 or 20 where the marks are 1, 2 or 5 apart.
        every = 4 if round(mark / 10.0 ** math.floor(math.log10(mark) + 1e-9)) == 5 else 5
        decimals = max(0, min(9, -math.floor(math.log10(mark * every) + 1e-9)))
        position = float(found.position)
        scale = Scale(position - half, position + half, *ends)
        hue = self.session.theme.axis(self.session.choice.index)
        paint_marks(painter, scale, y, mark, every, (8, 14), lambda k: figures.position(k * mark, decimals), hue)
