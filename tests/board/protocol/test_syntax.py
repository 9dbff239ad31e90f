"""The text protocol, fed whole, byte by byte, and with garbage."""

import tracemalloc
import unittest

from hypothesis import given
from hypothesis import strategies as st

from kivant.board.protocol.syntax import MOST_MESSAGE_BYTES, DeviceError, Receiver, block, parse, quoted, spellings

BODY = b"\n;,\"b'#\x00\xff \r\n"


class Receiving(unittest.TestCase):
    def test_messages_are_the_same_however_they_arrive(self):
        """Line feeds within blocks and strings end nothing."""
        stream = b"*IDN?\r\nMOT:APP? " + block(BODY) + b'\nLINE:CAT "a""b",\'c;d\'\n\nABOR\n'
        expected = [b"*IDN?\r", b"MOT:APP? " + block(BODY), b'LINE:CAT "a""b",\'c;d\'', b"", b"ABOR"]
        for size in (1, 2, 3, 7, len(stream)):
            receiver, found = Receiver(), []
            for at in range(0, len(stream), size):
                found += receiver.receive(stream[at : at + size])
            self.assertEqual(found, expected, f"{size} bytes at a time")

    def test_messages_beyond_all_length_are_passed_over(self):
        """One error, in whatever pieces they come; nothing of them is taken for commands, next to nothing is held."""
        size = 3 * MOST_MESSAGE_BYTES
        body = (b'OUTP OFF\n"' * size)[:size]
        for flood in (b"x" * size, b'"' + b"x" * size, b'""' * size, b"MOT:APP? #6%d" % size + body, b"#" * size):
            for piece in (1021, len(flood)):
                receiver = Receiver()
                tracemalloc.start()
                found = [m for at in range(0, len(flood), piece) for m in receiver.receive(flood[at : at + piece])]
                kept, _peak = tracemalloc.get_traced_memory()
                tracemalloc.stop()
                self.assertLess(kept, 20_000, flood[:20])
                found += receiver.receive(b"\n*IDN?\n")
                self.assertEqual([getattr(message, "number", message) for message in found], [-223, b"*IDN?"])

    def test_messages_of_too_many_parts_are_refused(self):
        table = ((b"*CLS;" * 99, -223), (b"A " + b"1," * 999, -223), (b"A " + b"#11a" * 99, -223), (b"A:" * 99 + b"A", -112),
                 (b"A " + b"7" * 999, -124), (b"A " + b"1" * 100_000 + b"x", -102), (b'A "' + b"'" * 99_999, -151))  # fmt: skip
        for message, number in table:
            with self.assertRaises(DeviceError, msg=message[:9]) as caught:
                parse(message)
            self.assertEqual(caught.exception.number, number, message[:9])

    @given(
        st.lists(st.sampled_from([b'"', b"'", b"#", b"1", b"2", b"3a", b"\n", b"x", b"; "]), max_size=40),
        st.integers(1, 9),
    )
    def test_pieces_make_no_difference(self, tokens, size):
        stream = b"".join(tokens) + b"\n"
        receiver = Receiver()
        found = [m for at in range(0, len(stream), size) for m in receiver.receive(stream[at : at + size])]
        self.assertEqual(found, Receiver().receive(stream))

    @given(st.binary(max_size=80))
    def test_no_bytes_break_it(self, data):
        """Whatever arrives is a message or an error, never another exception."""
        try:
            for message in Receiver().receive(data + b"\n"):
                assert isinstance(message, bytes)
                parse(message)
        except DeviceError:
            pass


class Parsing(unittest.TestCase):
    def test_headers_and_parameters(self):
        table = [
            (b"*IDN?", [("*IDN?", 1, ())]),
            (b"axis3:coil \"P0\",'P1',HIGH,1,-2.5e1", [("AXIS:COIL", 3, ("P0", "P1", "HIGH", 1.0, -25.0))]),
            (b"SYST:ERR?;:abor ; *cls", [("SYST:ERR?", 1, ()), ("ABOR", 1, ()), ("*CLS", 1, ())]),
            (b"SYST:WATC 1;TICK 5", [("SYST:WATC", 1, (1.0,)), ("SYST:TICK", 1, (5.0,))]),
            (b"MOT:APP? " + block(BODY), [("MOT:APP?", 1, (BODY,))]),
            (b" ; ", []),
            (b"*IDN?\r", [("*IDN?", 1, ())]),
            (b'LINE:CAT "a" \r', [("LINE:CAT", 1, ("a",))]),
            (b"MOT:APP? " + block(BODY) + b" \r;ABOR", [("MOT:APP?", 1, (BODY,)), ("MOT:ABOR", 1, ())]),
        ]
        for message, expected in table:
            self.assertEqual([(u.header, u.channel, u.parameters) for u in parse(message)], expected, message)

    def test_broken_syntax_is_told_by_its_number(self):
        table = [(b"123", -102), (b"A B C", -102), (b"A 1,,2", -102), (b'A "x', -151), (b"A #15abc", -161),
                 (b"A #13abcd", -161), (b"?", -102), (b"A:", -102), (b"A \xff", -102)]  # fmt: skip
        for message, number in table:
            with self.assertRaises(DeviceError, msg=message) as caught:
                parse(message)
            self.assertEqual(caught.exception.number, number, message)

    def test_short_and_long_forms(self):
        self.assertEqual(
            set(spellings("SYSTem:ERRor[:NEXT]?")),
            {f"{a}:{b}{c}?" for a in ("SYST", "SYSTEM") for b in ("ERR", "ERROR") for c in ("", ":NEXT")},
        )
        self.assertEqual(quoted('say "a"'), '"say ""a"""')
