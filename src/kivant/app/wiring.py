"""What a board must be told of a machine before it can move it: lines, axes, drivers, start counts."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.board.protocol import quoted
from kivant.core.driver import board_lines
from kivant.core.machine import Axis, CoilDriver
from kivant.core.phases import WORDS
from kivant.core.plan import Plan


def _axis_command(number: int, axis: Axis) -> str:
    driver, lines = axis.driver, board_lines(axis.driver)
    if isinstance(driver, CoilDriver):
        names = ",".join(map(quoted, lines.values()))
        words = ",".join(map(str, WORDS[driver.sequence]))
        return f"AXIS{number}:COIL {names},{driver.active.upper()},{words}"
    kind = "STEP" if driver.kind == "step_direction" else "PAIR"
    names = ",".join(map(quoted, [*lines.values(), "", ""][:3]))
    levels = (driver.pulse_active, driver.positive_level, driver.enable_active)
    return f"AXIS{number}:PULSe {kind},{names},{driver.pulse_high_us:g},{','.join(levels).upper()}"


def set_up(plan: Plan) -> Iterator[str]:
    """Yield the commands that make a board ready for `plan`, its output on last."""
    machine = plan.machine
    yield f"SYSTem:TICKs {machine.board.tick_hz}"
    yield f"LINE:CATalog {','.join(map(quoted, machine.board.lines))}"
    yield f"AXIS:COUNt {len(machine.axes)}"
    for number, axis in enumerate(machine.axes, start=1):
        yield _axis_command(number, axis)
        yield f"AXIS{number}:REST {'OFF' if axis.driver.at_rest == 'off' else 'HOLD'}"
    if plan.axes:
        yield f"POSition {','.join(str(axis.start_steps) for axis in plan.axes)}"
    yield "OUTPut ON"
