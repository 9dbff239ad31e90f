"""The verbs of the command line: what they take, and which function does each."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from kivant import __version__
from kivant.app import export as exporting
from kivant.app import summary
from kivant.app.planning.memory import available_bytes
from kivant.cli import running
from kivant.cli.say import fail, say, show_findings
from kivant.core.errors import Fault, KivantError
from kivant.core.findings import Finding, all_findings, errors_in
from kivant.core.machine import Axis, Machine
from kivant.core.plan import Plan, PlanError, plan
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert
from kivant.files import project

DONE, FAULTY, WRONG_USAGE = 0, 1, 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        hint = ""
        if "unrecognized arguments: -" in message or "required" in message:
            hint = "\nA value that begins with a minus sign goes after --, as in: kivant convert FILE AXIS -- -90deg"
        self.print_usage(sys.stderr)
        self.exit(WRONG_USAGE, f"{self.prog}: {message}{hint}\n")


def make_parser() -> argparse.ArgumentParser:
    """Return the parser of all verbs; each leaves the function that does it under ``run``."""
    parser = _Parser(
        prog="kivant",
        description="A desktop workbench for stepper motors. "
        "Without a verb, kivant [FILE] opens the window; kivant --demo opens it with the demo machine.",
    )
    parser.add_argument("--version", action="version", version=f"kivant {__version__}")
    verbs = parser.add_subparsers(dest="verb", required=True, metavar="VERB", parser_class=_Parser)

    def verb(name: str, text: str, run: Callable[[argparse.Namespace], int]) -> argparse.ArgumentParser:
        found = verbs.add_parser(name, help=text, description=text[0].upper() + text[1:] + ".")
        found.add_argument("--json", action="store_true", help="print one JSON object and nothing else")
        found.set_defaults(run=run)
        return found

    verb("schema", "print the JSON Schema of the project file", _schema)
    item = verb("convert", "turn a position into steps", _convert)
    item.add_argument("file", type=Path)
    item.add_argument("axis")
    item.add_argument("value", help="such as 90deg, 0.25rev, 12.5mm, 0.5in, 400steps; -- before a negative one")
    item = verb("plan", "plan a routine, and write every step to a file", _plan)
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="default: the first one")
    item.add_argument("--out", type=Path, metavar="PATH", help="PATH.csv (steps) or PATH.vcd (line levels)")
    item.add_argument("--force", action="store_true", help="replace an existing file")
    item = verb("check", "list the findings of a machine", _check)
    item.add_argument("file", type=Path)
    item = verb("board", "run the stand-in board until interrupted", running.board)
    item.add_argument("--port", type=_port, default=0, help="on the loopback address; 0 takes a free one")
    item = verb("run", "plan a routine and run it on a board", running.run)
    item.add_argument("file", type=Path)
    item.add_argument("--routine", metavar="NAME", help="default: the first one")
    item.add_argument("--board", metavar="ADDRESS", help="host:port; default: a stand-in of its own")
    return parser


def _port(text: str) -> int:
    port = int(text)
    if not 0 <= port <= 65535:
        raise argparse.ArgumentTypeError("a port is a number from 0 to 65535")
    return port


def main(arguments: Sequence[str]) -> int:
    """Do what the arguments say and return the exit status."""
    options = make_parser().parse_args(arguments)
    try:
        status: int = options.run(options)
    except KivantError as error:
        return fail(error, as_json=options.json)
    except BrokenPipeError:  # whoever read our output has gone
        sys.stdout = None
        return FAULTY
    return status


def print_json(value: Any) -> None:
    """Print one JSON object."""
    print(json.dumps(value, indent=2, ensure_ascii=False))


def _schema(_options: argparse.Namespace) -> int:
    print_json(project.schema())
    return DONE


def _find_axis(machine: Machine, name: str) -> Axis:
    try:
        return machine.axis(name)
    except KeyError:
        known = ", ".join(axis.name for axis in machine.axes) or "no axes yet"
        raise KivantError(Fault("axes", f"There is no axis “{name}”.", f"The machine has {known}.")) from None


def _convert(options: argparse.Namespace) -> int:
    axis = _find_axis(project.load(options.file), options.axis)
    found = convert(axis, parse_position(axis, options.value))
    if options.json:
        print_json(summary.conversion(axis, found))
        return DONE
    exact = found.steps_exact
    print(f"{axis.name}: {float(found.position):.9g} {axis.unit} = {float(exact):.9g} steps")
    print(f"nearest step {found.steps}, reaches {float(found.actual):.9g} {axis.unit}", end=" ")
    print(f"(error {float(found.error):+.3g} {axis.unit})")
    print(f"steps per {axis.unit}: {summary.fraction_text(found.steps_per_unit)}")
    return DONE


def _plan(options: argparse.Namespace) -> int:
    if options.out is not None and options.out.suffix.lower() not in exporting.WRITERS:
        say(f"kivant plan: --out ends in .csv or .vcd, not as in “{options.out}”")
        return WRONG_USAGE
    machine = project.load(options.file)
    try:
        made = plan(machine, options.routine, most_bytes=available_bytes(), trusted=True)
    except PlanError as error:
        return fail(error, as_json=options.json, findings=errors_in(_findings(machine, options.routine)))
    found = _findings(machine, made.routine.name)
    if errors_in(found):
        raise PlanError(*(Fault(f.place, f.message, f.remedy) for f in errors_in(found)))
    if options.out is not None:
        exporting.export(made, options.out, replace=options.force)
    if options.json:
        print_json(summary.plan_summary(made, found))
    else:
        _print_plan(made, options.out)
        show_findings(found)
    return DONE


def _findings(machine: Machine, routine: str | None) -> tuple[Finding, ...]:
    """Return what was found about the machine and one of its routines (None: the first)."""
    names = [known.name for known in machine.routines]
    own = names.index(routine) if routine in names else 0
    return tuple(f for f in all_findings(machine) if f.place.routine in (None, own))


def _print_plan(made: Plan, out: Path | None) -> None:
    print(f"{made.routine.name}: {made.duration:.6f} s")
    width = max((len(axis.name) for axis in made.axes), default=0)
    for axis in made.axes:
        unit = axis.axis.unit
        print(
            f"  {axis.name:<{width}}  {axis.steps:>9} steps, ends at {axis.final_position:.6g} {unit} "
            f"(step {axis.final_steps}), peak {axis.peak_speed:.6g} {unit}/s, {axis.peak_pulse_hz:.6g} steps/s"
        )
    if out is not None:
        print(f"written to {out}")


def _check(options: argparse.Namespace) -> int:
    found = all_findings(project.load(options.file))
    if options.json:
        print_json({"findings": summary.findings(found)})
    else:
        for finding in found:
            print(f"{finding.severity}: {finding.place}: {finding.message} {finding.remedy} [{finding.code}]")
        if not found:
            print("no problems found")
    return FAULTY if any(f.severity == "error" for f in found) else DONE
