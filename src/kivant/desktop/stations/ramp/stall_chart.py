"""The stall map: speed across, acceleration up, shaded by what the simulated rotor does; the ramp is a point on it."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.ramps.stall_map import FOLLOWS, SLIPS, SURE, StallMap, model_line
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale, paint_handles
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Theme, Token, font
from kivant.desktop.state.session import Session

_LEFT, _RIGHT, _TOP, _BOTTOM = 74.0, 16.0, 30.0, 42.0
_REACH = 16.0
_TURN = 0.05
_FATES: dict[int, tuple[Token, str]] = {
    SLIPS: ("bad", "slips"), FOLLOWS: ("warn", "follows"), SURE: ("good", "follows with the margin"),
}  # fmt: skip
_KEYS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Down: (0, -1), Qt.Key.Key_Up: (0, 1)}

Drag = Callable[[float, float, bool], None]
"""Takes a speed, an acceleration, and whether it goes on a drag."""


class StallChart(QWidget):
    """The map of the chosen axis as far as it is known."""

    def __init__(self, session: Session, drag: Drag) -> None:
        super().__init__()
        self.session, self.drag = session, drag
        self.map: StallMap | None = None
        self.why_not = ""
        self.lines: list[tuple[np.ndarray, np.ndarray]] = []
        self.held = False
        self._merge = False
        self.setMinimumSize(360, 240)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stall map: arrow keys change speed and acceleration")
        session.theme_changed.connect(self.update)

    def show_map(self, axis: Axis, found: StallMap | None, why_not: str = "") -> None:
        """Show a map, and the bounds that the torque model sets without and with the margin; or why there is none."""
        if found is not None and (found is not self.map or not self.lines):
            machine = self.session.document.machine
            margins = (1.0, axis.margin or USUAL_MARGIN)
            self.lines = [model_line(machine, axis, found.ranges, margin) for margin in margins]
        self.map, self.why_not = found, why_not
        self.update()

    # Geometry

    @property
    def box(self) -> QRectF:
        """Where the map is."""
        return QRectF(_LEFT, _TOP, max(self.width() - _LEFT - _RIGHT, 1.0), max(self.height() - _TOP - _BOTTOM, 1.0))

    def _scales(self, found: StallMap) -> tuple[Scale, Scale]:
        box, ranges = self.box, found.ranges
        up = Scale(math.log10(ranges.least), math.log10(ranges.most), box.bottom(), box.top())
        return Scale(0.0, ranges.speed, box.left(), box.right()), up

    def point(self, speed: float, acceleration: float) -> QPointF:
        """Return where a ramp is."""
        if self.map is None:
            return QPointF()
        across, up = self._scales(self.map)
        return QPointF(across.at(speed), up.at(math.log10(acceleration)))

    def value(self, at: QPointF) -> tuple[float, float] | None:
        """Return the speed and acceleration of a place, within the map, on three digits."""
        if self.map is None:
            return None
        (across, up), ranges = self._scales(self.map), self.map.ranges
        speed = min(max(across.value(at.x()), ranges.speed / 500), ranges.speed)
        rate = min(max(10.0 ** up.value(at.y()), ranges.least), ranges.most)
        return float(f"{speed:.3g}"), float(f"{rate:.3g}")

    def fate(self, speed: float, acceleration: float) -> str:
        """Say what a ramp would do, an empty text where that is not known."""
        if self.map is None:
            return ""
        ranges, size = self.map.ranges, len(self.map.cells)
        column = min(int(speed / ranges.speed * size), size - 1)
        share = math.log(acceleration / ranges.least) / math.log(ranges.most / ranges.least)
        row = min(max(int(share * size), 0), size - 1)
        return _FATES.get(int(self.map.cells[row, column]), ("muted", ""))[1]

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        theme = self.session.theme
        if self.map is None:
            painter.setPen(theme.color("bad" if self.why_not else "muted"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.box, int(flags), self.why_not or "Simulating the first moves …")
            return
        self._paint_cells(painter, theme, self.map)
        self._paint_scales(painter, theme, axis, self.map)
        self._paint_model(painter, theme, self.map)
        self._paint_legend(painter, theme, axis, self.map)
        at = {"ramp": self.point(axis.limits.speed, axis.limits.acceleration)}
        hue = theme.axis(self.session.choice.index)
        paint_handles(painter, theme, hue, at, "ramp" if self.held else None, "ramp" if self.hasFocus() else None)

    def _paint_cells(self, painter: QPainter, theme: Theme, found: StallMap) -> None:
        box, size = self.box, len(found.cells)
        wide, high = box.width() / size, box.height() / size
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(Qt.PenStyle.NoPen)
        for fate in _FATES:
            painter.setBrush(_shade(theme, fate))
            for row, column, count in _runs(found.cells == fate):
                left, top = round(box.left() + column * wide), round(box.bottom() - (row + 1) * high)
                right, bottom = round(box.left() + (column + count) * wide), round(box.bottom() - row * high)
                painter.drawRect(left, top, right - left, bottom - top)
                if fate == SLIPS:  # told by more than its colour
                    painter.setBrush(QColor(theme.tint(theme.color("bad"), 0.35)))
                    painter.drawRect(left, (top + bottom) // 2, right - left, 1)
                    painter.setBrush(_shade(theme, fate))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _paint_scales(self, painter: QPainter, theme: Theme, axis: Axis, found: StallMap) -> None:
        box, (across, up) = self.box, self._scales(found)
        painter.setFont(font("small"))
        step = across.step(84)
        for k in across.ticks(step):
            x = across.at(k * step)
            painter.setPen(theme.color("muted"))
            area = QRectF(min(x - 40, self.width() - 80), box.bottom() + 3, 80, 18)
            painter.drawText(area, Qt.AlignmentFlag.AlignHCenter, figures.short(k * step))
        title = f"speed, {axis.unit}/s"
        painter.drawText(QRectF(box.left(), box.bottom() + 20, box.width(), 18), Qt.AlignmentFlag.AlignHCenter, title)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for decade in range(math.floor(up.low), math.ceil(up.high) + 1):
            for digit in (1, 2, 5):
                value = digit * 10.0**decade
                if found.ranges.least <= value <= found.ranges.most:
                    y = up.at(math.log10(value))
                    painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.5), 1))
                    painter.drawLine(QPointF(box.left() - 4, y), QPointF(box.left(), y))
                    painter.setPen(theme.color("muted"))
                    painter.drawText(QRectF(0, y - 9, box.left() - 9, 18), right, figures.short(value))

    def _paint_model(self, painter: QPainter, theme: Theme, found: StallMap) -> None:
        painter.save()
        painter.setClipRect(self.box)
        for (speeds, rates), pattern in zip(self.lines, (0, 1), strict=True):
            points = [self.point(v, max(a, 1e-12)) for v, a in zip(speeds.tolist(), rates.tolist(), strict=True)]
            last = points[-1]
            painter.setPen(theme.pen(theme.color("ink"), 1.8, axis=pattern))
            painter.drawPolyline(QPolygonF([*points, QPointF(last.x(), self.box.bottom())]))
        painter.restore()

    def _paint_legend(self, painter: QPainter, theme: Theme, axis: Axis, found: StallMap) -> None:
        painter.setFont(font("small"))
        x = _LEFT
        for fate, (_token, word) in _FATES.items():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(_shade(theme, fate))
            painter.drawRect(QRectF(x, 9, 12, 12))
            painter.setPen(theme.color("ink"))
            text = word if fate != SURE else f"follows with margin {figures.plain(axis.margin or USUAL_MARGIN)}"
            painter.drawText(QPointF(x + 17, 19), text)
            x += 17 + painter.fontMetrics().horizontalAdvance(text) + 16
        painter.setPen(theme.color("muted"))
        going = "" if found.done else " …"
        told = f"acceleration, {axis.unit}/s²; lines: torque model; {found.simulated} moves simulated{going}"
        room = QRectF(x, 6, self.width() - x - _RIGHT, 18)
        shown = painter.fontMetrics().elidedText(told, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shown)

    # Hand and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        axis = self.session.choice.axis
        if axis is None or event.button() != Qt.MouseButton.LeftButton or self.session.running.active:
            return
        near = self.point(axis.limits.speed, axis.limits.acceleration) - event.position()
        self.held = self.map is not None and near.manhattanLength() <= _REACH
        self._merge = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        value = self.value(event.position())
        if self.held and value is not None:
            self.drag(*value, self._merge)
            self._merge = True
        elif value is not None and self.box.contains(event.position()):
            axis = self.session.choice.axis
            unit = axis.unit if axis else ""
            fate = self.fate(*value) or ("too long to be simulated" if self.map and self.map.done else "not known yet")
            words = f"{figures.short(value[0])} {unit}/s, {figures.short(value[1])} {unit}/s²: {fate}"
            self.setToolTip(literal(words))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self.held = False
        self.update()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in _KEYS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        axis, way = self.session.choice.axis, _KEYS.get(Qt.Key(event.key()))
        if axis is None or way is None or self.map is None or self.session.running.active:
            event.ignore()
            return
        limits = axis.limits
        speed = float(f"{limits.speed * (1 + _TURN * way[0]):.3g}")
        rate = float(f"{limits.acceleration * (1 + _TURN * way[1]):.3g}")
        self.drag(speed, rate, self._merge)
        self._merge = True

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self._merge = False
        self.update()


def _shade(theme: Theme, fate: int) -> QColor:
    return theme.tint(theme.color(_FATES[fate][0]), {SLIPS: 0.30, FOLLOWS: 0.34, SURE: 0.26}[fate])


def _runs(cells: np.ndarray) -> list[tuple[int, int, int]]:
    """Return the runs of true cells in each row: row, first column, count."""
    found = []
    for row in range(len(cells)):
        edges = np.flatnonzero(np.diff(np.concatenate(([0], cells[row].astype(np.int8), [0]))))
        found += [(row, int(a), int(b - a)) for a, b in edges.reshape(-1, 2).tolist()]
    return found
