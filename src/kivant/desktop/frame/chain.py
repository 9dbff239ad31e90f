"""The chain: joined plates along the top, each a door to its station and a live summary of it."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from kivant.core.findings.finding import Finding
from kivant.desktop.frame.navigation import station_of
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.severity import looks
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations import FIRST_SHOWN, STATIONS, StationKind

_FLASH_MS = 900
CHAIN_HEIGHT = 64


_NARROW = 150  # pixels of a plate below which its words have no room beside its picture
_SMALL = 0.62  # of its size: a picture that stands beside the title


class PlateButton(QAbstractButton):
    """One plate."""

    def __init__(self, session: Session, kind: StationKind, number: int) -> None:
        super().__init__()
        self.session, self.kind, self.number = session, kind, number
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(CHAIN_HEIGHT)
        self.setMinimumWidth(120)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.figure, self.second = "", ""
        self.found: tuple[Finding, ...] = ()
        self._said: object = None
        self._pictured: object = None
        self._flash = QTimer(self, singleShot=True, interval=_FLASH_MS)
        self._flash.timeout.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(186, CHAIN_HEIGHT)

    def refresh(self, findings: Iterable[Finding], *, flash: bool) -> None:
        """Show the selected axis's figures; a change flashes where it follows from an edit.

        `findings` are those of this station, of all axes, the gravest first.
        """
        session = self.session
        texts, axis = ("", ""), session.choice.axis
        if axis is not None:
            texts = self.kind.figure(session, axis), self.kind.second(session, axis)
        own = tuple(finding for finding in findings if finding.place.axis in (None, session.choice.index))
        said, found = f"{self.kind.title}: {texts[0]}, {texts[1]}", [finding.severity for finding in own]
        self.follow()
        if (said, found) == self._said:
            return
        self._said, self.found = (said, found), own
        if flash and self.figure not in ("", "no plan") and texts != (self.figure, self.second):
            self._flash.start()
        self.figure, self.second = texts
        self.setAccessibleName(said)
        self.setToolTip(literal(f"{said} (Alt+{self.number})" + (f"\n{len(found)} to look at" if found else "")))
        self.update()

    def follow(self) -> None:
        """Paint the picture anew if what it is made from is another than before."""
        axis = self.session.choice.axis
        pictured = self.kind.shows(self.session, axis) if axis is not None else None
        if pictured != self._pictured:
            self._pictured = pictured
            self.update()

    @property
    def flashing(self) -> bool:
        """Whether a change is being shown."""
        return self._flash.isActive()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        self._paint_ground(painter)
        theme, height = self.session.theme, self.height()
        axis = self.session.choice.axis
        if axis is not None:
            color = theme.color("ink" if self.isChecked() else "muted")
            size = _SMALL if self.width() < _NARROW else 1.0
            painter.save()
            painter.scale(size, size)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen(color, 1.6))
            center = QPointF(23 / size, height / 2 if size == 1.0 else 14 / size)
            self.kind.picture(painter, self.session, axis, center, color)
            painter.restore()
        self._paint_words(painter)

    def _paint_ground(self, painter: QPainter) -> None:
        theme = self.session.theme
        width, height = self.width(), self.height()
        fill(painter, self.rect(), theme.color("paper" if self.isChecked() else "sheet"))
        if self.flashing:
            fill(painter, self.rect(), theme.tint(theme.color("accent"), 0.16))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, height - 0.5), QPointF(width, height - 0.5))
        # Joined like links: an arrow head points on to what follows.
        painter.drawPolyline(
            QPolygonF([QPointF(width - 7, 0), QPointF(width - 1, height / 2), QPointF(width - 7, height)])
        )
        if self.isChecked():
            fill(painter, QRectF(14, height - 3, width - 34, 3), theme.color("accent"))
        if self.hasFocus():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawRect(QRectF(3, 3, width - 14, height - 7))

    def _paint_words(self, painter: QPainter) -> None:
        theme, width, found = self.session.theme, self.width(), self.found
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        title, left, room = (41, 11, width - 20) if width < _NARROW else (46, 46, width - 53)
        below = bool(found) and title + painter.fontMetrics().horizontalAdvance(self.kind.title) > width - 50
        painter.drawText(QRectF(title, 4, width - title, 20), Qt.AlignmentFlag.AlignVCenter, self.kind.title)
        painter.setFont(font("strong" if self.isChecked() or self.flashing else "text"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(left, 24, room, 18), 0, metrics.elidedText(self.figure, Qt.TextElideMode.ElideRight, room)
        )
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        metrics = painter.fontMetrics()
        painter.drawText(
            QRectF(left, 42, room, 18), 0,
            metrics.elidedText(self.second, Qt.TextElideMode.ElideRight, room - (38 if below else 0)),
        )  # fmt: skip
        if found:  # beside the title, or where that has no room beside the last line
            sign, token = looks(found[0].severity)
            badge = QRectF(width - 40, 42, 31, 17) if below else QRectF(width - 46, 6, 31, 17)
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
        self._sorted: tuple[tuple[Finding, ...], dict[str | None, list[Finding]]] = ((), {})
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.plates = {key: PlateButton(session, kind, k + 1) for k, (key, kind) in enumerate(STATIONS.items())}
        for plate in self.plates.values():
            row.addWidget(plate, 1)
            if "playhead" in plate.kind.follows:
                session.playhead_moved.connect(plate.follow)
            if "run" in plate.kind.follows:
                session.run_changed.connect(plate.update)
        self.plates[FIRST_SHOWN].setChecked(True)
        for signal in (session.machine_changed, session.findings_changed, session.plan_changed, session.run_changed):
            signal.connect(self.refresh)
        for signal in (session.selection_changed, session.theme_changed):
            signal.connect(self.show_other)
        self.show_other()

    def refresh(self) -> None:
        """Show the figures; those an edit has changed flash."""
        self._refresh(flash=True)

    def show_other(self) -> None:
        """Show the figures of another axis, which is no change of theirs."""
        self._refresh(flash=False)
        for plate in self.plates.values():
            plate.update()

    def _refresh(self, *, flash: bool) -> None:
        findings = self.session.planning.findings
        if findings is not self._sorted[0]:  # where each belongs is looked up once, and not at every edit
            by_station: dict[str | None, list[Finding]] = {}
            for finding in findings:
                by_station.setdefault(station_of(finding.place), []).append(finding)
            self._sorted = findings, by_station
        for key, plate in self.plates.items():
            plate.refresh(self._sorted[1].get(key, ()), flash=flash)
