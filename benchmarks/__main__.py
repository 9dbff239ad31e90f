"""Measure every speed claim side by side in one process and print the ratios.

Run it with ``.venv/bin/python -m benchmarks``. A ratio is the best of several rounds of both sides in turn.
"""

from __future__ import annotations

import compileall
import gc
import io
import math
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from pathlib import Path

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from tests.core.motion.trains import ramps_of, train_along
from tests.machines import coil_axis, limits, machine, move, screw_axis

from kivant.app.document.examples import load_example
from kivant.board.protocol.syntax import Receiver
from kivant.core.drive.drivers import NS_PER_S, step_edges
from kivant.core.machine import Machine, Repeat, Spin
from kivant.core.machine.edits import set_value
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import torque_ramp
from kivant.core.motion.train import StepTrain
from kivant.core.motor.following import follow_steps
from kivant.core.path import axis_path
from kivant.core.plan import Plan, plan
from kivant.core.ramps.stall_map import StallMap, ramp_instants, stall_map
from kivant.files import project
from kivant.files.csv_trace import csv_chunks
from kivant.files.vcd_trace import vcd_chunks

SPEED = axis_path(0, "limits", "speed")


def best(*sides: Callable[[], object], rounds: int = 5) -> list[float]:
    """Return the least time of each side in s; the sides take turns."""
    least = [float("inf")] * len(sides)
    for _ in range(rounds):
        for index, side in enumerate(sides):
            begin = time.perf_counter()
            side()
            least[index] = min(least[index], time.perf_counter() - begin)
    return least


def row(claim: str, ours: float, theirs: float, wanted: str) -> None:
    """Print one line of the table."""
    print(f"{claim:<64} {ours * 1e3:>10.2f} ms {theirs * 1e3:>10.2f} ms {ours / theirs:>8.3f}   {wanted}")


def _train(steps: int, speed: float) -> StepTrain:
    """Return a million steps in moves of so many."""
    count = 1_000_000 // steps
    ramps = ramps_of([1.0] * count, speed=speed, acceleration=0.03, deceleration=0.02)
    return train_along([Fraction(k * steps) for k in range(count + 1)], ramps, ramps.durations_s * np.arange(count))


def step_instants() -> None:
    """Compare a million steps, in one move and in many, with one square root over as many numbers."""
    table = [
        ("one trapezoid", 1_000_000, 0.05, 3), ("one triangle", 1_000_000, 9.0, 3),
        ("moves of 30,000", 30_000, 0.05, 3), ("moves of 3,000", 3_000, 0.05, 8), ("moves of 100", 100, 0.05, 15),
    ]  # fmt: skip
    for name, steps, speed, most in table:
        train = _train(steps, speed)
        numbers = np.arange(train.count, dtype=np.float64)
        ours, root = best(train.instants, lambda x=numbers: np.sqrt(x), rounds=9)
        row(f"instants of 1e6 steps, {name}, against one numpy.sqrt", ours, root, f"at most {most}")


def shapes() -> None:
    """Compare a million steps along ramps of pieces with jerk with one square root over as many numbers."""
    one = np.ones(1)

    def falls(at: Reals) -> tuple[Reals, Reals]:
        return 1 / (1 + 3 * at) ** 2, 1 / (1 + at) ** 2

    for name, ramps in (
        ("an S-curve with a cruise", s_curve(one, speed=0.05, acceleration=0.3, deceleration=0.2, jerk=1.0)),
        ("an S-curve of four pieces", s_curve(one, speed=9.0, acceleration=0.3, deceleration=0.2, jerk=0.1)),
        ("along a torque", torque_ramp(one, np.zeros(1), np.full(1, 2.0), falls)),
    ):
        train = train_along([Fraction(0), Fraction(1_000_000)], ramps, [0.0])
        numbers = np.arange(train.count, dtype=np.float64)
        train.instants()  # machine code is made once
        ours, root = best(train.instants, lambda x=numbers: np.sqrt(x), rounds=9)
        row(f"instants of 1e6 steps, {name}, against one numpy.sqrt", ours, root, "at most 6")


