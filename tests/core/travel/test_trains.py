"""Tooth trains near a ratio: the true one is among them, best first, and none lies outside of what was measured."""

import math
import random
import unittest
from fractions import Fraction
from itertools import product

from kivant.core.travel.trains import simplest_fractions, trains


class Trains(unittest.TestCase):
    def test_the_gearbox_that_was_sold_as_1_to_30_is_found(self):
        true = Fraction(31, 10) * Fraction(36, 12) * Fraction(36, 11)
        found = trains(float(true) + 2e-5, 2e-5, 3)
        self.assertIn(true, [train.ratio for train in found])
        self.assertEqual([abs(t.error) for t in found], sorted(abs(t.error) for t in found))

    def test_all_of_two_stages_are_found(self):
        """Against every pair of pairs, tried one by one."""
        chance = random.Random(4)
        every = {Fraction(b, a) * Fraction(d, c)
                 for a, c in product(range(9, 61), repeat=2) for b, d in ((chance.randrange(a, 61), chance.randrange(c, 61)),)}  # fmt: skip
        for ratio in chance.sample(sorted(every), 60):
            found = trains(float(ratio), 1e-9, 2)
            self.assertIn(ratio, [train.ratio for train in found], ratio)
            for train in trains(float(ratio), 0.01, 2):
                self.assertLessEqual(abs(train.error), 0.02 + 1e-9)
                self.assertTrue(all(9 <= teeth <= 60 for pair in train.pairs for teeth in pair))
        for asked, stages in ((0.5, 2), (3.0, 0), (3.0, 10)):
            self.assertRaises(ValueError, trains, asked, 0.1, stages)

    def test_of_as_many_stages_as_are_named(self):
        """Up to four stages the true one is found; of more, all that are offered have so many stages and are near."""
        chance = random.Random(11)
        for stages in (3, 4, 4, 4):
            driving = [chance.randrange(9, 60) for _ in range(stages)]
            true = math.prod(Fraction(chance.randrange(teeth, 61), teeth) for teeth in driving)
            self.assertEqual(trains(float(true), 1e-12, stages)[0].ratio, true)
        for ratio, off, stages in ((30.44, 0.01, 4), (2.0, 0.001, 4), (30.44, 0.01, 6), (1000.0, 0.5, 9)):
            found = trains(ratio, off, stages)
            self.assertEqual(len({train.ratio for train in found}), 8)
            for train in found:
                self.assertEqual(len(train.pairs), stages)
                self.assertAlmostEqual(float(train.ratio), ratio + train.error, delta=1e-9 * ratio)
                self.assertLessEqual(abs(train.error), 2 * off)
        self.assertEqual(trains(1e6, 1.0, 7), [], "seven pairs of 9 to 60 teeth make 585,000 at most")

    def test_simple_fractions(self):
        self.assertEqual(simplest_fractions(3.14159, 0.001, 2), [Fraction(22, 7), Fraction(157, 50)])
        for value, off in ((30.44, 0.011), (0.618, 0.003), (13.73, 0.0004)):
            first = simplest_fractions(value, off, 1)[0]
            for denominator in range(1, first.denominator):
                self.assertGreater(abs(round(value * denominator) / denominator - value), 2 * off)
        for value in (1.5, 13.73, 2 / 3):
            for fraction in simplest_fractions(value, 1e-4):
                self.assertLessEqual(abs(fraction - value), 2.001e-4)


if __name__ == "__main__":
    unittest.main()
