"""Routines: what a program of blocks commands, spins, straight lines and axes that wrap included."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal, localcontext
from fractions import Fraction
from functools import partial

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Block
from kivant.core.motion.commanded import AxisTargets, Commands
from kivant.core.motion.laying import Laying
from kivant.core.motion.shortest_ways import take_shortest_ways
from kivant.core.motion.spins import spun
from kivant.core.motion.whole_turns import TURN
from kivant.core.path import Path

BLOCKS = Path.of("blocks")


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = start_of(routine)
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


def commands(machine: Machine, routine: Routine, checkpoint: Callable[[], None] = lambda: None) -> Commands:
    """Return what a routine commands.

    `checkpoint` is called before every block; what it raises ends the work.
    """
    found = _commands(machine, routine, checkpoint, {})
    if found.spun and machine.geometry is not None:
        from kivant.core.motion.spin_tool import within_tool  # NumPy, where axes that carry a tool spin

        found = within_tool(machine, found, checkpoint, partial(_commands, machine, routine, checkpoint))
    return found


def _commands(
    machine: Machine, routine: Routine, checkpoint: Callable[[], None], shares: Mapping[int, float]
) -> Commands:
    """Return what a routine commands; `shares` are those of the accelerations of spins: see `spun`."""
    start = start_of(routine)
    found = Commands([AxisTargets([start.get(axis.name, 0)]) for axis in machine.axes])
    Laying(machine, found, checkpoint).lay(routine.blocks, BLOCKS)
    if found.spun:
        found.spins = spun(machine, found.places, found.spun, found.axes, checkpoint, shares)
    for axis, targets in zip(machine.axes, found.axes, strict=True):
        if axis.limits.wrap is not None:
            _unwrapped(targets, axis.limits.wrap)
    if found.straight:
        from kivant.core.motion.lines.rows import with_straights  # NumPy, where a tool goes straight

        found.spins = with_straights(machine, found, checkpoint)
    elif found.placed and (tool := tool_of(machine)) is not None:
        with localcontext(prec=EXACT_DIGITS):
            take_shortest_ways(tool, found, found.placed)
    return found


_SAME = Decimal("1e-9")  # deg: so near to a whole number of turns an axis stands there, and its place was rounded


def way_to(here: Decimal, target: Decimal, wrap: str) -> Decimal:
    """Return the way, in deg, from a position to a target modulo a turn; a tie of ``shortest`` goes the positive way.

    The result is exact as long as the context holds all digits of both. A target within a billionth of a degree is
    reached from there, whatever the way.
    """
    ahead = (target - here) % TURN  # with the sign of the dividend
    if ahead < 0:
        ahead += TURN
    if ahead < _SAME or TURN - ahead < _SAME:
        wrap = "shortest"
    if wrap == "positive" or not ahead:
        return ahead
    return ahead - TURN if wrap == "negative" or ahead > TURN / 2 else ahead


def _unwrapped(targets: AxisTargets, wrap: str) -> None:
    """Make absolute, unwrapped positions of what an axis that wraps is commanded."""
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        here = Decimal(targets.values[0])
        for index, key in enumerate(targets.keys[1:], 1):
            value = Decimal(targets.values[index])
            here += value if key & 1 else way_to(here, value, wrap)
            targets.keys[index], targets.values[index] = key & ~1, here


def find_block(routine: Routine, path: Path) -> Block:
    """Return the block at a path of the routine.

    Raises
    ------
    LookupError, AttributeError
        If there is none.
    """
    found: Block = path.look_up(routine)
    return found


def block_number(path: Path) -> str:
    """Return the place of a block as a person counts it: ``3``, or ``3.1`` for the first inside the third."""
    return ".".join(str(part + 1) for part in path if isinstance(part, int))
