"""Plugs in sockets: dragged with the mouse, or lifted and set down with the keys.

A subclass says where its sockets are and which of them hold a plug; it is told when a plug has been moved. The Wires
face and the picture of the board are such boards.
"""

from __future__ import annotations

from collections.abc import Hashable

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QWidget

from kivant.desktop.kit.literal import literal
from kivant.desktop.state.session import Session

Plug = Hashable
Socket = Hashable
_FAR = 6.0  # pixels from which on a press is a drag

_WAYS = {
    Qt.Key.Key_Up: QPointF(0, -1),
    Qt.Key.Key_Down: QPointF(0, 1),
    Qt.Key.Key_Left: QPointF(-1, 0),
    Qt.Key.Key_Right: QPointF(1, 0),
}


class Plugboard(QWidget):
    """Handles hand and keys; painting is the subclass's.

    ``reached`` is the plug that the keys go to, ``held`` the one that is lifted, ``over`` the socket that it would go
    into, ``hand`` where the mouse holds it.
    """

    hint = "Drag a plug to another socket. With the keys: arrows, Space to lift and set down."

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.reached: Plug | None = None
        self.held: Plug | None = None
        self.over: Socket | None = None
        self.hand: QPointF | None = None
        self._pressed: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip(self.hint)
        for signal in (session.machine_changed, session.selection_changed):
            signal.connect(self._let_go)  # its socket may be gone

    # What a subclass says

    def plugs(self) -> dict[Plug, QRectF]:
        """Return every plug that can be moved, and where it is."""
        raise NotImplementedError

    def sockets(self, plug: Plug) -> dict[Socket, QRectF]:
        """Return where a plug may go, and which pixels take it."""
        raise NotImplementedError

    def socket_of(self, plug: Plug) -> Socket:
        """Return where a plug is now."""
        raise NotImplementedError

    def move_plug(self, plug: Plug, socket: Socket) -> None:
        """Put a plug into another socket."""
        raise NotImplementedError

    def clicked(self, plug: Plug) -> None:
        """Know that a plug was clicked."""

    def words(self, plug: Plug) -> str:
        """Say what a plug is."""
        raise NotImplementedError

    # Hand

    def _free(self) -> bool:
        return not self.session.running.active

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        plug = next((plug for plug, place in self.plugs().items() if place.contains(at)), None)
        if plug is None or event.button() != Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self.reached, self._pressed = plug, at
        self.clicked(plug)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        far = self._pressed is not None and (at - self._pressed).manhattanLength() >= _FAR
        if self.held is None and far and self._free():
            self.held = self.reached
        if self.held is not None and self._pressed is not None:
            self.hand = at
            sockets = self.sockets(self.held)
            self.over = next((socket for socket, place in sockets.items() if place.contains(at)), None)
            self.update()
            return
        under = next((plug for plug, place in self.plugs().items() if place.contains(at)), None)
        grasped = under is not None and self._free()
        self.setCursor(Qt.CursorShape.OpenHandCursor if grasped else Qt.CursorShape.ArrowCursor)
        self.setToolTip(literal(self.words(under)) if under is not None else self.hint)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        held, over, dragged = self.held, self.over, self._pressed is not None
        self._pressed = None
        if held is None or not dragged:
            return
        self._let_go()
        if over is None:
            self.session.notice("Drop it on a socket. Nothing was changed.")
        elif over != self.socket_of(held):
            self.move_plug(held, over)
        self.update()

    def _let_go(self) -> None:
        self.held = self.over = self.hand = None

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, plugs = Qt.Key(event.key()), self.plugs()
        if self.reached not in plugs:
            self.reached = next(iter(plugs), None)
        if key == Qt.Key.Key_Escape and self.held is not None:
            self._let_go()
        elif self.reached is None:
            event.ignore()
            return
        elif key in _WAYS:
            self._go(_WAYS[key])
        elif key in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self._lift_or_set_down()
        else:
            event.ignore()
            return
        self.update()

    def _lift_or_set_down(self) -> None:
        if not self._free():
            return
        if self.held is None:
            assert self.reached is not None
            self.held, self.over = self.reached, self.socket_of(self.reached)
            return
        held, over = self.held, self.over
        self._let_go()
        if over is not None and over != self.socket_of(held):
            self.move_plug(held, over)

    def _go(self, way: QPointF) -> None:
        """Go to the nearest plug (or with a plug in hand, socket) that lies that way."""
        places = self.sockets(self.held) if self.held is not None else self.plugs()
        now = self.over if self.held is not None else self.reached
        here = places[now].center() if now in places else QPointF(0, 0)

        def cost(place: QRectF) -> float:
            off = place.center() - here
            along, across = QPointF.dotProduct(off, way), abs(off.x() * way.y()) + abs(off.y() * way.x())
            return along + 2.5 * across if along > 1 else float("inf")

        best = min(places, key=lambda key: cost(places[key]), default=None)
        if best is None or cost(places[best]) == float("inf"):
            return
        if self.held is not None:
            self.over = best
        else:
            self.reached = best
            self.clicked(best)

    def event(self, event: QEvent) -> bool:
        # Arrows, Space and Esc mean this board while it has the focus, and the playhead else.
        keys = (*_WAYS, Qt.Key.Key_Space) if self.held is None else (*_WAYS, Qt.Key.Key_Space, Qt.Key.Key_Escape)
        asked = event.type() == QEvent.Type.ShortcutOverride
        if asked and isinstance(event, QKeyEvent) and event.key() in keys:
            event.accept()
            return True
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.hand is None:
            self._let_go()
        self.update()
