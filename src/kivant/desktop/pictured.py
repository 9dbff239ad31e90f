"""A widget whose ground is painted rarely and kept as a picture, so that moving the playhead is cheap."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QWidget

from kivant.desktop.session import Session


class Pictured(QWidget):
    """Paints its ground into a picture when the plan or the light changes, and the playhead on top of it.

    A new picture is made in a turn of the event loop of its own: the wait for it adds to no other work.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._picture: QPixmap | None = None
        self._due = QTimer(self, singleShot=True, interval=0)
        self._due.timeout.connect(self._renew)
        for signal in (session.plan_changed, session.machine_changed, session.theme_changed):
            signal.connect(self.redraw)
        session.playhead_moved.connect(self.update)

    def paint_ground(self, painter: QPainter) -> None:
        """Paint everything but the playhead."""
        raise NotImplementedError

    def paint_playhead(self, painter: QPainter) -> None:
        """Paint the playhead."""
        raise NotImplementedError

    def redraw(self) -> None:
        """Have the ground painted anew soon."""
        self._due.start()

    def _renew(self) -> None:
        self._picture = None
        self.update()

    def _painted(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_ground(painter)
        painter.end()
        return picture

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._picture is None or self._picture.deviceIndependentSize().toSize() != self.size():
            self._picture = self._painted()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._picture)
        self.paint_playhead(painter)
