"""The strip on top: the machine's name, what needs attention, and the file."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kivant.desktop.elided import ElidedText
from kivant.desktop.session import Session

_SIGNS = {"error": ("bad", "✕"), "warning": ("warn", "!"), "note": ("accent", "i")}


class Head(QWidget):
    """Name of the machine, findings, and the buttons for files, undo and light."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(60)
        self.name = ElidedText(session, "title", "ink")
        self.about = ElidedText(session, "small", "muted")
        self.findings = self._button("", "What needs attention (F8)")
        self.open = self._button("Open", "Open a machine (Ctrl+O)")
        self.save = self._button("Save", "Save the machine (Ctrl+S)")
        self.undo = self._button("Undo", "")
        self.redo = self._button("Redo", "")
        self.light = self._button("", "Change between day and night (Ctrl+L)")
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self.name)
        words.addWidget(self.about)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 16, 6)
        row.setSpacing(2)
        row.addLayout(words, 1)
        for button in (self.findings, self.undo, self.redo, self.open, self.save, self.light):
            row.addWidget(button)
        self.undo.clicked.connect(session.undo)
        self.redo.clicked.connect(session.redo)
        self.light.clicked.connect(lambda: session.set_night(not session.theme.night))
        for signal in (session.machine_changed, session.theme_changed, session.run_changed):
            signal.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _button(text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        return button

    def refresh(self) -> None:
        """Show the machine as it is now."""
        session, document, machine = self.session, self.session.document, self.session.machine
        name = machine.name or "Machine without a name"
        self.name.set_text(f"{name} *" if document.modified else name, f"{name}\n{machine.notes}"[:600])
        place = str(document.path) if document.path else "not saved in a file yet"
        axes = f"{len(machine.axes)} axes" if len(machine.axes) != 1 else "1 axis"
        self.about.set_text(f"{axes}, {place}", place)
        counts = {severity: sum(f.severity == severity for f in session.findings) for severity in _SIGNS}
        parts = [
            f"{sign} {counts[s]} {s}{'s' if counts[s] != 1 else ''}" for s, (_t, sign) in _SIGNS.items() if counts[s]
        ]
        self.findings.setText("   ".join(parts) or "nothing to mend")
        self.findings.setAccessibleName(f"Findings: {', '.join(parts) or 'none'}")
        self.undo.setEnabled(document.undo_name is not None and not session.running)
        self.redo.setEnabled(document.redo_name is not None and not session.running)
        self.undo.setToolTip(f"Undo: {document.undo_name} (Ctrl+Z)" if document.undo_name else "Nothing to undo")
        self.redo.setToolTip(f"Redo: {document.redo_name} (Ctrl+Shift+Z)" if document.redo_name else "Nothing to redo")
        self.open.setEnabled(not session.running)
        self.light.setText("Night" if not session.theme.night else "Day")

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme = self.session.theme
        painter.fillRect(self.rect(), theme.color("sheet"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
