"""What every test of the window needs: a shown window, patience, and no exception left unseen."""

from __future__ import annotations

import os
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QPoint, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QMainWindow, QWidget

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.desktop.frame.window import Window
from kivant.desktop.main import make_app


class WindowTest(unittest.TestCase):
    """Opens windows, waits for them, and fails when one leaves an exception or a thread behind."""

    def setUp(self) -> None:
        self.app = make_app()
        self.addCleanup(self.nothing_goes_on)
        screens = mock.patch("kivant.desktop.frame.placement.areas", return_value=[QRect(0, 0, 2560, 1440)])
        screens.start()
        self.addCleanup(screens.stop)
        self.raised: list[BaseException] = []
        hook = sys.excepthook
        sys.excepthook = lambda _kind, error, _trace: self.raised.append(error)
        self.addCleanup(setattr, sys, "excepthook", hook)
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def tearDown(self) -> None:
        self.assertEqual(self.raised, [], "exceptions in the window's own code")

    def open(self, document: Document | None = None, size: tuple[int, int] = (1280, 800)) -> Window:
        """Show a window and wait for its first plan."""
        window = Window(document or Document(load_example()), folder=self.folder / "state")
        self.addCleanup(self.shut, window)
        window.resize(*size)
        window.show()
        window.activateWindow()
        self.wait(lambda: not window.session.planning.busy)
        return window

    def settle(self, window: Window) -> None:
        """Wait until all that was asked for in the background has come."""
        self.app.processEvents()
        session, planning = window.session, window.session.planning
        self.wait(lambda: not (planning.busy or session.trials.busy or session.turns.busy))
        self.wait(lambda: planning.checked(session.document.machine))

    def shut(self, window: QMainWindow) -> None:
        """Close a window without saving."""
        window.may_leave = lambda: True  # type: ignore[attr-defined]
        window.close()
        window.deleteLater()
        self.clear_away()  # windows left alive make every later test slower
        self.app.processEvents()

    def nothing_goes_on(self) -> None:
        """See that no window has left a thread behind; runs after all of them are shut."""
        self.assertEqual(
            [t.name for t in threading.enumerate() if t.name.startswith(("planner", "run", "autosave"))], []
        )

    def wait(self, until: Callable[[], bool], seconds: float = 60.0) -> None:
        """Let the window live until something is so."""
        end = time.monotonic() + seconds
        while not until():
            self.assertLess(time.monotonic(), end, "waited in vain")
            self.app.processEvents()
            time.sleep(0.002)
        self.app.processEvents()

    def type(self, field: QLineEdit, text: str, *, enter: bool = True) -> None:
        """Put text into a field as a hand would."""
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        if enter:
            QTest.keyClick(field, Qt.Key.Key_Return)
        self.clear_away()

    def clear_away(self) -> None:
        """Let go what is to be deleted, as only a running event loop does by itself."""
        self.app.processEvents()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def choose(self, text: str) -> None:
        """Choose an entry of the menu that has just opened."""
        menu = self.app.activePopupWidget()
        next(action for action in menu.actions() if action.text() == text).trigger()
        menu.close()

    def press(
        self, window: Window, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        """Press a key with no field in focus."""
        window.run_page.lanes.setFocus()
        QTest.keyClick(window.run_page.lanes, key, modifier)

    def click(self, widget: QWidget, x: float, y: float) -> None:
        """Click at a point of a widget."""
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(round(x), round(y)))
