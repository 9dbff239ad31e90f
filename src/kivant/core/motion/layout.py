"""Layout: the shares of axes in the rows of a routine, play that is taken up included. No time yet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import NamedTuple

import numpy as np

from kivant.core.errors import Fault
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.axis_move import AxisMoves, axis_moves
from kivant.core.motion.exact import Exact
from kivant.core.motion.lost_motion import Loose, with_take_ups
from kivant.core.motion.plan import PlanError
from kivant.core.motion.positions import positions_of
from kivant.core.motion.routine import Commands
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.spins import Share
from kivant.core.path import Path
from kivant.core.travel.play import play_of

MOST_STEPS = 10**15
"""Farthest position in steps: whole numbers up to here are exact in the float arithmetic of instants."""


class Layout(NamedTuple):
    """What the axes do in a routine: their shares in moves, and the row of each move.

    ``ends`` are the exact positions of each axis before and after all, in steps; ``loose`` the rows, take-ups included;
    ``spins`` the shares of the moves at the end that are those of spins, and ``heads`` for each row the first of those
    that follow one another without a stop.
    """

    moves: AxisMoves
    rows: Wholes
    ends: list[tuple[Fraction, Fraction]]
    loose: Loose
    spins: list[Share]
    heads: Wholes

    def spread(self, rows: Sequence[int], values: Sequence[float], other: float) -> Reals:
        """Return a column for all rows from what is known of some rows of the routine, another value elsewhere."""
        found = np.full(len(self.loose.origin), other)
        if len(rows):
            found[self.loose.own[np.array(rows, np.int64)]] = values
        return found


def layout_of(
    machine: Machine, place: Path, ratios: Sequence[Fraction], commanded: Commands, senses: Mapping[str, int]
) -> Layout:
    """Return what axes do in a routine at a place, play taken up first in which `senses` they have not.

    Raises
    ------
    PlanError
        If an axis would stand too far away.
    """
    named, positions = [], []
    for axis, targets, ratio in zip(machine.axes, commanded.axes, ratios, strict=True):
        rows, position = positions_of(targets, ratio)
        _refuse_far(axis, position, rows, place, commanded)
        named.append(rows)
        positions.append(position)
    plays = [play_of(axis) for axis in machine.axes]
    now = [senses.get(axis.name, play.first) for axis, play in zip(machine.axes, plays, strict=True)]
    count, spins = len(commanded.places), commanded.spins
    heads = np.arange(count)
    heads[list(spins.heads)] = list(spins.heads.values())
    loose = with_take_ups(plays, now, named, positions, heads)
    apart, spinning = loose.own[np.array(commanded.apart, np.int64)], loose.own[list(spins.heads)]
    moves, rows = axis_moves(loose.positions, loose.offsets, loose.named, len(loose.origin), apart, spinning)
    shares = [share for own_shares in spins.shares for share in own_shares]
    starts = np.arange(len(loose.origin))
    starts[spinning] = loose.own[heads[list(spins.heads)]]
    return Layout(moves, rows, [(position.at(0), position.at(-1)) for position in positions], loose, shares, starts)


def _refuse_far(axis: Axis, position: Exact, rows: Wholes, place: Path, commanded: Commands) -> None:
    far = (np.abs(position.numerators) > MOST_STEPS * position.denominator).nonzero()[0].tolist()
    if far:
        steps = float(position.at(far[0]))
        where = commanded.places.path(int(rows[far[0] - 1])) if far[0] else Path.of("start") / axis.name
        message = f"{axis.name} would stand at step {steps:.3g}; the limit is {MOST_STEPS:.0e}."
        raise PlanError(Fault(place / where, message, "Stay closer to position 0, or check the travel."))
