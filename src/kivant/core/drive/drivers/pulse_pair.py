"""A driver with two pulse lines: a pulse on one is a step one way, on the other a step the other way."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from kivant.core.drive.drivers.kind import AtRest, DriverKind, Edges, Lines, level
from kivant.core.drive.drivers.pulses import PulseDriver, pulses, shared, with_enable
from kivant.core.fields import About, Extra, Name, Percent

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class PulsePairLines(Lines, frozen=True, kw_only=True):
    """The board lines of a driver with a pulse line for each direction."""

    CW: Name
    CCW: Name
    EN: Annotated[Name | None, About("Left out or null: no enable line")] = None
    x: Extra = None


class PulsePairDriver(PulseDriver, frozen=True, kw_only=True):
    """A driver that takes pulses on CW or on CCW."""

    kind: Literal["pulse_pair"] = "pulse_pair"
    lines: PulsePairLines
    at_rest: AtRest = "hold"
    reduced_percent: Annotated[Percent | None, About("Share of the current at rest, with `reduced`", "%")] = None
    x: Extra = None


def _keys(driver: PulsePairDriver) -> tuple[str, ...]:
    return with_enable(driver, "CW", "CCW")


def _levels_at(driver: PulsePairDriver, _taken: int, _sign: int) -> tuple[int, ...]:
    rest = 1 - level(driver.pulse_active)
    return (rest, rest, level(driver.enable_active))[: len(_keys(driver))]


def _edges(
    driver: PulsePairDriver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], _taken: int, _previous_sign: int
) -> Edges:
    return pulses(driver, times_ns, (signs < 0).astype("int8"))


PULSE_PAIR = DriverKind(
    type=PulsePairDriver,
    name="driver with two pulse lines",
    new=PulsePairDriver(microsteps=8, lines=PulsePairLines(CW="", CCW="", EN="")),
    keys=_keys,
    levels_at=_levels_at,
    edges=_edges,
    summary=lambda driver: f"pulse pair ×{driver.microsteps}",
    **shared(),
)
