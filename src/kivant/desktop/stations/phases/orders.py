"""All 24 orders of plugs, each as the path of its field; a click, or Enter, plugs the outputs that way."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.wiring import ORDERS, field_path, field_turns, why
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.desktop.kit.field_path import paint_field_path, paint_turn
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Token, font
from kivant.desktop.state.session import Session

COLUMNS = 6
_TOKENS: dict[int, Token] = {1: "good", -1: "warn", 0: "muted"}
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -COLUMNS, Qt.Key.Key_Down: COLUMNS}


class Orders(QWidget):
    """The figures, the order in force marked; ``told`` says what the one that is looked at does."""

    told = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.looked_at = 0
        self.setMinimumSize(250, 190)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("All orders of the plugs")
        for signal in (session.selection_changed, session.machine_changed, session.theme_changed):
            signal.connect(self.update)

    def words(self) -> tuple[int, ...]:
        """Return the words of the sequence in force."""
        axis = self.session.choice.axis
        table = driver_kind(axis.driver).rows(axis.driver) if axis else None
        return tuple(row.word for row in table or ())

    def now(self) -> str:
        """Return the order in force."""
        axis = self.session.choice.axis
        return (getattr(axis.driver, "wires", None) if axis else None) or ORDERS[0]

    def place(self, index: int) -> QRectF:
        """Return where an order is drawn."""
        wide, tall = self.width() / COLUMNS, self.height() / (len(ORDERS) / COLUMNS)
        return QRectF(index % COLUMNS * wide, index // COLUMNS * tall, wide, tall)

    def look_at(self, index: int) -> None:
        """Tell what an order does."""
        self.looked_at = index
        if self.words():
            self.told.emit(why(self.words(), ORDERS[index]))
        self.update()

    def take(self, index: int) -> None:
        """Plug the outputs in an order."""
        axis, order = self.session.choice.axis, ORDERS[index]
        if axis is not None and not self.session.running.active and order != self.now():
            value = None if order == ORDERS[0] else order
            edit = set_value(axis_path(self.session.choice.index, "driver", "wires"), value)
            self.session.try_edit(edit, f"plugs of {axis.name}")

    def _at(self, at: QPointF) -> int | None:
        return next((k for k in range(len(ORDERS)) if self.place(k).contains(at)), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = self._at(event.position())
        if index is not None and index != self.looked_at:
            self.look_at(index)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self._at(event.position())
        if index is not None:
            self.look_at(index)
            self.take(index)

    def leaveEvent(self, _event: object) -> None:
        self.look_at(ORDERS.index(self.now()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = _STEPS.get(Qt.Key(event.key()))
        if step is not None:
            self.look_at(min(max(self.looked_at + step, 0), len(ORDERS) - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take(self.looked_at)
        else:
            event.ignore()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in _STEPS:
            event.accept()
            return True
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.look_at(ORDERS.index(self.now()))

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        words = self.words()
        if not words:
            return
        now = ORDERS.index(self.now())
        for index, order in enumerate(ORDERS):
            self._paint(painter, self.place(index).adjusted(2, 2, -2, -2), order, words, chosen=index == now)

    def _paint(self, painter: QPainter, box: QRectF, order: str, words: tuple[int, ...], *, chosen: bool) -> None:
        theme = self.session.theme
        rows = field_path(words, order)
        turns = field_turns(rows)
        hue = theme.color(_TOKENS[(turns > 0) - (turns < 0)])
        looked = ORDERS[self.looked_at] == order and (self.hasFocus() or self.underMouse())
        if chosen or looked:
            painter.setPen(theme.pen(theme.color("accent"), 2 if chosen else 1))
            painter.setBrush(theme.color("sheet"))
            painter.drawRoundedRect(box, 6, 6)
        radius = min(box.width() / 2 - 6, (box.height() - 22) / 2 - 2)
        middle = QPointF(box.center().x(), box.top() + radius + 4)
        paint_field_path(painter, theme, rows, middle, radius, hue)
        paint_turn(painter, theme, middle, radius * 0.36, turns, hue)
        painter.setFont(font("strong" if turns > 0 else "small"))
        painter.setPen(theme.color("ink" if turns else "muted"))
        painter.drawText(QRectF(box.left(), box.bottom() - 19, box.width(), 18), Qt.AlignmentFlag.AlignCenter, order)
