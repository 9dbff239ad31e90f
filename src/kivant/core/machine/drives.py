"""Edits of an axis's drive: another kind of driver, another unit, and what the winding finder has found."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any, get_args

from msgspec.structs import replace

from kivant.core.drive.drivers import DRIVERS, AtRest, Driver, board_lines
from kivant.core.drive.phases import SEQUENCES
from kivant.core.drive.switches import bank_of
from kivant.core.drive.windings import Found
from kivant.core.errors import Fault, KivantError, ValueTextError
from kivant.core.machine.check import checked
from kivant.core.machine.edits import Edit, with_value
from kivant.core.machine.lines import free_lines, with_lines
from kivant.core.machine.parts import Axis, Leads, Machine, Motor, Unit
from kivant.core.path import axis_path
from kivant.core.travel.conversion import steps_per_full_step
from kivant.core.travel.stages import STAGES, stage_kind

_OWN = ("kind", "lines", "x")


def change_driver(index: int, kind: str) -> Edit:
    """Give an axis a driver of another kind; what both kinds have is kept, and so is the resolution where it can be.

    The first lines of both are wired alike; lines that the old one has not are free ones of the board, or new ones.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        old, new = axis.driver, DRIVERS[kind].new
        if old.kind == kind:
            return machine
        shared = {*old.__struct_fields__} & {*new.__struct_fields__} - {*_OWN}
        kept: dict[str, Any] = {name: getattr(old, name) for name in shared}
        kept |= _resolution(steps_per_full_step(axis), kind)
        keys, lines = DRIVERS[kind].keys(new), list(board_lines(old).values())
        machine = with_lines(machine, len(keys) - len(lines))
        lines += free_lines(machine)
        wiring: Any = replace(new.lines, **dict(zip(keys, lines, strict=False)))
        driver: Driver = replace(new, **kept, lines=wiring)
        axes = (*machine.axes[:index], replace(axis, driver=driver), *machine.axes[index + 1 :])
        return checked(replace(machine, axes=axes))

    return edit


def _resolution(per_full_step: int | Fraction, kind: str) -> dict[str, Any]:
    """Return the field that gives a driver of a kind as many steps a full step, or the nearest to it."""
    if "microsteps" in DRIVERS[kind].type.__struct_fields__:
        return {"microsteps": max(round(per_full_step), 1)}
    finest = max(SEQUENCES, key=lambda name: SEQUENCES[name].steps_per_full_step)
    same = [name for name, sequence in SEQUENCES.items() if sequence.steps_per_full_step == per_full_step]
    return {"sequence": same[-1] if same else finest}


def change_unit(index: int, unit: Unit) -> Edit:
    """Let an axis turn (deg) or slide (mm): the stage that turns revolutions into distance goes or comes.

    The numbers of its limits stay as they are.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        travel = tuple(stage for stage in axis.travel if not stage_kind(stage).linear)
        if unit == "mm":
            travel = (*travel, *(stage for stage in axis.travel if stage_kind(stage).linear)) or travel
            travel = travel if travel and stage_kind(travel[-1]).linear else (*travel, STAGES["screw"].new)
        limits = axis.limits if unit == "deg" else replace(axis.limits, wrap=None)  # only what turns wraps
        changed = replace(axis, unit=unit, travel=travel, limits=limits)
        return checked(replace(machine, axes=(*machine.axes[:index], changed, *machine.axes[index + 1 :])))

    return edit


UNITS: tuple[Unit, ...] = get_args(Unit)
"""Every unit that an axis may have."""


def leads_of(found: Found) -> Leads:
    """Return which loose wire is which end of the windings that were found.

    Ends of one winding are A and C, of the other B and D; four coils are taken two in series, in the order found;
    where the taps are joined, the four ends come in the order of their names, since no meter tells more.
    """
    if found.kind == "common_tap":
        assert found.common is not None
        ends: dict[str, Any] = dict(zip("ABCD", found.ends, strict=True))
        return Leads(**ends, AC=found.common, BD=found.common)
    if found.kind == "four_coils":
        (a, ac), (other_ac, c), (b, bd), (other_bd, d) = (winding.ends for winding in found.windings)
        return Leads(A=a, B=b, C=c, D=d, AC=f"{ac} + {other_ac}", BD=f"{bd} + {other_bd}")
    first, second = found.windings
    return Leads(A=first.ends[0], B=second.ends[0], C=first.ends[1], D=second.ends[1], AC=first.tap, BD=second.tap)


def use_windings(index: int, found: Found) -> Edit:
    """Put into an axis what was found: kind of winding, resistance of a coil, and which wire goes to which output.

    The edit raises `KivantError` while the windings are not known.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        if found.kind in ("incomplete", "contradictory"):
            raise KivantError(Fault("windings", "The windings are not known yet.", "Measure between more wires."))
        motor = replace(axis.motor, leads=leads_of(found), winding=_winding(axis, found))
        ohm = _coil_ohm(found, motor.winding)
        motor = replace(motor, resistance_ohm=motor.resistance_ohm if ohm is None else ohm)
        changed = replace(axis, motor=motor)
        if getattr(axis.driver, "wires", None) is not None:
            driver: Any = replace(axis.driver, wires=None)
            changed = replace(changed, driver=driver)
        return checked(replace(machine, axes=(*machine.axes[:index], changed, *machine.axes[index + 1 :])))

    return edit


