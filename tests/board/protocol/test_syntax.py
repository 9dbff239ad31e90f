"""The text protocol, fed whole, byte by byte, and with garbage."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from kivant.board.protocol.syntax import DeviceError, Receiver, block, parse, quoted, spellings

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

    def test_endless_messages_are_cut_off(self):
        for flood in (b"x" * 3_000_000, b"#9999999999" + b"x" * 2_000_000):
            receiver = Receiver()
            with self.assertRaises(DeviceError) as caught:
                receiver.receive(flood)
            self.assertEqual(caught.exception.number, -363)
            self.assertEqual(receiver.receive(b"*IDN?\n"), [b"*IDN?"])

    @given(st.binary(max_size=80))
    def test_no_bytes_break_it(self, data):
        """Whatever arrives is a message or an error, never another exception."""
        try:
            for message in Receiver().receive(data + b"\n"):
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
