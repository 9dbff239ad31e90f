"""A spring that moves the selected axis while it is pulled, faster the further; let go, the axis brakes."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.glyph_button import GlyphButton

_KNOB = 9.0
_KEYS = {Qt.Key.Key_Plus: 1.0, Qt.Key.Key_Minus: -1.0}
_KEY_PULL = 0.3  # share of full speed while a key is held


class Spring(QWidget):
    """A knob on a spring: where it is pulled to is a share of the axis's speed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.share = 0.0
        self._held = False
        self.setMinimumSize(120, 34)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Spring: moves the selected axis while it is pulled")
        for signal in (session.selection_changed, session.theme_changed, session.machine_changed):
            signal.connect(self.update)
        session.run_changed.connect(self._follow)

    def speed(self) -> float:
        """Return the speed that is asked for, in axis units/s: gently at first, with the square of the pull."""
        axis = self.session.choice.axis
        return axis.limits.speed * math.copysign(self.share**2, self.share) if axis else 0.0

    def pull_to(self, share: float) -> None:
        """Pull the knob; the first pull begins to move the axis."""
        share = min(max(share, -1.0), 1.0)
        if not self._held and share:
            self._held = self.session.running.start_manual_move()
        if self._held:
            self.share = share
            self.session.running.pull(math.copysign(share * share, share))
        self.update()

    def let_go(self) -> None:
        """Let the knob spring back: the axis brakes."""
        if self._held:
            self.session.running.release()
        self._held, self.share = False, 0.0
        self.update()

    def _follow(self) -> None:
        if self._held and not self.session.running.active:  # the board is gone, or it was stopped
            self._held, self.share = False, 0.0
        self.setEnabled(self._held or not self.session.running.active)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.pull_to((event.position().x() - self.width() / 2) / (self.width() / 2 - _KNOB))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self.let_go()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = _KEYS.get(Qt.Key(event.key()))
        if way is None:
            event.ignore()
        elif not event.isAutoRepeat():
            self.pull_to(way * math.sqrt(_KEY_PULL))

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if Qt.Key(event.key()) in _KEYS and not event.isAutoRepeat():
            self.let_go()

    def hideEvent(self, _event: QHideEvent) -> None:
        self.let_go()

    def focusOutEvent(self, _event: QFocusEvent) -> None:
        self.let_go()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme, axis = self.session.theme, self.session.choice.axis
        hue = theme.axis(self.session.choice.index) if self.isEnabled() else theme.color("muted")
        y, middle = 13.0, self.width() / 2
        reach = middle - _KNOB
        knob = middle + self.share * reach
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(_KNOB, y), QPointF(self.width() - _KNOB, y))
        for mark in range(-5, 6):
            x = middle + math.copysign(math.sqrt(abs(mark) / 5), mark) * reach
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setPen(theme.pen(hue, 1.5))
        turns = [QPointF(middle + (knob - middle) * k / 20, y + (3.5 if k % 2 else -3.5)) for k in range(1, 20)]
        if abs(self.share) > 0.03:
            painter.drawPolyline(QPolygonF([QPointF(middle, y), *turns, QPointF(knob, y)]))
        painter.setPen(theme.pen(theme.color("accent") if self.hasFocus() else hue, 2))
        painter.setBrush(hue if self._held else theme.color("sheet"))
        painter.drawEllipse(QPointF(knob, y), _KNOB - 1, _KNOB - 1)
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        text = "pull to move" if not self._held else ""
        if self._held and axis is not None:
            text = f"{figures.short(self.speed())} {axis.unit}/s"
        painter.drawText(QRectF(0, 21, self.width(), self.height() - 21.0), Qt.AlignmentFlag.AlignHCenter, text)
        self.setToolTip("Pull to move the axis; the further, the faster. Let go to brake. Or hold + or −.")


class ByHand(QWidget):
    """One step back, the spring, one step on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.back = GlyphButton(session, "back", "One step back")
        self.on = GlyphButton(session, "on", "One step forward")
        self.spring = Spring(session)
        label = QLabel("by hand")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for widget in (label, self.back, self.spring, self.on):
            row.addWidget(widget, 1 if widget is self.spring else 0)
        self.back.clicked.connect(lambda: session.running.nudge(-1))
        self.on.clicked.connect(lambda: session.running.nudge(1))
        session.run_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show what can be done now."""
        for button in (self.back, self.on):
            button.setEnabled(not self.session.running.active and self.session.choice.axis is not None)