def stall_maps() -> None:
    """Compare a coarse stall map with its cells, each simulated as it is and with the margin, one after another."""
    rig = load_example()
    reach = rig.axes[2]
    maps: list[StallMap] = []
    begin = time.perf_counter()
    stall_map(rig, reach, maps.append, sizes=(16,))
    ours = time.perf_counter() - begin
    speeds, rates = maps[-1].ranges.at(16)
    begin = time.perf_counter()
    for rate in rates:
        for speed in speeds:
            steps = ramp_instants(speed * 80, rate * 80, 128)
            for _with_the_margin in (True, False):
                follow_steps(rig, reach, steps, np.ones(len(steps), np.int8), 0.02)
    alone = time.perf_counter() - begin
    row(f"a stall map, {maps[-1].simulated / ours:.0f} cells a second, against each cell twice", ours, alone, "below 1")


def python_loop() -> None:
    """Compare the same with a loop over steps."""
    ramps = ramps_of([1.0], speed=0.5, acceleration=0.3, deceleration=0.2)
    train = train_along((Fraction(0), Fraction(100_000)), ramps, [0.0])
    ours, loop = best(train.instants, lambda: [train.instant(k) for k in range(train.count)], rounds=3)
    row("step instants of 1e5 steps against a Python loop", ours, loop, "at most 0.02")


def _traced() -> Plan:
    fast = limits(400.0, 3000.0)
    made = plan(
        machine(screw_axis(limits=fast), coil_axis(first_line=4), blocks=(move(to={"Lift": "250", "Disc": "900"}),))
    )
    for axis in made.axes:
        _ = axis.instants, axis.signs
    return made


def traces() -> None:
    """Compare writing the edges as VCD with a general library's writer alone, and a step as CSV with both."""
    made = _traced()
    edges, rounds = 0, []
    for _ in range(5):
        library, edges = _library_writer(made)
        rounds.append(best(lambda: sum(map(len, vcd_chunks(made))), library, rounds=1))
    ours, theirs = (min(side) for side in zip(*rounds, strict=True))
    row("VCD of 1e5 edges against a general library's writer", ours, theirs, "at most 0.1")
    steps = sum(axis.steps for axis in made.axes)
    csv_s, vcd_s = best(lambda: sum(map(len, csv_chunks(made))), lambda: sum(map(len, vcd_chunks(made))), rounds=15)
    row("CSV, a step, against VCD, an edge (1e6 of each)", csv_s / steps * 1e6, vcd_s / edges * 1e6, "at most 1.5")
    csv_text(made)


def _library_writer(made: Plan) -> tuple[Callable[[], None], int]:
    """Return what writes a plan's edges with the library, all its input made ready, and how many there are."""
    from vcd import VCDWriter

    writer = VCDWriter(io.StringIO(), timescale="1 ns", date="")
    changes: list[tuple[int, object, int]] = []
    for axis in made.axes:
        wires = [writer.register_var(axis.name, f"w{k}", "wire", size=1) for k in range(4)]
        times = np.rint(axis.instants * NS_PER_S).astype(np.int64)
        edges = step_edges(axis.axis.driver, times, axis.signs, 0, 1)
        columns = zip(edges.times_ns.tolist(), edges.keys.tolist(), edges.levels.tolist(), strict=True)
        changes.extend((t, wires[key], level) for t, key, level in columns)
    changes.sort(key=lambda change: change[0])

    def write() -> None:
        for at, wire, level in changes:
            writer.change(wire, at, level)  # type: ignore[arg-type]

    return write, len(changes)


def csv_text(made: Plan) -> None:
    """Compare writing the steps as CSV with the standard library's writer."""
    import csv

    def library() -> None:
        writer = csv.writer(io.StringIO())
        rows = []
        for axis in made.axes:
            position = np.cumsum(axis.signs, dtype=np.int64).tolist()
            rows += [
                (t, axis.name, s, p)
                for t, s, p in zip(axis.instants.tolist(), axis.signs.tolist(), position, strict=True)
            ]
        rows.sort()
        writer.writerows((f"{t:.9f}", n, s, p) for t, n, s, p in rows)

    ours, theirs = best(lambda: sum(map(len, csv_chunks(made))), library, rounds=3)
    row("CSV of 5e4 steps against the standard library", ours, theirs, "at most 0.2")


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
    from kivant.app.document.examples import load_example

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

    def end_round(self) -> None:
        self.longest.append(sorted(self._round)[-2])
        self._round = []

    def tell(self, claim: str, wanted: str = "at most 1") -> None:
        """Print the round in which this machine had least else to do, and close the window."""
        row(f"longest hold of the window by {claim}, against a frame", min(self.longest), 1 / 60, wanted)
        self.window.session.close()
        self.app.processEvents()


