"""The lanes as a picture: plates on top, a lane of speed for each axis below, and the span of time that is seen."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.motion.curves import curve_between
from kivant.core.plan import Plan
from kivant.core.program.editing import Place
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale, paint_time_axis
from kivant.desktop.kit.curves import paint_curve
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.holders import paint_holders
from kivant.desktop.stations.routine.plates import ROW, Plate, paint_plates, plates, rows_of
from kivant.desktop.stations.routine.program import Program
from kivant.desktop.stations.routine.stretches import stretch_of
from kivant.desktop.stations.routine.view_span import ViewSpan
from kivant.desktop.widgets.pictured import Pictured

LEFT, RIGHT, AXIS, STRIP = 30, 14, 24, 20
"""Pixels beside the lanes, below them for the times, and above those for what holds blocks back."""
_MOST_CHOSEN = 200  # chosen blocks that are shaded


class LanePicture(Pictured):
    """The speeds of the plan over a span of time, with its blocks."""

    def __init__(self, session: Session, program: Program) -> None:
        signals = session.plan_changed, session.selection_changed, session.theme_changed, session.holding_changed
        super().__init__(session, *signals, program.chosen_changed)
        self.program, self.span = program, ViewSpan()
        self._plates: list[Plate] = []
        self.unrolled = self._still = self._saw_whole = False
        session.plan_changed.connect(self._follow_plan)
        self._follow_plan()

    # Where things are

    @property
    def plan(self) -> Plan | None:
        """The plan that is shown."""
        return self.session.planning.plan

    @property
    def scale(self) -> Scale:
        """The scale of time."""
        return Scale(self.span.begin, self.span.end, LEFT, max(self.width() - RIGHT, LEFT + 1))

    @property
    def band(self) -> float:
        """The height of the plates."""
        return rows_of(self.plan) * ROW + 6 if self.plan else ROW

    def lane(self, index: int) -> QRectF:
        """Return the box of an axis's lane, as high as full speed."""
        count = max(len(self.plan.axes) if self.plan else 1, 1)
        room = (self.height() - self.band - AXIS - STRIP) / count
        base = self.band + (index + 1) * room
        return QRectF(LEFT, base - room * 0.8, self.width() - LEFT - RIGHT, room * 0.8)

    def plate_at(self, x: float, y: float) -> Plate | None:
        """Return the plate at a point."""
        return next(
            (plate for plate in reversed(self._plates) if plate.box.adjusted(-1, -2, 1, 2).contains(x, y)), None
        )

    def shown_plates(self) -> list[Plate]:
        """Return the plates that are seen."""
        return self._plates

    def place_at(self, time_s: float) -> Place | None:
        """Return the place of the block that is in force at a time."""
        block = self.session.planning.block_at(time_s)
        return tuple(part for part in block.path if isinstance(part, int)) if block else None

    def set_span(self, span: ViewSpan) -> None:
        """See another span of time."""
        if span != self.span:
            self.span = span
            self.redraw()

    def unroll(self, unrolled: bool) -> None:
        """Have plates for every turn of repeats, or only for the first."""
        self.unrolled = unrolled
        self.redraw()

    def fit(self) -> None:
        """See all of the plan."""
        self.set_span(ViewSpan(0.0, self.span.whole, self.span.whole))

    def _follow_plan(self) -> None:
        whole = self.session.planning.duration_s
        # Below a hand that drags, nothing moves: the scale follows when it lets go.
        held = ViewSpan(self.span.begin, self.span.end, max(whole, self.span.end))
        self.span = held if self._still else self.span.of(whole)

    def hold_still(self) -> None:
        """Keep the scale as it is, whatever the plan becomes."""
        self._still, self._saw_whole = True, self.span.is_whole

    def go_on(self) -> None:
        """Let the scale follow the plan again."""
        if self._still:
            self._still, whole = False, self.session.planning.duration_s
            self.set_span(ViewSpan(0.0, whole, whole) if self._saw_whole else self.span.of(whole))
        self.redraw()

    # Painting

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        plan, theme = self.plan, self.session.theme
        if plan is None or not len(plan.blocks):
            self._plates = []
            painter.setPen(theme.color("muted"))
            painter.setFont(font("text"))
            painter.drawText(
                QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty()
            )
            return
        # All that is painted belongs to this plan, whatever comes between the parts.
        scale, span, traces = self.scale, self.span, self.session.planning.traces
        boxes = [self.lane(index) for index in range(len(plan.axes))]
        base = self.height() - AXIS
        yield from paint_holders(painter, self.session, plan, scale, base - STRIP + 4)
        paint_time_axis(painter, theme, scale, base + 4, apart=90, grid=(self.band, base), words="{:.9g}".format)
        yield
        self._plates = plates(plan, scale, unrolled=self.unrolled)
        yield from paint_plates(painter, theme, plan, self._plates, set(self.program.places))
        names, whole = figures.letters(plan.machine), span.is_whole
        for index, axis in enumerate(plan.axes):
            box, hue = boxes[index], theme.axis(index)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(box.left(), box.bottom()), QPointF(box.right(), box.bottom()))
            curve = traces.curves[index] if whole else curve_between(axis, span.begin, span.end)
            yield from paint_curve(painter, theme, index, curve, box, scale.per_unit)
            self._paint_chosen(painter, plan, index, box, scale)
            painter.setPen(hue)
            painter.setFont(font("strong"))
            if box.height() >= 11 or index == self.session.choice.index:
                label = QRectF(0, box.bottom() - 20, LEFT - 8, 20)
                painter.drawText(label, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, names[index])
            yield

    def _empty(self) -> str:
        planning = self.session.planning
        if planning.error is not None:
            return "There is no plan: see what is wrong above, and where it is marked below."
        if planning.plan is None:
            return "Planning …"
        return "Nothing moves yet. Add a block, or type one below."

    def _paint_chosen(self, painter: QPainter, plan: Plan, index: int, box: QRectF, scale: Scale) -> None:
        """Shade the time of the chosen blocks in an axis's lane."""
        theme = self.session.theme
        for place in self.program.places[:_MOST_CHOSEN]:
            stretch = stretch_of(plan, self.program.blocks, place)
            if stretch is None or stretch[1] < scale.low or stretch[0] > scale.high:
                continue
            left, right = (scale.at(min(max(t, scale.low), scale.high)) for t in stretch)
            painter.fillRect(
                QRectF(left, box.top(), right - left, box.height()), theme.tint(theme.color("accent"), 0.1)
            )
