"""One way to drive the coils, as a card to choose: what it means for resolution, torque and current."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.machine.edits import Edit
from kivant.desktop.kit.fitting import write_fitting
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.card import Card


class Line(NamedTuple):
    """What, how much, and which share of the most."""

    what: str
    text: str
    share: float


class Choice(NamedTuple):
    """A way to drive: its name, a note beside it, its lines, whether it is in force, and what chooses it."""

    name: str
    note: str
    lines: tuple[Line, ...]
    chosen: bool
    edit: Edit

    @property
    def looks(self) -> tuple[object, ...]:
        """All of it that is seen."""
        return self[:4]


class Alternative(Card):
    """A card."""

    def __init__(self, session: Session, choice: Choice) -> None:
        super().__init__(session, 27 + 19 * len(choice.lines), chosen=choice.chosen)
        self.choice = choice
        self.setMinimumWidth(200)
        said = ", ".join([choice.note, *(f"{line.what} {line.text}" for line in choice.lines)]).strip(", ")
        self.setAccessibleName(f"{choice.name}: {said}")
        self.setToolTip(f"{choice.name}: {said}")

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        self.paint_slip(painter)
        theme, chosen = self.session.theme, self.isChecked()
        head, note = QRectF(12, 3, self.width() - 24, 22), self.choice.note
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, self.choice.name)
        head.setLeft(head.left() + painter.fontMetrics().horizontalAdvance(self.choice.name))
        painter.setFont(font("small"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        said = (", ".join(part for part in (note, "in use" if chosen else "") if part), note)
        write_fitting(painter, theme.color("accent" if chosen else "muted"), head, said, 8, right)
        for k, line in enumerate(self.choice.lines):
            self._paint_line(painter, line, 23.0 + 19 * k)

    def _paint_line(self, painter: QPainter, line: Line, y: float) -> None:
        theme = self.session.theme
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(12, y, 90, 18), Qt.AlignmentFlag.AlignVCenter, line.what)
        bar = QRectF(94, y + 7, max(self.width() - 200.0, 20.0), 4)
        painter.fillRect(bar, theme.color("edge"))
        bar.setWidth(bar.width() * min(line.share, 1.0))
        painter.fillRect(bar, theme.color("accent" if self.isChecked() else "muted"))
        painter.setPen(theme.color("ink"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(self.width() - 104, y, 92, 18), right, line.text)
