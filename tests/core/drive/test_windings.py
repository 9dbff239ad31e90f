"""The winding finder: never wrong when it claims to know, and never far from the fewest measurements that can suffice."""

import random
import unittest
from itertools import combinations

from kivant.core.drive.windings import Reading, find_windings

LEADS_OHM, SCATTER = 0.5, 0.1


class Motor:
    """A motor with so many wires, wound at random, and a meter that scatters."""

    def __init__(self, count: int, chance: random.Random) -> None:
        self.wires = [f"w{k}" for k in range(count)]
        chance.shuffle(self.wires)
        self.half_ohm, self.leads_ohm, self.chance = 10 ** chance.uniform(0, 2), chance.uniform(0, LEADS_OHM), chance
        size = {4: 2, 5: 5, 6: 3, 8: 2}[count]
        self.groups = [
            self.wires[k : k + size] for k in range(0, count, size)
        ]  # its last wire is the tap, if it has one
        self.names = sorted(self.wires)

    def measure(self, pair) -> Reading:
        for group in self.groups:
            if set(pair) <= set(group):
                halves = 1 if len(group) == 2 or group[-1] in pair else 2
                ohm = (halves * self.half_ohm + self.leads_ohm) * self.chance.uniform(1 - SCATTER, 1 + SCATTER)
                return Reading(pair, ohm)
        return Reading(pair, "open")

    def is_told_by(self, found) -> bool:
        if len(self.wires) == 5:
            return (found.kind, found.common) == ("common_tap", self.groups[0][-1])
        tapped = len(self.wires) == 6
        told = {(frozenset(w.ends), w.tap) for w in found.windings}
        true = {(frozenset(g[:2]), g[2] if tapped else None) for g in self.groups}
        return told == true and found.kind == {4: "two_coils", 6: "two_tapped", 8: "four_coils"}[len(self.wires)]


class Finder(unittest.TestCase):
    def test_it_is_never_wrong_when_it_claims_to_know(self):
        """Any readings of any motor, in any number and order, with noise and leads."""
        chance, claims = random.Random(7), 0
        for trial in range(1200):
            motor = Motor((4, 5, 6, 8)[trial % 4], chance)
            pairs = list(combinations(motor.names, 2))
            chosen = chance.sample(pairs, chance.randrange(len(pairs) + 1))
            found = find_windings([motor.measure(pair) for pair in chosen], motor.names)
            self.assertNotEqual(found.kind, "contradictory", (motor.groups, found.faults))
            if found.kind != "incomplete":
                claims += 1
                self.assertTrue(motor.is_told_by(found), (motor.groups, found))
                for winding in found.windings:
                    whole = motor.half_ohm * (2 if winding.tap else 1)
                    if winding.ohm is not None:
                        self.assertAlmostEqual(winding.ohm, whole, delta=whole * SCATTER * 1.2 + 4 * LEADS_OHM)
        self.assertGreater(claims, 300)

    def test_following_its_advice_leads_there(self):
        """At the worst: two for four wires; for eight 6 + 4 + 2, one wire's partner after the other."""
        chance = random.Random(11)
        for count, most in ((4, 2), (5, 4), (6, 7), (8, 12)):
            for _ in range(150 if count < 8 else 40):
                motor, readings = Motor(count, chance), []
                while (found := find_windings(readings, motor.names)).kind == "incomplete":
                    self.assertIsNotNone(found.next)
                    readings.append(motor.measure(found.next))
                self.assertTrue(motor.is_told_by(found))
                self.assertLessEqual(len(readings), most, motor.groups)

    def test_bad_readings(self):
        """One alone, all open, all connected, nine wires, and readings that contradict each other."""
        four = ["1", "2", "3", "4"]
        pairs = list(combinations(four, 2))
        self.assertEqual(find_windings([Reading(("1", "2"), "connected")], four).kind, "two_coils", "the rest follows")
        for seen in ("open", "connected"):
            found = find_windings([Reading(pair, seen) for pair in pairs])
            self.assertEqual(found.kind, "contradictory")
        nine = find_windings([], [str(k) for k in range(9)])
        self.assertEqual((nine.kind, nine.next), ("incomplete", None))
        self.assertIn("4, 5, 6 or 8 wires; there are 9", nine.faults[0])
        good = [Reading(("1", "2"), 8.0), Reading(("3", "4"), 8.3), Reading(("1", "3"), "open")]
        wrong = find_windings([*good, Reading(("2", "4"), 7.9)])
        self.assertEqual(wrong.kind, "contradictory")
        self.assertIn("Without reading 4 (2 to 4: 7.9 ohm) all others agree", wrong.faults[0])
        far = find_windings([Reading(("1", "2"), 8.0), Reading(("3", "4"), 80.0)])
        self.assertEqual(far.kind, "contradictory", "two coils of one motor are alike")
