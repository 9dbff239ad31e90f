"""``kivant plan``: a routine planned, and every step of it written to a file."""

from __future__ import annotations

import argparse
from pathlib import Path

from kivant.app import export as exporting
from kivant.app import summary
from kivant.app.planning.memory import available_bytes
from kivant.cli.say import WRONG_USAGE, fail, print_json, say, show_findings
from kivant.core.errors import Fault, printable
from kivant.core.findings.checks import all_findings
from kivant.core.findings.finding import Finding, errors_in
from kivant.core.machine import Machine
from kivant.core.plan import Plan, PlanError, plan
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Plan a routine and tell what comes of it; raises `KivantError` where that cannot be done."""
    if options.out is not None and options.out.suffix.lower() not in exporting.WRITERS:
        say(f"kivant plan: --out ends in .csv or .vcd, not as in “{options.out}”")
        return WRONG_USAGE
    if options.geometry and options.out is None:
        say("kivant plan: --geometry adds to a file: give --out PATH.csv")
        return WRONG_USAGE
    machine = project.load(options.file)
    try:
        made = plan(machine, options.routine, most_bytes=available_bytes())
    except PlanError as error:
        return fail(error, as_json=options.json, findings=errors_in(_findings(machine, options.routine)))
    found = _findings(machine, made.routine.name)
    if errors_in(found):
        raise PlanError(*(Fault(f.place, f.message, f.remedy) for f in errors_in(found)))
    if options.out is not None:
        exporting.export(made, options.out, replace=options.force, geometry=options.geometry)
    if options.json:
        print_json(summary.plan_summary(made, found))
    else:
        _print_plan(made, options.out)
        show_findings(found)
    return 0


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
        print(f"written to {printable(str(out))}")
