"""What is wrong, from what is seen: a rotor that is simulated with each fault leads to that fault's cause."""

import math
import unittest
from itertools import permutations
from typing import Any

from msgspec.structs import replace

from kivant.core.drive.causes import causes
from kivant.core.drive.symptoms import SYMPTOMS, diagnose
from kivant.core.machine.drives import set_values
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from tests.machines import coil_axis, limits, machine, pair_axis, screw_axis

TABLES = {"wave": (1, 2, 4, 8), "full": (3, 6, 12, 9), "half": (1, 3, 2, 6, 4, 12, 8, 9)}
ENDS = {"A": (1, 0), "B": (0, 1), "C": (-1, 0), "D": (0, -1)}


def swing(words, ends, dead=()):
    """Return how far a damped rotor goes at each step of a cycle: it slides down the torque of the coils that are on.

    `ends` are the winding's ends that the outputs reach. It begins at rest in row 0, a hair beside the field, so that
    half a turn goes some way.
    """

    def field(word):
        on = [ENDS[end] for bit, end in enumerate(ends) if word >> bit & 1 and end not in dead]
        return sum(x for x, _ in on), sum(y for _, y in on)

    def settle(angle, word):
        x, y = field(word)
        for _ in range(4000):
            angle += 0.01 * (y * math.cos(angle) - x * math.sin(angle))
        return angle

    angle, moved = settle(0.7, words[0]), []
    for _ in range(2):  # the second cycle is as all later ones
        moved = []
        for word in [*words[1:], words[0]]:
            after = settle(angle + 1e-3, word)
            moved.append(after - angle)
            angle = after
    return moved


def told_of(moved):
    """Return what somebody at the bench would say of such a motion."""
    ways = {(m > 0.1) - (m < -0.1) for m in moved} - {0}
    if not ways:
        return {"nothing"}
    net = sum(moved)
    if abs(net) > 6 and len(ways) == 1:
        return {"wrong_way"} if net < 0 else set()
    return {"shudders"}


class Symptoms(unittest.TestCase):
    def test_faults_of_coils_lead_to_their_causes(self):
        """Every order of two swapped plugs, every dead line and open winding, the other level: with single steps."""
        for name, words in TABLES.items():
            axis = coil_axis(sequence=name)
            faults = [("swap", "".join(order), ()) for order in permutations("ABCD")]
            faults = [f for f in faults if sum(map(str.__ne__, f[1], "ABCD")) == 2]
            faults += [("line", "ABCD", (end,)) for end in "ABCD"]
            faults += [("open", "ABCD", pair) for pair in ("AC", "BD")]
            for fault, ends, dead in faults:
                moved = swing(words, ends, dead)
                told = told_of(moved)
                if not told:
                    continue
                if fault == "line":
                    told |= {"dark_lamp"}
                # A rotor that may go either way goes some way; what is noted is what is plain.
                notes = {k: (m > 0.1) - (m < -0.1) for k, m in enumerate(moved) if 0.1 < abs(m) < 2 and fault == "swap"}
                kinds = [cause.kind for cause in diagnose(causes(axis), told, notes)][:3]
                meant = {"line": {"line-dead"}, "open": {"end-open"}}.get(fault, {"coil-reversed", "coils-mixed"})
                with self.subTest(sequence=name, fault=fault, ends=ends, dead=dead):
                    self.assertTrue(meant & set(kinds), (told, notes, kinds))

    def test_other_faults_lead_to_theirs(self):
        held = screw_axis(enable="P2")
        table: list[Any] = [
            (coil_axis(), {"hot"}, "level-inverted"),
            (coil_axis(), {"nothing"}, "no-power"),
            (coil_axis(), {"stalls"}, "too-fast"),
            (coil_axis(), {"one_way"}, "load-one-way"),
            (held, {"wrong_way"}, "direction-inverted"),
            (held, {"wrong_way"}, "coil-reversed"),
            (held, {"one_way"}, "line-dead"),
            (held, {"nothing"}, "enable-inverted"),
            (held, {"nothing"}, "step-dead"),
            (held, {"shudders"}, "coils-mixed"),
            (held, {"shudders"}, "end-open"),
            (held, {"hot"}, "step-dead"),
            (held, {"stalls"}, "load"),
            (screw_axis(), {"nothing"}, "enable-open"),
            (pair_axis(), {"wrong_way"}, "lines-swapped"),
            (pair_axis(), {"one_way"}, "line-dead"),
        ]
        for axis, told, kind in table:
            self.assertIn(
                kind, [cause.kind for cause in diagnose(causes(axis), told, {})][:3], (axis.driver.kind, told)
            )

    def test_more_that_is_told_excludes_causes(self):
        axis = coil_axis()
        shudders = diagnose(causes(axis), {"shudders"}, {})
        dark = diagnose(causes(axis), {"shudders", "dark_lamp"}, {})
        self.assertEqual([cause.kind for cause in dark], ["line-dead"])
        self.assertIn("If that is not it: B, C, D.", dark[0].cure)
        third = next(c for c in causes(axis) if c.kind == "line-dead" and c.dead == "C")
        notes = {k: way for k, way in enumerate(third.moves) if way is not None}
        self.assertEqual([c.dead for c in diagnose(causes(axis), {"shudders", "dark_lamp"}, notes)], ["C"])
        self.assertLess(len(dark), len(shudders))
        self.assertEqual(diagnose(causes(axis), set(), {}), [], "nothing was told")
        self.assertEqual(diagnose(causes(axis), {"wrong_way", "dark_lamp"}, {}), [], "nothing explains both")
        self.assertEqual({symptom for symptom in SYMPTOMS if not diagnose(causes(axis), {symptom}, {})}, set())

    def test_cures_by_values_do_what_they_say(self):
        """A machine that is wired wrongly, with lines exchanged instead of plugs, plays what the motor needs."""
        for axis in (coil_axis(), screw_axis(enable="P2"), pair_axis()):
            for cause in causes(axis):
                if not cause.values:
                    continue
                cured = set_values(0, cause.values)(machine(axis)).axes[0]
                self.assertNotEqual(cured, axis, cause.kind)
                if cause.wires and axis.driver.kind == "coils":
                    lines = [getattr(axis.driver.lines, key) for key in "ABCD"]
                    plays = [lines.index(getattr(cured.driver.lines, key)) for key in "ABCD"]
                    ends = "".join(cause.wires[place] for place in plays)
                    self.assertGreater(sum(swing(TABLES["half"], ends)), 6.0, cause)

    def test_a_start_speed_is_named(self):
        jumps = replace(coil_axis(), limits=limits(720.0, 3600.0, start=90.0))
        self.assertIn("start speed is 90 deg/s", diagnose(causes(jumps), {"stalls"}, {})[0].title)
        wired = set_value(axis_path(0, "driver", "wires"), "ADCB")(machine(coil_axis())).axes[0]
        self.assertTrue(all(c.wires != "ADCB" for c in causes(wired)), "what is known is no fault")


if __name__ == "__main__":
    unittest.main()
