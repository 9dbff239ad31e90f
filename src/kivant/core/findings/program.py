"""Findings about programs: blocks that do nothing, repeats that run into themselves, and what costs the most time."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from typing import Any

from msgspec.structs import replace

from kivant.core.findings.checked_routine import CheckedRoutine
from kivant.core.findings.kind import Case, Edit, FindingKind, figure
from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Call, Pause, Repeat, block_kind
from kivant.core.motion.commanded import Commands
from kivant.core.motion.row_count import RowCounter
from kivant.core.path import Path
from kivant.core.program.editing import insert_blocks, place_of_path, remove_blocks, replace_block
from kivant.core.program.holder import Limit, limit_words

_COSTS = 1 / 3
"""Share of a routine's time that one limit of one axis must cost to be worth telling."""
_PAUSE_S = 0.2
_MOST_ROWS = 100_000  # in a longer program, what single blocks do is not gone through


def _ways(commanded: Commands, axis: int) -> Iterator[tuple[int, int]]:
    """Yield the rows in which an axis goes anywhere, with the sense of each."""
    for row, before, after in commanded.axes[axis].goes():
        if before != after:
            yield row, 1 if after > before else -1


def _idle(checked: CheckedRoutine) -> Iterator[Case]:
    machine, commanded = checked.machine, checked.commanded
    own, counter = commanded.places, RowCounter(machine)
    if len(own) > _MOST_ROWS:
        return
    rests = dict(zip(commanded.rests.rows, commanded.rests.values, strict=True))
    moving = {row for axis in range(len(machine.axes)) for row, _sense in _ways(commanded, axis)}
    busy = {own.of[row] for row in (*moving, *(row for row, seconds in rests.items() if seconds), *commanded.spun)}
    for entry in own.shown():
        block = own.blocks[entry]
        where = checked.place / own.entry_path(entry)
        if block.off or block.do == "note":
            continue
        if isinstance(block, Repeat | Call):
            if not counter.of(block):
                calls = f"calls “{getattr(block, 'routine', '')}”, which does nothing"
                yield Case(where, {"why": "holds nothing" if isinstance(block, Repeat) else calls})
        elif own.end[entry] > own.first[entry] and entry not in busy:
            why = "lasts no time" if isinstance(block, Pause) else "goes to where its axes already are"
            yield Case(where, {"why": why})


