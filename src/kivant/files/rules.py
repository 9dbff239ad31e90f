"""Rules of a project file that relate several keys: names that must exist, stages that must fit the unit."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction

from kivant.core.driver import board_lines
from kivant.core.errors import Fault
from kivant.core.machine import Axis, Belt, Machine, Move, Routine, Screw
from kivant.core.travel import steps_per_unit


def _doubled(names: Iterable[str], place: str, what: str) -> Iterator[Fault]:
    seen: set[str] = set()
    for i, name in enumerate(names):
        if name in seen:
            yield Fault(place.format(i), f"{what} “{name}” is there twice.", "Give each a name of its own.")
        seen.add(name)


def _known(names: Iterable[str], limit: int = 12) -> str:
    listed = list(names)
    return ", ".join(listed[:limit]) + (" …" if len(listed) > limit else "") if listed else "none yet"


def _lines(machine: Machine, i: int, axis: Axis) -> Iterator[Fault]:
    known = set(machine.board.lines)
    for key, line in board_lines(axis.driver).items():
        if line not in known:
            yield Fault(
                f"axes[{i}].driver.lines.{key}",
                f"There is no line “{line}” on the board.",
                f"Use one of board.lines ({_known(machine.board.lines)}), or add it there.",
            )


def _travel(i: int, axis: Axis) -> Iterator[Fault]:
    linear = [k for k, stage in enumerate(axis.travel) if isinstance(stage, Belt | Screw)]
    place = f"axes[{i}].travel"
    if axis.unit == "deg" and linear:
        yield Fault(
            f"{place}[{linear[0]}]",
            "An axis in deg has no belt or screw stage.",
            "Take the stage out, or give the axis the unit mm.",
        )
    elif axis.unit == "mm" and linear != [len(axis.travel) - 1]:
        yield Fault(
            place,
            f"An axis in mm has exactly one belt or screw, as its last stage; found {len(linear)}.",
            "Add or move the stage, or give the axis the unit deg.",
        )


def _ratio(i: int, axis: Axis) -> Iterator[Fault]:
    ratio = steps_per_unit(axis)
    if not Fraction(1, 10**12) <= ratio <= 10**12:
        yield Fault(
            f"axes[{i}].travel",
            f"The stages make {_power(ratio)} steps per {axis.unit}; expected between 1e-12 and 1e12.",
            "Check the teeth, ratios, pitch and lead.",
        )


def _power(value: Fraction) -> str:
    return f"about 1e{len(str(value.numerator)) - len(str(value.denominator))}"


def _limits(i: int, axis: Axis) -> Iterator[Fault]:
    low, high = axis.limits.min, axis.limits.max
    if low is not None and high is not None and low > high:
        yield Fault(
            f"axes[{i}].limits.max",
            f"The greatest position {high} lies below the least, {low}.",
            "Swap the two.",
        )
    if axis.driver.at_rest == "reduced" and axis.driver.reduced_percent is None:
        yield Fault(
            f"axes[{i}].driver.reduced_percent",
            "at_rest is reduced, but to how much is missing.",
            "Give reduced_percent, such as 50.",
        )


def _blocks(routine: Routine, place: str, axes: set[str]) -> Iterator[Fault]:
    def unknown(names: Iterable[str], where: str) -> Iterator[Fault]:
        for name in names:
            if name not in axes:
                yield Fault(f"{where}.{name}", f"There is no axis “{name}”.", f"Name one of {_known(sorted(axes))}.")

    yield from unknown(routine.start or {}, f"{place}.start")
    for k, block in enumerate(routine.blocks):
        if not isinstance(block, Move):
            continue
        to, by, where = block.to or {}, block.by or {}, f"{place}.blocks[{k}]"
        if not to and not by:
            yield Fault(where, "The move names no axis.", 'Name at least one in "to" or "by", such as {"Lift": 10}.')
        yield from unknown(to, f"{where}.to")
        yield from unknown(by, f"{where}.by")
        for name in to.keys() & by.keys():
            yield Fault(f"{where}.by.{name}", f"{name} is in “to” as well.", "Keep one of the two.")


def broken_rules(machine: Machine) -> Iterator[Fault]:
    """Yield every fault that only shows when several keys are seen together."""
    names = [axis.name for axis in machine.axes]
    yield from _doubled(machine.board.lines, "board.lines[{}]", "The line")
    yield from _doubled(machine.board.inputs, "board.inputs[{}]", "The input")
    yield from _doubled(names, "axes[{}].name", "The axis")
    yield from _doubled((r.name for r in machine.routines), "routines[{}].name", "The routine")
    for i, axis in enumerate(machine.axes):
        yield from _lines(machine, i, axis)
        yield from _travel(i, axis)
        yield from _ratio(i, axis)
        yield from _limits(i, axis)
    for i, routine in enumerate(machine.routines):
        yield from _blocks(routine, f"routines[{i}]", set(names))
