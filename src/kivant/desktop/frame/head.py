"""The strip on top: the machine's name, the chain, what needs attention, and the machine's menu."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from kivant.core.machine.edits import rename_machine
from kivant.desktop.frame.chain import CHAIN_HEIGHT, Chain
from kivant.desktop.frame.rail import RAIL_WIDTH
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.severity import LOOKS
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.elided import ElidedText
from kivant.desktop.widgets.value_field import ValueField, type_over


class Head(QWidget):
    """Name of the machine, the chain of stations, findings, and a menu for files, undo and light."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(CHAIN_HEIGHT)
        self.name = ElidedText(session, "heading", "ink")
        self.about = ElidedText(session, "small", "muted")
        self.chain = Chain(session)
        self.findings = self._button("", "Findings (F8)")
        self.findings.setFixedWidth(88)
        self.more = self._button("Machine", "Open, save, undo, day or night, and more (F10)")
        self.menu = QMenu(self)
        self.menu.setToolTipsVisible(True)
        self.more.clicked.connect(self.show_menu)
        block = QWidget()
        block.setFixedWidth(RAIL_WIDTH)
        words = QVBoxLayout(block)
        words.setContentsMargins(16, 10, 6, 10)
        words.setSpacing(0)
        words.addWidget(self.name)
        words.addWidget(self.about)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 6, 0)
        row.setSpacing(2)
        row.addWidget(block)
        row.addWidget(self.chain, 1)
        row.addWidget(self.findings)
        row.addWidget(self.more)
        for signal in (session.machine_changed, session.findings_changed, session.theme_changed, session.run_changed):
            signal.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _button(text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        return button

    def show_menu(self) -> None:
        """Open the machine's menu below its button."""
        self.menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def rename(self) -> None:
        """Type another name of the machine where its name is."""
        if self.session.running.active:
            return

        def take(text: str, _goes_on: bool) -> None:
            self.session.edit(rename_machine(text), "name of the machine")

        field = ValueField(
            self.session, "Name of the machine", lambda: self.session.document.machine.name, take, "heading"
        )
        type_over(self, QRect(10, 6, RAIL_WIDTH - 14, 30), field)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.position().x() < RAIL_WIDTH:
            self.rename()

    def refresh(self) -> None:
        """Show the machine as it is now."""
        session, document, machine = self.session, self.session.document, self.session.document.machine
        name = machine.name or "Unnamed machine"
        place = str(document.path) if document.path else "not saved yet"
        tip = f"{name}\n{place}\n{machine.notes}"[:600]
        self.name.set_text(f"{name} *" if document.modified else name, tip)
        axes = f"{len(machine.axes)} axes" if len(machine.axes) != 1 else "1 axis"
        self.about.set_text(f"{axes}, {document.path.name if document.path else 'not saved yet'}", tip)
        counts = [(s, sign, sum(f.severity == s for f in session.planning.findings)) for s, sign, _token in LOOKS]
        parts = [f"{sign} {count}" for _severity, sign, count in counts if count]
        said = ", ".join(f"{count} {severity}{'s' if count != 1 else ''}" for severity, _sign, count in counts if count)
        self.findings.setText("   ".join(parts) or "No problems")
        self.findings.setAccessibleName(f"Findings: {said or 'none'}")
        self.findings.setToolTip(f"{said or 'No problems'} (F8)")

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        fill(painter, self.rect(), theme.color("sheet"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
