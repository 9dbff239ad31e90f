"""The tool under a hand: dragged to a place, from which a block or a pose is made."""

from __future__ import annotations

from decimal import Decimal

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QResizeEvent
from PySide6.QtWidgets import QPushButton

from kivant.core.geometry.kind import Place
from kivant.core.machine import Move
from kivant.core.machine.tool import Tool, UnreachableError
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.stations.routine.pose_shelf import PoseShelf
from kivant.desktop.stations.routine.program import Program
from kivant.desktop.stations.routine.tool_picture import ToolPicture

_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
_INWARDS = (0.0, 1e-5, 1e-4, 1e-3, 1e-2)
_FINE = Decimal("1e-4")
_GRAIN = Decimal("0.1")  # mm (deg), to which a hand puts the tool


class ToolView(ToolPicture):
    """The machine from above; a place is chosen by dragging the tool, or with the arrow keys."""

    def __init__(self, program: Program, shelf: PoseShelf) -> None:
        super().__init__(program.session)
        self.program, self.shelf = program, shelf
        self.wanted: dict[str, Decimal] | None = None
        self.targets: dict[str, Decimal] = {}
        self.said = ""
        self._held = False
        self.here = self._button("move here", "Put a move of the tool to this place after the chosen block.")
        self.straight = self._button("straight", "The same, and the tool goes straight there.")
        self.keep = self._button("keep", "Keep this place as a pose.")
        self.here.clicked.connect(lambda: self.move_here())
        self.straight.clicked.connect(lambda: self.move_here(straight=True))
        self.keep.clicked.connect(lambda: self.keep_pose())
        self.setFixedWidth(226)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The tool from above")
        self.setAccessibleDescription("Drag the tool, or move it with the arrow keys; Enter puts a move there.")
        self.setToolTip("Drag the tool to a place: the axes follow. Arrow keys move it by 1 mm, with Shift by 10.")
        self.follow()

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text, self)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        button.hide()
        return button

    def follow(self) -> None:
        """Show what there is now; nothing, where the axes are independent."""
        self.setVisible(self.tool is not None)
        if self.tool is None:
            self.let_go()
        free = self.wanted is not None and not self.session.running.active
        for button in (self.here, self.straight, self.keep):
            button.setVisible(self.wanted is not None)
            button.setEnabled(free and bool(self.targets))
        self._place_buttons()

    def _place_buttons(self) -> None:
        bottom = self.height() - 28
        self.here.setGeometry(self.width() - 190, bottom, 80, 27)
        self.straight.setGeometry(self.width() - 112, bottom, 62, 27)
        self.keep.setGeometry(self.width() - 52, bottom, 50, 27)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_buttons()

    def let_go(self) -> None:
        """Forget the place that was chosen."""
        self.wanted, self.targets, self.said = None, {}, ""
        self.update()

    def want(self, x: float, y: float) -> None:
        """Choose a place, or the nearest one that can be reached."""
        tool = self.tool
        if tool is None:
            return
        first, second = tool.coordinates[:2]
        self.said = ""
        place = {first: Decimal(repr(x)).quantize(_GRAIN), second: Decimal(repr(y)).quantize(_GRAIN)}
        try:
            self.targets = tool.targets(place)
        except UnreachableError as error:
            found = self._near(tool, error.nearest)
            if found is None:
                return
            place, self.said = found, "out of reach: the nearest place"
        self.wanted = place
        self.follow()
        self.update()

    def _near(self, tool: Tool, nearest: Place) -> dict[str, Decimal] | None:
        """Take the nearest place that can be reached, drawn inwards where rounding puts it over the edge."""
        now = tool.place(self.positions())
        for share in _INWARDS:
            at = [near + share * (here - near) for near, here in zip(nearest, now, strict=False)]
            names = tool.coordinates[:2]
            place = {name: Decimal(repr(v)).quantize(_FINE) for name, v in zip(names, at, strict=False)}
            try:
                self.targets = tool.targets(place)
            except UnreachableError:
                continue
            return place
        return None

    def axes_there(self) -> list[float]:
        """Return where all axes would be at the chosen place."""
        machine = self.session.document.machine
        pairs = zip(machine.axes, self.positions(), strict=True)
        return [float(self.targets.get(axis.name, Decimal(repr(now)))) for axis, now in pairs]

    def move_here(self, *, straight: bool = False) -> bool:
        """Put a move of the tool to the chosen place behind the current block."""
        if self.wanted is None or not self.targets:
            return False
        place = {name: value.normalize() + 0 for name, value in self.wanted.items()}
        done = self.program.insert([Move(tool=place, straight=straight or None)], "move the tool")
        if done:
            self.let_go()
            self.follow()
        return done

    def keep_pose(self) -> bool:
        """Keep the chosen place as a pose."""
        grain = Decimal("1e-6")
        machine = self.session.document.machine
        there = {
            axis.name: Decimal(repr(value)).quantize(grain).normalize() + 0
            for axis, value in zip(machine.axes, self.axes_there(), strict=True)
        }
        return self.shelf.keep_place(there)

    # Hand

    def _tool_at(self) -> QPointF | None:
        tool = self.tool
        if tool is None:
            return None
        place = tool.place(self.axes_there() if self.wanted is not None else self.positions())
        return self.at(place[0], place[1])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.above().contains(event.position()):
            self._held = True
            self.want(*self.place_of(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.want(*self.place_of(event.position()))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step, tool = _STEPS.get(Qt.Key(event.key())), self.tool
        if step is not None and tool is not None:
            far = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            place = tool.place(self.axes_there() if self.wanted is not None else self.positions())
            self.want(place[0] + step[0] * far, place[1] + step[1] * far)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.wanted is not None:
            self.move_here()
        elif event.key() == Qt.Key.Key_Escape and self.wanted is not None:
            self.let_go()
            self.follow()
        else:
            super().keyPressEvent(event)

    def paint_moving(self, painter: QPainter) -> None:
        super().paint_moving(painter)
        tool, theme = self.tool, self.session.theme
        if tool is None:
            return
        positions = self.axes_there() if self.wanted is not None else self.positions()
        if self.wanted is not None and self.targets:
            self.paint_arm(painter, tool, positions, ghost=True)
        painter.setFont(font("strong"))
        painter.setPen(theme.color("bad" if self.said else "accent" if self.wanted is not None else "ink"))
        place = tool.words(tuple(round(value, 2) for value in tool.place(positions)))
        line = QRect(8, self.height() - 46, self.width() - 16, 20)
        middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(line, middle, place.replace("-", figures.MINUS))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        words = self.said if self.wanted is not None else "drag the tool to a place"
        painter.drawText(line.translated(0, 20), middle, words if self.wanted is None or self.said else "")
        if self.hasFocus():
            painter.setPen(theme.pen(theme.color("accent"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
