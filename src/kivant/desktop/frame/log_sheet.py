"""What was said to and by the board, message by message, growing while a run goes on."""

from __future__ import annotations

from PySide6.QtWidgets import QPlainTextEdit, QWidget

from kivant.app.running.status import MOST_MESSAGES, Log
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.sheet import Sheet


class LogSheet(Sheet):
    """The messages of the latest run; they can be selected and copied."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, session, "Board log")
        self._log: Log | None = None
        self._shown = 0
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setFrameShape(QPlainTextEdit.Shape.NoFrame)
        self.text.setMaximumBlockCount(MOST_MESSAGES)
        self.text.setPlaceholderText("No messages yet.")
        self.text.setAccessibleName("Messages to and from the board, the newest last")
        self.headed("Messages to and from the board").addWidget(self.text)
        session.run_changed.connect(self.changed)

    def wanted_height(self) -> int:
        """Return more than there is: a log is long."""
        return 900

    def follow(self) -> None:
        """Add what has been said since; the view stays at the end if it was there."""
        streamer = self.session.running.streamer
        log = streamer.log if streamer else None
        if log is not self._log:
            self._log, self._shown = log, 0
            self.text.clear()
        if log is None:
            return
        self._shown, new = log.since(self._shown)
        if new:
            self.text.appendPlainText("\n".join(f"{'to' if way == '>' else 'from'}  {text}" for way, text in new))
