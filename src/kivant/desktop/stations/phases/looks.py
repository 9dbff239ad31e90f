"""How each kind of driver looks in the Phases station: its words, its figure, and the faces it has."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from kivant.core.drive.drivers import driver_kind, sequence_name
from kivant.core.machine import Axis
from kivant.core.travel.conversion import steps_per_full_step


class Look(Struct, frozen=True):
    """How a kind of driver looks.

    Parameters
    ----------
    words : str
        How it drives, as the rest of a heading.
    figure : callable
        The figure of the plate, of an axis.
    faces : tuple of str
        The faces it has, by their keys, in their order.
    """

    words: str
    figure: Callable[[Axis], str]
    faces: tuple[str, ...]


def _words(axis: Axis) -> tuple[int, ...]:
    return tuple(row.word for row in driver_kind(axis.driver).rows(axis.driver) or ())


_COMMON = ("finder", "symptoms", "current", "board")
_PULSES = Look(
    words="pulse by pulse",
    figure=lambda axis: f"{steps_per_full_step(axis)} microsteps",
    faces=("microsteps", "pulses", "wires", *_COMMON),
)
_COILS = Look(
    words="coil by coil",
    figure=lambda axis: f"{sequence_name(axis.driver)}, {len(_words(axis))} rows",  # type: ignore[arg-type]
    faces=("sequence", "wires", *_COMMON),
)

LOOKS: dict[str, Look] = {"coils": _COILS, "step_direction": _PULSES, "pulse_pair": _PULSES}
"""The look of each kind of driver."""
