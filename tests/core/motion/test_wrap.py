"""Wrapping: a target modulo a turn is reached in the way that is chosen, and no fraction is ever lost."""

import unittest
from decimal import Decimal
from fractions import Fraction
from itertools import product

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.motion.remainder import remainder
from kivant.core.motion.routine import commands, way_to
from kivant.core.plan import PlanError, plan
from kivant.core.travel.conversion import nearest_step, steps_per_unit
from kivant.files import project
from tests.machines import coil_axis, limits, machine, move, screw_axis

ANGLES = st.decimals(-2000, 2000, places=4)


def wrapping(wrap, **more):
    return replace(coil_axis(), limits=limits(720.0, 3600.0, wrap=wrap, **more))


class Wrap(unittest.TestCase):
    @given(ANGLES, ANGLES)
    def test_each_way_ends_at_the_target(self, here, target):
        """By the definition, with fractions: the same place of the dial, and no shorter way of that kind."""
        ways = {wrap: Fraction(way_to(here, target, wrap)) for wrap in ("shortest", "positive", "negative")}
        for way in ways.values():
            self.assertEqual((Fraction(here) + way - Fraction(target)) % 360, 0)
        self.assertTrue(0 <= ways["positive"] < 360)
        self.assertTrue(-360 < ways["negative"] <= 0)
        self.assertTrue(-180 < ways["shortest"] <= 180)

    def test_a_place_that_was_rounded_is_no_turn_away(self):
        """A third of a turn has no end: where an axis came to it by a way, it stays, whichever way it is to go."""
        third = Decimal(4) / 3
        for wrap, turns, off in product(("shortest", "positive", "negative"), (-1, 0, 3), (-1, 1)):
            here = third + 360 * turns + off * Decimal("1e-25")
            self.assertEqual(way_to(here, third, wrap), third + 360 * turns - here)

    @settings(max_examples=25)
    @given(
        st.lists(st.tuples(st.booleans(), ANGLES), min_size=1, max_size=40),
        st.sampled_from(("shortest", "positive", "negative")),
    )
    def test_a_routine_of_targets_and_ways(self, told, wrap):
        """Positions are reported unwrapped, exact, and rounded from where they are and not from the way there."""
        axis = wrapping(wrap)
        blocks = tuple(move(by={"Disc": str(v)}) if by else move(to={"Disc": str(v)}) for by, v in told)
        built = machine(axis, blocks=blocks)
        commanded, here = commands(built, built.routines[0]), Fraction(0)
        for row, (by, value) in enumerate(told):
            if by:
                here += Fraction(value)
            else:
                ahead = (Fraction(value) - here) % 360
                back = ahead - 360 if ahead else Fraction(0)
                here += {"positive": ahead, "negative": back, "shortest": ahead if ahead <= 180 else back}[wrap]
            self.assertEqual(commanded.axes[0].position(row + 1), here)
        if any(v for _by, v in told):
            self.assertEqual(plan(built).axes[0].final_steps, nearest_step(here * steps_per_unit(axis)))

    def test_a_million_turns_lose_nothing(self):
        third = Decimal("120.1")
        blocks = tuple(move(to={"Disc": str(third * k % 360)}) for k in range(1, 3000))
        made = plan(machine(wrapping("positive"), blocks=blocks))
        self.assertEqual(made.axes[0].train.ends.end, Fraction(third * 2999) * steps_per_unit(made.axes[0].axis))

    def test_what_is_left_after_a_stop_goes_the_way_that_was_left(self):
        """Several turns forward, stopped on the way: the rest is neither a turn less nor the shorter way."""
        for wrap in ("shortest", "positive", "negative"):
            built = machine(wrapping(wrap), blocks=(move(by={"Disc": "800"}), move(to={"Disc": "10"})))
            whole = plan(built)
            stopped = int(whole.axes[0].ideal(whole.blocks[0].end_s / 2))
            rest = remainder(whole, whole.blocks[0].end_s / 2, (stopped,))
            assert rest is not None
            self.assertEqual(plan(built, rest).axes[0].final_steps, whole.axes[0].final_steps)
            self.assertEqual(len(plan(built, rest).axes[0].instants) + stopped, len(whole.axes[0].instants))

    def test_limits_hold_unwrapped_and_only_turning_axes_wrap(self):
        blocks = (move(to={"Disc": "350"}), move(to={"Disc": "20"}))
        with self.assertRaisesRegex(PlanError, "would go to 380 deg"):
            plan(machine(wrapping("positive", min=Decimal(0), max=Decimal(360)), blocks=blocks))
        self.assertEqual(plan(machine(wrapping(None), blocks=blocks)).axes[0].final_position, 19.8)
        built = machine(replace(screw_axis(), limits=limits(wrap="shortest")))
        with self.assertRaisesRegex(project.ProjectError, "Only an axis in deg wraps"):
            project.loads(project.dumps(built))


if __name__ == "__main__":
    unittest.main()
