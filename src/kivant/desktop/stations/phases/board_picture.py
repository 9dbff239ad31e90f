"""The board as a strip of terminals, with the lines of the drivers as tags that hang at them."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QResizeEvent

from kivant.core.machine.lines import Side, Use, assign_line, needed_lines, remove_line, rename_line, uses
from kivant.core.motion.rates import pulse_rate
from kivant.core.travel.conversion import steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.plugboard import Plug, Plugboard, Socket
from kivant.desktop.widgets.value_field import ValueField, type_over

_ROW, _LEAST_ROW = 46.0, 27.0
_USUAL = 8  # terminals in a column, as many as a port has
_LEAST_NAME, _NAME_SHARE = 76.0, 0.44  # of a terminal, for its name
_TAG = 74.0
_WIDEST = 300.0  # of a column


class BoardPicture(Plugboard):
    """Terminals in columns: lines first, inputs behind them. ``marked`` is the terminal that was clicked last."""

    changed_mark = Signal()
    hint = (
        "Drag a tag to another line. Double click a line, or F2, to rename it; Del removes it. "
        "With the keys: arrows, Space to lift and set down."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.marked: tuple[Side, str] | None = None
        self.setMinimumSize(420, 240)
        self.setAccessibleName("Lines and inputs of the board")
        for signal in (session.machine_changed, session.theme_changed, session.selection_changed):
            signal.connect(self._follow)

    def _follow(self) -> None:
        self.setMinimumHeight(max(240, round(self._rows() * _LEAST_ROW)))
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._follow()

    # Where things are

    def terminals(self) -> list[tuple[Side, str]]:
        """Return every line and input of the board."""
        board = self.session.document.machine.board
        lines: list[tuple[Side, str]] = [("lines", name) for name in board.lines]
        return [*lines, *(("inputs", name) for name in board.inputs)]

    def _rows(self) -> int:
        return max(math.ceil(len(self.terminals()) / max(int(self.width() // 190), 1)), _USUAL)

    def places(self) -> dict[tuple[Side, str], QRectF]:
        """Return where each terminal is drawn: down, then across."""
        found, rows = self.terminals(), self._rows()
        tall = min(_ROW, max(self.height() / rows, _LEAST_ROW))
        wide = min(self.width() / max(math.ceil(len(found) / rows), 1), _WIDEST)
        return {
            terminal: QRectF(k // rows * wide, k % rows * tall, wide - 8, tall - 4) for k, terminal in enumerate(found)
        }

    def plugs(self) -> dict[Plug, QRectF]:
        """Return the tags."""
        found: dict[Plug, QRectF] = {}
        places = self.places()
        for line, users in uses(self.session.document.machine).items():
            box = places.get(("lines", line))
            if box is None:
                continue
            name, tall = _name_width(box) + 14, min(box.height() - 6, 26.0)
            wide = min((box.width() - name) / max(len(users), 1), _TAG)
            for k, use in enumerate(users):
                found[use] = QRectF(box.left() + name + k * wide, box.center().y() - tall / 2, wide - 4, tall)
        return found

    # Plugs

    def sockets(self, plug: Plug) -> dict[Socket, QRectF]:
        """Return the lines of the board."""
        return {name: box for (side, name), box in self.places().items() if side == "lines"}

    def words(self, plug: Plug) -> str:
        """Say whose a tag is."""
        assert isinstance(plug, Use)
        axis = self.session.document.machine.axes[plug.axis]
        return f"{axis.name}'s {plug.key}, on line {self.socket_of(plug)}"

    def socket_of(self, plug: Plug) -> Socket:
        """Return the line at which a tag hangs."""
        assert isinstance(plug, Use)
        return str(getattr(self.session.document.machine.axes[plug.axis].driver.lines, plug.key))

    def move_plug(self, plug: Plug, socket: Socket) -> None:
        """Wire a driver's line to another terminal; what hangs there takes its place."""
        assert isinstance(plug, Use)
        axis = self.session.document.machine.axes[plug.axis]
        self.session.try_edit(assign_line(plug, str(socket)), f"line of {axis.name}'s {plug.key}")

    def clicked(self, plug: Plug) -> None:
        """Mark the terminal of a tag."""
        self.marked = ("lines", str(self.socket_of(plug)))
        self.changed_mark.emit()

    # Terminals

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if not any(box.contains(at) for box in self.plugs().values()):
            self.marked = next((t for t, box in self.places().items() if box.contains(at)), None)
            self.changed_mark.emit()
            self.update()
        super().mousePressEvent(event)
        event.accept()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.marked = next((t for t, box in self.places().items() if box.contains(event.position())), None)
        self.rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_F2:
            self.rename()
        elif event.key() == Qt.Key.Key_Delete:
            self.remove()
        else:
            super().keyPressEvent(event)

    def rename(self) -> None:
        """Type another name over the marked terminal's."""
        if self.marked is None or self.session.running.active or self.marked not in self.places():
            return
        side, old = self.marked

        def take(text: str, _goes_on: bool) -> None:
            self.session.edit(rename_line(side, old, text), f"name of {old}")
            self.marked = (side, text.strip())

        def show() -> str:
            return self.marked[1] if self.marked else old

        box = self.places()[self.marked]
        field = ValueField(self.session, f"Name of {old}", show, take)
        place = QRectF(box.left(), box.top(), _name_width(box) + 10, box.height())
        type_over(self, place.toRect(), field)

    def remove(self) -> None:
        """Remove the marked terminal, if nothing uses it."""
        if self.marked is not None and not self.session.running.active:
            side, name = self.marked
            if self.session.try_edit(remove_line(side, name), f"removed {name}"):
                self.marked = None
                self.changed_mark.emit()

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        used = uses(self.session.document.machine)
        for (side, name), box in self.places().items():
            count = len(used.get(name, ())) if side == "lines" else 0
            self._paint_terminal(painter, side, name, box, count)
        for use, box in self.plugs().items():
            if isinstance(use, Use) and use != self.held:
                self._paint_tag(painter, use, box)
        if isinstance(self.held, Use):
            self._paint_held(painter, self.held)

    def _paint_terminal(self, painter: QPainter, side: Side, name: str, box: QRectF, count: int) -> None:
        theme = self.session.theme
        over = self.held is not None and side == "lines" and self.over == name
        marked = self.marked == (side, name)
        painter.setPen(theme.pen(theme.color("accent" if over or marked else "edge"), 2 if over or marked else 1))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(box, 5, 5)
        hole = QPointF(box.left() + 13, box.center().y())
        painter.setPen(theme.pen(theme.color("ink" if count else "muted"), 1.4))
        painter.setBrush(theme.color("ink") if count == 1 else theme.color("bad" if count else "paper"))
        if side == "inputs":
            painter.drawRect(QRectF(hole.x() - 4.5, hole.y() - 4.5, 9, 9))
        else:
            painter.drawEllipse(hole, 4.5, 4.5)
        painter.setFont(font("strong" if count else "text"))
        painter.setPen(theme.color("ink" if count else "muted"))
        name_width = _name_width(box)
        room = QRectF(box.left() + 24, box.top(), name_width - 14, box.height())
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        if not count:
            painter.setFont(font("small"))
            free = QRectF(box.left() + name_width + 16, box.top(), box.width() - name_width - 20, box.height())
            painter.drawText(free, Qt.AlignmentFlag.AlignVCenter, "free" if side == "lines" else "input")
        elif count > 1:
            painter.setFont(font("small"))
            painter.setPen(theme.color("bad"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box.adjusted(0, 0, -5, 0), right, "!")

    def _paint_tag(self, painter: QPainter, use: Use, box: QRectF) -> None:
        theme, hue = self.session.theme, self.session.theme.axis(use.axis)
        chosen = use.axis == self.session.choice.index
        reached = self.hasFocus() and self.reached == use
        painter.setPen(theme.pen(theme.color("accent") if reached else hue, 2 if reached or chosen else 1.2))
        painter.setBrush(theme.tint(hue, 0.22 if chosen else 0.10))
        painter.drawRoundedRect(box, box.height() / 2, box.height() / 2)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("strong" if chosen else "small"))
        letter = figures.letters(self.session.document.machine)[use.axis]
        text, room = f"{letter} {use.key}", int(box.width() - 6)
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown)

    def _paint_held(self, painter: QPainter, held: Use) -> None:
        box = self.plugs()[held]
        if self.hand is not None:
            box.moveCenter(self.hand)
        elif self.over is not None:
            target = self.places()["lines", str(self.over)]
            box.moveCenter(QPointF(target.right() - box.width() / 2, target.center().y()))
        self._paint_tag(painter, held, box)


def _name_width(box: QRectF) -> float:
    return max(_LEAST_NAME, box.width() * _NAME_SHARE)


def board_words(session: Session) -> str:
    """Say how many lines the machine needs and has, and which pulse rate."""
    machine = session.document.machine
    needed, there = needed_lines(machine), len(machine.board.lines)
    wished = [(a.limits.speed * float(steps_per_unit(a)), a) for a in machine.axes]
    fastest = max(wished, key=lambda pair: pair[0], default=None)
    lines = f"{needed} of {there} lines are needed" + (f": {needed - there} too few" if needed > there else "")
    shared = [line for line, users in uses(machine).items() if len(users) > 1]
    collide = f"; {', '.join(shared)} used twice" if shared else ""
    rate = ""
    if fastest is not None:
        least = min(fastest[0], pulse_rate(machine, fastest[1]))
        rate = f". The fastest steps are {figures.short(least)} a second, on {figures.shortened(fastest[1].name)}"
        rate += f" ({figures.short(fastest[0])} are wished)" if fastest[0] > least * (1 + 1e-9) else ""
    return f"{lines}{collide}{rate}. No input is used yet."
