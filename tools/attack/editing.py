"""Kills while somebody edits: no edit that is older than a second may be missing at the next start.

As a program, ``python -m tools.attack.editing FOLDER``, it is the victim: a window in which one edit follows another.
"""

from __future__ import annotations

import contextlib
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from kivant.app.document.autosave import leftovers
from kivant.core.machine import Machine
from tools.attack.outcome import Outcome

KEPT_S = 1.0


def edit_for_ever(folder: Path) -> None:
    """Edit in a window and tell the time of each edit, until killed."""
    from PySide6.QtCore import QTimer

    from kivant.app.document.document import Document
    from kivant.app.document.examples import load_example
    from kivant.core.machine.edits import rename_machine
    from kivant.desktop.frame.window import Window
    from kivant.desktop.main import make_app

    app, chance = make_app(), random.Random()
    window = Window(Document(load_example()), folder=folder)
    window.show()
    timer, made = QTimer(interval=20), 0

    def edit() -> None:
        nonlocal made
        made += 1
        print(made, time.monotonic(), flush=True)
        window.session.edit(rename_machine(f"Edit {made}"), "name")
        timer.setInterval(chance.choice((5, 20, 100, 400)))

    timer.timeout.connect(edit)
    timer.start()
    app.exec()


@contextlib.contextmanager
def victim(folder: Path) -> Iterator[subprocess.Popen[str]]:
    """Have a window that keeps what it edits in a folder, and tells each edit; it is killed at the end."""
    command = [sys.executable, "-m", "tools.attack.editing", str(folder)]
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment) as child:
        try:
            yield child
        finally:
            child.kill()


def number_of(machine: Machine) -> int:
    """Return the number of the newest edit in a machine."""
    return int(machine.name.removeprefix("Edit "))


def newest_kept(folder: Path) -> int:
    """Return the number of the newest edit that the next start finds; the copies are gone then."""
    found = leftovers(folder)
    for leftover in found:
        leftover.forget()
    return max((number_of(leftover.machine) for leftover in found), default=0)


def kill_while_editing(after_s: float) -> tuple[int, int]:
    """Kill a window so long after its first edit; return the newest edit that had to be kept, and the one that was."""
    with tempfile.TemporaryDirectory() as name:
        with victim(Path(name)) as child:
            assert child.stdout is not None
            lines = [child.stdout.readline()]
            reader = threading.Thread(target=lambda: lines.extend(child.stdout or ()))
            reader.start()
            time.sleep(after_s)
            killed_s = time.monotonic()
            child.kill()
            reader.join()
        whole = [line.split() for line in lines if line.endswith("\n")]  # the last one may be cut off
        due = [int(number) for number, at in whole if float(at) < killed_s - KEPT_S]
        return max(due, default=0), newest_kept(Path(name))


def attack(chance: random.Random, scale: float) -> Outcome:
    """Kill at random instants."""
    outcome = Outcome()
    for _ in range(max(round(200 * scale), 1)):
        due, kept = kill_while_editing(chance.uniform(0.0, 3.0))
        outcome.check(kept >= due, f"edit {due} was older than {KEPT_S:g} s, edit {kept} is the latest that was kept")
    return outcome


if __name__ == "__main__":
    edit_for_ever(Path(sys.argv[1]))
