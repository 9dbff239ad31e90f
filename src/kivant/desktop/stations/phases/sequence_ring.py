"""The sequence as a ring of rows with their words; a click moves the playhead to the next time a row is in force."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import COILS, Row
from kivant.core.drive.rotor import row_in_force
from kivant.core.drive.wiring import field_turns
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.looks import LOOKS

_WIDE, _TALL = 70.0, 57.0
_SHORT = 42.0
_NARROW, _MOST_WIDE = 46.0, 10  # where there are more rows than so many


class SequenceRing(QWidget):
    """Rows of a coil driver's sequence."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(270, 230)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Rows of the sequence")
        self.setToolTip("Click a row, or press its digit, to go to the next time it is on. It tells its field, too.")
        for signal in (session.playhead_moved, session.selection_changed, session.plan_changed, session.theme_changed):
            signal.connect(self.update)

    def _table(self) -> tuple[Row, ...]:
        """Return the rows the chosen axis plays, none where its driver makes the currents."""
        axis = self.session.choice.axis
        return (driver_kind(axis.driver).rows(axis.driver) if axis else None) or ()

    def row(self) -> int:
        """Return the row in force at the playhead."""
        table = self._table()
        axis = self.session.choice.axis
        return row_in_force(axis, self.session.instant.steps_moved) if axis and table else 0

    def places(self) -> list[QRectF]:
        """Return where each row is drawn, row 0 at the top, in positive direction clockwise."""
        count = len(self._table())
        middle = QPointF(self.width() / 2, self.height() / 2)
        wide, tall = (_WIDE, _TALL) if count <= _MOST_WIDE else (_NARROW, _SHORT)
        across, down = self.width() / 2 - wide / 2 - 3, self.height() / 2 - tall / 2 - 3
        across, down = min(across, down * 1.25), min(down, across)
        found = []
        for k in range(count):
            angle = 2 * math.pi * k / count - math.pi / 2
            at = middle + QPointF(math.cos(angle) * across, math.sin(angle) * down)
            found.append(QRectF(at.x() - wide / 2, at.y() - tall / 2, wide, tall))
        return found

    def go_to(self, row: int) -> bool:
        """Move the playhead to the next time a row comes into force (from the beginning, if there is none)."""
        axis, count = self.session.instant.axis_plan, len(self._table())
        if axis is None or not count or self.session.running.active:
            return False
        train = axis.train
        taken = train.taken(self.session.playhead.time_s)
        for begin, end in ((taken + 1, train.count + 1), (1, taken + 1)):
            for k in range(begin, min(end, begin + 4096)):
                if row_in_force(axis.axis, train.position_after(k) - axis.start_steps) == row:
                    self.session.playhead.go(train.instant(k - 1))
                    return True
        return False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row, place in enumerate(self.places()):
            if place.contains(event.position()):
                self.go_to(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        if text.isdigit() and int(text) < len(self.places()):
            self.go_to(int(text))
        else:
            event.ignore()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, table = self.session.choice.axis, self._table()
        if axis is None or not table:
            return
        theme, hue, now = self.session.theme, self.session.theme.axis(self.session.choice.index), self.row()
        places = self.places()
        middle = QPointF(self.width() / 2, self.height() / 2)
        painter.setPen(theme.pen(theme.color("edge"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        down = middle.y() - places[0].center().y()
        across = max(place.center().x() for place in places) - middle.x()
        painter.drawEllipse(middle, across, down)
        for row, place in enumerate(places):
            on = row == now
            painter.setPen(theme.pen(theme.color("accent" if on else "edge"), 2 if self.hasFocus() and on else 1.3))
            painter.setBrush(theme.color("accent" if on else "sheet"))
            painter.drawRoundedRect(place, 7, 7)
            ink = theme.color("sheet" if on else "ink")
            for bit in range(len(COILS)):
                lit = table[row].word >> bit & 1
                painter.setPen(theme.pen(theme.color("sheet") if on else theme.color("muted"), 1.1))
                painter.setBrush((ink if on else hue) if lit else Qt.BrushStyle.NoBrush)
                painter.drawEllipse(
                    QPointF(place.center().x() + (bit - 1.5) * place.width() / 5.1, place.top() + 12), 4, 4
                )
            painter.setPen(ink)
            painter.setFont(font("small"))
            word = table[row].word
            text = f"{row}:  {word:04b}  {word:X}" if place.width() > _NARROW else f"{row}: {word:X}"
            painter.drawText(place.adjusted(0, 20, 0, 0), Qt.AlignmentFlag.AlignHCenter, text)
            if place.width() > _NARROW:
                field = f"{table[row].field_deg:.4g}°  {table[row].torque:.3g}" if table[row].torque else "no field"
                painter.setPen(theme.color("sheet" if on else "muted" if table[row].torque else "bad"))
                painter.drawText(place.adjusted(0, 38, 0, 0), Qt.AlignmentFlag.AlignHCenter, field)
        words = LOOKS[axis.driver.kind].figure(axis).partition(",")[0]
        painter.setPen(theme.color("ink"))
        painter.setFont(font("title"))
        painter.drawText(QRectF(middle.x() - 70, middle.y() - 24, 140, 26), Qt.AlignmentFlag.AlignCenter, words)
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        turns = abs(field_turns(table))
        text = f"{len(table)} rows of {360 * turns / len(table):g}°" if turns else f"{len(table)} rows, no turn"
        painter.drawText(QRectF(middle.x() - 70, middle.y() + 2, 140, 20), Qt.AlignmentFlag.AlignCenter, text)
