"""The torque that a motor can pull at each speed, as it is driven: the envelope of what voltage and current allow.

The windings are taken for a two-phase synchronous machine in steady rotation: back-EMF ``E = k w``, resistance and
reactance ``X = L we`` in series, of which the driver sets voltage and current up to their limits. The load angle is
whatever the load makes it, so that the greatest mean torque over all angles is what can be pulled. What the rows of a
sequence make of a plain voltage is their fundamental; at low speed a row-driven motor pulls no more than the torque at
which the curves of two neighbouring rows cross.

References
----------
P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 3 and 5 (pull-out torque).
T. Kenjo and A. Sugawara, *Stepping Motors and Their Microprocessor Controls*, 2nd ed., Oxford, 1994, ch. 4 and 5.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from kivant.core.drive.copper import supply_volts
from kivant.core.drive.drivers import driver_kind
from kivant.core.machine.parts import Axis, Machine, find_named
from kivant.core.motor.nameplate import Nameplate, nameplate

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import ArrayLike, NDArray

    Reals = NDArray[np.float64]

CONNECTIONS = {"half_coil": (1.0, 1.0, 1.0), "series": (2.0, 4.0, 2.0), "parallel": (0.5, 1.0, 1.0)}
"""What a connection makes of one coil's resistance, inductance and torque constant."""
_USUAL_VOLTS = 12.0


class Drive(Struct, frozen=True):
    """What moves a rotor.

    Parameters
    ----------
    torque_constant : float
        N m/A of one winding as it is connected, at the peak.
    resistance_ohm, inductance_h : float
        Of one winding as it is connected.
    supply_v, current_a : float
        Of the supply, and the current of a winding that is set, or that the supply drives through it.
    volts, amperes : float
        The greatest amplitudes of both as the windings are driven.
    full_steps : int
        Of one revolution.
    most_nm : float
        What is pulled at standstill at the most.
    held_nm : float
        The torque that holds the rotor while it is energised.
    """

    torque_constant: float
    resistance_ohm: float
    inductance_h: float
    supply_v: float
    current_a: float
    volts: float
    amperes: float
    full_steps: int
    most_nm: float
    held_nm: float

    @property
    def ceiling_full_steps_hz(self) -> float:
        """The step rate at which the current just reverses within a step: V / 2LI."""
        return self.supply_v / (2 * self.inductance_h * self.current_a)


def drive_of(machine: Machine, axis: Axis) -> Drive:
    """Return what moves the rotor of an axis; a missing supply is taken for one of 12 V."""
    plate = nameplate(axis.motor)
    named = supply_volts(machine, axis)
    supply_v = _USUAL_VOLTS if named is None else named
    ohm, henry, constant = _connected(axis, plate)
    if driver_kind(axis.driver).rows(axis.driver) is None:
        set_a = getattr(axis.driver, "current_a", None)
        current = plate.current_a if set_a is None else set_a
        torque = constant * current
        return Drive(
            constant, ohm, henry, supply_v, current, supply_v, current, axis.motor.full_steps_per_rev, torque, torque
        )
    current = min(supply_v / ohm, _most_a(machine, axis))
    share, crossing, longest = _of_rows(axis)
    # The fundamental of rows lasts for a part of the turn: its current is larger than that of a row by the same share.
    return Drive(
        constant, ohm, henry, supply_v, current, share * supply_v, share * current, axis.motor.full_steps_per_rev,
        constant * current * crossing, constant * current * longest,
    )  # fmt: skip


def _connected(axis: Axis, plate: Nameplate) -> tuple[float, float, float]:
    ohms, henries, constants = CONNECTIONS.get(getattr(axis.driver, "connection", None) or "half_coil", (1, 1, 1))
    return plate.resistance_ohm * ohms, plate.inductance_h * henries, plate.torque_constant * constants


def _most_a(machine: Machine, axis: Axis) -> float:
    try:
        most = find_named(machine.supplies or (), axis.driver.supply or "").max_a
    except KeyError:
        most = None
    return math.inf if most is None else most


