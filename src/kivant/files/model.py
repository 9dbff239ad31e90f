"""The project file's keys, their order, ranges and meaning, as pydantic models.

This is the one place that says what a file may hold; the JSON Schema is printed from it, and each model names
the class of the core it becomes. What relates several keys to each other is in `kivant.files.rules`.
"""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Annotated, Any, ClassVar, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    PlainSerializer,
    StringConstraints,
    WithJsonSchema,
)

from kivant.core import machine as core

LARGEST_EXPONENT = 15
_DECIMAL_TEXT = re.compile(r"\d{1,12}(\.\d{1,12})?")
_RATIO_TEXT = re.compile(r"(?!0+(\.0*)?$)(\d{1,12}(\.\d{1,12})?|0*[1-9]\d{0,11}/0*[1-9]\d{0,11})")


def _real(value: Any) -> Any:
    return float(value) if isinstance(value, Decimal | int) and not isinstance(value, bool) else value


def _exact(value: Any) -> Any:
    return Decimal(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _sized(value: Decimal) -> Decimal:
    if not value.is_finite() or (value and not -30 <= value.adjusted() < LARGEST_EXPONENT):
        raise ValueError("expected a position between -1e15 and 1e15, with its first digit above 1e-30")
    if len(value.as_tuple().digits) > 40:
        raise ValueError("expected at most 40 digits")
    return value


def _number_text(value: Any) -> Any:
    if isinstance(value, Decimal) and abs(value.adjusted()) < 40:
        return f"{value:f}"
    return str(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _decimal_text(value: Any) -> Any:
    text = _number_text(value)
    if not isinstance(text, str) or not _DECIMAL_TEXT.fullmatch(text) or not Decimal(text):
        raise ValueError('expected a positive decimal number as text, such as "8" or "2.032"')
    return Decimal(text)


def _ratio_text(value: Any) -> Any:
    text = _number_text(value)
    if not isinstance(text, str) or not _RATIO_TEXT.fullmatch(text):
        raise ValueError('expected a positive ratio as text, such as "13.73" or "1024/75"')
    return text


def _whole(value: Any) -> Any:
    if type(value) is not int:
        raise ValueError("expected the whole number 1")
    return value


def _plain_text(value: str) -> str:
    if not value.isprintable() or value != value.strip():
        raise ValueError("expected text without line breaks, and no space at its ends")
    return value


# The bounds stand before the validator, so that they apply to the number it makes and reach the schema.
Positive = Annotated[float, Field(gt=0, le=1e12, allow_inf_nan=False), BeforeValidator(_real)]
Rate = Annotated[float, Field(ge=1e-9, le=1e12, allow_inf_nan=False), BeforeValidator(_real)]
NotNegative = Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False), BeforeValidator(_real)]
Microseconds = Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False), BeforeValidator(_real)]
PulseTime = Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False), BeforeValidator(_real)]
Percent = Annotated[float, Field(gt=0, le=100, allow_inf_nan=False), BeforeValidator(_real)]
Factor = Annotated[float, Field(ge=1e-6, le=1, allow_inf_nan=False), BeforeValidator(_real)]
Seconds = Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False), BeforeValidator(_real)]
Count = Annotated[int, Field(ge=1, le=1_000_000)]
Exact = Annotated[
    Decimal,
    BeforeValidator(_exact),
    AfterValidator(_sized),
    WithJsonSchema({"type": "number", "exclusiveMinimum": -1e15, "exclusiveMaximum": 1e15}),
]
DecimalText = Annotated[
    Decimal,
    BeforeValidator(_decimal_text),
    PlainSerializer(lambda value: f"{value:f}"),
    WithJsonSchema(
        {
            "anyOf": [
                {"type": "string", "pattern": f"^{_DECIMAL_TEXT.pattern}$"},
                {"type": "integer", "minimum": 1},
            ]
        }
    ),
]
RatioText = Annotated[
    str,
    BeforeValidator(_ratio_text),
    WithJsonSchema(
        {
            "anyOf": [
                {"type": "string", "pattern": f"^{_RATIO_TEXT.pattern}$"},
                {"type": "integer", "minimum": 1},
            ]
        }
    ),
]
Name = Annotated[str, StringConstraints(min_length=1, max_length=80), AfterValidator(_plain_text)]
Title = Annotated[str, StringConstraints(max_length=200)]
Positions = Annotated[dict[Name, Exact], Field(description="Positions by axis name, in axis units.")]


class Model(BaseModel):
    """What all objects of the file share: exact types, no unknown keys, and ``x`` for data of others."""

    # Only the whole project is ever validated: its parts need no validators of their own.
    model_config = ConfigDict(strict=True, extra="forbid", from_attributes=True, defer_build=True)
    becomes: ClassVar[type]

    def to_core(self) -> Any:
        """Return the core's object with the same fields."""
        return self.becomes(**{name: _to_core(getattr(self, name)) for name in type(self).model_fields})


