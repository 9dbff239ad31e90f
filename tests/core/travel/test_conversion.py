"""Exact steps per unit, and values with units."""

import math
import unittest
from decimal import Decimal
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.errors import ValueTextError
from kivant.core.machine import Belt, Gear, Ratio, Screw
from kivant.core.machine.parts import Calibration
from kivant.core.quantity import parse_position, parse_speed
from kivant.core.travel.conversion import convert, nearest_step, steps_per_unit
from kivant.core.travel.sold import sold_drift
from kivant.core.travel.stages.pulleys import Pulleys
from kivant.core.travel.stages.worm import Worm
from tests.machines import coil_axis, screw_axis

GEARS = (Gear(driving=10, driven=31), Gear(driving=12, driven=36), Gear(driving=11, driven=36))


@st.composite
def chains(draw) -> tuple[tuple, Fraction]:
    """Return a chain of stages, and the steps that it makes of one, multiplied up in whole numbers."""
    stages, over, under = [], 1, 1
    for _ in range(draw(st.integers(0, 5))):
        a, b = draw(st.integers(1, 400)), draw(st.integers(1, 400))
        kind = draw(st.sampled_from(("gear", "pulleys", "worm", "ratio")))
        stages.append(
            Gear(driving=a, driven=b) if kind == "gear"
            else Pulleys(driving=a, driven=b) if kind == "pulleys"
            else Worm(starts=a, teeth=b) if kind == "worm"
            else Ratio(ratio=f"{b}/{a}")
        )  # fmt: skip
        over, under = over * b, under * a
    return tuple(stages), Fraction(over, under)


class StepsPerUnit(unittest.TestCase):
    @given(chains(), st.integers(1, 500_000), st.integers(-(10**9), 10**9))
    def test_any_chain_is_exact_and_goes_there_and_back(self, chain, lead, steps):
        """Against products of whole numbers; a whole step is the nearest to its own place, turning and sliding."""
        stages, ratio = chain
        disc = replace(coil_axis(), travel=stages)
        self.assertEqual(steps_per_unit(disc), 400 * ratio / 360)
        lift = replace(screw_axis(), travel=(*stages, Screw(lead=Decimal(lead).scaleb(-3))))
        self.assertEqual(steps_per_unit(lift), 1600 * ratio * Fraction(1000, lead))
        for axis in (disc, lift):
            there = convert(axis, steps / steps_per_unit(axis))
            self.assertEqual((there.steps, there.error, there.steps_exact), (steps, 0, steps))

    def test_a_gearbox_is_not_what_it_was_sold_as(self):
        """As many turns of the rotor as were sold make not one turn: what is missing, by counting the teeth."""
        wheel = replace(coil_axis(), travel=GEARS, sold="30")
        stretched = replace(wheel, calibration=Calibration(scale=Decimal("1.01")))
        lift = replace(screw_axis(), travel=(Ratio(ratio="4.8"), Screw(lead=Decimal(8))), sold="5")
        turned = Fraction(30 * 10 * 12 * 11, 31 * 36 * 36)
        for axis, per_turn in (
            (wheel, (turned - 1) * 360),
            (stretched, (turned * Fraction("1.01") - 1) * 360),
            (lift, (Fraction(50, 48) - 1) * 8),
        ):
            found = sold_drift(axis)
            assert found is not None
            self.assertEqual(found.per_turn, per_turn)
        self.assertIsNone(sold_drift(replace(wheel, sold=None)))

    def test_chains_of_stages_are_exact(self):
        """Each stage multiplies by its own tooth counts, pitches or leads and nothing is rounded."""
        wheel = replace(coil_axis(), motor=replace(coil_axis().motor, full_steps_per_rev=48), travel=GEARS)
        belt = (Belt(pitch=Decimal(2), teeth=20),)
        inch_screw = (Ratio(ratio="1024/75"), Screw(lead=Decimal("2.54")))
        table = [
            (wheel, Fraction(2232, 275)),  # 96 * 31*36*36 / (10*12*11) / 360
            (screw_axis(microsteps=8), Fraction(200)),
            (replace(screw_axis(microsteps=16), travel=belt), Fraction(80)),
            (replace(screw_axis(microsteps=8), travel=inch_screw), Fraction(1600 * 1024 * 100, 75 * 254)),
            (
                replace(coil_axis(sequence="wave"), travel=(Ratio(ratio="13.73"),)),
                Fraction(200 * 1373, 36000),
            ),
        ]
        for axis, expected in table:
            self.assertEqual(steps_per_unit(axis), expected)

    def test_a_gearbox_sold_as_1_to_30_falls_short(self):
        """The demo's gears make 30.436 and not 30: one turn taken at 1:30 ends 5.16 degrees early."""
        ratio = math.prod(Fraction(g.driven, g.driving) for g in GEARS)
        self.assertAlmostEqual(360 * float(1 - 30 / ratio), 5.16, places=2)

    @given(st.fractions(max_denominator=10**6))
    def test_the_nearest_step_is_nearest_and_ties_leave_zero(self, exact):
        steps = nearest_step(exact)
        self.assertLessEqual(abs(steps - exact), Fraction(1, 2))
        if abs(steps - exact) == Fraction(1, 2):
            self.assertGreater(abs(steps), abs(exact))
        self.assertEqual(nearest_step(-exact), -steps)


