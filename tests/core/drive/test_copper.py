"""Currents and heat: energy that is conserved, figures worked out by hand, and the charge of a plan counted row by row."""

import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.drive import comparison, copper
from kivant.core.drive.drivers import OwnSequence, driver_kind
from kivant.core.drive.feeds import feeds, greatest_current
from kivant.core.machine import Motor, Pause
from kivant.core.machine.parts import Supply
from kivant.core.plan import plan
from kivant.core.supplies import current_after, current_over
from tests.machines import coil_axis, machine, move, screw_axis

MOTOR = Motor(winding="unipolar", full_steps_per_rev=200, current_a=0.5, resistance_ohm=10.0, holding_torque_nm=0.2,
              detent_torque_nm=0.01)  # fmt: skip

TOLD: Any = copper
BESIDE: Any = comparison


def axis_of(winding: Any, **driver):
    return replace(coil_axis(driver=driver), motor=replace(MOTOR, winding=winding))


class Draws(unittest.TestCase):
    def test_what_a_supply_gives_is_what_the_coils_make_into_heat(self):
        """At standstill nothing else takes power, whatever the driver, the winding and the row."""
        pulses = replace(screw_axis(driver={"current_a": 0.8}), motor=MOTOR)
        for axis in (axis_of("unipolar"), axis_of("bipolar"), pulses):
            for draw in TOLD.draws(axis, 12.0):
                self.assertAlmostEqual(draw.supply_a * 12.0, draw.loss_w)
                for share in (1.0, 0.5, 0.0):
                    less = draw.reduced(share)
                    self.assertAlmostEqual(less.loss_w, draw.loss_w * share**2)
                    self.assertAlmostEqual(less.torque, draw.torque * share)

    def test_figures_by_hand(self):
        """12 V across 10 ohm are 1.2 A and 14.4 W a coil; a driver that is set to 0.8 A makes 6.4 W of 0.533 A."""
        unipolar, bipolar = axis_of("unipolar"), axis_of("bipolar")
        self.assertEqual([round(d.supply_a, 9) for d in TOLD.draws(unipolar, 12.0)], [1.2, 2.4] * 4)
        self.assertAlmostEqual(TOLD.mean_draw(unipolar, 12.0).loss_w, 1.5 * 14.4)
        self.assertAlmostEqual(TOLD.greatest_draw(bipolar, 12.0).loss_w, 28.8)
        both_ends = replace(bipolar, driver=replace(bipolar.driver, sequence=OwnSequence(rows=(5, 1, 2, 4, 8))))
        self.assertEqual(TOLD.draw_at(both_ends, 12.0, 0).supply_a, 0.0, "both ends of a winding at one level")
        tapped = replace(both_ends, motor=MOTOR)
        self.assertAlmostEqual(TOLD.draw_at(tapped, 12.0, 0).supply_a, 2.4, msg="two half windings against each other")
        pulses = replace(screw_axis(driver={"current_a": 0.8}), motor=MOTOR)
        self.assertAlmostEqual(TOLD.draw_at(pulses, 12.0, 3).supply_a, 0.8**2 * 10 / 12)
        unknown = replace(unipolar, motor=replace(MOTOR, resistance_ohm=None))
        self.assertEqual((TOLD.coil_current(unknown, 12.0), TOLD.draw_at(unknown, 12.0, 0).loss_w), (0.5, None))

    def test_at_rest(self):
        for rest, percent, share in (("hold", None, 1.0), ("reduced", 50.0, 0.25), ("off", None, 0.0)):
            axis = axis_of("bipolar", at_rest=rest, reduced_percent=percent)
            full = TOLD.draw_at(axis, 12.0, 1)
            self.assertAlmostEqual(TOLD.at_rest(axis, full).loss_w, 28.8 * share)
        axis = axis_of("bipolar")
        held = [
            TOLD.held_torque_nm(axis, TOLD.draw_at(axis, 12.0, row).reduced(share))
            for row, share in ((1, 1), (0, 1), (1, 0.5), (0, 0))
        ]
        for torque, wanted in zip(held, (0.2, 0.2 / math.sqrt(2), 0.1, 0.01), strict=True):
            self.assertAlmostEqual(torque, wanted)


