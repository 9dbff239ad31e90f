"""A text of several lines, taken a moment after it was typed and when it is left."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QMimeData, QTimer, Signal
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QPlainTextEdit

from kivant.desktop.kit.theme import font

MOST = 20_000
"""Characters that are laid out in no time, also where all of them are one line."""

_PAUSE_MS = 400


class TextArea(QPlainTextEdit):
    """Hands what is typed to `take`, which returns whether it was taken; whether it goes on an edit comes with it.

    ``refused`` tells that something was too long to be pasted; a text that is too long is shown as far as it goes.
    """

    refused = Signal()

    def __init__(self, name: str, take: Callable[[str, bool], bool]) -> None:
        super().__init__()
        self._take, self._taken, self._goes_on = take, "", False
        self.setAccessibleName(name)
        self.setFont(font("text"))
        self.setFrameShape(QPlainTextEdit.Shape.NoFrame)
        self.setTabChangesFocus(True)
        self._pause = QTimer(self, singleShot=True, interval=_PAUSE_MS)
        self._pause.timeout.connect(self.commit)
        self.textChanged.connect(self._pause.start)

    def tell(self, text: str, *, fixed: bool) -> None:
        """Show a text, unless it is the one that was taken last; `fixed` if it cannot be changed now."""
        self.setReadOnly(fixed or len(text) > MOST)
        if len(text) > MOST:
            text = f"{text[:MOST]} …\n\nThis text is too long to edit here."
        if text != self._taken:
            self._taken, self._goes_on = text, False
            self.setPlainText(text)
            self._pause.stop()

    def isModified(self) -> bool:
        """Return whether something was typed that has not been taken yet."""
        return self.toPlainText() != self._taken

    def commit(self) -> bool:
        """Hand over what was typed; return whether it was taken."""
        self._pause.stop()
        text, before = self.toPlainText(), self._taken
        if text == before:
            return True
        self._taken = text
        if not self._take(text, self._goes_on):
            self._taken = before
            return False
        self._goes_on = True
        return True

    def insertFromMimeData(self, source: QMimeData) -> None:
        """Paste what is not too long."""
        if len(source.text()) > MOST - len(self.toPlainText()):
            self.refused.emit()
        else:
            super().insertFromMimeData(source)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.commit()
        self._goes_on = False
