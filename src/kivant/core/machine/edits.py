"""Edits: pure functions that take a machine and return another one, changed in one thing and sound.

An edit that breaks a rule raises `MachineError` and changes nothing; a text that cannot be understood raises
`ValueTextError`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from typing import Any

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.drive.drivers import sequence_of
from kivant.core.drive.sequence_table import parse_table
from kivant.core.drive.wiring import ORDERS
from kivant.core.errors import Fault, ValueTextError, shown
from kivant.core.machine.check import checked_at
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path, axis_path
from kivant.core.travel.stages import STAGES, Gear, Stage, stage_kind

Edit = Callable[[Machine], Machine]

FREE = "free"
"""What is typed, or shown, for a position that has no limit."""
UNKNOWN = "not known"
"""What is typed, or shown, for a figure that nobody knows."""
NONE = "none"
"""What is typed, or shown, for a part of a load that there is not."""
ANY = "any"
"""What is typed, or shown, for an error that is not bounded."""


def with_value(machine: Machine, path: Path, value: Any) -> Machine:
    """Return the machine with another value at a path.

    Raises
    ------
    MachineError
        If the machine would not be sound.
    """
    return checked_at(_replaced(machine, path, value), path)


def _replaced(part: Any, path: Path, value: Any) -> Any:
    if not path:
        return value
    key, rest = path[0], Path(path[1:])
    if isinstance(key, int):
        return (*part[:key], _replaced(part[key], rest, value), *part[key + 1 :])
    if isinstance(part, Mapping):
        return {**part, key: _replaced(part.get(key), rest, value)}
    return replace(part, **{key: _replaced(getattr(part, key), rest, value)})


def set_value(path: Path, value: Any) -> Edit:
    """Give the value at a path another one, as when a handle is dragged."""
    return lambda machine: with_value(machine, path, value)


def typed(path: Path, text: str) -> Edit:
    """Give the value at a path of an axis the one that was typed, with or without a unit.

    What is understood follows from the path: see `READERS`, and the fields of the kinds of stages.
    """

    def edit(machine: Machine) -> Machine:
        index, inner = path.axis, path.below("axes", "*")
        assert index is not None and inner is not None
        try:
            path.look_up(machine)
        except (LookupError, AttributeError):  # the axis has another kind of driver by now, or fewer stages
            raise ValueTextError(Fault(path, "There is no such value any more.", "Look at the axis again.")) from None
        axis = machine.axes[index]
        return with_value(machine, path, _reader(axis, inner)(axis, text))

    return edit


Reader = Callable[[Axis, str], Any]
"""Turns a text typed for an axis into the value of a field; raises `ValueTextError`."""


def _end(axis: Axis, text: str) -> Any:
    free = text.strip().lower() in ("", FREE)
    return None if free else quantity.as_decimal(quantity.position(axis).parse(text))


def _speed(axis: Axis, text: str) -> float:
    return float(quantity.speed(axis).parse(text))


def _acceleration(axis: Axis, text: str) -> float:
    return float(quantity.acceleration(axis).parse(text))


def _jerk(axis: Axis, text: str) -> float | None:
    return None if text.strip().lower() in ("", NONE) else float(quantity.jerk(axis).parse(text))


def _bands(axis: Axis, text: str) -> tuple[tuple[float, float], ...] | None:
    """Read bands of speed: ``40 to 55, 90 to 100``; a unit of the second holds for the first, too."""
    if text.strip().lower() in ("", NONE):
        return None
    found, asked = [], quantity.speed(axis)
    for band in re.split(r"[;,]", text):
        ends = re.split(r"\s+to\s+|\s*[–…]\s*|(?<=\d)\s*-\s*(?=\d)", band.strip())
        if len(ends) != 2 or not all(ends):
            message = f"“{shown(band.strip())}” is not a band of speeds."
            remedy = "Type the lower and the upper one, bands separated by commas: 40 to 55, 90 to 100."
            raise ValueTextError(Fault("avoid", message, remedy))
        unit = re.sub(r"^[\d.eE+\s-]+", "", ends[1])
        first = ends[0] + unit if re.fullmatch(r"[\d.]+", ends[0]) else ends[0]
        low, high = float(asked.parse(first)), float(asked.parse(ends[1]))
        found.append((min(low, high), max(low, high)))  # in ms a step the longer time is the lower speed
    return tuple(sorted(found))


def _microseconds(_axis: Axis, text: str) -> float:
    return float(quantity.microseconds().parse(text))


def _figure(asked: Callable[[], quantity.Quantity]) -> Reader:
    """Return what reads a figure that may be left out."""

    def read(_axis: Axis, text: str) -> float | None:
        return None if text.strip().lower() in ("", UNKNOWN, NONE) else float(asked().parse(text))

    return read


def _sold(_axis: Axis, text: str) -> str | None:
    """Read a ratio as gearboxes are sold: ``1:30``, ``30:1`` or ``30``."""
    if text.strip().lower() in ("", UNKNOWN):
        return None
    plain = re.sub(r"\s", "", text)
    first, colon, second = plain.partition(":")
    ratio = second if colon and first == "1" else first if second in ("", "1") else plain
    try:
        if Fraction(ratio) > 0:
            return ratio
    except (ValueError, ZeroDivisionError):
        pass
    message = f"“{shown(text.strip())}” is not a gearbox ratio."
    raise ValueTextError(Fault("sold", message, "Type it as on its label, such as 1:30 or 30.5."))


def _tolerance(axis: Axis, text: str) -> float | None:
    return None if text.strip().lower() in ("", ANY) else float(quantity.position(axis).parse(text))


def _points(_axis: Axis, text: str) -> tuple[tuple[float, float], ...] | None:
    """Read speeds and torques in pairs, as from a data sheet: ``100 0.3, 500 0.1``, or lines with tabs."""
    if text.strip().lower() in ("", UNKNOWN, "modelled"):
        return None
    pairs = [pair.split() for pair in re.split(r"[;,\n]", text) if pair.strip()]
    try:
        if any(len(pair) != 2 for pair in pairs):
            raise ValueError
        return tuple((float(speed), float(torque)) for speed, torque in pairs)
    except ValueError:
        message = f"“{shown(text.strip())}” are not pairs of a speed and a torque."
        remedy = "Type full steps/s and Nm, pairs separated by commas: 100 0.3, 500 0.1. Use a decimal point."
        raise ValueTextError(Fault("torque points", message, remedy)) from None


def _order(_axis: Axis, text: str) -> str | None:
    order = re.sub(r"[\s,;]", "", text).upper()
    return None if order in ("", ORDERS[0]) else order


READERS: dict[str, Reader] = {
    "sold": _sold,
    "tolerance": _tolerance,
    "limits.min": _end,
    "limits.max": _end,
    "limits.speed": _speed,
    "limits.start_speed": _speed,
    "limits.acceleration": _acceleration,
    "limits.deceleration": _acceleration,
    "limits.jerk": _jerk,
    "limits.avoid": _bands,
    "driver.sequence": lambda _axis, text: sequence_of(parse_table(text)),
    "driver.wires": _order,
    "driver.microsteps": lambda _axis, text: quantity.whole(text, "number of microsteps", ("microsteps",)),
    "driver.pulse_high_us": _microseconds,
    "driver.pulse_low_us": _microseconds,
    "driver.direction_setup_us": _microseconds,
    "driver.direction_hold_us": _microseconds,
    "driver.enable_lead_us": _microseconds,
    "driver.supply_v": _figure(quantity.volts),
    "driver.current_a": _figure(quantity.amperes),
    "driver.reduced_percent": _figure(quantity.percents),
    "motor.label": lambda _axis, text: text.strip(),
    "motor.current_a": _figure(quantity.amperes),
    "motor.resistance_ohm": _figure(quantity.ohms),
    "motor.inductance_mh": _figure(quantity.millihenries),
    "motor.holding_torque_nm": _figure(quantity.newton_metres),
    "motor.detent_torque_nm": _figure(quantity.newton_metres),
    "motor.rotor_inertia_kgm2": _figure(quantity.inertia),
    "motor.voltage_constant_vs": _figure(quantity.volt_seconds),
    "motor.torque_points": _points,
    "load.mass_kg": _figure(quantity.kilograms),
    "load.force_n": _figure(quantity.newtons),
    "load.torque_nm": _figure(quantity.newton_metres),
    "load.viscous_nms": _figure(quantity.viscous),
    "load.efficiency": _figure(quantity.efficiency),
    "margin": _figure(quantity.margin),
    "load.inertia_kgm2": lambda _axis, text: float(quantity.inertia().parse(text)),
    "load.friction_torque_nm": lambda _axis, text: float(quantity.newton_metres().parse(text)),
    "motor.full_steps_per_rev": lambda _axis, text: quantity.full_steps(text),
}
"""How a typed text is understood, by the field's path in its axis."""

