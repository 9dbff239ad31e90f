"""Tables that somebody has typed: read in every notation, and known again however they are turned round or plugged."""

import cmath
import unittest
from fractions import Fraction
from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from kivant.core.drive.drivers import OwnSequence, driver_kind
from kivant.core.drive.phases import SEQUENCES
from kivant.core.drive.rotor import rotor_state
from kivant.core.drive.sequence_table import TableError, analyse, parse_table
from kivant.core.drive.wiring import ORDERS, orders, plugged
from kivant.core.plan import PlanError, plan
from kivant.core.travel.conversion import steps_per_rev
from tests.machines import coil_axis, machine, move


def standard(words) -> set:
    """Return every cycle of a sequence, from each row on, either way."""
    turned = [words[k:] + words[:k] for k in range(len(words))]
    return {*turned, *(table[::-1] for table in turned)}


def net_turns(words) -> float | None:
    """Return the turns of the field by complex numbers; None where a row has no field or goes on by half a turn."""
    fields = [sum(1j**bit for bit in range(4) if word >> bit & 1) for word in words]
    if any(abs(field) < 1e-9 for field in fields):
        fields = [field for field in fields if abs(field) > 1e-9]
    ways = [cmath.phase(after / before) for before, after in zip(fields, [*fields[1:], fields[0]], strict=True)]
    return None if any(abs(abs(way) - cmath.pi) < 1e-9 for way in ways) else sum(ways) / (2 * cmath.pi)


class Parsing(unittest.TestCase):
    def test_every_notation(self):
        wave = (1, 2, 4, 8)
        for text in ("1,2,4,8", " 1 2\t4\n8 ", "0x1;0X2;0x4;0x8", "0b0001, 0b10, b100, B1000", "{1, 2, 4, 8}; // wave",
                     "1000 0100 0010 0001", "[0x01, /* B */ 0x02,\n 0x04, 0x08,]  # D last", "(1,2,4,8)"):  # fmt: skip
            self.assertEqual(parse_table(text), wave, text)
        self.assertEqual(parse_table("01 03 0C 9"), (1, 3, 12, 9), "hex without a prefix")
        self.assertEqual(parse_table("1000, 1100, 0100"), (1, 3, 2), "four digits each: A from the left")

    def test_what_is_no_table_is_told_with_its_row(self):
        for text, place, words in (
            ("", "rows", "Expected 2 to 16 rows; found 0"), ("5", "rows", "found 1"),
            (",".join(["1"] * 10_000), "rows", "found 10000"), ("1,2,16", "rows[2]", "“16” is not a word"),
            ("10000 01000 00100", "rows[0]", "“10000”"), ("1,two", "rows[1]", "“two”"), ("1,-2", "rows[1]", "“-2”"),
            ("1,\x1b[2J", "rows[1]", "␛"),
        ):  # fmt: skip
            with self.assertRaises(TableError) as caught:
                parse_table(text)
            fault = caught.exception.faults[0]
            self.assertEqual(str(fault.place), place, text[:20])
            self.assertIn(words, fault.message)


class Analysing(unittest.TestCase):
    @given(
        st.sampled_from(sorted(SEQUENCES)), st.integers(0, 7), st.booleans(), st.sampled_from(ORDERS), st.booleans(),
        st.integers(1, 2),
    )  # fmt: skip
    def test_a_sequence_is_known_again_whatever_was_done_to_it(self, name, start, backwards, order, inverted, cycles):
        own = SEQUENCES[name].words
        words = own[start % len(own) :] + own[: start % len(own)]
        words = tuple(plugged(word, order) for word in (words[::-1] if backwards else words)) * cycles
        if len(words) > 16:
            return
        words = tuple(15 - word for word in words) if inverted else words
        table = analyse(words)
        self.assertEqual(table.known, name)
        assert table.wires is not None and table.start_row is not None
        repaired = tuple(plugged(word if table.active == "high" else 15 - word, table.wires) for word in words)
        self.assertIn(repaired[: len(own)], standard(own))
        self.assertEqual(own[table.start_row], repaired[0])
        if table.repair:
            self.assertEqual(table.repair, repaired)

    @given(st.lists(st.integers(0, 15), min_size=2, max_size=16).map(tuple))
    def test_turns_are_those_of_the_vector_sum(self, words):
        table, net = analyse(words), net_turns(words) if any(word not in (0, 5, 10, 15) for word in words) else 0.0
        self.assertAlmostEqual(table.turns, net or 0.0)
        self.assertEqual(table.sense, (table.turns > 0) - (table.turns < 0))
        if table.repair:
            self.assertTrue(analyse(table.repair).even)
        if not table.even:
            self.assertTrue(table.faults or table.turns)

    def test_what_is_wrong_is_said_and_mended(self):
        half = SEQUENCES["half"].words
        for words, said, repair in (
            ((1, 0, 2, 0, 4, 0, 8, 0), "Row 1 makes no field: all coils are off", (1, 2, 4, 8)),
            ((1, 3, 2, 6, 4, 12, 8, 1), "advances unevenly, by 0 to 90 deg", half),
            ((1, 4, 2, 8), "From row 0 to row 1 the field turns by half a turn", (1, 2, 4, 8)),
            ((1, 2), "comes back without a turn", None),
            ((0, 0, 0), "Row 2 makes no field", None),
            ((5, 10), "opposite coils cancel", None),
        ):
            table = analyse(words)
            self.assertRegex(" ".join(table.faults), said)
            self.assertEqual(table.repair, repair, words)
        self.assertIn("both ends of a coil are at one level", analyse((5, 10), "bipolar").faults[0])


