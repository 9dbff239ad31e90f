"""Tables of positions, from and to a spreadsheet, and the geometry as it is edited."""

from __future__ import annotations

import unittest
from decimal import Decimal

from msgspec.structs import replace

from kivant.core.errors import KivantError
from kivant.core.geometry import CrossedBelts, Cylindrical, SumAxes, TwoLink, TwoLinkAxes
from kivant.core.machine import Move, Pause
from kivant.core.machine.geometries import (
    choose_elbow,
    choose_geometry,
    choose_role,
    typed_length,
    typed_tool_limit,
)
from kivant.core.program.position_table import is_table, moves_of, table_of
from tests.machines import coil_axis, machine, move, screw_axis

OWN = machine(screw_axis("Lift"), coil_axis("Wheel", 4), screw_axis("Reach", 8))
D = Decimal


class Tables(unittest.TestCase):
    def test_what_is_copied_is_pasted_as_it_was(self):
        blocks = [
            move(to={"Lift": "1.25", "Reach": "-3"}),
            move(by={"Wheel": "90"}),
            move(to={"Lift": "0"}, by={"Wheel": "1"}),
        ]
        text = table_of(OWN, blocks)
        self.assertEqual(text, "Lift\tWheel\tReach\n1.25\t\t-3\n\tby 90\t\n0\tby 1\t\n")
        self.assertTrue(is_table(text))
        self.assertEqual(moves_of(OWN, text), blocks)
        self.assertEqual(table_of(OWN, [Pause(seconds=1)]).splitlines()[1:], ["\t\t"])
        for text in ('{"kivant-blocks": []}', " [1]", "  \n "):
            self.assertFalse(is_table(text))

    def test_columns_are_named_or_in_the_order_of_the_axes(self):
        self.assertEqual(moves_of(OWN, "1\t2\t3\n"), [move(to={"Lift": "1", "Wheel": "2", "Reach": "3"})])
        self.assertEqual(moves_of(OWN, "Wheel\tLift\r\n0.5rev\t1in\r\n"), [move(to={"Wheel": "180", "Lift": "25.4"})])
        self.assertEqual(moves_of(OWN, "\t-7\n4\n"), [move(to={"Wheel": "-7"}), move(to={"Lift": "4"})])

    def test_a_row_for_each_chosen_block_changes_its_targets_alone(self):
        before = [move(to={"Lift": "1", "Reach": "2"}, speed_factor=0.5, name="A"), move(by={"Wheel": "3"})]
        found = moves_of(OWN, "Lift\tWheel\n5\t\n\tby 8\n", before)
        self.assertEqual(found, [replace(before[0], to={"Reach": D(2), "Lift": D(5)}), move(by={"Wheel": "8"})])

    def test_what_is_no_table_of_positions_is_told_by_row_and_column(self):
        cases = (
            ("Lift\n", "has no rows"), ("1\t2\t3\t4\n", "Row 1 has 4 columns; there are 3 axes"),
            ("1\nx\n", "Row 2, Lift: “x” is not a position"), ("1\t2\n3\tfour\n", "Row 2, Wheel: “four”"),
            ("Lift\tKnee\n1\t2\n", "Row 1, Lift: “Lift” is not a position"),
        )  # fmt: skip
        for text, words in cases:
            with self.subTest(text), self.assertRaisesRegex(KivantError, words):
                moves_of(OWN, text)
        with self.assertRaisesRegex(KivantError, "Only a move with targets"):
            moves_of(OWN, "1\n", [Pause(seconds=1)])


class Geometries(unittest.TestCase):
    def test_parts_are_taken_by_the_first_axes_of_the_right_unit(self):
        turns = replace(OWN, axes=(*OWN.axes, coil_axis("Elbow", 12)))
        arm = choose_geometry("two_link")(turns)
        self.assertEqual(arm.geometry.axes, TwoLinkAxes(shoulder="Wheel", elbow="Elbow", z="Lift"))
        self.assertEqual(
            choose_geometry("crossed_belts")(OWN).geometry, CrossedBelts(axes=SumAxes(a="Lift", b="Reach"))
        )
        column = choose_geometry("cylindrical")(OWN)
        self.assertIsInstance(column.geometry, Cylindrical)
        self.assertIsNone(choose_geometry("independent")(column).geometry)
        with self.assertRaisesRegex(KivantError, "needs an axis in deg that turns the elbow") as caught:
            choose_geometry("two_link")(OWN)
        self.assertEqual(str(caught.exception.faults[0].place), "geometry.axes.elbow")

    def test_values_and_parts_are_changed_and_checked(self):
        turns = replace(OWN, axes=(*OWN.axes, coil_axis("Elbow", 12)))
        arm = choose_geometry("two_link")(turns)
        swapped = choose_role("shoulder", "Elbow")(arm)
        self.assertEqual((swapped.geometry.axes.shoulder, swapped.geometry.axes.elbow), ("Elbow", "Wheel"))
        self.assertIsNone(choose_role("z", None)(arm).geometry.axes.z)
        self.assertEqual(choose_elbow("right")(arm).geometry.elbow, "right")
        self.assertEqual(typed_length(1, "4in")(arm).geometry.lengths_mm, (120.0, 101.6))
        fast = typed_tool_limit("tool_speed", "250 mm/s")(arm)
        self.assertEqual(fast.geometry.tool_speed, 250.0)
        self.assertIsNone(typed_tool_limit("tool_speed", " ")(fast).geometry.tool_speed)
        there = Move(tool={"x": D(100), "y": D(0), "z": D(1)})
        used = replace(arm, routines=(replace(arm.routines[0], blocks=(there,)),))
        for edit, words in (
            (typed_length(0, "0"), "above 0; found 0"), (typed_length(0, "long"), "is not a length"),
            (typed_tool_limit("tool_acceleration", "-1"), "above 0"), (choose_role("z", None), "no coordinate “z”"),
            (choose_geometry("independent"), "has no tool"), (choose_role("elbow", "Reach"), "Reach is in mm"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(KivantError, words):
                edit(used)
        self.assertIsInstance(used.geometry, TwoLink)
        with self.assertRaisesRegex(KivantError, "has no geometry"):
            choose_elbow("left")(OWN)
