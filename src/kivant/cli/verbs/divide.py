"""``kivant divide``: equal parts of a turn or a length, and what steps make of each."""

from __future__ import annotations

import argparse

from kivant.app.summary import fraction_text
from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.travel.dividing import divide, drift
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Divide; raises `KivantError` where the axis or the number cannot be used."""
    axis = find_axis(project.load(options.file), options.axis)
    found = divide(axis, options.parts)
    if options.json:
        listed = [{"position": fraction_text(d.position), "steps": d.steps, "error": float(d.error)} for d in found]
        print_json({"positions": listed})
        return 0
    for number, part in enumerate(found):
        print(f"{number:>5}  {float(part.position):12.9g} {axis.unit}  step {part.steps:>9}  "
              f"error {float(part.error):+.3g} {axis.unit}")  # fmt: skip
    off = float(drift(axis, found, 1))
    print(f"each way rounded by itself would be {off:+.3g} {axis.unit} off after a round; Kivant is never more than "
          f"{max(abs(float(part.error)) for part in found):.3g} {axis.unit} off")  # fmt: skip
    return 0
