"""Rules of routines and poses: names that must exist, calls that must not go round, and how long a program may be."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal

from kivant.core.errors import Fault
from kivant.core.geometry import geometry_kind
from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import Block, Call, Move, block_kind, walk
from kivant.core.motion.row_count import MOST_ROWS, RowCounter
from kivant.core.path import Path, routine_path

MOST_NESTED = 20
"""How deep calls and repeats may be nested."""


def known(names: Iterable[str], limit: int = 12) -> str:
    """Return names as they are listed in a message."""
    listed = list(names)
    return ", ".join(listed[:limit]) + (" …" if len(listed) > limit else "") if listed else "none yet"


def broken_rules_of_poses(machine: Machine) -> Iterator[Fault]:
    """Yield what is wrong with the poses of a machine."""
    axes, seen = sorted(axis.name for axis in machine.axes), set()
    for index, pose in enumerate(machine.poses or ()):
        place = Path(("poses", index))
        if pose.name in seen:
            yield Fault(place / "name", f"The pose “{pose.name}” appears twice.", "Give each a different name.")
        seen.add(pose.name)
        if not pose.at:
            message = f"The pose “{pose.name}” names no axis."
            yield Fault(place / "at", message, "Name at least one, or remove the pose.")
        for name in pose.at:
            if name not in axes:
                yield Fault(place / "at" / name, f"There is no axis “{name}”.", f"Use one of {known(axes)}.")


def broken_rules_of_routine(machine: Machine, routine: Routine, place: Path) -> Iterator[Fault]:
    """Yield what is wrong with one routine for a machine; `place` is the routine's."""
    names = _names(machine)
    axes = names["axis"]
    yield from (_unknown("axis", name, place / "start" / name, axes) for name in start_of(routine) if name not in axes)
    broken, noted = False, []
    for where, block in walk(routine.blocks, place / "blocks"):
        for fault in _broken_rule(names, block, where):
            broken = True
            yield fault
        if isinstance(block, Call) or _is_deep(where, place):
            noted.append((where, block))
    if not broken:
        yield from _too_deep(machine, routine, place, noted)


def broken_rules_of_block(machine: Machine, block: Block, place: Path) -> Iterator[Fault]:
    """Yield what is wrong with one block, and with those inside of it, by itself."""
    names = _names(machine)
    yield from _broken_rule(names, block, place)
    for where, inner in walk(block_kind(block).inside(block), place / "blocks"):
        yield from _broken_rule(names, inner, where)


def broken_rules_of_calls(machine: Machine) -> Iterator[Fault]:
    """Yield what is wrong with calls, and with the length of what they and repeats make, in any routine."""
    for index, routine in enumerate(machine.routines):
        place = routine_path(index)
        yield from _too_deep(machine, routine, place, walk(routine.blocks, place / "blocks"))


def _names(machine: Machine) -> dict[str, set[str]]:
    return {
        "axis": {axis.name for axis in machine.axes},
        "pose": {pose.name for pose in machine.poses or ()},
        "routine": {other.name for other in machine.routines},
        "coordinate": _coordinates(machine),
    }


def _coordinates(machine: Machine) -> set[str]:
    """Return what tells where the machine's tool is; nothing, where it has none."""
    geometry = machine.geometry
    if geometry is None:
        return set()
    lifts = any(role.key == "z" and geometry.axes.z is not None for role in geometry_kind(geometry).roles)
    return {name for name in geometry_kind(geometry).coordinates if name != "z" or lifts}


def _tool_faults(coordinates: set[str], place: Mapping[str, Decimal], where: Path) -> Iterator[Fault]:
    if not coordinates:
        yield Fault(where, "The machine has no tool: its axes are independent.", "Give the machine a geometry first.")
        return
    for name in place:
        if name not in coordinates:
            remedy = f"Use {known(sorted(coordinates))}."
            yield Fault(where / name, f"The tool has no coordinate “{name}”.", remedy)
    missing = sorted(coordinates - {"z"} - set(place))
    if missing:
        yield Fault(where, f"The place of the tool lacks {known(missing)}.", "Give all but z, which may be left out.")


def _unknown(what: str, name: str, where: Path, names: set[str]) -> Fault:
    return Fault(where, f"There is no {what} “{name}”.", f"Use one of {known(sorted(names))}.")


def _broken_rule(names: Mapping[str, set[str]], block: Block, where: Path) -> Iterator[Fault]:
    kind = block_kind(block)
    yield from kind.faults(block, where)
    if isinstance(block, Move) and block.tool is not None:
        yield from _tool_faults(names["coordinate"], block.tool, where / "tool")
    axes = names["axis"]
    if not kind.filled:
        for inner, name in kind.mentions(block):
            if name not in axes:
                yield _unknown("axis", name, where / inner, axes)
    for inner, what, name in kind.refers(block):
        if name not in names[what]:
            yield _unknown(what, name, where / inner, names[what])


def _is_deep(where: Path, place: Path) -> bool:
    return len(where) - len(place) > 2 * MOST_NESTED


def _too_deep(machine: Machine, routine: Routine, place: Path, blocks: Iterable[tuple[Path, Block]]) -> Iterator[Fault]:
    """Yield what is wrong with calls, and with the length of what they and repeats make.

    `blocks` are all that the routine holds, each with its path, or at least its calls and what lies too deep.
    """
    counter, judged = RowCounter(machine), dict[str, tuple[str, str] | None]()
    found = False
    for where, block in blocks:
        if _is_deep(where, place):
            yield Fault(where, f"Blocks are nested more than {MOST_NESTED} deep.", "Call a routine instead.")
            return
        if isinstance(block, Call):
            if block.routine not in judged:
                judged[block.routine] = _circle(counter.blocks | {routine.name: routine.blocks}, [routine.name], block)
            words = judged[block.routine]
            if words is not None:
                found = True
                yield Fault(where / "routine", *words)
    if found:
        return
    rows = counter.inside(routine.blocks)
    if rows > MOST_ROWS:
        message = f"With all its repeats and calls, “{routine.name}” does {rows:.3g} blocks; the limit is {MOST_ROWS}."
        longest = max(range(len(routine.blocks)), key=lambda i: counter.of(routine.blocks[i]))
        yield Fault(place / "blocks" / longest, message, "Repeat it less often, or run it several times.")


def _circle(blocks: Mapping[str, tuple[Block, ...]], way: list[str], call: Call) -> tuple[str, str] | None:
    """Return what is wrong if a call leads back to where it comes from, or too deep; `way` leads there."""
    done: set[str] = set()
    waiting = [(call.routine, way)]
    while waiting:
        name, before = waiting.pop()
        path = [*before, name]
        if name == way[0]:
            inner = f" (by way of {', '.join(path[1:-1])})" if len(path) > 2 else ""
            return f"“{name}” would call itself{inner}, without end.", "Call another routine, or repeat blocks."
        if len(path) > MOST_NESTED:
            return f"Calls are nested more than {MOST_NESTED} deep here.", "Put blocks into fewer routines."
        if name not in done:
            done.add(name)
            for _where, block in walk(blocks.get(name, ()), Path()):
                if isinstance(block, Call) and block.routine not in path[1:]:
                    waiting.append((block.routine, path))
    return None
