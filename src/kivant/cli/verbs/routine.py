"""``kivant routine``: the routines of a machine and their blocks, in words and with their times."""

from __future__ import annotations

import argparse

from kivant.app import summary
from kivant.app.planning.memory import available_bytes
from kivant.cli.say import print_json
from kivant.core.errors import Fault
from kivant.core.machine import Machine
from kivant.core.plan import Plan, PlanError, plan
from kivant.core.program.sentences import positions_words, units_of
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """List one routine, or all of them; raises `KivantError` where one cannot be planned."""
    machine = project.load(options.file)
    if options.json or options.routine is not None:
        made = plan(machine, options.routine, most_bytes=available_bytes(), trusted=True)
        if options.json:
            others = [routine.name for routine in machine.routines]
            print_json({"routines": others, **summary.routine_summary(made)})
        else:
            _print(made)
        return 0
    return _print_all(machine)


def _print_all(machine: Machine) -> int:
    """Print every routine; one that cannot be planned is told, and the others follow."""
    faults: list[Fault] = []
    for routine in machine.routines:
        try:
            _print(plan(machine, routine, most_bytes=available_bytes(), trusted=True))
        except PlanError as error:
            print(f"{routine.name}: cannot be planned")
            faults += error.faults
    if faults:
        raise PlanError(*faults)
    if not machine.routines:
        print("The machine has no routine yet.")
    return 0


def _print(made: Plan) -> None:
    print(f"{made.routine.name}: {made.duration:.6g} s")
    if made.routine.start:
        print(f"{'':>14}  begins with {positions_words(made.routine.start, units_of(made.machine))}")
    for block in summary.routine_summary(made)["blocks"]:
        depth = block["index"].count(".")
        name = f"{block['name']}: " if block["name"] else ""
        off = " (off)" if block["off"] else ""
        seconds = block["end_s"] - block["begin_s"]
        print(f"{block['begin_s']:>12.6f} s  {'  ' * depth}{name}{block['text']}{off}, {seconds:.6g} s")
