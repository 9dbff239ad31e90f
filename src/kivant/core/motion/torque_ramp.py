"""Ramps whose acceleration follows what is available at each speed: between nodes it changes evenly over time."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from kivant.core.motion.peak import peak_speed
from kivant.core.motion.ramp import Ramps, joined, left_over
from kivant.core.motion.segment import Reals

NODES = 16
"""Pieces of a ramp between standstill and its greatest speed."""

_BETWEEN = 5  # places within a piece at which it is held against what is available
_ASIDE = 1.001  # of the square of the acceleration: what may lie between those places
_SPEEDS = 96  # at which what is available is looked at
_NARROWINGS = 12  # of them to those that a short movement reaches


class Pull(NamedTuple):
    """What an axis can do at each speed in one direction; in steps and seconds.

    Parameters
    ----------
    speeds : array, shape (m,)
        Rising from 0; the last is the greatest at which there is something left.
    up, down : arrays, shape (m,), > 0
        Acceleration and deceleration at those speeds, evenly changing between them.
    """

    speeds: Reals
    up: Reals
    down: Reals


def speed_grid(first: Reals, last: Reals, count: int) -> Reals:
    """Return speeds from first to last, closer together towards the last, shape (n, count)."""
    share = 1.0 - (1.0 - np.linspace(0.0, 1.0, count)) ** 2
    found = np.asarray(first)[..., None] + np.asarray(last - first)[..., None] * share
    found[..., -1] = last
    return found


class _Ramp(NamedTuple):
    """One way from the lower speed to the higher: nodes of speed, accelerations there, and the distance so far."""

    speeds: Reals
    rates: Reals
    ways: Reals

    @classmethod
    def through(cls, speeds: Reals, rates: Reals, available: Callable[[Reals], Reals]) -> _Ramp:
        """Return the ramp that stays below what is available, which is `rates` at `speeds`, arrays of shape (n, m)."""
        seconds = np.diff(speeds) * (1 / rates[:, 1:] + 1 / rates[:, :-1])
        falls = np.abs(np.diff(np.log(rates)))
        # Nodes where either the time or what is available has gone on by the same share, each counting half.
        going = seconds / np.maximum(seconds.sum(axis=1, keepdims=True), 1e-300)
        going += falls / np.maximum(falls.sum(axis=1, keepdims=True), 0.1)
        share = np.zeros_like(speeds)
        np.cumsum(going, axis=1, out=share[:, 1:])
        share /= np.maximum(share[:, -1:], 1e-300)
        share[:, -1] = 1.0
        fine = np.linspace(0.0, 1.0, NODES * _BETWEEN + 1)
        at = _looked_up(np.broadcast_to(fine, (len(speeds), len(fine))), share, speeds)
        at[:, 0], at[:, -1] = speeds[:, 0], speeds[:, -1]
        return cls._below(at, available(at))

    @classmethod
    def _below(cls, at: Reals, there: Reals) -> _Ramp:
        nodes, squares = at[:, ::_BETWEEN], there[:, ::_BETWEEN] ** 2
        # With an even change over time, the square of the acceleration changes evenly over the speed.
        inner, limit = (part[:, :-1].reshape(len(at), NODES, _BETWEEN) for part in (at, there**2))
        gain = np.diff(nodes)
        along = (inner - nodes[:, :-1, None]) / np.where(gain > 0, gain, 1.0)[:, :, None]
        chord = squares[:, :-1, None] + along * np.diff(squares)[:, :, None]
        changes = limit.max(axis=2) > limit.min(axis=2) * (1 + 1e-9)
        over = np.max(chord / limit, axis=2) * np.where(changes, _ASIDE, 1.0)
        most = np.ones_like(nodes)
        most[:, 1:] = over
        np.maximum(most[:, :-1], over, out=most[:, :-1])
        rates = np.sqrt(squares / most)
        ways = np.zeros_like(nodes)
        times = 2 * gain / (rates[:, :-1] + rates[:, 1:])
        np.cumsum(_covered(nodes[:, :-1], times, rates[:, :-1], rates[:, 1:]), axis=1, out=ways[:, 1:])
        return cls(nodes, rates, ways)

    def at(self, speed: Reals) -> tuple[Reals, Reals]:
        """Return the acceleration at a speed, and the way up to it."""
        rows = np.arange(len(speed))
        piece = np.clip((self.speeds <= speed[:, None]).sum(axis=1) - 1, 0, NODES - 1)
        low, high = self.speeds[rows, piece], self.speeds[rows, piece + 1]
        begin, end = self.rates[rows, piece], self.rates[rows, piece + 1]
        along = np.clip((speed - low) / np.where(high > low, high - low, 1.0), 0.0, 1.0)
        rate = np.sqrt(begin * begin + along * (end * end - begin * begin))
        seconds = 2 * (speed - low) / (begin + rate)
        return rate, self.ways[rows, piece] + _covered(low, seconds, begin, rate)

    def upto(self, peak: Reals) -> tuple[Reals, Reals, Reals, Reals]:
        """Return times and lengths of the pieces up to a speed, speeds and accelerations at their ends."""
        rate = self.at(peak)[0]
        speeds = np.minimum(self.speeds, peak[:, None])
        rates = np.where(self.speeds <= peak[:, None], self.rates, rate[:, None])
        times = 2 * np.diff(speeds) / (rates[:, :-1] + rates[:, 1:])
        return times, _covered(speeds[:, :-1], times, rates[:, :-1], rates[:, 1:]), speeds, rates


def _grid(x: Reals, first: Reals, top: Reals, available: Available) -> tuple[Reals, Reals, Reals]:
    """Return speeds from the first to hardly more than the distance lets the movements reach, and what is available."""
    rows = np.arange(len(x))
    for _ in range(_NARROWINGS):
        speeds = speed_grid(first, top, _SPEEDS)
        up, down = available(speeds)
        paces = speeds * (1 / up + 1 / down)
        ways = np.cumsum(np.diff(speeds) * 0.5 * (paces[:, 1:] + paces[:, :-1]), axis=1)
        enough = np.minimum((ways < x[:, None]).sum(axis=1) + 2, _SPEEDS - 1)
        if np.all(enough > _SPEEDS // 2):
            break
        top = np.maximum(speeds[rows, enough], first)
    return speeds, up, down


def _covered(speed: Reals, seconds: Reals, begin: Reals, end: Reals) -> Reals:
    """Return the way of an acceleration that changes evenly from one to another over a time."""
    return seconds * (speed + seconds * (2 * begin + end) / 6)


def _looked_up(wanted: Reals, shares: Reals, values: Reals) -> Reals:
    """Return the values at wanted shares, row by row; shares rise from 0 to 1 in each, shape (n, m)."""
    rows = 2.0 * np.arange(len(shares))[:, None]
    # One table of all rows, one behind the other: what lies between two rows is never asked for.
    found = np.interp((np.clip(wanted, 0.0, 1.0) + rows).ravel(), (shares + rows).ravel(), values.ravel())
    return found.reshape(wanted.shape)


Available = Callable[[Reals], tuple[Reals, Reals]]
"""Takes speeds, shape (n, m), and returns what n movements can be accelerated and decelerated there, above 0."""


def torque_ramp(distance: Reals, first: Reals, top: Reals, available: Available) -> Ramps:
    """Return movements that keep as close as they can to what is available at each speed, and never exceed it.

    Parameters
    ----------
    distance : array, shape (n,), > 0
    first, top : arrays, shape (n,), distance/s
        The speed that may be jumped to and from, and the wished one, which is at least that.
    available : callable
        What a movement can do at each speed.
    """
    x = np.asarray(distance, np.float64)
    speeds, up, down = _grid(x, first, top, available)
    rise = _Ramp.through(speeds, up, lambda at: available(at)[0])
    fall = _Ramp.through(speeds, down, lambda at: available(at)[1])

    def way(peak: Reals) -> tuple[Reals, Reals]:
        (gain, risen), (loss, fallen) = rise.at(peak), fall.at(peak)
        return risen + fallen, peak * (1 / gain + 1 / loss)

    peak = peak_speed(speeds[:, 0], speeds[:, -1], x, way)
    risen, ahead, faster, rates = rise.upto(peak)
    fallen, back, slower, brakes = fall.upto(peak)
    jerks = np.diff(rates) / np.where(risen > 0, risen, np.inf)
    easing = np.diff(brakes) / np.where(fallen > 0, fallen, np.inf)
    cruise = left_over(x, ahead.sum(axis=1) + back.sum(axis=1))[:, None]
    still = np.zeros_like(cruise)
    return joined(
        x,
        np.array(
            (
                np.hstack((risen, cruise / np.maximum(peak, 1e-300)[:, None], fallen[:, ::-1])),
                np.hstack((ahead, cruise, back[:, ::-1])),
            )
        ),
        np.hstack((faster, slower[:, ::-1])),
        (np.hstack((rates[:, :-1], still, -brakes[:, :0:-1])), np.hstack((jerks, still, easing[:, ::-1]))),
    )


def torque_change(low: Reals, high: Reals, available: Callable[[Reals], Reals], *, rises: bool) -> Ramps:
    """Return changes between two speeds, arrays of shape (n,), up or down, that keep to what is available."""
    speeds = speed_grid(low, high, _SPEEDS)
    ramp = _Ramp.through(speeds, available(speeds), available)
    times, lengths, nodes, rates = ramp.upto(high)
    jerks = np.diff(rates) / np.where(times > 0, times, np.inf)
    way = lengths.sum(axis=1)
    if rises:
        return joined(way, np.array((times, lengths)), nodes, (rates[:, :-1], jerks))
    back = (-rates[:, :0:-1], jerks[:, ::-1])
    return joined(way, np.array((times, lengths))[:, :, ::-1], nodes[:, ::-1], back)
