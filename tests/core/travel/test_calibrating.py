"""Calibrating: machines with a known mechanical side are found again, within the uncertainty that is told."""

import math
import random
import unittest
from typing import Any

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.errors import KivantError
from kivant.core.travel.calibrating import Observation, fit, verdict
from kivant.core.travel.conversion import nearest_step, steps_per_unit
from kivant.core.travel.dividing import divide, drift, span_of, typed_places
from kivant.core.travel.shafts import shaft_rates
from kivant.files.observations import parse_observations
from tests.machines import coil_axis, screw_axis

WHEEL, LIFT = load_example().axes[:2]


class Loose:
    """A machine that is a little wrong, and somebody who reads its pointer."""

    def __init__(self, axis, chance: random.Random, *, periodic: bool) -> None:
        self.chance, self.reach = chance, 400.0 if axis.unit == "deg" else 180.0
        self.scale, self.offset = 1 + chance.uniform(-0.05, 0.05), chance.uniform(-3, 3)
        self.backlash, self.noise = chance.uniform(0, 1.5), 10 ** chance.uniform(-2.5, -0.7)
        rates = shaft_rates(axis)
        self.shaft, self.phase = chance.randrange(len(rates)), chance.uniform(0, 360)
        self.amplitude = self.noise * chance.uniform(2, 6) if periodic else 0.0
        self.rate = rates[self.shaft]

    def read(self, count: int, outliers: int = 0) -> list[Observation]:
        found = []
        for k in range(count):
            place, approach = self.chance.uniform(0, self.reach), self.chance.choice((-1, 1))
            seen = self.offset + self.scale * place - approach * self.backlash / 2 + self.chance.gauss(0, self.noise)
            seen += self.amplitude * math.cos(2 * math.pi * self.rate * place - math.radians(self.phase))
            if k < outliers:
                seen += self.noise * self.chance.choice((-1, 1)) * self.chance.uniform(10, 60)
            found.append(Observation(place, approach, seen))
        self.chance.shuffle(found)
        return found


