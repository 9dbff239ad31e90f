"""The order in which the outputs of a coil driver are plugged, to be typed, and what the motor does with it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QGridLayout, QLabel, QMenu, QPushButton, QWidget

from kivant.core.drive.drivers import driver_kind, sequence_of
from kivant.core.drive.program_text import BITS, LANGUAGES, program_text
from kivant.core.drive.sequence_table import Table, analyse, described
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine.edits import set_value
from kivant.core.path import Path, axis_path
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.elided import ElidedText

_DOES = {1: "turns forward", -1: "turns the other way", 0: "only shudders"}


class _PlugsField(AxisField):
    """The ends that outputs A, B, C, D reach; the standard order where the file says nothing."""

    def _shown(self) -> str:
        value = self.value()
        return value if isinstance(value, str) else ORDERS[0]


class _RowsField(AxisField):
    """The words of a cycle, whatever the sequence is called."""

    def _shown(self) -> str:
        axis = self.session.choice.axis
        table = driver_kind(axis.driver).rows(axis.driver) if axis else None
        return " ".join(str(row.word) for row in table or ())


class Plugs(QWidget):
    """The words of a cycle; outputs, ends, and the verdict."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.field = _PlugsField(session, Path.of("driver", "wires"), "order of the plugs")
        self.field.setFixedWidth(64)
        self.field.setToolTip("The end of the winding that each output reaches: swap two letters for two plugs.")
        self.verdict = QLabel()
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setFont(font("small"))
        title = QLabel("A B C D on ends")
        title.setFont(font("small"))
        self.rows = _RowsField(session, Path.of("driver", "sequence"), "table of words")
        self.rows.setToolTip("The words of a cycle, A lowest: type or paste your own, decimal, 0x, 0b or ABCD digits.")
        rows_title = QLabel("words")
        rows_title.setFont(font("small"))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        for line, (name, field) in enumerate(((rows_title, self.rows), (title, self.field))):
            grid.addWidget(name, line, 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(field, line, 1, 1, 3 if field is self.rows else 1)
        self.copy = QPushButton("copy")
        self.copy.setProperty("kind", "plain")
        self.copy.setMenu(self._menu())
        self.copy.setToolTip("Copy the table for a program of your own.")
        grid.addWidget(self.verdict, 1, 2)
        grid.addWidget(self.copy, 1, 3)
        grid.setColumnStretch(2, 1)
        self.about = ElidedText(session, "small", "ink")
        self.repair = QPushButton("repair")
        self.repair.setProperty("kind", "plain")
        self.repair.clicked.connect(self._repair)
        grid.addWidget(self.about, 2, 0, 1, 3)
        grid.addWidget(self.repair, 2, 3)

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for key, language in LANGUAGES.items():
            for bits in BITS:
                action = menu.addAction(f"{language.name}, {bits[0]} the lowest bit")
                action.triggered.connect(lambda _checked=False, k=key, b=bits: self._copy(k, b))
        return menu

    def _copy(self, language: str, bits: str) -> None:
        """Put the table on the clipboard, as the driver's lines are switched."""
        axis = self.session.choice.axis
        table = driver_kind(axis.driver).rows(axis.driver) if axis else None
        if table:
            words, active = tuple(row.word for row in table), axis.driver.active  # type: ignore[union-attr]
            QGuiApplication.clipboard().setText(program_text(words, language, bits=bits, active=active))
            self.session.notice(f"Copied: {len(words)} words, {LANGUAGES[language].name}, coils on at {active} level.")

    def _table(self) -> Table | None:
        axis = self.session.choice.axis
        rows = driver_kind(axis.driver).rows(axis.driver) if axis else None
        return analyse(tuple(row.word for row in rows), axis.motor.winding) if axis and rows else None

    def _repair(self) -> None:
        axis, table = self.session.choice.axis, self._table()
        if axis is not None and table is not None and table.repair:
            place = axis_path(self.session.choice.index, "driver", "sequence")
            self.session.try_edit(set_value(place, sequence_of(table.repair)), f"repaired table of {axis.name}")

    def _tell_table(self) -> None:
        """Say what the table is, what is wrong with it, and offer what it was meant to be."""
        axis, table = self.session.choice.axis, self._table()
        if axis is None or table is None:
            return
        order = getattr(axis.driver, "wires", None) or ORDERS[0]
        said = " ".join([described(table, order), *table.faults])
        self.about.set_text(said, said)
        self.repair.setVisible(table.repair is not None)
        self.repair.setEnabled(not self.session.running.active)
        if table.repair is not None:
            self.repair.setToolTip(f"Use what was probably meant: {', '.join(map(str, table.repair))}.")

    def refresh(self) -> None:
        """Show the order as it is now."""
        self.field.refresh()
        self.rows.refresh()
        self._tell_table()
        axis = self.session.choice.axis
        if axis is not None:
            self.verdict.setText(_DOES[driver_kind(axis.driver).sense(axis.driver)])
