"""Edits of programs: blocks put in, taken out, moved, wrapped and replaced, and whole routines.

A place is the way to a block in numbers from 0: (2, 0) is the first inside of the third.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from decimal import Decimal
from functools import partial

from msgspec.structs import replace

from kivant.core.errors import Fault, KivantError
from kivant.core.machine.axes import free_name
from kivant.core.machine.check import MachineError, checked_program
from kivant.core.machine.edits import Edit, set_value
from kivant.core.machine.parts import Machine, Routine
from kivant.core.motion.blocks import Block, Repeat, block_kind, renamed_in, walk
from kivant.core.path import Path, routine_path

Place = tuple[int, ...]
Blocks = tuple[Block, ...]


def place_of_path(path: Path) -> Place:
    """Return the place of a block by its path, be it from the machine or from the routine."""
    inner = path[path.index("blocks") :] if "blocks" in path else ()
    return tuple(part for part in inner[: len(inner)] if isinstance(part, int))


def path_of_place(place: Place) -> Path:
    """Return the path from the routine to a block."""
    return Path(part for index in place for part in ("blocks", index))


def block_at(blocks: Blocks, place: Place) -> Block:
    """Return the block at a place.

    Raises
    ------
    IndexError
        If there is none.
    """
    for index in place[:-1]:
        blocks = block_kind(blocks[index]).inside(blocks[index])
    return blocks[place[-1]]


def outermost(places: Iterable[Place]) -> list[Place]:
    """Return places in their order, without those that lie in another one of them."""
    found: list[Place] = []
    for place in sorted(places):
        if not found or place[: len(found[-1])] != found[-1]:
            found.append(place)
    return found


def _changed(blocks: Blocks, parent: Place, change: Callable[[Blocks], Blocks]) -> Blocks:
    """Return blocks in which those inside of a parent are others."""
    if not parent:
        return change(blocks)
    outer = blocks[parent[0]]
    kind = block_kind(outer)
    if kind.filled is None:
        raise KivantError(Fault("block", "Nothing can be put into this block.", "Put it before or after it."))
    inside = _changed(kind.inside(outer), parent[1:], change)
    return (*blocks[: parent[0]], kind.filled(outer, inside), *blocks[parent[0] + 1 :])


def with_inserted(blocks: Blocks, at: Place, new: Sequence[Block]) -> Blocks:
    """Return blocks with others from a place on."""
    index = at[-1]
    return _changed(blocks, at[:-1], lambda own: (*own[:index], *new, *own[index:]))


def with_replaced(blocks: Blocks, changes: Iterable[tuple[Place, Block]]) -> Blocks:
    """Return blocks with others in the places of some, in one pass."""
    made = list(blocks)
    inside: dict[int, list[tuple[Place, Block]]] = {}
    for place, block in changes:
        if len(place) == 1:
            made[place[0]] = block
        else:
            inside.setdefault(place[0], []).append((place[1:], block))
    for index, inner in inside.items():
        kind = block_kind(made[index])
        if kind.filled is not None:
            made[index] = kind.filled(made[index], with_replaced(kind.inside(made[index]), inner))
    return tuple(made)


def without(blocks: Blocks, places: Iterable[Place]) -> Blocks:
    """Return blocks without those at some places."""
    gone: dict[Place, set[int]] = {}
    for place in outermost(places):
        gone.setdefault(place[:-1], set()).add(place[-1])
    for parent in sorted(gone, reverse=True):
        blocks = _changed(blocks, parent, partial(_thinned, gone=gone[parent]))
    return blocks


def _thinned(blocks: Blocks, gone: set[int]) -> Blocks:
    return tuple(block for index, block in enumerate(blocks) if index not in gone)


def moved(blocks: Blocks, places: Iterable[Place], to: Place) -> tuple[Blocks, Place]:
    """Return blocks in which some have gone to another place, in their order, and where the first of them is then.

    Raises
    ------
    KivantError
        If they would go into one of themselves.
    """
    taken = outermost(places)
    if any(to[: len(place)] == place and len(to) > len(place) for place in taken):
        raise KivantError(Fault("block", "A block cannot go into itself.", "Drop it elsewhere."))
    carried = [block_at(blocks, place) for place in taken]
    landing = to
    for place in reversed(taken):  # what goes before the place, or what it lies in, draws it back
        level = len(place) - 1
        if len(landing) > level and landing[:level] == place[:level] and landing[level] > place[level]:
            landing = (*landing[:level], landing[level] - 1, *landing[level + 1 :])
    return with_inserted(without(blocks, taken), landing, carried), landing


def _program_edit(index: int, change: Callable[[Machine, Blocks], tuple[Blocks, Iterable[Place]]]) -> Edit:
    """Return the edit of a routine's blocks; `change` returns them with the places at which they are new."""

    def edit(machine: Machine) -> Machine:
        routine = machine.routines[index]
        blocks, new = change(machine, routine.blocks)
        routines = (*machine.routines[:index], replace(routine, blocks=blocks), *machine.routines[index + 1 :])
        made = replace(machine, routines=routines)
        return checked_program(made, index, [routine_path(index) / path_of_place(place) for place in new])

    return edit