def _winding(axis: Axis, found: Found) -> Any:
    """Return how the windings are used: with their taps, where there are any and the driver can."""
    if found.kind == "two_coils":
        return "bipolar"
    if found.kind == "common_tap":
        return "unipolar"
    switched = axis.driver.kind == "coils" and getattr(axis.driver, "outputs", None) != "bridge"
    return "unipolar" if switched and found.kind == "two_tapped" else "bipolar"


def _coil_ohm(found: Found, winding: str) -> float | None:
    """Return the resistance of one coil as it is used, rounded to what a meter tells; None where nothing was read."""
    known = [w.ohm for w in found.windings if w.ohm is not None]
    if found.half_ohm is not None:
        return float(f"{found.half_ohm:.2g}")
    if not known:
        return None
    whole = sum(known) / len(known)
    share = 0.5 if winding == "unipolar" else 2.0 if found.kind == "four_coils" else 1.0
    return float(f"{whole * share:.2g}")


def set_values(index: int, values: Mapping[tuple[str, ...], Any]) -> Edit:
    """Give several values of an axis others at once, by their paths in it."""

    def edit(machine: Machine) -> Machine:
        for inner, value in values.items():
            machine = with_value(machine, axis_path(index, *inner), value)
        return machine

    return edit


def use_motor(index: int, motor: Motor) -> Edit:
    """Put another motor in the place of an axis's; names of loose wires stay where the winding is of the same kind."""

    def edit(machine: Machine) -> Machine:
        known = machine.axes[index].motor
        leads = motor.leads or (known.leads if known.winding == motor.winding else None)
        return with_value(machine, axis_path(index, "motor"), replace(motor, leads=leads))

    return edit


USUAL_SHARE = 50.0
"""Per cent of the current that usually hold a load at rest."""


def rest_in(index: int, way: AtRest) -> Edit:
    """Choose what happens at rest; a share of the current that was never given is the usual one."""

    def edit(machine: Machine) -> Machine:
        place, driver = axis_path(index, "driver"), machine.axes[index].driver
        if way == "reduced" and driver.reduced_percent is None:
            machine = with_value(machine, place / "reduced_percent", USUAL_SHARE)
        return with_value(machine, place / "at_rest", way)

    return edit


def describe_switches(index: int, key: str, text: str) -> Edit:
    """Take a typed table of a driver's switches (``switches`` or ``current_switches``); empty: it has none.

    The edit raises `ValueTextError` where the text is no table.
    """

    def edit(machine: Machine) -> Machine:
        place, driver = axis_path(index, "driver", key), machine.axes[index].driver
        if not text.strip():
            return with_value(machine, place, None)
        try:
            bank = bank_of(text, getattr(driver, key), currents=key != "switches")
        except ValueError as error:
            raise ValueTextError(Fault(place, str(error))) from None
        return with_value(machine, place, bank)

    return edit


def set_lead(index: int, end: str, text: str) -> Edit:
    """Name the loose wire that is an end of a winding; an empty text takes the name away."""

    def edit(machine: Machine) -> Machine:
        leads = machine.axes[index].motor.leads or Leads()
        named: dict[str, Any] = {end: text.strip() or None}
        changed = replace(leads, **named)
        return with_value(machine, axis_path(index, "motor", "leads"), None if changed == Leads() else changed)

    return edit