class OwnTables(unittest.TestCase):
    def axis(self, *rows: int):
        return coil_axis(sequence=OwnSequence(rows=rows))

    def test_everything_follows_the_table(self):
        """Steps per revolution by the field's path, levels and rotor row by row, and a plan as of the sequence it is."""
        half, full_steps = SEQUENCES["half"].words, coil_axis().motor.full_steps_per_rev
        for rows, per_full_step in (
            (half[3:] + half[:3], 2), (half * 2, 2), ((1, 2, 4, 8, 1, 2, 4, 8), 1), ((8, 4, 2, 1), 1),
            ((1, 6, 8, 3, 4, 9, 2, 12), Fraction(2, 3)), ((1, 3, 2, 2, 4, 12, 8, 9), 2),
        ):  # fmt: skip
            axis = self.axis(*rows)
            self.assertEqual(steps_per_rev(axis), full_steps * per_full_step, rows)
            sense = 1 if (net_turns(rows) or 0.0) > 0 else -1
            for steps in range(-9, 20):
                levels = driver_kind(axis.driver).levels_at(axis.driver, steps, 1)
                self.assertEqual(sum(level << bit for bit, level in enumerate(levels)), rows[steps % len(rows)])
                turned = float(sense * steps * 360 / steps_per_rev(axis) % 360)
                self.assertAlmostEqual(rotor_state(axis, steps).mechanical_deg, turned)
        blocks = (move(to={"Disc": "90"}), move(by={"Disc": "-33"}))
        own, known = plan(machine(self.axis(*half), blocks=blocks)), plan(machine(coil_axis(), blocks=blocks))
        self.assertEqual((own.duration, own.axes[0].final_steps), (known.duration, known.axes[0].final_steps))

    def test_what_is_no_rotation_is_not_planned(self):
        for rows, words in (
            ((1, 4, 2, 8), "comes back without a turn"),
            ((0, 0), "all coils are off"),
            ((1, 2), "without a turn"),
        ):
            with self.assertRaises(PlanError) as caught:
                plan(machine(self.axis(*rows), blocks=(move(to={"Disc": "5"}),)))
            fault = caught.exception.faults[0]
            self.assertEqual(str(fault.place), "axes[0].driver.sequence")
            self.assertIn(words, fault.message)


class Orders(unittest.TestCase):
    def test_rotor_and_field_follow_the_plugs(self):
        """The field is that of the ends that are reached; the rotor goes on, back, or stays; the lines are as before."""
        plain = coil_axis()
        for order in orders(SEQUENCES["half"].words):
            axis = coil_axis(driver={"wires": order.wires})
            for steps in range(-9, 9):
                word = SEQUENCES["half"].words[steps % 8]
                ends = [end for bit, end in enumerate(order.wires) if word >> bit & 1]
                field = sum(1j ** "ABCD".index(end) for end in ends)
                state = rotor_state(axis, steps)
                self.assertAlmostEqual(state.torque, abs(field))
                if abs(field) > 1e-9:
                    self.assertAlmostEqual(cmath.exp(1j * cmath.pi * state.electrical_deg / 180), field / abs(field))
                self.assertEqual(state.coils, tuple(float(end in ends) for end in "ABCD"))
                self.assertAlmostEqual(state.mechanical_deg, order.turns * steps * 360 / steps_per_rev(axis) % 360)
                kind = driver_kind(axis.driver)
                self.assertEqual(kind.levels_at(axis.driver, steps, 1), kind.levels_at(plain.driver, steps, 1))

    def test_all_orders_of_every_sequence_against_the_vector_sum(self):
        """Of 24 orders four turn forward and four the other way: the symmetries of a square; sixteen shudder."""
        for sequence in SEQUENCES.values():
            found = orders(sequence.words)
            self.assertEqual([order.wires for order in found], list(ORDERS))
            for order in found:
                ends = ["ABCD".index(end) for end in order.wires]
                words = [sum(1 << ends[bit] for bit in range(4) if word >> bit & 1) for word in sequence.words]
                net = net_turns(words)
                self.assertEqual(order.turns, round(net) if net is not None else 0)
            verdicts = [order.verdict for order in found]
            self.assertEqual([verdicts.count(v) for v in ("forward", "reverse", "shudders")], [4, 4, 16])
            self.assertEqual(verdicts[0], "forward")

    def test_every_word_can_be_plugged(self):
        for word, order in product(range(16), ORDERS):
            self.assertEqual(plugged(word, order).bit_count(), word.bit_count())
