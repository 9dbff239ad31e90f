"""Speeds in every form: each means the same speed again when it is typed."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.machine import Gear
from kivant.core.quantity import parse_speed
from kivant.core.travel.speeds import speed_forms
from tests.machines import coil_axis, screw_axis

GEARED = replace(coil_axis(), travel=(Gear(driving=10, driven=31),))


class Forms(unittest.TestCase):
    @given(st.sampled_from((screw_axis(), GEARED)), st.integers(1, 10**5), st.booleans())
    def test_every_form_means_the_same_speed(self, axis, hundredths, backward):
        speed = Fraction(hundredths, 100) * (-1 if backward else 1)
        forms = speed_forms(axis, speed)
        self.assertEqual(forms.units_per_s, speed)
        typed = zip(forms[1:], ("rpm", "rotor rpm", "steps/s", "full steps/s", "s/step", "s/rev"), strict=True)
        for value, unit in typed:
            back = parse_speed(axis, f"{float(value):.15g} {unit}")
            self.assertAlmostEqual(float(back / abs(speed)), 1.0, places=11, msg=unit)

    def test_by_hand(self):
        """A screw of 8 mm at 40 mm/s turns five times a second: 300 rpm, 8 microsteps at 200 steps."""
        forms = speed_forms(screw_axis(), Fraction(40))
        self.assertEqual(tuple(forms)[1:], (300, 300, 8000, 1000, Fraction(1, 8000), Fraction(1, 5)))


if __name__ == "__main__":
    unittest.main()
