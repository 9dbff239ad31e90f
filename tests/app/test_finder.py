"""The winding finder as it is used, and a diagnosis: what is told is kept, replaced, renamed, and never lost to nonsense."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.app.diagnosis import Diagnosis
from kivant.app.finder import WindingFinder, parse_seen
from kivant.core.drive.sequence_table import analyse, described
from kivant.core.errors import KivantError
from tests.machines import coil_axis, screw_axis


class Finder(unittest.TestCase):
    def test_what_a_meter_shows(self):
        for text, seen in (
            ("8.1", 8.1),
            (" 1.2 kohm", 1200.0),
            ("OL", "open"),
            ("Open", "open"),
            ("connected", "connected"),
        ):
            self.assertEqual(parse_seen(text), seen)
        for text in ("", "0", "-4", "8 A", "1e20", "five", "8.1.2"):
            self.assertRaises(KivantError, parse_seen, text)

    def test_wires_are_renamed_and_their_number_changed(self):
        finder = WindingFinder()
        finder.choose("1", "3")
        finder.take("8.1")
        finder.rename(0, "red")
        self.assertEqual(finder.readings[0].wires, ("red", "3"))
        self.assertEqual((finder.found.kind, finder.seen_between(("3", "red"))), ("two_coils", 8.1))
        finder.set_count(8)
        self.assertEqual((len(set(finder.wires)), len(finder.readings)), (8, 1))
        finder.choose("7", "8")
        finder.take("open")
        finder.set_count(6)
        self.assertEqual([r.wires for r in finder.readings], [("red", "3")], "what was read of wires that stay")
        for place, name in ((1, "red"), (1, ""), (1, "x" * 21), (1, "a\nb")):
            self.assertRaises(KivantError, finder.rename, place, name)
        for count in (1, 3, 7, 9):
            self.assertRaises(KivantError, finder.set_count, count)
        finder.choose("2", "2")
        self.assertIsNone(finder.chosen)

    def test_a_second_reading_takes_the_place_of_the_first(self):
        finder = WindingFinder()
        for text in ("open", "8.1"):
            finder.choose("1", "2")
            finder.take(text)
        finder.choose("2", "1")
        finder.take("8.3")
        self.assertEqual([(r.wires, r.seen) for r in finder.readings], [(("2", "1"), 8.3)])
        finder.remove(("1", "2"))
        self.assertEqual(finder.readings, [])

    @settings(max_examples=60)
    @given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5), st.text(max_size=6)), max_size=12))
    def test_nothing_that_is_told_breaks_it(self, told):
        finder = WindingFinder()
        finder.set_count(6)
        for first, second, text in told:
            finder.choose(finder.wires[first], finder.wires[second])
            before = list(finder.readings)
            try:
                finder.take(text)
            except KivantError as error:
                self.assertTrue(error.faults[0].remedy)
                self.assertEqual(finder.readings, before)
        self.assertIn(finder.found.kind, ("incomplete", "contradictory", "two_tapped"))


class Diagnosing(unittest.TestCase):
    def test_steps_back_are_noted_as_steps_on(self):
        diagnosis, axis = Diagnosis(), coil_axis()
        diagnosis.toggle("wrong_way")
        diagnosis.note(6, 1, -1)
        diagnosis.note(3, -1, 1)
        self.assertEqual(diagnosis.moves, {6: -1, 3: -1})
        self.assertEqual([cause.kind for cause in diagnosis.causes(axis)], ["coil-reversed"])
        diagnosis.note(2, 1, 1)
        self.assertEqual(diagnosis.causes(axis), [], "one way at two rows, and the other at a third")
        diagnosis.forget()
        self.assertEqual((diagnosis.told, diagnosis.moves, diagnosis.causes(screw_axis())), (set(), {}, []))


class Tables(unittest.TestCase):
    def test_what_a_table_is_in_a_sentence(self):
        for words, said in (
            ((1, 2, 4, 8), "The wave sequence."),
            ((8, 4, 2, 1), "The wave sequence, reversed, starting at row 3."),
            ((3, 6, 12, 9, 3, 6, 12, 9), "The full sequence, 2 times over."),
            ((1, 4, 2, 8), "The wave sequence, for outputs on the ends ACBD."),
            ((14, 13, 11, 7), "The wave sequence, for coils that are on at low level."),
            ((1, 3, 2, 4, 8), "No known sequence; uneven."),
            ((5, 10), "No rotation; uneven."),
        ):
            self.assertEqual(described(analyse(words)), said)
        self.assertEqual(described(analyse((1, 4, 2, 8)), "ACBD"), "The wave sequence.")


if __name__ == "__main__":
    unittest.main()
