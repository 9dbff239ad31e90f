"""Kinds are tables: one that is added to a table is planned, checked, edited, written and read like the others."""

import json
import unittest
from decimal import Decimal
from fractions import Fraction

import jsonschema
from msgspec.structs import replace

from kivant.core.machine import Machine, Routine, edits
from kivant.core.machine.axes import rename_axis
from kivant.core.machine.check import MachineError
from kivant.core.motion.routine import block_number, find_block
from kivant.core.path import Path, axis_path
from kivant.core.plan import plan
from kivant.core.travel.conversion import steps_per_unit
from kivant.files import project
from tests.kinds import Home, LabWorm, added
from tests.machines import coil_axis, machine, move


def built() -> Machine:
    """Return a disc behind a worm of 1:40, which goes out, rests a quarter of a second and comes home."""
    disc = replace(coil_axis(), travel=(LabWorm(starts=2, teeth=80),))
    return machine(disc, blocks=(move(to={"Disc": "9"}), Home(rest=0.25)))


class AddedKinds(unittest.TestCase):
    def setUp(self) -> None:
        kinds = added()
        kinds.__enter__()
        self.addCleanup(kinds.__exit__, None, None, None)

    def test_a_stage_and_a_block_are_planned(self):
        """400 half steps by 40 over 360 deg; the block ends when it is home, a rest later."""
        made = plan(built())
        self.assertEqual(steps_per_unit(built().axes[0]), Fraction(400 * 40, 360))
        self.assertEqual((made.axes[0].final_steps, made.axes[0].steps), (0, 800))
        out, home = made.blocks[0], made.blocks[-1]
        self.assertEqual((home.path, home.block), (Path.parse("blocks[1]"), Home(rest=0.25)))
        self.assertAlmostEqual(home.end_s - out.end_s, 0.25 + out.end_s - out.begin_s)
        self.assertEqual(find_block(built().routines[0], Path.parse("blocks[1]")), Home(rest=0.25))
        self.assertEqual(block_number(home.path), "2")

    def test_they_are_written_read_and_in_the_schema(self):
        data = project.dumps(built())
        self.assertIn(b'"stage": "test_worm",\n          "starts": 2,\n          "teeth": 80', data)
        self.assertEqual(project.loads(data), built())
        validator = jsonschema.Draft202012Validator(project.schema())
        document = json.loads(data)
        validator.validate(document)
        document["axes"][0]["travel"][0]["teeth"] = 0
        self.assertFalse(validator.is_valid(document))
        with self.assertRaisesRegex(
            project.ProjectError, r"axes\[0\]\.travel\[0\]\.teeth: Expected a number of at least 1"
        ):
            project.loads(json.dumps(document).encode())

    def test_they_are_checked_and_edited(self):
        made = edits.typed(axis_path(0, "travel", 0, "teeth"), "60 teeth")(built())
        self.assertEqual(made.axes[0].travel[0], LabWorm(starts=2, teeth=60))
        self.assertEqual(edits.add_stage(0, "test_worm")(made).axes[0].travel[-1], LabWorm(starts=1, teeth=30))
        with self.assertRaisesRegex(MachineError, "at least 1"):
            edits.typed(axis_path(0, "travel", 0, "starts"), "0")(made)
        with self.assertRaisesRegex(MachineError, r"routines\[0\]\.blocks\[1\]\.rest: Expected a number of at least 0"):
            edits.with_value(made, Path.parse("routines[0].blocks[1].rest"), -1.0)
        renamed = rename_axis(0, "Table")(made).routines[0]
        self.assertEqual(renamed, Routine(name="test", blocks=(move(to={"Table": Decimal(9)}), Home(rest=0.25))))


class WithoutThem(unittest.TestCase):
    def test_outside_the_table_a_kind_is_unknown(self):
        with added():
            data = project.dumps(built())
        with self.assertRaisesRegex(project.ProjectError, r"travel\[0\]: Expected 'gear', 'ratio', 'belt', 'screw'"):
            project.loads(data)
        with self.assertRaisesRegex(MachineError, r"travel\[0\]: Expected 'gear', 'ratio', 'belt', 'screw'"):
            edits.with_value(built(), Path.of("name"), "bench")
