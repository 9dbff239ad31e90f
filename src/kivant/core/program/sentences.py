"""Sentences: what a block does, as a person would write it down, and as `kivant.core.program.reading` reads it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Any

from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Block, Call, Each, Move, Note, Pause, Repeat, Spin, block_kind

Units = Mapping[str, str]
"""The unit of each axis, by name."""


def units_of(machine: Machine) -> Units:
    """Return the unit of each axis, by name."""
    return {axis.name: axis.unit for axis in machine.axes}


def sentence(block: Block, units: Units) -> str:
    """Return what a block does, in a line."""
    say = _SAY.get(type(block))
    return say(block, units) if say else block_kind(block).words(block, {name: name for name in units})


def positions_words(positions: Mapping[str, Decimal], units: Units) -> str:
    """Return positions of axes as a line."""
    return " and ".join(
        f"{name} at {number(value)} {units.get(name, '')}".rstrip() for name, value in positions.items()
    )


def number(value: Decimal | float) -> str:
    """Return a number as it is typed: all of its digits, no needless zeros."""
    exact = value if isinstance(value, Decimal) else Decimal(repr(float(value)))
    text = f"{exact:f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text) or "0"


def _targets(block: Any, units: Units) -> str:
    said = [f"{name} to {number(v)} {units.get(name, '')}".rstrip() for name, v in (block.to or {}).items()]
    said += [f"{name} by {number(v)} {units.get(name, '')}".rstrip() for name, v in (block.by or {}).items()]
    return " and ".join(said)


def _at_speed(block: Any) -> str:
    return "" if block.speed_factor is None else f", at {number(Decimal(repr(block.speed_factor)) * 100)} % speed"


def _move(block: Move, units: Units) -> str:
    if block.tool is not None:
        place = " and ".join(f"{name} {number(value)}" for name, value in block.tool.items())
        line = " straight" if block.straight else ""
        within = "" if block.tolerance is None else f", within {number(block.tolerance)} mm"
        return f"tool{line} to {place}{within}{_at_speed(block)}"
    if block.pose is not None:
        return f"to pose {block.pose}{_at_speed(block)}"
    several = len(block.to or ()) + len(block.by or ()) > 1
    return f"{_targets(block, units)}{' together' if several else ''}{_at_speed(block)}"


def _each(block: Each, units: Units) -> str:
    return f"{_targets(block, units)}, each by itself{_at_speed(block)}"


def _spin(block: Spin, units: Units) -> str:
    said = [f"{name} at {number(speed)} {units.get(name, '')}/s" for name, speed in block.speeds.items()]
    leader = next(iter(block.speeds), "")
    if block.seconds is not None:
        length = f"for {number(block.seconds)} s"
    elif block.turns is not None:
        length = f"for {number(block.turns)} turns"
    else:
        length = f"over {number(block.distance or 0.0)} {units.get(leader, '')}"
    return f"spin {' and '.join(said)} {length}{_at_speed(block)}"


_SAY: dict[type[Block], Callable[[Any, Units], str]] = {
    Move: _move,
    Each: _each,
    Spin: _spin,
    Pause: lambda block, _units: f"pause {number(block.seconds)} s",
    Repeat: lambda block, _units: f"repeat {block.times} times",
    Call: lambda block, _units: f"call {block.routine}",
    Note: lambda block, _units: f"note {block.text}".rstrip(),
}