def _of_rows(axis: Axis) -> tuple[float, float, float]:
    """Return what the rows of a driver make of a voltage, relative to it and to one coil.

    Returns
    -------
    share : float
        The amplitude of the fundamental of one winding's voltage.
    crossing, longest : float
        The least torque at which the curves of neighbouring rows cross, and the greatest of any row.
    """
    kind, driver = driver_kind(axis.driver), axis.driver
    states = [kind.excitation(driver, row) for row in range(len(kind.rows(driver) or ()))]
    fields = [cmath.rect(state.torque, math.radians(state.electrical_deg)) for state in states]
    longest, turns, count = max(map(abs, fields)), _turns(fields), len(fields)
    if turns == 0:
        return 0.0, 0.0, longest
    winding = [state.coils[0] - state.coils[2] for state in states]
    wave = sum(on * cmath.exp(-2j * math.pi * turns * row / count) for row, on in enumerate(winding))
    held = math.pi * abs(turns) / count  # half a row, electrically
    share = 2 * abs(wave) / count * math.sin(held) / held
    # Two curves T sin(a) cross where the line between the tips of their fields passes the rotor's axis.
    pairs = list(zip(fields, [*fields[1:], fields[0]], strict=True))
    apart = [(abs((a.conjugate() * b).imag), abs(a - b), abs(cmath.phase(b / a))) for a, b in pairs]
    crossing = min(area / far if far > 1e-12 and turn < math.pi * 0.75 else 0.0 for area, far, turn in apart)
    return share, crossing, longest


def _turns(fields: Sequence[complex]) -> int:
    if any(abs(field) < 1e-9 for field in fields):
        return 0
    following = [*fields[1:], fields[0]]
    return round(sum(cmath.phase(b / a) for a, b in zip(fields, following, strict=True)) / (2 * math.pi))


class _OneByOne:
    """What arrays are asked for below, of single numbers: a question about one speed needs no NumPy."""

    sqrt = staticmethod(math.sqrt)
    maximum, minimum = staticmethod(max), staticmethod(min)

    @staticmethod
    def where(so: bool, one: float, other: float) -> float:
        return one if so else other


def _pulled(drive: Drive, rate: Any, of: Any) -> Any:
    """Return the torque at speeds, numbers or arrays; `of` has square roots and choices for them."""
    emf = drive.torque_constant * rate * (2 * math.pi / drive.full_steps)
    r, x = drive.resistance_ohm, drive.inductance_h * rate * (math.pi / 2)
    z2 = r * r + x * x
    z, volts, most = of.sqrt(z2), drive.volts, drive.amperes
    free = (r * most + emf) ** 2 + (x * most) ** 2 <= volts * volts * (1 + 1e-12)
    # With the voltage alone as the limit: the phasor of the voltage leads by the angle of the impedance.
    real, imaginary = volts / z - emf * r / z2, emf * x / z2
    # With both: where the circle of the current cuts that of the voltage, whose middle lies at -E/Z.
    away = of.maximum(emf / z, 1e-30)
    along = (most * most - (volts / z) ** 2 + away * away) / (2 * away)
    along = of.minimum(of.maximum(along, -2 * most), 2 * most)
    across2 = most * most - along * along
    both = of.where(across2 >= 0, (-along * r + of.sqrt(of.maximum(across2, 0.0)) * x) / z, 0.0)
    alone = real * real + imaginary * imaginary <= most * most
    active = of.where(free, most, of.where(alone, real, both))
    return of.minimum(drive.torque_constant * of.maximum(active, 0.0), drive.most_nm)


def available_at(drive: Drive, full_steps_hz: float) -> float:
    """Return the torque that can be pulled at one speed in full steps/s without sign, N m."""
    found: float = _pulled(drive, full_steps_hz, _OneByOne)
    return found


def available_nm(drive: Drive, full_steps_hz: ArrayLike) -> Reals:
    """Return the torque that can be pulled at speeds, N m.

    Parameters
    ----------
    full_steps_hz : array of float
        Speeds of the rotor in full steps/s, without sign.

    Returns
    -------
    float64 array of the same shape
    """
    import numpy as np

    found: Reals = _pulled(drive, np.asarray(full_steps_hz, np.float64), np)
    return found
