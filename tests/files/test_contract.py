"""The format's own example: read, planned and written by the figures that follow from its text by hand."""

import json
import math
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np

from kivant.core.findings.checks import all_findings
from kivant.core.plan import plan
from kivant.core.travel.conversion import steps_per_unit
from kivant.files import project
from kivant.files.csv_trace import csv_chunks
from kivant.files.vcd_trace import vcd_chunks

EXAMPLE = Path(__file__).parent / "contract.kivant"


class Example(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = project.load(EXAMPLE)
        self.plan = plan(self.machine, "Raise and turn")

    def test_nothing_of_it_is_lost(self):
        """Saved, it holds the same data; saved again, the same bytes; a number keeps its digits."""
        saved = project.dumps(self.machine)
        self.assertEqual(json.loads(saved), json.loads(EXAMPLE.read_text()))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "again.kivant"
            project.save(self.machine, path)
            self.assertEqual(project.dumps(project.load(path)), saved)
        lines = saved.decode().splitlines()
        self.assertEqual((lines[0], lines[1], lines[-1]), ("{", '  "format": "kivant-project",', "}"))
        self.assertTrue(saved.endswith(b"}\n"))
        self.assertEqual(all_findings(self.machine), ())

    def test_steps_follow_from_teeth_and_leads(self):
        """96 half steps, 31*36*36 over 10*12*11; 1600 pulses on 8 mm."""
        wheel, lift = self.machine.axes
        self.assertEqual(steps_per_unit(wheel), Fraction(96 * 31 * 36 * 36, 10 * 12 * 11 * 360))
        self.assertEqual(steps_per_unit(lift), Fraction(1600, 8))

    def test_blocks_take_the_times_of_the_schoolbook(self):
        """First move: the Wheel's 90 degrees hold the speed, the Lift's standstill the start; then half a second;
        then 30 degrees back at half speed, from the Wheel's own start speed."""
        first, pause, back = self.plan.blocks
        self.assertAlmostEqual(self.plan.lead_in_s, 0.001)
        self.assertEqual(first.begin_s, self.plan.lead_in_s)
        self.assertAlmostEqual(first.end_s - first.begin_s, 90 / 60 + 60 / 120)
        self.assertAlmostEqual(pause.end_s - pause.begin_s, 0.5)
        ramps = 2 * (30 - 6) / 120
        cruise = (30 - 2 * (30**2 - 6**2) / (2 * 120)) / 30
        self.assertAlmostEqual(back.end_s - back.begin_s, ramps + cruise)
        self.assertAlmostEqual(self.plan.duration, 0.001 + 2.0 + 0.5 + ramps + cruise)

    def test_the_first_step_is_where_the_ramp_crosses_half_a_step(self):
        """From rest: x = a t²/2 with the path's acceleration, which is the Wheel's, 120 deg/s² for its 90 degrees."""
        wheel, lift = self.plan.axis("Wheel"), self.plan.axis("Lift")
        per_deg = float(wheel.steps_per_unit)
        self.assertAlmostEqual(wheel.instants[0], 0.001 + math.sqrt(2 * 0.5 / (120 * per_deg)), places=12)
        self.assertAlmostEqual(lift.instants[0], 0.001 + math.sqrt(2 * 0.5 / (120 / 90 * 2500)), places=12)
        self.assertEqual((wheel.steps, wheel.final_steps), (730 + (730 - 487), 487))
        self.assertEqual((lift.steps, lift.final_position), (2500, 12.5))
        self.assertAlmostEqual(wheel.final_position, 60.0, delta=0.5 / per_deg)
        self.assertEqual(wheel.signs.dtype, np.int8)

    def test_levels_in_the_trace_begin_as_the_format_says(self):
        """Row 0 at the first instant although the coils rest off; enable active at 0; half steps change one coil."""
        text = b"".join(vcd_chunks(self.plan)).decode()
        head, _, body = text.partition("$enddefinitions $end\n")
        codes = {}
        for line in head.splitlines():
            if line.startswith("$var"):
                _, _, _, code, name, _ = line.split()
                codes[code] = name
        start = {codes[line[1:]]: line[0] for line in body.split("$end")[0].splitlines() if line[0] in "01"}
        self.assertEqual(start, {"A": "1", "B": "0", "C": "0", "D": "0", "STEP": "0", "DIR": "1", "EN": "0"})
        changes = [line for line in body.split("$end\n")[1].splitlines() if line[0] in "01"]
        coil_changes = [line for line in changes if codes[line[1:]] in "ABCD"]
        self.assertEqual(
            len(coil_changes), 730 + 243 + 2, "one change a half step; step 487 is row 7, whose two coils go off"
        )
        rows = b"".join(csv_chunks(self.plan)).splitlines()
        self.assertEqual(len(rows), 1 + 730 + 243 + 2500)
        self.assertRegex(rows[1].decode(), r"^0\.0\d{8},(Wheel|Lift),1,1$")
