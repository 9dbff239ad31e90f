"""What a system refuses, and signals: the command line says so in a sentence, and leaves nothing half-written."""

from __future__ import annotations

import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from importlib import resources
from pathlib import Path

from tools.attack.outcome import Outcome

_RIG = str(resources.files("kivant").joinpath("examples", "banding-rig.kivant"))


def _kivant(
    *arguments: str, folder: Path, limit: Callable[[], None] | None = None, **streams: object
) -> tuple[int, str]:
    command = [sys.executable, "-m", "kivant", *arguments]
    more: dict[str, object] = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE, **streams}
    done = subprocess.run(command, cwd=folder, preexec_fn=limit, timeout=60, check=False, **more)  # type: ignore[call-overload]
    return done.returncode, (done.stderr or b"").decode(errors="replace")


def _full_at(size: int) -> Callable[[], None]:
    """Return a limit to what a file may hold, as on a disk that runs full."""

    def limit() -> None:
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))

    return limit


def attack(chance: random.Random, scale: float) -> Outcome:
    """Odd names, full disks and full devices, pipes, loops of links, folders that cannot be written."""
    outcome = Outcome()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "loop.csv").symlink_to("pool.csv")
        (folder / "pool.csv").symlink_to("loop.csv")
        os.mkfifo(folder / "pipe.kivant")
        odd = ("n" * 300, "n" * 5000, "\udcff\x1b[31m", "loop.csv", "pipe.kivant", "no/such/folder", "", ".", "-", "\n")
        for _ in range(max(round(30 * scale), 1)):
            for text in odd:
                for arguments in (
                    ("check", text),
                    ("plan", _RIG, "--out", f"{text}.csv"),
                    ("convert", _RIG, text, "5"),
                ):
                    before = set(folder.iterdir())
                    status, said = _kivant(*arguments, folder=folder)
                    clean = "Traceback" not in said and "\x1b" not in said
                    outcome.check(
                        clean and status in (0, 1, 2), f"{arguments[0]} {text[:20]!r}: {status}, {said[-120:]}"
                    )
                    for made in set(folder.iterdir()) - before:
                        outcome.check(made.suffix == ".csv" and status == 0, f"left behind: {made.name!r}")
                        made.unlink()
            size = chance.randrange(1, 300_000)
            before = set(folder.iterdir())
            status, said = _kivant("plan", _RIG, "--out", "steps.csv", folder=folder, limit=_full_at(size))
            tidy = set(folder.iterdir()) == before and status == 1 and "Traceback" not in said
            outcome.check(tidy, f"a disk that is full at {size}: {status}, {said[-120:]}")
            with Path("/dev/full").open("w") as full:
                status, said = _kivant("schema", folder=folder, stdout=full)
            outcome.check(
                status == 1 and "No space" in said and "Traceback" not in said, f"a full device: {said[-120:]}"
            )
    return outcome


def signals(chance: random.Random, scale: float) -> Outcome:
    """Ask exports to end at random instants, in every way but the one that cannot be heard."""
    outcome = Outcome()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        document = json.loads(Path(_RIG).read_text())
        blocks = [{"do": "move", "to": {"Wheel": 3600.0 * turn}} for turn in range(1, 400)]
        (folder / "long.kivant").write_text(json.dumps({**document, "routines": [{"name": "long", "blocks": blocks}]}))
        command = [sys.executable, "-m", "kivant", "plan", "long.kivant", "--out", "long.csv"]
        subprocess.run(command, cwd=folder, check=True, capture_output=True)
        whole = (folder / "long.csv").read_bytes()
        (folder / "long.csv").unlink()
        for _ in range(max(round(60 * scale), 1)):
            number = chance.choice((signal.SIGINT, signal.SIGTERM, signal.SIGHUP))
            hears = partial(signal.signal, signal.SIGHUP, signal.SIG_DFL)  # also where the attack has no terminal
            quiet, heard = subprocess.DEVNULL, subprocess.PIPE
            with subprocess.Popen(command, cwd=folder, stderr=heard, stdout=quiet, preexec_fn=hears) as work:
                time.sleep(chance.uniform(0.15, 2.5))  # earlier, Python itself has not begun to listen
                work.send_signal(number)
                said = work.communicate(timeout=30)[1].decode()
            left = {path.name for path in folder.iterdir()} - {"long.kivant"}
            known = work.returncode in (0, 128 + number, -number)
            # Asked when all is written and said, a process may end as one that was asked to; the file is whole then.
            tidy = left == {"long.csv"} and (folder / "long.csv").read_bytes() == whole
            tidy |= not left and work.returncode != 0
            outcome.check(
                known and tidy and "Traceback" not in said, f"{number.name}: {work.returncode}, {left}, {said[-120:]}"
            )
            for file in left:
                (folder / file).unlink()
    return outcome
