"""Sequences, against the sum of coil fields as complex numbers."""

import cmath
import math
import unittest

from kivant.core.drive.phases import (
    MOST_TORQUE,
    SEQUENCES,
    SequenceName,
    mean_coils_on,
    microstep_torque,
    row_index,
    row_of,
    rows,
    torque_range,
)


class Sequences(unittest.TestCase):
    def test_every_row_makes_the_field_its_coils_add_up_to(self):
        """A row's angle, torque and number of coils follow from its word alone."""
        for sequence in SEQUENCES:
            for row in rows(sequence):
                with self.subTest(sequence=sequence, word=row.word):
                    field = sum(1j**bit for bit in range(4) if row.word >> bit & 1)
                    self.assertAlmostEqual(row.torque, abs(field), places=12)
                    self.assertAlmostEqual(cmath.phase(field / cmath.rect(1, math.radians(row.field_deg))), 0)
                    self.assertEqual(row.coils_on, bin(row.word).count("1"))

    def test_a_sequence_turns_the_field_evenly_and_once(self):
        """In positive direction the field turns by the same angle at every row, 360 degrees in all."""
        for sequence, steps in ((name, table.steps_per_full_step) for name, table in SEQUENCES.items()):
            angles = [row.field_deg for row in rows(sequence)]
            turns = [(b - a) % 360 for a, b in zip(angles, [*angles[1:], angles[0]], strict=True)]
            self.assertEqual(turns, [90.0 / steps] * len(angles), sequence)

    def test_torques_are_those_of_the_textbook(self):
        """Two phases on give the square root of 2; half steps go back and forth between the two."""
        self.assertEqual([round(r.torque, 3) for r in rows("wave")], [1.0] * 4)
        self.assertEqual([round(r.torque, 3) for r in rows("full")], [1.414] * 4)
        self.assertEqual([round(r.torque, 3) for r in rows("half")], [1.0, 1.414] * 4)

    def test_the_negative_direction_plays_backwards(self):
        """Row 0 holds at step 0; -1 is the last row; a whole cycle changes nothing."""
        self.assertEqual([row_index("half", k) for k in (0, 1, -1, 8, -9)], [0, 1, 7, 0, 7])

    def test_opposite_coils_cancel_and_impossible_words_are_refused(self):
        self.assertEqual((row_of(0b0101).torque, row_of(0).torque), (0.0, 0.0))
        for word in (-1, 16):
            with self.assertRaisesRegex(ValueError, "from 0 to 15"):
                row_of(word)

    def test_what_a_choice_costs(self):
        """Range of torque and mean number of coils on, and with which part of the holding torque a microstep pulls."""
        root = math.sqrt(2)
        table: tuple[tuple[SequenceName, float, float, float], ...] = (
            ("wave", 1, 1, 1),
            ("full", root, root, 2),
            ("half", 1, root, 1.5),
        )
        for name, low, high, coils in table:
            self.assertAlmostEqual(torque_range(name)[0], low)
            self.assertAlmostEqual(torque_range(name)[1], high)
            self.assertEqual(mean_coils_on(name), coils)
        self.assertAlmostEqual(MOST_TORQUE, root)
        for microsteps in (1, 2, 16):
            turned = cmath.rect(1, math.pi / 2 / microsteps)  # the rotor lags by one microstep of the field
            self.assertAlmostEqual(microstep_torque(microsteps), turned.imag)
