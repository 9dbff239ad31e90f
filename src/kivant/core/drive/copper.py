"""What a motor draws from its supply and turns into heat: at a row or microstep, in the mean, and at rest.

The model is that of standstill. A coil that is switched carries supply over resistance (its rated current, where one
of them is not known); no back-EMF and no rise of the current are reckoned with, so that a fast motor draws less. A
driver that makes the currents holds both windings in quadrature at its set peak current, which is ``I²R`` of copper
loss at every microstep; it takes that power from its supply, at the supply's voltage. Losses in iron and in the
driver, and what the shaft gives, come on top.

References
----------
P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 2 (drive circuits, winding
losses) and ch. 6 (microstepping).
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import MOST_TORQUE
from kivant.core.machine.parts import Axis, Machine, find_named
from kivant.core.travel.sense import rotor_sense


class Draw(Struct, frozen=True):
    """What one axis takes, and what is left of its torque.

    Parameters
    ----------
    supply_a : float or None
        Current from the supply, A; None where a figure for it is missing.
    loss_w : float or None
        Copper loss in the motor, W; None where a figure for it is missing.
    torque : float
        Holding torque relative to that of one coil at its full current.
    """

    supply_a: float | None
    loss_w: float | None
    torque: float

    def reduced(self, share: float) -> Draw:
        """Return the draw at a share of the current: power goes with its square, torque with the share."""
        square = share * share
        supply = None if self.supply_a is None else self.supply_a * square
        return Draw(supply, None if self.loss_w is None else self.loss_w * square, self.torque * share)


def supply_volts(machine: Machine, axis: Axis) -> float | None:
    """Return the voltage of an axis's supply: of the one it names, else the driver's own; None where neither is."""
    name = axis.driver.supply
    if name is not None:
        try:
            return find_named(machine.supplies or (), name).volts
        except KeyError:
            return None
    return axis.driver.supply_v


def coil_current(axis: Axis, volts: float | None) -> float | None:
    """Return the current of a coil that is on, A: as it is set, or supply over resistance, or the motor's rated one."""
    motor = axis.motor
    if driver_kind(axis.driver).rows(axis.driver) is None:
        set_a: float | None = getattr(axis.driver, "current_a", None)
        return motor.current_a if set_a is None else set_a
    if volts is None or motor.resistance_ohm is None:
        return motor.current_a
    return volts / motor.resistance_ohm


def draw_at(axis: Axis, volts: float | None, steps: int) -> Draw:
    """Return what an axis takes `steps` steps from row 0, while it is powered."""
    current, ohm = coil_current(axis, volts), axis.motor.resistance_ohm
    excitation = driver_kind(axis.driver).excitation(axis.driver, rotor_sense(axis) * steps)
    if driver_kind(axis.driver).rows(axis.driver) is None:
        loss = None if current is None or ohm is None else current * current * ohm
        return Draw(None if loss is None or volts is None else loss / volts, loss, excitation.torque)
    a, b, c, d = excitation.coils
    # Both ends of a winding at one level carry nothing; two halves of it are two coils.
    carrying = a + b + c + d if axis.motor.winding == "unipolar" else abs(a - c) + abs(b - d)
    if current is None:
        return Draw(None, None, excitation.torque)
    loss = None if ohm is None else carrying * current * current * ohm
    return Draw(carrying * current, loss, excitation.torque)


def draws(axis: Axis, volts: float | None) -> tuple[Draw, ...]:
    """Return what an axis takes at each step of a cycle from row 0 on; at one microstep, where all are alike."""
    table = driver_kind(axis.driver).rows(axis.driver)
    return tuple(draw_at(axis, volts, row) for row in range(len(table))) if table else (draw_at(axis, volts, 0),)


def mean_draw(axis: Axis, volts: float | None) -> Draw:
    """Return what an axis takes while it moves: the mean over the rows of its cycle."""
    return _over(draws(axis, volts), lambda values: sum(values) / len(values))


def greatest_draw(axis: Axis, volts: float | None) -> Draw:
    """Return the most that an axis takes at any row."""
    return _over(draws(axis, volts), max)


def at_rest(axis: Axis, draw: Draw) -> Draw:
    """Return what is left of a draw once a plan has ended, by what the driver does at rest."""
    driver = axis.driver
    if driver.at_rest == "off":
        return draw.reduced(0.0)
    return draw.reduced((driver.reduced_percent or 100.0) / 100) if driver.at_rest == "reduced" else draw


def held_torque_nm(axis: Axis, draw: Draw) -> float | None:
    """Return the torque that holds the rotor, N m: of the field, at least the detent torque; None if not known."""
    motor = axis.motor
    detent = motor.detent_torque_nm or 0.0
    if draw.torque == 0.0:
        return motor.detent_torque_nm
    if motor.holding_torque_nm is None:
        return None
    # The data sheet's holding torque is with two phases on. A driver's microsteps have one coil's field.
    share = draw.torque / MOST_TORQUE
    if driver_kind(axis.driver).rows(axis.driver) is None:
        set_a, rated = getattr(axis.driver, "current_a", None), motor.current_a
        share *= min(set_a / rated, 1.0) if set_a and rated else 1.0
    return max(motor.holding_torque_nm * share, detent)


def _over(table: tuple[Draw, ...], take: Callable[[list[float]], float]) -> Draw:
    supply = [draw.supply_a for draw in table if draw.supply_a is not None]
    loss = [draw.loss_w for draw in table if draw.loss_w is not None]
    return Draw(
        take(supply) if len(supply) == len(table) else None,
        take(loss) if len(loss) == len(table) else None,
        take([draw.torque for draw in table]),
    )
