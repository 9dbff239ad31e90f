"""What holds programs back, and programs that are stretched: held against plans."""

from __future__ import annotations

import unittest
from decimal import Decimal
from unittest import mock

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Each, Move, Repeat
from kivant.core.motion.blocks import walk
from kivant.core.motion.routine import commands
from kivant.core.path import Path
from kivant.core.plan import PlanError, plan
from kivant.core.program.editing import with_replaced
from kivant.core.program.held_back import held_back
from kivant.core.program.path_times import RowTime
from kivant.core.program.stretching import as_fast_as_possible, stretched
from tests.machines import limits, machine, move, screw_axis
from tests.programs import FAST, built, free_of


class Tempo(unittest.TestCase):
    def test_what_holds_blocks_back_is_what_planning_without_it_saves(self):
        random = np.random.default_rng(3)
        looked_at = 0
        for case in range(60):
            own = built(random)
            jerk, speed = 4000.0 if case % 2 else None, own.axes[0].limits.speed
            bands = ((0.8 * speed, 1.2 * speed),) if case % 3 else None
            changed = replace(own.axes[0], limits=replace(own.axes[0].limits, jerk=jerk, avoid=bands))
            own = replace(own, axes=(changed, *own.axes[1:]))
            made, commanded = plan(own), commands(own, own.routines[0])
            listed = made.blocks.listed
            for one in held_back(own, commanded):
                rows = np.flatnonzero(np.frombuffer(listed.places.of, np.int32) == one.entry)
                first = int(rows[made.blocks.end_s[rows] > made.blocks.begin_s[rows]][0])
                took = made.blocks.end_s[first] - made.blocks.begin_s[first]
                with self.subTest(case=case, block=listed.places.blocks[one.entry]):
                    self.assertAlmostEqual(one.seconds, took, delta=1e-6)
                    self.assertLessEqual(one.turns, len(rows))  # in a later turn, it may be there already
                    if (
                        one.axis is not None
                        and one.limit in ("speed", "acceleration", "jerk")
                        and listed.places.block(first).do in ("move", "each")
                    ):
                        other = plan(free_of(own, one.axis, one.limit))
                        saved = took - (other.blocks.end_s[first] - other.blocks.begin_s[first])
                        self.assertAlmostEqual(one.saved_s, saved, delta=2e-4)  # what is lifted is not infinite
                        looked_at += 1
        self.assertGreater(looked_at, 60)

    def test_what_holds_back_is_looked_for_where_something_changed(self):
        axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0)) for k, name in enumerate("AB"))
        blocks = tuple(move(to={"A": a, "B": b}) for a, b in zip("13729", ("2", "7", "3", "11", "4"), strict=True))
        own = machine(*axes, blocks=blocks)
        routine = own.routines[0]
        slower = replace(axes[0], limits=limits(5.0, 100.0))
        for what, changed, looked_at in (
            ("nothing was known", own, 5),
            ("nothing", own, 0),
            ("a block", replace(own, routines=(replace(routine, blocks=(*blocks[:4], move(to={"A": "9"}))),)), 1),
            ("its beginning", replace(own, routines=(replace(routine, start={"B": Decimal(1)}),)), 1),
            ("a limit", replace(own, axes=(slower, axes[1])), 5),
            ("back again", own, 0),
        ):
            with self.subTest(what), mock.patch("kivant.core.program.held_back.RowTime", side_effect=RowTime) as looked:
                held = held_back(changed, commands(changed, changed.routines[0]))
                self.assertEqual(looked.call_count, looked_at)
                anew = replace(changed, axes=tuple(map(replace, changed.axes)))
                self.assertEqual(held, held_back(anew, commands(anew, anew.routines[0])))
                self.assertEqual(len(held), 5)

    def test_stretched_blocks_take_the_time_and_can_be_let_go(self):
        random = np.random.default_rng(4)
        done = 0
        for case in range(40):
            own = built(random)
            routine = own.routines[0]
            places = [(row,) for row in range(len(routine.blocks))]
            movers = [b for _p, b in walk(routine.blocks, Path()) if isinstance(b, Move | Each) and not b.off]
            took = plan(own).duration
            if not movers or not held_back(own, commands(own, routine)):
                continue
            wished = took * float(random.uniform(1.1, 3))
            with self.subTest(case=case):
                try:
                    changes = stretched(own, routine, places, wished)
                except PlanError as error:  # where all that moves is called, spins, or goes nowhere
                    self.assertRegex(str(error), "Nothing here goes faster|at most")
                    continue
                slower = replace(routine, blocks=with_replaced(routine.blocks, changes))
                self.assertAlmostEqual(plan(own, slower).duration, wished, delta=3e-6 * wished)
                free = replace(slower, blocks=with_replaced(slower.blocks, as_fast_as_possible(slower, places)))
                self.assertLessEqual(plan(own, free).duration, took * (1 + 1e-9))
                done += 1
        self.assertGreater(done, 15)

    def test_a_block_of_a_repeat_is_stretched_by_itself_and_impossible_times_are_refused(self):
        axis = screw_axis(limits=limits(40, 300))
        blocks = (Repeat(times=3, blocks=(move(to={"Lift": "20"}), move(to={"Lift": "0"}))),)
        own = machine(axis, blocks=blocks, **FAST)
        changes = stretched(own, own.routines[0], [(0, 1)], 2.0)
        self.assertEqual([place for place, _block in changes], [(0, 1)])
        slower = plan(own, replace(own.routines[0], blocks=with_replaced(blocks, changes)))
        self.assertAlmostEqual(slower.duration, 3 * (2.0 + 20 / 40 + 40 / 300), delta=1e-4)
        for seconds, words in ((0.1, "take at least 0.6333 s"), (1e9, "take at most")):
            with self.assertRaisesRegex(PlanError, words):
                stretched(own, own.routines[0], [(0, 1)], seconds)

    def test_where_an_axis_avoids_speeds_the_time_leaps(self):
        """Distance / speed + speed / acceleration, at either edge of the band; one of the two can be wished for."""
        axis = screw_axis(limits=limits(40, 300, avoid=((16.0, 24.0),)))
        own = machine(axis, blocks=(move(by={"Lift": "100"}),), **FAST)
        with self.assertRaisesRegex(PlanError, r"take 4\.247 s or 6\.303 s, and nothing in between"):
            stretched(own, own.routines[0], [(0,)], 5.0)
        for seconds, exact in ((4.247, 100 / 24 + 24 / 300), (6.303, 100 / 16 + 16 / 300), (3.5, 3.5), (9.0, 9.0)):
            changes = stretched(own, own.routines[0], [(0,)], seconds)
            slower = plan(own, replace(own.routines[0], blocks=with_replaced(own.routines[0].blocks, changes)))
            self.assertAlmostEqual(slower.duration, exact, delta=2e-5)
