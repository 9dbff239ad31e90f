"""What every kind of stage is to the rest of the core: one record."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Any, NamedTuple

from msgspec import Struct, field

from kivant.core.errors import Fault
from kivant.core.fields import About, Part
from kivant.core.path import Path


class Stage(Part, frozen=True, kw_only=True, dict=True):
    """One link of the chain from rotor to tool; ``stage`` names its kind."""

    if TYPE_CHECKING:
        stage: str
        reverses: bool | None


Reverses = Annotated[bool | None, About("Whether its output turns against its input")]
"""The field of every stage that says whether it turns the sense round; left out, it does not."""


class Common(NamedTuple):
    """A value that is often met with, as it is typed, and what it is."""

    text: str
    words: str = ""


class StageKind(Struct, frozen=True):
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
    faults : callable (stage, place)
        Yields what is wrong between its fields.
    in_use : callable
        The keys of `fields` that a stage is said by; all of them where a kind is said in one way only.
    otherwise : callable
        The same stage said in another way, None where there is none.
    new : Stage
        What a new one is until its figures are typed.
    common : mapping
        Values that are often met with, by the key of the field, in order.
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
    faults: Callable[[Any, Path], Iterator[Fault]] = lambda _stage, _place: iter(())
    in_use: Callable[[Any], tuple[str, ...] | None] = lambda _stage: None
    otherwise: Callable[[Any], Stage | None] = lambda _stage: None
    common: Mapping[str, tuple[Common, ...]] = field(default_factory=dict)
