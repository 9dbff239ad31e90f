"""``kivant run``: a routine run on a board, and what was counted compared with what was planned."""

from __future__ import annotations

import argparse
import sys
import threading
from typing import Any

from kivant.app.planning.memory import available_bytes
from kivant.app.running.source import PlanSource
from kivant.app.running.status import Status
from kivant.app.running.streamer import Streamer
from kivant.board.transport import BoardError, check_address
from kivant.cli.interrupt import on_interrupt
from kivant.cli.say import print_json, say, show_findings
from kivant.core.errors import Fault
from kivant.core.findings.checks import machine_findings
from kivant.core.plan import plan
from kivant.files import project

_SHOW_S = 0.1
_LAST_WORD_S = 0.3
"""For taking the power away after a second request to stop."""


def run(options: argparse.Namespace) -> int:
    """Run a routine to its end, and compare; raises `BoardError` if it fails."""
    if options.board is not None:
        check_address(options.board)
    machine = project.load(options.file)
    made = plan(machine, options.routine, most_bytes=available_bytes())
    work = Streamer(lambda: PlanSource(made), options.board)
    thread = threading.Thread(target=work.execute, daemon=True)
    asked = 0

    def stop() -> None:
        nonlocal asked
        asked += 1
        work.stop()

    with on_interrupt(stop):
        thread.start()
        while thread.is_alive() and asked < 2:
            thread.join(_SHOW_S)
            _show_progress(work.status, made.duration)
        thread.join(_LAST_WORD_S)
    if sys.stderr.isatty():
        say("")
    if thread.is_alive():
        message = "The run was given up. It is not known whether the board is still moving."
        raise BoardError(Fault(f"board {options.board or 'stand-in'}", message, "Switch off its power by hand."))
    status = work.status
    if status.phase == "failed":
        raise BoardError(Fault("", status.message))
    _report(status, options.json)
    if not options.json:
        show_findings(machine_findings(machine))
    return 0 if status.agrees else 1


def _show_progress(status: Status, duration_s: float) -> None:
    if not sys.stderr.isatty():
        return
    share = min(status.elapsed_s / duration_s, 1.0) if duration_s else 1.0
    bar = "#" * round(30 * share)
    say_text = f"\r{status.phase:<10} [{bar:<30}] {status.elapsed_s:8.3f} s of {duration_s:.3f} s"
    print(say_text, end="", file=sys.stderr, flush=True)


def _report(status: Status, as_json: bool) -> None:
    axes: list[dict[str, Any]] = [
        {"name": r.name, "planned_steps": r.planned_steps, "board_steps": r.board_steps} for r in status.results
    ]
    for own in axes:
        if own["name"] in status.pointers:
            own["pointer"] = status.pointers[str(own["name"])]
    if as_json:
        found: dict[str, Any] = {"axes": axes, "duration_s": status.elapsed_s}
        if status.phase == "stopped":
            found["stopped"] = True
        print_json(found)
        return
    ended = "stopped before its end" if status.phase == "stopped" else "done"
    print(f"{ended} after {status.elapsed_s:.6f} s")
    for r in status.results:
        word = "as planned" if r.planned_steps == r.board_steps else f"planned {r.planned_steps}"
        shows = f"; the pointer shows {status.pointers[r.name]:.6g}" if r.name in status.pointers else ""
        print(f"  {r.name}: {r.board_steps} steps counted, {word}{shows}")