def _removed(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        assert place.routine is not None
        return remove_blocks(place.routine, [place_of_path(place)])(machine)

    return edit


def _runs_on(checked: CheckedRoutine) -> Iterator[Case]:
    machine, commanded, place = checked.machine, checked.commanded, checked.place
    own = commanded.places
    repeats = [e for e in own.shown() if isinstance(own.blocks[e], Repeat) and own.end[e] > own.first[e]]
    if not repeats or len(own) > _MOST_ROWS:
        return
    rests = {row for row, seconds in zip(commanded.rests.rows, commanded.rests.values, strict=True) if seconds}
    ways = [dict(_ways(commanded, axis)) for axis in range(len(machine.axes))]
    for entry in repeats:
        block = own.blocks[entry]
        assert isinstance(block, Repeat)
        first, period = own.first[entry], (own.end[entry] - own.first[entry]) // block.times
        if block.times == 1 or not rests & set(range(first, first + period)):
            continue  # where nothing pauses at all, none was forgotten
        body = range(first, first + period)
        for axis, senses in enumerate(ways):
            rows = [row for row in body if row in senses]
            if rows and _turns_at_seam(senses, rows, body, rests):
                yield Case(place / own.entry_path(entry), {"axis": machine.axes[axis].name, "times": str(block.times)})
                break


def _turns_at_seam(senses: dict[int, int], rows: list[int], body: range, rests: set[int]) -> bool:
    """Return whether an axis ends a turn one way and begins the next the other way, with no rest at the seam alone."""

    def turns(before: int, after: int, between: set[int]) -> bool:
        return senses[before] != senses[after] and not rests & between

    seam = set(range(rows[-1] + 1, body.stop)) | set(range(body.start, rows[0]))
    inside = any(turns(a, b, set(range(a + 1, b))) for a, b in pairwise(rows))
    return turns(rows[-1], rows[0], seam) and not inside


def _with_pause(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        block = place.look_up(machine)
        at = (*place_of_path(place), len(block_kind(block).inside(block)))
        assert place.routine is not None
        return insert_blocks(place.routine, at, [Pause(seconds=_PAUSE_S)])(machine)

    return edit


def _held(checked: CheckedRoutine) -> Iterator[Case]:
    machine, commanded, found = checked.machine, checked.commanded, checked.held
    spun = sum(seconds for row, seconds in commanded.spins.seconds.items() if row not in commanded.lines)
    whole = sum(one.seconds * one.turns for one in found) + sum(commanded.rests.values) + spun
    costs: dict[tuple[int, Limit], float] = {}
    for one in found:
        if one.limit is not None and one.axis is not None and one.axes > 1:  # an axis by itself keeps nobody waiting
            costs[one.axis, one.limit] = costs.get((one.axis, one.limit), 0.0) + one.saved_s * one.turns
    for (axis, limit), seconds in costs.items():
        if seconds > _COSTS * whole:
            yield Case(checked.place, {
                "axis": machine.axes[axis].name, "limit": limit_words(machine, axis, limit),
                "seconds": f"{seconds:.3g}", "whole": f"{whole:.3g}",
            })  # fmt: skip


def _short(checked: CheckedRoutine) -> Iterator[Case]:
    machine, own = checked.machine, checked.commanded.places
    told: dict[int, list[tuple[int, float]]] = {}
    for one in checked.held:
        for axis, way in one.needed.items():
            told.setdefault(axis, []).append((one.entry, way))
    for axis, blocks in told.items():
        entry, way = blocks[0]
        if not all(needed for _entry, needed in blocks):
            continue
        others = len(blocks) - 1
        more = f", nor in {others} other blocks" if others > 1 else ", nor in another block" if others else ""
        figures = {
            "axis": machine.axes[axis].name, "unit": machine.axes[axis].unit, "needed": f"{way:.3g}", "more": more,
            "speed": figure(machine.axes[axis].limits.speed),
        }  # fmt: skip
        yield Case(checked.place / own.entry_path(entry), figures)


def _singular(checked: CheckedRoutine) -> Iterator[Case]:
    commanded, place = checked.commanded, checked.place
    told: set[int] = set()
    for row, share, where in commanded.slowed:
        entry = commanded.places.of[row]
        if entry not in told:
            told.add(entry)
            slows = f"slows down to {100 * share:.0f} % of its usual speed" if share else "stops"
            yield Case(place / commanded.places.entry_path(entry), {"where": where, "slows": slows})


def _around(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        assert place.routine is not None
        block: Any = place.look_up(machine)
        return replace_block(place.routine, place_of_path(place), replace(block, straight=None, tolerance=None))(
            machine
        )

    return edit


def _pose_beyond(machine: Machine) -> Iterator[Case]:
    axes = {axis.name: axis for axis in machine.axes}
    for index, pose in enumerate(machine.poses or ()):
        for name, position in pose.at.items():
            limits = axes[name].limits
            for side, bound in (("min", limits.min), ("max", limits.max)):
                if bound is not None and (position < bound if side == "min" else position > bound):
                    figures = {
                        "pose": pose.name, "axis": name, "unit": axes[name].unit, "side": side,
                        "position": figure(Fraction(position)), "bound": figure(Fraction(bound)),
                    }  # fmt: skip
                    yield Case(Path(("poses", index, "at", name)), figures)


def _at_the_bound(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        index, name = int(place[1]), str(place[3])
        pose = (machine.poses or ())[index]
        limits = machine.axis(name).limits
        position = pose.at[name]
        if limits.max is not None:
            position = min(position, limits.max)
        if limits.min is not None:
            position = max(position, limits.min)
        poses = list(machine.poses or ())
        poses[index] = replace(pose, at={**pose.at, name: position})
        return replace(machine, poses=tuple(poses))

    return edit


BLOCK_WITHOUT_EFFECT = FindingKind(
    code="block-without-effect",
    severity="note",
    subject="routine",
    title="A block does nothing.",
    check=_idle,
    message="This block {why}: it has no effect.",
    remedy="Delete it, or change it.",
    mend=_removed,
)

REPEAT_WITHOUT_PAUSE = FindingKind(
    code="repeat-without-pause",
    severity="warning",
    subject="routine",
    title="The end of a repeat runs into its beginning in the opposite direction.",
    check=_runs_on,
    message="{axis} ends each of {times} turns one way and begins the next the other way, with no pause between them, "
    "though it pauses elsewhere.",
    remedy="Put a pause at the end of the repeat.",
    mend=_with_pause,
)

AXIS_HOLDS_BACK = FindingKind(
    code="axis-holds-back",
    severity="note",
    subject="routine",
    title="One limit of one axis costs others more than a third of a routine's time.",
    check=_held,
    message="Without {axis}'s {limit} this routine would take {seconds} s less of its {whole} s.",
    remedy="See at Ramp and Motor whether {axis} can do more.",
)

NEVER_REACHES_SPEED = FindingKind(
    code="never-reaches-speed",
    severity="note",
    subject="routine",
    title="Moves are too short for the wished speed of an axis.",
    check=_short,
    message="{axis} never gets to its {speed} {unit}/s, not here{more}: for that it would need {needed} {unit}.",
    remedy="Nothing is wrong with that; more speed would save no time here, more acceleration would.",
)

SINGULAR = FindingKind(
    code="singular",
    severity="note",
    subject="routine",
    title="A straight line of the tool comes near a place where it has to slow down, or to stop.",
    check=_singular,
    message="On this line the tool {slows}, near {where}: an axis has to go far there for a short way.",
    remedy="Route the line past that place, or go there without “straight”.",
    mend=_around,
)

POSE_UNREACHABLE = FindingKind(
    code="pose-unreachable",
    severity="warning",
    subject="machine",
    title="A pose lies beyond the limits of an axis.",
    check=_pose_beyond,
    message="In the pose “{pose}”, {axis} is at {position} {unit}, beyond its {side} of {bound}.",
    remedy="Keep the pose within the limits, or change the limits.",
    mend=_at_the_bound,
)
