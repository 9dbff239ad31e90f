"""Reading: a typed line as a block. What `kivant.core.program.sentences` writes is read as the block that it was.

Names are looked for as they are, the longest first, so that any name may hold blanks and words of the grammar.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from decimal import Decimal
from typing import Any

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.errors import Fault, ValueTextError, shown
from kivant.core.machine.parts import Axis, Machine
from kivant.core.motion.blocks import Block, Call, Each, Move, Note, Pause, Repeat, Spin

EXAMPLES = (
    "Wheel to 90 deg and Lift to 12.5 mm together", "Wheel by -30 deg, at 50 % speed",
    "Wheel to 90 deg and Lift to 12 mm, each by itself", "to pose Pick", "spin Wheel at 60 deg/s for 4 s",
    "pause 0.5 s", "repeat 3 times", "call Raise", "note what comes next",
)  # fmt: skip
"""A line of each kind."""

_MOVES = f"Write it like “{EXAMPLES[0]}”, or another line such as “{EXAMPLES[5]}” or “{EXAMPLES[6]}”."
_FACTOR = re.compile(r",?\s*at\s+([\d.]+)\s*%\s*speed\s*$")
_APART = re.compile(r",?\s*each by itself\s*$")
_TOGETHER = re.compile(r",?\s*together\s*$")
_LENGTH = re.compile(r"\s+(for|over)\s+((?:(?!\sfor\s|\sover\s).)+)$")
_WITHIN = re.compile(r",\s*within\s+(.+)$")
_COORDINATE = re.compile(r"([a-z]+)\s+(.+)")
_TURNS = re.compile(r"([\d.]+)\s*turns?$")


BEGINNING = "Wheel at 10 deg and Lift at 5 mm"
"""Where axes may begin, as a line."""


def read_positions(machine: Machine, text: str) -> dict[str, Decimal]:
    """Return the positions of axes that a line such as `BEGINNING` means; none where it is empty.

    Raises
    ------
    ValueTextError
        If it cannot be understood; it says what was expected.
    """
    parts = _parts(machine, text, ("at",), f"Write it like “{BEGINNING}”.") if text.strip() else []
    return {axis.name: quantity.as_decimal(quantity.position(axis).parse(rest)) for axis, _at, rest in parts}


def read_line(machine: Machine, line: str, before: Block | None = None) -> Block:
    """Return the block that a line means.

    Parameters
    ----------
    machine : Machine
        Whose names and units are meant.
    line : str
    before : Block, optional
        The block that the line stood for: what a line does not tell (its name, what is inside, whether it is off) is
        kept, as far as the new block can hold it.

    Raises
    ------
    ValueTextError
        If it cannot be understood; it says what was expected.
    """
    refused: ValueTextError | None = None
    for read in _ways_to_read(machine, line.strip()):
        try:
            return _keeping(read(), before)
        except ValueTextError as error:
            refused = refused or error
    assert refused is not None  # there is at least one way
    raise refused


def _ways_to_read(machine: Machine, text: str) -> Iterator[Callable[[], Block]]:
    """Yield what a text may be, the likeliest first: axes may be called like words of the grammar."""
    axis = _named((axis.name for axis in machine.axes), text)
    if axis is not None and axis[1].startswith(("to ", "by ")):
        yield lambda: _move(machine, text)
    word = next((word for word in _FIRST_WORDS if text == word or text.startswith(word + " ")), None)
    if word is not None:
        yield lambda: _FIRST_WORDS[word](machine, text[len(word) :].strip())
    elif text.startswith(("to pose ", "tool to ", "tool straight to ")):
        yield lambda: _elsewhere(machine, text)
    else:
        yield lambda: _move(machine, text)


def _keeping(block: Block, before: Block | None) -> Block:
    if before is None:
        return block
    kept: dict[str, Any] = {"name": before.name, "off": before.off, "x": getattr(before, "x", None)}
    if isinstance(block, Repeat) and isinstance(before, Repeat):
        kept["blocks"] = before.blocks
    return replace(block, **kept)


def _refused(text: str, what: str, remedy: str) -> ValueTextError:
    return ValueTextError(Fault("block", f"“{shown(text)}” {what}", remedy))


def _named(names: Iterable[str], text: str) -> tuple[str, str] | None:
    """Return the longest name that a text begins with, and the rest."""
    fitting = [name for name in names if text == name or text.startswith(name + " ")]
    name = max(fitting, key=len, default=None)
    return None if name is None else (name, text[len(name) :].strip())


def _factor(text: str) -> tuple[str, float | None]:
    match = _FACTOR.search(text)
    if not match:
        return text, None
    percent = quantity.percents().parse(f"{match.group(1)} %")
    factor = float(percent / 100)
    if not 1e-6 <= factor <= 1:
        raise _refused(match.group(0).strip(" ,"), "is not a share of the speed.", "Type 0.0001 to 100 % speed.")
    return text[: match.start()], None if factor == 1 else factor


def _parts(machine: Machine, text: str, words: Iterable[str], write: str) -> list[tuple[Axis, str, str]]:
    """Return what a text says of axes, joined by “and”: the axis, one of the words, and the rest of each.

    `write` says how to write it where it cannot be read.
    """
    found: list[tuple[Axis, str, str]] = []
    rest = text.strip()
    while rest:
        begun = _named((axis.name for axis in machine.axes), rest)
        if begun is None:
            known = ", ".join(axis.name for axis in machine.axes) or "none yet"
            remedy = f"Begin with an axis ({known}). {write}"
            raise _refused(rest, "does not begin with the name of an axis.", remedy)
        name, rest = begun
        word = next((word for word in words if rest.startswith(word + " ")), None)
        if word is None:
            raise _refused(rest or name, f"does not say “{'” or “'.join(words)}” behind {name}.", write)
        rest = rest[len(word) :].strip()
        cut = _next_axis(machine, rest)
        found.append((machine.axis(name), word, rest[:cut].strip()))
        rest = rest[cut:].strip().removeprefix("and ").strip()
    if not found:
        raise _refused(text, "names no axis.", write)
    doubled = [axis.name for k, (axis, _w, _r) in enumerate(found) if axis in [a for a, _x, _y in found[:k]]]
    if doubled:
        raise _refused(text, f"names {doubled[0]} twice.", "Name each axis once.")
    return found


def _next_axis(machine: Machine, rest: str) -> int:
    for match in re.finditer(r"\s+and\s+", rest):
        if _named((axis.name for axis in machine.axes), rest[match.end() :]) is not None:
            return match.start()
    return len(rest)


def _move(machine: Machine, text: str) -> Block:
    text, factor = _factor(text)
    apart = _APART.search(text)
    if apart:
        text = text[: apart.start()]
    text = _TOGETHER.sub("", text).strip()
    aims: dict[str, dict[str, Decimal]] = {"to": {}, "by": {}}
    for axis, word, rest in _parts(machine, text, ("to", "by"), _MOVES):
        aims[word][axis.name] = quantity.as_decimal(quantity.position(axis).parse(rest))
    made: Any = Each if apart else Move
    block: Block = made(to=aims["to"] or None, by=aims["by"] or None, speed_factor=factor)
    return block


def _elsewhere(machine: Machine, text: str) -> Block:
    """Return the move to a pose, or to a place of the tool."""
    text, factor = _factor(text)
    if text.startswith("to pose "):
        name = text.removeprefix("to pose ").strip()
        if all(pose.name != name for pose in machine.poses or ()):
            known = ", ".join(pose.name for pose in machine.poses or ()) or "none yet"
            raise _refused(name, "is no pose.", f"The machine has these: {known}.")
        return Move(pose=name, speed_factor=factor)
    tolerance = None
    if within := _WITHIN.search(text):
        tolerance, text = float(quantity.length("tolerance").parse(within.group(1))), text[: within.start()]
    line = text.startswith("tool straight to ")
    place = _place(text.removeprefix("tool straight to " if line else "tool to "))
    return Move(tool=place, straight=True if line else None, tolerance=tolerance, speed_factor=factor)


def _place(text: str) -> dict[str, Decimal]:
    """Return a place of the tool: coordinates with numbers, joined by “and” or commas."""
    found: dict[str, Decimal] = {}
    for part in re.split(r"\s+and\s+|\s*,\s*", text.strip()):
        match = _COORDINATE.fullmatch(part.strip())
        if not match:
            raise _refused(part or text, "is no coordinate with a number.", "Write it like “tool to x 80 and y 60”.")
        name, value = match.group(1), match.group(2)
        unit = quantity.angle() if name in ("turn", "tilt") else quantity.length(name)
        found[name] = quantity.as_decimal(unit.parse(value))
    return found


def _spin(machine: Machine, text: str) -> Block:
    text, factor = _factor(text)
    match = _LENGTH.search(text)
    if not match:
        raise _refused(text, "does not say for how long.", "End it with “for 4 s”, “for 2 turns” or “over 30 mm”.")
    speeds = {
        axis.name: quantity.as_decimal(quantity.speed(axis).parse(rest))
        for axis, _word, rest in _parts(machine, text[: match.start()], ("at",), f"Write it like “{EXAMPLES[4]}”.")
    }
    length = match.group(2).strip()
    leader = machine.axis(next(iter(speeds)))
    given: dict[str, float] = {}
    if match.group(1) == "over":
        given["distance"] = float(quantity.position(leader).parse(length))
    elif turns := _TURNS.fullmatch(length):
        given["turns"] = float(turns.group(1))
    else:
        given["seconds"] = _seconds(length)
    return Spin(speeds=speeds, speed_factor=factor, seconds=given.get("seconds"), turns=given.get("turns"),
                distance=given.get("distance"))  # fmt: skip


def _seconds(text: str) -> float:
    value = float(quantity.duration().parse(text))
    if value < 0:
        raise _refused(text, "is a negative time.", "Type 0 s or more.")
    return value


def _repeat(_machine: Machine, text: str) -> Block:
    times = quantity.whole(text, "number of times", ("times", "time", "turns"))
    if not 1 <= times <= 1_000_000:
        raise _refused(text, "is not between 1 and 1000000 times.", "Type a whole number in that range.")
    return Repeat(times=times)


def _call(machine: Machine, text: str) -> Block:
    if all(routine.name != text for routine in machine.routines):
        known = ", ".join(routine.name for routine in machine.routines[:12])
        raise _refused(text, "is no routine.", f"The machine has these: {known}.")
    return Call(routine=text)


_FIRST_WORDS: dict[str, Callable[[Machine, str], Block]] = {
    "pause": lambda _machine, text: Pause(seconds=_seconds(text)),
    "repeat": _repeat,
    "call": _call,
    "note": lambda _machine, text: Note(text=text),
    "spin": _spin,
}
