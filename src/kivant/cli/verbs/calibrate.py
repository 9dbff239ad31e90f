"""``kivant calibrate``: scale, lost motion and periodic errors from what was observed."""

from __future__ import annotations

import argparse
from datetime import date
from typing import Any

from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.errors import Fault, KivantError
from kivant.core.machine.calibrations import apply_fit
from kivant.core.travel.calibrating import Fit, fit, verdict
from kivant.files import project
from kivant.files.observations import load_observations


def run(options: argparse.Namespace) -> int:
    """Fit; raises `KivantError` with the reason where it cannot be told."""
    machine = project.load(options.file)
    axis = find_axis(machine, options.axis)
    found = fit(axis, load_observations(axis, options.readings))
    said = verdict(axis, found)
    if options.out is not None:
        if options.out.exists() and not options.force:
            fault = Fault(str(options.out), "A file with this name exists.", "Choose another one, or add --force.")
            raise KivantError(fault)
        index = [other.name for other in machine.axes].index(axis.name)
        project.save(apply_fit(index, found, date.today().isoformat())(machine), options.out)
    if options.json:
        print_json({**_summary(found), "verdict": said})
    else:
        print(said)
        print(f"scale {found.scale:.7g} ± {found.scale_se:.2g}, offset {found.offset:.5g} ± {found.offset_se:.2g} "
              f"{axis.unit}, residual {found.residual:.3g} {axis.unit}, {found.readings} readings")  # fmt: skip
    return 0


def _summary(found: Fit) -> dict[str, Any]:
    names = ("scale", "scale_se", "offset", "offset_se", "backlash", "backlash_se")
    periodic = [
        {"shaft": p.shaft, "amplitude": p.amplitude, "amplitude_se": p.amplitude_se, "phase_deg": p.phase_deg}
        for p in found.periodic
    ]
    # A negative scale: readings fall where positions rise.
    return {name: getattr(found, name) for name in names} | {
        "scale": found.sense * found.scale,
        "periodic": periodic,
        "residual": found.residual,
        "outliers": list(found.outliers),
    }
