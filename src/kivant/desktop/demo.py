"""The demo: the window with the Banding rig, or a tour of it in pictures where there is no screen."""

from __future__ import annotations

import os
import sys
import time
from functools import partial
from pathlib import Path

from kivant.app.document.document import Document
from kivant.app.document.examples import FEEDER_CAROUSEL, load_example
from kivant.app.export import export
from kivant.app.running.source import PlanSource
from kivant.app.running.streamer import Streamer
from kivant.board.standin.clock import SteadyClock
from kivant.core.plan import plan
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert

OUT = Path("build/demo")
FASTER = 5.0


def main() -> int:
    """Open the window, or go through the whole example offscreen; return the exit status."""
    if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
        from kivant.desktop.main import main as open_window

        return open_window(["--demo"])
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    OUT.mkdir(parents=True, exist_ok=True)
    print("There is no screen, so the demo goes through the Banding rig by itself.")
    _compute()
    agrees = _run_on_stand_in()
    _take_pictures()
    print(f"The files are in {OUT}/.")
    return 0 if agrees else 1


def _compute() -> None:
    machine = load_example()
    wheel = machine.axis("Wheel")
    found = convert(wheel, parse_position(wheel, "0.25rev"))
    print(f"Wheel by a quarter turn: {found.steps_exact} = {float(found.steps_exact):.3f} steps, so {found.steps}.")
    for routine in machine.routines:
        made = plan(machine, routine)
        steps = ", ".join(f"{axis.name} {axis.steps}" for axis in made.axes)
        print(f"{routine.name}: {made.duration:.3f} s; steps: {steps}")
    made = plan(machine)
    for name in ("rising-spiral.csv", "rising-spiral.vcd"):
        export(made, OUT / name, replace=True)
        print(f"wrote {OUT / name}")


def _run_on_stand_in() -> bool:
    agrees, steady = True, SteadyClock()
    for machine in (load_example(), load_example(FEEDER_CAROUSEL)):
        made = plan(machine)
        work = Streamer(partial(PlanSource, made), watchdog_s=30.0, clock=lambda: steady() * FASTER)
        status = work.execute()
        counted = ", ".join(f"{r.name} {r.board_steps} of {r.planned_steps}" for r in status.results)
        print(f"ran {made.routine.name} on the stand-in: {status.phase}; {status.message or 'counted ' + counted}")
        agrees = agrees and status.agrees
    return agrees


def _take_pictures() -> None:
    from kivant.desktop.frame.window import Window
    from kivant.desktop.main import make_app

    app = make_app()
    window = Window(Document(load_example()), folder=OUT / "state")
    window.show()
    for night, name in ((False, "run-day.png"), (True, "run-night.png")):
        window.session.set_night(night)
        until = time.monotonic() + 20.0
        while window.session.planning.busy and time.monotonic() < until:
            app.processEvents()
        window.session.playhead.go(window.session.planning.duration_s * 0.4)
        app.processEvents()
        window.grab().save(str(OUT / name))
        print(f"took {OUT / name}")
    window.session.close()


if __name__ == "__main__":
    sys.exit(main())
