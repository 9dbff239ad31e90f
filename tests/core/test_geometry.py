"""Geometry: tools where axes put them, and axes where tools want them."""

from __future__ import annotations

import math
import unittest
from collections import Counter
from decimal import Decimal
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.errors import KivantError
from kivant.core.findings.checks import all_findings
from kivant.core.geometry import (
    CrossedBelts,
    Cylindrical,
    CylindricalAxes,
    Differential,
    Geometry,
    SumAxes,
    TwoLink,
    TwoLinkAxes,
    geometry_kind,
)
from kivant.core.machine import Block, Each, Machine, Move, Repeat, Spin
from kivant.core.machine.axes import delete_axis, rename_axis
from kivant.core.machine.check import checked
from kivant.core.machine.tool import Tool, UnreachableError, tool_of
from kivant.core.motion.routine import commands
from kivant.core.plan import PlanError, plan
from kivant.core.program.editing import with_replaced
from kivant.core.program.held_back import held_back
from kivant.core.program.stretching import stretched
from tests.machines import coil_axis, limits, machine, screw_axis

D = Decimal
ARM = TwoLinkAxes(shoulder="Shoulder", elbow="Elbow", z="Lift")


def arm(elbow: Any = "left", blocks: tuple[Block, ...] = (), **more: Any) -> Machine:
    """Return an arm of two links with a lift."""
    axes = (
        coil_axis("Shoulder", 0, limits=limits(180, 720, min=D(-170), max=D(170))),
        coil_axis("Elbow", 4, limits=limits(180, 720, min=D(-150), max=D(150))),
        screw_axis("Lift", 8, limits=limits(min=D(0), max=D(60))),
    )
    return replace(
        machine(*axes, blocks=blocks), geometry=TwoLink(axes=ARM, lengths_mm=(120.0, 100.0), elbow=elbow, **more)
    )


def column(**turn: Any) -> Machine:
    """Return a column that turns, with a reach and a lift; `turn` are other limits of what turns it."""
    shoulder, _elbow, lift = arm().axes
    turns = replace(shoulder, limits=replace(shoulder.limits, **turn))
    return replace(
        arm(), axes=(turns, screw_axis("Reach", 4, limits=limits(60, 300)), lift),
        geometry=Cylindrical(axes=CylindricalAxes(turn="Shoulder", reach="Reach", z="Lift")),
    )  # fmt: skip


def with_tool(built: Machine, **bounds: float | None) -> Machine:
    """Return a machine with other limits of its tool."""
    geometry: Any = built.geometry
    return replace(built, geometry=replace(geometry, **bounds))


def tool(built: Machine) -> Tool:
    found = tool_of(built)
    assert found is not None
    return found


