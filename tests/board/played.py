"""What a board plays, for tests: spans to steps, through the stand-in's own axes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivant.board.protocol.record import AxisSpan, Span
from kivant.board.protocol.spans import spans, start_places
from kivant.board.standin.device import Wiring
from kivant.board.standin.player import Player
from kivant.core.drive.drivers import PulseDriver
from kivant.core.motion.rates import pulse_rate
from kivant.core.plan import Plan


def wired(player: Player, made: Plan) -> None:
    """Put the axes of a player where the plan begins, with the times their drivers need."""
    player.reset(len(made.axes))
    for axis, planned, place in zip(player.axes, made.axes, start_places(made), strict=True):
        driver, wiring = planned.axis.driver, Wiring(interval_s=1 / pulse_rate(made.machine, planned.axis))
        if isinstance(driver, PulseDriver):
            wiring.high_s, wiring.low_s = driver.pulse_high_us * 1e-6, driver.pulse_low_us * 1e-6
            wiring.setup_s, wiring.hold_s = driver.direction_setup_us * 1e-6, driver.direction_hold_us * 1e-6
        axis.put(place >> 32, place % 2**32)
        axis.timing = wiring.timing()


def loaded(made: Plan, found: Sequence[Span] | None = None, *, complete: bool = True) -> Player:
    """Return a player that has begun to play a plan (or some spans of it)."""
    player = Player(made.machine.board.tick_hz, 100_000)
    wired(player, made)
    player.append(list(spans(made)) if found is None else found)
    player.complete = complete
    player.start()
    return player


def played(made: Plan) -> list[tuple[np.ndarray, np.ndarray]]:
    """Return the instants, s, and signs of all steps of each axis, as the stand-in plays them."""
    player, hz = Player(made.machine.board.tick_hz), made.machine.board.tick_hz
    wired(player, made)
    found, at = [([np.zeros(0)], [np.zeros(0, int)]) for _ in made.axes], 0
    for span in spans(made):
        for axis, own, (instants, signs) in zip(player.axes, span.axes, found, strict=True):
            axis.begin(own, span.ticks, hz)
            instants.append(at / hz + axis.times())
            before = axis.count
            axis.finish(own, span.ticks / hz)
            signs.append(np.full(len(instants[-1]), np.sign(axis.count - before)))
        at += span.ticks
    return [(np.concatenate(instants), np.concatenate(signs)) for instants, signs in found]


def summed(begin: int, span: AxisSpan, ticks: int, dropped: int = 0) -> list[int]:
    """Return the tick of each step by the sums of docs/board-protocol.md, done one by one as a controller does them.

    The lowest `dropped` bits of all numbers are left out.
    """
    place, speed, change = begin % 2**32 << 30 >> dropped, span.speed >> dropped, span.change >> dropped
    goal = ((span.end >> 32) - (begin >> 32) + 2**31) % 2**32 - 2**31
    count, found = 0, []
    for tick in range(1, ticks + 1):
        place += speed
        speed += change
        whole = goal if tick == ticks else min(max(place >> 62 - dropped, min(goal, 0)), max(goal, 0))
        while abs(whole) > abs(count):
            count += 1 if goal > 0 else -1
            found.append(tick)
    return found
