"""Tables for somebody's own program: read back by what the language means, they are the words again."""

import re
import unittest
from itertools import product

from kivant.core.drive.phases import SEQUENCES
from kivant.core.drive.program_text import BITS, LANGUAGES, program_text
from kivant.core.drive.sequence_table import parse_table


def read_back(word: int, bits: str, active: str) -> int:
    """Return the coil word of a port's word, A the lowest bit."""
    on = [coil for place, coil in enumerate(bits) if (word >> place & 1) == (active == "high")]
    return sum(1 << "ABCD".index(coil) for coil in on)


class Texts(unittest.TestCase):
    def test_every_language_bit_order_and_level(self):
        for sequence, language, bits, active in product(SEQUENCES.values(), LANGUAGES, BITS, ("high", "low")):
            text = program_text(sequence.words, language, bits=bits, active=active)
            if language == "python":
                tables: dict[str, tuple[int, ...]] = {}
                exec(text, {}, tables)
                found, back = tables["FORWARD"], tables["BACKWARD"]
            elif language == "c":
                rows = re.findall(r"const unsigned char (\w+)\[(\d+)\] = \{ ([^}]*) \};", text)
                self.assertEqual([(name, int(size)) for name, size, _ in rows],
                                 [("FORWARD", len(sequence.words)), ("BACKWARD", len(sequence.words))])  # fmt: skip
                found, back = (tuple(int(word, 16) for word in row[2].split(", ")) for row in rows)
            else:
                found = tuple(int(word, 16) for word in text.split())
                back = (found[0], *found[:0:-1])
            self.assertEqual(tuple(read_back(word, bits, active) for word in found), sequence.words, text)
            self.assertEqual(tuple(read_back(word, bits, active) for word in back),
                             (sequence.words[0], *sequence.words[:0:-1]), "from the same row, the other way")  # fmt: skip

    def test_it_can_be_typed_again(self):
        for sequence, language in product(SEQUENCES.values(), ("c", "hex")):
            text = program_text(sequence.words, language)
            body = text.split("{")[1].split("}")[0] if language == "c" else text
            self.assertEqual(parse_table(body), sequence.words)
