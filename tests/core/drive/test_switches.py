"""Switch banks: tables, patterns, and what is refused."""

import unittest

from msgspec.structs import replace

from kivant.core.drive.switches import (
    TABLES,
    CurrentBank,
    SwitchBank,
    faults_of_bank,
    given,
    new_bank,
    parse_switch_table,
    setting_for,
    words,
)
from kivant.core.path import Path


def bank(**changes):
    made = SwitchBank(names=("S1", "S2"), microsteps={"00": 1, "10": 2, "01": 4, "11": 8}, setting="01")
    return replace(made, **changes)


class Switches(unittest.TestCase):
    def test_reading_and_setting(self):
        self.assertEqual((given(bank()), setting_for(bank(), 8), setting_for(bank(), 16)), (4, "11", None))
        self.assertEqual(words(bank(), "10"), "S1 on, S2 off")
        self.assertIsNone(given(bank(setting=None)))
        self.assertEqual(given(CurrentBank(names=("A",), current_a={"0": 0.5, "1": 1.0}, setting="1")), 1.0)

    def test_each_common_table_doubles_and_has_every_number_once(self):
        for name, table in TABLES.items():
            for count in (1, 2, 3, 4):
                values = sorted(table(count).values())
                self.assertEqual(
                    [b / a for a, b in zip(values, values[1:], strict=False)], [2.0] * (len(values) - 1), name
                )
                made = new_bank(count, name, values[-1])
                self.assertEqual((list(faults_of_bank(made, Path())), given(made)), ([], values[-1]))

    def test_what_is_refused_names_its_place(self):
        table = [
            (bank(names=()), "switches.names", "at least one switch"),
            (bank(names=("S1", "S1")), "switches.names[1]", "appears twice"),
            (bank(microsteps={"000": 1, "01": 4}), "switches.microsteps.000", "has 3 digits; the bank has 2"),
            (bank(microsteps={"00": 2, "01": 2}), "switches.microsteps.01", "both give 2"),
            (bank(setting="1"), "switches.setting", "has 1 digits"),
            (bank(microsteps={"00": 2, "01": 4}, setting="11"), "switches.setting", "has no pattern “11”"),
        ]
        for made, place, said in table:
            faults = list(faults_of_bank(made, Path(("switches",))))
            self.assertIn((place, True), [(str(f.place), said in f.message) for f in faults], said)

    def test_typed_tables(self):
        self.assertEqual(parse_switch_table("000 1, 100 2; 010=4"), {"000": 1, "100": 2, "010": 4})
        for text in ("", "000", "0a0 1", "00 x", "00 1 00 2", "0 1 " * 600):
            self.assertRaises(ValueError, parse_switch_table, text)


if __name__ == "__main__":
    unittest.main()
