"""``kivant convert``: a position turned into steps."""

from __future__ import annotations

import argparse

from kivant.app import summary
from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Convert a value for an axis; raises `KivantError` where one of them cannot be used."""
    axis = find_axis(project.load(options.file), options.axis)
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
