"""The machine as data: what a project file describes, and nothing that is computed from it.

Every class is immutable; an edit makes a new machine. What may stand in a field is said at the field
(`kivant.core.fields`); what relates several fields, in `kivant.core.machine.rules`. The kinds of drivers,
stages and blocks have modules of their own, and tables that the fields here refer to.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from datetime import date
from decimal import Decimal
from typing import Annotated, Any, Literal, Protocol, TypeVar

from msgspec import field
from msgspec.structs import replace

from kivant.core.bounds import Ge, Gt, Le, MaxLen
from kivant.core.drive.drivers import DRIVERS, Driver, Winding
from kivant.core.fields import (
    NULL_IS_WRITTEN,
    REAL,
    WHOLE,
    About,
    Count,
    DecimalText,
    Exact,
    Extra,
    Form,
    Name,
    NotNegative,
    Part,
    Positions,
    Positive,
    Rate,
    RatioText,
    Tagged,
    Title,
)
from kivant.core.geometry import GEOMETRIES, Geometry
from kivant.core.motion.blocks import BLOCKS, Block
from kivant.core.travel.stages import STAGES, Stage

MOST_PAST = 50
"""Earlier calibrations that an axis remembers."""

Unit = Literal["deg", "mm"]


class _Named(Protocol):
    @property
    def name(self) -> str:
        """What it is called."""


_AnyNamed = TypeVar("_AnyNamed", bound=_Named)


def find_named(items: Iterable[_AnyNamed], name: str) -> _AnyNamed:
    """Return the first of some items that is called `name`.

    Raises
    ------
    KeyError
        If none is.
    """
    for item in items:
        if item.name == name:
            return item
    raise KeyError(name)


class Board(Part, frozen=True, kw_only=True, dict=True):
    """What switches the lines."""

    name: Title = ""
    tick_hz: Annotated[int, Ge(1000), Le(1_000_000_000), WHOLE, About("Resolution of step instants", "Hz")] = 1_000_000
    max_pulse_hz: Annotated[Rate, About("Fastest steps on one axis", "Hz")] = 100_000.0
    lines: Annotated[tuple[Name, ...], MaxLen(256), About("Names of the outputs")] = ()
    inputs: Annotated[tuple[Name, ...], MaxLen(256), About("Names of the inputs")] = ()
    x: Extra = None


class Supply(Part, frozen=True, kw_only=True):
    """What feeds drivers."""

    name: Name
    volts: Annotated[Positive, About("Voltage", "V")]
    max_a: Annotated[Positive | None, About("Greatest current; left out: not known", "A")] = None
    x: Extra = None


class Leads(Part, frozen=True, kw_only=True):
    """What the loose wires of a motor are called, by the end of a winding that each is; joined ones as ``red + blue``.

    ``AC`` and ``BD`` are the taps between the ends of those names.
    """

    A: Name | None = None
    B: Name | None = None
    C: Name | None = None
    D: Name | None = None
    AC: Annotated[Name | None, About("Tap between A and C")] = None
    BD: Annotated[Name | None, About("Tap between B and D")] = None
    x: Extra = None


Share = Annotated[float, Gt(0), Le(1), REAL]
Pull = Annotated[float, Ge(-1e9), Le(1e9), REAL]
Margin = Annotated[float, Ge(1), Le(100), REAL]
Point = Annotated[tuple[NotNegative, ...], MaxLen(2)]
"""A speed of the rotor in full steps/s, and the torque there, N m."""


class Motor(Part, frozen=True, kw_only=True, dict=True):
    """A stepper motor by its data sheet; what is not known may be left out."""

    label: Title = ""
    winding: Winding
    full_steps_per_rev: Annotated[Count, About("Full steps of one rotor revolution")]
    current_a: Annotated[Positive | None, About("Rated current of a coil", "A")] = None
    resistance_ohm: Annotated[Positive | None, About("Resistance of a coil", "ohm")] = None
    inductance_mh: Annotated[Positive | None, About("Inductance of a coil", "mH")] = None
    holding_torque_nm: Annotated[Positive | None, About("Two phases on", "N m")] = None
    detent_torque_nm: Annotated[NotNegative | None, About("Without current", "N m")] = None
    rotor_inertia_kgm2: Annotated[Positive | None, About("Inertia of the rotor", "kg m²")] = None
    voltage_constant_vs: Annotated[Positive | None, About("Back-EMF of one winding, peak", "V s/rad")] = None
    torque_points: Annotated[
        tuple[Point, ...] | None, MaxLen(100), About("Torque by speed: full steps/s, N m; speeds rise")
    ] = None
    leads: Annotated[Leads | None, About("Names of the loose wires")] = None
    x: Extra = None


class Load(Part, frozen=True, kw_only=True):
    """What the rotor has to move besides itself, as seen at the rotor."""

    inertia_kgm2: Annotated[NotNegative, About("Inertia at the rotor", "kg m²")] = 0.0
    friction_torque_nm: Annotated[NotNegative, About("Friction at the rotor", "N m")] = 0.0
    mass_kg: Annotated[NotNegative | None, About("Moving mass at a sliding tool", "kg")] = None
    force_n: Annotated[Pull | None, About("Constant force against positive motion of a sliding tool", "N")] = None
    torque_nm: Annotated[Pull | None, About("Constant torque against positive motion, at the last shaft", "N m")] = None
    efficiency: Annotated[Share | None, About("Of the whole chain; left out: 1")] = None
    viscous_nms: Annotated[NotNegative | None, About("Torque for 1 rad/s at the last shaft", "N m s")] = None
    x: Extra = None


def _direction(value: Any) -> Any:
    if type(value) is not int or value not in (1, -1):
        raise ValueError("expected 1 or -1")
    return value


def _day(value: Any) -> Any:
    try:
        date.fromisoformat(value)
    except (TypeError, ValueError):
        raise ValueError('expected a day such as "2026-03-01"') from None
    return value


_FRACTION = r"[1-9]\d{0,79}/[1-9]\d{0,79}"
_FRACTION_SCHEMA = {"type": "string", "pattern": f"^{_FRACTION}$"}


def _fraction(value: Any) -> Any:
    if not isinstance(value, str) or not re.fullmatch(_FRACTION, value):
        raise ValueError('expected a fraction as text, such as "1600/9"')
    return value


_DAY_SCHEMA = {"type": "string", "format": "date"}


Band = Annotated[tuple[Rate, ...], MaxLen(2)]
"""Two speeds in axis units/s, the lower first."""
ShapeName = Literal["none", "trapezoid", "s_curve", "torque"]


class Limits(Part, frozen=True, kw_only=True):
    """Where an axis may go and how fast, in axis units and seconds."""

    min: Annotated[Exact | None, NULL_IS_WRITTEN, About("Least position; null: no limit")] = None
    max: Annotated[Exact | None, NULL_IS_WRITTEN, About("Greatest position; null: no limit")] = None
    speed: Rate
    acceleration: Rate
    deceleration: Rate
    jerk: Annotated[Rate | None, NULL_IS_WRITTEN, About("Change of acceleration in a second; null: at once")] = None
    start_speed: Annotated[NotNegative, About("May be jumped to and from at standstill")] = 0.0
    wrap: Annotated[
        Literal["shortest", "positive", "negative"] | None,
        About("Which way a turning axis goes to a target modulo 360"),
    ] = None
    shape: Annotated[
        ShapeName | None, About("Shape of ramps; left out: s_curve where there is a jerk, trapezoid otherwise")
    ] = None
    avoid: Annotated[
        tuple[Band, ...] | None, MaxLen(20), About("Bands of speed to pass and never to stay in: [low, high]")
    ] = None
    x: Extra = None


def shape_of(limits: Limits) -> ShapeName:
    """Return the shape of an axis's ramps."""
    return limits.shape or ("trapezoid" if limits.jerk is None else "s_curve")


