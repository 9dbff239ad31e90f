"""A move of one's own: what is typed becomes one coordinated move."""

import unittest
from decimal import Decimal
from fractions import Fraction

from msgspec.structs import replace

from kivant.app.planning.own_move import OwnMove, own_move, parse_targets, with_routine
from kivant.core.errors import ValueTextError
from kivant.core.machine.axes import free_name
from kivant.core.plan import plan
from kivant.core.quantity import as_decimal, parse_position
from kivant.core.travel.conversion import convert
from tests.machines import coil_axis, machine, move, screw_axis

BUILT = machine(screw_axis(), coil_axis(first_line=4), blocks=(move(to={"Lift": "3"}),))


class OwnMoves(unittest.TestCase):
    def test_typed_targets_become_one_coordinated_move(self):
        targets = parse_targets(BUILT, {"Lift": "1in", "Disc": "", "Gone": "5"})
        self.assertEqual(targets, {"Lift": Decimal("25.4")})
        with self.assertRaises(ValueTextError):
            parse_targets(BUILT, {"Disc": "much"})
        routine = own_move(targets, {"Disc": Decimal(9)})
        made = plan(BUILT, routine)
        self.assertEqual((made.axis("Lift").final_steps, made.axis("Disc").start_steps), (5080, 10))
        self.assertEqual(own_move({}, {}).blocks, ())
        names = [known.name for known in with_routine(BUILT, replace(routine, name="a")).routines]
        self.assertEqual((names, free_name(names, "a")), (["test", "a"], "a 2"))

    def test_steps_that_are_no_decimal_still_reach_their_step(self):
        """A step of 0.9 degrees is one; a step of a geared axis is not, and 30 digits are enough for it."""
        axis = replace(coil_axis(), motor=replace(coil_axis().motor, full_steps_per_rev=48))
        for steps in (1, 7, 12345, -99999):
            position = Fraction(as_decimal(parse_position(axis, f"{steps}steps")))
            self.assertEqual(convert(axis, position).steps, steps)
        for text in ("1." + 39 * "3", "-0.00000000000000000000000000000000000001", "123456789012345." + 25 * "7"):
            self.assertEqual(as_decimal(parse_position(axis, text)), Decimal(text))
        self.assertEqual(str(as_decimal(Fraction(1, 3))), "0." + 30 * "3")

    def test_a_text_that_cannot_be_understood_is_explained_and_the_old_one_stays(self):
        typed, told = OwnMove(), []
        typed.changed.connect(lambda: told.append(dict(typed.errors)))
        self.assertTrue(typed.take(BUILT, "Lift", "5"))
        self.assertFalse(typed.take(BUILT, "Lift", "5 apples"))
        self.assertEqual((typed.targets(BUILT), list(typed.errors)), ({"Lift": Decimal(5)}, ["Lift"]))
        typed.forget_error("Lift")
        self.assertEqual([list(errors) for errors in told], [[], ["Lift"], []])
