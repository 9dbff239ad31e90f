"""Layout: the shares of axes in the rows of a routine, play that is taken up included. No time yet."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import chain
from typing import NamedTuple

import numpy as np

from kivant.core.errors import Fault
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.rules import place_of
from kivant.core.motion.abilities import abilities_of
from kivant.core.motion.axis_move import AxisMoves, axis_moves
from kivant.core.motion.commanded import Commands
from kivant.core.motion.lost_motion import Loose, with_take_ups
from kivant.core.motion.plan import PlanError
from kivant.core.motion.positions import Positions, positions_of
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import NO_ROWS, Reals, Wholes
from kivant.core.motion.spins import Share
from kivant.core.path import Path
from kivant.core.travel.play import Sense

MOST_STEPS = 10**15
"""Farthest position in steps: whole numbers up to here are exact in the float arithmetic of instants."""


class Layout(NamedTuple):
    """What the axes do in a routine: their shares in moves, and the row of each move.

    ``loose`` are the rows, take-ups included, and ``spins`` the shares of the moves at the end that are those of spins.
    """

    moves: AxisMoves
    rows: Wholes
    loose: Loose
    spins: list[Share]

    def factors(self, commanded: Commands, moves: Wholes) -> Reals | None:
        """Return by how much the wished speeds of moves are scaled, if any; play is taken up as fast as it can be."""
        if not commanded.factors.rows:
            return None
        factors = np.ones(len(self.loose.origin))
        factors[self.loose.own[commanded.factors.rows]] = commanded.factors.values
        return factors[self.rows[moves]]

    def durations(self, commanded: Commands, ramps: Ramps) -> Reals:
        """Return how long each row takes, s, by its moves along their ramps; the time of a spin is its own."""
        durations = np.zeros(len(self.loose.origin))
        rests, seconds = commanded.rests, commanded.spins.seconds
        if rests.rows or seconds:
            durations[self.loose.own[[*rests.rows, *seconds]]] = [*rests.values, *seconds.values()]
        moved = len(self.rows) - len(self.spins)
        rows, seconds_each = self.rows[:moved], ramps.durations_s[:moved]
        if commanded.apart:
            np.maximum.at(durations, rows, seconds_each)
        else:
            durations[rows] = seconds_each
        return durations


def layout_of(machine: Machine, routine: Routine, commanded: Commands, senses: Mapping[str, Sense]) -> Layout:
    """Return what axes do in a routine, whose `senses` say where they are in their play at the beginning.

    Raises
    ------
    PlanError
        If an axis would stand too far away.
    """
    able, targets, spins = abilities_of(machine), commanded.axes, commanded.spins
    positions = positions_of([own.keys for own in targets], [own.values for own in targets], able.ratios)
    if positions.steps.over.dtype == object:  # 64 bits hold nothing that is too far away
        _refuse_far(machine, routine, positions, commanded)
    every = heads = np.arange(len(commanded.places))
    if spins.heads:
        heads = every.copy()
        heads[[*spins.heads]] = [*spins.heads.values()]
    if able.has_play:
        now = [senses.get(axis.name, play.first) for axis, play in zip(machine.axes, able.plays, strict=True)]
        loose = with_take_ups(able.plays, now, positions, heads)
    else:
        loose = Loose(every, every, positions, None, NO_ROWS, heads)
    apart = loose.own[commanded.apart] if commanded.apart else NO_ROWS
    spinning = loose.own[[*spins.heads]] if spins.heads else NO_ROWS
    moves, rows = axis_moves(loose.positions, loose.offsets, len(loose.origin), apart, spinning)
    return Layout(moves, rows, loose, [*chain.from_iterable(spins.shares)])


def _refuse_far(machine: Machine, routine: Routine, positions: Positions, commanded: Commands) -> None:
    over, below = positions.steps
    far = (np.abs(over) > MOST_STEPS * below).nonzero()[0].tolist()
    if far:
        row, axis = int(positions.rows[far[0]]), machine.axes[int(positions.axis[far[0]])]
        inner = Path.of("start") / axis.name if row < 0 else commanded.places.path(row)
        steps = float(positions.steps.at(far[0]))
        message = f"{axis.name} would stand at step {steps:.3g}; the limit is {MOST_STEPS:.0e}."
        place = place_of(machine, routine) / inner
        raise PlanError(Fault(place, message, "Stay closer to position 0, or check the travel."))
