"""Programs of all kinds of blocks, held against a slow and obvious planner."""

from __future__ import annotations

import math
import unittest
from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Block, Call, Each, Machine, Move, Note, Pause, Repeat, Routine, Spin
from kivant.core.machine.check import MachineError, checked
from kivant.core.plan import PlanError, plan
from tests.machines import coil_axis, limits, machine, move, screw_axis
from tests.programs import NAMES, built


class Slow:
    """Goes through a program block by block, and through a spin along straight lines."""

    def __init__(self, built: Machine) -> None:
        self.limits = {axis.name: axis.limits for axis in built.axes}
        self.poses = {pose.name: pose.at for pose in built.poses or ()}
        self.routines = {routine.name: routine.blocks for routine in built.routines}
        self.at, self.time, self.ends = dict.fromkeys(self.limits, 0.0), 0.0, []

    def unrolled(self, blocks: Sequence[Block]) -> Iterator[Any]:
        for block in blocks:
            if isinstance(block, Repeat) and not block.off:
                for _ in range(block.times):
                    yield from self.unrolled(block.blocks)
            elif isinstance(block, Call) and not block.off:
                yield from self.unrolled(self.routines[block.routine])
            elif not block.off and not isinstance(block, Note | Repeat | Call):
                yield block

    def run(self, blocks: Sequence[Block]) -> Slow:
        waiting: list[Spin] = []
        for block in [*self.unrolled(blocks), Pause(seconds=0)]:
            if isinstance(block, Spin):
                waiting.append(block)
                continue
            self.spin(waiting)
            waiting = []
            self.time += block.seconds if isinstance(block, Pause) else self.go(block)
            self.ends.append((self.time, dict(self.at)))
        self.ends.pop()
        return self

    def go(self, block: Any) -> float:
        to = self.poses[block.pose] if getattr(block, "pose", None) else block.to or {}
        ways = {n: float(v) - self.at[n] for n, v in to.items()} | {n: float(v) for n, v in (block.by or {}).items()}
        ways = {name: way for name, way in ways.items() if abs(way) > 1e-12}
        for name, way in ways.items():
            self.at[name] += way
        alone = [self.seconds({name: way}, block.speed_factor or 1.0) for name, way in ways.items()]
        if isinstance(block, Each):
            return max(alone, default=0.0)
        return self.seconds(ways, block.speed_factor or 1.0) if ways else 0.0

    def seconds(self, ways: dict[str, float], factor: float) -> float:
        """Return how long a trapezoid along a path from 0 to 1 takes: by hand, from areas below the speed."""
        own = [(self.limits[name], abs(way)) for name, way in ways.items()]
        top = min(limit.speed * factor / way for limit, way in own)
        rise = min(limit.acceleration / way for limit, way in own)
        fall = min(limit.deceleration / way for limit, way in own)
        jump = min(top, *(limit.start_speed / way for limit, way in own), math.inf)
        area = (top**2 - jump**2) / 2 * (1 / rise + 1 / fall)
        if area > 1:  # the peak at which the area is 1
            top = math.sqrt(jump**2 + 2 / (1 / rise + 1 / fall))
            area = 1.0
        return (top - jump) * (1 / rise + 1 / fall) + (1 - area) / top

    def spin(self, blocks: Sequence[Spin]) -> None:
        """Let every axis have, at each point of time, the greatest speed of the sense it wants that all limits allow."""
        speed = dict.fromkeys(self.limits, 0.0)
        for k, block in enumerate(blocks):
            seconds = block.seconds or 0.0
            for name, limit in self.limits.items():
                wanted = float(block.speeds.get(name, 0)) * (block.speed_factor or 1.0)
                times = self.kinks(speed[name], wanted, limit, seconds)
                curve = self.curve(times, speed[name], wanted, limit, last=k == len(blocks) - 1)
                self.at[name] += float(np.sum((curve[1:] + curve[:-1]) / 2 * np.diff(times)))
                speed[name] = float(curve[-1])
            self.time += seconds
            self.ends.append((self.time, dict(self.at)))

    @staticmethod
    def kinks(now: float, wanted: float, limit: Any, seconds: float) -> Any:
        """Return all times at which two of the straight lines of `curve` cross: between them it is straight."""
        up, down, jump = limit.acceleration, limit.deceleration, min(limit.start_speed, abs(wanted))
        stopped = max(abs(now) - min(limit.start_speed, abs(now)), 0) / down
        lines = [(abs(now), up), (abs(now), -down), (abs(wanted), 0), (limit.start_speed + down * seconds, -down)]
        lines += [(jump - up * stopped, up)]
        crossings = [(d - b) / (a - c) for b, a in lines for d, c in lines if a != c]
        return np.unique(np.clip([0, seconds, stopped, stopped - 1e-13, *crossings], 0, seconds))

    @staticmethod
    def curve(times: Any, now: float, wanted: float, limit: Any, *, last: bool) -> Any:
        up, down, sense = limit.acceleration, limit.deceleration, math.copysign(1, wanted)
        jump = min(limit.start_speed, abs(wanted))
        left = limit.start_speed + down * (times[-1] - times) if last else np.inf
        if now * wanted > 0:
            rising = abs(now) + up * times if abs(wanted) > abs(now) else np.inf
            falling = np.maximum(abs(now) - down * times, abs(wanted))
            return sense * np.minimum(np.minimum(rising, np.maximum(falling, abs(wanted))), left)
        stopped = max(abs(now) - min(limit.start_speed, abs(now)), 0) / down
        braking = math.copysign(1, now) * np.where(times < stopped, abs(now) - down * times, 0.0)
        rising = np.where(times >= stopped, jump + up * (times - stopped), 0.0)
        return braking + sense * np.minimum(np.minimum(rising, abs(wanted)), np.where(times >= stopped, left, 0.0))