class Fits(unittest.TestCase):
    def test_they_are_as_good_as_they_say(self):
        """Within twice the stated uncertainty in about 95 of 100, with one reading in twenty far off."""
        chance, hits, made, seen, false = random.Random(3), {"scale": 0, "backlash": 0, "amplitude": 0}, 1000, 0, 0
        for trial in range(made):
            axis = (WHEEL, LIFT)[trial % 2]
            loose = Loose(axis, chance, periodic=trial % 4 < 2)
            count = chance.randrange(24, 48)
            found = fit(axis, loose.read(count, max(count // 20, 1)))
            for name in ("scale", "backlash"):
                hits[name] += abs(getattr(found, name) - getattr(loose, name)) <= 2 * getattr(found, f"{name}_se")
            own = [p for p in found.periodic if p.shaft == loose.shaft and loose.amplitude]
            false += len(found.periodic) - len(own)
            seen += len(own)
            hits["amplitude"] += sum(abs(p.amplitude - loose.amplitude) <= 2 * p.amplitude_se for p in own)
        for name, count in hits.items():
            share = count / (seen if name == "amplitude" else made)
            self.assertTrue(0.93 <= share <= 0.97, (name, share))
        self.assertGreater(seen, made / 2 * 0.9, "periodic errors of twice the noise are seen")
        self.assertLess(false, made * 0.03, "and none where there is none")

    def test_exact_readings_are_explained_exactly(self):
        readings = [Observation(p, a, 0.5 + 0.98 * p - a * 0.3) for p in (0.0, 40.0, 95.0, 200.0) for a in (1, -1)]
        found = fit(WHEEL, [*readings, Observation(150.0, 1, 400.0)])
        self.assertAlmostEqual(found.scale, 0.98)
        self.assertAlmostEqual(found.backlash, 0.6)
        self.assertAlmostEqual(found.offset, 0.5)
        self.assertEqual(found.outliers, (9,))
        self.assertIn("one turn is 7.2", verdict(WHEEL, found))
        self.assertIn("left out: reading 9, farther from the others than chance", verdict(WHEEL, found))
        mirrored = fit(WHEEL, [Observation(o.position, o.approach, -o.observed) for o in readings])
        self.assertEqual(mirrored.sense, -1)
        self.assertAlmostEqual(mirrored.scale, 0.98)
        self.assertAlmostEqual(mirrored.backlash, 0.6)
        self.assertAlmostEqual(mirrored.offset, -0.5)
        self.assertIn("the tool goes the other way", verdict(WHEEL, mirrored))
        one_way = fit(WHEEL, [o for o in readings if o.approach > 0])
        self.assertEqual((one_way.backlash, one_way.both_ways), (0.0, False))
        self.assertIn("cannot be told from one side", verdict(WHEEL, one_way))

    def test_what_cannot_be_told_is_refused(self):
        table: list[Any] = [
            ([(0, 1, 0), (90, 1, 90)], "At least three readings at two places are needed; there are 2 at 2"),
            ([(90, 1, 90)] * 5, "there are 5 at 1"),
            ([(0, 1, 0), (90, 1, -150), (180, 1, -300), (270, 1, -450)], "scale of 1.667, which is too far from 1"),
            ([(0, 1, 0), (90, 1, 150), (180, 1, 300), (270, 1, 450)], "scale of 1.667, which is too far from 1"),
        ]
        for readings, said in table:
            with self.assertRaisesRegex(KivantError, said):
                fit(WHEEL, [Observation(float(p), a, float(o)) for p, a, o in readings])

    def test_readings_in_a_file(self):
        text = "position,approach,observed\n0.25rev,+1,88.6\n\n90deg,-1, 89.1\n1rad,,57"
        self.assertEqual([(round(o.position, 6), o.approach, o.observed) for o in parse_observations(WHEEL, text)],
                         [(90.0, 1, 88.6), (90.0, -1, 89.1), (57.29578, 0, 57.0)])  # fmt: skip
        for line, said in (
            ("90,1", "line 2: Expected three fields; found 2"),
            ("90,1,88,6", "line 2: Expected three fields; found 4"),
            ("90,2,88", "“2” is not an approach"),
            ("90,1,nan", "line 2: “nan” is not a position"),
            ("90 mm,1,88", "is not a unit"),
            ("1e400,1,88", "line 2"),
        ):
            with self.assertRaisesRegex(KivantError, said):
                parse_observations(WHEEL, f"position,approach,observed\n{line}\n")
        with self.assertRaisesRegex(KivantError, "Expected the header"):
            parse_observations(WHEEL, "90,1,88\n")


class Dividing(unittest.TestCase):
    def test_parts_are_exact_and_nothing_adds_up(self):
        for axis in (WHEEL, LIFT, coil_axis(), screw_axis()):
            low, high = span_of(axis)
            for count in (1, 7, 12, 100):
                found = divide(axis, count)
                self.assertEqual(len(found), count)
                self.assertEqual([d.position for d in found], [low + (high - low) * k / count for k in range(count)])
                for part in found:
                    self.assertLessEqual(abs(part.error * steps_per_unit(axis)), 0.5)
                    self.assertEqual(part.position + part.error, part.steps / steps_per_unit(axis))
                way = (high - low) / count
                single = nearest_step(way * steps_per_unit(axis)) / steps_per_unit(axis)
                self.assertEqual(drift(axis, found, 5), 5 * count * (single - way))
        for count in (0, -1, 10**6):
            self.assertRaises(KivantError, divide, WHEEL, count)

    def test_a_list_is_typed(self):
        found = typed_places(WHEEL, "0, 90deg 0.5rev;\n400steps")
        self.assertEqual([float(d.position) for d in found[:3]], [0, 90, 180])
        self.assertEqual(found[3].steps, 400)
        for text, said in (("", "found 0"), ("0 ten", "“ten” is not a position"), ("5mm", "not a unit")):
            with self.assertRaisesRegex(KivantError, said):
                typed_places(WHEEL, text)
        self.assertEqual(span_of(replace(screw_axis(), name="x")), (0, 8))


if __name__ == "__main__":
    unittest.main()
