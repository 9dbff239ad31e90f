"""The pointer at the tool: a piece of its scale, as the eye at the bench would see it."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.machine.parts import Unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_GRADUATIONS: dict[Unit, tuple[float, float, int]] = {"deg": (10.0, 0.2, 5), "mm": (5.0, 0.1, 10)}
"""How much of the scale is seen, how far its lines are apart, and how many of them make a numbered one."""


class ToolPointer(QWidget):
    """What the pointer of the chosen axis shows, hidden where the board has none."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.value: float | None = None
        self.setFixedHeight(58)
        self.setMinimumWidth(200)
        self.setAccessibleName("Pointer at the tool")
        self.hide()
        session.theme_changed.connect(self.update)

    def show_value(self, value: float | None) -> None:
        """Show a position in axis units."""
        self.value = value
        self.setVisible(value is not None)
        axis = self.session.choice.axis
        if axis is not None and value is not None:
            said = f"The pointer shows {value:.2f} {axis.unit}. Read it off as exactly as you can."
            self.setToolTip(said)
            self.setAccessibleDescription(said)
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, theme, value = self.session.choice.axis, self.session.theme, self.value
        if axis is None or value is None:
            return
        seen, apart, numbered = _GRADUATIONS[axis.unit]
        strip = QRectF(0.5, 18.5, self.width() - 1.0, self.height() - 19.0)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(strip, 3, 3)
        painter.setFont(font("small"))
        # The strip is fixed and the pointer moves over it, as at the machine: it begins at a numbered line.
        whole = apart * numbered
        low = math.floor((value - seen / 2) / whole) * whole
        per_unit = strip.width() / (seen + whole)
        for number in range(math.ceil((seen + whole) / apart) + 1):
            x = strip.left() + number * apart * per_unit
            long, middle = number % numbered == 0, 2 * number % numbered == 0
            painter.setPen(theme.pen(theme.color("ink" if long else "muted"), 1.2 if long else 0.8))
            painter.drawLine(QPointF(x, strip.top()), QPointF(x, strip.top() + (13 if long else 10 if middle else 7)))
            if long and 0 < number * apart < seen + whole:  # the ends of the strip have no room for theirs
                box = QRectF(x - 30, strip.bottom() - 21, 60, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, figures.short(round(low + number * apart, 6)))
        x = strip.left() + (value - low) * per_unit
        hue = theme.axis(self.session.choice.index)
        painter.setPen(theme.pen(hue, 1.4))
        painter.setBrush(hue)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, 2), QPointF(x + 5, 2), QPointF(x, strip.top())]))
        painter.drawLine(QPointF(x, strip.top()), QPointF(x, strip.top() + 12))
