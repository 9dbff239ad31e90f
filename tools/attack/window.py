"""A hand that does anything: presses, types, drags and chooses at random, and then takes all of it back.

The window must live, raise nothing, come to rest, and have the machine it began with. As a program,
``python -m tools.attack.window SEED FOLDER``, it is one such hand.
"""

from __future__ import annotations

import faulthandler
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
from collections import deque
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from kivant.core.machine import Machine
from kivant.core.machine.check import checked
from kivant.core.machine.parts import Calibration
from tools.attack.outcome import Outcome

ACTS = 400
_PATIENCE_S = 200
_TEXTS = (
    "", "0", "-1", "5", "12.5", "1,5", "1/3", "-0.0001", "999999999999", "1e999", "nan", "90deg", "0.25rev", "1.5in",
    "300rpm", "2ms", "10 mm", "3 5 6", "wave", "0b11", "A", "x y", "abc", '"',
)  # fmt: skip
_KEYS = (
    "Left", "Right", "Up", "Down", "Home", "End", "PgUp", "Space", "Return", "Tab", "Esc", "Del", "+", "-", "A", "F1",
    "F2", "Ctrl+Z", "Ctrl+Shift+Z", "Ctrl+A", "Ctrl+C", "Ctrl+V", "Ctrl+X", "Ctrl+D",
)  # fmt: skip
_LEFT_OUT = ("Quit", "Close", "New window", "Open")  # of menus: they lead out of the window


