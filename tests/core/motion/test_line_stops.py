"""Straight lines through the centre of a turntable and near it: the tool stops there, and the table turns."""

from __future__ import annotations

import math
import unittest
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.findings.checks import all_findings
from kivant.core.geometry import Cylindrical, CylindricalAxes, TwoLink
from kivant.core.machine import Machine, Move
from kivant.core.machine.parts import Calibration
from kivant.core.motion.remainder import remainder
from kivant.core.motion.routine import commands
from kivant.core.plan import Plan, PlanError, plan
from kivant.core.program.held_back import held_back
from kivant.core.program.holder import holder_words
from kivant.core.travel.play import play_of
from tests.board.played import played
from tests.core.test_geometry import ARM, arm, column, tool
from tests.machines import through_play
from tests.programs import free_of

D = Decimal
ANYWHERE: dict[str, Any] = {"min": None, "max": None}
REACH_S = 40 / 60 + 60 / 300  # for 40 mm from rest to rest
TURN_S = 180 / 180 + 180 / 720  # for half a turn


def to(x: float, y: float, **more: Any) -> Move:
    """Return a straight line to a place."""
    return Move(tool={"x": D(repr(x)), "y": D(repr(y))}, straight=True, **more)


def there(machine: Machine, turn: float, reach: float, *blocks: Move) -> Machine:
    """Return a machine that begins at a turn and a reach, and does some blocks."""
    start = {"Shoulder": D(repr(turn)), machine.axes[1].name: D(repr(reach))}
    return replace(machine, routines=(replace(machine.routines[0], blocks=blocks, start=start),))


