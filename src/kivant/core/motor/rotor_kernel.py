"""The equations of motion of a two-phase rotor, integrated step by step in machine code.

Angles are electrical, 0 where the field of winding A pulls the rotor to. Between two steps of the plan the time is
divided evenly into pieces no longer than the one asked for, so that every step falls on the edge of a piece. A piece
is one step of the classical Runge-Kutta method of fourth order; what a driver does to the voltage is held over it.
Coulomb friction is exact: the rotor sticks until more than the friction pulls at it, and where its speed changes its
sign within a piece, it stops there first.

References
----------
P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 4 (dynamic behaviour).
E. Hairer, S. P. Norsett, G. Wanner, *Solving Ordinary Differential Equations I*, 2nd ed., Springer, 1993, ch. II.1.
"""

from __future__ import annotations

import math
from typing import Any

import numba

FIELDS = 8
"""Columns of a record: time, electrical angle, speed (electrical rad/s), currents, commanded angle, voltages."""


_NEAR = 0.3  # rad: so far sine and cosine follow from those nearby, to eleven digits


@numba.njit(cache=True, error_model="numpy", inline="always")
def _turned(sine: float, cosine: float, angle: float, by: float) -> tuple[float, float]:
    """Return sine and cosine of an angle further on, from those at `angle`: by their series where it is near."""
    if abs(by) > _NEAR:
        return math.sin(angle + by), math.cos(angle + by)
    q = by * by
    s = by * (1.0 - q / 6.0 * (1.0 - q / 20.0 * (1.0 - q / 42.0)))
    c = 1.0 - q / 2.0 * (1.0 - q / 12.0 * (1.0 - q / 30.0 * (1.0 - q / 56.0)))
    return sine * c + cosine * s, cosine * c - sine * s


@numba.njit(cache=True, error_model="numpy", inline="always")
def _torque(sine: float, cosine: float, a: float, b: float, constant: float, detent: float) -> float:
    # sin 4x = 4 sin x cos x (cos² x - sin² x)
    fourth = 4.0 * sine * cosine * (cosine * cosine - sine * sine)
    return constant * (b * cosine - a * sine) - detent * fourth


@numba.njit(cache=True, error_model="numpy", inline="always")
def _change(
    sine: float, cosine: float, speed: float, a: float, b: float, va: float, vb: float, against: float, stuck: bool,
    p: Any, wound: bool,
) -> tuple[float, float, float]:  # fmt: skip
    """Return the changes of speed and currents with time; that of the angle is the speed."""
    # p: pairs, inertia, constant, viscous, friction, detent, load, resistance, inductance
    ohm, henry = p[7], p[8]
    pull = 0.0
    if not stuck:
        pull = (_torque(sine, cosine, a, b, p[2], p[5]) - p[3] * speed / p[0] - p[6] - against) * p[0] / p[1]
    if not wound:
        return pull, 0.0, 0.0
    mechanical = speed / p[0]
    da = (va - ohm * a + p[2] * mechanical * sine) / henry
    db = (vb - ohm * b - p[2] * mechanical * cosine) / henry
    return pull, da, db


@numba.njit(cache=True, error_model="numpy")
def _piece(
    state: Any, sine: float, cosine: float, h: float, va: float, vb: float, against: float, stuck: bool,
    p: Any, wound: bool,
) -> None:  # fmt: skip
    """Go on by `h` seconds, from an angle whose sine and cosine are known."""
    x, w, a, b, half = state[0], state[1], state[2], state[3], 0.5 * h
    k1x = w
    k1w, k1a, k1b = _change(sine, cosine, w, a, b, va, vb, against, stuck, p, wound)
    k2x = w + half * k1w
    s, c = _turned(sine, cosine, x, half * k1x)
    k2w, k2a, k2b = _change(s, c, k2x, a + half * k1a, b + half * k1b, va, vb, against, stuck, p, wound)
    k3x = w + half * k2w
    s, c = _turned(sine, cosine, x, half * k2x)
    k3w, k3a, k3b = _change(s, c, k3x, a + half * k2a, b + half * k2b, va, vb, against, stuck, p, wound)
    k4x = w + h * k3w
    s, c = _turned(sine, cosine, x, h * k3x)
    k4w, k4a, k4b = _change(s, c, k4x, a + h * k3a, b + h * k3b, va, vb, against, stuck, p, wound)
    speed = w + h / 6.0 * (k1w + 2.0 * k2w + 2.0 * k3w + k4w)
    state[2] = a + h / 6.0 * (k1a + 2.0 * k2a + 2.0 * k3a + k4a)
    state[3] = b + h / 6.0 * (k1b + 2.0 * k2b + 2.0 * k3b + k4b)
    if against != 0.0 and speed * against < 0.0 and not stuck:
        share = w / (w - speed) if w != speed else 1.0
        state[0] = x + 0.5 * w * share * h  # it comes to rest within the piece, and is looked at again
        state[1] = 0.0
    else:
        state[0] = x + h / 6.0 * (k1x + 2.0 * k2x + 2.0 * k3x + k4x)
        state[1] = speed


