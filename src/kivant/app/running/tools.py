"""The tools at the axes of the stand-in: what its steps move, with a pointer at each. They stay from run to run."""

from __future__ import annotations

from collections.abc import Mapping

from kivant.core.travel.mechanics import Mechanics, Pointer


class Tools:
    """Tools that do as their mechanics say, by the names of axes; at first there are none.

    ``shown`` is what the pointers showed when the latest run ended, in axis units; those of another board, too.
    """

    def __init__(self) -> None:
        self.mechanics: Mapping[str, Mechanics] = {}
        self.pointers: dict[str, Pointer] = {}
        self.shown: Mapping[str, float] = {}

    def put(self, mechanics: Mapping[str, Mechanics]) -> None:
        """Put new tools in the place of all that are there."""
        self.mechanics, self.shown = mechanics, {}
        self.pointers = {name: Pointer(own, seed) for seed, (name, own) in enumerate(mechanics.items())}

    def change(self, name: str, mechanics: Mechanics) -> None:
        """Put another tool at one axis; the others stay where they are."""
        self.mechanics = {**self.mechanics, name: mechanics}
        self.shown = {other: value for other, value in self.shown.items() if other != name}
        self.pointers[name] = Pointer(mechanics, list(self.mechanics).index(name))