Direction = Annotated[int, Form(_direction, {"enum": [1, -1]})]


class PastCalibration(Part, frozen=True, kw_only=True):
    """What was in force before the calibration that is."""

    scale: Annotated[DecimalText, About("Movement of the tool for a commanded one")] = Decimal(1)
    backlash: Annotated[NotNegative, About("Lost motion at a reversal, in axis units")] = 0.0
    measured: Annotated[str | None, Form(_day, _DAY_SCHEMA), About("The day, as in 2026-03-01")] = None
    residual: Annotated[NotNegative | None, About("What is left unexplained, in axis units")] = None
    chain: Annotated[str | None, Form(_fraction, _FRACTION_SCHEMA), About("Steps per unit of the chain then")] = None
    x: Extra = None


class Calibration(Part, frozen=True, kw_only=True):
    """What measuring found: a commanded position c moves the tool by scale x c, and play is lost at each reversal."""

    scale: Annotated[DecimalText, About("Movement of the tool for a commanded one")] = Decimal(1)
    backlash: Annotated[NotNegative, About("Lost motion at a reversal, in axis units")] = 0.0
    first_direction: Annotated[Direction, About("In which the play is taken up at the start")] = 1
    sense: Annotated[Direction | None, About("-1: the tool was seen to go against positive; it changes no step")] = None
    measured: Annotated[str | None, Form(_day, _DAY_SCHEMA), About("The day, as in 2026-03-01")] = None
    residual: Annotated[NotNegative | None, About("What is left unexplained, in axis units")] = None
    chain: Annotated[str | None, Form(_fraction, _FRACTION_SCHEMA), About("Steps per unit of the chain then")] = None
    history: Annotated[
        tuple[PastCalibration, ...] | None, MaxLen(MOST_PAST), About("Earlier ones, the latest last")
    ] = None
    x: Extra = None


