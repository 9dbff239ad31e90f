"""Notes about the machine, for whoever works with it: kept in its file."""

from __future__ import annotations

from PySide6.QtGui import QHideEvent, QTextCursor
from PySide6.QtWidgets import QWidget

from kivant.core.machine.edits import set_notes
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.sheet import Sheet
from kivant.desktop.widgets.text_area import MOST, TextArea


class NotesSheet(Sheet):
    """The notes; F9 or Esc closes them."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, session, "Notes")
        self.text = TextArea("Notes about the machine", self._take)
        self.text.setPlaceholderText("What anyone who works with this machine should know. Saved in its file.")
        self.text.refused.connect(
            lambda: session.notice(f"Nothing was pasted. Notes have up to {MOST:,} characters here.")
        )
        self.headed("Notes").addWidget(self.text)
        for signal in (session.machine_changed, session.run_turned):
            signal.connect(self.changed)

    def _take(self, text: str, merge: bool) -> bool:
        return self.session.try_edit(set_notes(text), "notes", merge=merge)

    def toggle(self) -> None:
        """Open the notes with the cursor in them, or close them."""
        super().toggle()
        if self.isVisible():
            self.text.moveCursor(QTextCursor.MoveOperation.End)
            self.text.setFocus()

    def hideEvent(self, event: QHideEvent) -> None:
        self.text.commit()
        super().hideEvent(event)

    def wanted_height(self) -> int:
        """Return room for a page."""
        return 420

    def follow(self) -> None:
        """Show the notes as they are now."""
        self.text.tell(self.session.document.machine.notes, fixed=self.session.running.active)
