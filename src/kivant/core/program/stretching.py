"""Stretching: the speed factors with which blocks take a wished time, and taking them away again."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any, NamedTuple, cast

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.tool import bounded_tool_of
from kivant.core.motion.blocks import Block, Each, Move, walk
from kivant.core.motion.builder import plan
from kivant.core.motion.plan import PlanError
from kivant.core.motion.rates import rates_of
from kivant.core.motion.routine import commands
from kivant.core.motion.speed_course import greatest
from kivant.core.path import Path
from kivant.core.program.editing import Place, block_at, outermost, with_replaced
from kivant.core.program.held_back import ways_of_rows
from kivant.core.program.path_times import RowTime, RowWays
from kivant.core.travel.conversion import steps_per_unit

Changes = list[tuple[Place, Block]]

_LEAST = 1e-6  # factor that a file can hold
_DIGITS = 7  # of a factor
_ROUNDS, _HALVINGS = 12, 24  # by the model, and where that does not lead there
_STEEPEST = 8.0  # of the model's times against the true ones
_SAME, _NEAR = 1e-6, 1e-3  # of the time: near enough, and where it leaps


class _Way(NamedTuple):
    """One way of one block, and how long it takes at a speed factor, s."""

    place: Place
    seconds: Callable[[float], float]


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
        If there is no plan, nothing at the places can be slower or faster, or the time is too short or too long.
    """
    taken = outermost(places)
    factors = {place: block.factor for place, block in _moving(routine, taken) if not block.off}
    if not factors:
        raise _refused("Nothing here goes faster or slower.", "Choose moves; the time of pauses and spins is typed.")
    ways = _ways(machine, routine, taken, set(factors))
    now = _measured(machine, routine, taken)
    fixed = now - _model(ways, factors, 1.0)
    most = 1 / min(factors.values())

    def model(scale: float) -> float:
        return fixed + _model(ways, factors, scale)

    shortest, longest = model(most), model(_LEAST)
    if seconds < shortest * (1 - _SAME):
        message = f"These blocks take at least {shortest:.4g} s."
        raise _refused(message, "Wish for more, or raise what holds them back.")
    if seconds > longest:
        raise _refused(f"These blocks take at most {longest:.3g} s.", "Wish for less, or add a pause.")

    def made(scale: float) -> Changes:
        return _with_factors(routine, factors, scale)

    def measured(scale: float) -> float:
        return _measured(machine, replace(routine, blocks=with_replaced(routine.blocks, made(scale))), taken)

    return made(_scale_of(seconds, model, measured, most))


def _scale_of(
    seconds: float, model: Callable[[float], float], measured: Callable[[float], float], most: float
) -> float:
    """Return the scale of the factors with which a wished time is measured, by a model of that time.

    Raises
    ------
    PlanError
        If none does: where an axis avoids speeds, the time leaps.
    """
    slow, fast = _LEAST, most
    # Waits, play and ramps along torque are not in the model: what it is to aim at is found by secants.
    aim, gain, before = seconds, 1.0, (seconds, 0.0)
    for turn in range(_ROUNDS + _HALVINGS):
        scale = math.sqrt(slow * fast)
        if turn < _ROUNDS:
            scale = greatest(_LEAST, most, lambda scale, aim=aim: model(scale) >= aim)  # type: ignore[misc]
        off = seconds - measured(scale)
        if abs(off) <= _SAME * seconds:
            return scale
        slow, fast = (max(slow, scale), fast) if off < 0 else (slow, min(fast, scale))
        if aim != before[0] and off != before[1]:
            gain = min(max((aim - before[0]) / (before[1] - off), 1 / _STEEPEST), _STEEPEST)
        before = aim, off
        aim = min(max(aim + gain * off, model(most)), model(_LEAST))
    times = [(measured(scale), scale) for scale in (fast, slow)]
    took, scale = min(times, key=lambda one: abs(seconds - one[0]))
    if abs(seconds - took) > _NEAR * seconds:
        message = f"These blocks take {times[0][0]:.4g} s or {times[1][0]:.4g} s, and nothing in between."
        raise _refused(message, "An axis avoids the speeds for that: wish for one of the two.")
    return scale


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


def _ways(machine: Machine, routine: Routine, taken: Sequence[Place], wanted: set[Place]) -> list[_Way]:
    commanded = commands(machine, routine)
    own, ratios = commanded.places, [float(steps_per_unit(axis)) for axis in machine.axes]
    rates = [rates_of(machine, axis) for axis in machine.axes]
    places = {entry: _place(own.entry_path(entry)) for entry in own.shown()}
    limited = bounded_tool_of(machine) is not None
    found: list[tuple[int, _Way]] = []
    for row, ways in ways_of_rows(commanded, len(machine.axes)):
        place = places.get(own.of[row])
        if place in wanted and place is not None:
            apart, at = isinstance(own.block(row), Each), commanded.positions(row) if limited else ()
            steps = RowWays({axis: float(way) * ratios[axis] for axis, way in ways.items()}, not apart, at)
            found.append((row, _Way(place, RowTime(machine, steps).by_factor(rates))))
    if commanded.lines:
        from kivant.core.program.line_seconds import line_seconds  # NumPy, where a tool goes straight

        for row, seconds in line_seconds(machine, commanded):
            place = places.get(own.of[row])
            if place in wanted and place is not None:
                found.append((row, _Way(place, seconds)))
    return _first_turns([way for _row, way in sorted(found, key=lambda pair: pair[0])], taken)


def _place(path: Iterable[object]) -> Place:
    return tuple(part for part in path if isinstance(part, int))


def _first_turns(ways: list[_Way], taken: Sequence[Place]) -> list[_Way]:
    """Leave one turn of blocks that are chosen inside of a repeat: its other turns are not what is measured."""
    chosen = set(taken)
    seen: set[Place] = set()
    kept = []
    for way in ways:
        if way.place in chosen and len(way.place) > 1:
            if way.place in seen:
                continue
            seen.add(way.place)
        kept.append(way)
    return kept


def _model(ways: Sequence[_Way], factors: Mapping[Place, float], scale: float) -> float:
    return sum(way.seconds(min(max(factors[way.place] * scale, _LEAST), 1.0)) for way in ways)


def _measured(machine: Machine, routine: Routine, taken: Sequence[Place]) -> float:
    listed = plan(machine, routine, trusted=True).blocks.listed
    index = {_place(listed.path(k)): k for k in range(len(listed.begin_s))}
    return float(sum(listed.end_s[index[place]] - listed.begin_s[index[place]] for place in taken))


def _with_factors(routine: Routine, factors: Mapping[Place, float], scale: float) -> Changes:
    found: Changes = []
    for place, before in factors.items():
        factor = float(f"{min(max(before * scale, _LEAST), 1.0):.{_DIGITS}g}")
        block = cast(Move, block_at(routine.blocks, place))
        found.append((place, replace(block, speed_factor=None if factor == 1.0 else factor)))
    return found