STAGE_READERS: dict[str, Reader] = {
    "teeth": lambda _axis, text: quantity.whole(text, "number of teeth", ("teeth", "tooth")),
    "length": lambda _axis, text: quantity.as_decimal(quantity.length().parse(text)),
    "ratio": lambda _axis, text: text.strip().removeprefix("1 :").removeprefix("1:").strip(),
}
"""How a typed text is understood, by what the kind of a stage says of its field."""


def _reader(axis: Axis, inner: Path) -> Reader:
    reader = READERS.get(str(inner))
    stage = inner.below("travel", "*")
    if stage is not None and isinstance(inner[1], int):
        kinds = {key: kind for key, _name, kind in stage_kind(axis.travel[inner[1]]).fields}
        reader = STAGE_READERS.get(kinds.get(str(stage), ""))
    if reader is None:
        raise ValueTextError(Fault(inner, "This value cannot be typed.", "Change it in the project file."))
    return reader


def _with_travel(machine: Machine, index: int, travel: tuple[Stage, ...]) -> Machine:
    return with_value(machine, axis_path(index, "travel"), travel)


def add_stage(index: int, kind: str) -> Edit:
    """Add a stage to axis `index`: before the one that turns revolutions into distance, or at the end."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        at = len(travel) - 1 if travel and stage_kind(travel[-1]).linear else len(travel)
        return _with_travel(machine, index, (*travel[:at], STAGES[kind].new, *travel[at:]))

    return edit


def remove_stage(index: int, position: int) -> Edit:
    """Remove a stage."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        return _with_travel(machine, index, (*travel[:position], *travel[position + 1 :]))

    return edit


