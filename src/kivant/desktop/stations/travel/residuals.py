"""What a fit leaves unexplained, and after a calibration the errors before and after it: a mark for each reading."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.app.measuring import Measuring
from kivant.core.travel.calibrating import Fit, Observation
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_LEFT, _TOP = 46.0, 22.0  # for the figure beside a chart, and its name above it
_APART = 20.0


def errors_of(readings: Sequence[Observation]) -> list[float]:
    """Return by how much each reading is off the commanded position, in axis units; the zero is theirs."""
    off = [o.observed - o.position for o in readings]
    middle = (max(off) + min(off)) / 2 if off else 0.0
    return [own - middle for own in off]


class Residuals(QWidget):
    """The charts over position; triangles point the way the axis came."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.readings: list[Observation] = []
        self.before: list[Observation] = []
        self.fit: Fit | None = None
        self.setMinimumSize(200, 110)
        self.setAccessibleName("Residuals over position")
        session.theme_changed.connect(self.update)

    def show_fit(self, measuring: Measuring, found: Fit | None) -> None:
        """Show the residuals of a fit, None where there is none; or errors before and after a calibration."""
        self.readings, self.before, self.fit = list(measuring.read), list(measuring.before), found
        said = ""
        if self.before and self.readings:
            before, now = (max(map(abs, errors_of(own))) for own in (self.before, self.readings))
            said = f"Errors of up to ±{figures.rough(before)} before the calibration, ±{figures.rough(now)} with it."
        self.setAccessibleDescription(said)
        self.setToolTip(said)
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, found = self.session.choice.axis, self.fit
        painter.setFont(font("small"))
        painter.setPen(self.session.theme.color("muted"))
        if axis is None:
            return
        if self.before:
            self._paint_comparison(painter, axis.unit)
        elif found is None or len(found.residuals) != len(self.readings):
            painter.drawText(QRectF(self.rect()), int(Qt.AlignmentFlag.AlignCenter), "Residuals appear here.")
        else:
            kept = [abs(r) for k, r in enumerate(found.residuals, start=1) if k not in found.outliers]
            name = f"unexplained, {axis.unit}"
            self._paint(
                painter, self._box(0, 1), name, self.readings, found.residuals, max(kept, default=0.0), found.outliers
            )

    def _box(self, place: int, count: int) -> QRectF:
        wide = (self.width() - 12.0 - _LEFT - _APART * (count - 1)) / count
        return QRectF(_LEFT + place * (wide + _APART), _TOP, wide, self.height() - _TOP - 24.0)

    def _paint_comparison(self, painter: QPainter, unit: str) -> None:
        """Draw the errors before and now side by side, to one scale."""
        before, now = errors_of(self.before), errors_of(self.readings)
        most = max(map(abs, before))
        self._paint(painter, self._box(0, 2), f"error before, {unit}", self.before, before, most)
        name = f"now within ±{figures.rough(max(map(abs, now)))} {unit}" if now else "now: read at some places again"
        self._paint(painter, self._box(1, 2), name, self.readings, now, max([most, *map(abs, now)]), scale=False)

    def _paint(
        self, painter: QPainter, box: QRectF, name: str, readings: Sequence[Observation], values: Sequence[float],
        most: float, outliers: Collection[int] = (), *, scale: bool = True,
    ) -> None:  # fmt: skip
        theme, most = self.session.theme, max(most, 1e-12) * 1.25
        places = [o.position for o in readings]
        low, high = min(places, default=0.0), max(places, default=0.0)
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(box.left(), 0, box.width(), 18), 0, name)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        painter.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()))
        painter.setPen(theme.color("muted"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if scale:
            painter.drawText(QRectF(0, box.top() - 9, _LEFT - 4, 18), right, figures.rough(most))
        if readings:
            below = QRectF(box.left(), box.bottom() + 3, box.width(), 18)
            painter.drawText(below, Qt.AlignmentFlag.AlignLeft, figures.short(low))
            painter.drawText(below, Qt.AlignmentFlag.AlignRight, figures.short(high))
        for number, (reading, off) in enumerate(zip(readings, values, strict=True), start=1):
            x = box.left() + box.width() * ((reading.position - low) / (high - low) if high > low else 0.5)
            out = number in outliers
            y = box.center().y() - box.height() / 2 * min(max(off / most, -1.0), 1.0)
            color = theme.color("bad") if out else theme.axis(self.session.choice.index)
            painter.setPen(theme.pen(color, 1.6))
            painter.setBrush(color if reading.approach >= 0 and not out else Qt.BrushStyle.NoBrush)
            way = 1 if reading.approach >= 0 else -1
            painter.drawPolygon(
                QPolygonF([QPointF(x - 4 * way, y - 5), QPointF(x - 4 * way, y + 5), QPointF(x + 5 * way, y)])
            )
