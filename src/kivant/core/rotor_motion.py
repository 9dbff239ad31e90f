"""Rotor motion: whether the rotor of a motor follows the steps that it is given, simulated in time.

Rotor and windings obey the equations of `kivant.core.motor.rotor_kernel`: torque of both windings and the detent,
inertia, viscous and Coulomb friction, a constant load; resistance, inductance and back-EMF of the windings, fed by a
chopper that makes the currents as far as the supply can, or by the plain supply. No iron losses, no saturation.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike, NDArray

from kivant.core.drive.phases import SEQUENCES
from kivant.core.errors import Fault, KivantError
from kivant.core.kept import kept

Reals = NDArray[np.float64]
Mode = Literal["wave", "full", "half"] | int | tuple[int, ...]

_FINE = 0.06
"""Of the shortest time constant: how long a piece of the integration is."""
_AT_REST = 0.05  # full steps
_AT_ONCE = 400_000  # pieces between two checkpoints: some hundredths of a second
_MOST_PIECES = 400_000_000
_MOST_ROWS = 200_000


def _go_on() -> None:
    """Go on: nobody asks for an end."""


class RotorError(KivantError):
    """A rotor, winding or command that cannot be simulated."""


class Rotor(Struct, frozen=True):
    """A rotor and what it moves, all at its shaft.

    Parameters
    ----------
    teeth : float
        Full steps of a revolution over 4: electrical turns of one revolution.
    inertia_kgm2 : float
        With all that it moves.
    torque_nm : float
        Of one winding at rated current, at the peak.
    viscous_nms, friction_nm, detent_nm : float
    load_nm : float
        Constant, against positive motion.
    """

    teeth: float
    inertia_kgm2: float
    torque_nm: float
    viscous_nms: float = 0.0
    friction_nm: float = 0.0
    detent_nm: float = 0.0
    load_nm: float = 0.0


class Winding(Struct, frozen=True):
    """One of two windings and what feeds it: a ``chopper`` (currents as far as the supply can) or plain ``voltage``."""

    current_a: float
    resistance_ohm: float
    inductance_h: float
    supply_v: float
    drive: Literal["chopper", "voltage"] = "chopper"


class Motion(Struct, frozen=True, dict=True):
    """What a rotor has done.

    Parameters
    ----------
    follows : bool
        Whether it is where it was sent, and was never more than half an electrical turn away.
    slipped_full_steps : int
        By how many full steps it fell behind the way it was sent; negative where it went too far.
    first_slip_s : float or None
        When it first was more than half an electrical turn away.
    greatest_lag_deg : float
        The greatest angle between field and rotor, electrical deg.
    final_full_steps : float
        Where it ends, in full steps from where it began: at the stable place that it rests in, or next to.
    """

    follows: bool
    slipped_full_steps: int
    first_slip_s: float | None
    greatest_lag_deg: float
    final_full_steps: float
    _again: _Task

    @kept
    def trace(self) -> Trace:
        """The motion in time; computed when it is first asked for."""
        return self._again.trace()

    @property
    def times_s(self) -> Reals:
        """Times of the trace, s."""
        return self.trace.times_s

    @property
    def angle_deg(self) -> Reals:
        """Angle of the rotor at those times, mechanical deg."""
        return self.trace.angle_deg

    @property
    def speed(self) -> Reals:
        """Speed of the rotor at those times, full steps/s."""
        return self.trace.speed

    @property
    def currents_a(self) -> Reals:
        """Currents of both windings, A, shape (n, 2); relative to the rated one where no winding was given."""
        return self.trace.currents_a


class Trace(Struct, frozen=True):
    """A motion in time: see the properties of `Motion`; `lag_deg` is electrical, `volts` those of both windings."""

    times_s: Reals
    angle_deg: Reals
    speed: Reals
    currents_a: Reals
    lag_deg: Reals
    volts: Reals

    @property
    def slips_s(self) -> Reals:
        """When the rotor falls into another electrical turn than it was sent to, s: once for each turn."""
        halves = np.rint(self.lag_deg / 180.0)
        found, turn = [], 0
        # Between two turns it may rock to and fro: it is in another one when it is well within it.
        for at in (np.flatnonzero(np.diff(halves)) + 1).tolist():
            while abs(halves[at] - 2 * turn) >= 2:
                turn += 1 if halves[at] > 2 * turn else -1
                found.append(self.times_s[at])
        return np.array(found)

    def ringing(self, after_s: float) -> tuple[float, float]:
        """Return how far a rotor swings after a time beyond where it rests, in full steps, and how long until it rests.

        It rests when it stays within a twentieth of a full step of where it ends.
        """
        late = self.times_s >= after_s
        if not late.any():
            return 0.0, 0.0
        off = (self.lag_deg[late] - self.lag_deg[-1]) / 90.0
        swinging = np.flatnonzero(np.abs(off) > _AT_REST)
        rests_s = float(self.times_s[late][swinging[-1]]) - after_s if len(swinging) else 0.0
        crossed = np.flatnonzero(np.diff(np.sign(off)) != 0)
        return float(np.abs(off[crossed[0] :]).max()) if len(crossed) else 0.0, rests_s


def simulate(
    instants_s: ArrayLike,
    signs: ArrayLike,
    mode: Mode,
    rotor: Rotor,
    winding: Winding | None = None,
    settle_s: float = 0.3,
    finer: float = 1.0,
    checkpoint: Callable[[], None] = _go_on,
    until_slip: bool = False,
    traced: bool = False,
) -> Motion:
    """Return what a rotor does that is at rest at time 0 and then given steps.

    Parameters
    ----------
    instants_s : array of float, shape (n,)
        When steps are made, s, ascending.
    signs : array of int, shape (n,)
        1 or -1.
    mode : str, int or tuple of int
        ``wave``, ``full`` or ``half``: rows of these sequences; a number: microsteps of a full step, in quadrature;
        words of a table of one's own, coil A the lowest bit.
    rotor : Rotor
    winding : Winding, optional
        Without it the currents are as they are commanded, at once.
    settle_s : float
        How long it is watched after the last step.
    finer : float
        By how much the pieces of the integration are shorter than it takes them to be, to check that.
    checkpoint : callable
        Called now and then; what it raises ends the simulation.
    until_slip : bool
        Whether to end where it first slips, as only that is asked for.
    traced : bool
        Whether the motion in time is sure to be looked at: it is then recorded at once.

    Raises
    ------
    RotorError
        If a figure cannot be, plain voltage is asked for microsteps, or it would take too long.
    """
    times = np.ascontiguousarray(instants_s, np.float64)
    signs = np.asarray(signs, np.int64)
    task = _Task(times, signs, mode, rotor, winding, settle_s, finer, checkpoint, until_slip)
    return task.result(traced=traced)


class _Task(Struct, frozen=True, eq=False, dict=True):
    """One simulation: what `simulate` was asked, and the numbers that follow from it."""

    instants_s: Reals
    signs: NDArray[np.int64]
    mode: Mode
    rotor: Rotor
    winding: Winding | None
    settle_s: float
    finer: float = 1.0
    checkpoint: Callable[[], None] = _go_on
    until_slip: bool = False

    def __post_init__(self) -> None:
        """Refuse what cannot be simulated."""
        _refuse(self)

    @kept
    def fields(self) -> tuple[Reals, Reals, Reals]:
        """Currents relative to the rated one, and the angle of the field, before the first step and after each."""
        steps = np.concatenate(([0], np.cumsum(self.signs)))
        if isinstance(self.mode, int):
            angle = steps * (math.pi / 2 / self.mode)
            return np.cos(angle), np.sin(angle), angle
        rows = self.mode if isinstance(self.mode, tuple) else SEQUENCES[self.mode].words
        coils = np.array([[word >> bit & 1 for bit in range(4)] for word in rows], np.float64)
        a, b = coils[:, 0] - coils[:, 2], coils[:, 1] - coils[:, 3]
        on = np.unwrap(np.arctan2(np.append(b, b[0]), np.append(a, a[0])))  # and the first again, a cycle later
        cycle, row = steps // len(rows), steps % len(rows)
        return a[row], b[row], on[row] + cycle * (on[-1] - on[0])

    @kept
    def longest_s(self) -> float:
        """How long a piece may be: a small part of the shortest time constant there is."""
        rotor, winding = self.rotor, self.winding
        swing = math.sqrt(rotor.teeth * (1.5 * rotor.torque_nm + 4 * rotor.detent_nm) / rotor.inertia_kgm2)
        fastest = [1 / swing, rotor.inertia_kgm2 / rotor.viscous_nms if rotor.viscous_nms else math.inf]
        if winding is not None:
            fastest.append(winding.inductance_h / winding.resistance_ohm)
            fastest.append(winding.inductance_h * winding.current_a / winding.supply_v)
            constant = rotor.torque_nm / winding.current_a  # rotor and winding exchange energy through it
            fastest.append(math.sqrt(rotor.inertia_kgm2 * winding.inductance_h) / constant)
        return _FINE * min(fastest) / self.finer

    @property
    def end_s(self) -> float:
        """When it is looked at last."""
        return (float(self.instants_s[-1]) if len(self.instants_s) else 0.0) + self.settle_s

    def integrate(self, every: int = 0, rows: int = 0) -> tuple[Reals, float, float, Reals]:
        """Return the state at the end, the greatest lag, the first slip and what was recorded."""
        from kivant.core.motor import rotor_kernel  # machine code is made when it is first needed

        a, b, angle = self.fields
        rotor, winding = self.rotor, self.winding
        amps = winding.current_a if winding is not None else 1.0
        p = np.array([
            rotor.teeth, rotor.inertia_kgm2, rotor.torque_nm / amps, rotor.viscous_nms, rotor.friction_nm,
            rotor.detent_nm, rotor.load_nm, winding.resistance_ohm if winding else 1.0,
            winding.inductance_h if winding else 1.0,
        ])  # fmt: skip
        mode = 0 if winding is None else 1 if winding.drive == "chopper" else 2
        # At rest in the first row: with all of its current, or what the supply drives through it.
        first = amps if mode < 2 or winding is None else winding.supply_v / winding.resistance_ohm
        state = np.array([self._rest(first / amps), 0.0, a[0] * first, b[0] * first])
        record = np.empty((rows, rotor_kernel.FIELDS))
        supply = winding.supply_v if winding is not None else 0.0
        a, b, lag, slip, used, begin = a * amps, b * amps, 0.0, -1.0, 0, 0.0
        for first_step, behind, end in self._spans():
            self.checkpoint()
            own, held = slice(first_step, behind), slice(first_step, behind + 1)
            most, passed, more = rotor_kernel.integrate(
                self.instants_s[own], a[held], b[held], angle[held], begin, end, self.longest_s, p, mode, supply, state,
                every, record[used:], self.until_slip,
            )  # fmt: skip
            lag, slip, used, begin = max(lag, most), slip if slip >= 0 else passed, used + more, end
            if self.until_slip and slip >= 0:
                break
        return state, lag, slip, record[:used]

    def _spans(self) -> Iterator[tuple[int, int, float]]:
        """Yield spans of time one after another that take a moment each: first step, that behind the last, end."""
        count, first_step = max(math.ceil(self.end_s / self.longest_s / _AT_ONCE), 1), 0
        for end in np.linspace(0.0, self.end_s, count + 1)[1:].tolist():
            behind = int(np.searchsorted(self.instants_s, end)) if end < self.end_s else len(self.instants_s)
            yield first_step, behind, end
            first_step = behind

    def _rest(self, share: float) -> float:
        """Return the electrical angle at which the first row holds the load, in the middle of what friction leaves."""
        a, b, angle = self.fields
        rotor = self.rotor
        load = math.copysign(max(abs(rotor.load_nm) - rotor.friction_nm, 0.0), rotor.load_nm)

        def pull(x: float) -> float:
            own = rotor.torque_nm * share * (b[0] * math.cos(x) - a[0] * math.sin(x))
            return float(own - rotor.detent_nm * math.sin(4 * x) - load)

        low, high = float(angle[0]) - math.pi / 2, float(angle[0]) + math.pi / 2
        if pull(low) <= 0 or pull(high) >= 0:
            return float(angle[0])  # it cannot be held: it will be seen to run away
        for _ in range(80):
            middle = (low + high) / 2
            low, high = (middle, high) if pull(middle) > 0 else (low, middle)
        return (low + high) / 2

    def result(self, *, traced: bool = False) -> Motion:
        """Return what the rotor has done."""
        state, lag, slip, record = self.integrate(*self._recorded() if traced else ())
        again = replace(self, checkpoint=_go_on)
        angle = self.fields[2]
        turns = round(float(angle[-1] - state[0]) / (2 * math.pi))
        first = None if slip < 0 else slip
        sent = int(self.signs[max(int(np.searchsorted(self.instants_s, slip)) - 1, 0)]) if len(self.signs) else 1
        found = Motion(
            follows=turns == 0 and first is None,
            slipped_full_steps=4 * turns * sent,
            first_slip_s=first,
            greatest_lag_deg=math.degrees(lag),
            final_full_steps=round(float(angle[-1] - angle[0]) / (math.pi / 2), 6) - 4 * turns,
            _again=again,
        )
        if traced:
            found.__dict__["trace"] = self._trace(record)
        return found

    def _recorded(self) -> tuple[int, int]:
        """Return after how many pieces a row is recorded, and how many rows there may be."""
        pieces = int(self.end_s / self.longest_s) + 2 * len(self.instants_s) + 2
        every = max(pieces // _MOST_ROWS, 1)
        return every, pieces // every + 1

    def trace(self) -> Trace:
        """Return the motion in time, thinned to what can be looked at."""
        return self._trace(self.integrate(*self._recorded())[3])

    def _trace(self, record: Reals) -> Trace:
        angle = np.degrees(record[:, 1]) / self.rotor.teeth
        lag = np.degrees(record[:, 5] - record[:, 1])
        return Trace(record[:, 0], angle, record[:, 2] / (math.pi / 2), record[:, 3:5], lag, record[:, 6:8])


def _refuse(task: _Task) -> None:
    rotor, winding, mode = task.rotor, task.winding, task.mode
    positive = {"teeth": rotor.teeth, "inertia_kgm2": rotor.inertia_kgm2, "torque_nm": rotor.torque_nm}
    if winding is not None:
        positive |= {
            "current_a": winding.current_a, "resistance_ohm": winding.resistance_ohm,
            "inductance_h": winding.inductance_h, "supply_v": winding.supply_v,
        }  # fmt: skip
    for name, value in positive.items():
        if not (value > 0 and math.isfinite(value)):
            raise RotorError(Fault(name, f"It is {value:g}.", "Give a number above 0."))
    for name in ("viscous_nms", "friction_nm", "detent_nm"):
        if not (getattr(rotor, name) >= 0 and math.isfinite(getattr(rotor, name))):
            raise RotorError(Fault(name, f"It is {getattr(rotor, name):g}.", "Give 0 or a number above it."))
    own = isinstance(mode, tuple) and len(mode) >= 2 and all(0 <= word <= 15 for word in mode)
    if mode not in SEQUENCES and not own and not (isinstance(mode, int) and 1 <= mode <= 10_000):
        raise RotorError(Fault("mode", f"“{mode}” is none.", "Choose wave, full, half or a number of microsteps."))
    if winding is not None and winding.drive == "voltage" and isinstance(mode, int):
        raise RotorError(Fault("drive", "Plain voltage makes no microsteps.", "Choose wave, full or half."))
    times, signs = task.instants_s, task.signs
    if times.shape != signs.shape or times.ndim != 1 or not np.isfinite(times).all() or (np.abs(signs) != 1).any():
        raise RotorError(Fault("signs", "Give a sign, 1 or -1, for each instant.", "Give as many of both."))
    if len(times) and (times[0] < 0 or (np.diff(times) < 0).any()):
        raise RotorError(Fault("instants_s", "They do not ascend from 0.", "Sort them."))
    if task.end_s / task.longest_s > _MOST_PIECES:
        message = f"The rotor would be simulated in {task.end_s / task.longest_s:.3g} pieces of {task.longest_s:.3g} s."
        remedy = "Check the motor's inductance, resistance and inertia, or simulate a shorter motion."
        raise RotorError(Fault("instants_s", message, remedy))
