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

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kivant.core.drive.copper import supply_volts
from kivant.core.drive.drivers import driver_kind
from kivant.core.machine.parts import Axis, Machine, find_named
from kivant.core.motor.nameplate import Nameplate, nameplate

Reals = NDArray[np.float64]

CONNECTIONS = {"half_coil": (1.0, 1.0, 1.0), "series": (2.0, 4.0, 2.0), "parallel": (0.5, 1.0, 1.0)}
"""What a connection makes of one coil's resistance, inductance and torque constant."""
_USUAL_VOLTS = 12.0


@dataclass(frozen=True, slots=True)
class Drive:
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
    count = len(kind.rows(driver) or ())
    states = [kind.excitation(driver, row) for row in range(count)]
    winding = np.array([state.coils[0] - state.coils[2] for state in states])
    fields = np.array([state.torque * np.exp(1j * math.radians(state.electrical_deg)) for state in states])
    turns = _turns(fields)
    if turns == 0:
        return 0.0, 0.0, float(np.abs(fields).max(initial=0.0))
    wave = np.exp(-2j * np.pi * turns * np.arange(count) / count)
    held = math.pi * abs(turns) / count  # half a row, electrically
    share = 2 * abs(complex(winding @ wave)) / count * math.sin(held) / held
    # Two curves T sin(a) cross where the line between the tips of their fields passes the rotor's axis.
    following = np.roll(fields, -1)
    apart = np.abs(fields - following)
    crossing = np.divide(np.abs((np.conj(fields) * following).imag), apart, out=np.zeros(count), where=apart > 1e-12)
    forward = np.abs(np.angle(following / np.where(fields == 0, 1, fields))) < math.pi * 0.75
    return share, float(np.where(forward, crossing, 0.0).min()), float(np.abs(fields).max())


def _turns(fields: NDArray[np.complex128]) -> int:
    if (np.abs(fields) < 1e-9).any():
        return 0
    return round(float(np.angle(np.roll(fields, -1) / fields).sum()) / (2 * math.pi))


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
    rate = np.asarray(full_steps_hz, np.float64)
    emf = drive.torque_constant * rate * (2 * math.pi / drive.full_steps)
    r, x = drive.resistance_ohm, drive.inductance_h * rate * (math.pi / 2)
    z2 = r * r + x * x
    z, volts, most = np.sqrt(z2), drive.volts, drive.amperes
    free = (r * most + emf) ** 2 + (x * most) ** 2 <= volts * volts * (1 + 1e-12)
    # With the voltage alone as the limit: the phasor of the voltage leads by the angle of the impedance.
    real, imaginary = volts / z - emf * r / z2, emf * x / z2
    # With both: where the circle of the current cuts that of the voltage, whose middle lies at -E/Z.
    away = np.maximum(emf / z, 1e-30)
    along = np.clip((most * most - (volts / z) ** 2 + away * away) / (2 * away), -2 * most, 2 * most)
    across2 = most * most - along * along
    both = np.where(across2 >= 0, (-along * r + np.sqrt(np.maximum(across2, 0.0)) * x) / z, 0.0)
    alone = real * real + imaginary * imaginary <= most * most
    active = np.where(free, most, np.where(alone, real, both))
    found: Reals = np.minimum(drive.torque_constant * np.maximum(active, 0.0), drive.most_nm)
    return found
