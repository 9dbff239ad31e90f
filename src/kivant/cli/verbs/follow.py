"""``kivant follow``: whether the motors of a machine follow a routine, by simulating every rotor."""

from __future__ import annotations

import argparse
from typing import Any

from kivant.cli.say import print_json
from kivant.core.motor.following import follow
from kivant.core.plan import plan
from kivant.core.travel.sense import rotor_sense
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Print what each rotor does; the status is 1 if one does not follow."""
    made = plan(project.load(options.file), options.routine)
    rows: list[dict[str, Any]] = []
    for planned in made.axes:
        motion = follow(made.machine, planned)
        rows.append({
            "name": planned.name, "follows": motion.follows, "slipped_full_steps": motion.slipped_full_steps,
            "first_slip_s": motion.first_slip_s, "greatest_lag_deg": motion.greatest_lag_deg,
            "final_full_steps": rotor_sense(planned.axis) * motion.final_full_steps,
        })  # fmt: skip
    if options.json:
        print_json({"axes": rows})
    else:
        for row in rows:
            print(f"{row['name']}: {_words(row)}")
    return 0 if all(row["follows"] for row in rows) else 1


def _words(row: dict[str, Any]) -> str:
    lag = f"greatest lag {row['greatest_lag_deg']:.0f} deg electrical"
    if row["follows"]:
        return f"follows, {lag}, ends at full step {row['final_full_steps']:g}"
    return f"slips at {row['first_slip_s']:.4g} s, by {row['slipped_full_steps']} full steps in all"