def _to_core(value: Any) -> Any:
    if isinstance(value, Model):
        return value.to_core()
    if isinstance(value, list):
        return tuple(_to_core(item) for item in value)
    return value


def _listed(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value


def _extra() -> Any:
    return Field(default=None, description="Data of other programs: kept, never read.")


Extra = dict[str, Any] | None
Lines = Annotated[list[Name], BeforeValidator(_listed), Field(max_length=256)]


class Board(Model):
    """What switches the lines."""

    becomes = core.Board
    name: Title = ""
    tick_hz: int = Field(1_000_000, ge=1000, le=1_000_000_000, description="Grain of step instants, Hz.")
    max_pulse_hz: Rate = Field(100_000.0, description="Fastest steps on one axis, Hz.")
    lines: Lines = Field(default_factory=list, description="Names of the outputs.")
    inputs: Lines = Field(default_factory=list, description="Names of the inputs.")
    x: Extra = _extra()


class Motor(Model):
    """A stepper motor by its data sheet; what is not known may be left out."""

    becomes = core.Motor
    label: Title = ""
    winding: core.Winding
    full_steps_per_rev: Count = Field(description="Full steps of one rotor revolution.")
    current_a: Positive | None = Field(None, description="Rated current of a coil, A.")
    resistance_ohm: Positive | None = Field(None, description="Resistance of a coil, ohm.")
    inductance_mh: Positive | None = Field(None, description="Inductance of a coil, mH.")
    holding_torque_nm: Positive | None = Field(None, description="Two phases on, N m.")
    detent_torque_nm: NotNegative | None = Field(None, description="Without current, N m.")
    rotor_inertia_kgm2: Positive | None = Field(None, description="kg m².")
    x: Extra = _extra()


class CoilLines(Model):
    """Board lines of the coils: A+, B+, A-, B- of a bipolar motor in this order."""

    becomes = core.CoilLines
    A: Name
    B: Name
    C: Name
    D: Name
    x: Extra = _extra()


class StepDirectionLines(Model):
    """Board lines of a step/direction driver."""

    becomes = core.StepDirectionLines
    STEP: Name
    DIR: Name
    EN: Name | None = Field(None, description="Left out or null: no enable line.")
    x: Extra = _extra()


class PulsePairLines(Model):
    """Board lines of a driver with one pulse line for each direction."""

    becomes = core.PulsePairLines
    CW: Name
    CCW: Name
    EN: Name | None = Field(None, description="Left out or null: no enable line.")
    x: Extra = _extra()


class CoilDriver(Model):
    """Four switches that play a sequence of rows."""

    becomes = core.CoilDriver
    kind: Literal["coils"]
    sequence: core.SequenceName
    supply_v: Positive | None = Field(None, description="V.")
    active: core.Level = Field("high", description="Line level that switches a coil on.")
    lines: CoilLines
    at_rest: core.AtRest = "hold"
    reduced_percent: Percent | None = Field(None, description="Share of the current at rest, with `reduced`.")
    x: Extra = _extra()


class _PulseDriver(Model):
    becomes = core.PulseDriver
    kind: str
    microsteps: int = Field(ge=1, le=10_000, description="Pulses of one full step.")
    supply_v: Positive | None = Field(None, description="V.")
    current_a: Positive | None = Field(None, description="Current the driver is set to, A.")
    pulse_high_us: PulseTime = 2.0
    pulse_low_us: PulseTime = 2.0
    direction_setup_us: Microseconds = Field(5.0, description="Direction to pulse, at least.")
    direction_hold_us: Microseconds = Field(5.0, description="Pulse to change of direction, at least.")
    enable_lead_us: Microseconds = Field(0.0, description="Enable to first pulse, at least.")
    pulse_active: core.Level = "high"
    positive_level: core.Level = Field("high", description="Level of DIR for positive motion.")
    enable_active: core.Level = "low"


class StepDirectionDriver(_PulseDriver):
    """A driver that takes pulses on STEP and a level on DIR."""

    kind: Literal["step_direction"]
    lines: StepDirectionLines
    at_rest: core.AtRest = "hold"
    reduced_percent: Percent | None = Field(None, description="Share of the current at rest, with `reduced`.")
    x: Extra = _extra()


class PulsePairDriver(_PulseDriver):
    """A driver that takes pulses on CW or on CCW."""

    kind: Literal["pulse_pair"]
    lines: PulsePairLines
    at_rest: core.AtRest = "hold"
    reduced_percent: Percent | None = Field(None, description="Share of the current at rest, with `reduced`.")
    x: Extra = _extra()


class Gear(Model):
    """A pair of toothed wheels."""

    becomes = core.Gear
    stage: Literal["gear"]
    driving: Count
    driven: Count
    x: Extra = _extra()


class Ratio(Model):
    """A reduction known by its ratio only."""

    becomes = core.Ratio
    stage: Literal["ratio"]
    ratio: RatioText
    x: Extra = _extra()


class Belt(Model):
    """A toothed belt: pitch in mm, teeth of its pulley."""

    becomes = core.Belt
    stage: Literal["belt"]
    pitch: DecimalText
    teeth: Count
    x: Extra = _extra()


class Screw(Model):
    """A screw: lead in mm."""

    becomes = core.Screw
    stage: Literal["screw"]
    lead: DecimalText
    x: Extra = _extra()


class Load(Model):
    """What the rotor moves besides itself."""

    becomes = core.Load
    inertia_kgm2: NotNegative = 0.0
    friction_torque_nm: NotNegative = 0.0
    x: Extra = _extra()


def _no_jerk(value: Any) -> None:
    if value is not None:
        raise ValueError("expected null: jerk-limited ramps are not available yet")


class Limits(Model):
    """Where an axis may go and how fast, in axis units and seconds."""

    becomes = core.Limits
    min: Exact | None = Field(None, description="null: no limit.")
    max: Exact | None = Field(None, description="null: no limit.")
    speed: Rate
    acceleration: Rate
    deceleration: Rate
    jerk: Annotated[None, BeforeValidator(_no_jerk)] = Field(None, description="null: a trapezoidal ramp.")
    start_speed: NotNegative = Field(0.0, description="May be jumped to and from at standstill.")
    x: Extra = _extra()


class Axis(Model):
    """One motor with its driver, travel and limits."""

    becomes = core.Axis
    name: Name
    unit: core.Unit
    positive: Literal["cw", "ccw"] = Field("cw", description="Seen facing the output shaft.")
    motor: Motor
    driver: Annotated[CoilDriver | StepDirectionDriver | PulsePairDriver, Field(discriminator="kind")]
    travel: Annotated[
        list[Annotated[Gear | Ratio | Belt | Screw, Field(discriminator="stage")]],
        BeforeValidator(_listed),
        Field(max_length=32),
    ] = Field(default_factory=list, description="From the rotor outwards.")
    load: Load = Field(default_factory=Load)
    limits: Limits
    x: Extra = _extra()


class Move(Model):
    """A coordinated move."""

    becomes = core.Move
    do: Literal["move"]
    to: Positions | None = Field(None, description="Absolute targets.")
    by: Positions | None = Field(None, description="Relative to the last commanded position.")
    speed_factor: Factor | None = Field(None, description="Scales the speed.")
    x: Extra = _extra()


class Pause(Model):
    """Every axis rests."""

    becomes = core.Pause
    do: Literal["pause"]
    seconds: Seconds
    x: Extra = _extra()


class Routine(Model):
    """An ordered program of blocks."""

    becomes = core.Routine
    name: Name
    start: Positions | None = Field(None, description="Positions at the beginning; 0 if not named.")
    blocks: Annotated[
        list[Annotated[Move | Pause, Field(discriminator="do")]],
        BeforeValidator(_listed),
        Field(max_length=1_000_000),
    ] = Field(default_factory=list)
    x: Extra = _extra()


class Project(Model):
    """A Kivant project file, version 1."""

    becomes = core.Machine
    format: Literal["kivant-project"] = "kivant-project"
    version: Annotated[Literal[1], BeforeValidator(_whole)] = 1
    name: Title = ""
    notes: Annotated[str, Field(max_length=1_000_000)] = ""
    board: Board = Field(default_factory=Board)
    axes: Annotated[list[Axis], BeforeValidator(_listed), Field(max_length=64)] = Field(default_factory=list)
    routines: Annotated[list[Routine], BeforeValidator(_listed), Field(max_length=10_000)] = Field(default_factory=list)
    x: Extra = _extra()

    def to_core(self) -> core.Machine:
        """Return the machine."""
        fields = set(type(self).model_fields) - {"format", "version"}
        return core.Machine(**{name: _to_core(getattr(self, name)) for name in fields})


OMITTED_WHEN_NONE = frozenset(
    {
        "x", "EN", "start", "to", "by", "speed_factor", "reduced_percent", "supply_v", "current_a",
        "resistance_ohm", "inductance_mh", "holding_torque_nm", "detent_torque_nm", "rotor_inertia_kgm2",
    }
)  # fmt: skip
"""Keys that a saved file leaves out where nothing is known; all others are always written."""
