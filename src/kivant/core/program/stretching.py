"""Stretching: the speed factors with which blocks take a wished time, and taking them away again."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cache
from typing import Any, cast

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.machine.parts import Machine, Routine
from kivant.core.motion.blocks import Block, Each, Move, walk
from kivant.core.motion.builder import plan
from kivant.core.motion.plan import PlanError
from kivant.core.path import Path
from kivant.core.program.editing import Place, block_at, outermost, with_replaced

Changes = list[tuple[Place, Block]]

_LEAST = 1e-6  # factor that a file can hold
_DIGITS = 7  # of a factor
_MORE = 1.5  # times as slow as the time alone says: surely slow enough, if most of it gets slower
_FARTHEST = 1e3  # times slower from one try to the next
_TINY = 1e-300
_SAME, _NEAR = 1e-6, 1e-3  # of the time: near enough, and where it leaps


def as_fast_as_possible(routine: Routine, places: Iterable[Place]) -> Changes:
    """Return the blocks at places (and inside of them) that have a speed factor, without it."""
    return [
        (place, replace(cast(Any, block), speed_factor=None))
        for place, block in _moving(routine, places)
        if block.speed_factor is not None
    ]


def stretched(machine: Machine, routine: Routine, places: Sequence[Place], seconds: float) -> Changes:
    """Return blocks with speed factors, so that those at `places` take `seconds` in all; spins and pauses keep theirs.

    All factors are scaled alike; those of blocks in a repeat count for all its turns.

    Raises
    ------
    PlanError
        If there is no plan, nothing at the places can be slower or faster, or the time cannot be.
    """
    taken = outermost(places)
    factors = {place: block.factor for place, block in _moving(routine, taken) if not block.off}
    if not factors:
        raise _refused("Nothing here goes faster or slower.", "Choose moves; the time of pauses and spins is typed.")

    def made(slower: float) -> Changes:
        return _with_factors(routine, factors, slower)

    @cache
    def measured(slower: float) -> float:
        return _measured(machine, replace(routine, blocks=with_replaced(routine.blocks, made(slower))), taken)

    # The slowest block as fast as it can, the fastest as slow as it can.
    return made(_slower_by(measured, seconds, (min(factors.values()), max(factors.values()) / _LEAST)))


def _slower_by(measured: Callable[[float], float], seconds: float, ends: tuple[float, float]) -> float:
    """Return how many times as slow, within two ends, a time comes out that is wished for; it rises from end to end.

    Raises
    ------
    PlanError
        If it never does: it is too short or too long, or where an axis avoids speeds, the time leaps.
    """
    from scipy.optimize import brentq  # costs start time

    fast, most = ends
    took = measured(fast)
    if seconds < took * (1 - _SAME):
        raise _refused(f"These blocks take at least {took:.4g} s.", "Type more, or raise what holds them back.")
    # Rests and spins do not get slower: all in all the time grows less than the factor says.
    slow = fast
    while took < seconds * (1 - _SAME):
        if slow == most:
            raise _refused(f"These blocks take at most {took:.4g} s.", "Type less, or add a pause.")
        fast, slow = slow, min(slow * min(_MORE * seconds / max(took, _TINY), _FARTHEST), most)
        took = measured(slow)
    if slow == fast or took <= seconds * (1 + _SAME):
        return slow
    found = float(brentq(lambda slower: measured(slower) - seconds, fast, slow, xtol=_SAME * fast / 2, rtol=_SAME / 2))
    if abs(seconds - measured(found)) <= _SAME * seconds:
        return found
    sides = [(measured(slower), slower) for slower in (found * (1 - _SAME), found, found * (1 + _SAME))]
    took, slower = min(sides, key=lambda one: abs(seconds - one[0]))
    if abs(seconds - took) > _NEAR * seconds:
        message = f"These blocks take {sides[0][0]:.4g} s or {sides[2][0]:.4g} s, and nothing in between."
        raise _refused(message, "An axis avoids the speeds in between: type one of the two.")
    return slower


def _refused(message: str, remedy: str) -> PlanError:
    return PlanError(Fault("duration", message, remedy))


def _moving(routine: Routine, places: Iterable[Place]) -> list[tuple[Place, Move | Each]]:
    found: list[tuple[Place, Move | Each]] = []
    for place in outermost(places):
        block = block_at(routine.blocks, place)
        for path, inner in walk((block,), Path()):
            where = (*place, *(part for part in path[1:] if isinstance(part, int)))
            if isinstance(inner, Move | Each):
                found.append((where, inner))
    return found


def _place(path: Iterable[object]) -> Place:
    return tuple(part for part in path if isinstance(part, int))


def _measured(machine: Machine, routine: Routine, taken: Sequence[Place]) -> float:
    listed = plan(machine, routine, trusted=True).blocks.listed
    index = {_place(listed.path(k)): k for k in range(len(listed.begin_s))}
    return float(sum(listed.end_s[index[place]] - listed.begin_s[index[place]] for place in taken))


def _with_factors(routine: Routine, factors: Mapping[Place, float], slower: float) -> Changes:
    found: Changes = []
    for place, before in factors.items():
        factor = float(f"{min(max(before / slower, _LEAST), 1.0):.{_DIGITS}g}")
        block = cast(Move, block_at(routine.blocks, place))
        found.append((place, replace(block, speed_factor=None if factor == 1.0 else factor)))
    return found
