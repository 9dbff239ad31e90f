"""A value that is typed where it is shown: click, type with or without a unit, Enter; Esc takes it back."""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal

from PySide6.QtCore import QEvent, QPoint, QRect, Qt, Signal
from PySide6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QToolTip, QWidget
from shiboken6 import isValid

from kivant.core.errors import KivantError
from kivant.desktop.kit.theme import VALUE_INSET, Role, font
from kivant.desktop.kit.wrong import mark_wrong
from kivant.desktop.state.session import Session

_UNDO = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)
_MARGIN = 2  # what the toolkit keeps free to either side of a field's text
# The field's own menu, another window: the hand comes back to what it typed.
_ASIDE = (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason)
_NUMBER = r"[\u2212-]?[\d\u2009]+(?:\.\d+)?"


class Explanation(QLabel):
    """Why a value was not taken, beside its field."""

    def __init__(self, field: QLineEdit, session: Session) -> None:
        super().__init__(field.window())
        self.field, self.session = field, session
        self.setFont(font("small"))
        self.setWordWrap(True)
        self.setMargin(7)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.hide()

    def explain(self, text: str) -> None:
        """Show a text below the field, or above it where there is no room."""
        theme = self.session.theme
        self.setStyleSheet(
            f"background: {theme.color('sheet').name()}; color: {theme.color('bad').name()};"
            f"border: 1px solid {theme.color('bad').name()}; border-radius: 4px;"
        )
        window = self.field.window()
        if self.parent() is not window:
            self.setParent(window)
        self.setText(text)
        width = min(330, window.width() - 20)
        self.setFixedWidth(width)
        self.setFixedHeight(self.heightForWidth(width))
        at = self.field.mapTo(window, QPoint(0, self.field.height() + 3))
        if at.y() + self.height() > window.height() - 4:
            at = self.field.mapTo(window, QPoint(0, -self.height() - 3))
        self.move(min(max(at.x(), 4), window.width() - width - 4), at.y())
        self.show()
        self.raise_()


def type_over(parent: QWidget | None, box: QRect, field: ValueField) -> None:
    """Put a field over a value that is drawn, until it is left or its value is taken."""
    before = QApplication.focusWidget()

    def go() -> None:
        for widget in (field, field.explanation):
            widget.hide()
            widget.deleteLater()
        if QApplication.focusWidget() is None and before is not None and isValid(before):
            before.setFocus()

    def taken() -> None:
        if not field.property("wrong"):
            field.clearFocus()

    field.setParent(parent)
    field.setGeometry(box)
    field.left.connect(go)
    field.returnPressed.connect(taken)
    field.show()
    field.setFocus(Qt.FocusReason.ShortcutFocusReason)


class Field(QLineEdit):
    """A field in which undo and redo mean the machine's, while nothing is being typed."""

    def event(self, event: QEvent) -> bool:
        asked = event.type() == QEvent.Type.ShortcutOverride and not self.isModified()
        if asked and isinstance(event, QKeyEvent) and any(event.matches(key) for key in _UNDO):
            event.ignore()
            return True
        return super().event(event)


