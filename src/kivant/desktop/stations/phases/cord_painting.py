"""The picture of lines, driver and windings with the cords between them."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from kivant.core.drive.drivers import board_lines
from kivant.core.drive.symptoms import Cause
from kivant.desktop.kit.theme import Theme, font
from kivant.desktop.stations.phases.cord_places import CordPlaces


def paint_cord(painter: QPainter, begin: QPointF, end: QPointF, pen: QPen) -> None:
    """Paint a cord that hangs between two sockets."""
    bend = max(abs(end.x() - begin.x()) * 0.5, 18.0)
    path = QPainterPath(begin)
    path.cubicTo(begin + QPointF(bend, 0), end - QPointF(bend, 0), end)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def paint_driver(painter: QPainter, theme: Theme, places: CordPlaces) -> None:
    """Paint the driver with its lines, and what each column is."""
    _begin, left, right, end = places.columns
    painter.setFont(font("small"))
    painter.setPen(theme.color("muted"))
    for x, text in ((6.0, "board"), ((left + right) / 2 - 40, "driver"), (end + 8, "windings")):
        flag = Qt.AlignmentFlag.AlignHCenter if text == "driver" else Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(x, 2, 80, 18), flag, text)
    painter.setPen(theme.pen(theme.color("edge"), 1.5))
    painter.setBrush(theme.color("sheet"))
    painter.drawRoundedRect(QRectF(left, 22, right - left, places.height - 34), 7, 7)
    painter.setFont(font("strong"))
    painter.setPen(theme.color("ink"))
    for key, at in places.inputs.items():
        box = QRectF(left + (0 if places.switched else 10), at.y() - 9, right - left, 18)
        flag = Qt.AlignmentFlag.AlignHCenter if places.switched else Qt.AlignmentFlag.AlignLeft
        painter.drawText(box, flag | Qt.AlignmentFlag.AlignVCenter, key)


def paint_windings(painter: QPainter, theme: Theme, places: CordPlaces) -> None:
    """Paint each coil between its ends, with its tap where the motor has one, and the names of the wires."""
    pen, aside = theme.pen(theme.color("muted"), 1.6), QPointF(14, 0)
    for first, second in (("A", "C"), ("B", "D")):
        top, bottom = places.ends[first], places.ends[second]
        _paint_coil(painter, pen, top + aside, bottom + aside)
        if places.axis.motor.winding == "unipolar":
            middle = _middle(top, bottom) + aside
            painter.setPen(pen)
            painter.drawLine(middle + QPointF(4, 0), middle + QPointF(16, 0))
            _paint_name(painter, theme, places, middle + QPointF(20, 0), f"+ {places.lead(first + second)}".strip())
    for end, at in places.ends.items():
        _paint_name(painter, theme, places, at + QPointF(26, 0), f"{end} {places.lead(end)}".strip(), strong=True)


def _paint_name(
    painter: QPainter, theme: Theme, places: CordPlaces, at: QPointF, text: str, *, strong: bool = False
) -> None:
    painter.setFont(font("strong" if strong else "small"))
    painter.setPen(theme.color("ink" if strong else "muted"))
    room = places.width - at.x() - 2
    shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
    painter.drawText(QRectF(at.x(), at.y() - 10, room, 20), Qt.AlignmentFlag.AlignVCenter, shown)


def paint_sockets(painter: QPainter, theme: Theme, places: CordPlaces, over: object) -> None:
    """Paint every socket, with the names of the board's lines; `over` is the one that a plug is held over."""
    used = set(board_lines(places.axis.driver).values())
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for line, at in places.lines.items():
        painter.setFont(font("strong" if line in used else "small"))
        painter.setPen(theme.color("ink" if line in used else "muted"))
        shown = painter.fontMetrics().elidedText(line or "not wired", Qt.TextElideMode.ElideRight, int(at.x() - 14))
        painter.drawText(QRectF(0, at.y() - 10, at.x() - 12, 20), right, shown)
        _paint_socket(painter, theme, at, filled=line in used, over=over == line)
    for at in (*places.inputs.values(), *places.outputs.values()):
        _paint_socket(painter, theme, at, filled=True, over=False)
    for end, at in places.ends.items():
        _paint_socket(painter, theme, at, filled=True, over=over == end)


def paint_preview(painter: QPainter, theme: Theme, places: CordPlaces, cause: Cause) -> None:
    """Paint how the cords would be, dashed; and a cross over a line that does nothing."""
    if cause.dead in places.inputs:
        at = _middle(places.lines[places.line_of(cause.dead)], places.inputs[cause.dead])
        painter.setPen(theme.pen(theme.color("bad"), 3))
        for way in (1, -1):
            painter.drawLine(at + QPointF(-7, -7 * way), at + QPointF(7, 7 * way))
    for coil, end, now in zip("ABCD", cause.wires or places.wires, places.wires, strict=True):
        if end != now:
            dashed = theme.pen(theme.color("bad"), 2, axis=2)
            paint_cord(painter, places.outputs[coil], places.ends[end], dashed)


def _paint_socket(painter: QPainter, theme: Theme, at: QPointF, *, filled: bool, over: bool) -> None:
    color = theme.color("accent" if over else "ink")
    painter.setPen(theme.pen(color, 2 if over else 1.4))
    painter.setBrush(color if filled or over else theme.color("sheet"))
    radius = 7.0 if over else 4.5
    painter.drawEllipse(at, radius, radius)


def _middle(first: QPointF, second: QPointF) -> QPointF:
    return QPointF((first.x() + second.x()) / 2, (first.y() + second.y()) / 2)


def _paint_coil(painter: QPainter, pen: QPen, top: QPointF, bottom: QPointF) -> None:
    """Draw the turns of a coil from one point down to another."""
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(top - QPointF(14, 0), top)
    painter.drawLine(bottom - QPointF(14, 0), bottom)
    turns = 5
    tall = (bottom.y() - top.y()) / turns
    for k in range(turns):
        painter.drawArc(QRectF(top.x() - 5, top.y() + k * tall, 10, tall), -90 * 16, 180 * 16)