class Programs(unittest.TestCase):
    def test_a_thousand_programs_are_planned_as_somebody_slow_would(self):
        random = np.random.default_rng(13)
        for case in range(1000):
            own = built(random)
            made, slow = plan(own), Slow(own).run(own.routines[0].blocks)
            with self.subTest(case=case):
                self.assertEqual(len(made.blocks), len(slow.ends))
                ends = [made.blocks.end_s[k] for k in range(len(slow.ends))]
                np.testing.assert_allclose(ends, [end for end, _at in slow.ends], rtol=0, atol=2e-7)
                for axis in made.axes:
                    there = axis.ideal(np.array(ends)) / float(axis.steps_per_unit)
                    wanted = [at[axis.name] for _end, at in slow.ends]
                    np.testing.assert_allclose(there, wanted, rtol=0, atol=2e-6)
                    self.assertEqual(int(axis.signs.astype(int).sum()), axis.final_steps - axis.start_steps)
                    self.assertTrue(np.all(np.diff(axis.instants) > 0))

    def test_no_axis_waits_for_another_in_each(self):
        axes = [screw_axis(n, 4 * k, limits=limits(40.0 / (k + 1), 300)) for k, n in enumerate(NAMES)]
        ways = {"A": "30.1", "B": "-12.34", "C": "7"}
        together = plan(machine(*axes, blocks=(Each(by={k: Decimal(v) for k, v in ways.items()}),)))
        alone = [plan(machine(axis, blocks=(move(by={axis.name: ways[axis.name]}),))) for axis in axes]
        for axis, one in zip(together.axes, alone, strict=True):
            np.testing.assert_allclose(axis.instants, one.axes[0].instants, rtol=0, atol=1e-9)
        self.assertAlmostEqual(together.duration, max(one.duration for one in alone), delta=1e-9)

    def test_spins_change_speed_on_the_ramp_and_end_where_they_were_told(self):
        for shape in ({}, {"jerk": 2000.0}, {"shape": "none"}, {"start": 5.0}):
            axes = (coil_axis("Wheel", 0, limits=limits(90, 200, **shape)), screw_axis("Lift", 4))
            blocks = (
                Spin(speeds={"Wheel": Decimal(60), "Lift": Decimal(-5)}, turns=1),
                Spin(speeds={"Wheel": Decimal(20)}, distance=30),
                Spin(speeds={"Wheel": Decimal(-80)}, turns=0.5, speed_factor=0.5),
                Move(by={"Wheel": Decimal(1)}),
            )
            with self.subTest(shape=shape):
                made = plan(machine(*axes, blocks=blocks))
                wheel = made.axis("Wheel")
                ways = wheel.ideal(made.blocks.end_s) / float(wheel.steps_per_unit)
                self.assertAlmostEqual(ways[0], 360, places=9)
                self.assertAlmostEqual(ways[1], 390, places=9)
                self.assertAlmostEqual(ways[3] - ways[2], 1, places=9)
                before = wheel.train.speed(made.blocks.end_s[:2] - 1e-9) / float(wheel.steps_per_unit)
                np.testing.assert_allclose(before, (60, 20), rtol=1e-9)
                if "jerk" not in shape and "shape" not in shape:
                    self.assertLess(wheel.peak_acceleration, 200 * (1 + 1e-9))

    def test_a_million_turns_are_planned_and_more_are_refused(self):
        one = (move(by={"Lift": "0.01"}), move(by={"Lift": "-0.01"}))
        made = plan(machine(screw_axis(), blocks=(Repeat(times=250_000, blocks=one),)))
        self.assertEqual((len(made.blocks), made.axes[0].final_steps), (500_000, 0))
        with self.assertRaisesRegex(PlanError, "does 2e\\+06 blocks; the limit is 1000000"):
            plan(machine(screw_axis(), blocks=(Repeat(times=1_000_000, blocks=one),)))

    def test_what_cannot_be_done_is_told_where_it_is(self):
        wheel = coil_axis("Wheel", 0, limits=limits(90, 100, avoid=((40.0, 50.0),)))
        fixed = screw_axis("Lift", 4, limits=limits(min=Decimal(0), max=Decimal(10)))

        def spin(speed: float, seconds: float = 1.0) -> Spin:
            return Spin(speeds={"Wheel": Decimal(speed)}, seconds=seconds)

        cases: tuple[tuple[Any, tuple[Block, ...], str, str], ...] = (
            (wheel, (spin(91),), "routines[0].blocks[0].speeds.Wheel", "by its speed, is 90"),
            (wheel, (spin(45),), "routines[0].blocks[0].speeds.Wheel", "avoids 40 to 50"),
            (wheel, (spin(90), spin(10, 0.2)), "routines[0].blocks[1]", "needs 0.9 s to brake"),
            (fixed, (Spin(speeds={"Lift": Decimal(5)}, turns=1.0),), "routines[0].blocks[0].turns", "slides"),
            (fixed, (Repeat(times=9, blocks=(move(by={"Lift": "3"}),)),), "blocks[0].blocks[0].by.Lift", "in turn 4"),
        )
        for axis, blocks, place, words in cases:
            with self.subTest(words):
                with self.assertRaisesRegex(PlanError, words) as caught:
                    plan(machine(axis, blocks=blocks))
                self.assertTrue(str(caught.exception.faults[0].place).endswith(place))
                self.assertEqual(len(caught.exception.faults), 1)

    def test_a_program_that_is_none_is_refused_where_it_is(self):
        here = Call(routine="test")
        cases: tuple[tuple[Block, str, str], ...] = (
            (here, "blocks[0].routine", "call itself, without end"),
            (Repeat(times=2, blocks=(Call(routine="other"),)), "blocks[0].blocks[0].routine", "by way of other"),
            (Repeat(times=10**12, blocks=(here,)), "blocks[0].times", "at most 1000000"),
            (Each(), "blocks[0]", "names no axis"),
            (Move(pose="Gone"), "blocks[0].pose", "There is no pose “Gone”"),
            (Spin(speeds={}, seconds=1), "blocks[0].speeds", "names no axis"),
            (Spin(speeds={"Lift": Decimal(1)}), "blocks[0]", "one of seconds, turns and distance"),
        )
        for block, place, words in cases:
            own = machine(screw_axis(), blocks=(block,))
            own = replace(own, routines=(*own.routines, Routine(name="other", blocks=(here,))))
            with self.subTest(words):
                with self.assertRaisesRegex(MachineError, words) as caught:
                    checked(own, routines=True)
                self.assertEqual(str(caught.exception.faults[0].place), f"routines[0].{place}")
