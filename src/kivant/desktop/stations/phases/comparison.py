"""Sequences side by side, a column each: what they would mean for the chosen axis; a click takes one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QWidget

from kivant.core.drive.comparison import SequenceFigures, compare
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.desktop.kit import figures
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.card import Card

_HEAD, _ROW, _WORD = 28.0, 17.0, 15.0
_MOST_WORDS = 8


def _watts(value: float | None) -> str:
    return "?" if value is None else f"{value:.3g}"


def _torque(found: SequenceFigures) -> str:
    low, high = found.torque
    return f"{low:.3g}" if abs(high - low) < 1e-9 else f"{low:.3g}–{high:.3g}"


ROWS: tuple[tuple[str, str, Callable[[SequenceFigures], str]], ...] = (
    ("steps/rev", "steps of one rotor revolution", lambda f: figures.short(f.steps_per_rev)),
    ("steps/unit", "steps of one axis unit", lambda f: figures.short(f.steps_per_unit)),
    ("smallest", "what one row moves, in axis units", lambda f: f"{f.smallest:.3g}"),
    ("uneven °", "how much the field's steps differ, electrical degrees", lambda f: f"{f.uneven_deg:.3g}"),
    ("torque", "over the rows, relative to one coil's", _torque),
    ("supply A", "mean current from the supply while it moves", lambda f: _watts(f.supply_a)),
    ("moving W", "mean copper loss while it moves", lambda f: _watts(f.moving_w)),
    ("rest W", "greatest copper loss at rest", lambda f: _watts(f.rest_w)),
)
"""Each row: what it is called, what it is, and its figure."""
HEIGHT = round(_HEAD + _ROW * len(ROWS) + 8 + _WORD * _MOST_WORDS + 8)


class Column(Card):
    """One sequence."""

    def __init__(self, session: Session, found: SequenceFigures, *, chosen: bool) -> None:
        super().__init__(session, HEIGHT, chosen=chosen)
        self.found = found
        self.name = found.sequence if isinstance(found.sequence, str) else "own"
        told = "; ".join(f"{name} {figure(found)}" for name, _what, figure in ROWS)
        self.setAccessibleName(f"{self.name}: {told}")
        self.setToolTip("\n".join(f"{what}: {figure(found)}" for _name, what, figure in ROWS))

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        self.paint_slip(painter)
        theme = self.session.theme
        middle, wide = Qt.AlignmentFlag.AlignCenter, float(self.width())
        painter.drawText(QRectF(0, 3, wide, 22), middle, self.name)
        painter.setFont(font("small"))
        for k, (_name, _what, figure) in enumerate(ROWS):
            painter.drawText(QRectF(0, _HEAD + _ROW * k, wide, _ROW), middle, figure(self.found))
        painter.setPen(theme.color("muted"))
        top = _HEAD + _ROW * len(ROWS) + 8
        words = self.found.words
        for k, word in enumerate(words[: _MOST_WORDS - (len(words) > _MOST_WORDS)]):
            painter.drawText(QRectF(0, top + _WORD * k, wide, _WORD), middle, f"{word:04b} {word:X}")
        if len(words) > _MOST_WORDS:
            more = f"+ {len(words) - _MOST_WORDS + 1}"
            painter.drawText(QRectF(0, top + _WORD * (_MOST_WORDS - 1), wide, _WORD), middle, more)


class RowNames(QWidget):
    """What each row is."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedSize(66, HEIGHT)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setFont(font("small"))
        painter.setPen(self.session.theme.color("muted"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for k, (name, _what, _figure) in enumerate(ROWS):
            painter.drawText(QRectF(0, _HEAD + _ROW * k, self.width() - 6.0, _ROW), right, name)
        painter.drawText(QRectF(0, _HEAD + _ROW * len(ROWS) + 8, self.width() - 6.0, _WORD), right, "DCBA, hex")


class Comparison(QWidget):
    """The columns."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.columns: list[Column] = []
        self._shown: object = None
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(5)
        self._row.addWidget(RowNames(session))

    def follow(self, axis: Axis) -> None:
        """Show the figures for an axis as it is now."""
        now = getattr(axis.driver, "sequence", None)
        found = compare(self.session.document.machine, axis)
        if (found, now) != self._shown:
            self._shown = (found, now)
            self._rebuild(found, now)
        for column in self.columns:
            column.setEnabled(not self.session.running.active)
            column.setChecked(column.found.sequence == now)
            column.update()

    def _rebuild(self, found: tuple[SequenceFigures, ...], now: object) -> None:
        for column in self.columns:
            column.hide()
            column.deleteLater()
        self.columns = [Column(self.session, figure, chosen=figure.sequence == now) for figure in found]
        for column in self.columns:
            column.clicked.connect(lambda _checked=False, c=column: self._take(c))
            self._row.addWidget(column, 1)

    def _take(self, column: Column) -> None:
        axis, index = self.session.choice.axis, self.session.choice.index
        if axis is not None:
            edit = set_value(axis_path(index, "driver", "sequence"), column.found.sequence)
            self.session.try_edit(edit, f"{column.name} for {axis.name}")
            if (changed := self.session.choice.axis) is not None:
                self.follow(changed)
