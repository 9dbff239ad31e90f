"""What every kind of stage is to the rest of the core: one record."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from kivant.core.fields import Part


class Stage(Part):
    """One link of the chain from rotor to tool; ``stage`` names its kind."""

    __slots__ = ()
    stage: str


@dataclass(frozen=True, slots=True)
class StageKind:
    """All that the core knows of a kind of stage.

    Parameters
    ----------
    type : type
        The data of one stage of this kind.
    name : str
        What it is called in the window.
    ratio : callable
        By how much it multiplies steps per output, exactly: per revolution, or per mm where it is `linear`.
    words : callable
        What a stage of this kind does, as the rest of a sentence.
    linear : bool
        Whether it turns revolutions into distance; it then is the last of its chain.
    sense : int
        +1 if its output turns as its input does, -1 if against it.
    new : Stage
        What a new one is until its figures are typed.
    fields : tuple of (str, str, str)
        What is typed: key, name for people, and how its text is understood (``teeth``, ``length``, ``ratio``).
    """

    type: type[Stage]
    name: str
    ratio: Callable[[Any], Fraction]
    new: Stage
    fields: tuple[tuple[str, str, str], ...]
    words: Callable[[Any], str]
    linear: bool = False
    sense: int = 1
