"""The outline of a routine: every block once, where it stands, and which rows and times are its own."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Call, Note, Pause, Repeat, Routine
from kivant.core.motion.blocks import walk
from kivant.core.motion.curves import curve_between
from kivant.core.motion.reach import beyond_limits
from kivant.core.motion.routine import block_number, commands
from kivant.core.motion.row_count import RowCounter
from kivant.core.path import Path
from kivant.core.plan import plan
from tests.machines import limits, machine, move, screw_axis
from tests.programs import built


class Outlines(unittest.TestCase):
    def test_every_block_is_listed_where_it_stands_with_its_times(self):
        random = np.random.default_rng(2)
        for case in range(150):
            own = built(random)
            made = plan(own)
            listed, blocks = made.blocks.listed, list(walk(own.routines[0].blocks, Path.of("blocks")))
            with self.subTest(case=case):
                count = range(len(listed.begin_s))
                self.assertEqual([(listed.path(k), listed.block(k)) for k in count], blocks)
                self.assertEqual(listed.depth.tolist(), [len(path) // 2 - 1 for path, _block in blocks])
                self.assertTrue(np.all(listed.end_s >= listed.begin_s))
                top = [k for k in count if listed.depth[k] == 0]
                self.assertTrue(all(listed.end_s[a] <= listed.begin_s[b] for a, b in zip(top, top[1:], strict=False)))
                if top:
                    self.assertAlmostEqual(
                        float(listed.end_s[top[-1]]), float(made.blocks.end_s[-1]) if len(made.blocks) else 0.0
                    )
                self.assertEqual(len(made.blocks), RowCounter(own).inside(own.routines[0].blocks))
                for row in random.integers(0, len(made.blocks), 3).tolist() if len(made.blocks) else ():
                    block = made.blocks[row]
                    self.assertIn((block.path, block.block), [*blocks, *(  # what is called stands at its call
                        (path, inner) for path, call in blocks if isinstance(call, Call)
                        for _p, inner in walk(own.routine(call.routine).blocks, Path()))])  # fmt: skip

    def test_turns_are_counted_and_numbers_are_those_of_people(self):
        inner = Repeat(times=3, blocks=(move(by={"Lift": "1"}), Pause(seconds=0.1)))
        own = machine(screw_axis(), blocks=(Note(), Repeat(times=2, blocks=(inner,))))
        found = commands(own, own.routines[0])
        self.assertEqual([found.places.turn(row) for row in range(0, 12, 2)], [1, 2, 3, 4, 5, 6])
        self.assertEqual({block_number(found.places.path(row)) for row in range(12)}, {"2.1.1", "2.1.2"})
        self.assertEqual([float(found.positions(row)[0]) for row in (0, 1, 6, 12)], [0, 1, 3, 6])
        self.assertEqual(list(found.rests.rows), [1, 3, 5, 7, 9, 11])

    def test_a_position_beyond_a_limit_is_told_once_for_a_block_and_by_its_call(self):
        walking = Repeat(times=9, blocks=(move(by={"Lift": "1"}),))
        own = machine(screw_axis(limits=limits(max=5)), blocks=(Call(routine="sub"), walking))
        sub = Routine(name="sub", blocks=(move(to={"Lift": "7"}),))
        own = replace(own, routines=(*own.routines, sub))
        outside = beyond_limits(own, own.routines[0], commands(own, own.routines[0]))
        found = [(str(one.path), one.turn, float(one.position)) for one in outside]
        self.assertEqual(found, [("blocks[0]", 1, 7.0), ("blocks[1].blocks[0].by.Lift", 1, 8.0)])

    def test_a_stretch_of_a_curve_is_that_of_the_whole(self):
        random = np.random.default_rng(6)
        for _ in range(20):
            made = plan(built(random))
            if not made.duration:
                continue
            axis = made.axes[int(random.integers(3))]
            low, high = np.sort(random.uniform(0, made.duration, 2)).tolist()
            times, shares = curve_between(axis, low, high)
            self.assertTrue(np.all(np.diff(times) >= 0))
            self.assertAlmostEqual(float(times[-1]), high - low, places=9)
            inside = np.linspace(low, high, 200)[1:-1]
            speeds = np.abs(axis.train.speed(inside)) / float(axis.steps_per_unit) / axis.axis.limits.speed
            near = np.interp(inside - low, times, shares)
            self.assertGreater(float(np.mean(np.abs(near - speeds) < 1e-3)), 0.97)  # beside jumps, it may differ