class Geometries(unittest.TestCase):
    def test_forward_and_inverse_undo_each_other_over_the_whole_reach(self):
        random = np.random.default_rng(2)
        sums = SumAxes(a="A", b="B")
        kinds: tuple[tuple[Geometry, dict[str, tuple[float, float]]], ...] = (
            (Cylindrical(axes=CylindricalAxes(turn="T", reach="R", z="Z")), {"turn": (-179, 179), "reach": (0.1, 300), "z": (-9, 9)}),
            (TwoLink(axes=ARM, lengths_mm=(120.0, 100.0)), {"shoulder": (-179, 179), "elbow": (-179, -0.5), "z": (0, 60)}),
            (TwoLink(axes=ARM, lengths_mm=(80.0, 130.0), elbow="right"), {"shoulder": (-179, 179), "elbow": (0.5, 179), "z": (0, 60)}),
            (CrossedBelts(axes=sums), {"a": (-99, 99), "b": (-99, 99)}),
            (Differential(axes=sums), {"a": (-99, 99), "b": (-99, 99)}),
        )  # fmt: skip
        for geometry, ranges in kinds:
            kind = geometry_kind(geometry)
            for _ in range(500):
                at = {role: float(random.uniform(*ends)) for role, ends in ranges.items()}
                place = kind.forward(geometry, at, math)
                found = kind.inverse(geometry, place, math)
                with self.subTest(kind=geometry.kind, at=at):
                    for role, value in at.items():
                        self.assertAlmostEqual(found[role], value, delta=1e-6)
                    again = kind.forward(geometry, found, math)
                    np.testing.assert_allclose(again, place, rtol=0, atol=1e-9)

    def test_the_elbow_lies_on_its_side_of_the_line_to_the_tool(self):
        for side, sign in (("left", 1), ("right", -1)):
            own = tool(arm(side))
            positions = own.targets({"x": 100, "y": 60})
            at = [float(positions["Shoulder"]), float(positions["Elbow"]), 0.0]
            _middle, elbow, end = own.links(at)
            np.testing.assert_allclose(end, (100, 60), atol=1e-6)
            self.assertGreater(sign * (end[0] * elbow[1] - end[1] * elbow[0]), 0)
            self.assertNotIn("Lift", positions)

    def test_targets_put_the_tool_where_it_is_wanted_whatever_limits_axes_have(self):
        """A whole turn of an axis may be added for its limits, but not of one that shares its movement with another."""
        random, reached = np.random.default_rng(3), Counter[str]()
        a, b = (coil_axis(name, 4 * k) for k, name in enumerate("AB"))
        shared = replace(machine(a, b), geometry=Differential(axes=SumAxes(a="A", b="B")))
        for built in (shared, column(), arm(), arm("right")):
            for _ in range(150):
                low = random.integers(-400, 100, 2)
                axes = tuple(
                    replace(
                        axis,
                        limits=replace(axis.limits, min=D(int(least)), max=D(int(least + random.integers(60, 720)))),
                    )
                    for axis, least in zip(built.axes, low, strict=False)
                )
                own = tool(replace(built, axes=(*axes, *built.axes[2:])))
                wanted = dict(zip(own.coordinates, random.uniform(-250, 250, 2).round(3).tolist(), strict=False))
                try:
                    found = own.targets(wanted)
                except UnreachableError:
                    continue
                reached[own.kind.title] += 1
                at = [float(found.get(axis.name, 0)) for axis in built.axes]
                with self.subTest(kind=own.kind.title, wanted=wanted, low=low):
                    np.testing.assert_allclose(own.place(at)[:2], list(wanted.values()), atol=1e-6)
                    for k in (0, 1):
                        least, most = own.limits(k)
                        self.assertTrue(least - 1e-6 <= at[k] <= most + 1e-6)
        self.assertGreater(min(reached.values()), 20)

    def test_what_cannot_be_reached_is_told_with_the_nearest_place(self):
        own = tool(arm())
        for place, words, nearest in (
            ({"x": 300, "y": 0}, "lies beyond its reach", (220, 0)),
            ({"x": 30, "y": 0}, "would need Elbow at -168", (60, 0)),
            ({"x": 100, "y": 0, "z": 99}, "would need Lift at 99 mm", (100, 0, 60)),
        ):
            with self.subTest(words), self.assertRaisesRegex(UnreachableError, words) as caught:
                own.targets(place)
            missed = math.dist(caught.exception.nearest[: len(nearest)], tuple(place.values()))
            self.assertAlmostEqual(missed, math.dist(nearest, tuple(place.values())), delta=1.0)

    def test_a_place_on_the_other_side_only_is_told_as_that_without_what_was_not_named(self):
        built = arm("right")
        elbow = replace(built.axes[1], limits=replace(built.axes[1].limits, max=D(0)))
        own = tool(replace(built, axes=(built.axes[0], elbow, built.axes[2])))
        with self.assertRaisesRegex(
            UnreachableError,
            "at x 150, y 60 mm: .* can reach it, but not in the way the geometry is set. Choose the other side",
        ):
            own.targets({"x": 150, "y": 60})

    def test_a_move_of_the_tool_goes_there_within_the_limits_of_the_tool(self):
        blocks = (
            Move(tool={"x": D(150), "y": D(60), "z": D(20)}), Move(tool={"x": D(80), "y": D(-90)}),
            Move(tool={"x": D(-60), "y": D(150), "z": D(5)}),
        )  # fmt: skip
        free = plan(arm(blocks=blocks))
        for speed, acceleration in ((60.0, None), (None, 200.0), (100.0, 150.0)):
            built = arm(blocks=blocks, tool_speed=speed, tool_acceleration=acceleration)
            made, own = plan(built), tool(built)
            self.assertGreater(made.duration, free.duration)
            times = np.linspace(0, made.duration, 40_001)
            at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in made.axes]
            place = np.stack(own.place(at, np))
            speeds = np.gradient(place, times, axis=1)
            rates = np.gradient(speeds, times, axis=1)
            if speed is not None:
                self.assertLess(np.sqrt((speeds**2).sum(axis=0)).max(), speed * 1.001)
            if acceleration is not None:
                self.assertLess(np.sqrt((rates**2).sum(axis=0)).max(), acceleration * 1.01)
            for block, end in zip(blocks, made.blocks.end_s, strict=True):
                assert block.tool is not None
                found = own.place([axis.ideal_at(float(end)) / float(axis.steps_per_unit) for axis in made.axes])
                for name, value in block.tool.items():
                    self.assertAlmostEqual(found[own.coordinates.index(name)], float(value), delta=1e-6)

    def test_axes_that_go_apart_are_all_slowed_down_until_the_tool_keeps_to_its_limits(self):
        random = np.random.default_rng(6)
        for case in range(12):
            to = dict(zip(("Shoulder", "Elbow", "Lift"), (random.uniform((-99, -120, 5), (99, -20, 55))), strict=True))
            each = Each(to={name: D(f"{at:.2f}") for name, at in to.items()}, speed_factor=0.7 if case % 3 else None)
            blocks = (Move(to={"Shoulder": D(10), "Elbow": D(-40)}), each)
            bounds = ((90.0, None), (None, 300.0), (120.0, 900.0))[case % 3]
            built = arm(blocks=blocks, tool_speed=bounds[0], tool_acceleration=bounds[1])
            made, free, own = plan(built), plan(arm(blocks=blocks)), tool(built)
            begin, end = (float(column[1]) for column in (made.blocks.begin_s, made.blocks.end_s))
            by = (end - begin) / float(free.blocks.end_s[1] - free.blocks.begin_s[1])
            times = np.linspace(begin, end, 20_001)
            at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in made.axes]
            speeds = np.gradient(np.stack(own.place(at, np), axis=-1), times, axis=0)
            rates = np.gradient(speeds, times, axis=0)[3:-3]
            used = [
                float(np.sqrt((column**2).sum(axis=1)).max()) / bound
                for column, bound in zip((speeds, rates), bounds, strict=True)
                if bound is not None
            ]
            with self.subTest(case=case):
                self.assertLess(max(used), 1.001)
                self.assertGreater(max(used), 0.96)  # and no slower than that
                for axis, other in zip(made.axes, free.axes, strict=True):  # the same, later
                    then = float(free.blocks.begin_s[1]) + (times - begin) / by
                    np.testing.assert_allclose(axis.ideal(times), other.ideal(then), atol=1e-5)
            for row, one in enumerate(held_back(built, commands(built, built.routines[0]))):
                took = float(made.blocks.end_s[row] - made.blocks.begin_s[row])
                self.assertAlmostEqual(one.seconds, took, delta=1e-6)
                if one.axis is None:
                    without = plan(with_tool(built, **{f"tool_{one.limit}": None}))
                    saved = took - float(without.blocks.end_s[row] - without.blocks.begin_s[row])
                    self.assertAlmostEqual(one.saved_s, saved, delta=1e-6)
            changes = stretched(built, built.routines[0], [(1,)], 2 * (end - begin))
            slower = plan(built, replace(built.routines[0], blocks=with_replaced(blocks, changes)))
            took = float(slower.blocks.end_s[1] - slower.blocks.begin_s[1])
            self.assertAlmostEqual(took, 2 * (end - begin), delta=1e-4)

    def test_axes_that_go_apart_more_slowly_for_the_tool_are_kept_out_of_their_bands(self):
        """A column turns at a reach of 60 mm: with 120 mm/s of its tool, at 114.6 deg/s."""
        each, start = Each(to={"Shoulder": D(160)}), {"Shoulder": D(-160), "Reach": D(60)}
        for bands, speed in (
            (None, 120 / math.radians(60)),
            (((100.0, 150.0),), 100),
            (((40.0, 90.0), (100.0, 150.0)), 100),
        ):
            base = with_tool(column(avoid=bands), tool_speed=120.0)
            built = replace(base, routines=(replace(base.routines[0], blocks=(each,), start=start),))
            made = plan(built)
            with self.subTest(bands=bands):
                self.assertAlmostEqual(made.axes[0].peak_speed, speed, delta=1e-9 if bands else 1.2)
                one = held_back(built, commands(built, built.routines[0]))[0]
                self.assertAlmostEqual(one.seconds, float(made.blocks.end_s[0] - made.blocks.begin_s[0]), delta=1e-6)

    def test_spins_have_gentler_ramps_for_the_tool_or_are_refused_if_they_are_too_fast(self):
        """A column that turns: the tool has the speed w r, and w^2 r to the middle besides b r along its way."""
        axes = (coil_axis("Turn", 0, limits=limits(180, 720)), screw_axis("Reach", 4, limits=limits(60, 300)))
        turn = math.radians(90.0)
        blocks = (Move(to={"Reach": D(50)}), Spin(speeds={"Turn": D(30)}, seconds=2.0),
                  Spin(speeds={"Turn": D(90)}, seconds=4.0), Spin(speeds={"Turn": D(-60)}, seconds=4.0))  # fmt: skip
        column = replace(machine(*axes, blocks=(Repeat(times=2, blocks=blocks),)), geometry=Cylindrical(
            axes=CylindricalAxes(turn="Turn", reach="Reach")))  # fmt: skip
        free = plan(column)
        for key, bound, words in (
            ("tool_speed", 50 * turn, "at 78.54 mm/s; its limit is 78.46"),
            ("tool_acceleration", 50 * turn**2, "accelerated by .* mm/s²; its limit is 123.2"),
        ):
            tight = with_tool(column, **{key: 0.999 * bound})
            with self.subTest(key):
                with self.assertRaisesRegex(PlanError, words) as caught:
                    plan(tight)
                self.assertEqual(str(caught.exception.faults[0].place), "routines[0].blocks[0].blocks[2].speeds")
                self.assertIn("spin-impossible", [f.code for f in all_findings(tight)])
        self.assertEqual(plan(with_tool(column, tool_speed=1.001 * 50 * turn)).duration, free.duration)
        for bound in (1.1 * 50 * turn**2, 250.0, 600.0):
            made = plan(with_tool(column, tool_acceleration=bound))
            self.assertAlmostEqual(float(made.blocks.end_s[3] - made.blocks.begin_s[1]), 10.0, places=9)
            times = np.linspace(float(made.blocks.begin_s[1]), float(made.blocks.end_s[3]), 40_001)
            at = [axis.ideal(times) / float(axis.steps_per_unit) for axis in made.axes]
            place = np.stack(np.broadcast_arrays(*tool(column).place(at, np)), axis=-1)
            rates = np.gradient(np.gradient(place, times, axis=0), times, axis=0)[3:-3]
            most = np.sqrt((rates**2).sum(axis=1))
            with self.subTest(bound=bound):
                self.assertLess(float(most.max()), 1.002 * bound)
                self.assertGreater(float(most.max()), 0.93 * bound)  # hardly gentler than it has to be

    def test_a_geometry_that_is_none_is_refused_where_it_is(self):
        good = arm()
        sums = SumAxes(a="Shoulder", b="Shoulder")
        cases: tuple[tuple[Machine, str, str], ...] = (
            (replace(good, geometry=TwoLink(axes=ARM, lengths_mm=(1.0,))), "geometry.lengths_mm", "lengths of two links"),
            (replace(good, geometry=TwoLink(axes=ARM, lengths_mm=(0.0, 1.0))), "geometry.lengths_mm[0]", "above 0"),
            (replace(good, geometry=TwoLink(axes=replace(ARM, elbow="Knee"), lengths_mm=(1.0, 2.0))), "geometry.axes.elbow", "no axis “Knee”"),
            (replace(good, geometry=TwoLink(axes=replace(ARM, elbow="Lift", z=None), lengths_mm=(1.0, 2.0))), "geometry.axes.elbow", "Lift is in mm"),
            (replace(good, geometry=Differential(axes=sums)), "geometry.axes.b", "two parts"),
        )  # fmt: skip
        for built, place, words in cases:
            with self.subTest(words):
                with self.assertRaisesRegex(KivantError, words) as caught:
                    checked(built)
                self.assertEqual(str(caught.exception.faults[0].place), place)
        there = Move(tool={"x": D(100), "y": D(0)})
        for blocks, geometry, words in (
            ((there,), None, "has no tool"),
            ((Move(tool={"x": D(1), "u": D(2)}),), good.geometry, "no coordinate “u”"),
            ((Move(tool={"x": D(1)}),), good.geometry, "lacks y"),
            ((replace(there, pose="P"),), good.geometry, "a pose and a place of the tool"),
        ):
            with self.subTest(words), self.assertRaisesRegex(KivantError, words):
                checked(replace(arm(blocks=blocks), geometry=geometry), routines=True)
        far = arm(blocks=(there, Move(tool={"x": D(900), "y": D(0)})))
        with self.assertRaisesRegex(PlanError, "beyond its reach"):
            plan(far)
        found = all_findings(far)
        self.assertIn(("place-unreachable", "routines[0].blocks[1].tool"), [(f.code, str(f.place)) for f in found])

    def test_axes_are_renamed_and_taken_out_of_a_geometry(self):
        built = arm()
        self.assertEqual(rename_axis(1, "Knee")(built).geometry.axes.elbow, "Knee")
        self.assertIsNone(delete_axis(2)(built).geometry.axes.z)
        self.assertIsNone(delete_axis(0)(built).geometry)
        with self.assertRaisesRegex(KivantError, "has no tool"):
            delete_axis(0)(arm(blocks=(Move(tool={"x": D(100), "y": D(0)}),)))
