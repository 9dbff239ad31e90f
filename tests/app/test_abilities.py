"""What motors can do is worked out anew for whatever it depends on, and for nothing else."""

import unittest
from decimal import Decimal
from unittest import mock

from kivant.app import abilities
from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.workbench import Workbench
from kivant.core.machine.edits import set_value, with_value
from kivant.core.machine.parts import Calibration
from kivant.core.motor.usable import ability
from kivant.core.path import Path, axis_path


class Known(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = Workbench(Document(load_example()))
        self.addCleanup(self.bench.close)

    def test_every_change_that_counts_is_seen(self):
        bench = self.bench
        seen = {bench.abilities.top_speed(1)}
        for place, value in (
            (axis_path(1, "motor", "resistance_ohm"), 30.0), (axis_path(1, "motor", "inductance_mh"), 60.0),
            (axis_path(1, "driver", "current_a"), 0.5), (axis_path(1, "driver", "microsteps"), 1),
            (axis_path(1, "travel", 0, "lead"), Decimal(4)), (axis_path(1, "load", "force_n"), 5.0),
            (axis_path(1, "calibration"), Calibration(scale=Decimal("1.1"))), (axis_path(1, "margin"), 2.0),
            (Path.of("supplies", 1, "volts"), 18.0), (Path.of("board", "max_pulse_hz"), 150.0),
        ):  # fmt: skip
            bench.edit(lambda machine, p=place, v=value: with_value(machine, p, v), str(place))
            found = ability(bench.machine, bench.machine.axes[1])
            self.assertEqual(bench.abilities.top_speed(1), (found.speed, found.limited_by), place)
            self.assertEqual(bench.abilities.of(1).acceleration, found.acceleration, place)
            seen.add(bench.abilities.top_speed(1))
        self.assertGreater(len(seen), 8, "nearly every one of them changes it")
        while bench.document.undo_name:
            bench.undo()
        found = ability(load_example(), load_example().axes[1])
        self.assertEqual(bench.abilities.top_speed(1), (found.speed, found.limited_by))

    def test_a_change_of_limits_asks_for_no_speed(self):
        bench = self.bench
        bench.abilities.top_speed(0)
        with mock.patch.object(abilities, "top_speed") as asked:
            for speed in (50.0, 40.0):
                bench.edit(set_value(axis_path(0, "limits", "speed"), speed), "speed")
                bench.abilities.top_speed(0)
        asked.assert_not_called()
