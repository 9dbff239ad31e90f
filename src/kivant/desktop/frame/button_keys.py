"""Space and Enter press the button that the keys have gone to; elsewhere Space plays, as the window's keys say."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QWidget

_KEYS = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class ButtonKeys(QObject):
    """Knows whether the button in focus was reached by the keys: one that was clicked does not take Space from play."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._by_mouse = False
        self._meant: QWidget | None = None
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._follow)

    def _follow(self, _old: object, _new: object) -> None:
        self._by_mouse = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton

    def means(self, event: QKeyEvent) -> bool:
        """Return whether a key that is about to be pressed is for the button in focus."""
        button = QApplication.focusWidget()
        mine = event.key() in _KEYS and isinstance(button, QAbstractButton) and not self._by_mouse
        self._meant = button if mine else None
        return mine

    def press(self, event: QKeyEvent) -> bool:
        """Press the button that the key was meant for, once however long it is held; return whether there was one.

        What has the focus now may be another widget: a field that took the key may have given it away.
        """
        button, self._meant = self._meant, None
        if event.key() not in _KEYS or not isinstance(button, QAbstractButton):
            return False
        if not event.isAutoRepeat() and button is QApplication.focusWidget():
            button.click()
        return True
