"""How far a plan is written to its file, with a way to cancel it."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent, QPainter, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.elided import ElidedText

_WIDTH, _HEIGHT, _ABOVE = 420, 46, 84
_LATE_MS, _LOOK_MS = 300, 100


class ExportSlip(QWidget):
    """A slip of paper above the playhead bar, where writing takes longer than a moment."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session, self.exporting, self._over = session, session.bench.exporting, parent
        self.text = ElidedText(session, "text", "ink")
        self.button = QPushButton("Cancel")
        self.button.setFont(font("text"))
        self.button.clicked.connect(self.exporting.cancel)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 10, 8)
        row.setSpacing(12)
        row.addWidget(self.text, 1)
        row.addWidget(self.button)
        self._late = QTimer(self, singleShot=True, interval=_LATE_MS)
        self._late.timeout.connect(self._show)
        self._look = QTimer(self, interval=_LOOK_MS)
        self._look.timeout.connect(self.refresh)
        self.hide()
        session.export_changed.connect(self.watch)

    def watch(self) -> None:
        """Show a file that is being written, if that takes a while; hide when there is none."""
        if self.exporting.path is None:
            self._late.stop()
            self.hide()
        else:
            self._late.start()

    def _show(self) -> None:
        self.refresh()
        self.show()
        self.raise_()

    def refresh(self) -> None:
        """Show how far it is."""
        path = self.exporting.path
        if path is not None:
            self.text.set_text(f"Writing {path.name}: {100 * self.exporting.share:.0f} %", str(path))
            self.setAccessibleName(self.text.text)
            self.place()
            self.update()

    def place(self) -> None:
        """Take the middle of the window's width, above the playhead bar."""
        parent = self._over
        width = min(_WIDTH, parent.width() - 60)
        self.setGeometry((parent.width() - width) // 2, parent.height() - _ABOVE - _HEIGHT, width, _HEIGHT)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._look.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._look.stop()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        painter.setPen(theme.pen(theme.color("edge"), 1.5))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 7, 7)
        painter.setPen(theme.pen(theme.color("accent"), 3))
        inner = self.rect().adjusted(16, 0, -16, -6)
        painter.drawLine(
            inner.left(), inner.bottom(), inner.left() + round(inner.width() * self.exporting.share), inner.bottom()
        )
