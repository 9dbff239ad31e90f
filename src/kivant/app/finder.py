"""The winding finder as it is used: the wires of a motor, what the meter showed between them, and what follows."""

from __future__ import annotations

from msgspec import Struct, field

from kivant.core import quantity
from kivant.core.drive.windings import WIRE_COUNTS, Found, Pair, Reading, Seen, find_windings
from kivant.core.errors import Fault, ValueTextError, shown

_WORDS: dict[str, Seen] = {"open": "open", "ol": "open", "connected": "connected"}
_LONGEST = 20


def parse_seen(text: str) -> Seen:
    """Return what a meter showed: ohms above 0, ``open`` (or OL, as meters write it), or ``connected``.

    Raises
    ------
    ValueTextError
        If the text is nothing of it.
    """
    word = _WORDS.get(text.strip().lower())
    if word is not None:
        return word
    ohm = float(quantity.ohms().parse(text))
    if not ohm > 0:
        message = f"“{shown(text.strip())}” is not above 0."
        raise ValueTextError(Fault("reading", message, "Type ohms, open, or connected if they are too few to read."))
    return ohm


class WindingFinder(Struct):
    """The wires and readings of one motor."""

    wires: list[str] = field(default_factory=lambda: ["1", "2", "3", "4"])
    readings: list[Reading] = field(default_factory=list)
    chosen: Pair | None = None  # two wires that somebody wants to measure, whatever would tell most

    @property
    def found(self) -> Found:
        """What follows from the readings."""
        return find_windings(self.readings, self.wires)

    @property
    def pair(self) -> Pair | None:
        """Between which wires the next reading is taken: those that were chosen, or that would tell most."""
        return self.chosen or self.found.next

    def set_count(self, count: int) -> None:
        """Have another number of wires; readings between wires that stay are kept.

        Raises
        ------
        ValueTextError
            If no motor has so many.
        """
        if count not in WIRE_COUNTS:
            message = f"A motor has 4, 5, 6 or 8 wires, not {count}."
            raise ValueTextError(Fault("wires", message, "Choose one of them."))
        number = 1
        while len(self.wires) < count:
            if str(number) not in self.wires:
                self.wires.append(str(number))
            number += 1
        del self.wires[count:]
        self.readings = [r for r in self.readings if set(r.wires) <= set(self.wires)]
        self.chosen = None

    def rename(self, place: int, text: str) -> None:
        """Give a wire another name, such as its colour.

        Raises
        ------
        ValueTextError
            If the name is empty, too long, or another wire's.
        """
        name, old = text.strip(), self.wires[place]
        if name == old:
            return
        if not name or len(name) > _LONGEST or not name.isprintable() or name in self.wires:
            said = "is another wire's" if name in self.wires else f"is not a name of 1 to {_LONGEST} characters"
            raise ValueTextError(Fault("wires", f"“{shown(name)}” {said}.", "Type its colour or number."))

        def renamed(pair: Pair) -> Pair:
            first, second = (name if wire == old else wire for wire in pair)
            return first, second

        self.wires[place] = name
        self.readings = [Reading(renamed(r.wires), r.seen) for r in self.readings]
        self.chosen = renamed(self.chosen) if self.chosen else None

    def choose(self, first: str, second: str) -> None:
        """Measure between two wires next."""
        self.chosen = (first, second) if first != second else None

    def take(self, text: str) -> None:
        """Take what the meter shows between the two wires; it replaces what was read there before.

        Raises
        ------
        ValueTextError
            If the text is no reading, or no two wires are chosen.
        """
        pair = self.pair
        if pair is None:
            raise ValueTextError(Fault("reading", "No two wires are chosen.", "Click one wire, then another."))
        seen = parse_seen(text)
        self.remove(pair)
        self.readings.append(Reading(pair, seen))
        self.chosen = None

    def remove(self, pair: Pair) -> None:
        """Forget what was read between two wires."""
        self.readings = [r for r in self.readings if set(r.wires) != set(pair)]

    def seen_between(self, pair: Pair) -> Seen | None:
        """Return what was read between two wires, None if nothing was."""
        return next((r.seen for r in self.readings if set(r.wires) == set(pair)), None)
