"""Lines of the board, the driver, and the ends of the windings, with cords between them that can be replugged."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import COILS
from kivant.core.drive.symptoms import Cause
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine.drives import set_lead
from kivant.core.machine.edits import set_value
from kivant.core.machine.lines import Use, assign_line, free_lines, take_off
from kivant.core.path import axis_path
from kivant.desktop.kit.painted import painted
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.cord_painting import (
    paint_cord,
    paint_driver,
    paint_preview,
    paint_sockets,
    paint_windings,
)
from kivant.desktop.stations.phases.cord_places import UNWIRED, CordPlaces
from kivant.desktop.widgets.plugboard import Plug, Plugboard, Socket
from kivant.desktop.widgets.value_field import ValueField, type_over

_REACH = 12.0  # of a plug, for the hand


class Cords(Plugboard):
    """Where each line of the driver goes, on its way from the board to the motor.

    ``preview`` is a cause whose cords are shown besides, dashed: how they would be.
    """

    hint = (
        "Drag the end of a cord to another socket. With the keys: arrows, Space to lift and set down. "
        "Double click the end of a winding to name its wire."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.preview: Cause | None = None
        self.setMinimumSize(250, 190)
        self.setAccessibleName("Cords from the board's lines to the windings")
        for signal in (session.selection_changed, session.machine_changed, session.theme_changed):
            signal.connect(self.update)

    @property
    def places(self) -> CordPlaces | None:
        """Where everything is, None without an axis."""
        axis = self.session.choice.axis
        free = tuple(free_lines(self.session.document.machine))
        return CordPlaces(axis, free, float(self.width()), float(self.height())) if axis else None

    # Plugs

    def plugs(self) -> dict[Plug, QRectF]:
        """Return the ends of cords that can be moved: at the board, and at the windings."""
        places = self.places
        if places is None:
            return {}
        lines, ends = places.lines, places.ends
        found: dict[Plug, QRectF] = {("line", key): _around(lines[places.line_of(key)]) for key in places.keys}
        if places.switched:
            found |= {("end", coil): _around(ends[end]) for coil, end in zip(COILS, places.wires, strict=True)}
        return found

    def sockets(self, plug: Plug) -> dict[Socket, QRectF]:
        """Return the lines of the board, or the ends of the windings."""
        places, (side, key) = self.places, _parts(plug)
        if places is None:
            return {}
        if side == "end":
            return {end: _around(at, 16) for end, at in places.ends.items()}
        may_hang = key in driver_kind(places.axis.driver).optional_keys
        return {line: _around(at, 14) for line, at in places.lines.items() if line != UNWIRED or may_hang}

    def words(self, plug: Plug) -> str:
        """Say what a cord joins."""
        (side, key), socket = _parts(plug), str(self.socket_of(plug))
        if side == "line":
            return f"{key} of the driver is on line {socket} of the board." if socket else f"{key} is not wired."
        name = self.places.lead(socket) if self.places else ""
        return f"Output {key} reaches end {socket} of the windings{f', wire {name}' if name else ''}."

    def socket_of(self, plug: Plug) -> Socket:
        """Return the line, or the end, that a cord goes to."""
        places, (side, key) = self.places, _parts(plug)
        if places is None:
            return UNWIRED
        return places.wires[COILS.index(key)] if side == "end" else places.line_of(key)

    def move_plug(self, plug: Plug, socket: Socket) -> None:
        """Replug: what was in the socket goes where the plug has been."""
        (side, key), index, to, places = _parts(plug), self.session.choice.index, str(socket), self.places
        if places is None:
            return
        name = places.axis.name
        if side == "line":
            edit = assign_line(Use(index, key), to) if to != UNWIRED else take_off(Use(index, key))
            self.session.try_edit(edit, f"line of {name}'s {key}")
            return
        order = list(places.wires)
        place, other = COILS.index(key), order.index(to)
        order[place], order[other] = order[other], order[place]
        new = "".join(order)
        edit = set_value(axis_path(index, "driver", "wires"), None if new == ORDERS[0] else new)
        self.session.try_edit(edit, f"plugs of {name}")

    # Names of wires

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        places = self.places
        for end in places.ends if places else ():
            if places is not None and places.label(end).contains(event.position()):
                self.name_lead(end)

    def name_lead(self, end: str) -> None:
        """Type the name of the wire that is an end of a winding, where it stands."""
        index, places = self.session.choice.index, self.places
        if places is None or self.session.running.active:
            return

        def take(text: str, _merge: bool) -> None:
            self.session.edit(set_lead(index, end, text), f"wire {end} of {places.axis.name}")

        def show() -> str:
            return self.places.lead(end) if self.places else ""

        type_over(self, places.label(end).toRect(), ValueField(self.session, f"Wire that is end {end}", show, take))

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        places, theme = self.places, self.session.theme
        if places is None:
            return
        paint_driver(painter, theme, places)
        paint_windings(painter, theme, places)
        pen = theme.pen(theme.axis(self.session.choice.index), 2.4)
        lines, inputs, outputs, ends = places.lines, places.inputs, places.outputs, places.ends
        for key in places.keys:
            plug: Plug = ("line", key)
            if places.line_of(key) != UNWIRED or self.held == plug:
                paint_cord(painter, self._end_of(plug, lines[places.line_of(key)]), inputs[key], pen)
        for coil, end in zip(COILS, places.wires, strict=True):
            paint_cord(painter, outputs[coil], self._end_of(("end", coil), ends[end]), pen)
        if self.preview is not None:
            paint_preview(painter, theme, places, self.preview)
        paint_sockets(painter, theme, places, self.over)
        if self.hasFocus() and self.reached in self.plugs():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self._end_of(self.reached, self.plugs()[self.reached].center()), 11, 11)

    def _end_of(self, plug: Plug, place: QPointF) -> QPointF:
        """Return where the end of a cord is: in its socket, in the hand, or over the socket that it would go into."""
        if plug != self.held:
            return place
        if self.hand is not None:
            return self.hand
        return self.sockets(plug)[self.over].center() if self.over is not None else place


def _parts(plug: Plug) -> tuple[str, str]:
    assert isinstance(plug, tuple)
    return str(plug[0]), str(plug[1])


def _around(at: QPointF, reach: float = _REACH) -> QRectF:
    return QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach)
