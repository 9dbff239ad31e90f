"""Take the pictures in docs/screenshots from the demo data."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from kivant.app import editing
from kivant.app.document import Document
from kivant.app.examples import load_example
from kivant.desktop.main import make_app
from kivant.desktop.window import Window

OUT = Path(__file__).parent.parent / "docs/screenshots"


def _settle(app: QApplication, window: Window, seconds: float = 0.1) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until or window.session.planning:
        app.processEvents()
        time.sleep(0.005)


def _take(app: QApplication, window: Window, name: str) -> None:
    _settle(app, window)
    window.grab().save(str(OUT / name))
    print(OUT / name)


def main() -> int:
    """Take every picture."""
    app = make_app()
    window = Window(Document(load_example()), folder=Path(tempfile.mkdtemp()))
    window.show()
    session = window.session
    _settle(app, window)
    session.set_playhead(7.2)
    _take(app, window, "run-day.png")
    for station, axis, name in ((0, 0, "phases-day.png"), (0, 1, "pulses-day.png"), (1, 0, "travel-day.png")):
        session.select(axis)
        window.show_station(station)
        _take(app, window, name)
    window.show_station(2)
    _settle(app, window)
    session.edit(editing.limit(0, "speed", "48"), "speed of Wheel")
    session.edit(editing.limit(0, "acceleration", "60"), "acceleration of Wheel")
    _settle(app, window, 1.2)
    _take(app, window, "ramp-day.png")
    session.undo()
    session.undo()
    window.show_station(3)
    session.choose_routine(None)
    for name, text in (("Wheel", "0.5rev"), ("Lift", "25mm"), ("Reach", "3in")):
        session.set_target(name, text)
    session.select(2)
    _settle(app, window, 1.2)
    session.set_playhead(1.0)
    _take(app, window, "own-move-day.png")
    session.choose_routine("Rising spiral")
    session.set_night(True)
    _settle(app, window)
    session.start_run()
    _settle(app, window, 4.0)
    _take(app, window, "run-night.png")
    session.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
