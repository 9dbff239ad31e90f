"""Sense and stages: racks, drums, worms, pulleys and screws by other calculations; positive motion plays the right way."""

import math
import unittest
from decimal import Decimal
from fractions import Fraction
from itertools import product
from typing import Literal

import numpy as np
from msgspec.structs import replace

from kivant.core.drive.drivers import line_keys
from kivant.core.drive.rotor import rotor_state, row_in_force
from kivant.core.errors import KivantError
from kivant.core.machine import Gear, Screw, edits
from kivant.core.path import axis_path
from kivant.core.plan import plan
from kivant.core.signals import signals_between
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sense import chain_sense, rotor_sense
from kivant.core.travel.shafts import shaft_turns
from kivant.core.travel.stages import STAGES, Drum, Pulleys, Rack, Worm, stage_kind, stage_ratio
from kivant.files import project
from kivant.files.vcd_trace import vcd_chunks
from tests.machines import coil_axis, machine, move, pair_axis, screw_axis

PI = Fraction("3.14159265358979323846")


class Stages(unittest.TestCase):
    def test_each_by_another_calculation(self):
        """What a turn of the input does, in mm or turns of the output, worked out from the geometry."""
        for stage, per_turn in (
            (Rack(module=Decimal("1.5"), teeth=20), PI * Fraction("1.5") * 20),
            (Drum(diameter=Decimal("31.8")), PI * Fraction("31.8")),
            (Screw(pitch=Decimal("2"), starts=4), Fraction(8)),
            (Screw(pitch=Decimal("1.25")), Fraction("1.25")),
            (Worm(starts=2, teeth=41), Fraction(2, 41)),
            (Pulleys(driving=16, driven=60), Fraction(16, 60)),
        ):
            self.assertEqual(1 / stage_ratio(stage), per_turn)
            linear = stage_kind(stage).linear
            axis = replace(screw_axis() if linear else coil_axis(), travel=(stage,))
            turn = per_turn if linear else per_turn * 360
            self.assertEqual(steps_per_unit(axis) * turn, 1600 if linear else 400)
            built = machine(axis)
            self.assertEqual(project.loads(project.dumps(built)), built)
            self.assertTrue(math.isclose(shaft_turns(axis, float(turn))[0], 1.0))
        for kind, record in STAGES.items():
            self.assertEqual(record.new.stage, kind)

    def test_a_screw_is_said_in_one_way(self):
        for screw, said in (
            (Screw(lead=Decimal(8), pitch=Decimal(2)), "found both"),
            (Screw(), "found neither"),
            (Screw(lead=Decimal(8), starts=2), "Starts belong to a pitch"),
        ):
            with self.assertRaisesRegex(project.ProjectError, said):
                project.loads(project.dumps(machine(replace(screw_axis(), travel=(screw,)))))
        made = machine(screw_axis())
        turned = edits.say_stage_otherwise(0, 0)(made)
        self.assertEqual(turned.axes[0].travel, (Screw(pitch=Decimal(8), starts=1),))
        self.assertEqual(edits.say_stage_otherwise(0, 0)(turned), made)
        with self.assertRaisesRegex(KivantError, "no belt or screw"):
            edits.with_value(machine(coil_axis()), axis_path(0, "travel"), (STAGES["rack"].new,))


class Sense(unittest.TestCase):
    def test_every_stage_and_the_positive_direction_turn_it_round(self):
        senses: tuple[Literal["cw", "ccw"], ...] = ("cw", "ccw")
        for reversing, positive in product(range(4), senses):
            travel = tuple(Gear(driving=10, driven=20, reverses=k < reversing or None) for k in range(3))
            axis = replace(coil_axis(), travel=travel, positive=positive)
            chain = (-1) ** min(reversing, 3)
            self.assertEqual((chain_sense(axis), rotor_sense(axis)), (chain, chain * (1 if positive == "cw" else -1)))
            shafts = shaft_turns(axis, 360.0)
            self.assertEqual([shafts[0] > 0, shafts[-1] > 0], [rotor_sense(axis) > 0, positive == "cw"])
            self.assertAlmostEqual(rotor_state(axis, 1).mechanical_deg, 0.9 if rotor_sense(axis) > 0 else 359.1)

    def test_positive_motion_plays_rows_backwards_where_it_must(self):
        """Steps stay positive; levels are those of the axis that goes the other way; the board counts and plays alike."""
        for made in (coil_axis(), screw_axis(), pair_axis()):
            round_about = replace(made, positive="ccw")
            name = made.name
            there = plan(machine(round_about, blocks=(move(to={name: "9"}), move(to={name: "4"}))))
            other = plan(machine(made, blocks=(move(to={name: "-9"}), move(to={name: "-4"}))))
            self.assertEqual(there.axes[0].final_steps, -other.axes[0].final_steps)
            self.assertGreater(there.axes[0].final_steps, 0)
            np.testing.assert_allclose(there.axes[0].instants, other.axes[0].instants, atol=1e-12)
            for begin in np.linspace(0, there.duration, 7):
                window = (begin, begin + 0.01, there.powered_s)
                self.assertEqual(signals_between(there.axes[0], *window), signals_between(other.axes[0], *window))
            self.assertEqual(b"".join(vcd_chunks(there)), b"".join(vcd_chunks(other)))
            self.assertEqual(rotor_state(round_about, 3), rotor_state(made, -3))
            self.assertEqual(row_in_force(round_about, 3), row_in_force(made, -3))
            self.assertEqual(len(line_keys(made.driver)), len(signals_between(there.axes[0], 0, 1, 1)))


if __name__ == "__main__":
    unittest.main()
