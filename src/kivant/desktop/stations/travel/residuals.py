"""What a fit leaves unexplained: a mark for each reading, over position, its shape telling the side it came from."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.travel.calibrating import Fit, Observation
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class Residuals(QWidget):
    """The chart; triangles point the way the axis came."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.readings: list[Observation] = []
        self.fit: Fit | None = None
        self.setMinimumSize(200, 110)
        self.setAccessibleName("Residuals over position")
        session.theme_changed.connect(self.update)

    def show_fit(self, readings: list[Observation], found: Fit | None) -> None:
        """Show the residuals of a fit, None where there is none."""
        self.readings, self.fit = list(readings), found
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis, theme, found = self.session.choice.axis, self.session.theme, self.fit
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        if axis is None or found is None or len(found.residuals) != len(self.readings):
            painter.drawText(QRectF(self.rect()), int(Qt.AlignmentFlag.AlignCenter), "Residuals appear here.")
            return
        painter.drawText(QRectF(46, 0, self.width() - 46.0, 18), 0, f"unexplained, {axis.unit}")
        box = QRectF(46, 22, self.width() - 58.0, self.height() - 46.0)
        kept = [abs(r) for k, r in enumerate(found.residuals, start=1) if k not in found.outliers]
        most = max([*kept, 1e-12]) * 1.25
        places = [o.position for o in self.readings]
        low, high = min(places), max(places)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawRect(box)
        painter.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()))
        painter.setPen(theme.color("muted"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, box.top() - 9, 42, 18), right, f"{most:.2g}")
        painter.drawText(QRectF(box.left(), box.bottom() + 3, 90, 18), 0, figures.short(low))
        painter.drawText(
            QRectF(box.right() - 90, box.bottom() + 3, 90, 18), Qt.AlignmentFlag.AlignRight, figures.short(high)
        )
        for number, (reading, off) in enumerate(zip(self.readings, found.residuals, strict=True), start=1):
            x = box.left() + box.width() * ((reading.position - low) / (high - low) if high > low else 0.5)
            out = number in found.outliers
            y = box.center().y() - box.height() / 2 * min(max(off / most, -1.0), 1.0)
            color = theme.color("bad") if out else theme.axis(self.session.choice.index)
            painter.setPen(theme.pen(color, 1.6))
            painter.setBrush(color if reading.approach >= 0 and not out else Qt.BrushStyle.NoBrush)
            way = 1 if reading.approach >= 0 else -1
            painter.drawPolygon(
                QPolygonF([QPointF(x - 4 * way, y - 5), QPointF(x - 4 * way, y + 5), QPointF(x + 5 * way, y)])
            )
