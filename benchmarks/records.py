"""What is written and heard: traces, messages, and the command line around them."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from tests.machines import coil_axis, limits, machine, move, screw_axis

from benchmarks.measuring import best, row
from kivant.board.protocol.syntax import Receiver
from kivant.core.drive.drivers import NS_PER_S, step_edges
from kivant.core.plan import Plan, plan
from kivant.files import project
from kivant.files.csv_trace import csv_chunks
from kivant.files.vcd_trace import vcd_chunks


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
