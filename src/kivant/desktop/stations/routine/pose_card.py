"""A pose on the shelf: a small picture of where the axes are, its name and its figures."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kivant.core.machine import Pose
from kivant.core.program.sentences import number
from kivant.desktop.kit import figures
from kivant.desktop.kit.dial import ruler_share
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_PICTURE = QRectF(8, 9, 38, 38)
_TURN = 360.0


class PoseCard(QWidget):
    """A slip with a pose; the signals tell what is wanted of it."""

    used, gone_to, renamed, asked = Signal(), Signal(), Signal(), Signal(object)

    def __init__(self, session: Session, pose: Pose) -> None:
        super().__init__()
        self.session, self.pose = session, pose
        self.setFixedHeight(56)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Pose {pose.name}")
        self.setToolTip(f"{literal(pose.name)}\n{literal(self.words(whole=True))}")
        self.buttons = {text: QPushButton(text) for text in ("use", "go")}
        self.buttons["use"].setToolTip("Put a move to this pose after the chosen block.")
        self.buttons["go"].setToolTip("Move the axes there now, on the board.")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 4, 0)
        row.setSpacing(0)
        row.addStretch(1)
        for button in self.buttons.values():
            button.setProperty("kind", "plain")
            button.setFixedWidth(36)
            row.addWidget(button)
        self.buttons["use"].clicked.connect(self.used)
        self.buttons["go"].clicked.connect(self.gone_to)

    def words(self, *, whole: bool = False) -> str:
        """Return where the axes are, by their letters, or by names and units."""
        machine = self.session.document.machine
        names = figures.letters(machine)
        found = []
        for index, axis in enumerate(machine.axes):
            if axis.name in self.pose.at:
                value = number(self.pose.at[axis.name]).replace("-", figures.MINUS)
                found.append(f"{axis.name} {value} {axis.unit}" if whole else f"{names[index]} {value}")
        return ", ".join(found) if whole else "  ".join(found)

    def name_box(self) -> QRect:
        """Return where the name is written."""
        return QRect(54, 6, max(self.width() - 54 - 80, 40), 22)

    def refresh(self) -> None:
        """Show whether anything can be done now."""
        for button in self.buttons.values():
            button.setEnabled(not self.session.running.active)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        painter.setPen(theme.pen(theme.color("accent" if self.hasFocus() else "edge"), 1))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -3.5), 6, 6)
        self._paint_axes(painter)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("strong"))
        box = self.name_box()
        middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        metrics = painter.fontMetrics()
        painter.drawText(box, middle, metrics.elidedText(self.pose.name, Qt.TextElideMode.ElideRight, box.width()))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        text = painter.fontMetrics().elidedText(self.words(), Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box.translated(0, 20), middle, text)

    def _paint_axes(self, painter: QPainter) -> None:
        """Paint a line for each axis with a mark where it is; those that are not named have none."""
        theme, machine = self.session.theme, self.session.document.machine
        apart = _PICTURE.width() / max(len(machine.axes), 1)
        for index, axis in enumerate(machine.axes):
            x = _PICTURE.left() + (index + 0.5) * apart
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(x, _PICTURE.top()), QPointF(x, _PICTURE.bottom()))
            if axis.name in self.pose.at:
                position = float(self.pose.at[axis.name])
                bounded = axis.limits.min is not None and axis.limits.max is not None
                wraps = axis.unit == "deg" and not bounded
                share = position % _TURN / _TURN if wraps else ruler_share(axis, position)
                y = _PICTURE.bottom() - min(max(share, 0.0), 1.0) * _PICTURE.height()
                painter.setPen(theme.pen(theme.axis(index), 3))
                half = min(apart / 2 - 1, 5)
                painter.drawLine(QPointF(x - half, y), QPointF(x + half, y))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = {Qt.Key.Key_Return: self.used, Qt.Key.Key_Enter: self.used, Qt.Key.Key_F2: self.renamed}
        signal = keys.get(Qt.Key(event.key()))
        if signal is not None:
            signal.emit()
        else:
            event.ignore()

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.renamed.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.asked.emit(event.globalPos())
