"""The plan builder: lays a routine's blocks one behind the other in time, within every limit of the machine.

All blocks are laid at once, in columns: exact positions, the shares of the axes in each move, ramps, segments, waits,
and then the time at which each block begins.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from kivant.core.drive.drivers import driver_kind, switches_off
from kivant.core.errors import Fault, shown
from kivant.core.machine.check import faults_of, faults_of_routine, remember, remembered
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.program_rules import known
from kivant.core.machine.rules import place_of
from kivant.core.motion.axis_move import Cut, cut
from kivant.core.motion.clock import on_clock
from kivant.core.motion.layout import Layout, layout_of
from kivant.core.motion.lost_motion import NOTHING_TAKEN, Taken
from kivant.core.motion.plan import AxisPlan, Plan, PlanError, PlannedBlocks
from kivant.core.motion.rates import pauses_of
from kivant.core.motion.reach import beyond_limits, beyond_words, row_faults
from kivant.core.motion.routine import Commands, commands
from kivant.core.motion.row_ramps import row_ramps
from kivant.core.motion.segment import Reals, SegmentColumns, Wholes
from kivant.core.motion.speed_course import seconds_of
from kivant.core.motion.train import BYTES_PER_STEP, StepTrain
from kivant.core.motion.waits import waits
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.play import Play, play_of

LONGEST_S = 10**9
"""Longest plan, s: its nanoseconds still fit a 64-bit integer, some thirty years."""

LEAST_STANDING_S = 1e-3
"""How long the last step stands before power is taken away, s: less would not hold a rotor that has yet to arrive."""

_SAME_S = 1e-12  # of the time from the plan's start: what rounding makes of two ends that are one

MOST_BYTES = 8_000_000_000
"""Memory that the steps of a plan may take where nobody says otherwise."""


def _refuse_idle(machine: Machine) -> None:
    for index, axis in enumerate(machine.axes):
        obstacle = driver_kind(axis.driver).obstacle(axis.driver)
        if obstacle:
            place, remedy = axis_path(index, "driver", "sequence"), "Correct its rows, or choose another sequence."
            raise PlanError(Fault(place, obstacle, remedy))


def _refuse_impossible(machine: Machine, routine: Routine, place: Path, commanded: Commands) -> None:
    own = [*commanded.unreachable, *commanded.spins.faults]
    faults = [Fault(place / path, message, remedy) for path, message, remedy in row_faults(commanded, own)]
    beyond = [] if faults else beyond_limits(machine, routine, commanded)
    faults += (Fault(place / found.path, *beyond_words(machine, found)) for found in beyond)
    if faults:
        raise PlanError(*faults)


def _refuse_many(machine: Machine, place: Path, layout: Layout, most_bytes: int) -> None:
    steps = layout.moves.steps
    every = float(steps.sum(dtype=np.float64))  # may be beyond 64 bits
    needed = every * BYTES_PER_STEP
    if needed > most_bytes:
        message = (
            f"The plan would have {every:.3g} steps and take {needed / 1e9:.3g} GB of memory; "
            f"{most_bytes / 1e9:.3g} GB may be used."
        )
        most = machine.axes[int(np.argmax(np.bincount(layout.moves.axis, steps)))].name
        raise PlanError(Fault(place, message, f"Shorten the moves of {most}, or split the routine."))


def _refuse_long(end_s: Reals, place: Path, commanded: Commands, origin: Wholes) -> None:
    """Refuse a plan by when its rows end; the place is that of the block in which it becomes too long."""
    if len(end_s) and end_s[-1] > LONGEST_S:
        years = 365.25 * 86400
        message = f"The plan would take {end_s[-1] / years:.3g} years; the limit is {LONGEST_S / years:.0f}."
        where = place / commanded.places.path(int(origin[np.searchsorted(end_s, LONGEST_S, "right")]))
        raise PlanError(Fault(where, message, "Raise the speeds and accelerations, or shorten the routine."))


def _waits(machine: Machine, layout: Layout, pieces: Cut, begin_s: Reals) -> dict[int, float]:
    """Return how long to wait before which rows, s."""
    _leads, setups_s, gaps_s = np.array([pauses_of(machine, axis) for axis in machine.axes]).reshape(-1, 3).T
    return waits(layout.moves, pieces, layout.heads[layout.rows], begin_s[layout.rows], gaps_s, setups_s)


def _trains(layout: Layout, pieces: Cut, begin_s: Reals, end_s: Reals) -> list[StepTrain]:
    segments, row = pieces.segments, layout.rows[layout.moves.move[pieces.owner]]
    shift = begin_s[row]
    segments = segments._replace(begin_s=segments.begin_s + shift, end_s=segments.end_s + shift)
    # The end of a block and that of its last piece are one number, however the sums were rounded.
    ends = end_s[row]
    same = np.abs(segments.end_s - ends) <= _SAME_S * np.maximum(ends, 1.0)  # others may move for longer
    np.copyto(segments.end_s, ends, where=same & pieces.last)
    axis = layout.moves.axis[pieces.owner]
    bounds = axis.searchsorted(np.arange(len(layout.ends) + 1)).tolist()
    every = int(pieces.counts.sum())
    steps = [int(segments.first[bound]) if bound < len(axis) else every for bound in bounds]
    found = []
    asides = [(int(offset[0]), int(offset[-1])) for offset in layout.loose.offsets]
    parts = zip(layout.ends, asides, pairwise(bounds), pairwise(steps), strict=True)
    for (start, end), aside, (low, high), (before, after) in parts:
        own: SegmentColumns = SegmentColumns._make(column[low:high] for column in segments)
        own.first[:] -= before  # of the axis, no longer of all
        own.base[:] -= before
        found.append(StepTrain(start, end, own, after - before, aside))
    return found


def _taken(layout: Layout, begin_s: Reals, end_s: Reals, plays: Sequence[Play]) -> list[Taken]:
    """Return when each axis takes up its play: in rows of its own, and within lines of a tool."""
    if not any(play.steps for play in plays):
        return [NOTHING_TAKEN] * len(plays)
    found = []
    first = len(layout.rows) - len(layout.spins)
    owners = layout.moves.axis[layout.moves.move >= first]  # in the order of the shares
    within: list[list[tuple[float, float]]] = [[] for _ in plays]
    for row, axis, share in zip(layout.rows[first:].tolist(), owners.tolist(), layout.spins, strict=True):
        if not share.way:
            begin = float(begin_s[row]) + share.begin_s
            within[axis].append((begin, begin + seconds_of(share.pieces)))
    for own, inside, offsets, play in zip(layout.loose.reversals, within, layout.loose.offsets, plays, strict=True):
        times = np.sort(np.concatenate((np.stack((begin_s[own], end_s[own])), np.reshape(inside, (-1, 2)).T), axis=1))
        changes = np.concatenate((offsets[:1], offsets[1:][np.diff(offsets) != 0]))
        senses = play.first + 2 * changes // play.steps if play.steps else np.ones(1, np.int64)
        found.append(Taken(times[0], times[1], changes, senses))
    return found


def _stands_until(axis: AxisPlan) -> float:
    """Return how long an axis must stay powered, s: its last step stands as long as its shortest one."""
    if not axis.steps or not switches_off(axis.axis.driver):
        return 0.0
    return axis.train.instant(axis.steps - 1) + max(1 / axis.peak_pulse_hz, LEAST_STANDING_S)


def _find_routine(machine: Machine, routine: str | Routine | None) -> Routine:
    if isinstance(routine, Routine):
        return routine
    if not machine.routines:
        raise PlanError(Fault("routines", "The machine has no routine to plan.", "Add one to the project file."))
    if routine is None:
        return machine.routines[0]
    try:
        return machine.routine(routine)
    except KeyError:
        names = known(f"“{r.name}”" for r in machine.routines)
        fault = Fault("routines", f"There is no routine “{shown(routine)}”.", f"Use one of {names}.")
        raise PlanError(fault) from None


def plan(
    machine: Machine,
    routine: str | Routine | None = None,
    *,
    most_bytes: int = MOST_BYTES,
    trusted: bool = False,
    senses: Mapping[str, int] | None = None,
    checkpoint: Callable[[], None] = lambda: None,
) -> Plan:
    """Return the plan of a routine: the fastest within every limit of the machine.

    Parameters
    ----------
    machine : Machine
    routine : str, Routine or None
        A routine of the machine by name, any routine for this machine, or its first one.
    most_bytes : int, optional
        Refuse a plan whose steps take more memory.
    trusted : bool, optional
        Machine and routine were read from a file or made by edits, which have checked them: that is not done again.
    senses : mapping, optional
        In which direction (1 or -1) axes have taken up their play at the beginning, by name; those that are not named
        have it as their calibration says.
    checkpoint : callable, optional
        Called before every block; what it raises ends the planning.

    Raises
    ------
    PlanError
        If there is no such routine, the machine or the routine is not what a project file could hold, a position
        lies outside an axis's limits or beyond 1e15 steps, there are too many steps, or the plan would take more
        than 1e9 s.
    """
    chosen = _find_routine(machine, routine)
    if not trusted and not remembered(machine, chosen):
        faults = [*faults_of(replace(machine, routines=())), *faults_of_routine(machine, chosen)]
        if faults:
            raise PlanError(*faults)
        remember(machine, chosen)
    _refuse_idle(machine)
    place, ratios = place_of(machine, chosen), [steps_per_unit(axis) for axis in machine.axes]
    commanded = commands(machine, chosen, checkpoint)
    _refuse_impossible(machine, chosen, place, commanded)
    layout = layout_of(machine, place, ratios, commanded, senses or {})
    loose = layout.loose
    _refuse_many(machine, place, layout, most_bytes)
    checkpoint()
    ramps = row_ramps(machine, layout, commanded)
    pieces = cut(layout.moves, ramps)
    durations = layout.spread(commanded.rests.rows, commanded.rests.values, 0.0)
    durations[loose.own[list(commanded.spins.seconds)]] = list(commanded.spins.seconds.values())
    moved = len(layout.rows) - len(layout.spins)  # the time of a spin is its own, whatever its axes do in it
    np.maximum.at(durations, layout.rows[:moved], ramps.durations_s[:moved])
    checkpoint()
    lead_in = max((pauses_of(machine, axis).lead_s for axis in machine.axes), default=0.0)
    _refuse_long(lead_in + np.add.accumulate(durations), place, commanded, loose.origin)
    begin, end = on_clock(lead_in, durations, {})
    if waited := _waits(machine, layout, pieces, begin):
        begin, end = on_clock(lead_in, durations, waited)
    _refuse_long(end, place, commanded, loose.origin)
    clock = float(end[-1]) if len(end) else lead_in
    braking = end.copy()
    braking[layout.rows] = begin[layout.rows]
    np.maximum.at(braking, layout.rows, begin[layout.rows] + ramps.braking_s)
    taken = _taken(layout, begin, end, [play_of(axis) for axis in machine.axes])
    parts = zip(machine.axes, ratios, _trains(layout, pieces, begin, end), taken, strict=True)
    axes = tuple(AxisPlan(*part) for part in parts)
    duration = max([clock, *map(_stands_until, axes)])
    first = np.zeros(len(loose.own), np.int64)  # a block begins with what it makes an axis take up
    first[1:] = loose.own[:-1] + 1
    blocks = PlannedBlocks(commanded.places, begin[first], end[loose.own], braking[loose.own], lead_in)
    return Plan(machine, chosen, lead_in, duration, blocks, axes)
