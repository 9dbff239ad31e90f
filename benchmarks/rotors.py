"""Simulated rotors, and maps of them."""

from __future__ import annotations

import time

import numpy as np
from msgspec.structs import replace
from tests.machines import machine, move

from benchmarks.measuring import best, row
from kivant.app.document.examples import load_example
from kivant.core.motor.following import follow_steps
from kivant.core.plan import plan
from kivant.core.ramps.stall_map import StallMap, ramp_instants, stall_map


def rotors() -> None:
    """Compare simulating one axis with the time that it simulates, coil by coil and by 16 microsteps."""
    from kivant.app.document.examples import load_example
    from kivant.core.motor.following import follow

    rig = load_example()
    for index, drive in ((0, "rows on plain voltage"), (2, "16 microsteps and a chopper")):
        axis = rig.axes[index]
        blocks = tuple(move(to={axis.name: place}) for place in ("200", "0"))
        made = plan(replace(machine(axis, blocks=blocks), supplies=rig.supplies))
        follow(made.machine, made.axes[0])  # machine code is made once
        (took,) = best(lambda m=made: follow(m.machine, m.axes[0]), rounds=5)
        row(f"a rotor that is simulated: {drive}, against the time itself", took, made.duration, "at most 0.05")


def stall_maps() -> None:
    """Compare a coarse stall map with its cells, each simulated as it is and with the margin, one after another."""
    rig = load_example()
    reach = rig.axes[2]
    maps: list[StallMap] = []
    begin = time.perf_counter()
    stall_map(rig, reach, maps.append, sizes=(16,))
    ours = time.perf_counter() - begin
    speeds, rates = maps[-1].ranges.at(16)
    begin = time.perf_counter()
    for rate in rates:
        for speed in speeds:
            steps = ramp_instants(speed * 80, rate * 80, 128)
            for _with_the_margin in (True, False):
                follow_steps(rig, reach, steps, np.ones(len(steps), np.int8), 0.02)
    alone = time.perf_counter() - begin
    row(f"a stall map, {maps[-1].simulated / ours:.0f} cells a second, against each cell twice", ours, alone, "below 1")
