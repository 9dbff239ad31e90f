"""What a hand does in the lanes: choosing, moving the playhead, and dragging blocks, their ends and their speeds."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter

from kivant.core.errors import KivantError
from kivant.core.machine import Each, Move, Pause, Spin
from kivant.core.motion.blocks import Block
from kivant.core.program.editing import Place
from kivant.core.program.targets import target_text, with_target
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.lane_picture import LanePicture
from kivant.desktop.stations.routine.plates import Plate, place_of_entry
from kivant.desktop.stations.routine.program import number_of
from kivant.desktop.stations.routine.stretches import stretch_of

_REACH = 9.0  # of a handle, pixels
_EDGE = 5.0
_FAR = 6.0  # before a press becomes a drag
_LEAST_FACTOR = 0.01

Handle = tuple[int, str]
"""An axis, and what of it: ``end`` or ``speed``; of a pause or spin, ``time``."""


class LaneDrag:
    """The hand over the lanes; what it holds is changed while it moves, as one edit."""

    def __init__(self, lanes: LanePicture, acts: Acts) -> None:
        self.lanes, self.acts = lanes, acts
        self.holding: Handle | None = None
        self.mark: float | None = None
        self._carried: Plate | None = None
        self._pressed: QPointF | None = None
        self._scrubs = False
        self._panned: float | None = None
        self._before: tuple[Place, Block, tuple[float, float], float, int] | None = None
        self._words = ""
        self._merge = False

    # Where things are

    def _stretch(self, place: Place | None) -> tuple[float, float] | None:
        return stretch_of(self.lanes.plan, self.lanes.program.blocks, place)

    def handles(self) -> dict[Handle, QPointF]:
        """Return what of the current block can be dragged, and where it is."""
        lanes, place = self.lanes, self.lanes.program.current
        block, stretch = (
            lanes.program.block(place) if place else None,
            self._stretch(place),
        )
        if lanes.plan is None or block is None or stretch is None or lanes.session.running.active:
            return {}
        scale, found = lanes.scale, {}
        begin, end = (scale.at(t) for t in stretch)
        if not scale.per_unit or end < scale.begin or begin > scale.end:
            return {}
        if isinstance(block, Pause) or (isinstance(block, Spin) and block.seconds is not None):
            index = lanes.session.choice.index if isinstance(block, Pause) else self._axis(next(iter(block.speeds)))
            found[(index, "time")] = QPointF(end, lanes.lane(index).bottom())
        if isinstance(block, Spin):
            for name in block.speeds:
                box, peak = lanes.lane(self._axis(name)), self._peak(self._axis(name), stretch)
                middle = scale.at((stretch[0] + stretch[1]) / 2)
                found[(self._axis(name), "speed")] = QPointF(middle, box.bottom() - box.height() * peak)
        if isinstance(block, Move | Each):
            for index, axis in enumerate(lanes.plan.axes):
                peak = self._peak(index, stretch)
                if target_text(block, axis.axis) and peak > 0:
                    box = lanes.lane(index)
                    until = self._stops(index, stretch)
                    found[(index, "end")] = QPointF(scale.at(until), box.bottom())
                    found[(index, "speed")] = QPointF(
                        scale.at((stretch[0] + until) / 2), box.bottom() - box.height() * peak
                    )
        return found

    def _axis(self, name: str) -> int:
        return next((i for i, axis in enumerate(self.lanes.session.document.machine.axes) if axis.name == name), 0)

    def _peak(self, index: int, stretch: tuple[float, float]) -> float:
        """Return the greatest speed of an axis in a stretch of time, as a share of its own."""
        assert self.lanes.plan is not None
        axis = self.lanes.plan.axes[index]
        _times, speeds = axis.train.corners(1, stretch)
        return float(abs(speeds).max(initial=0.0)) / (axis.axis.limits.speed * float(axis.steps_per_unit))

    def _stops(self, index: int, stretch: tuple[float, float]) -> float:
        """Return when an axis arrives within a stretch of time: in `each`, some do before the others."""
        assert self.lanes.plan is not None
        times, _speeds = self.lanes.plan.axes[index].train.corners(1, stretch)
        return min(float(times.max(initial=stretch[0])), stretch[1])

    # What the hand does

    def press(self, event: QMouseEvent) -> None:
        """Take hold of what is under the hand."""
        lanes, at = self.lanes, event.position()
        self._pressed, self._merge = at, False
        handle = self._handle_at(at)
        if handle is not None:
            self._hold(handle)
            return
        plate = lanes.plate_at(at.x(), at.y())
        if plate is not None and lanes.plan is not None:
            self._carried = plate
            self._choose(place_of_entry(lanes.plan, plate.first), event)
        elif at.y() > lanes.height() - 24:
            self._panned = lanes.scale.value(at.x())
        elif not lanes.session.running.active:
            self._scrubs = True
            lanes.session.playhead.go(lanes.scale.value(at.x()))
            place = lanes.place_at(lanes.scale.value(at.x()))
            if place is not None:
                self._choose(place, event)

    def _choose(self, place: Place, event: QMouseEvent) -> None:
        program = self.lanes.program
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            others = [other for other in program.places if other != place]
            program.choose(others if place in program.places else [*others, place], place)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and program.current is not None:
            first, last = sorted((program.current, place))
            if first[:-1] == last[:-1]:
                program.choose([(*first[:-1], k) for k in range(first[-1], last[-1] + 1)], program.current)
        elif place not in program.places:
            program.choose([place], place)

    def _handle_at(self, at: QPointF) -> Handle | None:
        near = [
            ((place - at).manhattanLength(), handle)
            for handle, place in self.handles().items()
            if (place - at).manhattanLength() <= _REACH
        ]
        return min(near)[1] if near else None

    def _hold(self, handle: Handle) -> None:
        place = self.lanes.program.current
        block, stretch = (
            self.lanes.program.block(place) if place else None,
            self._stretch(place),
        )
        if place is not None and block is not None and stretch is not None:
            self.holding = handle
            peak, sense = self._peak(handle[0], stretch), self._sense(handle[0], stretch)
            self._before = place, block, stretch, peak, sense
            self.lanes.hold_still()

    def move(self, event: QMouseEvent) -> None:
        """Change what is held, or show what could be."""
        lanes, at = self.lanes, event.position()
        if not event.buttons() & Qt.MouseButton.LeftButton:
            self._show_cursor(at)
        elif self.holding is not None:
            self._drag(at)
        elif self._carried is not None and self._pressed is not None:
            if abs(at.x() - self._pressed.x()) > _FAR and not lanes.session.running.active:
                self.mark = self._landing(at)[1]
                lanes.update()
        elif self._panned is not None:
            lanes.set_span(lanes.span.shifted(self._panned - lanes.scale.value(at.x())))
        elif self._scrubs and not lanes.session.running.active:
            lanes.session.playhead.go(lanes.scale.value(at.x()))

    def release(self, event: QMouseEvent) -> None:
        """Let go."""
        lanes = self.lanes
        if self._carried is not None and self.mark is not None:
            place, _x = self._landing(event.position())
            self.acts.move_to(place)
        self.holding, self.mark, self._carried, self._before, self._panned = None, None, None, None, None
        self._words, self._scrubs = "", False
        lanes.go_on()

    def _landing(self, at: QPointF) -> tuple[Place, float]:
        """Return where carried blocks go that are let go at a point, and where that is marked."""
        lanes = self.lanes
        assert lanes.plan is not None and self._carried is not None
        y = self._carried.box.center().y()
        others = [plate for plate in lanes.shown_plates() if abs(plate.box.center().y() - y) < 1]
        for plate in others:
            if at.x() < plate.box.center().x():
                return place_of_entry(lanes.plan, plate.first), plate.box.left() - 1
        last = place_of_entry(lanes.plan, others[-1].last)
        return (*last[:-1], last[-1] + 1), others[-1].box.right() + 1

    def _show_cursor(self, at: QPointF) -> None:
        handle = self._handle_at(at)
        shapes = {
            "end": Qt.CursorShape.SizeHorCursor,
            "time": Qt.CursorShape.SizeHorCursor,
            "speed": Qt.CursorShape.SizeVerCursor,
        }
        if handle is not None:
            self.lanes.setCursor(shapes[handle[1]])
        else:
            over = self.lanes.plate_at(at.x(), at.y()) is not None
            self.lanes.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.CrossCursor)

    # What is dragged

    def _drag(self, at: QPointF) -> None:
        assert self.holding is not None and self._before is not None
        index, kind = self.holding
        place, block, stretch, peak, sense = self._before
        drags: dict[str, Callable[[], tuple[Block, str]]] = {
            "time": lambda: self._with_time(block, at, stretch),
            "end": lambda: self._with_end(block, index, at, sense * peak),
            "speed": lambda: self._with_speed(block, index, at, peak),
        }
        made, words = drags[kind]()
        number = number_of(place)
        try:
            self.lanes.program.replace(place, made, f"drag {kind} of block {number}", merge=self._merge)
            self._words, self._merge = words, True
        except KivantError as error:
            self._words = error.faults[0].message
        self.lanes.update()

    def _seconds(self, at: QPointF, begin_s: float) -> float:
        """Return the time from one on to where the hand is, rounded to what a pixel tells."""
        scale = self.lanes.scale
        step = scale.step(1.0)
        return max(round((scale.value(at.x()) - begin_s) / step) * step, 0.0)

    def _with_time(self, block: Block, at: QPointF, stretch: tuple[float, float]) -> tuple[Block, str]:
        seconds = float(f"{self._seconds(at, stretch[0]):.9g}")
        return replace(block, seconds=seconds), f"{figures.plain(seconds)} s"

    def _with_end(self, block: Block, index: int, at: QPointF, peak: float) -> tuple[Block, str]:
        """Return the block with another end of an axis, so that it is there about when the hand is."""
        axis = self.lanes.session.document.machine.axes[index]
        before = target_text(block, axis)
        relative = before.startswith("by ")
        value = Decimal(before.removeprefix("by ").removesuffix(f" {axis.unit}"))
        assert self._pressed is not None
        speed = peak * axis.limits.speed
        scale = self.lanes.scale
        more = speed * (scale.value(at.x()) - scale.value(self._pressed.x()))
        step = Decimal(repr(figures.nice_span(abs(speed) * scale.step(1.0))))
        found = (value + (Decimal(repr(more)) / step).to_integral_value() * step).normalize() + 0
        text = f"{'by ' if relative else ''}{found:f}"
        return with_target(block, axis, text), f"{axis.name} {'' if relative else 'to '}{text} {axis.unit}"

    def _sense(self, index: int, stretch: tuple[float, float]) -> int:
        assert self.lanes.plan is not None
        axis = self.lanes.plan.axes[index]
        return 1 if axis.ideal_at(stretch[1]) >= axis.ideal_at(stretch[0]) else -1

    def _with_speed(self, block: Block, index: int, at: QPointF, peak: float) -> tuple[Block, str]:
        """Return the block with another share of the speed, so that the curve is as high as the hand."""
        box = self.lanes.lane(index)
        wanted = min(max((box.bottom() - at.y()) / box.height(), 0.0), 1.0)
        if isinstance(block, Spin):
            axis = self.lanes.session.document.machine.axes[index]
            sense = -1 if block.speeds.get(axis.name, Decimal(0)) < 0 else 1
            top = axis.limits.speed / block.factor
            speed = Decimal(f"{sense * min(wanted * axis.limits.speed / block.factor, top):.3g}")
            plain = Decimal(f"{speed:f}")
            return replace(block, speeds={**block.speeds, axis.name: plain}), f"{axis.name} at {plain} {axis.unit}/s"
        before = getattr(block, "speed_factor", None) or 1.0
        factor = min(max(round(before * wanted / peak, 2), _LEAST_FACTOR), 1.0)
        words = f"{100 * factor:.0f} % speed"
        return replace(block, speed_factor=None if factor == 1.0 else factor), words

    def paint_words(self, painter: QPainter) -> None:
        """Write what the hand has made of it."""
        if self._words:
            theme = self.lanes.session.theme
            painter.setFont(font("strong"))
            width = painter.fontMetrics().horizontalAdvance(self._words) + 18
            box = QRectF(self.lanes.width() - width - 14, self.lanes.band + 2, width, 24)
            painter.setPen(theme.pen(theme.color("accent"), 1))
            painter.setBrush(theme.color("sheet"))
            painter.drawRoundedRect(box, 5, 5)
            painter.setPen(theme.color("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._words)
