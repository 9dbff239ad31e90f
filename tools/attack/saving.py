"""Kills while a file is saved: it is always whole, the old one or the new one.

As a program, ``python -m tools.attack.saving FILE``, it is the victim: it saves one machine after another.
"""

from __future__ import annotations

import itertools
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.files import project
from tools.attack.outcome import Outcome


def save_for_ever(file: Path) -> None:
    """Save until killed."""
    machine = load_example()
    for number in itertools.count():
        project.save(replace(machine, name=f"Save {number}"), file)
        if not number:
            print("saved", flush=True)


def attack(chance: random.Random, scale: float) -> Outcome:
    """Kill at random instants, and save once more."""
    outcome = Outcome()
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "machine.kivant"
        for _ in range(max(round(200 * scale), 1)):
            command = [sys.executable, "-m", "tools.attack.saving", str(file)]
            with subprocess.Popen(command, stdout=subprocess.PIPE) as child:
                assert child.stdout is not None
                child.stdout.readline()
                time.sleep(chance.uniform(0.0, 0.1))
                child.kill()
            try:
                whole = project.load(file).axes == load_example().axes
            except project.ProjectError:
                whole = False
            outcome.check(whole, "a killed save left a damaged file")
        time.sleep(3.0)  # until the youngest of what was left is known to be nobody's
        project.save(load_example(), file)
        left = [path.name for path in file.parent.iterdir() if path != file]
        outcome.check(not left, f"a later save did not clear {left}")
    return outcome


if __name__ == "__main__":
    save_for_ever(Path(sys.argv[1]))
