"""Axes that turn at speeds of their own, for a time, a number of turns or a distance."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Literal

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.fields import About, Extra, Factor, Positions, Positive, Seconds
from kivant.core.motion.blocks.kind import BlockKind, Off, Own, Paced, Referred, renamed_values
from kivant.core.path import Path


class Spin(Paced, frozen=True, kw_only=True):
    """Axes turn at speeds, axis units/s; turns and distance are those of the first one named."""

    do: Literal["spin"] = "spin"
    name: Own = None
    speeds: Annotated[Positions, About("Speeds by axis name, in axis units a second; the sign gives the direction")]
    seconds: Annotated[Seconds | None, About("How long", "s")] = None
    turns: Annotated[Positive | None, About("How many turns of 360 deg of the first axis named")] = None
    distance: Annotated[Positive | None, About("How far the first axis named goes, in its units")] = None
    speed_factor: Annotated[Factor | None, About("Scales the speeds")] = None
    off: Off = None
    x: Extra = None


def _mentions(block: Spin) -> Iterator[tuple[Path, str]]:
    for name in block.speeds:
        yield Path(("speeds", name)), name


def _words(block: Spin, names: Mapping[str, str]) -> str:
    return "spin " + " + ".join(called for name, called in names.items() if name in block.speeds)


def _renamed(block: Spin, what: Referred, old: str, new: str | None) -> Spin | None:
    if what != "axis" or old not in block.speeds:
        return block
    speeds = renamed_values(block.speeds, old, new)
    return replace(block, speeds=speeds) if speeds else None


def _faults(block: Spin, path: Path) -> Iterator[Fault]:
    if not block.speeds:
        yield Fault(path / "speeds", "The spin names no axis.", 'Name at least one in "speeds", such as {"Wheel": 60}.')
        return
    given = [key for key in ("seconds", "turns", "distance") if getattr(block, key) is not None]
    if len(given) != 1:
        found = " and ".join(given) if given else "none of them"
        message = f"A spin has one of seconds, turns and distance; found {found}."
        yield Fault(path, message, 'Give one of the three, such as "seconds": 4.')
    name, speed = next(iter(block.speeds.items()))
    if given and given != ["seconds"] and not speed:
        message = f"The {given[0]} are those of {name}, and its speed is 0."
        yield Fault(path / "speeds" / name, message, "Name an axis first that turns, or give seconds.")


SPIN = BlockKind(
    type=Spin,
    title="Spin",
    moves=True,
    lay=lambda _block, rows: rows.spin(),
    words=_words,
    mentions=_mentions,
    renamed=_renamed,
    faults=_faults,
)
