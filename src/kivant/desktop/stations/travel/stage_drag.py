"""Stages dragged to another place of their chain: a mark shows where one would go; Esc, or elsewhere, leaves it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QApplication, QFrame, QWidget

from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.cards import StageCard

_ASTRAY = 90  # pixels above or below the chain from which on a stage stays where it was


class StageDrag(QObject):
    """Watches the cards of stages; `move` is called with the place of one and where it is to go."""

    def __init__(self, page: QWidget, session: Session, move: Callable[[int, int], None]) -> None:
        super().__init__(page)
        self._page, self._session, self._move = page, session, move
        self._cards: list[StageCard] = []
        self._held: StageCard | None = None
        self._begin = QPoint()
        self._to: int | None = None
        self.mark = QFrame(page)
        self.mark.setFixedWidth(3)
        self.mark.hide()

    def watch(self, cards: Sequence[StageCard]) -> None:
        """Let these cards be dragged: all stages that turn, in their order."""
        self._drop()
        self._cards = list(cards)
        for card in self._cards:
            card.installEventFilter(self)
            card.setCursor(Qt.CursorShape.OpenHandCursor if len(self._cards) > 1 else Qt.CursorShape.ArrowCursor)

    def eventFilter(self, card: QObject, event: QEvent) -> bool:
        """Follow the hand over the cards."""
        if isinstance(card, StageCard) and isinstance(event, QMouseEvent):
            if event.type() == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
                if len(self._cards) > 1 and not self._session.running.active:
                    self._held, self._begin, self._to = card, event.globalPosition().toPoint(), None
                    card.setFocus(Qt.FocusReason.MouseFocusReason)
                    return True
            elif event.type() == QEvent.Type.MouseMove and self._held is card:
                self._drag(event.globalPosition().toPoint())
                return True
            elif event.type() == QEvent.Type.MouseButtonRelease and self._held is card:
                place, to = card.place, self._to
                self._drop()
                if to is not None and to != place:
                    self._move(place, to)
                return True
        elif self._held is not None and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            self._drop()
            event.accept()
            return True
        return super().eventFilter(card, event)

    def _drag(self, at: QPoint) -> None:
        if self._to is None and (at - self._begin).manhattanLength() < QApplication.startDragDistance():
            return
        held = self._held
        assert held is not None
        held.setCursor(Qt.CursorShape.ClosedHandCursor)
        here = self._page.mapFromGlobal(at)
        boxes = [card.geometry() for card in self._cards]
        if not boxes[0].top() - _ASTRAY < here.y() < boxes[0].bottom() + _ASTRAY:
            self._to = held.place
            self.mark.hide()
            return
        gap = sum(here.x() > box.center().x() for box in boxes)  # before which card it would stand
        first = self._cards[0].place
        self._to = first + gap - (gap > held.place - first)
        x = boxes[gap].left() if gap < len(boxes) else boxes[-1].right()
        self.mark.setStyleSheet(f"background: {self._session.theme.color('accent').name()}")
        self.mark.setGeometry(x - 1, boxes[0].top() + 20, 3, boxes[0].height() - 40)
        self.mark.setVisible(self._to != held.place)
        self.mark.raise_()

    def _drop(self) -> None:
        if self._held is not None:
            self._held.setCursor(Qt.CursorShape.OpenHandCursor)
        self._held, self._to = None, None
        self.mark.hide()
