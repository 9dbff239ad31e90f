"""The verbs of the command line and what they take; what each does is in the module of `verbs` with its name."""

from __future__ import annotations

import argparse
import importlib
import io
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from kivant import __version__
from kivant.cli.say import WRONG_USAGE, fail, say
from kivant.core.errors import KivantError


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        hint = ""
        if "unrecognized arguments: -" in message or "required" in message:
            hint = "\nA value that begins with a minus sign goes after --, as in: kivant convert FILE AXIS -- -90deg"
        self.print_usage(sys.stderr)
        self.exit(WRONG_USAGE, f"{self.prog}: {message}{hint}\n")


def make_parser() -> argparse.ArgumentParser:
    """Return the parser of all verbs; each leaves its name under ``verb``."""
    parser = _Parser(
        prog="kivant",
        description="A desktop workbench for stepper motors. "
        "Without a verb, kivant [FILE] opens the window; kivant --demo opens it with the demo machine.",
    )
    parser.add_argument("--version", action="version", version=f"kivant {__version__}")
    verbs = parser.add_subparsers(dest="verb", required=True, metavar="VERB", parser_class=_Parser)

    def verb(name: str, text: str) -> argparse.ArgumentParser:
        found = verbs.add_parser(name, help=text, description=text[0].upper() + text[1:] + ".")
        found.add_argument("--json", action="store_true", help="print one JSON object and nothing else")
        return found

    verb("schema", "print the JSON Schema of the project file")
    item = verb("convert", "turn a position into steps")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("value", help="such as 90deg, 0.25rev, 12.5mm, 0.5in, 400steps; -- before a negative one")
    item = verb("plan", "plan a routine, and write every step to a file")
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="default: the first one")
    item.add_argument("--out", type=Path, metavar="PATH", help="PATH.csv (steps) or PATH.vcd (line levels)")
    item.add_argument("--force", action="store_true", help="replace an existing file")
    item.add_argument("--geometry", action="store_true", help="add where the tool is at each step to PATH.csv")
    item = verb("routine", "list the routines and their blocks in words, with their times")
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="only this one; with --json, the first one if left out")
    item = verb("check", "list the findings of a machine")
    item.add_argument("file", type=Path)
    item = verb("board", "run the stand-in board until interrupted")
    item.add_argument("--port", type=_port, default=0, help="on the loopback address; 0 takes a free one")
    item.add_argument(
        "--mechanics", type=Path, metavar="FILE.json", help="true scale, backlash, errors and noise of axes by name"
    )
    item = verb("run", "plan a routine and run it on a board")
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="default: the first one")
    item.add_argument("--board", metavar="ADDRESS", help="host:port; default: a stand-in of its own")
    _add_wiring(verb)
    _add_travel(verb)
    return parser


def _add_wiring(verb: Callable[[str, str], argparse.ArgumentParser]) -> None:
    """Add what is asked at the bench, before anything is planned."""
    item = verb("sequence", "tell what a table of coil words is")
    item.add_argument("rows", nargs="+", help="such as 1,3,2,6,4,12,8,9; 0x, 0b, or four digits ABCD, too")
    item.add_argument("--winding", choices=("unipolar", "bipolar"), default="unipolar")
    item = verb("windings", "find which wires of a motor belong together")
    item.add_argument("file", type=Path, metavar="READINGS.csv", help="from,to,ohm: a number, open or connected")
    item = verb("wires", "judge all orders in which an axis's coils can be plugged")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item = verb("symptoms", "tell what is wrong with an axis's drive from what its motor does")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("seen", nargs="+", help="such as wrong_way, shudders, dark_lamp; a wrong word lists all")
    item.add_argument("--moves", default="", metavar="SIGNS", help="which way it went at each step, such as ++0-.")
    item = verb("supplies", "tell what each supply must give, and what each motor turns into heat")
    item.add_argument("file", type=Path)


def _add_travel(verb: Callable[[str, str], argparse.ArgumentParser]) -> None:
    """Add what makes travel exact, true to the machine, and no faster than its motor."""
    item = verb("motor", "tell what the motor of an axis can do with its load")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("--margin", type=_margin, metavar="M", help="default: that of the axis, or 1.5")
    item = verb("ramp", "tell how an axis takes a distance, and whether its motor follows")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("distance", help="with or without a unit, such as 40, 90deg or 1.5rev")
    item.add_argument("--shape", choices=("none", "trapezoid", "s_curve", "torque"), help="default: that of the axis")
    item.add_argument("--margin", type=_margin, metavar="M", help="default: that of the axis, or 1.5")
    item.add_argument("--fastest", action="store_true", help="find the fastest limits that the motor surely follows")
    item = verb("follow", "simulate whether every motor follows a routine")
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="default: the first one")
    item = verb("divide", "divide a turn or a length into equal parts")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("parts", type=int, metavar="N")
    item = verb("calibrate", "find scale and lost motion from what was observed")
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("readings", type=Path, metavar="READINGS.csv", help="position,approach,observed")
    item.add_argument("--out", type=Path, metavar="NEW.kivant", help="write the machine with what was found")
    item.add_argument("--force", action="store_true", help="replace an existing file")


def _margin(text: str) -> float:
    margin = float(text)
    if not 1 <= margin <= 100:
        raise argparse.ArgumentTypeError("a margin is a number from 1 to 100")
    return margin


def _port(text: str) -> int:
    port = int(text)
    if not 0 <= port <= 65535:
        raise argparse.ArgumentTypeError("a port is a number from 0 to 65535")
    return port


def main(arguments: Sequence[str]) -> int:
    """Do what the arguments say and return the exit status; whatever the system refuses is told in a sentence."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # a name that it cannot hold is escaped
            stream.reconfigure(errors="backslashreplace")
    try:
        try:
            status = _obey(arguments)
        except SystemExit as ended:
            status = ended.code if isinstance(ended.code, int) else WRONG_USAGE
        if sys.stdout is not None:
            sys.stdout.flush()
    except (OSError, MemoryError) as error:
        sys.stdout = None  # what it still holds cannot be written
        if not isinstance(error, BrokenPipeError):  # else whoever read it has gone
            say(f"error: {_refusal(error)}")
        return 1
    return status


def _obey(arguments: Sequence[str]) -> int:
    options = make_parser().parse_args(arguments)
    try:
        status: int = importlib.import_module(f"kivant.cli.verbs.{options.verb}").run(options)
    except KivantError as error:
        return fail(error, as_json=options.json)
    except (OSError, MemoryError):  # told by whoever called
        raise
    except Exception as error:
        import traceback

        from kivant.app.internal_error import InternalError

        traceback.print_exc()
        return fail(InternalError(error), as_json=options.json)
    return status


def _refusal(error: OSError | MemoryError) -> str:
    if isinstance(error, MemoryError):
        from kivant.app.internal_error import NO_MEMORY

        return " ".join(NO_MEMORY)
    reason = error.strerror or str(error)
    if error.filename is not None:
        return f"{error.filename}: {reason}. Check the name and its folder's permissions."
    return f"The output cannot be written: {reason}. Send it elsewhere, or free some disk space."
