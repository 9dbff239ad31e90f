"""Straight lines of a tool: held against sampled plans, and against what must be true of the fastest way."""

from __future__ import annotations

import math
import unittest
from decimal import Decimal
from typing import Any
from unittest.mock import patch

import numpy as np
from msgspec.structs import replace

from kivant.core.errors import KivantError
from kivant.core.findings.checks import all_findings, remedy_of
from kivant.core.geometry import CrossedBelts, SumAxes, TwoLink
from kivant.core.machine import Block, Each, Machine, Move, Repeat, Spin
from kivant.core.machine.check import checked
from kivant.core.machine.parts import Calibration
from kivant.core.motion.lines import courses
from kivant.core.motion.lines.known import lines_of
from kivant.core.motion.lines.straight import straight
from kivant.core.motion.remainder import remainder
from kivant.core.motion.routine import commands
from kivant.core.motor.pulling import pulls_of
from kivant.core.plan import Plan, PlanError, plan
from kivant.core.program.editing import with_replaced
from kivant.core.program.held_back import held_back
from kivant.core.program.holder import holder_words
from kivant.core.program.stretching import stretched
from kivant.core.travel.play import play_of
from tests.board.played import played
from tests.core.test_geometry import ARM, arm, column, tool, with_tool
from tests.machines import limits, machine, screw_axis, through_play
from tests.programs import free_of

D = Decimal


SHAPES: tuple[dict[str, Any], ...] = (
    {}, {"deceleration": 300.0}, {"shape": "s_curve", "jerk": 6000.0}, {"shape": "torque", "acceleration": 1e5},
)  # fmt: skip
"""Of the limits of all axes: as they are, braking more gently, with a jerk, and along what the motors pull."""


def random_line(random: np.random.Generator, case: int) -> tuple[Machine, float]:
    """Return a machine that goes to a place and straight to another, and how far it may be off that line."""
    built = column() if case % 3 == 0 else arm(str(random.choice(["left", "right"])))
    shape = SHAPES[case % 4]
    axes = tuple(replace(axis, limits=replace(axis.limits, **shape)) for axis in built.axes)
    if shape.get("shape") == "torque":
        powered = {"coils": {"supply_v": 24.0}, "step_direction": {"supply_v": 24.0, "current_a": 1.0}}
        axes = tuple(replace(axis, driver=replace(axis.driver, **powered[axis.driver.kind])) for axis in axes)
    tolerance = float(random.choice([0.2, 0.05, 0.01]))
    places = [
        {"x": D(f"{r * math.cos(a):.3f}"), "y": D(f"{r * math.sin(a):.3f}"), "z": D(f"{z:.2f}")}
        for r, a, z in ((*random.uniform((90, -0.9), (190, 0.9)), z) for z in (5, random.choice([6, 40])))
    ]
    blocks = (Move(tool=places[0]), Move(tool=places[1], straight=True, tolerance=tolerance))
    built = replace(built, axes=axes, routines=(replace(built.routines[0], blocks=blocks),))
    if case % 2:
        own = random.uniform((30, 100), (300, 2000))
        built = with_tool(built, tool_speed=float(own[0]), tool_acceleration=float(own[1]))
    return built, tolerance


def starting(built: Machine, share: float) -> Machine:
    """Return a machine whose axes jump to a share of their speeds."""
    axes = (replace(own, limits=replace(own.limits, start_speed=share * own.limits.speed)) for own in built.axes)
    return replace(built, axes=tuple(axes))


def derivatives(values: Any, times: Any) -> tuple[Any, Any, Any]:
    """Return speeds, accelerations and jerks of columns, without those at the ends, of which only one side is known."""
    speeds = np.gradient(values, times, axis=0)
    rates = np.gradient(speeds, times, axis=0)
    return speeds[3:-3], rates[3:-3], np.gradient(rates, times, axis=0)[6:-6]