@numba.njit(cache=True, error_model="numpy")
def _voltage(mode: int, asked: float, now: float, emf: float, h: float, supply: float, p: Any) -> float:
    """Return what a driver puts on a winding over a piece: all of its supply, or what makes the current as asked."""
    if mode == 2:  # plain voltage: plus, nothing or minus
        return supply if asked > 0.0 else (-supply if asked < 0.0 else 0.0)
    wanted = p[7] * now + emf + p[8] * (asked - now) / h
    found: float = min(max(wanted, -supply), supply)
    return found


@numba.njit(cache=True, error_model="numpy", nogil=True)
def integrate(
    instants: Any, asked_a: Any, asked_b: Any, commanded: Any, begin: float, end: float, longest: float,
    p: Any, mode: int, supply: float, state: Any, every: int, record: Any, until_slip: bool,
) -> tuple[float, float, int]:  # fmt: skip
    """Integrate from `begin` to `end`, s; other threads go on meanwhile.

    Parameters
    ----------
    instants : float64 array, shape (n,)
        When the command changes within that time, s.
    asked_a, asked_b, commanded : float64 arrays, shape (n + 1,)
        Currents (A) and electrical angle of the field before the first change, and after each.
    longest : float
        The longest piece, s.
    p : float64 array, shape (9,)
        Pole pairs, inertia, torque constant, viscous and Coulomb friction, detent, load, resistance, inductance.
    mode : int
        0: the currents are as asked; 1: a chopper makes them; 2: plain voltage.
    state : float64 array, shape (4,)
        Angle, speed and currents; changed in place.
    every, record : int, float64 array, shape (m, 8)
        After how many pieces a row is recorded; 0 for none.
    until_slip : bool
        Whether to end where it slips.

    Returns
    -------
    lag, first_slip, rows : float, float, int
        The greatest lag, electrical rad without sign; when it first passed half a turn, s, or -1; rows recorded.
    """
    wound, count = mode > 0, len(instants)
    greatest, slip, rows, pieces = 0.0, -1.0, 0, 0
    t = begin
    for k in range(count + 1):
        until = instants[k] if k < count else end
        a, b, field = asked_a[k], asked_b[k], commanded[k]
        if not wound:
            state[2], state[3] = a, b
        n = max(math.ceil((until - t) / longest), 1) if until > t else 0
        h = (until - t) / n if n else 0.0
        for i in range(n):
            va, vb = 0.0, 0.0
            mechanical, sine, cosine = state[1] / p[0], math.sin(state[0]), math.cos(state[0])
            if wound:
                ea, eb = -p[2] * mechanical * sine, p[2] * mechanical * cosine
                va = _voltage(mode, a, state[2], ea, h, supply, p)
                vb = _voltage(mode, b, state[3], eb, h, supply, p)
            against, stuck = 0.0, False
            if p[4] > 0.0:
                if state[1] > 0.0:
                    against = p[4]
                elif state[1] < 0.0:
                    against = -p[4]
                else:
                    pull = _torque(sine, cosine, state[2], state[3], p[2], p[5]) - p[6]
                    stuck = abs(pull) <= p[4]
                    against = p[4] if pull > 0.0 else -p[4]
            _piece(state, sine, cosine, h, va, vb, against, stuck, p, wound)
            lag = abs(field - state[0])
            if lag > greatest:
                greatest = lag
            if slip < 0.0 and lag > math.pi:
                slip = t + (i + 1) * h
                if until_slip:
                    return greatest, slip, rows
            pieces += 1
            if every and pieces % every == 0 and rows < len(record):
                record[rows, 0] = t + (i + 1) * h
                record[rows, 1:5] = state
                record[rows, 5], record[rows, 6], record[rows, 7] = field, va, vb
                rows += 1
        t = until if until > t else t
    return greatest, slip, rows
