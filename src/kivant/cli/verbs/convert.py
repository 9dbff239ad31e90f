"""``kivant convert``: a position turned into steps."""

from __future__ import annotations

import argparse

from kivant.app import summary
from kivant.cli.say import print_json
from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Axis, Machine
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Convert a value for an axis; raises `KivantError` where one of them cannot be used."""
    axis = _find_axis(project.load(options.file), options.axis)
    found = convert(axis, parse_position(axis, options.value))
    if options.json:
        print_json(summary.conversion(axis, found))
        return 0
    exact = found.steps_exact
    print(f"{axis.name}: {float(found.position):.9g} {axis.unit} = {float(exact):.9g} steps")
    print(f"nearest step {found.steps}, reaches {float(found.actual):.9g} {axis.unit}", end=" ")
    print(f"(error {float(found.error):+.3g} {axis.unit})")
    print(f"steps per {axis.unit}: {summary.fraction_text(found.steps_per_unit)}")
    return 0


def _find_axis(machine: Machine, name: str) -> Axis:
    try:
        return machine.axis(name)
    except KeyError:
        known = ", ".join(axis.name for axis in machine.axes) or "no axes yet"
        raise KivantError(Fault("axes", f"There is no axis “{name}”.", f"The machine has {known}.")) from None
