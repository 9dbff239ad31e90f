"""The stages of the Travel station's chain as drawings: wheels, gearbox, belt and screw.

All of them turn and slide as the axis does: a turn is positive clockwise on the screen.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from msgspec import Struct
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from kivant.core.travel.stages import stage_ratio
from kivant.desktop.stations.travel.brush import Brush

_FINEST_PITCH = 5.0  # pixels from tooth to tooth
_MOST_TEETH = 90


def _paint_gears(brush: Brush, stage: Any, room: float, before: float, after: float, _share: float) -> None:
    """Two wheels that mesh, their teeth those of the stage as far as they can be drawn."""
    share = min(max(stage.driving / (stage.driving + stage.driven), 0.2), 0.8)
    pitch = max(4 * math.pi * room / (stage.driving + stage.driven), _FINEST_PITCH)
    radii = 2 * room * share, 2 * room * (1 - share)
    contact = brush.middle.x() - 2 * room + 2 * radii[0]
    counts = [min(max(round(2 * math.pi * radius / pitch), 6), _MOST_TEETH) for radius in radii]
    # A tooth of the first wheel points at the second where neither has turned, a gap of the second at the first.
    rests = 0.25, 0.75 + 0.5 / counts[1]
    for radius, count, rest, turns, side in zip(radii, counts, rests, (before, after), (-1, 1), strict=True):
        center = QPointF(contact + side * radius, brush.middle.y())
        brush.ink()
        painter = brush.painter
        painter.save()
        painter.translate(center)
        painter.rotate(360 * ((turns + rest) % 1.0))
        painter.drawPolygon(_wheel(radius, count))
        painter.restore()
        painter.drawEllipse(center, max(radius * 0.12, 3.0), max(radius * 0.12, 3.0))
        brush.mark(center, radius * 0.62, turns)
    if not stage.reverses:  # a wheel between them turns the sense back
        brush.ink()
        brush.painter.drawEllipse(QPointF(contact, brush.middle.y()), pitch * 0.9, pitch * 0.9)
        brush.painter.drawEllipse(QPointF(contact, brush.middle.y()), 1.5, 1.5)


def _wheel(radius: float, count: int) -> QPolygonF:
    """Return the rim of a wheel with a tooth at the top."""
    module = 2 * radius / count
    tip, root = radius + 0.75 * module, radius - 0.95 * module
    corners = [
        (2 * math.pi * (k + offset) / count, reach)
        for k in range(count)
        for offset, reach in ((-0.30, root), (-0.14, tip), (0.14, tip), (0.30, root))
    ]
    return QPolygonF([QPointF(math.sin(angle), -math.cos(angle)) * reach for angle, reach in corners])


def _paint_gearbox(brush: Brush, _stage: Any, room: float, before: float, after: float, _share: float) -> None:
    """A closed box of which only the two shafts are known."""
    painter, middle = brush.painter, brush.middle
    brush.ink()
    painter.drawRoundedRect(QRectF(middle.x() - 1.5 * room, middle.y() - room, 3 * room, 2 * room), 8, 8)
    for offset, radius, turns in ((-0.75, 0.3, before), (0.6, 0.62, after)):
        center = middle + QPointF(offset * room, 0)
        brush.ink()
        painter.drawEllipse(center, radius * room, radius * room)
        painter.drawEllipse(center, 3, 3)
        brush.mark(center, radius * room * 0.62, turns)


def _paint_belt(brush: Brush, _stage: Any, room: float, turns: float, _after: float, _share: float) -> None:
    """Two pulleys and the belt, its marks as far apart as half a turn of the pulley moves it."""
    painter, middle = brush.painter, brush.middle
    radius, reach = room * 0.6, room * 1.3
    brush.ink()
    box = QRectF(middle.x() - reach - radius, middle.y() - radius, 2 * (reach + radius), 2 * radius)
    painter.drawRoundedRect(box, radius, radius)
    for side in (-1, 1):
        center = middle + QPointF(side * reach, 0)
        brush.ink()
        painter.drawEllipse(center, radius * 0.8, radius * 0.8)
        painter.drawEllipse(center, 3, 3)
        brush.mark(center, radius * 0.5, turns)
    painter.setPen(brush.theme.pen(brush.hue, 2.4))
    gap = math.pi * radius
    for side in (-1, 1):  # the upper run goes with the turn, the lower against it
        at = (-side * turns * 2 * gap) % gap
        while at < 2 * reach:
            x, y = middle.x() - reach + at, middle.y() + side * radius
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
            at += gap


def _paint_screw(brush: Brush, _stage: Any, room: float, turns: float, _after: float, share: float) -> None:
    """A screw whose thread wanders as it turns, and the nut on it."""
    painter, middle = brush.painter, brush.middle
    box = QRectF(middle.x() - 2 * room, middle.y() - room * 0.3, 4 * room, room * 0.6)
    brush.ink()
    painter.drawRect(box)
    painter.save()
    painter.setClipRect(box)
    lead = box.width() / 12
    for k in range(-1, 13):
        x = box.left() + lead * (k + turns % 1.0)
        painter.drawLine(QPointF(x - lead * 0.3, box.bottom()), QPointF(x + lead * 0.3, box.top()))
    painter.restore()
    half = room * 0.42
    left = box.left() + (box.width() - 2 * half) * min(max(share, 0.0), 1.0)
    brush.ink()
    painter.drawRoundedRect(QRectF(left, middle.y() - room * 0.68, 2 * half, room * 1.36), 4, 4)
    brush.painter.setBrush(brush.hue)
    brush.painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(QPointF(left + half, middle.y()), 3.2, 3.2)


def _paint_pulleys(brush: Brush, stage: Any, room: float, before: float, after: float, _share: float) -> None:
    """Two pulleys of the sizes that their teeth make, and the belt around them."""
    share = min(max(stage.driving / (stage.driving + stage.driven), 0.22), 0.78)
    radii = 1.5 * room * share, 1.5 * room * (1 - share)
    centers = brush.middle + QPointF(-2 * room + radii[0], 0), brush.middle + QPointF(2 * room - radii[1], 0)
    painter = brush.painter
    painter.setPen(brush.theme.pen(brush.hue, 2.4))
    for side in (-1, 1):
        ends = [center + QPointF(0, side * radius) for center, radius in zip(centers, radii, strict=True)]
        painter.drawLine(*ends)
    for center, radius, turns in zip(centers, radii, (before, after), strict=True):
        brush.ink()
        painter.drawEllipse(center, radius, radius)
        painter.drawEllipse(center, 3, 3)
        brush.mark(center, radius * 0.62, turns)


def _paint_worm(brush: Brush, stage: Any, room: float, before: float, after: float, _share: float) -> None:
    """A worm over its wheel: its thread wanders as it turns."""
    painter, radius = brush.painter, room * 0.95
    center = brush.middle + QPointF(0, room * 0.45)
    count = min(max(stage.teeth, 8), _MOST_TEETH)
    brush.ink()
    painter.save()
    painter.translate(center)
    painter.rotate(360 * (after % 1.0))
    painter.drawPolygon(_wheel(radius, count))
    painter.restore()
    painter.drawEllipse(center, max(radius * 0.12, 3.0), max(radius * 0.12, 3.0))
    brush.mark(center, radius * 0.62, after)
    box = QRectF(brush.middle.x() - room, center.y() - radius - room * 0.5, 2 * room, room * 0.46)
    brush.ink()
    painter.drawRoundedRect(box, 3, 3)
    painter.save()
    painter.setClipRect(box)
    gap = box.width() / 7
    for k in range(-1, 9):
        x = box.left() + gap * (k + before % 1.0)
        painter.drawLine(QPointF(x - gap * 0.4, box.bottom()), QPointF(x + gap * 0.4, box.top()))
    painter.restore()


def _paint_rack(brush: Brush, stage: Any, room: float, turns: float, _after: float, share: float) -> None:
    """A pinion on its rack; the rack goes as far as the tool."""
    painter, radius = brush.painter, room * 0.7
    count = min(max(stage.teeth, 8), _MOST_TEETH)
    center = brush.middle - QPointF(0, room * 0.2)
    brush.ink()
    painter.save()
    painter.translate(center)
    painter.rotate(360 * (turns % 1.0))
    painter.drawPolygon(_wheel(radius, count))
    painter.restore()
    painter.drawEllipse(center, 3, 3)
    brush.mark(center, radius * 0.6, turns)
    pitch, top = 2 * math.pi * radius / count, center.y() + radius * 1.02
    left, right = brush.middle.x() - 2 * room, brush.middle.x() + 2 * room
    at = left - pitch + (-turns * count * pitch) % pitch
    corners = [QPointF(left, top + room * 0.42), QPointF(left, top + pitch * 0.3)]
    while at < right:
        for part, depth in ((0.0, 0.3), (0.2, -0.25), (0.5, -0.25), (0.7, 0.3)):
            x = at + part * pitch
            if left <= x <= right:
                corners.append(QPointF(x, top + depth * pitch))
        at += pitch
    brush.ink()
    painter.drawPolygon(QPolygonF([*corners, QPointF(right, top + pitch * 0.3), QPointF(right, top + room * 0.42)]))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(brush.hue)
    painter.drawEllipse(QPointF(left + (right - left) * min(max(share, 0.0), 1.0), top + room * 0.3), 3.2, 3.2)


def _paint_drum(brush: Brush, _stage: Any, room: float, turns: float, _after: float, share: float) -> None:
    """A drum, and the cord that it winds with what hangs at it."""
    painter, radius = brush.painter, room * 0.72
    center = brush.middle - QPointF(room * 0.4, room * 0.25)
    brush.ink()
    painter.drawEllipse(center, radius, radius)
    painter.drawEllipse(center, 3, 3)
    brush.mark(center, radius * 0.62, turns)
    x = center.x() + radius
    y = center.y() + room * (0.5 + 0.9 * min(max(share, 0.0), 1.0))
    painter.setPen(brush.theme.pen(brush.hue, 2))
    painter.drawLine(QPointF(x, center.y()), QPointF(x, y))
    brush.ink()
    painter.drawRoundedRect(QRectF(x - room * 0.28, y, room * 0.56, room * 0.34), 3, 3)


def _small_wheels(painter: QPainter, stage: Any, box: QRectF) -> None:
    """Two wheels that touch, as large as their turns are slow."""
    y = box.center().y()
    slowing = min(max(float(stage_ratio(stage)), 0.3), 3.3)
    whole = min(box.width(), 24.0) / 2
    first = whole / (1 + slowing)
    start = box.center().x() - whole
    painter.drawEllipse(QPointF(start + first, y), first, first)
    painter.drawEllipse(QPointF(start + whole + first, y), whole - first, whole - first)


def _small_belt(painter: QPainter, _stage: Any, box: QRectF) -> None:
    y, radius = box.center().y(), min(5.0, box.width() / 4)
    painter.drawRoundedRect(QRectF(box.left(), y - radius, box.width(), 2 * radius), radius, radius)
    painter.drawEllipse(QPointF(box.left() + radius, y), 1.2, 1.2)
    painter.drawEllipse(QPointF(box.right() - radius, y), 1.2, 1.2)


def _small_screw(painter: QPainter, _stage: Any, box: QRectF) -> None:
    y, turns = box.center().y(), max(int(box.width() / 7), 1)
    painter.drawRect(QRectF(box.left(), y - 4.5, box.width(), 9))
    slants = [box.left() + k * box.width() / turns for k in range(turns)]
    painter.drawLines([QLineF(x, y + 4.5, x + box.width() / turns, y - 4.5) for x in slants])


def _small_rack(painter: QPainter, _stage: Any, box: QRectF) -> None:
    y, radius = box.center().y(), 4.5
    painter.drawEllipse(QPointF(box.center().x(), y - 2), radius, radius)
    painter.drawLine(QPointF(box.left(), y + radius), QPointF(box.right(), y + radius))


def _small_drum(painter: QPainter, _stage: Any, box: QRectF) -> None:
    y, radius = box.center().y() - 1, 5.0
    x = box.center().x()
    painter.drawEllipse(QPointF(x, y), radius, radius)
    painter.drawLine(QPointF(x + radius, y), QPointF(x + radius, y + 8))


class StagePicture(Struct, frozen=True):
    """How a kind of stage is drawn.

    Parameters
    ----------
    large : callable (brush, stage, room, before, after, share)
        Draws it four times `room` pixels wide; `before` and `after` are the turns of the shafts before and behind
        it, `share` where between its ends the tool is, from 0 to 1.
    small : callable (painter, stage, box)
        Draws its sign in a box of the chain's plate, in the painter's own pen.
    """

    large: Callable[[Brush, Any, float, float, float, float], None]
    small: Callable[[QPainter, Any, QRectF], None]


PICTURES: dict[str, StagePicture] = {
    "gear": StagePicture(_paint_gears, _small_wheels),
    "worm": StagePicture(_paint_worm, _small_wheels),
    "pulleys": StagePicture(_paint_pulleys, _small_wheels),
    "ratio": StagePicture(_paint_gearbox, _small_wheels),
    "belt": StagePicture(_paint_belt, _small_belt),
    "screw": StagePicture(_paint_screw, _small_screw),
    "rack": StagePicture(_paint_rack, _small_rack),
    "drum": StagePicture(_paint_drum, _small_drum),
}
"""The pictures of each kind of stage."""
