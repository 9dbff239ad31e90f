"""Key paths: text and parts mean the same, and lead to what they say."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from kivant.core.path import Path, axis_path, routine_path
from tests.machines import machine, move, screw_axis

PARTS = st.lists(st.one_of(st.integers(0, 99), st.from_regex(r"[A-Za-z_ ÄÖ]{1,9}", fullmatch=True)), max_size=6)


class Paths(unittest.TestCase):
    @given(PARTS)
    def test_the_text_of_a_path_is_that_path(self, parts):
        path = Path(parts)
        self.assertEqual(Path.parse(str(path)), path)
        self.assertEqual(path.parent / path.key if path else path, path)
        self.assertTrue(path.inside(path.parent))

    def test_what_is_not_a_path_is_refused(self):
        for text in ("a..b", "[x]", "a[1", "a]b", "."):
            with self.assertRaisesRegex(ValueError, "is not a key path"):
                Path.parse(text)

    def test_places_are_found_and_taken_apart(self):
        built = machine(screw_axis(), blocks=(move(to={"Lift": "3"}),))
        path = routine_path(0, "blocks", 0, "to", "Lift")
        self.assertEqual((str(path), path.look_up(built)), ("routines[0].blocks[0].to.Lift", 3))
        self.assertEqual((path.routine, path.axis, axis_path(2, "limits").axis), (0, None, 2))
        self.assertEqual(path.below("routines", "*"), Path.parse("blocks[0].to.Lift"))
        self.assertEqual((path.below("axes", "*"), path.below("routines", "*", "start")), (None, None))
        with self.assertRaises(LookupError):
            axis_path(1).look_up(built)
