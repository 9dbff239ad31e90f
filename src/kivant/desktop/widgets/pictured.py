"""A widget whose ground is painted rarely and kept as a picture, so that what moves on top of it is cheap."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Qt, SignalInstance
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from kivant.desktop.kit.painted import painted, painting
from kivant.desktop.state.session import Session


class Pictured(QWidget):
    """Paints its ground into a picture whenever one of `signals` comes, and what moves on top of it.

    A new picture is made in turns of the event loop of their own, with the old one shown till then: many axes and
    blocks make it come later, and never hold up the hand.
    """

    def __init__(self, session: Session, *signals: SignalInstance) -> None:
        super().__init__()
        self.session = session
        self._picture: QPixmap | None = None
        for signal in signals:
            signal.connect(self.redraw)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        """Paint everything that stays; after each ``yield`` other work may come first."""
        raise NotImplementedError

    def paint_moving(self, painter: QPainter) -> None:
        """Paint what moves on top."""

    def redraw(self) -> None:
        """Have the ground painted anew soon."""
        self.session.turns.do(self, self._renew())

    def _renew(self) -> Iterator[None]:
        if not self.isVisible():
            self._picture = None
            return
        picture = self._blank()
        yield from self._paint(picture)
        self._picture = picture
        self.update()

    def _blank(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        return picture

    def _paint(self, picture: QPixmap) -> Iterator[None]:
        with painting(picture) as painter:
            yield from self.paint_ground(painter)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        if self._picture is None or self._picture.deviceIndependentSize().toSize() != self.size():
            self._picture = self._blank()
            for _ in self._paint(self._picture):
                pass
        painter.drawPixmap(0, 0, self._picture)
        self.paint_moving(painter)