def planning() -> None:
    """Compare planning 1e4 blocks with making one fraction of each target, and with planning a tenth of them."""
    axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0 + k)) for k, name in enumerate("ABCD"))
    for count, most in ((1, 2.8), (4, 1.6)):  # 5 and 12 us where a fraction of a text takes 1.8 and 2.1
        own = axes[:count]
        targets = [{axis.name: f"{math.sin(7 * k + n) * 100:.4f}" for n, axis in enumerate(own)} for k in range(10_000)]
        blocks = tuple(move(to=to) for to in targets)
        whole, tenth = machine(*own, blocks=blocks), machine(*own, blocks=blocks[:1000])
        values = [value for block in blocks for value in (block.to or {}).values()]
        ours, theirs = best(lambda m=whole: plan(m), lambda v=values: [Fraction(value) for value in v], rounds=9)
        name = f"planning 1e4 blocks of {count} axes"
        wanted = f"at most {most}; {ours * 100:.1f} us a block"
        row(f"{name} against a fraction of each target", ours, theirs, wanted)
        ours, theirs = best(lambda m=whole: plan(m), lambda m=tenth: [plan(m) for _ in range(10)], rounds=5)
        row(f"{name} against ten times 1e3", ours, theirs, "at most 1.3")


def programs() -> None:
    """Compare planning repeats, spins and calls with planning the same blocks written out, and 1e5 moves with 2 s."""
    axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0 + k)) for k, name in enumerate("ABCD"))
    targets = [{axis.name: f"{math.sin(7 * k + n) * 10:.4f}" for n, axis in enumerate(axes)} for k in range(100_000)]
    blocks = tuple(move(to=to) for to in targets)
    every = machine(*axes, blocks=blocks)
    (ours,) = best(lambda: plan(every), rounds=3)
    row("planning 1e5 moves of four axes against 2 s", ours, 2.0, "at most 1")
    body = blocks[:100]
    repeated, written = machine(*axes, blocks=(Repeat(times=300, blocks=body),)), machine(*axes, blocks=body * 300)
    ours, theirs = best(lambda: plan(repeated), lambda: plan(written), rounds=5)
    row("planning 300 turns of 100 moves against writing them out", ours, theirs, "at most 1.1")
    spun = tuple(Spin(speeds={"A": Decimal(5 + k % 9)}, seconds=0.5) for k in range(2000))
    moved = tuple(move(by={"A": "2"}) for _ in range(2000))
    ours, theirs = best(lambda: plan(machine(*axes, blocks=spun)), lambda: plan(machine(*axes, blocks=moved)), rounds=5)
    row("planning 2000 spins of an axis against 2000 moves", ours, theirs, "at most 5")


def lanes() -> None:
    """Compare a repaint of the lanes of 1e5 blocks with one of 10."""
    four = [screw_axis(f"A{k}", 3 * k, limits=limits(200.0, 2000.0)) for k in range(4)]
    took = []
    for count in (10, 100_000):
        blocks = tuple(move(to={f"A{k % 4}": str(3 + k % 7)}) for k in range(count))
        app, window = _window(machine(*four, blocks=blocks))
        window.show_station("routine")
        for _ in range(50):
            app.processEvents()
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
    from kivant.app.document.examples import load_example

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


def _timed(code: str) -> Callable[[], object]:
    command = [sys.executable, "-c", code]
    # As for a user: with the compiled modules kept, and painted without a screen.
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    return lambda: subprocess.run(command, check=True, env={**environment, "QT_QPA_PLATFORM": "offscreen"})


