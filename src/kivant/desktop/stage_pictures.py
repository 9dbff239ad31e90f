"""The parts of the Travel station's chain as drawings: motor, wheels, gearbox, belt, screw and tool.

All of them turn and slide as the axis does: a turn is positive clockwise on the screen.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.core.machine import Axis, Belt, Gear, Ratio, Screw, Stage
from kivant.core.travel import stage_ratio, steps_per_rev, steps_per_unit
from kivant.desktop import figures
from kivant.desktop.theme import Theme

_FINEST_PITCH = 5.0  # pixels from tooth to tooth
_MOST_TEETH = 90


@dataclass(frozen=True, slots=True)
class Brush:
    """What a part is drawn with, and around which point of the shaft line."""

    painter: QPainter
    theme: Theme
    hue: QColor
    middle: QPointF

    def ink(self, width: float = 1.4) -> None:
        """Draw outlines in ink on the sheet."""
        self.painter.setPen(self.theme.pen(self.theme.color("ink"), width))
        self.painter.setBrush(self.theme.color("sheet"))

    def mark(self, center: QPointF, radius: float, turns: float) -> None:
        """Draw the sign of the axis that shows how far a part has turned."""
        angle, dot = 2 * math.pi * (turns % 1.0), min(max(radius * 0.16, 1.6), 3.2)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.hue)
        self.painter.drawEllipse(center + QPointF(math.sin(angle), -math.cos(angle)) * radius, dot, dot)


def shaft_turns(axis: Axis, position: float) -> list[float]:
    """Return how far each shaft has turned as drawn, from the rotor's to the last stage's, in turns.

    Two wheels that mesh turn against each other; the tool turns the way that is positive for the axis.
    """
    turning = [stage for stage in axis.travel if isinstance(stage, Gear | Ratio)]
    turns = position * float(steps_per_unit(axis) / steps_per_rev(axis))
    if axis.positive == "ccw" and axis.unit == "deg":
        turns = -turns
    if sum(isinstance(stage, Gear) for stage in turning) % 2:
        turns = -turns
    shafts = [turns]
    for stage in turning:
        turns /= float(stage_ratio(stage)) * (-1 if isinstance(stage, Gear) else 1)
        shafts.append(turns)
    return shafts


def stage_words(axis: Axis, position: int) -> str:
    """Say what a stage is and does."""
    stage = axis.travel[position]
    slower = math.prod((stage_ratio(part) for part in axis.travel[: position + 1]), start=Fraction(1))
    slow = f"the shaft behind it turns once for {figures.short(float(slower))} turns of the rotor."
    match stage:
        case Gear():
            return f"Gear: {stage.driving} teeth drive {stage.driven}; {slow}"
        case Ratio():
            return f"Gearbox 1 : {stage.ratio}; {slow}"
        case Belt():
            way = figures.short(float(1 / stage_ratio(stage)))
            return f"Belt of {stage.pitch} mm pitch: a turn of its {stage.teeth} teeth moves the tool {way} mm."
        case Screw():
            return f"Screw: a turn moves the nut, and the tool with it, {stage.lead} mm."


def paint_motor(brush: Brush, half: float, turns: float) -> None:
    """Draw the face of a motor: flange with its four holes, pilot and shaft."""
    painter, middle = brush.painter, brush.middle
    brush.ink(1.6)
    painter.drawRoundedRect(QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half), half * 0.22, half * 0.22)
    for x in (-1, 1):
        for y in (-1, 1):
            painter.drawEllipse(middle + QPointF(x, y) * half * 0.76, half * 0.08, half * 0.08)
    painter.drawEllipse(middle, half * 0.62, half * 0.62)
    painter.drawEllipse(middle, half * 0.2, half * 0.2)
    brush.mark(middle, half * 0.42, turns)


def paint_stage(brush: Brush, stage: Stage, room: float, before: float, after: float, share: float) -> None:
    """Draw a stage, four times `room` pixels wide.

    Parameters
    ----------
    before, after : float, turns
        Of the shafts before and behind the stage.
    share : float
        Where between its ends the tool is, from 0 to 1: for a screw's nut.
    """
    match stage:
        case Gear():
            _paint_gears(brush, stage, room, before, after)
        case Ratio():
            _paint_gearbox(brush, room, before, after)
        case Belt():
            _paint_belt(brush, room, before)
        case Screw():
            _paint_screw(brush, room, before, share)


def _paint_gears(brush: Brush, stage: Gear, room: float, before: float, after: float) -> None:
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


def _paint_gearbox(brush: Brush, room: float, before: float, after: float) -> None:
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


def _paint_belt(brush: Brush, room: float, turns: float) -> None:
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


def _paint_screw(brush: Brush, room: float, turns: float, share: float) -> None:
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


def paint_tool(brush: Brush, axis: Axis, position: float, share: float, radius: float, wide: float) -> None:
    """Draw the tool: a disc turned as far as the axis, or a slide between its ends."""
    painter, middle, hue = brush.painter, brush.middle, brush.hue
    if axis.unit == "deg":
        painter.setPen(brush.theme.pen(hue, 2))
        painter.setBrush(brush.theme.color("sheet"))
        painter.drawEllipse(middle, radius, radius)
        painter.setBrush(brush.theme.tint(hue, 0.12))
        painter.drawEllipse(middle, radius, radius)
        sense, low, high = (1 if axis.positive == "cw" else -1), axis.limits.min, axis.limits.max
        if low is not None and high is not None and high - low < 360:  # between its ends
            painter.setPen(brush.theme.pen(brush.theme.color("muted"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            rim = QRectF(middle.x() - radius - 7, middle.y() - radius - 7, 2 * radius + 14, 2 * radius + 14)
            painter.drawArc(rim, round((90 - sense * float(low)) * 16), round(-sense * float(high - low) * 16))
        angle = math.radians(position % 360.0) * sense
        painter.setPen(brush.theme.pen(hue, 3))
        painter.drawLine(middle, middle + QPointF(math.sin(angle), -math.cos(angle)) * radius * 0.86)
        return
    left, width = middle.x() - wide, 2 * wide
    y = middle.y() + 26
    painter.setPen(brush.theme.pen(brush.theme.color("ink"), 1.4))
    painter.drawLine(QPointF(left, y), QPointF(left + width, y))
    for end, bound in ((left, axis.limits.min), (left + width, axis.limits.max)):
        if bound is not None:
            painter.drawLine(QPointF(end, y - 26), QPointF(end, y + 5))
    painter.setPen(brush.theme.pen(hue, 2))
    painter.setBrush(brush.theme.color("sheet"))
    slide = QRectF(left + (width - 40) * min(max(share, 0.0), 1.0), y - 31, 40, 30)
    painter.drawRoundedRect(slide, 3, 3)
    painter.setBrush(brush.theme.tint(hue, 0.12))
    painter.drawRoundedRect(slide, 3, 3)
