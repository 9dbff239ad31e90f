"""``kivant ramp``: one move of an axis, its pieces, and whether its motor follows it."""

from __future__ import annotations

import argparse
from typing import Any

from msgspec.structs import replace

from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.machine.check import checked
from kivant.core.machine.parts import Machine, shape_of
from kivant.core.motion.plan import AxisPlan
from kivant.core.motion.trial import trial_move
from kivant.core.quantity import as_decimal, position
from kivant.core.ramps.candidates import Candidate, judged, with_axis
from kivant.core.ramps.fastest import changes, fastest_ramp
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Print it; the status is 1 if the simulated rotor does not follow."""
    machine = project.load(options.file)
    axis = find_axis(machine, options.axis)
    index = machine.axes.index(axis)
    limits = axis.limits if options.shape is None else replace(axis.limits, shape=options.shape)
    own = replace(axis, limits=limits, margin=axis.margin if options.margin is None else options.margin)
    distance = as_decimal(position(axis).parse(options.distance))
    reasons: tuple[str, ...] = ()
    if options.fastest:
        found = fastest_ramp(machine, index, distance, shape_of(limits), options.margin)
        reasons, own = found.reasons, replace(own, limits=found.limits)
    changed: Machine = checked(with_axis(machine, index, own))
    trial = trial_move(changed, index, distance)
    candidate = judged(trial, shape_of(own.limits))
    if options.json:
        found_limits = {"limits": changes(axis.limits, own.limits), "reasons": list(reasons)} if options.fastest else {}
        print_json(_summary(candidate, trial.axis, trial.begin_s) | found_limits)
        return 0 if candidate.motion.follows else 1
    for reason in reasons:
        print(reason)
    if options.fastest:
        told = ", ".join(f"{name} {value}" for name, value in changes(axis.limits, own.limits).items())
        print(f"limits to change: {told or 'none'}")
    print(_words(candidate, own.unit))
    return 0 if candidate.motion.follows else 1


def _summary(found: Candidate, planned: AxisPlan, begin_s: float) -> dict[str, Any]:
    return {
        "shape": found.kind,
        "duration_s": found.seconds,
        "peak_speed": found.peak_speed,
        "pieces": _pieces(planned, begin_s),
        "torque_ratio": found.demand.ratio,
        "follows": found.motion.follows,
        "slipped_full_steps": found.motion.slipped_full_steps,
    }


def _pieces(planned: AxisPlan, begin_s: float) -> list[dict[str, float]]:
    """Return the pieces of the ramp: times from the begin of the move, speeds in axis units/s without sign."""
    times, speeds, _rates = planned.train.course()
    ratio = float(planned.steps_per_unit)
    return [
        {
            "begin_s": begin - begin_s,
            "end_s": end - begin_s,
            "begin_speed": abs(first) / ratio,
            "end_speed": abs(last) / ratio,
        }
        for (begin, end), (first, last) in zip(times.tolist(), speeds.tolist(), strict=True)
    ]


def _words(found: Candidate, unit: str) -> str:
    motion = found.motion
    does = (
        f"the rotor follows, greatest lag {motion.greatest_lag_deg:.0f} deg electrical" if motion.follows else
        f"the rotor slips at {motion.first_slip_s or 0:.4g} s, by {motion.slipped_full_steps} full steps in all"
    )  # fmt: skip
    return (
        f"{found.kind}: {found.seconds:.4g} s, up to {found.peak_speed:.5g} {unit}/s, "
        f"needs {found.demand.ratio:.3g} of the torque; {does}"
    )