class Straight(unittest.TestCase):
    def looked_at(self, built: Machine, made: Plan, row: int) -> tuple[Any, Any, Any]:
        """Return times within a block, the positions of the axes then, and the places of the tool, in columns."""
        times = np.linspace(float(made.blocks.begin_s[row]), float(made.blocks.end_s[row]), 20_001)
        at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in made.axes]
        return times, np.stack(at, axis=-1), np.stack(np.broadcast_arrays(*tool(built).place(at, np)), axis=-1)

    def test_lines_are_kept_to_within_all_limits_and_no_line_is_faster(self):
        """Random lines of an arm and a column; where nothing limits a jerk, something is at its limit all the time."""
        random = np.random.default_rng(14)
        for case in range(48):
            built, tolerance = random_line(random, case)
            if case % 8 > 3:
                built = starting(built, 0.1)
            made = plan(built)
            times, at, place = self.looked_at(built, made, 1)
            block: Any = built.routines[0].blocks[1]
            line = np.array([float(v) for v in block.tool.values()]) - place[0]
            along = ((place - place[0]) @ line) / (line @ line)
            off = np.sqrt(((place - place[0] - along[:, None] * line) ** 2).sum(axis=1))
            speeds, rates, jerks = derivatives(at, times)
            used = []
            for k, axis in enumerate(made.axes):
                bounds, forward = axis.axis.limits, np.where(speeds[:, k] * rates[:, k] > 0, 1, 0)
                up, down = np.full(len(forward), bounds.acceleration), np.full(len(forward), bounds.deceleration)
                if bounds.shape == "torque":
                    own, ratio = pulls_of(built, axis.axis), float(axis.steps_per_unit)
                    hz = np.abs(speeds[:, k]) * ratio
                    up = np.min([up, *(np.interp(hz, p.speeds, p.up) / ratio for p in own)], axis=0)
                    down = np.min([down, *(np.interp(hz, p.speeds, p.down) / ratio for p in own)], axis=0)
                used += [np.abs(speeds[:, k]) / bounds.speed, np.abs(rates[:, k]) / np.where(forward, up, down)]
                self.assertEqual(int(axis.signs.astype(int).sum()), axis.final_steps - axis.start_steps)
                self.assertTrue(np.all(np.diff(axis.instants) > 0))
                if bounds.jerk is not None:
                    self.assertLess(float(np.abs(jerks[:, k]).max()), bounds.jerk * 1.02)
            if case % 2:
                speeds, rates, _jerks = derivatives(place, times)
                geometry: Any = built.geometry
                used += [np.sqrt((speeds**2).sum(axis=1)) / geometry.tool_speed]
                used += [np.sqrt((rates**2).sum(axis=1)) / geometry.tool_acceleration]
            most = np.max(used, axis=0)
            with self.subTest(case=case):
                self.assertLess(float(off.max()), tolerance)
                np.testing.assert_allclose(place[-1], place[0] + line, atol=1e-6)
                self.assertTrue(np.all(np.diff(along) > -1e-9))
                self.assertLess(float(np.percentile(most, 99.9)), 1.005)  # where a turn is beside a limit, 1 is passed
                if case % 4 < 2:
                    self.assertGreater(float(np.percentile(most, 5)), 0.93)

    def test_where_all_axes_go_evenly_a_line_is_gone_as_a_move_is(self):
        """Crossed belts go straight either way: with start speeds, bands that are avoided, and all shapes of ramps."""
        random = np.random.default_rng(27)
        for case in range(50):
            shape: dict[str, Any] = (
                {}, {"shape": "torque", "acceleration": 1e4}, {"shape": "none"}, {"deceleration": 99.0},
                {"shape": "s_curve", "jerk": float(random.choice([500, 3000, 20_000]))},
            )[case % 5]  # fmt: skip
            axes = []
            for k, name in enumerate("AB"):
                own = screw_axis(name, 4 * k, driver={"supply_v": 24.0, "current_a": 1.0})
                edges = np.sort(random.uniform(4, 70, 4)).round(1)
                bands = tuple(map(tuple, edges.reshape(2, 2).tolist())) if case % 3 and edges[2] < 40 else None
                start = float(random.choice([0, 2, 9]))
                axes.append(replace(own, limits=replace(limits(60, 300, start=start), avoid=bands, **shape)))
            x, y = (D(f"{value:.2f}") for value in random.uniform(-40, 40, 2))
            moves = [Move(tool={"x": x, "y": y}, straight=straight) for straight in (None, True)]
            belts = CrossedBelts(axes=SumAxes(a="A", b="B"))
            found = [plan(replace(machine(*axes, blocks=(move,)), geometry=belts)) for move in moves]
            with self.subTest(case=case):
                self.assertAlmostEqual(
                    found[1].duration / found[0].duration, 1.0, delta=0.005 if "jerk" in shape else 1e-3
                )
                for bent, straight in zip(*(made.axes for made in found), strict=True):
                    self.assertAlmostEqual(straight.peak_speed, bent.peak_speed, delta=0.02 * bent.peak_speed)

    def test_the_faster_axes_may_start_the_shorter_a_line_takes(self):
        random, shares = np.random.default_rng(15), []
        for case in range(32):
            built, _tolerance = random_line(random, case)
            plans = [plan(starting(built, share)) for share in (0.0, 0.02, 0.1, 0.3)]
            took = np.array([made.blocks.end_s[1] - made.blocks.begin_s[1] for made in plans])
            with self.subTest(case=case):
                self.assertLess(float((took[1:] / took[:-1]).max()), 1.001)
            shares.append(took / took[0])
        np.testing.assert_array_less(np.mean(shares, axis=0)[1:], (0.995, 0.96, 0.9))

    def test_axes_pass_through_bands_that_they_avoid(self):
        """Bands around the speed at which an axis of random lines, gone slowly, goes for most of the time."""
        random, stayed, passed = np.random.default_rng(28), 0.0, 0.0
        for case in range(24):
            built, _tolerance = random_line(random, case)
            there, line = built.routines[0].blocks
            slow = replace(built.routines[0], blocks=(there, replace(line, speed_factor=0.2)))
            built = replace(built, routines=(slow,))
            made = plan(built)
            times, _at, _place = self.looked_at(built, made, 1)
            index = int(np.argmax([np.abs(axis.ideal(times[[0, -1]]) @ (1, -1)) for axis in made.axes[:2]]))
            usual = float(np.median(np.abs(made.axes[index].train.speed(times)))) / float(
                made.axes[index].steps_per_unit
            )
            axes, low, high = list(built.axes), 0.8 * usual, 1.3 * usual
            axes[index] = replace(axes[index], limits=replace(axes[index].limits, avoid=((low, high),)))
            other = plan(replace(built, axes=tuple(axes)))
            within = []
            for one in (made, other):
                times, _at, _place = self.looked_at(built, one, 1)
                speeds = np.abs(one.axes[index].train.speed(times)) / float(one.axes[index].steps_per_unit)
                inside = (speeds > 1.01 * low) & (speeds < 0.99 * high)
                within.append(float(inside.mean() * (times[-1] - times[0])))
            with self.subTest(case=case):
                self.assertLess(within[1], 0.1 * within[0])
            stayed, passed = stayed + within[0], passed + within[1]
        self.assertLess(passed, 0.02 * stayed)

    def test_where_an_axis_turns_round_its_driver_has_the_time_it_needs(self):
        """The elbow turns round some millionths of a step beyond one: without that step, or it is refused."""
        base = arm(blocks=())
        turned = D("-60.1")  # deg of the elbow, half way of the line
        for beyond in (1e-7, 1e-5, 1e-3, 0.2):
            for gap_us, tolerance in ((0.0, 0.05), (500.0, 0.05), (20_000.0, 0.5), (80_000.0, 0.05)):
                driver = replace(screw_axis(first_line=4).driver, microsteps=16, direction_setup_us=gap_us)
                built = replace(base, axes=(base.axes[0], replace(base.axes[1], driver=driver), base.axes[2]))
                per_deg = 3200 / 360
                step = math.floor(float(turned) * per_deg) + 0.5 + beyond
                angle = math.radians(step / per_deg)
                x = D(f"{math.sqrt(120**2 + 100**2 + 2 * 120 * 100 * math.cos(angle)):.12f}")
                blocks = tuple(
                    Move(tool={"x": x, "y": D(y)}, straight=line, tolerance=tolerance if line else None)
                    for y, line in ((70, None), (-70, True))
                )
                built = replace(built, routines=(replace(built.routines[0], blocks=blocks),))
                if gap_us > 50_000:
                    with self.assertRaisesRegex(PlanError, "faster than its driver can, which needs 0.08 s"):
                        plan(built)
                    continue
                made = plan(built)
                axis = made.axis("Elbow")
                turns = np.flatnonzero(np.diff(axis.signs)[axis.instants[:-1] > made.blocks.begin_s[1]])
                own = axis.instants[axis.instants > made.blocks.begin_s[1]]
                with self.subTest(beyond=beyond, gap=gap_us):
                    self.assertEqual(len(turns), 1)
                    self.assertGreaterEqual(float((own[turns + 1] - own[turns])[0]), gap_us * 1e-6)
                    _times, _at, place = self.looked_at(built, made, 1)
                    self.assertLess(float(np.abs(place[:, 0] - float(x)).max()), tolerance)
                    self.assertEqual(int(axis.signs.astype(int).sum()), axis.final_steps - axis.start_steps)

    def test_what_holds_a_line_back_is_what_planning_without_it_saves(self):
        random, looked_at = np.random.default_rng(8), set()
        for case in range(24):
            built, _tolerance = random_line(random, case)
            if case % 4 == 2:  # only one axis has a jerk
                others = (replace(axis, limits=replace(axis.limits, shape=None, jerk=None)) for axis in built.axes[1:])
                built = replace(built, axes=(built.axes[0], *others))
            made = plan(built)
            took = float(made.blocks.end_s[1] - made.blocks.begin_s[1])
            commanded = commands(built, built.routines[0])
            one = held_back(built, commanded)[1]
            self.assertAlmostEqual(one.seconds, took, delta=1e-9)
            if one.limit is None or built.axes[0].limits.shape == "torque":
                continue
            if one.axis is None:
                free = with_tool(built, **{f"tool_{one.limit}": None})
            else:
                free = free_of(built, one.axis, one.limit)
            other = plan(free, trusted=True)
            saved = took - float(other.blocks.end_s[1] - other.blocks.begin_s[1])
            with self.subTest(case=case, limit=one.limit):
                self.assertAlmostEqual(one.saved_s, saved, delta=0.01 * took)
            looked_at.add((one.axis is None, one.limit))
            self.assertRegex(holder_words(built, one.axis, one.limit), r"^\w+( tool)?'s \w+ of [\d.e+]+ \w+/s.?$")
        self.assertGreaterEqual(len(looked_at), 4)

    def test_lines_are_stretched_to_a_time_with_all_else(self):
        random = np.random.default_rng(9)
        for case in range(8):
            built, _tolerance = random_line(random, case)
            routine, took = built.routines[0], plan(built).duration
            wished = took * float(random.uniform(1.05, 6))
            changes = stretched(built, routine, [(0,), (1,)], wished)
            self.assertEqual([place for place, _block in changes], [(0,), (1,)])
            slower = replace(routine, blocks=with_replaced(routine.blocks, changes))
            with self.subTest(case=case):
                self.assertAlmostEqual(plan(built, slower).duration, wished, delta=2e-5 * wished)

    def test_an_axis_may_turn_round_on_the_way_and_a_repeat_goes_from_where_it_is(self):
        there = Move(tool={"x": D(150), "y": D(80), "z": D(0)}, straight=True)
        back = Move(tool={"x": D(150), "y": D(-80), "z": D(0)}, straight=True)
        built = arm(blocks=(Repeat(times=3, blocks=(there, back)), Move(by={"Elbow": D(-1)})))
        made = plan(built)
        self.assertEqual(len(made.blocks), 7)
        _times, at, place = self.looked_at(built, made, 3)
        self.assertLess(float(np.abs(place[:, 0] - 150).max()), 0.05)
        turned = np.diff(np.sign(np.diff(at[1:-1, 1])))
        self.assertGreater(int(np.abs(turned).sum()), 0)  # the elbow bends, and stretches again
        self.assertAlmostEqual(float(made.blocks.end_s[3] - made.blocks.begin_s[3]),
                               float(made.blocks.end_s[5] - made.blocks.begin_s[5]), places=9)  # fmt: skip
        played_axis = made.axis("Elbow")
        self.assertEqual(int(played_axis.signs.astype(int).sum()), played_axis.final_steps - played_axis.start_steps)

    def test_play_is_taken_up_where_axes_turn_round_and_the_tool_stands_on_its_line_meanwhile(self):
        """Tool positions are those of a drive train with play, worked out from what the motors do (play operator)."""
        random, within = np.random.default_rng(10), 0
        for case in range(16):
            built, _tolerance = random_line(random, 4 * (case // 4) + (0, 1, 2, 1)[case % 4])
            backlash = random.uniform((0.5, 0.5, 0.05), (3.0, 3.0, 0.3))
            axes = tuple(
                replace(axis, calibration=Calibration(backlash=round(float(play), 3)), limits=replace(axis.limits, min=None, max=None))
                for axis, play in zip(built.axes, backlash, strict=True)
            )  # fmt: skip
            there, back = built.routines[0].blocks
            blocks = (
                there,
                replace(back, tolerance=None),
                replace(there, straight=True),
                replace(back, tolerance=None),
            )
            built = replace(built, axes=axes, routines=(replace(built.routines[0], blocks=blocks),))
            made = plan(built)
            for row in range(1, 4):
                times, _at, place = self.looked_at(built, made, row)
                line = place[-1] - place[0]
                along = ((place - place[0]) @ line) / (line @ line)
                off = np.sqrt(((place - place[0] - along[:, None] * line) ** 2).sum(axis=1))
                with self.subTest(case=case, row=row):
                    self.assertLess(float(off.max()), 0.06)
                    self.assertTrue(np.all(np.diff(along) > -1e-7))
            times = np.linspace(0.0, made.duration, 30_001)
            for axis in made.axes:
                motor, found = axis.train.ideal(times), axis.ideal(times)
                driven = through_play(motor, play_of(axis.axis).steps)
                with self.subTest(case=case, axis=axis.name):
                    np.testing.assert_allclose(found, driven, atol=1e-3)
                    own = axis.axis.limits
                    self.assertLessEqual(axis.peak_speed / own.speed, 1 + 1e-6)
                    self.assertLessEqual(axis.peak_acceleration / max(own.acceleration, own.deceleration), 1 + 1e-6)
                    self.assertEqual(axis.final_steps, axis.start_steps + int(axis.signs.astype(int).sum()))
                    gaps = np.diff(axis.instants)[np.diff(axis.signs) != 0]
                    self.assertTrue(np.all(gaps >= 12e-6) if axis.axis.driver.kind == "step_direction" else True)
                begins = axis.taken.begin_s
                inside = (begins[:, None] > made.blocks.begin_s[1:] + 1e-3) & (begins[:, None] < made.blocks.end_s[1:])
                within += int(inside.sum())
        self.assertGreater(within, 10)

    def test_axes_that_take_up_their_play_on_a_line_keep_to_their_limits(self):
        """From a stretched arm: what an axis goes too far where it turns round is not made up for elsewhere."""
        for elbow, place, backlash in (
            ("left", ("40", "163"), (0.5, 0.5)), ("left", ("-13", "-152"), (1.0, 1.0)), ("right", ("116", "140"), (3.0, 1.0)),
            ("left", ("-196", "72"), (1.0, 0.5)),  # the shoulder turns by 199 degrees, and a little back
        ):  # fmt: skip
            built = arm(elbow, (Move(tool=dict(zip("xy", map(D, place), strict=True)), straight=True),))
            calibrations = [Calibration(backlash=play) for play in (*backlash, 0.0)]
            axes = tuple(
                replace(axis, calibration=own, limits=replace(axis.limits, min=low, max=D(250)))
                for axis, own, low in zip(built.axes, calibrations, (D(-150), None, None), strict=True)
            )
            for axis in plan(replace(built, axes=axes)).axes:
                with self.subTest(place=place, axis=axis.name):
                    self.assertLessEqual(axis.peak_speed, axis.axis.limits.speed * (1 + 1e-9))
                    self.assertLessEqual(axis.peak_acceleration, axis.axis.limits.acceleration * (1 + 1e-9))

    def test_a_line_that_was_cut_short_goes_on_straight(self):
        random = np.random.default_rng(11)
        for case in range(12):
            built, _tolerance = random_line(random, case)
            made = plan(built)
            at = float(
                made.blocks.begin_s[1] + random.uniform(0.1, 0.9) * (made.blocks.end_s[1] - made.blocks.begin_s[1])
            )
            counts = [int(axis.train.steps_at(np.array([at]))[0]) for axis in made.axes]
            again = plan(built, remainder(made, at, counts))
            _times, _at, whole = self.looked_at(built, made, 1)
            _times, _at, place = self.looked_at(built, again, 0)
            line = whole[-1] - whole[0]
            along = ((place - whole[0]) @ line) / (line @ line)
            off = np.sqrt(((place - whole[0] - along[:, None] * line) ** 2).sum(axis=1))
            with self.subTest(case=case):
                self.assertEqual([axis.start_steps for axis in again.axes], counts)
                self.assertEqual([axis.final_steps for axis in again.axes], [axis.final_steps for axis in made.axes])
                self.assertLess(float(off[-1]), 1e-6)
                self.assertLess(float(off.max()), float(off[0]) + 0.2)  # from beside it by less than a step

    def test_programs_of_an_arm_keep_to_speeds_steps_and_play_and_are_played_by_a_board(self):
        """Lines, moves of the tool, axes that go apart, spins and repeats in any order, with and without play."""
        random, told, planned = np.random.default_rng(30), set(), 0

        def place() -> dict[str, Decimal]:
            r, a = random.uniform((60, -1.3), (205, 1.3))
            return {
                "x": D(f"{r * math.cos(a):.2f}"),
                "y": D(f"{r * math.sin(a):.2f}"),
                "z": D(int(random.integers(60))),
            }

        def block(deep: bool = False) -> Block:
            turns, seconds = int(random.integers(-30, 30)), float(random.uniform(1, 4))
            made: tuple[Block, ...] = (
                Move(tool=place(), straight=True, tolerance=float(random.choice([0.05, 1.0]))), Move(tool=place()),
                Move(tool=place(), straight=True, speed_factor=0.3), Move(by={"Lift": D("1.7")}),
                Each(to={"Shoulder": D(turns), "Elbow": D(int(random.integers(-120, -20)))}),
                Spin(speeds={"Shoulder": D(turns)}, seconds=seconds),
            )  # fmt: skip
            if not deep and random.random() < 0.2:
                return Repeat(times=2, blocks=(block(True), block(True)))
            return made[int(random.integers(len(made)))]

        for case in range(25):
            base, _tolerance = random_line(random, (1, 2, 5, 10, 13)[case % 5])
            plays = Calibration(backlash=round(float(random.uniform(0.1, 3)), 2)) if case % 2 else None
            axes = (
                replace(axis, calibration=plays, limits=replace(axis.limits, min=None, max=None)) for axis in base.axes
            )
            blocks = (Move(tool=place()), *(block() for _ in range(5)))
            built = replace(base, axes=tuple(axes), routines=(replace(base.routines[0], blocks=blocks),))
            with self.subTest(case=case):
                try:
                    made = plan(built)
                except PlanError as error:
                    told.add(str(error).split(": ")[1].split()[1])
                    continue
                planned += 1
                times = np.linspace(0.0, made.duration, 6001)
                for axis, (instants, signs) in zip(made.axes, played(made), strict=True):
                    self.assertEqual(signs.tolist(), axis.signs.tolist())
                    self.assertLess(float(np.abs(instants - axis.instants).max(initial=0.0)), 21e-6)
                    self.assertTrue(np.all(np.diff(axis.instants) > 0))
                    self.assertLess(axis.peak_speed, axis.axis.limits.speed * 1.0001)
                    driven = through_play(axis.train.ideal(times), play_of(axis.axis).steps)
                    apart = axis.peak_pulse_hz * made.duration / 6000 + 1e-3
                    np.testing.assert_allclose(axis.ideal(times), driven, atol=apart)
        self.assertGreater(planned, 10)
        self.assertTrue(told <= {"a", "tool", "would", "needs"}, told)

    def test_a_line_is_worked_out_again_only_where_something_that_it_depends_on_has_changed(self):
        feeder = screw_axis("Feeder", 12, limits=limits())
        first, *lines = (
            Move(tool={"x": D(x), "y": D(y)}, straight=y < 60 or None) for x, y in ((120, 60), (160, 0), (120, -60))
        )
        fed = Move(by={"Feeder": D(3)})
        plain = arm(blocks=(first, *lines))
        built = replace(plain, axes=(*plain.axes, feeder))
        (routine,), (shoulder, *others) = built.routines, built.axes

        def of(*blocks: Block) -> Machine:
            return replace(built, routines=(replace(routine, blocks=blocks),))

        longer = TwoLink(axes=ARM, lengths_mm=(121.0, 100.0))
        slower = replace(shoulder, limits=replace(shoulder.limits, speed=90.0))
        table: tuple[tuple[str, Machine, int], ...] = (
            ("nothing", built, 2),
            ("a name", replace(built, name="Other"), 0),
            ("another axis stands elsewhere", of(fed, first, fed, *lines), 0),
            ("one line less", of(first, lines[0]), 0),
            ("twice", of(Repeat(times=2, blocks=(first, *lines))), 0),
            ("a speed", of(first, lines[0], replace(lines[1], speed_factor=0.5)), 1),
            ("a tolerance", of(first, replace(lines[0], tolerance=0.2), lines[1]), 1),
            ("a place", of(first, lines[0], Move(tool={"x": D(125), "y": D(-60)}, straight=True)), 1),
            ("a limit", replace(built, axes=(slower, *others)), 2),
            ("all back", replace(built, notes="As before"), 0),
            ("a length", replace(built, geometry=longer), 2),
            ("a slow board", replace(built, board=replace(built.board, max_pulse_hz=200.0)), 2),
        )  # fmt: skip
        lines_of.cache_clear()
        for what, changed, again in table:
            with self.subTest(what=what), patch(f"{courses.__name__}.straight", wraps=straight) as worked_out:
                made, held = plan(changed), held_back(changed, commands(changed, changed.routines[0]))
                self.assertEqual(worked_out.call_count, again)
                anew = replace(changed, axes=tuple(map(replace, changed.axes)))
                fresh = plan(anew)
                self.assertEqual(made.duration, fresh.duration)
                self.assertEqual(held, held_back(anew, commands(anew, anew.routines[0])))
                for axis, other in zip(made.axes, fresh.axes, strict=True):
                    np.testing.assert_array_equal(axis.instants, other.instants)

    def test_a_line_that_leaves_what_can_be_reached_is_refused(self):
        blocks = (Move(tool={"x": D(40), "y": D(120)}), Move(tool={"x": D(40), "y": D(-120)}, straight=True))
        with self.assertRaisesRegex(PlanError, "cannot be at x 40, y .* would need Elbow at -1[56]") as caught:
            plan(arm(blocks=blocks))
        self.assertEqual(str(caught.exception.faults[0].place), "routines[0].blocks[1].tool")
        over = (Move(to={"Elbow": D(60)}), Move(tool={"x": D(150), "y": D(20)}, straight=True))
        with self.assertRaisesRegex(PlanError, "the geometry has Shoulder at 53.99102 deg; it is at 0"):
            plan(arm(blocks=over))
        with self.assertRaisesRegex(KivantError, "Only the tool goes straight"):
            checked(arm(blocks=(Move(to={"Lift": D(1)}, straight=True),)), routines=True)

    def test_near_a_singular_place_the_tool_slows_down_and_says_so(self):
        wide = arm()
        free = replace(wide.axes[1], limits=replace(wide.axes[1].limits, min=D(-179)))
        blocks = (Move(tool={"x": D(22), "y": D(110)}), Move(tool={"x": D(22), "y": D(-110)}, straight=True))
        built = replace(
            wide, axes=(wide.axes[0], free, wide.axes[2]), routines=(replace(wide.routines[0], blocks=blocks),)
        )
        found = {f.code: f for f in all_findings(built)}
        self.assertIn("singular", found)
        self.assertRegex(found["singular"].message, r"slows down to \d+ % of its usual speed, near x 22")
        edit = remedy_of(found["singular"])
        assert edit is not None
        mended = edit(built)
        block: Any = mended.routines[0].blocks[1]
        self.assertIsNone(block.straight)
        self.assertLess(plan(mended).duration, plan(built).duration)