class Values(unittest.TestCase):
    def test_positions_are_understood_in_every_unit(self):
        disc, lift = coil_axis(), screw_axis()
        table = [
            (disc, "90deg", 90), (disc, "90", 90), (disc, " -1.25 rev ", -450), (disc, "−.5rev", -180),
            (disc, "5400arcmin", 90), (disc, "90°", 90), (disc, "400steps", 360), (disc, "1e1deg", 10),
            (lift, "12.5mm", Fraction(25, 2)), (lift, "0.5in", Fraction(127, 10)), (lift, "1.5cm", 15),
            (disc, "2rev + 15deg", 735), (disc, "2rev 15", 735), (disc, "-2 rev 15deg", -735), (disc, "1rev-1e1deg", 350),
            (disc, "12° 30 arcmin", Fraction(25, 2)), (lift, "1in+2mm - 40steps", Fraction("27.2")),
            (lift, "400steps", 2), (lift, "+0.1", Fraction(1, 10)), (lift, "1 step", Fraction(1, 200)),
        ]  # fmt: skip
        for axis, text, expected in table:
            with self.subTest(text=text):
                self.assertEqual(parse_position(axis, text), expected)
        self.assertAlmostEqual(float(parse_position(disc, "3.141592653589793rad")), 180.0, places=13)

    def test_speeds_are_understood_in_every_unit(self):
        """400 half steps a turn of the disc, 200 pulses/mm and 8 mm a turn of the screw."""
        disc, lift = coil_axis(), screw_axis()
        table = [
            (disc, "10rpm", 60), (disc, "1rev/s", 360), (disc, "10steps/s", 9), (disc, "4s/rev", 90),
            (disc, "100 full steps/s", 180), (disc, "5 ms", 180), (disc, "500us/step", 1800), (disc, "-0.1 min/rev", -60),
            (lift, "40", 40), (lift, "1in/s", Fraction(127, 5)), (lift, "300rpm", 40), (lift, "1000 steps/s", 5),
            (lift, "25fullsteps/s", 1), (lift, "100µs", 50), (lift, "0.2 s/rev", 40),
        ]  # fmt: skip
        for axis, text, expected in table:
            self.assertEqual(parse_speed(axis, text), expected, text)
        for axis, text, expected in (
            (disc, "0.5rev/s2", 180), (disc, "10rpm/s", 60), (disc, "100 full steps/s²", 180), (lift, "300", 300),
            (lift, "1in/s^2", Fraction(127, 5)), (lift, "1000 steps/s2", 5), (lift, "600rpm/s", 80),
        ):  # fmt: skip
            self.assertEqual(quantity.acceleration(axis).parse(text), expected, text)
        with self.assertRaisesRegex(ValueTextError, "“ms” is not a unit of an acceleration"):
            quantity.acceleration(disc).parse("2ms")

    def test_what_is_no_value_is_refused_with_the_units_that_fit(self):
        for text in (
            "",
            "deg",
            "12,5",
            "1..2",
            "nan",
            "inf",
            "1e400",
            "1e16",
            "90mm",
            "5 apples",
            "9" * 70,
            "2rev +",
            "2rev + 3mm",
            "2rev--15deg",
            "rev 2rev",
            "1e999deg",
        ):
            with (
                self.subTest(text=text),
                self.assertRaisesRegex(ValueTextError, r"Disc: .*deg, rad, rev, arcmin, steps"),
            ):
                parse_position(coil_axis(), text)
        for text, words in (("300deg/s", "“deg/s” is not a unit of a speed.*mm/s"), ("0ms", "must be more than 0")):
            with self.assertRaisesRegex(ValueTextError, words):
                parse_speed(screw_axis(), text)

    def test_a_conversion_says_what_is_reached(self):
        """1 degree is 10/9 steps; the nearest step reaches 0.9."""
        found = convert(coil_axis(), Fraction(1))
        self.assertEqual(
            (found.steps_exact, found.steps, found.actual, found.error),
            (Fraction(10, 9), 1, Fraction(9, 10), Fraction(-1, 10)),
        )
