"""Results as plain data, in the keys that the command line prints as JSON."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING, Any

from msgspec.structs import asdict

if TYPE_CHECKING:
    from kivant.core.errors import Fault
    from kivant.core.findings.finding import Finding
    from kivant.core.machine import Axis
    from kivant.core.motion.plan import Plan
    from kivant.core.path import Path
    from kivant.core.travel.conversion import Conversion


def fraction_text(value: Fraction) -> str:
    """Return an exact number as ``p/q``."""
    return f"{value.numerator}/{value.denominator}"


def conversion(axis: Axis, found: Conversion) -> dict[str, Any]:
    """Return what `kivant convert` prints."""
    return {
        "axis": axis.name,
        "unit": axis.unit,
        "position": float(found.position),
        "steps_per_unit": fraction_text(found.steps_per_unit),
        "steps_exact": fraction_text(found.steps_exact),
        "steps": found.steps,
        "actual": float(found.actual),
        "error": float(found.error),
    }


def findings(found: tuple[Finding, ...]) -> list[dict[str, str]]:
    """Return findings as `kivant check` prints them."""
    keys = ("code", "severity", "place", "message", "remedy")
    return [{key: str(getattr(finding, key)) for key in keys} for finding in found]


def faults(found: tuple[Fault, ...]) -> list[dict[str, str]]:
    """Return the faults of an error."""
    return [{**asdict(fault), "place": str(fault.place)} for fault in found]


def plan_summary(plan: Plan, found: tuple[Finding, ...]) -> dict[str, Any]:
    """Return what `kivant plan` prints."""
    return {
        "routine": plan.routine.name,
        "duration_s": plan.duration,
        "axes": [
            {
                "name": axis.name,
                "steps": axis.steps,
                "final_steps": axis.final_steps,
                "final_position": axis.final_position,
                "peak_speed": axis.peak_speed,
                "peak_acceleration": axis.peak_acceleration,
                "peak_pulse_hz": axis.peak_pulse_hz,
            }
            for axis in plan.axes
        ],
        "findings": findings(found),
    }


def routine_summary(plan: Plan) -> dict[str, Any]:
    """Return what `kivant routine` prints."""
    from kivant.core.program.sentences import sentence, units_of

    units, listed = units_of(plan.machine), plan.blocks.listed
    blocks = [(listed.path(index), listed.block(index)) for index in range(len(listed.begin_s))]
    times = zip(listed.begin_s.tolist(), listed.end_s.tolist(), strict=True)
    return {
        "routine": plan.routine.name,
        "duration_s": plan.duration,
        "blocks": [
            {
                "index": block_index(path),
                "text": sentence(block, units),
                "name": block.name,
                "off": bool(block.off),
                "begin_s": begin,
                "end_s": end,
            }
            for (path, block), (begin, end) in zip(blocks, times, strict=True)
        ],
    }


def block_index(path: Path) -> str:
    """Return the place of a block in its routine, as numbers from 0: ``2.0.1``."""
    return ".".join(str(part) for part in path if isinstance(part, int))