class Axis(Part, frozen=True, kw_only=True, dict=True):
    """One motor with its driver, travel and limits."""

    name: Name
    unit: Unit
    positive: Annotated[Literal["cw", "ccw"], About("Seen facing the output shaft")] = "cw"
    motor: Motor
    driver: Annotated[Driver, Tagged("kind", DRIVERS)]
    travel: Annotated[
        tuple[Annotated[Stage, Tagged("stage", STAGES)], ...], MaxLen(32), About("From the rotor outwards")
    ] = ()
    load: Load = field(default_factory=Load)
    limits: Limits
    margin: Annotated[Margin | None, About("Torque that is available over what is used; left out: 1.5")] = None
    calibration: Calibration | None = None
    sold: Annotated[RatioText | None, About("What its gearbox was sold as: turns of the rotor for one behind it")] = (
        None
    )
    tolerance: Annotated[Positive | None, About("Greatest acceptable error of a place, in axis units")] = None
    x: Extra = None


class Pose(Part, frozen=True, kw_only=True):
    """Positions of axes that are kept with a name."""

    name: Name
    at: Annotated[Positions, About("Positions by axis name; axes not named stay where they are")]
    x: Extra = None


class Routine(Part, frozen=True, kw_only=True, dict=True):
    """An ordered program of blocks."""

    name: Name
    start: Annotated[Positions | None, About("Positions at the beginning; 0 if not named")] = None
    blocks: Annotated[tuple[Annotated[Block, Tagged("do", BLOCKS)], ...], MaxLen(1_000_000)] = ()
    x: Extra = None


class Machine(Part, frozen=True, kw_only=True, dict=True):
    """Everything a project file holds."""

    name: Title = ""
    notes: Annotated[str, MaxLen(1_000_000)] = ""
    board: Board = field(default_factory=Board)
    supplies: Annotated[tuple[Supply, ...] | None, MaxLen(64), About("What feeds the drivers")] = None
    axes: Annotated[tuple[Axis, ...], MaxLen(64)] = ()
    geometry: Annotated[
        Geometry | None, Tagged("kind", GEOMETRIES), About("How the axes move the tool; left out: each by itself")
    ] = None
    poses: Annotated[tuple[Pose, ...] | None, MaxLen(10_000), About("Positions that blocks go to by name")] = None
    routines: Annotated[tuple[Routine, ...], MaxLen(10_000)] = ()
    x: Extra = None

    def axis(self, name: str) -> Axis:
        """Return the axis called `name`.

        Raises
        ------
        KeyError
            If the machine has no such axis.
        """
        return find_named(self.axes, name)

    def routine(self, name: str) -> Routine:
        """Return the routine called `name`.

        Raises
        ------
        KeyError
            If the machine has no such routine.
        """
        return find_named(self.routines, name)


def alone(machine: Machine, axis: Axis) -> Machine:
    """Return a machine of one axis, without all that could name others: geometry, poses and routines."""
    return replace(machine, axes=(axis,), geometry=None, poses=None, routines=())


def start_of(routine: Routine) -> Mapping[str, Decimal]:
    """Return where a routine begins, by axis name; axes not named begin at 0."""
    return routine.start or {}
