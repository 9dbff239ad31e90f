"""The speed curve of a move with handles to drag; below it, on the same time axis, position and step intervals."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from kivant.app.probing import Probe
from kivant.desktop import figures
from kivant.desktop.pictured import Pictured
from kivant.desktop.ramp_picture import Frame, RampPicture
from kivant.desktop.session import Session
from kivant.desktop.theme import font

_REACH = 13.0  # how near a handle must be clicked, pixels


class RampChart(Pictured):
    """Shows a probe; ``drag`` is called with a limit's key, its new value, and whether it goes on a drag."""

    def __init__(self, session: Session, drag: Callable[[str, float, bool], None]) -> None:
        super().__init__(session, session.theme_changed)
        self._drag = drag
        self.probe: Probe | None = None
        self.ghost: Probe | None = None
        self.error = ""
        self.held: str | None = None
        self._frame = Frame(1.0, 1.0)
        self._goes_on = False
        session.playhead_moved.connect(self.update)
        self.setMouseTracking(True)
        self.setMinimumSize(420, 300)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Speed, position and step intervals of the move")

    def show_probe(self, probe: Probe | None, error: str = "") -> None:
        """Show a move; the one before stays as a ghost until the next change."""
        before = self.probe
        if before is not None and probe is not None and self.held is None and before.axis.axis != probe.axis.axis:
            self.ghost = before if before.axis.name == probe.axis.name else None
        self.probe, self.error = probe, error
        if probe is not None and self.held is None:
            limits = probe.axis.axis.limits
            both = [p for p in (probe, self.ghost) if p]
            seconds = max(p.plan.duration - p.begin_s for p in both)
            top = max(max(p.axis.peak_speed for p in both), limits.start_speed)
            self._frame = Frame(max(seconds, 1e-9) * 1.02, (max(top, 1e-9)) * 1.18)
        self.redraw()

    @property
    def picture(self) -> RampPicture | None:
        """What is to be seen now, None where nothing moves."""
        if self.probe is None or not self.probe.plan.blocks:
            return None
        hue = self.session.theme.axis(self.session.selected)
        size = self.width(), self.height()
        return RampPicture(self.probe, self.ghost, self._frame, *size, self.session.theme, hue, self.held)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        picture = self.picture
        if picture is not None:
            yield from picture.paint(painter)
            return
        painter.setPen(self.session.theme.color("bad" if self.error else "muted"))
        painter.setFont(font("text"))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(self.rect()).adjusted(40, 0, -40, 0), flags, self.error or "A move of nothing.")

    def paint_moving(self, painter: QPainter) -> None:
        picture, speed = self.picture, self.session.speed_here
        if picture is not None and speed > 0.0 and not self.session.counted_by_hand:
            picture.paint_speed(painter, speed)

    # Mouse

    def _nearest(self, at: QPointF) -> str | None:
        picture = self.picture
        near = {key: (place - at).manhattanLength() for key, place in picture.handles.items()} if picture else {}
        key = min(near, key=lambda k: near[k], default=None)
        return key if key is not None and near[key] <= _REACH else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and not self.session.running:
            self.held = self._nearest(event.position())
            self._goes_on = False
            if self.held and self.probe:
                self.ghost = self.probe
                self.redraw()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.held is None:
            over = self._nearest(event.position())
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over, event.position()))
            return
        value = self.value_at(self.held, event.position())
        if value is not None:
            self._drag(self.held, value, self._goes_on)
            self._goes_on = True

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self.held is not None:
            self.held = None
            probe, self.probe = self.probe, None
            self.show_probe(probe, self.error)

    def value_at(self, key: str, at: QPointF) -> float | None:
        """Return the value of a limit for its handle dragged to a point, None where it has none."""
        picture = self.picture
        if picture is None:
            return None
        limits, probe = picture.probe.axis.axis.limits, picture.probe
        speed, seconds = picture.speed_at(at.y()), picture.seconds_at(at.x())
        least = self._frame.top_speed / 2000
        if key == "start_speed":
            return _rounded(min(max(speed, 0.0), limits.speed), least)
        if key == "speed":
            return _rounded(max(speed, least), least)
        base = min(limits.start_speed, limits.speed)
        run = seconds if key == "acceleration" else probe.plan.duration - probe.begin_s - seconds
        rise = max(speed, base + least) - base
        steepest = 1000 * self._frame.top_speed / self._frame.seconds
        return _rounded(min(max(rise / max(run, 1e-12), steepest * 1e-6), steepest), steepest * 1e-6)

    def _tip(self, over: str | None, at: QPointF) -> str:
        picture = self.picture
        if picture is None:
            return ""
        axis, begin_s = picture.probe.axis, picture.probe.begin_s
        limits, unit = axis.axis.limits, axis.axis.unit
        if over:
            per = "s²" if over.endswith("celeration") else "s"
            return f"{over.replace('_', ' ')} {figures.short(getattr(limits, over))} {unit}/{per}: drag it"
        seconds = picture.seconds_at(at.x())
        if not 0 <= seconds <= picture.probe.plan.duration - begin_s:
            return ""
        ratio = float(axis.steps_per_unit)
        speed = abs(axis.train.speed_at(seconds + begin_s)) / ratio
        place = axis.train.ideal_at(seconds + begin_s) / ratio
        return f"{seconds:.4f} s: {figures.short(speed)} {unit}/s at {figures.position(place)} {unit}"


def _rounded(value: float, grain: float) -> float:
    """Return a dragged value on a grain a person would type."""
    step = figures.nice_span(grain)
    return float(f"{round(value / step) * step or step if value > 0 else 0.0:.9g}")