class Supplies(unittest.TestCase):
    def test_charge_over_a_plan(self):
        """The mean currents of a plan make the charge that its rows give, counted from step to step."""
        axis = replace(axis_of("unipolar"), driver=replace(axis_of("unipolar").driver, supply="bench"))
        built = machine(axis, blocks=(move(to={"Disc": "95"}), Pause(seconds=0.5), move(to={"Disc": "-40"})))
        built = replace(built, supplies=(Supply(name="bench", volts=12.0, max_a=2.0),))
        made = plan(built)
        (feed,) = feeds(built)
        begins, mean = current_over(made, feed, 4000)
        planned = made.axes[0]
        edges = np.concatenate(([0.0], planned.instants, [made.duration]))
        rows = np.concatenate(([0], np.cumsum(planned.signs)))
        on = np.array([row.coils_on for row in driver_kind(axis.driver).rows(axis.driver)])
        charge = float(np.sum(np.diff(edges) * on[rows % 8])) * 1.2
        self.assertAlmostEqual(float(np.sum(mean)) * made.duration / len(begins), charge, delta=charge * 0.01)
        self.assertAlmostEqual(current_after(made, feed), 1.2 * on[rows[-1] % 8])
        self.assertEqual(greatest_current(built, feed), (2.4, ()))

    def test_drivers_without_a_supply_are_told_by_their_voltage(self):
        built = machine(
            coil_axis(driver={"supply_v": 5.0}), coil_axis("B", 4, driver={"supply_v": 5.0}), coil_axis("C", 8)
        )
        self.assertEqual(
            [(f.name, f.place, f.axes) for f in feeds(built)], [("5 V", None, (0, 1)), ("no supply", None, (2,))]
        )
        self.assertEqual(greatest_current(built, feeds(built)[0]), (0.0, ("Disc", "B")))


class SideBySide(unittest.TestCase):
    def test_sequences(self):
        axis = axis_of("unipolar", supply_v=12.0)
        wave, full, half = BESIDE.compare(machine(axis), axis)
        self.assertEqual([f.steps_per_rev for f in (wave, full, half)], [200, 200, 400])
        self.assertEqual([f.uneven_deg for f in (wave, full, half)], [0, 0, 0])
        self.assertAlmostEqual(full.torque[0], math.sqrt(2))
        self.assertEqual([round(f.moving_w, 6) for f in (wave, full, half)], [14.4, 28.8, 21.6])
        self.assertAlmostEqual(half.smallest * half.steps_per_rev, 360)
        own = replace(axis, driver=replace(axis.driver, sequence=OwnSequence(rows=(1, 3, 2, 4, 8))))
        table = BESIDE.compare(machine(own), own)[3]
        self.assertEqual((table.words, table.uneven_deg), ((1, 3, 2, 4, 8), 45.0))

    def test_microsteps(self):
        """Ideal levels follow the sine and cosine; few levels put the field beside it, by half a level at the most."""
        for microsteps, levels in ((1, 1), (4, 8), (16, 32), (256, 32)):
            table = BESIDE.microstep_table(microsteps, levels)
            self.assertEqual(
                (len(table), table[0].field_deg, round(table[-1].field_deg, 9)), (microsteps + 1, 0.0, 90.0)
            )
            for step in table:
                wrong = abs(step.field_deg - step.ideal_deg)
                self.assertLessEqual(wrong, math.degrees(math.sqrt(0.5) / levels) * 1.1)
                self.assertLessEqual(abs(step.b - math.sin(math.radians(step.ideal_deg))), 0.5 / levels + 1e-12)
        self.assertRaises(ValueError, BESIDE.microstep_table, 0, 1)
        steps = replace(screw_axis(microsteps=16), motor=MOTOR)
        lag = math.degrees(math.asin(0.01 / (0.2 / math.sqrt(2))))
        self.assertAlmostEqual(BESIDE.microsteps_to_move(steps), lag / (90 / 16))
        weak = replace(steps, load=replace(steps.load, friction_torque_nm=1.0))
        self.assertEqual(BESIDE.microsteps_to_move(weak), math.inf)


if __name__ == "__main__":
    unittest.main()
