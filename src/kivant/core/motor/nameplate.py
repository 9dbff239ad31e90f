"""A motor's figures as they are used: those of its data sheet, and plausible ones where it does not tell.

What is guessed is guessed from what small stepper motors have in common, whatever their size: the heat that a winding
stands grows with the torque, and so does the inertia of the rotor; the time constant of a winding is a few
milliseconds. Each guess says how it was made.

References
----------
P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 2 and 5.
"""

from __future__ import annotations

import math

from msgspec import Struct

from kivant.core.machine.parts import Motor

_TIME_CONSTANT_S = 1.8e-3
_WATTS, _TORQUE, _POWER = 6.5, 0.34, 0.6  # a motor of 0.34 N m stands 6.5 W; others by this power of their torque
_SPIN_UP = 6e4  # holding torque over inertia of the rotor, rad/s²


class Estimate(Struct, frozen=True):
    """A figure that no data sheet told: its key, value, and why it is taken for that."""

    key: str
    value: float
    why: str


class Nameplate(Struct, frozen=True):
    """All figures of a motor, one winding (or half of one with a tap); `estimates` are those that were guessed.

    Parameters
    ----------
    current_a, resistance_ohm, inductance_h, inertia_kgm2
    holding_torque_nm : float
        With two phases on at the rated current.
    torque_constant : float
        N m/A of one winding at the peak, which is V s/rad, too.
    """

    current_a: float
    resistance_ohm: float
    inductance_h: float
    inertia_kgm2: float
    holding_torque_nm: float
    torque_constant: float
    estimates: tuple[Estimate, ...] = ()


def nameplate(motor: Motor) -> Nameplate:
    """Return the figures of a motor, with guesses for those that are not known."""
    guesses: list[Estimate] = []

    def guess(key: str, value: float, why: str) -> float:
        guesses.append(Estimate(key, float(f"{value:.3g}"), why))
        return guesses[-1].value

    holding, constant = motor.holding_torque_nm, motor.voltage_constant_vs
    if holding is None and constant is not None and motor.current_a is not None:
        holding = math.sqrt(2) * constant * motor.current_a  # no guess: it follows
    if holding is None and motor.rotor_inertia_kgm2 is not None:
        holding = guess("holding_torque_nm", _SPIN_UP * motor.rotor_inertia_kgm2, "as rotors of its inertia have it")
    if holding is None:
        heat = 2 * motor.current_a**2 * motor.resistance_ohm if motor.current_a and motor.resistance_ohm else None
        value = _TORQUE * (heat / _WATTS) ** (1 / _POWER) if heat else _TORQUE
        why = "by the heat that its windings can take" if heat else "as a motor of middling size has it"
        holding = guess("holding_torque_nm", value, why)
    inertia = motor.rotor_inertia_kgm2
    if inertia is None:
        inertia = guess("rotor_inertia_kgm2", holding / _SPIN_UP, "as motors of its holding torque have it")
    watts = _WATTS * (holding / _TORQUE) ** _POWER
    current = motor.current_a
    if current is None and constant is not None:
        current = guess("current_a", holding / (math.sqrt(2) * constant), "by holding torque and voltage constant")
    if current is None:
        ohm = motor.resistance_ohm
        value, why = (math.sqrt(watts / (2 * ohm)), "by the heat that it can take") if ohm else (1.0, "taken for 1 A")
        current = guess("current_a", value, why)
    ohm = motor.resistance_ohm
    if ohm is None:
        ohm = guess("resistance_ohm", watts / (2 * current * current), "by the heat that it can take at its current")
    henry = motor.inductance_mh / 1000 if motor.inductance_mh is not None else None
    if henry is None:
        henry = guess("inductance_mh", 1000 * _TIME_CONSTANT_S * ohm, "for a time constant of 1.8 ms") / 1000
    if constant is None:
        constant = holding / (math.sqrt(2) * current)
    return Nameplate(current, ohm, henry, inertia, holding, constant, tuple(guesses))