def insert_blocks(index: int, at: Place, new: Sequence[Block]) -> Edit:
    """Put blocks into routine `index`, the first at a place."""
    places = [(*at[:-1], at[-1] + k) for k in range(len(new))]
    return _program_edit(index, lambda _machine, blocks: (with_inserted(blocks, at, new), places))


def replace_block(index: int, at: Place, new: Block) -> Edit:
    """Put another block in the place of one."""
    return replace_blocks(index, [(at, new)])


def replace_blocks(index: int, new: Sequence[tuple[Place, Block]]) -> Edit:
    """Put other blocks in the places of some."""

    return _program_edit(index, lambda _machine, blocks: (with_replaced(blocks, new), [at for at, _block in new]))


def remove_blocks(index: int, places: Iterable[Place]) -> Edit:
    """Take blocks out, with those inside of them."""
    gone = list(places)
    return _program_edit(index, lambda _machine, blocks: (without(blocks, gone), ()))


def move_blocks(index: int, places: Iterable[Place], to: Place) -> Edit:
    """Move blocks, with those inside of them, to a place."""
    taken = list(places)
    return _program_edit(index, lambda _machine, blocks: (moved(blocks, taken, to)[0], ()))


def wrap_blocks(index: int, places: Sequence[Place], times: int = 2) -> Edit:
    """Put blocks into a repeat, which stands where the first of them stood."""

    def change(_machine: Machine, blocks: Blocks) -> tuple[Blocks, list[Place]]:
        taken = outermost(places)
        inside = tuple(block_at(blocks, place) for place in taken)
        at = taken[0]
        return with_inserted(without(blocks, taken), at, [Repeat(times=times, blocks=inside)]), [at]

    return _program_edit(index, change)


def unwrap_blocks(index: int, at: Place) -> Edit:
    """Put what is inside of a block in its place."""

    def change(_machine: Machine, blocks: Blocks) -> tuple[Blocks, list[Place]]:
        outer = block_at(blocks, at)
        return with_inserted(without(blocks, [at]), at, block_kind(outer).inside(outer)), []

    return _program_edit(index, change)


# Whole routines


def add_routine(routine: Routine) -> Edit:
    """Add a routine at the end; where its name is taken, a number is added to it."""

    def edit(machine: Machine) -> Machine:
        name = free_name((known.name for known in machine.routines), routine.name)[:80]
        made = replace(machine, routines=(*machine.routines, replace(routine, name=name)))
        return checked_program(made, len(machine.routines), None)

    return edit


def rename_routine(index: int, name: str) -> Edit:
    """Give a routine another name, in all calls too."""

    def edit(machine: Machine) -> Machine:
        old, new = machine.routines[index].name, name.strip()
        if new != old and any(routine.name == new for routine in machine.routines):
            fault = Fault(routine_path(index, "name"), f"There is already a routine “{new}”.", "Choose another name.")
            raise MachineError(fault)
        if not new:
            raise MachineError(Fault(routine_path(index, "name"), "A routine needs a name.", "Type one."))
        routines = tuple(replace(r, blocks=renamed_in(r.blocks, "routine", old, new)) for r in machine.routines)
        routines = (*routines[:index], replace(routines[index], name=new), *routines[index + 1 :])
        return checked_program(replace(machine, routines=routines), index, [])

    return edit


def callers(machine: Machine, name: str) -> list[str]:
    """Return the routines that call one."""
    return [
        routine.name
        for routine in machine.routines
        if any(
            what == "routine" and called == name
            for _path, block in walk(routine.blocks, Path())
            for _inner, what, called in block_kind(block).refers(block)
        )
    ]


def begin_at(index: int, positions: Mapping[str, Decimal]) -> Edit:
    """Let a routine begin with axes at positions; those that are not named, and those at 0, begin at 0."""
    start = {name: value for name, value in positions.items() if value}
    return set_value(routine_path(index, "start"), start or None)


def delete_routine(index: int) -> Edit:
    """Take a routine out of the machine.

    Raises (the edit) MachineError if another one calls it.
    """

    def edit(machine: Machine) -> Machine:
        name = machine.routines[index].name
        used = [caller for caller in callers(machine, name) if caller != name]
        if used:
            message = f"“{name}” is called by {', '.join(f'“{caller}”' for caller in used[:5])}."
            raise MachineError(Fault(routine_path(index), message, "Remove those calls first."))
        return replace(machine, routines=(*machine.routines[:index], *machine.routines[index + 1 :]))

    return edit
