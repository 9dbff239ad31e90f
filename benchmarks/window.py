"""How long the window takes, and how long it is held."""

from __future__ import annotations

import compileall
import gc
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path

from tests.machines import limits, machine, move, screw_axis

from benchmarks.measuring import best, row
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.machine import Machine, Move
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.core.program.editing import replace_block
from kivant.files import project

SPEED = axis_path(0, "limits", "speed")


def _window(built: Machine):
    from kivant.app.document.document import Document
    from kivant.desktop.frame.window import Window
    from kivant.desktop.main import make_app

    app = make_app()
    window = Window(Document(built), folder=Path(tempfile.mkdtemp()))
    window.show()
    while window.session.planning.busy:
        app.processEvents()
    gc.freeze()  # as the start does
    return app, window


def playhead() -> None:
    """Compare a repaint after moving the playhead with grabbing the unchanged window."""

    app, window = _window(load_example())
    session = window.session

    def moved() -> None:
        session.playhead.go((session.playhead.time_s + 0.0371) % session.planning.duration_s)
        window.grab()

    window.grab()
    ours, same = best(moved, window.grab, rounds=40)
    row("moving the playhead against grabbing the window unchanged", ours, same, "at most 2")
    session.close()
    app.processEvents()


class Holds:
    """Measures how long the interface thread is held by one thing after the other."""

    def __init__(self, app, window) -> None:
        self.app, self.window = app, window
        self.longest: list[float] = []
        self._round: list[float] = []

    def do(self, work: Callable[[], object]) -> None:
        begin = time.perf_counter()
        work()
        self._round.append(time.perf_counter() - begin)

    def settle(self) -> None:
        """Let the window do all that follows: plan, paint, keep."""
        end = time.perf_counter() + 0.03
        while time.perf_counter() < end:
            if self.window.session.planning.busy:
                end = time.perf_counter() + 0.03
            self.do(self.app.processEvents)
            time.sleep(0.001)

    def forget(self) -> None:
        """Measure from now on."""
        self.longest, self._round = [], []

    def end_round(self) -> None:
        self.longest.append(sorted(self._round)[-2])
        self._round = []

    def tell(self, claim: str, wanted: str = "at most 1") -> None:
        """Print the round in which this machine had least else to do, and close the window."""
        row(f"longest hold of the window by {claim}, against a frame", min(self.longest), 1 / 60, wanted)
        self.window.session.close()
        self.app.processEvents()


def lanes() -> None:
    """Compare a repaint of the lanes of 1e5 blocks with one of 10."""
    four = [screw_axis(f"A{k}", 3 * k, limits=limits(200.0, 2000.0)) for k in range(4)]
    took = []
    for count in (10, 100_000):
        blocks = tuple(move(to={f"A{k % 4}": str(3 + k % 7)}) for k in range(count))
        app, window = _window(machine(*four, blocks=blocks))
        window.show_station("routine")
        session, until = window.session, time.perf_counter() + 60
        while not session.planning.checked(session.document.machine) or session.holding.greatest is None:
            app.processEvents()  # what goes on beside the window would be measured, too
            assert time.perf_counter() < until
        page = window.page

        def paint(painted=page.lanes) -> None:
            picture = painted._blank()
            for _ in painted._paint(picture):
                pass

        took += best(paint, rounds=9)
        window.session.close()
        app.processEvents()
    row("painting the lanes of 1e5 blocks against those of 10", took[1], took[0], "at most 2")


def replanning() -> None:
    """Tell how long the interface thread is held by an edit: of a plan of 1e5 steps, and of one of 1000 blocks."""
    four = [screw_axis(f"A{k}", 3 * k, limits=limits(200.0, 2000.0)) for k in range(4)]
    names = [axis.name for axis in four]
    long = tuple(move(to=dict.fromkeys(names, way)) for way in ("125", "0"))
    many = tuple(move(to=dict.fromkeys(names, str(k % 125))) for k in range(1000))
    for claim, blocks in (("an edit, 1e5 steps", long), ("an edit, 1000 blocks", many)):
        holds = Holds(*_window(machine(*four, blocks=blocks)))
        session = holds.window.session
        for turn in range(9):
            holds.do(lambda v=150.0 + turn, s=session: s.edit(set_value(SPEED, v), "speed"))
            holds.settle()
            if turn % 3 == 2:
                holds.end_round()
        holds.tell(claim)


def dragging() -> None:
    """Tell how long the interface thread is held while a handle of the ramp is dragged, against one frame."""

    holds = Holds(*_window(load_example()))
    holds.window.show_station("ramp")
    holds.settle()
    chart = holds.window.page.chart
    for turn in range(60):
        holds.do(lambda k=turn: chart.drag("speed", 60.0 - 0.5 * k, k > 0))
        for _ in range(4):
            holds.do(holds.app.processEvents)
            time.sleep(0.002)
        if turn % 20 == 19:
            holds.end_round()
    holds.tell("a dragged handle")


def _edit_a_line(window, turn: int) -> None:
    line = Move(tool={"x": Decimal(150 + turn), "y": Decimal(-30)}, straight=True)
    window.session.edit(replace_block(0, (0,), line), "line")


def tool() -> None:
    """Tell how long the interface thread is held where a tool is seen: by edits of a line, by a hand beyond reach."""
    for claim, act, most in (
        ("an edit of a line of a tool", _edit_a_line, 9),
        ("a tool dragged beyond reach", lambda window, turn: window.page.tool.want(300.0 + turn, 40.0), 60),
    ):
        holds = Holds(*_window(load_example(SEEDLING_SETTER)))
        holds.window.show_station("routine")
        holds.settle()
        holds.forget()
        for turn in range(most):
            holds.do(lambda act=act, turn=turn, window=holds.window: act(window, turn))
            holds.settle()
            if turn % (most // 3) == most // 3 - 1:
                holds.end_round()
        holds.tell(claim)


_PAINTED = """
import gc, os
gc.disable()  # as the entry does
from kivant.desktop import main
class Window(main.Window):
    def __init__(self, *given, **more):
        super().__init__(*given, **more)
        self.painted = False
        self.session.plan_changed.connect(self.look)
    def paintEvent(self, event):
        super().paintEvent(event)
        self.painted = True
    def look(self):
        if self.painted and not self.session.turns.busy: os._exit(0)
        main.QTimer.singleShot(0, self.look)  # comes behind what is painted now
main.Window = Window
main.main(["--demo"])
"""
_BARE = "import PySide6.QtWidgets, numpy"


def _timed(code: str) -> Callable[[], object]:
    command = [sys.executable, "-c", code]
    # As for a user: with the compiled modules kept; painted without a screen, and for the first time.
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    environment |= {"QT_QPA_PLATFORM": "offscreen", "KIVANT_STATE": tempfile.mkdtemp()}
    return lambda: subprocess.run(command, check=True, env=environment)


def start() -> None:
    """Compare the start, up to the painted demo with its plan, with a process that imports the libraries alone."""
    compileall.compile_dir(str(Path(str(project.__file__)).parent.parent), quiet=1)
    ours, theirs = best(_timed(_PAINTED), _timed(_BARE), rounds=15)
    row("start to the painted demo against bare imports", ours, theirs, "at most 2")
