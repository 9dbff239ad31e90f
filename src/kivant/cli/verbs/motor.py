"""``kivant motor``: what the motor of an axis can do with its load, and what limits it."""

from __future__ import annotations

import argparse

from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.motor.usable import Ability, ability
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Print it: for programs with the whole curve, for people in a few lines."""
    machine = project.load(options.file)
    axis = find_axis(machine, options.axis)
    found = ability(machine, axis, options.margin)
    if options.json:
        print_json(_summary(found))
        return 0
    unit = axis.unit
    print(f"current reverses within a step up to {found.drive.ceiling_full_steps_hz:.4g} full steps/s (V / 2LI)")
    print(f"holds {found.drive.held_nm:.3g} N m, load {found.load.worst_nm():.3g} N m, "
          f"inertia {found.load.inertia_kgm2:.3g} kg m², all at the rotor")  # fmt: skip
    print(f"with a margin of {found.margin:g}: up to {found.speed:.5g} {unit}/s, limited by the {found.limited_by}, "
          f"and {found.acceleration:.4g} {unit}/s²")  # fmt: skip
    if found.estimated:
        print(f"guessed, as the file does not say: {', '.join(found.estimated)}")
    return 0


def _summary(found: Ability) -> dict[str, object]:
    return {
        "ceiling_full_steps_hz": found.drive.ceiling_full_steps_hz,
        "curve": found.curve.tolist(),
        "holding_torque_nm": found.drive.held_nm,
        "load_torque_nm": found.load.worst_nm(),
        "inertia_kgm2": found.load.inertia_kgm2,
        "speed": found.speed,
        "acceleration": found.acceleration,
        "limited_by": found.limited_by,
        "estimated": list(found.estimated),
    }
