"""The machine as data: what a project file describes, and nothing that is computed from it.

Every class is immutable; an edit makes a new machine (`dataclasses.replace`). The readers in
`kivant.files` check ranges and names before they build one, so code in the core trusts its arguments.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any, Literal

Winding = Literal["unipolar", "bipolar"]
Unit = Literal["deg", "mm"]
Level = Literal["high", "low"]
AtRest = Literal["off", "hold", "reduced"]
SequenceName = Literal["wave", "full", "half"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """What every object of a project may carry: ``x``, data of others that Kivant keeps and never reads."""

    x: Mapping[str, Any] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Board(Part):
    """What switches the lines: its time grain in Hz, its fastest pulses in Hz, its lines and inputs."""

    name: str = ""
    tick_hz: int = 1_000_000
    max_pulse_hz: float = 100_000.0
    lines: tuple[str, ...] = ()
    inputs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Motor(Part):
    """A stepper motor by its data sheet; ``None`` is a figure nobody has given yet."""

    label: str = ""
    winding: Winding
    full_steps_per_rev: int
    current_a: float | None = None
    resistance_ohm: float | None = None
    inductance_mh: float | None = None
    holding_torque_nm: float | None = None
    detent_torque_nm: float | None = None
    rotor_inertia_kgm2: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CoilLines(Part):
    """The board lines of the four coils; for a bipolar motor A+, B+, A-, B- in this order."""

    A: str
    B: str
    C: str
    D: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepDirectionLines(Part):
    """The board lines of a step/direction driver; ``EN`` is None where none is wired."""

    STEP: str
    DIR: str
    EN: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PulsePairLines(Part):
    """The board lines of a driver with a pulse line for each direction."""

    CW: str
    CCW: str
    EN: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CoilDriver(Part):
    """Four switches, one a coil end, that play a sequence of rows."""

    kind: Literal["coils"] = "coils"
    sequence: SequenceName
    supply_v: float | None = None
    active: Level = "high"
    lines: CoilLines
    at_rest: AtRest = "hold"
    reduced_percent: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PulseDriver(Part):
    """A driver that takes pulses: with a direction line, or with a line for each direction.

    Times are in microseconds. For a pulse pair, direction hold and set-up together are the least time
    between a pulse on one line and a pulse on the other, and ``positive_level`` has no meaning.
    """

    kind: Literal["step_direction", "pulse_pair"]
    microsteps: int
    supply_v: float | None = None
    current_a: float | None = None
    pulse_high_us: float = 2.0
    pulse_low_us: float = 2.0
    direction_setup_us: float = 5.0
    direction_hold_us: float = 5.0
    enable_lead_us: float = 0.0
    pulse_active: Level = "high"
    positive_level: Level = "high"
    enable_active: Level = "low"
    lines: StepDirectionLines | PulsePairLines
    at_rest: AtRest = "hold"
    reduced_percent: float | None = None


Driver = CoilDriver | PulseDriver


@dataclass(frozen=True, slots=True, kw_only=True)
class Gear(Part):
    """A pair of toothed wheels, by their tooth counts."""

    stage: Literal["gear"] = "gear"
    driving: int
    driven: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Ratio(Part):
    """A reduction known by its ratio only: a decimal ``13.73`` or a fraction ``p/q``."""

    stage: Literal["ratio"] = "ratio"
    ratio: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Belt(Part):
    """A toothed belt over a pulley: pitch in mm, teeth of the pulley."""

    stage: Literal["belt"] = "belt"
    pitch: Decimal
    teeth: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Screw(Part):
    """A screw: lead in mm per revolution."""

    stage: Literal["screw"] = "screw"
    lead: Decimal


Stage = Gear | Ratio | Belt | Screw


@dataclass(frozen=True, slots=True, kw_only=True)
class Load(Part):
    """What the rotor has to move besides itself, as seen at the rotor."""

    inertia_kgm2: float = 0.0
    friction_torque_nm: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits(Part):
    """Where an axis may go and how fast, in axis units and seconds; ``None`` for a position: no limit."""

    min: Decimal | None = None
    max: Decimal | None = None
    speed: float
    acceleration: float
    deceleration: float
    jerk: None = None
    start_speed: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Axis(Part):
    """One motor with its driver, travel and limits."""

    name: str
    unit: Unit
    positive: Literal["cw", "ccw"] = "cw"
    motor: Motor
    driver: Driver
    travel: tuple[Stage, ...] = ()
    load: Load = field(default_factory=Load)
    limits: Limits


@dataclass(frozen=True, slots=True, kw_only=True)
class Move(Part):
    """A coordinated move: ``to`` absolute and ``by`` relative targets, by axis name, in axis units."""

    do: Literal["move"] = "move"
    to: Mapping[str, Decimal] | None = None
    by: Mapping[str, Decimal] | None = None
    speed_factor: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Pause(Part):
    """Every axis rests for so many seconds."""

    do: Literal["pause"] = "pause"
    seconds: float


Block = Move | Pause


@dataclass(frozen=True, slots=True, kw_only=True)
class Routine(Part):
    """An ordered program of blocks that begins at ``start`` (0 for axes not named there)."""

    name: str
    start: Mapping[str, Decimal] | None = None
    blocks: tuple[Block, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Machine(Part):
    """Everything a project file holds."""

    name: str = ""
    notes: str = ""
    board: Board = field(default_factory=Board)
    axes: tuple[Axis, ...] = ()
    routines: tuple[Routine, ...] = ()

    def axis(self, name: str) -> Axis:
        """Return the axis called `name`.

        Raises
        ------
        KeyError
            If the machine has no such axis.
        """
        for axis in self.axes:
            if axis.name == name:
                return axis
        raise KeyError(name)

    def routine(self, name: str) -> Routine:
        """Return the routine called `name`.

        Raises
        ------
        KeyError
            If the machine has no such routine.
        """
        for routine in self.routines:
            if routine.name == name:
                return routine
        raise KeyError(name)
