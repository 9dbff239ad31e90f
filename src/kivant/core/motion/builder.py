"""The plan builder: lays a routine's blocks one behind the other in time, within every limit of the machine.

All blocks are laid at once, in columns: exact positions, the shares of the axes in each move, ramps, segments, waits,
and then the time at which each block begins.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from itertools import pairwise, repeat

import numpy as np
from msgspec.structs import replace

from kivant.core.errors import Fault, shown
from kivant.core.machine.check import faults_of, faults_of_routine, remember, remembered
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.program_rules import known
from kivant.core.machine.rules import place_of
from kivant.core.motion.abilities import abilities_of
from kivant.core.motion.clock import on_clock
from kivant.core.motion.commanded import Commands
from kivant.core.motion.layout import Layout, layout_of
from kivant.core.motion.lost_motion import NOTHING_TAKEN, Taken
from kivant.core.motion.plan import AxisPlan, Plan, PlanError, PlannedBlocks
from kivant.core.motion.reach import beyond_limits, beyond_words, row_faults
from kivant.core.motion.routine import commands
from kivant.core.motion.row_ramps import row_ramps
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.speed_course import seconds_of
from kivant.core.motion.train import BYTES_PER_STEP
from kivant.core.motion.trains import Uncut, trains_of
from kivant.core.motion.waits import waits
from kivant.core.travel.play import Sense

LONGEST_S = 10**9
"""Longest plan, s: its nanoseconds still fit a 64-bit integer, some thirty years."""

LEAST_STANDING_S = 1e-3
"""How long the last step stands before power is taken away, s: less would not hold a rotor that has yet to arrive."""

MOST_BYTES = 8_000_000_000
"""Memory that the steps of a plan may take where nobody says otherwise."""


def _refuse_impossible(machine: Machine, routine: Routine, commanded: Commands) -> None:
    own = [*commanded.unreachable, *commanded.spins.faults]
    beyond = beyond_limits(machine, routine, commanded)
    words = [*row_faults(commanded, own)] if own else [(one.path, *beyond_words(machine, one)) for one in beyond]
    if words:
        place = place_of(machine, routine)
        raise PlanError(*(Fault(place / path, message, remedy) for path, message, remedy in words))


def _refuse_many(machine: Machine, routine: Routine, layout: Layout, most_bytes: int) -> None:
    far = np.add.accumulate(np.abs(layout.moves.way))
    if not len(far) or (float(far[-1]) + len(far)) * BYTES_PER_STEP < most_bytes:  # a way has one more at the most
        return
    counts = layout.moves.counts
    needed = sum(counts) * BYTES_PER_STEP
    if needed > most_bytes:
        message = (
            f"The plan would have {sum(counts):.3g} steps and take {needed / 1e9:.3g} GB of memory; "
            f"{most_bytes / 1e9:.3g} GB may be used."
        )
        most = machine.axes[counts.index(max(counts))].name
        place = place_of(machine, routine)
        raise PlanError(Fault(place, message, f"Shorten the moves of {most}, or split the routine."))


def _refuse_long(end_s: Reals, machine: Machine, routine: Routine, commanded: Commands, origin: Wholes) -> None:
    """Refuse a plan by when its rows end, at the block in which it becomes too long."""
    if len(end_s) and end_s[-1] > LONGEST_S:
        years = 365.25 * 86400
        message = f"The plan would take {end_s[-1] / years:.3g} years; the limit is {LONGEST_S / years:.0f}."
        row = int(origin[np.searchsorted(end_s, LONGEST_S, "right")])
        where = place_of(machine, routine) / commanded.places.path(row)
        raise PlanError(Fault(where, message, "Raise the speeds and accelerations, or shorten the routine."))


def _taken(layout: Layout, begin_s: Reals, end_s: Reals) -> Iterable[Taken]:
    """Return when each axis takes up its play: in rows of its own, and within lines of a tool."""
    positions, offsets, up = layout.loose[2:5]
    if offsets is None:
        return repeat(NOTHING_TAKEN)
    found = []
    first = len(layout.rows) - len(layout.spins)
    owners = layout.moves.axis[layout.moves.move >= first]  # in the order of the shares
    within: list[list[tuple[float, float]]] = [[] for _ in positions.bounds[1:]]
    for row, axis, share in zip(layout.rows[first:].tolist(), owners.tolist(), layout.spins, strict=True):
        if not share.way:
            begin = float(begin_s[row]) + share.begin_s
            within[axis].append((begin, begin + seconds_of(share.pieces)))
    for index, (start, end) in enumerate(pairwise(positions.bounds)):
        own, beside = positions.rows[up[positions.axis[up] == index]], offsets[start:end]
        times = np.concatenate((np.stack((begin_s[own], end_s[own])), np.reshape(within[index], (-1, 2)).T), axis=1)
        times = np.sort(times)
        changes = np.concatenate((beside[:1], beside[1:][np.diff(beside) != 0]))
        found.append(Taken(times[0], times[1], changes))
    return found


def _stands_until(axis: AxisPlan) -> float:
    """Return how long an axis must stay powered, s: its last step stands as long as its shortest one."""
    if not axis.steps:
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
    senses: Mapping[str, Sense] | None = None,
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
        Where axes are in their play at the beginning, by name: 1 or -1 where it is taken up in that direction. Those
        that are not named are where their calibration says.
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
    able, commanded = abilities_of(machine), commands(machine, chosen, checkpoint)
    _refuse_impossible(machine, chosen, commanded)
    layout = layout_of(machine, chosen, commanded, senses or {})
    _refuse_many(machine, chosen, layout, most_bytes)
    checkpoint()
    ramps = row_ramps(machine, layout, commanded)
    durations = layout.durations(commanded, ramps)
    checkpoint()
    origin, own = layout.loose[:2]
    _refuse_long(np.add.accumulate(durations), machine, chosen, commanded, origin)
    begin, end = on_clock(able.lead_in_s, durations, {})
    moves, rows = layout[:2]
    uncut = Uncut(moves, rows, ramps)
    if waited := waits(moves, uncut.pieces, rows, layout.loose.heads, begin, able.gaps):
        begin, end = on_clock(able.lead_in_s, durations, waited)
    _refuse_long(end, machine, chosen, commanded, origin)
    trains, taken = trains_of(layout, uncut, begin, end), _taken(layout, begin, end)
    axes = tuple(map(AxisPlan, machine.axes, able.ratios.fractions, trains, taken))
    stands = [_stands_until(axis) for axis, off in zip(axes, able.switches_off, strict=True) if off]
    duration = max([float(end[-1]) if len(end) else able.lead_in_s, *stands])
    if len(origin) > len(own):  # a block begins with what it makes an axis take up
        begin, end = begin[origin.searchsorted(np.arange(len(own)))], end[own]
    blocks = PlannedBlocks(commanded.places, begin, end, able.lead_in_s)
    return Plan(machine, chosen, able.lead_in_s, duration, blocks, axes)