class Hand:
    """A hand at a window; ``lately`` is what it did last."""

    def __init__(self, window: Any, chance: random.Random) -> None:
        from PySide6.QtWidgets import QApplication

        self.app: Any = QApplication.instance()
        self.window, self.chance = window, chance
        self.lately: deque[str] = deque(maxlen=8)

    def act(self) -> None:
        """Do one thing, and whatever its menu offers."""
        acts = (self._visit, self._key, self._press, self._type, self._point, self._look)
        try:
            self.chance.choices(acts, (10, 18, 26, 20, 23, 3))[0]()
            self.app.processEvents()
            self._choose()
        except RuntimeError as error:
            if "already deleted" not in str(error):  # what was pointed at may go while it is pressed
                raise

    def rest(self, seconds: float) -> None:
        """Let the window live for a while."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.app.processEvents()
            time.sleep(0.002)

    def _seen(self, kind: type) -> list[Any]:
        return [w for w in self.window.findChildren(kind) if w.isEnabled() and w.visibleRegion().boundingRect().width()]

    def _one(self, kind: type) -> Any:
        seen = self._seen(kind)
        found = self.chance.choice(seen) if seen else None
        self.lately.append(f"{type(found).__name__} {found.accessibleName() if found else ''}")
        return found

    def _visit(self) -> None:
        from kivant.desktop.stations import STATIONS

        axes, chance = len(self.window.session.document.machine.axes), self.chance
        if axes and chance.random() < 0.4:
            self.window.session.choice.select(chance.randrange(axes))
        else:
            self.lately.append(chance.choice(list(STATIONS)))
            self.window.show_station(self.lately[-1])

    def _key(self) -> None:
        from PySide6.QtGui import QKeySequence
        from PySide6.QtTest import QTest

        self.lately.append(self.chance.choice(_KEYS))
        keys: Any = QKeySequence(self.lately[-1])
        QTest.keyClick(self.app.focusWidget() or self.window, keys[0].key(), keys[0].keyboardModifiers())

    def _press(self) -> None:
        from PySide6.QtWidgets import QAbstractButton

        if button := self._one(QAbstractButton):
            button.click()

    def _type(self) -> None:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QLineEdit

        if (line := self._one(QLineEdit)) and not line.isReadOnly():
            self.lately.append(self.chance.choice(_TEXTS))
            line.setFocus()
            line.selectAll()
            QTest.keyClicks(line, self.lately[-1])
            QTest.keyClick(line, self.chance.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape)))

    def _point(self) -> None:
        from PySide6.QtCore import QPoint, Qt
        from PySide6.QtGui import QContextMenuEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QAbstractSpinBox, QLabel, QScrollBar, QWidget

        if not (widget := self._one(QWidget)):
            return
        chance, left = self.chance, Qt.MouseButton.LeftButton
        here, there = (QPoint(chance.randint(0, widget.width()), chance.randint(0, widget.height())) for _ in range(2))
        how = chance.choice(("click", "double click", "menu", "hover", "drag"))
        waits = QScrollBar | QLabel | QAbstractSpinBox  # their menus wait until they are left
        if how == "menu" and not isinstance(widget, waits) and not isinstance(widget.parent(), waits):
            event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, here, widget.mapToGlobal(here))
            self.app.sendEvent(widget, event)
        elif how == "hover":
            QTest.mouseMove(widget, here)
        elif how == "double click":
            QTest.mouseDClick(widget, left, Qt.KeyboardModifier.NoModifier, here)
        else:
            QTest.mousePress(widget, left, Qt.KeyboardModifier.NoModifier, here)
            for share in (0.3, 0.6, 1.0) if how == "drag" else ():
                QTest.mouseMove(widget, here + (there - here) * share)
                self.app.processEvents()
            QTest.mouseRelease(widget, left, Qt.KeyboardModifier.NoModifier, there if how == "drag" else here)

    def _look(self) -> None:
        self.window.grab()
        self.rest(0.1)

    def _choose(self) -> None:
        from PySide6.QtWidgets import QMenu

        popup = self.app.activePopupWidget()
        if isinstance(popup, QMenu):
            offered = [a for a in popup.actions() if a.isEnabled() and not any(word in a.text() for word in _LEFT_OUT)]
            popup.close()
            if offered:
                chosen = self.chance.choice(offered)
                self.lately.append(chosen.text())
                chosen.trigger()
        elif popup is not None:
            popup.close()


def _worn(machine: Machine, chance: random.Random) -> Machine:
    """Return a machine some of whose axes have play, ramps of other shapes, or go round."""
    axes = []
    for axis in machine.axes:
        limits = replace(axis.limits, jerk=chance.choice((None, 30 * axis.limits.acceleration)))
        if axis.unit == "deg":
            limits = replace(limits, wrap=chance.choice((None, "shortest", "negative")))
        play = Calibration(backlash=chance.choice((0.0, 0.2, 2.0)), first_direction=chance.choice((1, -1)))
        axes.append(replace(axis, limits=limits, calibration=play))
    return replace(machine, axes=tuple(axes))


def play(seed: int, folder: Path) -> list[str]:
    """Let a hand play with a window of an example, as it is or worn; return what broke."""
    from PySide6.QtWidgets import QFileDialog, QMessageBox

    from kivant.app.document import examples
    from kivant.app.document.document import Document
    from kivant.desktop.frame.window import Window
    from kivant.desktop.main import make_app

    chance, app = random.Random(seed), make_app()
    no_file: Any = staticmethod(lambda *_args: ("", ""))
    QFileDialog.getOpenFileName = QFileDialog.getSaveFileName = no_file  # type: ignore[method-assign]
    QMessageBox.question = staticmethod(lambda *_args: QMessageBox.StandardButton.Cancel)  # type: ignore[assignment]
    name = chance.choice((examples.BANDING_RIG, examples.FEEDER_CAROUSEL, examples.SEEDLING_SETTER))
    machine = examples.load_example(name)
    if chance.random() < 0.5:
        machine = checked(_worn(machine, chance), routines=True)
    window = Window(Document(machine), folder=folder)
    hand, broken = Hand(window, chance), list[str]()

    def note(what: object) -> None:
        broken.append(f"{what!r} after {list(hand.lately)}")

    sys.excepthook = lambda _kind, error, _trace: note(error)
    threading.excepthook = lambda told: note(told.exc_value)
    window.resize(*chance.choice(((1100, 700), (1280, 800), (1920, 1080))))
    window.show()
    for _ in range(ACTS):
        try:
            hand.act()
        except Exception as error:
            note(error)
    session, end = window.session, time.monotonic() + 60
    while (session.planning.busy or session.trials.busy) and time.monotonic() < end:
        hand.rest(0.05)
    if time.monotonic() >= end:
        note("no rest")
    while session.document.undo_name:
        session.bench.undo()
    if session.document.machine != machine:
        broken.append("not all of it was taken back")
    app.processEvents()
    return broken


def attack(chance: random.Random, scale: float) -> Outcome:
    """Let hands play with windows, each in a process of its own."""
    outcome = Outcome()
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    for _ in range(max(round(40 * scale), 1)):
        seed = chance.randrange(10**6)
        with tempfile.TemporaryDirectory() as folder:
            command = [sys.executable, "-m", "tools.attack.window", str(seed), folder]
            environment["KIVANT_STATE"] = folder
            try:
                told = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=_PATIENCE_S)
            except subprocess.TimeoutExpired:
                outcome.check(False, f"hand {seed} still plays after {_PATIENCE_S} s")
                continue
        why = told.stdout.strip() or f"ended with {told.returncode}: {told.stderr[-600:]}"
        outcome.check(not told.returncode, f"hand {seed}: {why}")
    return outcome


if __name__ == "__main__":
    faulthandler.dump_traceback_later(_PATIENCE_S - 10, exit=True)  # where a hand hangs
    found = play(int(sys.argv[1]), Path(sys.argv[2]))
    print(*found[:3], sep="; ", flush=True)
    os._exit(bool(found))  # as it is: a window that runs asks nothing
