"""Geometry: tools where axes put them, and axes where tools want them."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np

from kivant.core.errors import KivantError
from kivant.core.findings import all_findings
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
from kivant.core.machine import Block, Machine, Move
from kivant.core.machine.axes import delete_axis, rename_axis
from kivant.core.machine.check import checked
from kivant.core.machine.tool import Tool, UnreachableError, tool_of
from kivant.core.plan import PlanError, plan
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
