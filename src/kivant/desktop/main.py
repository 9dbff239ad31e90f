"""Starting the window."""

from __future__ import annotations

import argparse
import gc
import os
import signal
import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QApplication

from kivant import __version__
from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.document.memory import Memory, state_folder
from kivant.app.internal_error import ErrorLog
from kivant.core.errors import KivantError
from kivant.core.machine import Machine
from kivant.desktop.frame.internal_errors import InternalErrors
from kivant.desktop.frame.window import Window
from kivant.desktop.kit import theme

_FIRST_PLAN_MS = 40


def make_app() -> QApplication:
    """Return the application, with its letters and theme."""
    # Asked for by name, the style would come back as an object, and with it all that styles know to the interpreter.
    app = QApplication.instance() or QApplication(["kivant", "-style", "Fusion"])
    assert isinstance(app, QApplication)
    app.setApplicationName("kivant")
    app.setApplicationDisplayName("Kivant")
    app.setApplicationVersion(__version__)
    app.setDesktopFileName("kivant")
    theme.apply(app, theme.Theme())
    return app


def _prefers_night(app: QApplication, memory: Memory) -> bool:
    """Return the light that was chosen, else the desktop's."""
    chosen = memory.night
    return app.styleHints().colorScheme() == Qt.ColorScheme.Dark if chosen is None else chosen


def _wait_for_plan(window: Window) -> None:
    """Give the first plan a moment: most are there at once, and the window is then painted once and not twice."""
    waiting = QEventLoop()
    window.session.plan_changed.connect(waiting.quit)
    QTimer.singleShot(_FIRST_PLAN_MS, waiting.quit)
    waiting.exec()
    window.session.plan_changed.disconnect(waiting.quit)


def _hear_signals(app: QApplication, window: Window) -> None:
    """Close the window at a Ctrl+C, and at once when the system ends the process."""
    signal.signal(signal.SIGINT, lambda *_: window.close())

    def give_way(number: int, _frame: object) -> None:
        window.give_way()
        app.exit(128 + number)

    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, give_way)
    # Python hears signals only when it runs: wake it now and then.
    beat = QTimer(window, interval=200)
    beat.timeout.connect(lambda: None)
    beat.start()


def main(arguments: Sequence[str]) -> int:
    """Open the window; return the exit status."""
    parser = argparse.ArgumentParser(prog="kivant")
    parser.add_argument("file", nargs="?", type=Path, help="a Kivant project file")
    parser.add_argument("--demo", action="store_true", help="open the Banding rig")
    options = parser.parse_args(arguments)
    if options.demo and options.file:
        parser.error("either a file or --demo")
    try:
        if options.file:
            document = Document.open(options.file)
        else:
            document = Document(load_example() if options.demo else Machine(name="New machine"))
    except KivantError as error:
        for fault in error.faults:
            print(f"error: {fault}", file=sys.stderr)
        return 1
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        print("error: there is no screen for the window. The commands do not need one: kivant --help", file=sys.stderr)
        return 1
    app = make_app()
    folder = state_folder()
    night = _prefers_night(app, Memory(folder))
    if night:  # before there are widgets: each would have to be styled once more
        theme.apply(app, theme.Theme(night))
    with InternalErrors(ErrorLog(folder)) as errors:
        window = Window(document, night=night, folder=folder)
        errors.came.connect(lambda text: _tell(window, text))
        return _show(app, window)


def _tell(first: Window, text: str) -> None:
    """Tell something in the window that is looked at: there may be others, and the first may be closed."""
    looked_at = QApplication.activeWindow()
    shown = [other for other in QApplication.topLevelWidgets() if isinstance(other, Window) and other.isVisible()]
    window = looked_at if isinstance(looked_at, Window) else next(iter(shown), first)
    window.session.notice(text)


def _show(app: QApplication, window: Window) -> int:
    """Show the window until it is closed; return the exit status."""
    _wait_for_plan(window)
    with window.session.hurrying():
        window.show_where_it_was()
        app.processEvents()  # painted, before anything else is looked for
    window.recover()
    from PySide6.QtGui import QIcon  # with a list of all icons that desktops have

    app.setWindowIcon(QIcon(str(Path(__file__).with_name("kivant.svg"))))
    # What the start has made stays: looking through all of it for garbage would hold up the window now and then.
    gc.freeze()
    gc.enable()
    _hear_signals(app, window)
    return app.exec()
