"""The polarity of each line of a driver that takes pulses: as it is, and what the other level would look like."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.drive.drivers import line_keys
from kivant.core.machine import Axis
from kivant.core.path import Path
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.word_choice import WordChoice

LEVELS = {"high": "high", "low": "low"}


class Polarity(NamedTuple):
    """A level of a driver: its field, its words, which lines it is of, and what is seen if it is the other one."""

    key: str
    words: str
    lines: tuple[str, ...]
    otherwise: str
    shape: tuple[int, ...]  # levels over time while the motor goes forward, active as 1


POLARITIES = (
    Polarity("pulse_active", "A pulse is", ("STEP", "CW", "CCW"), "Inverted, each step comes at the pulse's other "
             "edge: direction set-up and hold are not kept, and a step may be lost at each reversal.",
             (0, 1, 0, 0, 1, 0, 0, 1, 0)),
    Polarity("positive_level", "Forward is DIR", ("DIR",), "Inverted, the motor turns the wrong way.",
             (1, 1, 1, 1, 1, 0, 0, 0, 0)),
    Polarity("enable_active", "The driver is on at EN", ("EN",), "Inverted, the shaft is limp while it should turn, "
             "and stiff while it should be free.", (0, 1, 1, 1, 1, 1, 1, 1, 0)),
)  # fmt: skip


class LevelDrawing(QWidget):
    """A line's levels over a short while: as they are, and dashed below as they would be."""

    def __init__(self, session: Session, polarity: Polarity) -> None:
        super().__init__()
        self.session, self.polarity = session, polarity
        self.setFixedHeight(46)
        self.setMinimumWidth(120)
        session.theme_changed.connect(self.update)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, theme = self.session.choice.axis, self.session.theme
        active = getattr(axis.driver, self.polarity.key, None) if axis else None
        if active is None:
            return
        hue = theme.axis(self.session.choice.index)
        painter.setPen(theme.pen(hue, 2))
        painter.drawPolyline(self._line(4.0, inverted=active == "low"))
        painter.setPen(theme.pen(theme.color("muted"), 1.2, axis=2))
        painter.drawPolyline(self._line(27.0, inverted=active == "high"))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(self.width() - 62.0, 25, 60, 18), Qt.AlignmentFlag.AlignRight, "inverted")

    def _line(self, top: float, *, inverted: bool) -> QPolygonF:
        levels = [1 - level if inverted else level for level in self.polarity.shape]
        step = (self.width() - 70.0) / len(levels)
        corners = []
        for k, level in enumerate(levels):
            y = top + 14 * (1 - level)
            corners += [QPointF(k * step, y), QPointF((k + 1) * step, y)]
        return QPolygonF(corners)


class Polarities(QWidget):
    """All levels of the chosen axis's driver."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.choices = {
            p.key: WordChoice(session, Path.of("driver", p.key), p.words.lower(), LEVELS) for p in POLARITIES
        }
        self._rows: dict[str, QWidget] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        for polarity in POLARITIES:
            self._rows[polarity.key] = self._row(polarity)
            column.addWidget(self._rows[polarity.key])
        column.addStretch(1)

    def _row(self, polarity: Polarity) -> QWidget:
        row = QWidget()
        head = QHBoxLayout()
        head.setSpacing(6)
        title = QLabel(polarity.words)
        title.setFont(font("strong"))
        head.addWidget(title)
        head.addWidget(self.choices[polarity.key])
        head.addStretch(1)
        otherwise = QLabel(polarity.otherwise)
        otherwise.setFont(font("small"))
        otherwise.setWordWrap(True)
        grid = QGridLayout(row)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        grid.addLayout(head, 0, 0)
        grid.addWidget(LevelDrawing(self.session, polarity), 1, 0)
        grid.addWidget(otherwise, 2, 0)
        return row

    def follow(self, axis: Axis) -> None:
        """Show the levels of an axis as they are now."""
        keys = line_keys(axis.driver)
        for polarity in POLARITIES:
            self._rows[polarity.key].setVisible(any(key in keys for key in polarity.lines))
            self.choices[polarity.key].refresh()
            for drawing in self._rows[polarity.key].findChildren(LevelDrawing):
                drawing.update()
