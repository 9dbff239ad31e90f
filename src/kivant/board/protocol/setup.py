"""What a board must be told of a machine before it can move it: lines, axes, drivers, start counts."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from kivant.board.protocol.record import PLACE_BITS
from kivant.board.protocol.syntax import quoted
from kivant.core.drive.drivers import CoilDriver, PulseDriver, board_lines, driver_kind
from kivant.core.machine import Axis, Machine
from kivant.core.motion.rates import pulse_rate
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sense import rotor_sense
from kivant.core.travel.shafts import shaft_rates


def _coils(driver: CoilDriver, sense: int) -> str:
    names = ",".join(map(quoted, board_lines(driver).values()))
    words = [row.word for row in driver_kind(driver).rows(driver) or ()]
    played = words if sense > 0 else [*words[:1], *words[:0:-1]]
    return f"COIL {names},{driver.active.upper()},{','.join(map(str, played))}"


def _pulses(word: str) -> Callable[[PulseDriver, int], str]:
    def command(driver: PulseDriver, sense: int) -> str:
        lines = [*board_lines(driver).values(), "", ""][:3]
        positive = driver.positive_level
        if sense < 0:
            lines = [lines[1], lines[0], lines[2]] if word == "PAIR" else lines
            positive = "low" if positive == "high" else "high"
        names = ",".join(map(quoted, lines))
        times = (driver.pulse_high_us, driver.pulse_low_us, driver.direction_setup_us, driver.direction_hold_us)
        levels = ",".join((driver.pulse_active, positive, driver.enable_active)).upper()
        return f"PULSe {word},{names},{','.join(f'{us:.9g}' for us in times)},{levels}"

    return command


COMMANDS: Mapping[str, Callable[[Any, int], str]] = {
    "coils": _coils,
    "step_direction": _pulses("STEP"),
    "pulse_pair": _pulses("PAIR"),
}
"""How each kind of driver is told to a board, with the sense of its rows: the command behind ``AXIS1:``."""


def _pointer(axis: Axis) -> str:
    """Return how a pointer is driven by an axis whose stages are what they say."""
    bare = replace(axis, calibration=None)
    figures = (float(steps_per_unit(bare)), *shaft_rates(bare))
    return f"POINter {quoted(axis.name)},{','.join(f'{figure:.15g}' for figure in figures)}"


def set_up(machine: Machine, places: Sequence[int], pointers: Collection[str] = ()) -> Iterator[str]:
    """Yield the commands that make a board ready for a machine, its output on last; `places` are in 2^-32 step.

    `pointers` are the axes at whose tools the board has one.
    """
    yield f"SYSTem:TICKs {machine.board.tick_hz}"
    yield f"LINE:CATalog {','.join(map(quoted, machine.board.lines))}"
    yield f"AXIS:COUNt {len(machine.axes)}"
    for number, axis in enumerate(machine.axes, start=1):
        yield f"AXIS{number}:{COMMANDS[axis.driver.kind](axis.driver, rotor_sense(axis))}"
        yield f"AXIS{number}:RATE {pulse_rate(machine, axis):.12g}"
        yield f"AXIS{number}:REST {'OFF' if axis.driver.at_rest == 'off' else 'HOLD'}"
        if axis.name in pointers:
            yield f"AXIS{number}:{_pointer(axis)}"
    if machine.axes:
        yield f"POSition {','.join(str(place >> PLACE_BITS) for place in places)}"
        yield f"POSition:SHARe {','.join(str(place % 2**PLACE_BITS) for place in places)}"
    yield "OUTPut ON"