class Centre(unittest.TestCase):
    def assert_kept(self, made: Plan, tolerance: float = 0.05, rows: Sequence[int] = (0,)) -> None:
        """Hold what axes do against their limits, and what the tool does against its lines."""
        for row in rows:
            times = np.linspace(float(made.blocks.begin_s[row]), float(made.blocks.end_s[row]), 5001)
            at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in made.axes]
            place = np.stack(np.broadcast_arrays(*tool(made.machine).place(at, np)), axis=-1)
            line = place[-1] - place[0]
            along = ((place - place[0]) @ line) / (line @ line)
            off = np.sqrt(((place - place[0] - along[:, None] * line) ** 2).sum(axis=1))
            self.assertLess(float(off.max()), tolerance)
            self.assertGreater(float(np.diff(along).min()), -tolerance / math.sqrt(float(line @ line)))
        for axis in made.axes:
            own = axis.axis.limits
            self.assertLessEqual(axis.peak_speed, own.speed * (1 + 1e-6))
            self.assertLessEqual(axis.peak_acceleration, own.acceleration * (1 + 1e-6))
            self.assertEqual(axis.final_steps, axis.start_steps + int(axis.signs.astype(int).sum()))
            positions = axis.ideal(np.linspace(0.0, made.duration, 5001)) / float(axis.steps_per_unit)
            low, high = tool(made.machine).limits(made.axes.index(axis))
            self.assertGreaterEqual(float(positions.min()), low - 1e-6)
            self.assertLessEqual(float(positions.max()), high + 1e-6)

    def test_a_line_begins_and_ends_there_and_goes_across_as_its_three_moves_do(self):
        out = plan(there(column(**ANYWHERE), 90, 0, to(0, 100), to(0, 0)))
        self.assertAlmostEqual(out.duration, 2 * (100 / 60 + 60 / 300), delta=0.02)
        self.assertEqual((out.axis("Shoulder").steps, out.axis("Reach").final_steps), (0, 0))
        for x, y in ((9.603557, -37.870981), (-54.676, 4.417), (1e-3, 12.0), (0.304719, 0.493238)):
            reach = math.hypot(x, y)
            way_s = reach / 60 + 60 / 300 if reach > 12 else 2 * math.sqrt(reach / 300)
            begin = math.degrees(math.atan2(y, x)), reach
            with self.subTest(x=x, y=y):
                made = plan(there(column(**ANYWHERE), *begin, to(0, 0), to(x, y)))
                self.assertAlmostEqual(made.duration, 2 * way_s, delta=0.02)
        for rounded in (5e-15, -1e-9):  # as a script reckons 40 sin 180 deg
            there_and_back = plan(there(column(**ANYWHERE), 0, 40, to(rounded, rounded), to(40, 0)))
            self.assertAlmostEqual(there_and_back.duration, 2 * REACH_S, delta=0.02)
        across = plan(there(column(**ANYWHERE), 0, 40, to(-40, 0), to(40, 0)))
        self.assert_kept(across, rows=(0, 1))
        self.assertAlmostEqual(across.duration, 2 * (2 * REACH_S + TURN_S), delta=0.05)
        # From the centre, where the table is turned otherwise: it turns there first.
        first = plan(there(column(**ANYWHERE), 0, 0, to(0, 40)))
        self.assert_kept(first, tolerance=1e-6)
        self.assertAlmostEqual(first.duration, REACH_S + 90 / 180 + 180 / 720, delta=0.02)
        slow = plan(there(column(**ANYWHERE), 0, 40, to(-40, 0, speed_factor=0.5)))
        self.assertAlmostEqual(slow.axis("Shoulder").peak_speed, 90.0, places=6)
        for turn in (
            {"start_speed": 60.0},
            {"avoid": ((100.0, 300.0),)},
            {"avoid": ((20.0, 90.0),), "start_speed": 9.0},
            {"shape": "s_curve", "jerk": 100.0},
        ):
            built = column(**ANYWHERE, **turn)
            moves = Move(to={"Reach": D(0)}), Move(to={"Shoulder": D(180)}), Move(to={"Reach": D(40)})
            with self.subTest(turn=turn):
                one, three = (plan(there(built, 0, 40, *blocks)) for blocks in ((to(-40, 0),), moves))
                self.assertAlmostEqual(one.duration, three.duration, delta=0.02)
            self.assertAlmostEqual(one.axis("Shoulder").peak_speed, three.axis("Shoulder").peak_speed, places=9)
        found = {f.code: f.message for f in all_findings(across.machine)}
        self.assertIn(
            "On this line the tool stops, near x 0, y 0, z 0 mm: an axis has to go far there", found["singular"]
        )

    def test_what_holds_a_line_back_is_what_planning_without_it_saves_turns_on_the_spot_included(self):
        for turn, reach, across, beside in (
            ({}, {}, "Reach's acceleration", "Reach's acceleration"),
            ({"speed": 20.0}, {}, "Shoulder's speed", "Shoulder's speed"),
            ({"acceleration": 20.0, "deceleration": 30.0}, {}, "Shoulder's acceleration", "Shoulder's acceleration"),
            ({"avoid": ((20.0, 190.0),)}, {}, "Shoulder's speed", "Shoulder's speed"),
            ({}, {"speed": 5.0}, "Reach's speed", "Reach's speed"),
            ({"speed": 40.0}, {"shape": "s_curve", "jerk": 100.0}, "Shoulder's speed", "Shoulder's speed"),
            ({"shape": "s_curve", "jerk": 100.0}, {}, "Shoulder's jerk", "Shoulder's jerk"),
        ):
            base = column(**ANYWHERE, **turn)
            reaches = replace(base.axes[1], limits=replace(base.axes[1].limits, **reach))
            base = replace(base, axes=(base.axes[0], reaches, base.axes[2]))
            for begin, block, holder in ((0, to(-40, 0), across), (0, to(-40, 0.01), beside)):
                built = there(base, begin, 40, block)
                one = held_back(built, commands(built, built.routines[0]))[0]
                with self.subTest(turn=turn, reach=reach, block=block):
                    assert one.limit is not None and one.axis is not None
                    self.assertEqual(holder_words(built, one.axis, one.limit).split(" of ")[0], holder)
                    takes = plan(built).duration
                    saved = takes - plan(free_of(built, one.axis, one.limit), trusted=True).duration
                    self.assertAlmostEqual(one.saved_s, saved, delta=0.05 * takes)

    def test_beside_the_centre_a_line_takes_about_as_long_as_across_it(self):
        """It would take 21 hours a millionth of a millimetre beside it, and 77 s a thousandth."""
        across = 2 * REACH_S + TURN_S
        for beside in (0.0, 1e-9, -1e-7, 1e-6, -1e-5, 1e-4, -1e-3, 0.01, 0.05, -0.2, 1.0):
            for tolerance, start in ((0.05, 0.0), (0.5, 0.0), (0.05, 3.0)):
                begin = math.degrees(math.atan2(beside, 40)), math.hypot(40, beside)
                base = column(**ANYWHERE)
                axes = (replace(axis, limits=replace(axis.limits, start_speed=start)) for axis in base.axes)
                line = to(-40, round(beside, 12), tolerance=tolerance)
                built = there(replace(base, axes=tuple(axes)), *begin, line)
                with self.subTest(beside=beside, tolerance=tolerance):
                    made = plan(built)
                    self.assertLess(made.duration, 1.1 * across)
                    self.assert_kept(made, tolerance)

    def test_the_table_turns_once_where_the_centre_lies_between_two_places_that_are_looked_at(self):
        first = Move(tool={"x": D("-27.42271643422"), "y": D("-0.945625246853")})
        for limits in (ANYWHERE, {"min": D(-101), "max": D(275)}):
            made = plan(there(column(**limits), 1.975, 30, first, to(17.940335639694, 0.618641641816)))
            with self.subTest(limits=limits):
                self.assert_kept(made, rows=(1,))
                line_s = made.blocks[1].end_s - made.blocks[1].begin_s
                self.assertAlmostEqual(line_s, 45.4 / 60 + 2 * 60 / 300 + TURN_S, delta=0.05)

    def test_limits_tell_which_way_round(self):
        for low, high, begin, end in (
            (-90, 190, 0, 180), (-190, 90, 0, -180), (-1, 181, 0, 180), (-181, 1, 0, -180), (9, 191, 10, 190),
            (169, 360, 170, 350), (-351, -169, -170, -350), (300, 600, 360, 540),
        ):  # fmt: skip
            built = column(min=D(low), max=D(high))
            for beside in (-1e-6, 0.0, 1e-6):  # on the other side, it would have to go the other way
                angle = math.radians(begin)
                x, y = (
                    -40 * math.cos(angle) - beside * math.sin(angle),
                    -40 * math.sin(angle) + beside * math.cos(angle),
                )
                with self.subTest(low=low, high=high, beside=beside):
                    made = plan(there(built, begin, 40, to(x, y)))
                    self.assertAlmostEqual(made.axis("Shoulder").final_position, end, delta=0.5)
                    self.assertLess(made.duration, 2 * REACH_S + TURN_S + 0.1)
                    self.assert_kept(made)
        with self.assertRaisesRegex(PlanError, "would need Shoulder at -?180 deg, beyond its limits"):
            plan(there(column(min=D(-90), max=D(90)), 0, 40, to(-40, 0)))
        split = column(min=D(30), max=D(330))  # both ends lie within, and the way does not
        flat = Cylindrical(axes=CylindricalAxes(turn="Shoulder", reach="Reach"))  # without a lift
        for built in (split, replace(split, axes=split.axes[:2], geometry=flat)):
            with self.assertRaisesRegex(PlanError, "would need Shoulder at 29.* deg, beyond its limits"):
                plan(there(built, 90, 40, to(20, -40)))

    def test_an_arm_folds_turns_and_unfolds(self):
        """Both links are of one length: folded, the tool is at the shoulder. The shapes of ramps are all four."""
        powered = ({"supply_v": 24.0}, {"supply_v": 24.0}, {"supply_v": 24.0, "current_a": 1.0})
        for shape in ({}, {"shape": "s_curve", "jerk": 20_000.0}, {"shape": "torque"}, {"deceleration": 300.0}):
            axes = [
                replace(axis, limits=replace(axis.limits, **(shape | low)), driver=replace(axis.driver, **driver))
                for axis, low, driver in zip(arm().axes, (ANYWHERE, ANYWHERE, {}), powered, strict=True)
            ]
            built = replace(arm(), axes=tuple(axes), geometry=TwoLink(axes=ARM, lengths_mm=(100.0, 100.0)))
            start = tool(built).targets({"x": 60.0, "y": 30.0})
            made = plan(there(built, float(start["Shoulder"]), float(start["Elbow"]), to(-60, -30), to(60, 30)))
            with self.subTest(shape=shape):
                self.assertLess(made.duration, 12.0)
                if shape != {"deceleration": 300.0}:
                    self.assert_kept(made, rows=(0, 1))
                for axis, (ticks, signs) in zip(made.axes, played(made), strict=True):
                    self.assertEqual((len(ticks), int(signs.sum())), (axis.steps, axis.final_steps - axis.start_steps))

    def test_play_is_taken_up_for_the_turn_and_after_it(self):
        """What the tool does is worked out from what the motors do (play operator)."""
        random = np.random.default_rng(8)
        for case in range(8):
            built = column(**ANYWHERE)
            played_axes = (
                replace(built.axes[0], calibration=Calibration(backlash=round(float(random.uniform(0.5, 3)), 2))),
                replace(built.axes[1], calibration=Calibration(backlash=round(float(random.uniform(0.05, 0.3)), 2))),
                built.axes[2],
            )
            built = replace(built, axes=played_axes)
            ways = np.round(random.uniform(20, 40, 4), 1) * (-1, 1, -1, 1)
            blocks = [to(float(way), float(0.75 * way)) for way in ways]
            made = plan(there(built, math.degrees(math.atan2(30, 40)), 50, *blocks))
            times = np.linspace(0.0, made.duration, 30_001)
            with self.subTest(case=case):
                self.assert_kept(made, 0.06)
                for axis in made.axes:
                    motor, found = axis.train.ideal(times), axis.ideal(times)
                    np.testing.assert_allclose(found, through_play(motor, play_of(axis.axis).steps), atol=1e-3)

    def test_what_is_stopped_while_the_table_turns_goes_on_from_there(self):
        made = plan(there(column(**ANYWHERE), 0, 40, to(-40, 0)))
        for at in (REACH_S + 0.3, REACH_S + 0.9 * TURN_S, 0.5 * REACH_S):
            counts = [int(axis.train.steps_at(np.array([at]))[0]) for axis in made.axes]
            rest = remainder(made, at, counts)
            again = plan(made.machine, rest)
            with self.subTest(at=at):
                self.assertEqual([axis.start_steps for axis in again.axes], counts)
                self.assertEqual([axis.final_steps for axis in again.axes], [axis.final_steps for axis in made.axes])
                self.assertLess(again.duration, made.duration - at + 0.6)
                self.assert_kept(again)

    def test_what_is_stopped_near_the_centre_goes_on_the_way_round_it_was_going(self):
        """Axes stand beside their line by some steps, on the other side of the centre."""
        across = plan(there(column(**ANYWHERE), 0, 40, to(-40, 0)))
        wide = replace(arm().axes[1], limits=replace(arm().axes[1].limits, **ANYWHERE))
        folded = replace(
            arm(), axes=(column(min=D(-154), max=D(188)).axes[0], wide, arm().axes[2]),
            geometry=TwoLink(axes=ARM, lengths_mm=(100.0, 100.0)),
        )  # fmt: skip
        past = plan(there(folded, 108.130241686, -149.474663432, to(-45.701693, -30.126599, speed_factor=0.5)))
        for made, at, beside in ((across, REACH_S + TURN_S / 2, -3), (past, 0.33, 0)):
            counts = [int(axis.train.steps_at(np.array([at]))[0]) for axis in made.axes]
            counts[1] += beside
            rest = remainder(made, at, counts)
            assert rest is not None
            again = plan(made.machine, rest)
            with self.subTest(at=at):
                self.assertEqual(len(rest.blocks), 2, "back onto the line first")
                self.assertEqual([axis.start_steps for axis in again.axes], counts)
                self.assertEqual([axis.final_steps for axis in again.axes], [axis.final_steps for axis in made.axes])
                self.assert_kept(again, rows=(1,))
                self.assertLess(again.duration, made.duration - at + 0.6)


if __name__ == "__main__":
    unittest.main()
