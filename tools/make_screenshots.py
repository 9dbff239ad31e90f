"""Take the pictures in docs/screenshots from the demo data."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from kivant.app.document.document import Document
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.machine.edits import typed
from kivant.core.path import axis_path
from kivant.core.program.poses import keep_pose
from kivant.core.ramps.candidates import KINDS
from kivant.core.travel.mechanics import WORN
from kivant.desktop.frame.window import Window
from kivant.desktop.main import make_app

OUT = Path(__file__).parent.parent / "docs/screenshots"


def _settle(app: QApplication, window: Window, seconds: float = 0.1) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until or window.session.planning.busy or window.session.turns.busy:
        app.processEvents()
        time.sleep(0.005)


def _take(app: QApplication, window: Window, name: str) -> None:
    _settle(app, window)
    window.grab().save(str(OUT / name))
    print(OUT / name)


def _take_faces(app: QApplication, window: Window) -> None:
    """Take the faces of Phases, some with something to see."""
    session = window.session
    session.choice.select(0)
    window.show_station("phases")
    phases: Any = window.page
    finder = phases.face("finder")
    phases.show_face("finder")
    finder.counts[6].click()
    for place, name in enumerate(("white", "brown", "green", "grey", "red", "black")):
        finder.finder.rename(place, name)
    readings = (
        ("white", "green", "4.3"),
        ("white", "grey", "open"),
        ("white", "brown", "8.1"),
        ("brown", "green", "4.2"),
        ("grey", "red", "8.3"),
        ("red", "black", "4.1"),
    )
    for first, second, seen in readings:
        finder.finder.choose(first, second)
        finder.finder.take(seen)
    for key in ("finder", "wires", "symptoms", "board"):
        phases.show_face(key)
        if key == "symptoms":
            phases.face(key).ticks["shudders"].click()
            phases.face(key).rows[0].show_it.click()
        _take(app, window, f"{key}-day.png")
    session.choice.select(3)
    phases.show_face("current")
    phases.face("current").rows.look_at(2)
    _take(app, window, "current-day.png")
    session.choice.select(1)
    session.set_night(True)
    phases.show_face("microsteps")
    _take(app, window, "microsteps-night.png")
    session.set_night(False)
    phases.show_face("sequence")
    session.choice.select(0)


def _take_travel(app: QApplication, window: Window) -> None:
    """Take the faces of Travel, with readings of a wheel that is a little wrong, as is the stand-in's."""
    window.session.choice.select(0)
    window.show_station("travel")
    travel: Any = window.page
    travel.show_face("divide")
    _take(app, window, "divide-day.png")
    travel.show_face("calibrate")
    face, axis = travel.face("calibrate"), window.session.choice.axis
    assert axis is not None
    face.bar.standin.use({axis.name: WORN[axis.unit]})
    window.notice.hide()
    measuring, running = face.measuring, window.session.running
    face.go.click()
    while running.active:
        _settle(app, window, 0.02)
    for k in range(12):
        target = measuring.next(axis)
        wrong = 0.04 * ((k * 7) % 5 - 2)  # of the hand that reads
        measuring.take(axis, f"{0.9853 * float(target.position) - 0.3 * target.approach + wrong:.2f}")
    travel.show_face("calibrate")
    _take(app, window, "calibrate-day.png")
    travel.show_face("convert")
    running.forget()
    running.turned()
    running.changed()


def _wait(app: QApplication, so: Callable[[], bool], seconds: float = 60.0) -> None:
    until = time.monotonic() + seconds
    while not so() and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.005)


def _ask(window: Window, speed: str, rate: str) -> None:
    """Ask the lift for a speed and an acceleration."""
    for key, text in (("speed", speed), ("acceleration", rate), ("deceleration", rate)):
        window.session.edit(typed(axis_path(1, "limits", key), text), f"{key} of Lift")


def _take_rotors(app: QApplication, window: Window) -> None:
    """Take the stall map of the lift, and the plan with simulated rotors when it is asked for too much."""
    session = window.session
    session.choice.select(1)
    ramp: Any = window.page
    ramp.show_face("stall")
    _settle(app, window)
    _wait(app, lambda: session.bench.tries.map is not None and session.bench.tries.map.done)
    _take(app, window, "stall-day.png")
    ramp.show_face("move")
    _ask(window, "300", "15000")
    window.show_station("run")
    session.set_night(True)
    _settle(app, window)
    window.bar.rotors.click()
    _wait(app, lambda: not session.following.busy)
    session.playhead.go(1.28)
    _take(app, window, "rotors-night.png")
    window.bar.rotors.click()
    session.set_night(False)
    while session.document.modified:
        session.bench.undo()
    session.choice.select(0)


def _take_routines(app: QApplication, window: Window) -> None:
    """Take a routine with poses, and one whose tool is moved by an arm."""
    session = window.session
    window.show_station("routine")
    session.choice.choose_routine("Rising spiral")
    _settle(app, window, 0.4)
    page: Any = window.page
    for name, seconds in (("Over the bowl", 1.8), ("Rim", 16.5), ("Away", 17.3)):
        session.playhead.go(seconds)
        session.edit(keep_pose(name, page.shelf.here()), "keep a pose")
    page.program.choose([(3,)])
    session.playhead.go(7.2)
    _settle(app, window, 0.4)
    _take(app, window, "routine-day.png")
    while session.document.modified:
        session.bench.undo()
    arm = Window(Document(load_example(SEEDLING_SETTER)), folder=Path(tempfile.mkdtemp()))
    arm.show()
    arm.session.choice.choose_routine("Set three plugs")
    arm.show_station("routine")
    _settle(app, arm, 0.5)
    arm.session.playhead.go(4.6)
    there: Any = arm.page
    there.tool.want(180.0, -60.0)
    _settle(app, arm, 0.4)
    _take(app, arm, "tool-day.png")
    arm.session.close()
    arm.hide()


def main() -> int:
    """Take every picture."""
    app = make_app()
    window = Window(Document(load_example()), folder=Path(tempfile.mkdtemp()))
    window.show()
    session = window.session
    _settle(app, window)
    session.playhead.go(7.2)
    _take(app, window, "run-day.png")
    for station, axis, name in (
        ("motor", 0, "motor-day.png"),
        ("phases", 0, "phases-day.png"),
        ("phases", 1, "pulses-day.png"),
        ("travel", 0, "travel-day.png"),
    ):
        session.choice.select(axis)
        window.show_station(station)
        if name == "pulses-day.png":
            page: Any = window.page
            page.show_face("pulses")
        _take(app, window, name)
    _take_faces(app, window)
    _take_travel(app, window)
    window.show_station("ramp")
    session.choice.select(1)
    _settle(app, window, 0.5)
    _ask(window, "250", "4000")
    _settle(app, window)
    _wait(app, lambda: len(session.bench.tries.now.candidates) == len(KINDS))
    ramp: Any = window.page
    ramp.fastest.seek()
    _wait(app, lambda: not session.bench.tries.seeking)
    _take(app, window, "ramp-day.png")
    _take_rotors(app, window)
    _take_routines(app, window)
    window.show_station("run")
    session.choice.choose_routine(None)
    for name, text in (("Wheel", "0.5rev"), ("Lift", "25mm"), ("Reach", "3in")):
        session.bench.set_target(name, text)
    session.choice.select(2)
    _settle(app, window, 1.2)
    session.playhead.go(1.0)
    session.choice.choose_routine("Rising spiral")
    session.set_night(True)
    _settle(app, window)
    session.running.start()
    _settle(app, window, 4.0)
    _take(app, window, "run-night.png")
    session.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