def move_stage(index: int, position: int, to: int) -> Edit:
    """Move a stage to another place of the chain."""

    def edit(machine: Machine) -> Machine:
        travel = list(machine.axes[index].travel)
        travel.insert(to, travel.pop(position))
        return _with_travel(machine, index, tuple(travel))

    return edit


def replace_last_stage(index: int, kind: str) -> Edit:
    """Change the last stage for a new one of another kind."""

    def edit(machine: Machine) -> Machine:
        return _with_travel(machine, index, (*machine.axes[index].travel[:-1], STAGES[kind].new))

    return edit


def turn_stage_round(index: int, position: int) -> Edit:
    """Let a stage turn the sense round, or not any more."""

    def edit(machine: Machine) -> Machine:
        travel = list(machine.axes[index].travel)
        changes: dict[str, Any] = {"reverses": None if travel[position].reverses else True}
        travel[position] = replace(travel[position], **changes)
        return _with_travel(machine, index, tuple(travel))

    return edit


def say_stage_otherwise(index: int, position: int) -> Edit:
    """Say the same stage in another way, such as a screw by its pitch and starts."""

    def edit(machine: Machine) -> Machine:
        travel = list(machine.axes[index].travel)
        travel[position] = stage_kind(travel[position]).otherwise(travel[position]) or travel[position]
        return _with_travel(machine, index, tuple(travel))

    return edit


def gears_for_ratio(index: int, position: int, pairs: Sequence[tuple[int, int]]) -> Edit:
    """Put pairs of wheels in the place of a stage of which only the ratio was known; its sense stays as it was."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        reverses = travel[position].reverses
        gears = [Gear(driving=a, driven=b, reverses=reverses if k == 0 else None) for k, (a, b) in enumerate(pairs)]
        changed = _with_travel(machine, index, (*travel[:position], *gears, *travel[position + 1 :]))
        return with_value(changed, axis_path(index, "calibration"), None)  # its scale was that of the ratio

    return edit


def true_ratio(index: int, position: int, ratio: Fraction) -> Edit:
    """Put another ratio in the place of the one that was sold; its sense stays as it was."""

    def edit(machine: Machine) -> Machine:
        changed = with_value(machine, axis_path(index, "travel", position, "ratio"), str(ratio))
        return with_value(changed, axis_path(index, "calibration"), None)  # its scale was that of the old one

    return edit


def turn_axis_round(index: int) -> Edit:
    """Call the other direction positive."""

    def edit(machine: Machine) -> Machine:
        other = "ccw" if machine.axes[index].positive == "cw" else "cw"
        return with_value(machine, axis_path(index, "positive"), other)

    return edit


def rename_machine(name: str) -> Edit:
    """Give the machine another name, or none."""
    return lambda machine: with_value(machine, Path(("name",)), name.strip())


def set_notes(text: str) -> Edit:
    """Give the machine other notes."""
    return set_value(Path(("notes",)), text)
