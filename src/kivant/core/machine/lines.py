"""Edits of the board's lines and inputs: who uses which, other names, more and fewer of them, another board."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Literal, NamedTuple

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.drive.drivers import board_lines, driver_kind
from kivant.core.errors import Fault, KivantError
from kivant.core.machine.check import checked
from kivant.core.machine.edits import Edit, with_value
from kivant.core.machine.parts import Axis, Board, Machine
from kivant.core.path import Path, axis_path

Side = Literal["lines", "inputs"]
PREFIXES: Mapping[Side, str] = {"lines": "P", "inputs": "I"}


class Use(NamedTuple):
    """A driver's line that is wired to the board: whose, and which."""

    axis: int
    key: str


def uses(machine: Machine) -> dict[str, list[Use]]:
    """Return for each line of the board who uses it; more than one is a mistake."""
    found: dict[str, list[Use]] = {line: [] for line in machine.board.lines}
    for index, axis in enumerate(machine.axes):
        for key, line in board_lines(axis.driver).items():
            found.setdefault(line, []).append(Use(index, key))
    return found


def free_lines(machine: Machine) -> list[str]:
    """Return the board's lines that no axis uses."""
    return [line for line, users in uses(machine).items() if not users]


def needed_lines(machine: Machine) -> int:
    """Return how many lines the drivers of a machine need."""
    return sum(len(board_lines(axis.driver)) for axis in machine.axes)


def new_names(taken: Iterable[str], prefix: str, count: int) -> list[str]:
    """Return so many names of lines that are not taken: ``P0``, ``P1``, ..."""
    names, number = set(taken), 0
    found: list[str] = []
    while len(found) < count:
        if f"{prefix}{number}" not in names:
            found.append(f"{prefix}{number}")
        number += 1
    return found


def with_lines(machine: Machine, count: int) -> Machine:
    """Return the machine with lines added to its board until so many are free."""
    missing = count - len(free_lines(machine))
    more = new_names(machine.board.lines, PREFIXES["lines"], missing)
    return replace(machine, board=replace(machine.board, lines=(*machine.board.lines, *more)))


def wired(axis: Axis, lines: Mapping[str, str | None]) -> Axis:
    """Return an axis with some of its driver's lines on other lines of the board."""
    names: dict[str, Any] = dict(lines)
    driver: Any = replace(axis.driver, lines=replace(axis.driver.lines, **names))
    return replace(axis, driver=driver)


def _with_axes(machine: Machine, axes: dict[int, Axis]) -> Machine:
    return replace(machine, axes=tuple(axes.get(k, axis) for k, axis in enumerate(machine.axes)))


def assign_line(use: Use, line: str) -> Edit:
    """Wire a driver's line to a line of the board; what has been there takes its place."""

    def edit(machine: Machine) -> Machine:
        if line not in machine.board.lines:
            message = f"There is no line “{line}” on the board."
            place = axis_path(use.axis, "driver", "lines", use.key)
            raise KivantError(Fault(place, message, "Use a line of the board."))
        before = getattr(machine.axes[use.axis].driver.lines, use.key)
        changed = machine
        if before is not None:
            for other in uses(machine).get(line, ()):
                axes = {other.axis: wired(changed.axes[other.axis], {other.key: before})}
                changed = _with_axes(changed, axes)
        return checked(_with_axes(changed, {use.axis: wired(changed.axes[use.axis], {use.key: line})}))

    return edit


def take_off(use: Use) -> Edit:
    """Wire a driver's line, such as its enable, to nothing.

    The edit raises `KivantError` where the driver cannot do without it.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[use.axis]
        if use.key not in driver_kind(axis.driver).optional_keys:
            place = axis_path(use.axis, "driver", "lines", use.key)
            raise KivantError(Fault(place, f"{axis.name}'s {use.key} needs a line.", "Drop it on a line of the board."))
        return checked(_with_axes(machine, {use.axis: wired(axis, {use.key: None})}))

    return edit


def exchange_lines(index: int, first: str, second: str) -> Edit:
    """Let two lines of a driver change places on the board, which is as good as swapping two plugs."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        lines = board_lines(axis.driver)
        return checked(_with_axes(machine, {index: wired(axis, {first: lines[second], second: lines[first]})}))

    return edit


def add_line(side: Side) -> Edit:
    """Add a line or an input to the board."""

    def edit(machine: Machine) -> Machine:
        names = getattr(machine.board, side)
        return with_value(machine, Path(("board", side)), (*names, *new_names(names, PREFIXES[side], 1)))

    return edit


def remove_line(side: Side, name: str) -> Edit:
    """Remove a line or an input that nothing uses.

    The edit raises `KivantError` where something does.
    """

    def edit(machine: Machine) -> Machine:
        users = uses(machine).get(name, []) if side == "lines" else []
        if users:
            said = f"{machine.axes[users[0].axis].name}'s {users[0].key} uses line {name}."
            raise KivantError(Fault(Path(("board", side)), said, "Move it to another line first."))
        names = tuple(other for other in getattr(machine.board, side) if other != name)
        return with_value(machine, Path(("board", side)), names)

    return edit


def rename_line(side: Side, old: str, text: str) -> Edit:
    """Give a line or an input another name, at the drivers too."""

    def edit(machine: Machine) -> Machine:
        new = text.strip()
        names = tuple(new if name == old else name for name in getattr(machine.board, side))
        changed: dict[str, Any] = {side: names}
        board = replace(machine.board, **changed)
        axes = {}
        if side == "lines":
            for index, axis in enumerate(machine.axes):
                own = {key: new for key, line in board_lines(axis.driver).items() if line == old}
                axes[index] = wired(axis, own) if own else axis
        return checked(_with_axes(replace(machine, board=board), axes))

    return edit


def type_board(key: str, text: str) -> Edit:
    """Give the board the name, grain of ticks (``tick_hz``) or greatest rate (``max_pulse_hz``) that was typed.

    The edit raises `ValueTextError` where the text is no frequency.
    """

    def edit(machine: Machine) -> Machine:
        value: Any = text.strip()
        if key != "name":
            rate = quantity.hertz().parse(text)
            value = round(rate) if key == "tick_hz" else float(rate)
        return with_value(machine, Path(("board", key)), value)

    return edit


def use_board(board: Board) -> Edit:
    """Put another board in the place of the machine's: drivers keep lines of the same names, others take free ones.

    The edit raises `KivantError` where the board has too few lines.
    """

    def edit(machine: Machine) -> Machine:
        needed = needed_lines(machine)
        if needed > len(board.lines):
            message = f"The board “{board.name}” has {len(board.lines)} lines; {needed} are needed."
            raise KivantError(Fault(Path(("board", "lines")), message, "Choose a board with more lines."))
        kept = {line for line in uses(machine) if line in board.lines and uses(machine)[line]}
        free = [line for line in board.lines if line not in kept]
        seen: set[str] = set()
        axes = {}
        for index, axis in enumerate(machine.axes):
            own: dict[str, str | None] = {}
            for key, line in board_lines(axis.driver).items():
                if line not in kept or line in seen:
                    own[key] = free.pop(0)
                seen.add(line)
            axes[index] = wired(axis, own)
        return checked(_with_axes(replace(machine, board=board), axes))

    return edit
