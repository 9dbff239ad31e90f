"""The chain: joined plates along the top, each a door to its station and a live summary of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from kivant.core.findings import Finding
from kivant.core.machine import Axis, CoilDriver
from kivant.core.travel import steps_per_rev, steps_per_unit
from kivant.desktop import figures
from kivant.desktop.places import axis_of, station_of
from kivant.desktop.plate_pictures import paint_phases, paint_ramp, paint_run, paint_travel
from kivant.desktop.session import Session
from kivant.desktop.severity import looks
from kivant.desktop.theme import font

_FLASH_MS = 900
CHAIN_HEIGHT = 64


@dataclass(frozen=True, slots=True)
class Plate:
    """What a plate says: its name, the figure that matters, a second line, and its picture."""

    name: str
    figure: Callable[[Session, Axis], str]
    second: Callable[[Session, Axis], str]
    picture: Callable[[QPainter, Session, Axis, QPointF, QColor], None]


def _phases(_session: Session, axis: Axis) -> str:
    driver = axis.driver
    if isinstance(driver, CoilDriver):
        return f"{driver.sequence}, {8 if driver.sequence == 'half' else 4} rows"
    return f"{driver.microsteps} microsteps"


def _travel(_session: Session, axis: Axis) -> str:
    return f"{figures.short(float(steps_per_unit(axis)))} steps/{axis.unit}"


def _resolution(_session: Session, axis: Axis) -> str:
    return f"{figures.short(float(1 / steps_per_unit(axis)))} {axis.unit} a step"


def _ramp(_session: Session, axis: Axis) -> str:
    return f"{figures.short(axis.limits.speed)} {axis.unit}/s"


def _ramp_time(_session: Session, axis: Axis) -> str:
    limits = axis.limits
    return f"in {figures.short(max(limits.speed - limits.start_speed, 0.0) / limits.acceleration)} s"


def _run(session: Session, _axis: Axis) -> str:
    if session.plan is None:
        return "no plan"
    moving = sum(a.steps > 0 for a in session.plan.axes)
    return f"{moving} {'axis' if moving == 1 else 'axes'}, {figures.brief_seconds(session.duration_s)}"


def _run_state(session: Session, _axis: Axis) -> str:
    return session.status.phase if session.status else "idle"


PLATES = (
    Plate("Phases", _phases, lambda _s, axis: f"{steps_per_rev(axis)} steps/rev", paint_phases),
    Plate("Travel", _travel, _resolution, paint_travel),
    Plate("Ramp", _ramp, _ramp_time, paint_ramp),
    Plate("Run", _run, _run_state, paint_run),
)


class PlateButton(QAbstractButton):
    """One plate."""

    def __init__(self, session: Session, plate: Plate, number: int) -> None:
        super().__init__()
        self.session, self.plate, self.number = session, plate, number
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(CHAIN_HEIGHT)
        self.setMinimumWidth(150)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.figure, self.second = "", ""
        self._shown: object = None
        self._flash = QTimer(self, singleShot=True, interval=_FLASH_MS)
        self._flash.timeout.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(186, CHAIN_HEIGHT)

    def refresh(self, *, flash: bool) -> None:
        """Show the selected axis's figures; a change flashes where it follows from an edit."""
        session = self.session
        texts, axis = ("", ""), session.axis
        if axis is not None:
            texts = self.plate.figure(session, axis), self.plate.second(session, axis)
        said, found = f"{self.plate.name}: {texts[0]}, {texts[1]}", [finding.severity for finding in self.findings()]
        shown = said, found, (axis.travel, axis.limits) if axis else None
        if shown == self._shown:
            return
        self._shown = shown
        if flash and self.figure not in ("", "no plan") and texts != (self.figure, self.second):
            self._flash.start()
        self.figure, self.second = texts
        self.setAccessibleName(said)
        self.setToolTip(f"{said} (Alt+{self.number})" + (f"\n{len(found)} to attend to" if found else ""))
        self.update()

    @property
    def flashing(self) -> bool:
        """Whether a change is being shown."""
        return self._flash.isActive()

    def findings(self) -> tuple[Finding, ...]:
        """Return the findings of the selected axis (or of none) that belong to this station, the gravest first."""
        whose = (None, self.session.selected)
        found = [f for f in self.session.findings if station_of(f.place) == self.number - 1]
        return tuple(finding for finding in found if axis_of(finding.place) in whose)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_ground(painter)
        theme, height = self.session.theme, self.height()
        axis = self.session.axis
        if axis is not None:
            color = theme.color("ink" if self.isChecked() else "muted")
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen(color, 1.6))
            self.plate.picture(painter, self.session, axis, QPointF(28, height / 2), color)
        self._paint_words(painter)

    def _paint_ground(self, painter: QPainter) -> None:
        theme = self.session.theme
        width, height = self.width(), self.height()
        painter.fillRect(self.rect(), theme.color("paper" if self.isChecked() else "sheet"))
        if self.flashing:
            painter.fillRect(self.rect(), theme.tint(theme.color("accent"), 0.16))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, height - 0.5), QPointF(width, height - 0.5))
        # Joined like links: an arrow head points on to what follows.
        painter.drawPolyline(
            QPolygonF([QPointF(width - 7, 0), QPointF(width - 1, height / 2), QPointF(width - 7, height)])
        )
        if self.isChecked():
            painter.fillRect(QRectF(14, height - 3, width - 34, 3), theme.color("accent"))
        if self.hasFocus():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawRect(QRectF(3, 3, width - 14, height - 7))

    def _paint_words(self, painter: QPainter) -> None:
        theme, width = self.session.theme, self.width()
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        room = width - 62
        painter.drawText(QRectF(52, 4, room, 20), Qt.AlignmentFlag.AlignVCenter, self.plate.name)
        painter.setFont(font("strong" if self.isChecked() or self.flashing else "text"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(52, 24, room, 18), 0, metrics.elidedText(self.figure, Qt.TextElideMode.ElideRight, room)
        )
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(52, 42, room, 18), 0, metrics.elidedText(self.second, Qt.TextElideMode.ElideRight, room)
        )
        found = self.findings()
        if found:
            sign, token = looks(found[0].severity)
            badge = QRectF(width - 46, 6, 31, 17)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color(token))
            painter.drawRoundedRect(badge, 4, 4)
            painter.setPen(theme.color("sheet"))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, f"{sign} {min(len(found), 99)}")


class Chain(QWidget):
    """All plates in a row."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._machine = session.machine
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.plates = [PlateButton(session, plate, k + 1) for k, plate in enumerate(PLATES)]
        for plate in self.plates:
            row.addWidget(plate, 1)
        self.plates[-1].setChecked(True)
        for signal in (session.machine_changed, session.findings_changed, session.plan_changed, session.run_changed):
            signal.connect(self.refresh)
        for signal in (session.selection_changed, session.theme_changed):
            signal.connect(self.show_other)
        session.playhead_moved.connect(self.plates[0].update)
        self.show_other()

    def refresh(self) -> None:
        """Show the figures; those an edit has changed flash."""
        for plate in self.plates:
            plate.refresh(flash=True)
        self.plates[-1].update()  # its lamp follows the run

    def show_other(self) -> None:
        """Show the figures of another axis, which is no change of theirs."""
        for plate in self.plates:
            plate.refresh(flash=False)
            plate.update()
