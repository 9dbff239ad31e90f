"""Whether a machine is one: every field within its range, and every rule between fields kept.

What holds is said at the fields of the parts and in `kivant.core.machine.rules`; this module only goes through it.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal
from itertools import islice
from typing import Any

from msgspec.structs import replace

from kivant.core.bounds import MaxLen
from kivant.core.errors import MOST_FAULTS, Fault, KivantError, shown
from kivant.core.fields import Part, expected
from kivant.core.machine.parts import Machine, Routine
from kivant.core.machine.program_rules import (
    broken_rules_of_block,
    broken_rules_of_calls,
    broken_rules_of_routine,
)
from kivant.core.machine.rules import broken_rules, place_of
from kivant.core.machine.shape import Shape, shapes
from kivant.core.machine.single import misfit_of
from kivant.core.machine.sound import sound
from kivant.core.path import Path

_CHECKED_IN = "checked_in"
"""Where a machine or routine remembers the machine in which it was found to keep every rule: it cannot change."""


class MachineError(KivantError):
    """A machine that no project file could hold; ``faults`` names each fault with its place."""


def checked(machine: Machine, *, routines: bool = False) -> Machine:
    """Return `machine` if it keeps every rule.

    Without `routines`, those are left out of the check: most edits cannot touch them, and they may be long.

    Raises
    ------
    MachineError
        Naming each broken rule with its place.
    """
    faults = list(islice(faults_of(_without(machine, routines=routines)), MOST_FAULTS))
    if faults:
        raise MachineError(*faults)
    return machine


def checked_at(machine: Machine, path: Path) -> Machine:
    """Return `machine`, in which only the value at a path may be wrong, if it keeps every rule.

    Routines are left out, unless the path lies in one.

    Raises
    ------
    MachineError
        Naming each broken rule with its place.
    """
    place, checked_part = path.parent, _without(machine, routines=path.routine is not None)
    while place and not isinstance(place.look_up(checked_part), Part):
        place = place.parent
    faults = list(islice(_part_faults(place.look_up(checked_part), place), MOST_FAULTS))
    faults = faults or list(islice(broken_rules(checked_part), MOST_FAULTS))
    if faults:
        raise MachineError(*faults)
    return machine


def checked_program(machine: Machine, index: int, new: Iterable[Path] | None) -> Machine:
    """Return `machine`, in which only some blocks of routine `index` may be wrong, if it keeps every rule.

    `new` are the paths of those blocks (with what is inside of them); None: all of the routine.

    Raises
    ------
    MachineError
        Naming each broken rule with its place.
    """
    routine = machine.routines[index]
    found: Iterator[Fault] = (
        faults_of_routine(machine, routine)
        if new is None
        else (
            fault
            for path in new
            for fault in (
                *_part_faults(path.look_up(machine), path), *broken_rules_of_block(machine, path.look_up(machine), path)
            )
        )
    )  # fmt: skip
    faults = list(islice(found, MOST_FAULTS)) or list(islice(broken_rules_of_calls(machine), MOST_FAULTS))
    if faults:
        raise MachineError(*faults)
    return machine


def _without(machine: Machine, *, routines: bool) -> Machine:
    return machine if routines else replace(machine, routines=())


def faults_of(machine: Machine) -> Iterator[Fault]:
    """Yield all that is wrong with a machine: fields first, and what relates them only where each is right."""
    found = False
    for fault in _part_faults(machine, Path()):
        found = True
        yield fault
    if not found:
        yield from broken_rules(machine)


def faults_of_routine(machine: Machine, routine: Routine) -> Iterator[Fault]:
    """Yield all that is wrong with a routine for a sound machine, whether it is one of the machine's or not."""
    place = place_of(machine, routine)
    found = False
    for fault in _part_faults(routine if routine.name else replace(routine, name="move"), place):
        found = True
        yield fault
    if not found:
        yield from broken_rules_of_routine(machine, routine, place)


def remember(machine: Machine, *routines: Routine) -> None:
    """Remember that a machine, its routines left out, and some routines for it keep every rule."""
    for part in (machine, *routines):
        part.__dict__[_CHECKED_IN] = machine


def remembered(machine: Machine, routine: Routine) -> bool:
    """Return whether a machine and a routine for it are known to keep every rule."""
    return machine.__dict__.get(_CHECKED_IN) is machine and routine.__dict__.get(_CHECKED_IN) is machine


def found_text(value: Any) -> str:
    """Return a value as it is quoted in a message, as it stands in a file."""
    if isinstance(value, Part | Mapping):
        return "an object"
    if isinstance(value, list | tuple):
        return "a list"
    text = str(value) if isinstance(value, Decimal) else json.dumps(value, ensure_ascii=False, default=str)
    return shown(text)


def misfit(place: Path, said: str, value: Any) -> Fault:
    """Return the fault of a value that is not what was expected."""
    return Fault(place, f"Expected {said}; found {found_text(value)}.", "Correct the value.")


def _part_faults(part: Any, place: Path) -> Iterator[Fault]:
    if sound(part):  # many a routine is long, and nothing is wrong with most
        return
    for name, shape in shapes(type(part)).items():
        value = getattr(part, name)
        if name != "x" and (value is not None or not shape.optional):
            yield from _value_faults(value, shape, place, name)


def _value_faults(value: Any, shape: Shape, place: Path, key: str | int) -> Iterator[Fault]:
    if shape.item is not None:
        yield from _collection_faults(value, shape, place / key)
    elif (part := shape.part_of(value)) is not None or shape.tagged is not None:
        if part is not None and isinstance(value, part):
            yield from _part_faults(value, place / key)
        else:
            kinds = ", ".join(map(repr, shape.tagged.kinds)) if shape.tagged is not None else "an object in braces"
            yield misfit(place / key, kinds, value)
    else:
        said = misfit_of(value, shape)
        if said is not None:
            yield misfit(place / key, said, value)


def _collection_faults(value: Any, shape: Shape, place: Path) -> Iterator[Fault]:
    assert shape.item is not None
    most = shape.mark(MaxLen)
    if not isinstance(value, shape.type):
        yield misfit(place, expected("tuple_type" if shape.type is tuple else "mapping_type"), value)
    elif most is not None and len(value) > most.bound:
        yield misfit(place, expected("too_long", max_length=most.bound), value)
    elif shape.key is None:
        for index, item in enumerate(value):
            yield from _value_faults(item, shape.item, place, index)
    else:
        for name, item in value.items():
            yield from _value_faults(name, shape.key, place, name)
            yield from _value_faults(item, shape.item, place, name)