class ValueField(Field):
    """One editable value.

    Parameters
    ----------
    session : Session
    name : str
        What the value is, for people who hear the window, and for its tool tip.
    show : callable
        Returns the text to show.
    take : callable
        Takes a typed text; raises `KivantError` if it cannot be taken. Its second argument is whether it goes
        on the edit before, as while a digit is turned.
    key : str
        Which key of the axis it shows, such as ``limits.speed``; empty where it shows none.
    """

    left = Signal()

    def __init__(
        self,
        session: Session,
        name: str,
        show: Callable[[], str],
        take: Callable[[str, bool], None],
        role: Role = "strong",
        *,
        key: str = "",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.key = key
        self.session, self._show, self._take = session, show, take
        self.setFont(font(role))
        self.setProperty("kind", "value")
        self.setAccessibleName(name)
        self.setToolTip(f"{name}: click and type, with or without a unit. Up and Down change the digit at the cursor.")
        self.setMaxLength(200)
        self.explanation = Explanation(self, session)
        self._turning = False
        self._meant: tuple[int, str] | None = None
        self.returnPressed.connect(self.commit)
        self.textEdited.connect(lambda _text: self._forgive())
        self.refresh()

    def refresh(self) -> None:
        """Show the value as it is now, unless it is being typed."""
        self.setEnabled(not self.session.running.active)
        text = self._show() if self.hasFocus() else self._fitting(self._show())
        typing = self.hasFocus() and self.isModified()
        if not typing and self.text() != text:
            self.setText(text)
            self.setCursorPosition(0)
            if self.hasFocus():
                self.selectAll()

    def _fitting(self, text: str) -> str:
        """Return the text with as much of it as there is room for; all of it appears when it is typed at."""
        room = self.width() - 2 * (VALUE_INSET + _MARGIN)
        return self.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room)

    def commit(self) -> bool:
        """Take what is typed; return whether it could be."""
        return self._try(self.text(), merge=False)

    def _try(self, text: str, *, merge: bool) -> bool:
        if text == self._show():
            self._forgive()
            return True
        try:
            self._take(text, merge)
        except KivantError as error:
            fault = error.faults[0]
            mark_wrong(self, wrong=True)
            self.explanation.explain(f"{fault.message} {fault.remedy}".strip())
            return False
        self._forgive()
        self.setText(self._show())
        return True

    def _forgive(self) -> None:
        mark_wrong(self, wrong=False)
        self.explanation.hide()

    def take_back(self) -> None:
        """Give the old value back."""
        self._forgive()
        self.setText(self._show())

    def turn(self, direction: int) -> None:
        """Add one (or take one off) at the digit left of the cursor, and take the value."""
        text, cursor = self.text(), self.cursorPosition()
        found = next((m for m in re.finditer(_NUMBER, text) if m.start() <= cursor <= m.end()), None)
        if found is None:
            return
        digits_before = [
            k for k in range(found.start(), min(max(cursor, found.start() + 1), found.end())) if text[k].isdigit()
        ]
        at = (
            digits_before[-1]
            if digits_before
            else next(k for k in range(found.start(), found.end()) if text[k].isdigit())
        )
        point = text.find(".", found.start(), found.end())
        end = point if point >= 0 else found.end()
        place = -(at - point) if 0 <= point < at else sum(text[k].isdigit() for k in range(at + 1, end))
        plain = found.group().replace("\u2212", "-").replace("\u2009", "")
        value = Decimal(plain) + direction * Decimal(10) ** place
        from_end = len(text) - cursor
        if self._try(f"{text[: found.start()]}{value}{text[found.end() :]}", merge=self._turning):
            self._turning = True
        self.setCursorPosition(max(len(self.text()) - from_end, 0))

    def _subject(self) -> tuple[int, str]:
        axis = self.session.choice.axis
        return self.session.choice.index, axis.name if axis else ""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent) and self.text().endswith("…"):
            QToolTip.showText(event.globalPos(), f"{self._show()}\n{self.toolTip()}", self)
            return True
        keys = (Qt.Key.Key_Escape, Qt.Key.Key_Up, Qt.Key.Key_Down)
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in keys:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.take_back()
            self.clearFocus()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.turn(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                event.accept()  # it was for this field, and not for what it lies in

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if event.reason() in _ASIDE:
            return
        self._turning = False
        self._meant = self._subject()
        self.refresh()
        if event.reason() != Qt.FocusReason.MouseFocusReason:
            self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if event.reason() in _ASIDE:
            return
        # Leaving takes what is right and gives back what is not: nothing wrong stays behind unseen. What was
        # typed for one axis is never taken for another that has been selected meanwhile.
        if self._meant != self._subject() or not self.isModified():
            self._forgive()
        elif not self.commit():
            self.take_back()
        self._turning = False
        self.refresh()
        self.left.emit()
