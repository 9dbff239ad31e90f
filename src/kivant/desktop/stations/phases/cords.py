"""Lines of the board, the driver, and the ends of the windings, with cords between them that can be replugged."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen

from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.drive.phases import COILS
from kivant.core.drive.symptoms import Cause
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.machine.lines import Use, assign_line, free_lines, take_off
from kivant.core.path import axis_path
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.plugboard import Plug, Plugboard, Socket

_ENDS = ("A", "C", "B", "D")  # from the top: the ends of one winding, then those of the other
_MOST_FREE = 3
_UNWIRED = ""
_REACH = 7.0  # of a socket


class Cords(Plugboard):
    """Where each line of the driver goes, on its way from the board to the motor.

    ``preview`` is a cause whose cords are shown besides, dashed: how they would be.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.preview: Cause | None = None
        self.setMinimumSize(250, 190)
        self.setAccessibleName("Cords from the board's lines to the windings")
        self.setToolTip("Drag the end of a cord to another socket. With the keys: arrows, Space to lift and set down.")
        for signal in (session.selection_changed, session.machine_changed, session.theme_changed):
            signal.connect(self.update)

    # Where things are

    @property
    def axis(self) -> Axis | None:
        """The chosen axis."""
        return self.session.choice.axis

    def keys(self) -> tuple[str, ...]:
        """Return the lines that the driver has or could have."""
        axis = self.axis
        if axis is None:
            return ()
        kind = driver_kind(axis.driver)
        wired = kind.keys(axis.driver)
        return (*wired, *(key for key in kind.optional_keys if key not in wired))

    def _lines(self) -> list[str]:
        """Return the board's lines that are shown: the axis's own, a few free ones, and none, where that may be."""
        axis = self.axis
        if axis is None:
            return []
        own = list(dict.fromkeys(board_lines(axis.driver).values()))
        nothing = [_UNWIRED] if driver_kind(axis.driver).optional_keys else []
        return [*own, *free_lines(self.session.document.machine)[:_MOST_FREE], *nothing]

    @property
    def switched(self) -> bool:
        """Whether the driver's outputs are plugged one by one: it switches the coils."""
        return self.axis is not None and driver_kind(self.axis.driver).rows(self.axis.driver) is not None

    def _row(self, index: int, count: int) -> float:
        return 26.0 + (self.height() - 40.0) * (index + 0.5) / max(count, 1)

    def _columns(self) -> tuple[float, float, float, float]:
        """Return where lines end, the driver begins and ends, and windings begin."""
        wide = float(self.width())
        return 84.0, wide * 0.5 - 26, wide * 0.5 + 26, wide - 96.0

    def line_places(self) -> dict[str, QPointF]:
        """Return the socket of each board line that is shown."""
        lines, x = self._lines(), self._columns()[0]
        return {line: QPointF(x, self._row(k, len(lines))) for k, line in enumerate(lines)}

    def input_places(self) -> dict[str, QPointF]:
        """Return the socket of each input of the driver."""
        keys, x = self.keys(), self._columns()[1]
        return {key: QPointF(x, self._row(k, len(keys))) for k, key in enumerate(keys)}

    def output_places(self) -> dict[str, QPointF]:
        """Return the socket of each output of the driver."""
        order, x = (COILS if self.switched else _ENDS), self._columns()[2]
        return {key: QPointF(x, self._row(k, len(COILS))) for k, key in enumerate(order)}

    def end_places(self) -> dict[str, QPointF]:
        """Return the socket of each end of the windings."""
        x = self._columns()[3]
        return {end: QPointF(x, self._row(k, len(COILS))) for k, end in enumerate(_ENDS)}

    def wires(self) -> str:
        """Return the end that each output reaches."""
        return (getattr(self.axis.driver, "wires", None) if self.axis else None) or ORDERS[0]

    # Plugs

    def plugs(self) -> dict[Plug, QRectF]:
        if self.axis is None:
            return {}
        lines, ends = self.line_places(), self.end_places()
        found: dict[Plug, QRectF] = {}
        for key in self.keys():
            found["line", key] = _around(lines[getattr(self.axis.driver.lines, key) or _UNWIRED])
        if self.switched:
            found |= {("end", coil): _around(ends[end]) for coil, end in zip(COILS, self.wires(), strict=True)}
        return found

    def sockets(self, plug: Plug) -> dict[Socket, QRectF]:
        side, key = _parts(plug)
        if side == "end":
            return {end: _around(at, 16) for end, at in self.end_places().items()}
        kind = driver_kind(self.axis.driver) if self.axis else None
        may_hang = kind is not None and key in kind.optional_keys
        return {line: _around(at, 14) for line, at in self.line_places().items() if line != _UNWIRED or may_hang}

    def socket_of(self, plug: Plug) -> Socket:
        side, key = _parts(plug)
        if side == "end":
            return self.wires()[COILS.index(key)]
        return (getattr(self.axis.driver.lines, key) if self.axis else None) or _UNWIRED

    def move_plug(self, plug: Plug, socket: Socket) -> None:
        """Replug: what was in the socket goes where the plug has been."""
        (side, key), index, axis, to = _parts(plug), self.session.choice.index, self.axis, str(socket)
        if axis is None:
            return
        if side == "line":
            edit = assign_line(Use(index, key), to) if to != _UNWIRED else take_off(Use(index, key))
            self.session.try_edit(edit, f"line of {axis.name}'s {key}")
            return
        order = list(self.wires())
        place, other = COILS.index(key), order.index(to)
        order[place], order[other] = order[other], order[place]
        new = "".join(order)
        edit = set_value(axis_path(index, "driver", "wires"), None if new == ORDERS[0] else new)
        self.session.try_edit(edit, f"plugs of {axis.name}")

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.axis
        if axis is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        self._paint_heads(painter)
        self._paint_driver(painter)
        self._paint_windings(painter, axis)
        lines, inputs, outputs, ends = (
            self.line_places(), self.input_places(), self.output_places(), self.end_places(),
        )  # fmt: skip
        dead = self.preview.dead if self.preview else ""
        for key in self.keys():
            line = getattr(axis.driver.lines, key)
            if line is not None or self.held == ("line", key):
                self._cord(
                    painter, self._end_of(("line", key), lines[line or _UNWIRED]), inputs[key], theme.pen(hue, 2.4)
                )
            if key == dead:
                self._paint_cross(painter, _middle(lines[line or _UNWIRED], inputs[key]))
        for coil, end in zip(COILS, self.wires(), strict=True):
            self._cord(painter, outputs[coil], self._end_of(("end", coil), ends[end]), theme.pen(hue, 2.4))
        if self.preview is not None and self.preview.wires is not None:
            dashed = theme.pen(theme.color("bad"), 2, axis=2)
            for coil, end, now in zip(COILS, self.preview.wires, self.wires(), strict=True):
                if end != now:
                    self._cord(painter, outputs[coil], ends[end], dashed)
        self._paint_sockets(painter, axis)

    def _end_of(self, plug: Plug, place: QPointF) -> QPointF:
        """Return where the end of a cord is: in its socket, in the hand, or over the socket that it would go into."""
        if plug != self.held:
            return place
        if self.hand is not None:
            return self.hand
        return self.sockets(plug)[self.over].center() if self.over is not None else place

    def _cord(self, painter: QPainter, begin: QPointF, end: QPointF, pen: QPen) -> None:
        bend = max(abs(end.x() - begin.x()) * 0.5, 18.0)
        path = QPainterPath(begin)
        path.cubicTo(begin + QPointF(bend, 0), end - QPointF(bend, 0), end)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    def _paint_cross(self, painter: QPainter, at: QPointF) -> None:
        painter.setPen(self.session.theme.pen(self.session.theme.color("bad"), 3))
        for way in (1, -1):
            painter.drawLine(at + QPointF(-7, -7 * way), at + QPointF(7, 7 * way))

    def _paint_heads(self, painter: QPainter) -> None:
        painter.setFont(font("small"))
        painter.setPen(self.session.theme.color("muted"))
        middle = self.width() / 2
        for x, text in ((6.0, "board"), (middle - 40, "driver"), (self.width() - 86.0, "windings")):
            flag = Qt.AlignmentFlag.AlignHCenter if text == "driver" else Qt.AlignmentFlag.AlignLeft
            painter.drawText(QRectF(x, 2, 80, 18), flag, text)

    def _paint_driver(self, painter: QPainter) -> None:
        theme, (_line, left, right, _end) = self.session.theme, self._columns()
        painter.setPen(theme.pen(theme.color("edge"), 1.5))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(QRectF(left, 22, right - left, self.height() - 34), 7, 7)
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink"))
        places = self.input_places()
        for key, at in places.items():
            both = self.switched or len(key) > 2
            box = QRectF(left, at.y() - 9, right - left, 18) if both else QRectF(left + 9, at.y() - 9, 40, 18)
            flag = Qt.AlignmentFlag.AlignHCenter if both else Qt.AlignmentFlag.AlignLeft
            painter.drawText(box, flag | Qt.AlignmentFlag.AlignVCenter, key)

    def _paint_windings(self, painter: QPainter, axis: Axis) -> None:
        """Draw each coil between its ends, with the tap where the motor has one."""
        theme, ends = self.session.theme, self.end_places()
        hue = theme.color("muted")
        leads = axis.motor.leads
        for first, second in (("A", "C"), ("B", "D")):
            top, bottom = ends[first], ends[second]
            _paint_coil(painter, theme.pen(hue, 1.6), top + QPointF(14, 0), bottom + QPointF(14, 0))
            if axis.motor.winding == "unipolar":
                middle = _middle(top, bottom) + QPointF(14, 0)
                painter.setPen(theme.pen(hue, 1.6))
                painter.drawLine(middle + QPointF(4, 0), middle + QPointF(16, 0))
                name = getattr(leads, first + second) if leads else None
                self._paint_lead(painter, middle + QPointF(20, 0), f"+ {name}" if name else "+")
        for end, at in ends.items():
            name = getattr(leads, end) if leads else None
            self._paint_lead(painter, at + QPointF(26, 0), f"{end} {name}" if name else end, strong=True)

    def _paint_lead(self, painter: QPainter, at: QPointF, text: str, *, strong: bool = False) -> None:
        painter.setFont(font("strong" if strong else "small"))
        painter.setPen(self.session.theme.color("ink" if strong else "muted"))
        room = self.width() - at.x() - 2
        shown = painter.fontMetrics().elidedText(literal_line(text), Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(at.x(), at.y() - 10, room, 20), Qt.AlignmentFlag.AlignVCenter, shown)

    def _paint_sockets(self, painter: QPainter, axis: Axis) -> None:
        theme = self.session.theme
        used = set(board_lines(axis.driver).values())
        for line, at in self.line_places().items():
            painter.setFont(font("strong" if line in used else "small"))
            painter.setPen(theme.color("ink" if line in used else "muted"))
            text = literal_line(line) if line else "not wired"
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(at.x() - 14))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, at.y() - 10, at.x() - 12, 20), right, shown)
            self._paint_socket(painter, at, theme.color("ink"), filled=line in used, over=self.over == line)
        for places in (self.input_places(), self.output_places()):
            for at in places.values():
                self._paint_socket(painter, at, theme.color("ink"), filled=True, over=False)
        for end, at in self.end_places().items():
            self._paint_socket(painter, at, theme.color("ink"), filled=True, over=self.over == end)
        if self.hasFocus() and self.reached in self.plugs():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            place = self.plugs()[self.reached]
            if self.held is not None and self.over is not None:
                place = self.sockets(self.held)[self.over]
            painter.drawEllipse(place.center(), 11, 11)

    def _paint_socket(self, painter: QPainter, at: QPointF, color: QColor, *, filled: bool, over: bool) -> None:
        theme = self.session.theme
        painter.setPen(theme.pen(theme.color("accent") if over else color, 2 if over else 1.4))
        painter.setBrush(theme.color("accent") if over else color if filled else theme.color("sheet"))
        painter.drawEllipse(at, 4.5 if not over else 7.0, 4.5 if not over else 7.0)


def literal_line(text: str) -> str:
    """Return a name as one painted line; what a tool tip would read as markup is only text here."""
    return text if text.isprintable() else literal(text)


def _parts(plug: Plug) -> tuple[str, str]:
    assert isinstance(plug, tuple)
    return str(plug[0]), str(plug[1])


def _middle(first: QPointF, second: QPointF) -> QPointF:
    return QPointF((first.x() + second.x()) / 2, (first.y() + second.y()) / 2)


def _around(at: QPointF, reach: float = _REACH + 5) -> QRectF:
    return QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach)


def _paint_coil(painter: QPainter, pen: QPen, top: QPointF, bottom: QPointF) -> None:
    """Draw the turns of a coil from one point down to another."""
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(top - QPointF(14, 0), top)
    painter.drawLine(bottom - QPointF(14, 0), bottom)
    turns = 5
    tall = (bottom.y() - top.y()) / turns
    for k in range(turns):
        painter.drawArc(QRectF(top.x() - 5, top.y() + k * tall, 10, tall), -90 * 16, 180 * 16)