def start() -> None:
    """Compare the start up to the painted demo with bare imports of its libraries."""
    usable = """
import tempfile
from pathlib import Path
from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.desktop.main import make_app
from kivant.desktop.frame.window import Window
app = make_app(); window = Window(Document(load_example()), folder=Path(tempfile.mkdtemp())); window.show()
while window.session.planning.busy: app.processEvents()
window.grab(); window.session.close()
"""
    compileall.compile_dir(str(Path(str(project.__file__)).parent.parent), quiet=1)
    bare = "import PySide6.QtWidgets, numpy; PySide6.QtWidgets.QApplication([])"
    ours, theirs = best(_timed(usable), _timed(bare), rounds=9)
    row("start to the painted demo against bare imports and an application", ours, theirs, "at most 3")


def hearing() -> None:
    """Compare hearing a string without an end, and many short ones, with twice as much of each: linear, or nearly."""

    def hear(begin: bytes, again: bytes, count: int) -> Callable[[], object]:
        data = begin + again * count
        pieces = [data[at : at + 256] for at in range(0, len(data), 256)]
        return lambda: list(map(Receiver().receive, pieces))

    for name, begin, again in (("an open string", b'"', b"xx"), ("short strings", b"", b'""')):
        twice, once = best(hear(begin, again, 100_000), hear(begin, again, 50_000))
        row(f"the stand-in hears twice as much of {name}", twice, once, "at most 2.6")


def verbs() -> None:
    """Compare small questions on the command line, from command to prompt, with importing NumPy."""
    rig = str(Path(str(project.__file__)).parent.parent / "examples/banding-rig.kivant")
    for arguments in (("--version",), ("convert", rig, "Wheel", "0.25rev"), ("check", rig)):
        command = [sys.executable, "-m", "kivant", *arguments]
        ours, theirs = best(
            lambda c=command: subprocess.run(c, stdout=subprocess.DEVNULL),
            lambda: subprocess.run([sys.executable, "-c", "import numpy"], check=True),
            rounds=9,
        )
        row(f"kivant {arguments[0]} against python -c 'import numpy'", ours, theirs, "at most 1.6")


def export() -> None:
    """Compare `kivant plan --out` of a million steps, from command to prompt, with the two seconds it may take."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        built = machine(screw_axis(), blocks=(move(to={"Lift": "2500"}), move(to={"Lift": "0"})))
        project.save(built, folder / "million.kivant")
        for suffix in ("csv", "vcd"):
            arguments = [
                "plan",
                str(folder / "million.kivant"),
                "--force",
                "--json",
                "--out",
                str(folder / f"out.{suffix}"),
            ]
            command = [sys.executable, "-m", "kivant", *arguments]
            (took,) = best(lambda c=command: subprocess.run(c, check=True, stdout=subprocess.DEVNULL), rounds=3)
            row(f"plan --out of a million steps as {suffix.upper()} against two seconds", took, 2.0, "at most 1")


def rotors() -> None:
    """Compare simulating one axis with the time that it simulates, coil by coil and by 16 microsteps."""
    from kivant.app.document.examples import load_example
    from kivant.core.motor.following import follow

    rig = load_example()
    for index, drive in ((0, "rows on plain voltage"), (2, "16 microsteps and a chopper")):
        axis = rig.axes[index]
        blocks = tuple(move(to={axis.name: place}) for place in ("200", "0"))
        made = plan(replace(machine(axis, blocks=blocks), supplies=rig.supplies))
        follow(made.machine, made.axes[0])  # machine code is made once
        (took,) = best(lambda m=made: follow(m.machine, m.axes[0]), rounds=5)
        row(f"a rotor that is simulated: {drive}, against the time itself", took, made.duration, "at most 0.05")


def main() -> None:
    """Print the table."""
    print(f"{'claim':<64} {'Kivant':>13} {'compared with':>13} {'ratio':>8}   wanted")
    window = (playhead, lanes, replanning, dragging, start)
    for measure in (
        step_instants,
        shapes,
        python_loop,
        planning,
        programs,
        traces,
        *window,
        hearing,
        verbs,
        export,
        rotors,
        stall_maps,
    ):
        measure()


if __name__ == "__main__":
    main()
