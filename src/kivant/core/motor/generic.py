"""Motors as they are sold by size, with figures typical of none in particular: to begin with, or to compare."""

from __future__ import annotations

from typing import Literal

from kivant.core.machine.parts import Motor


def _motor(
    label: str, winding: Literal["unipolar", "bipolar"], steps: int, amps: float, ohms: float, millihenries: float,
    holding: float, detent: float, inertia: float,
) -> Motor:  # fmt: skip
    return Motor(
        label=label, winding=winding, full_steps_per_rev=steps, current_a=amps, resistance_ohm=ohms,
        inductance_mh=millihenries, holding_torque_nm=holding, detent_torque_nm=detent, rotor_inertia_kgm2=inertia,
    )  # fmt: skip


def generic_motors() -> tuple[Motor, ...]:
    """Return them, the small ones first; sizes are those of the flange."""
    return (
        _motor("small unipolar for a gearbox, 5 V", "unipolar", 32, 0.1, 50.0, 24.0, 0.008, 0.0008, 1.5e-7),
        _motor("20 mm bipolar", "bipolar", 200, 0.5, 5.5, 1.8, 0.018, 0.002, 2e-7),
        _motor("28 mm bipolar", "bipolar", 200, 0.7, 4.2, 3.0, 0.09, 0.004, 9e-7),
        _motor("35 mm bipolar", "bipolar", 200, 1.0, 2.7, 4.2, 0.16, 0.008, 1.6e-6),
        _motor("42 mm bipolar, short", "bipolar", 200, 1.3, 2.2, 3.2, 0.28, 0.012, 3.6e-6),
        _motor("42 mm bipolar, long", "bipolar", 200, 1.7, 1.6, 3.0, 0.48, 0.02, 7e-6),
        _motor("42 mm unipolar", "unipolar", 200, 1.0, 3.6, 3.2, 0.26, 0.014, 5.2e-6),
        _motor("57 mm bipolar, short", "bipolar", 200, 2.8, 0.95, 3.2, 1.2, 0.045, 2.8e-5),
        _motor("57 mm bipolar, long", "bipolar", 200, 3.5, 0.85, 3.6, 2.1, 0.07, 4.9e-5),
        _motor("86 mm bipolar", "bipolar", 200, 5.0, 0.5, 4.2, 5.5, 0.18, 1.5e-4),
    )
