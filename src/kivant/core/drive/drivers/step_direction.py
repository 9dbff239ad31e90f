"""A step/direction driver: a pulse is a step, a level says which way."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from kivant.core.drive.drivers.kind import NS_PER_S, AtRest, DriverKind, Edges, Lines, level, ns
from kivant.core.drive.drivers.pulses import PulseDriver, pulses, shared, with_enable
from kivant.core.fields import About, Extra, Name, Percent

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class StepDirectionLines(Lines, frozen=True, kw_only=True):
    """The board lines of a step/direction driver; ``EN`` is None where none is wired."""

    STEP: Name
    DIR: Name
    EN: Annotated[Name | None, About("Left out or null: no enable line")] = None
    x: Extra = None


class StepDirectionDriver(PulseDriver, frozen=True, kw_only=True):
    """A driver that takes pulses on STEP and a level on DIR."""

    kind: Literal["step_direction"] = "step_direction"
    lines: StepDirectionLines
    at_rest: AtRest = "hold"
    reduced_percent: Annotated[Percent | None, About("Share of the current at rest, with `reduced`", "%")] = None
    x: Extra = None


def _keys(driver: StepDirectionDriver) -> tuple[str, ...]:
    return with_enable(driver, "STEP", "DIR")


def _levels_at(driver: StepDirectionDriver, _taken: int, sign: int) -> tuple[int, ...]:
    positive = level(driver.positive_level)
    direction = positive if sign >= 0 else 1 - positive
    return (1 - level(driver.pulse_active), direction, level(driver.enable_active))[: len(_keys(driver))]


def _edges(
    driver: StepDirectionDriver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], _taken: int, previous_sign: int
) -> Edges:
    import numpy as np

    before = np.concatenate((np.array([previous_sign], np.int8), signs))[:-1]
    turns = np.flatnonzero(signs != before)
    positive = level(driver.positive_level)
    directions = np.where(signs[turns] > 0, positive, 1 - positive).astype(np.int8)
    changes = Edges(times_ns[turns] - ns(driver.direction_setup_us), np.ones(len(turns), np.int8), directions)
    return pulses(driver, times_ns, np.zeros(len(times_ns), np.int8), changes)


STEP_DIRECTION = DriverKind(
    type=StepDirectionDriver,
    name="step/direction driver",
    new=StepDirectionDriver(microsteps=8, lines=StepDirectionLines(STEP="", DIR="", EN="")),
    keys=_keys,
    levels_at=_levels_at,
    edges=_edges,
    # The direction is set at time 0, whatever it was before.
    first_set_up_s=lambda driver: (ns(driver.direction_setup_us) + 1) / NS_PER_S,
    summary=lambda driver: f"step/dir ×{driver.microsteps}",
    **shared(),
)
