"""The speed curve of a move with handles to drag; below it on the same time axis torque, position and intervals."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from kivant.core.machine.parts import shape_of
from kivant.core.motion.trial import TrialMove
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.ramp.picture import Frame, RampPicture
from kivant.desktop.widgets.pictured import Pictured

_REACH = 13.0  # how near a handle must be clicked, pixels
_TURN = 0.05  # share of a limit by which a key changes it
_KEYS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


class RampChart(Pictured):
    """Shows a trial move; ``drag`` is called with a limit's key, its new value, and whether it goes on a drag."""

    def __init__(self, session: Session, drag: Callable[[str, float, bool], None]) -> None:
        super().__init__(session, session.theme_changed)
        self.drag = drag
        self.shown: TrialMove | None = None
        self.ghost: TrialMove | None = None
        self.error = ""
        self.held: str | None = None
        self.reached: str | None = None
        self._frame = Frame(1.0, 1.0)
        self._merge = False
        session.playhead_moved.connect(self.update)
        self.setMouseTracking(True)
        self.setMinimumSize(420, 300)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Speed, torque, position and step intervals of the move")

    def show_move(self, move: TrialMove | None, error: str = "") -> None:
        """Show a move; the one before stays as a ghost until the next change."""
        before = self.shown
        if before is not None and move is not None and self.held is None and before.axis.axis != move.axis.axis:
            alike = before.axis.name == move.axis.name and (before.change is None) == (move.change is None)
            self.ghost = before if alike else None
        if self.ghost is not None and move is not None and (self.ghost.change is None) != (move.change is None):
            self.ghost = None  # a move and a change of speed are no two states of one thing
        self.shown, self.error = move, error
        if self.held is None:
            self._fit()
        self.redraw()

    def _fit(self) -> None:
        """Fit the scale to the move and its ghost."""
        both = [move for move in (self.shown, self.ghost) if move]
        if self.shown is not None:
            seconds = max(move.seconds for move in both)
            top = max(*(move.axis.peak_speed for move in both), self.shown.axis.axis.limits.start_speed, 1e-9)
            self._frame = Frame(max(seconds, 1e-9) * 1.02, top * 1.18)

    @property
    def picture(self) -> RampPicture | None:
        """What is to be seen now, None where nothing moves."""
        if self.shown is None or not self.shown.plan.blocks:
            return None
        hue = self.session.theme.axis(self.session.choice.index)
        return RampPicture(self.shown, self.ghost, self._frame, self.width(), self.height(), self.session.theme, hue)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        picture = self.picture
        if picture is not None:
            yield from picture.paint(painter)
            return
        painter.setPen(self.session.theme.color("bad" if self.error else "muted"))
        painter.setFont(font("text"))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        words = self.error or ("Nothing moves over a distance of 0." if self.shown else "Planning …")
        painter.drawText(QRectF(self.rect()).adjusted(40, 0, -40, 0), flags, words)

    def paint_moving(self, painter: QPainter) -> None:
        picture, speed = self.picture, self.session.instant.speed
        if picture is None:
            return
        picture.paint_handles(painter, self.held, self.reached if self.hasFocus() else None)
        if speed > 0.0 and not self.session.instant.counted:
            picture.paint_speed(painter, speed)

    # Mouse

    def _nearest(self, at: QPointF) -> str | None:
        picture = self.picture
        near = {key: (place - at).manhattanLength() for key, place in picture.handles.items()} if picture else {}
        key = min(near, key=lambda k: near[k], default=None)
        return key if key is not None and near[key] <= _REACH else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and not self.session.running.active:
            self.held = self.reached = self._nearest(event.position())
            self._merge = False
            if self.held and self.shown:
                self.ghost = self.shown
                self.redraw()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.held is None:
            over = self._nearest(event.position())
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over, event.position()))
            return
        value = self.value_at(self.held, event.position())
        if value is not None:
            self.drag(self.held, value, self._merge)
            self._merge = True

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self.held is not None:
            self.held = None
            self._fit()
            self.redraw()

    def value_at(self, key: str, at: QPointF) -> float | None:
        """Return the value of a limit for its handle dragged to a point, None where it has none."""
        picture = self.picture
        if picture is None:
            return None
        limits = picture.move.axis.axis.limits
        speed, seconds = picture.speed.y.value(at.y()), picture.speed.x.value(at.x())
        least = self._frame.top_speed / 2000
        if key == "start_speed":
            return _rounded(min(max(speed, 0.0), limits.speed), least)
        if key == "speed":
            return _rounded(max(speed, least), least)
        if picture.move.change is not None:
            return self._changed_rate(picture, key, at)
        base = min(limits.start_speed, limits.speed)
        run = picture.move.seconds - seconds if key == "deceleration" else seconds
        rise = max(speed, base + least) - base
        steepest = 1000 * self._frame.top_speed / self._frame.seconds
        if key == "jerk":  # the handle stands where the acceleration is all there, or would have to go again
            sharpest, gain = steepest * 1000 / self._frame.seconds, picture.move.axis.peak_speed - base
            change = max(run, 1e-9)
            jerk = min(limits.acceleration / change, gain / change**2)
            return _rounded(min(max(jerk, sharpest * 1e-9), sharpest), sharpest * 1e-9)
        rate = rise / max(run, 1e-12)
        if shape_of(limits) == "s_curve" and limits.jerk is not None:
            # The straight part begins half the time of the change later than that of a trapezoid.
            rate = limits.jerk * (run - math.sqrt(max(run * run - 2 * rise / limits.jerk, 0.0)))
        return _rounded(min(max(rate, steepest * 1e-6), steepest), steepest * 1e-6)

    def _changed_rate(self, picture: RampPicture, key: str, at: QPointF) -> float | None:
        """Return the acceleration of a change of speed whose middle is dragged to a time."""
        phase = next((phase for phase in picture.move.phases if phase.name == key), None)
        if phase is None or picture.move.change is None:
            return None
        half = max(picture.speed.x.value(at.x()) - phase.begin_s, picture.move.seconds / 1000)
        first, last = picture.move.change
        steepest = 1000 * self._frame.top_speed / self._frame.seconds
        return _rounded(min(abs(last - first) / (2 * half), steepest), steepest * 1e-6)

    # Keys

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and _is_own(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        picture = self.picture
        if picture is None or not _is_own(event):
            event.ignore()
            return
        keys = list(picture.handles)
        now = keys.index(self.reached) if self.reached in keys else 0
        if event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self.reached = keys[(now + (1 if event.key() == Qt.Key.Key_PageDown else -1)) % len(keys)]
            self._merge = False
            self.update()
        elif not self.session.running.active:
            self._turn(keys[now], 1 if event.key() == Qt.Key.Key_Up else -1)

    def _turn(self, key: str, way: int) -> None:
        """Change a limit by a share of itself; keys in a row are one edit."""
        axis = self.session.choice.axis
        if axis is None:
            return
        value = getattr(axis.limits, key) or 0.0
        step = figures.nice_span(max(value, self._frame.top_speed * 0.05 if key == "start_speed" else 0.0) * _TURN)
        new = round(value / step + way) * step
        if key == "start_speed":
            new = min(max(new, 0.0), axis.limits.speed)
        if new > 0.0 or key == "start_speed":
            self.reached = key
            self.drag(key, float(f"{new:.9g}"), self._merge)
            self._merge = True

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._merge = False
        if self.reached is None:
            self.reached = "speed"
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def _tip(self, over: str | None, at: QPointF) -> str:
        picture = self.picture
        if picture is None:
            return ""
        axis, begin_s = picture.move.axis, picture.move.begin_s
        limits, unit = axis.axis.limits, axis.axis.unit
        if over:
            per = "s³" if over == "jerk" else "s²" if over.endswith("celeration") else "s"
            return (
                f"{over.replace('_', ' ')} {figures.short(getattr(limits, over) or 0.0)} {unit}/{per}: drag to change"
            )
        seconds = picture.speed.x.value(at.x())
        if not 0 <= seconds <= picture.move.seconds:
            return ""
        ratio = float(axis.steps_per_unit)
        speed = abs(axis.train.speed_at(seconds + begin_s)) / ratio
        place = axis.train.ideal_at(seconds + begin_s) / ratio
        return f"{seconds:.4f} s: {figures.short(speed)} {unit}/s at {figures.position(place)} {unit}"


def _is_own(event: QKeyEvent) -> bool:
    """Return whether a key is one of the chart's: with Ctrl, the same keys go through the faces."""
    return event.key() in _KEYS and not event.modifiers() & Qt.KeyboardModifier.ControlModifier


def _rounded(value: float, grain: float) -> float:
    """Return a dragged value on a grain a person would type."""
    step = figures.nice_span(grain)
    return float(f"{round(value / step) * step or step if value > 0 else 0.0:.9g}")
