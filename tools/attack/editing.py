"""Kills while somebody edits: no edit that is older than a second may be missing at the next start.

As a program, ``python -m tools.attack.editing FOLDER``, it is the victim: a window in which one edit follows another.
"""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from kivant.app.document.autosave import leftovers
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


def kill_while_editing(after_s: float) -> tuple[int, int]:
    """Kill a window so long after its first edit; return the newest edit that had to be kept, and the one that was."""
    with tempfile.TemporaryDirectory() as name:
        command = [sys.executable, "-m", "tools.attack.editing", name]
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        child = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment)
        assert child.stdout is not None
        with child, child.stdout as told:
            lines = [told.readline()]
            reader = threading.Thread(target=lambda: lines.extend(told))
            reader.start()
            time.sleep(after_s)
            killed_s = time.monotonic()
            child.kill()
            reader.join()
        whole = [line.split() for line in lines if line.endswith("\n")]  # the last one may be cut off
        due = [int(number) for number, at in whole if float(at) < killed_s - KEPT_S]
        found = leftovers(Path(name))
        kept = [int(leftover.machine.name.removeprefix("Edit ")) for leftover in found]
        for leftover in found:
            leftover.forget()
        return max(due, default=0), max(kept, default=0)


def attack(chance: random.Random, scale: float) -> Outcome:
    """Kill at random instants."""
    outcome = Outcome()
    for _ in range(max(round(200 * scale), 1)):
        due, kept = kill_while_editing(chance.uniform(0.0, 3.0))
        outcome.check(kept >= due, f"edit {due} was older than {KEPT_S:g} s, edit {kept} is the latest that was kept")
    return outcome


if __name__ == "__main__":
    edit_for_ever(Path(sys.argv[1]))
