"""Axes with play, run on a stand-in: what is counted, where the tool stands, and which way the play is taken up."""

import unittest
from decimal import Decimal

from msgspec.structs import replace

from kivant.app.running.source import PlanSource
from kivant.app.running.standing import Standing
from kivant.app.running.status import Phase, Status
from kivant.app.running.streamer import Streamer
from kivant.core.machine import Screw
from kivant.core.machine.calibrations import apply_fit, deserved
from kivant.core.machine.parts import Calibration
from kivant.core.plan import plan
from kivant.core.travel.calibrating import Observation, fit
from tests.machines import coil_axis, machine, move, screw_axis

LOOSE = replace(screw_axis(), calibration=Calibration(backlash=0.5))


class Play(unittest.TestCase):
    def test_a_whole_turn_of_an_axis_that_wraps_is_no_way_to_its_start(self):
        disc = coil_axis("Disc")
        for wrap, stands, away in (
            (None, "720", {"Disc": 0}), ("shortest", "720", {}), ("positive", "-360.0000000001", {}),
            ("negative", "359", {"Disc": 0}), ("shortest", "1", {"Disc": 0}),
        ):  # fmt: skip
            axis = replace(disc, limits=replace(disc.limits, wrap=wrap))
            standing = Standing()
            standing.places["Disc"] = Decimal(stands)
            made = plan(machine(axis, blocks=(move(to={"Disc": "90"}),)))
            self.assertEqual((standing.away(made), bool(standing.mismatch(made))), (away, bool(away)))

    def test_counts_and_standing_know_of_it(self):
        built = machine(LOOSE, blocks=(move(to={"Lift": "4"}), move(to={"Lift": "3"})))
        made = plan(built)
        status = Streamer(lambda: PlanSource(made)).execute()
        self.assertTrue(status.agrees, status)
        self.assertEqual(status.counts, (500,))
        standing = Standing()
        standing.arrive(built, status, made)
        self.assertEqual((standing.places, standing.senses), ({"Lift": Decimal(3)}, {"Lift": -1}))
        self.assertEqual(standing.motor_steps(LOOSE), 500)
        self.assertIn(
            "its play of 100 steps is not taken up yet",
            standing.mismatch(
                plan(
                    machine(LOOSE, blocks=(move(by={"Lift": "1"}),)),
                    replace(built.routines[0], start={"Lift": Decimal(3)}),
                )
            ),
        )
        # Another calibration, chain or driver: the rotor stays where it is, and what that is called follows.
        turned = replace(LOOSE, positive="ccw")
        for axis, place in (
            (replace(LOOSE, calibration=None), Decimal("2.5")),
            (replace(LOOSE, driver=replace(LOOSE.driver, microsteps=16)), Decimal(3)),
            (replace(LOOSE, travel=(Screw(lead=Decimal(4)),)), Decimal("1.75")),
            (turned, Decimal("-2.5")),
            (LOOSE, Decimal(3)),
        ):
            standing.keep_up(replace(built, axes=(axis,)))
            self.assertEqual(standing.places["Lift"], place, axis)
        standing.follow(built, (620,))
        self.assertEqual((standing.places, standing.senses), ({"Lift": Decimal("3.1")}, {"Lift": 1}), "pulled by hand")

    def test_a_tool_stands_while_its_motor_is_pulled_to_and_fro_within_the_play(self):
        """Beside a gear with a gap of 100 steps; what its motor goes beyond the gap takes it along."""
        for first, (low, high) in ((1, (-100, 0)), (-1, (0, 100))):
            axis = replace(LOOSE, calibration=Calibration(backlash=0.5, first_direction=first))
            standing, motor, gear = Standing(), 0, 0
            for gone in (0, 30, -40, -70, 250, -99, 5, -6, -1, 100, -300, 60):
                motor += gone
                gear = min(max(gear, motor - high), motor - low)
                standing.follow(machine(axis), (motor,))
                self.assertEqual(standing.places["Lift"] * 200, gear, (first, gone))
                self.assertEqual(standing.motor_steps(axis), motor)

    def test_an_axis_that_gets_its_play_later_has_it_taken_up_the_way_it_went(self):
        for count, stands in ((40, "0.2"), (-40, "0.3"), (0, "0")):
            standing = Standing()
            standing.follow(machine(screw_axis()), (count,))
            standing.keep_up(machine(LOOSE))
            self.assertEqual((standing.places["Lift"], standing.motor_steps(LOOSE)), (Decimal(stands), count))
        built = machine(screw_axis(), blocks=(move(to={"Lift": "4.0012"}), move(to={"Lift": "3.0012"})))
        made = plan(built)
        lift, turn = made.axes[0], float(made.blocks.end_s[0])
        cases: tuple[tuple[Phase, float, Decimal | None, int], ...] = (
            ("stopped", turn - 0.01, None, 0), ("stopped", turn + 0.1, None, 100), ("done", 99.0, Decimal("3.0012"), 100),
        )  # fmt: skip
        for phase, at, place, after in cases:
            standing, count = Standing(), lift.train.position_after(lift.train.taken(at))
            standing.arrive(built, Status(phase=phase, elapsed_s=at, counts=(count,)), made)
            self.assertEqual(standing.places["Lift"], place or Decimal(count) / 200)
            standing.keep_up(machine(LOOSE))
            self.assertEqual(standing.places["Lift"], (place or Decimal(count) / 200) + Decimal(after) / 200)

    def test_a_fit_is_applied_on_top(self):
        self.assertEqual(str(deserved(1.0137249, 0.00012)), "1.01372")
        readings = [Observation(p, a, 0.98 * p - a * 0.2) for p in (0.0, 50.0, 90.0, 160.0) for a in (1, -1)]
        built = machine(LOOSE)
        made = apply_fit(0, fit(LOOSE, readings), "2026-03-01")(built).axes[0].calibration
        assert made is not None
        self.assertEqual((made.scale, made.backlash, made.measured), (Decimal("0.98"), 0.9, "2026-03-01"))
        again = apply_fit(0, fit(LOOSE, readings), "2026-03-02")(
            apply_fit(0, fit(LOOSE, readings), "2026-03-01")(built)
        )
        self.assertEqual(again.axes[0].calibration.scale, Decimal("0.9604"))


if __name__ == "__main__":
    unittest.main()
