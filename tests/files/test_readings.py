"""Readings of a meter as CSV: what is no reading is told with its line."""

import tempfile
import unittest
from pathlib import Path

from kivant.core.drive.windings import Reading
from kivant.files.readings import ReadingsError, load_readings, parse_readings


class Readings(unittest.TestCase):
    def test_numbers_and_words(self):
        text = 'From, To ,OHM\r\nred,blue,8.1\n\nred,"black, thin",open\nblue,green, Connected \nblack,green,.5 ohm\n'
        self.assertEqual(
            parse_readings(text),
            [Reading(("red", "blue"), 8.1), Reading(("red", "black, thin"), "open"),
             Reading(("blue", "green"), "connected"), Reading(("black", "green"), 0.5)],
        )  # fmt: skip

    def test_what_is_no_reading(self):
        head = "from,to,ohm\n"
        for text, words in (
            ("", "line 1: Expected the header"), ("a,b,c\n", "line 1: Expected the header"),
            (head + "a,a,5", "line 2: A reading is between two wires; found “a” twice"),
            (head + "a,b", "line 2: Expected three fields; found 2"), (head + ",b,5", "line 2: “” is not the name"),
            (head + "\na,b,-5", "line 3: “-5” is not what a meter shows"), (head + "a,b,1e9", "1e9"),
            (head + "a,b,nan", "“nan” is not"), (head + "a,b,9999999", "is not what"), (head + "a\x1b,b,5", "␛"),
            (head + "a,b,5\n" * 2000, "more than 1000 readings"), (head + '"a\x00', "line"),
        ):  # fmt: skip
            with self.assertRaisesRegex(ReadingsError, words):
                parse_readings(text)

    def test_a_file(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "readings.csv"
            path.write_bytes(b"\xef\xbb\xbffrom,to,ohm\n1,2,5\n")
            self.assertEqual(load_readings(path), [Reading(("1", "2"), 5.0)])
            with self.assertRaisesRegex(ReadingsError, "cannot be read: No such file"):
                load_readings(path.with_name("none.csv"))
