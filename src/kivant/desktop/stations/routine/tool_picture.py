"""The machine from above and from the side: what it reaches, the path of its tool, and where it is now."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from kivant.core.machine.tool import Tool, tool_of
from kivant.core.plan import Plan
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.tool_course import Course, course_of, reach_of
from kivant.desktop.widgets.pictured import Pictured

_SIDE, _MARGIN, _FOOT = 34.0, 8.0, 42.0  # pixels: the view from the side, beside all, and below for words
_SHADES = 5


class ToolPicture(Pictured):
    """Paints the tool of the machine at the playhead, on its path."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.plan_changed, session.theme_changed, session.machine_changed)
        session.playhead_moved.connect(self.update)
        self._course: tuple[Plan, Course] | None = None
        self._tool: tuple[object, Tool | None] = (None, None)
        self._middle, self._scale = (0.0, 0.0), 1.0

    @property
    def tool(self) -> Tool | None:
        """The tool of the machine as it is now; None where its axes are independent."""
        machine = self.session.document.machine
        if self._tool[0] is not machine:
            self._tool = machine, tool_of(machine)
        return self._tool[1]

    @property
    def plan(self) -> Plan | None:
        """The plan, if it is one of the machine as it is now."""
        made = self.session.planning.plan
        machine = self.session.document.machine
        return made if made is not None and made.machine.axes == machine.axes else None

    def course(self) -> Course | None:
        """Return the course of the tool over the plan."""
        plan, tool = self.plan, self.tool
        if plan is None or tool is None:
            return None
        if self._course is None or self._course[0] is not plan:
            self._course = plan, course_of(plan, tool)
        return self._course[1]

    # Where things are

    def above(self) -> QRectF:
        """Return the box of the view from above."""
        side = _SIDE if self.has_side else 0.0
        return QRectF(_MARGIN, _MARGIN, self.width() - 2 * _MARGIN - side, self.height() - 2 * _MARGIN - _FOOT)

    @property
    def has_side(self) -> bool:
        """Whether there is anything to be seen from the side."""
        return self.tool is not None and "z" in self.tool.coordinates

    def _fit(self, reach: np.ndarray) -> None:
        box = self.above()
        points = reach.reshape(-1, 2)
        low, high = points.min(axis=0), points.max(axis=0)
        wide = np.maximum(high - low, 1e-9)
        self._scale = float(min(box.width() / wide[0], box.height() / wide[1])) * 0.96
        self._middle = tuple(((low + high) / 2).tolist())

    def points(self, places: np.ndarray) -> list[QPointF]:
        """Return where places, shape (n, 2), are in the view from above; y goes up."""
        middle = self.above().center()
        across = middle.x() + (places[:, 0] - self._middle[0]) * self._scale
        down = middle.y() - (places[:, 1] - self._middle[1]) * self._scale
        return list(map(QPointF, across.tolist(), down.tolist()))

    def at(self, x: float, y: float) -> QPointF:
        """Return where a place is in the view from above."""
        return self.points(np.array([[x, y]]))[0]

    def place_of(self, point: QPointF) -> tuple[float, float]:
        """Return the place at a point."""
        middle = self.above().center()
        x, y = (point.x() - middle.x()) / self._scale, (middle.y() - point.y()) / self._scale
        return self._middle[0] + x, self._middle[1] + y

    def positions(self) -> list[float]:
        """Return where all axes are now."""
        instant = self.session.instant
        return [instant.position_of(index) for index in range(len(self.session.document.machine.axes))]

    # Painting

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        tool, theme = self.tool, self.session.theme
        if tool is None:
            return
        reach = reach_of(self.session.document.machine, tool)
        self._fit(reach)
        yield from self._paint_reach(painter, reach)
        course = self.course()
        yield
        if course is not None:
            yield from self._paint_course(painter, course)
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        names = tool.coordinates[:2]
        words = "from above" if names == ("x", "y") else f"{names[0]} across, {names[1]} up"
        painter.drawText(
            self.above().adjusted(2, 0, 0, 0), Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, words
        )

    def _paint_reach(self, painter: QPainter, reach: np.ndarray) -> Iterator[None]:
        """Fill what can be reached cell by cell, and draw its edges: where an axis is at a limit."""
        theme = self.session.theme
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("sheet"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for row, beyond in pairwise([self.points(row) for row in reach]):
            for (a, b), (d, c) in zip(pairwise(row), pairwise(beyond), strict=True):
                painter.drawPolygon(QPolygonF([a, b, c, d]))
            yield
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("edge"), 1.2))
        for edge in (reach[0], reach[-1], reach[:, 0], reach[:, -1]):
            painter.drawPolyline(QPolygonF(self.points(edge)))

    def _paint_course(self, painter: QPainter, course: Course) -> Iterator[None]:
        """Paint the path, stronger where it is fast, with ticks of equal time, which stand apart there."""
        theme = self.session.theme
        points = self.points(course.places)
        shades = np.minimum((course.speeds * _SHADES).astype(int), _SHADES - 1)
        edges = np.flatnonzero(np.diff(shades)) + 1
        for first, last in zip([0, *edges.tolist()], [*edges.tolist(), len(shades)], strict=True):
            share = 0.3 + 0.7 * int(shades[first]) / (_SHADES - 1)
            painter.setPen(theme.pen(theme.tint(theme.color("accent"), share), 1.0 + share))
            painter.drawPolyline(QPolygonF(points[first : last + 1]))
            yield
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("ink"))
        for tick in self.points(course.ticks):
            painter.drawEllipse(tick, 1.3, 1.3)

    def paint_moving(self, painter: QPainter) -> None:
        tool = self.tool
        if tool is None:
            return
        now = self.positions()
        self.paint_arm(painter, tool, now, ghost=False)
        if self.has_side:
            self._paint_side(painter, tool, now)

    def paint_arm(self, painter: QPainter, tool: Tool, positions: Sequence[float], *, ghost: bool) -> None:
        """Paint what carries the tool with axes at positions, and the tool."""
        theme = self.session.theme
        color = theme.color("accent" if ghost else "ink")
        joints = self.points(np.reshape(tool.links(positions), (-1, 2)))  # of some tools there are none
        painter.setPen(theme.pen(theme.tint(color, 0.55 if ghost else 0.8), 1.5 if ghost else 4))
        painter.drawPolyline(QPolygonF(joints))
        painter.setPen(theme.pen(color, 1.5))
        painter.setBrush(theme.color("sheet"))
        for joint in joints[:-1]:
            painter.drawEllipse(joint, 3.5, 3.5)
        place = tool.place(positions)
        painter.setBrush(theme.color("sheet") if ghost else theme.color("accent"))
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawEllipse(self.at(place[0], place[1]), 5, 5)

    def _paint_side(self, painter: QPainter, tool: Tool, positions: Sequence[float]) -> None:
        """Paint how high the tool is, between the limits of its lift."""
        theme, lift = self.session.theme, self.session.document.machine.axes[tool.axes["z"]]
        box = self.above()
        x = box.right() + _SIDE / 2 + 3
        low, high = (float(v) if v is not None else None for v in (lift.limits.min, lift.limits.max))
        z = positions[tool.axes["z"]]
        low, high = low if low is not None else min(z, 0.0), high if high is not None else max(z, 100.0)
        share = min(max((z - low) / (high - low), 0.0), 1.0) if high > low else 0.0
        painter.setPen(theme.pen(theme.color("edge"), 1.2))
        painter.drawLine(QPointF(x, box.top() + 14), QPointF(x, box.bottom()))
        y = box.bottom() - share * (box.height() - 14)
        painter.setPen(theme.pen(theme.axis(tool.axes["z"]), 3))
        painter.drawLine(QPointF(x - 8, y), QPointF(x + 8, y))
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        painter.drawText(QRectF(x - 20, box.top() - 4, 40, 16), Qt.AlignmentFlag.AlignHCenter, "side")
