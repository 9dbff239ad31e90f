"""The stand-in over a real socket, as any client that speaks the standards meets it."""

import socket
import unittest

from msgspec.structs import replace

from kivant.board.protocol.record import AxisSpan, Span, pack
from kivant.board.protocol.spans import quadratic
from kivant.board.protocol.syntax import block
from kivant.board.standin.axis_play import HALF_WAY
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.commands import MOST_AWAITED
from kivant.board.standin.device import Session, StandIn
from kivant.board.standin.dialogue import MOST_WAITING, is_ready, take, work
from kivant.board.standin.server import BoardServer
from tests.patience import wait_until


def even(ticks: int, *ways: int, brake_us: int = 0) -> list[Span]:
    """Return spans of one axis, one behind the other from count 0, each of so many even steps."""
    places = [HALF_WAY]
    for way in ways:
        places.append(places[-1] + (way << 32))
    ends = zip(places, places[1:], strict=False)
    return [Span(ticks, (quadratic(ticks, a, b, 0.0),), (brake_us, brake_us)) for a, b in ends]


class Client:
    """A plain socket that asks and hears lines."""

    def __init__(self, address: str) -> None:
        host, port = address.split(":")
        self.socket = socket.create_connection((host, int(port)), timeout=5)
        self.file = self.socket.makefile("rwb")

    def tell(self, text: str, body: bytes = b"") -> None:
        self.file.write(text.encode() + body + b"\n")
        self.file.flush()

    def ask(self, text: str, body: bytes = b"") -> str:
        self.tell(text, body)
        return self.file.readline().decode().strip()

    def close(self) -> None:
        self.file.close()
        self.socket.close()


class Clock(unittest.TestCase):
    def test_it_loses_only_the_time_in_which_nobody_could_look(self):
        readings = iter((7.0, 7.04, 7.13, 9.13, 9.13, 9.0, 9.05))
        steady = SteadyClock(lambda: next(readings))
        for passed in (0.04, 0.13, 0.23, 0.23, 0.23, 0.28):
            self.assertAlmostEqual(steady(), passed, places=12)


class OverTcp(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 100.0
        self.server = BoardServer(clock=lambda: self.now).start()
        self.addCleanup(self.server.close)
        self.client = self.connect()

    def connect(self) -> Client:
        client = Client(self.server.address)
        self.addCleanup(client.close)
        return client

    def one_axis(self, spans: list[Span], *, complete: bool = True) -> None:
        self.client.tell('AXIS:COUN 1;:AXIS1:PULS STEP,"P0","P1","P2",2,2,5,5,HIGH,HIGH,LOW;:OUTP ON')
        self.client.ask("MOT:APP? ", block(pack(spans)))
        if complete:
            self.client.tell("MOT:END")

    def test_it_answers_as_the_standards_say(self):
        """Identity, errors by number and text, status bits, several queries in a message."""
        ask = self.client.ask
        self.assertRegex(ask("*IDN?"), r"^Kivant,stand-in board,0,\d+\.\d+")
        self.assertEqual(ask("*RST;*CLS;*OPC?"), "1")
        self.assertEqual(ask("SYSTem:ERRor:NEXT?;:SYST:VERS?;*TST?"), '0,"No error";1999.0;0')
        self.client.tell("NO:SUCH")
        self.client.tell("AXIS9:REST HOLD")
        self.client.tell("AXIS:COUNt many")
        self.client.tell("SYST:WATC -1")
        self.client.tell('AXIS:COUN 1;:AXIS1:COIL "P0","P1","P2","Q",HIGH,1,2')
        self.assertEqual(ask("*STB?"), "4")
        self.assertEqual(ask("*ESR?"), str(32 + 16))
        errors = [int(ask("SYST:ERR?").split(",")[0]) for _ in range(6)]
        self.assertEqual(errors, [-113, -114, -104, -222, -224, 0])
        for query, answer in (
            ("*ESE 48;*ESE?", "48"),
            ("*SRE 32;*SRE?", "32"),
            ("SYST:WATC 2;WATC?", "2"),
            ("OUTP?", "0"),
            ("AXIS:COUN?", "1"),
        ):
            self.assertEqual(ask(query), answer)

    def test_a_flood_of_errors_ends_in_an_overflow(self):
        for _ in range(50):
            self.client.tell("NO:SUCH")
        errors = [self.client.ask("SYST:ERR?") for _ in range(33)]
        self.assertTrue(errors[31].startswith("-350"))
        self.assertTrue(errors[32].startswith("0"))

    def test_motion_is_counted_and_levels_follow(self):
        """Ten steps in a second: the counts and the STEP line at chosen moments; *OPC? answers at the end."""
        self.one_axis(even(1_000_000, 10))
        self.assertEqual(self.client.ask("SYST:WATC 0;:INIT;*OPC?;:POS?"), "0")
        for at, count, step in (
            (0.049, 0, 0),
            (0.050001, 1, 1),
            (0.0501, 1, 0),
            (0.550001, 6, 1),
            (0.99, 10, 0),
        ):
            self.now = 100.0 + at
            self.assertEqual(
                self.client.ask("POS?;:LINE:LEV?").split(";"),
                [str(count), ",".join([str(step), "1", "0"] + ["0"] * 61)],
            )
        self.now = 101.5
        self.assertEqual(self.client.file.readline(), b"1\n")
        self.assertEqual(self.client.ask("MOT:STAT?"), "IDLE,1000000,0,512,10")

    def test_coils_show_the_words(self):
        self.client.tell('AXIS:COUN 1;:AXIS1:COIL "P0","P1","P2","P3",LOW,1,3,2,6;:AXIS1:REST OFF;:OUTP ON')
        self.client.ask("MOT:APP? ", block(pack(even(1_000_000, -2))))
        levels = self.client.ask("LINE:LEV?")
        self.assertTrue(levels.startswith("1,1,1,1"), "off at rest, active low")
        self.client.ask("MOT:END;:SYST:WATC 0;:INIT;:POS?")
        for at, word in ((0.1, 1), (0.3, 6), (0.8, 2)):
            self.now = 100.0 + at
            expected = ",".join(str(1 - (word >> bit & 1)) for bit in range(4))
            self.assertEqual(self.client.ask("LINE:LEV?")[:7], expected)

    def test_the_board_brakes_by_itself_when_the_host_goes_silent(self):
        """Half a second after the last word from whoever started it; the error queue says why."""
        self.one_axis(even(10_000, *[10] * 400, brake_us=200_000))
        self.client.tell("INIT")
        self.client.ask("POS?")
        observer = self.connect()
        self.now = 102.0
        state = observer.ask("MOT:STAT?").split(",")
        self.assertEqual(state[0], "STOP")
        self.assertAlmostEqual(int(state[4]), (0.5 + 0.1) * 1000, delta=8)
        self.assertRegex(observer.ask("SYST:ERR?"), "-365,.*silent while moving")

    def test_anyone_may_stop_it_and_power_off_is_at_once(self):
        self.one_axis(even(10_000, *[10] * 400, brake_us=200_000))
        self.client.tell("SYST:WATC 0;:INIT")
        self.client.ask("POS?")
        self.now = 101.0
        observer = self.connect()
        self.assertEqual(observer.ask("ABORt;:MOT:STAT?").split(",")[0], "BRAKE")
        self.now = 101.05
        observer.tell("OUTPut OFF")
        stopped = observer.ask("MOT:STAT?")
        self.assertEqual(stopped.split(",")[0], "STOP")
        self.now = 105.0
        self.assertEqual(observer.ask("MOT:STAT?"), stopped)
        self.assertEqual(observer.ask("OUTP?"), "0")

    def test_what_does_not_fit_is_refused_and_changes_nothing(self):
        """Too many spans, spans after the end, changes while moving, starting without power, broken blocks."""
        self.one_axis(even(10_000, *[1] * 10, brake_us=1000), complete=False)
        many = block(pack(even(1, *[0] * 600)))
        self.client.tell("MOT:APP? ", many)
        self.assertRegex(self.client.ask("SYST:ERR?"), "-225,.*room for 502 spans")
        for steps in (12, -2_000_000_000):  # in ten ticks
            self.client.tell("MOT:APP? ", block(pack([Span(10, (AxisSpan(HALF_WAY + (steps + 10 << 32)),))])))
            self.assertRegex(self.client.ask("SYST:ERR?"), "-222,.*more steps than ticks")
        self.client.tell("MOT:APP? ", block(b"123"))
        self.assertRegex(self.client.ask("SYST:ERR?"), "-161,")
        self.client.tell("MOT:END;APP? ", block(pack(even(1, 0))))
        self.assertRegex(self.client.ask("SYST:ERR?"), "-221,")
        self.client.tell("OUTP OFF;:INIT")
        self.assertRegex(self.client.ask("SYST:ERR?"), "-221,.*output is off")
        self.client.tell("OUTP ON;:INIT;:AXIS:COUN 2;:POS 5;:INIT")
        self.assertEqual([self.client.ask("SYST:ERR?").split(",")[0] for _ in range(3)], ["-213"] * 3)
        self.now = 100.05
        self.assertEqual(self.client.ask("POS?"), "5")

    def test_the_tail_of_the_buffer_is_replaced_unless_it_has_begun(self):
        """Ten a second up; from the third second on down instead; what has begun stays as it was sent."""
        self.one_axis(even(1_000_000, 10, 10, 10), complete=False)
        ask = self.client.ask
        self.assertEqual(ask("MOT:REC?"), "2")
        self.assertEqual(ask("SYST:WATC 0;:MOT:END;:INIT;:POS?"), "0")
        self.now = 101.5
        self.assertEqual(ask("MOT:STAT?"), "MOVE,1500000,2,510,15")
        down = block(pack([Span(1_000_000, (quadratic(1_000_000, HALF_WAY + (20 << 32), HALF_WAY, 0.0),))]))
        self.assertEqual(ask("MOT:REPL? 1,", down), "0,3,510", "the second one is being played")
        self.assertEqual(ask("MOT:REPL? 2,", down), "1,3,510")
        self.client.tell("MOT:REPL? 4,", down)
        self.assertRegex(ask("SYST:ERR?"), "-222,.*there are 3 spans")
        self.assertEqual(ask("MOT:END;:POS?"), "15")
        self.now = 110.0
        self.assertEqual(ask("MOT:STAT?"), "IDLE,3000000,0,512,0")

    def test_where_between_steps_a_path_begins(self):
        self.client.tell('AXIS:COUN 1;:AXIS1:PULS STEP,"P0","P1","",2,2,5,5,HIGH,HIGH,LOW;:OUTP ON;:POS 7')
        self.client.tell(f"POS:SHAR {2**32 - 1};:SYST:WATC 0")
        last = quadratic(10, (8 << 32) - 1, 8 << 32, 0.0)
        self.client.ask("MOT:APP? ", block(pack([Span(10, (last,)), Span(990_000, (last._replace(speed=0),))])))
        self.client.ask("MOT:END;:INIT;:POS?")
        self.now = 100.5
        self.assertEqual(self.client.ask("POS?"), "8")
        self.client.tell("POS:SHAR 4294967296")
        self.assertRegex(self.client.ask("SYST:ERR?"), "-213")

    def test_wai_holds_back_what_follows(self):
        self.one_axis(even(100_000, 10))
        self.client.tell("SYST:WATC 0;:INIT;*WAI;:POS?")
        wait_until(lambda: self.server.board.player.moving)
        self.now = 100.2
        self.assertEqual(self.client.file.readline(), b"10\n")

    def moving(self, **more) -> None:
        """Begin a motion of four seconds, ten steps every 10 ms."""
        self.one_axis(even(10_000, *[10] * 400, brake_us=200_000), **more)
        self.assertEqual(self.client.ask("SYST:WATC 0.5;:INIT;:POS?"), "0")

    def test_only_what_is_understood_is_a_sign_of_life(self):
        """Bytes without an end, and commands that do not exist: the board brakes half a second after the last good one."""
        self.moving()
        observer = self.connect()
        for at, state in ((0.2, "MOVE"), (0.4, "MOVE"), (0.6, "BRAKE"), (0.9, "STOP")):
            self.now = 100.0 + at
            self.client.socket.sendall(b"NO:SUCH\n" + b"x" * 999)
            wait_until(lambda: observer.ask("*ESR?") != "0" or observer.ask("SYST:ERR?")[0] != "0")
            self.assertEqual(observer.ask("MOT:STAT?").split(",")[0], state, at)

    def test_a_stop_gets_through_whatever_waits(self):
        """Behind a wait for the end of the motion, and behind more than is taken; power is cut just so."""
        for stop, state in (("ABORt", "BRAKE"), ("OUTP OFF", "STOP")):
            self.client.tell("OUTP OFF;*RST;*CLS")
            self.moving()
            self.client.tell("SYST:WATC 0")
            self.client.socket.sendall(b"*WAI\n" + b"*TST?\n" * (2 * MOST_WAITING) + stop.encode() + b"\n" * 9)
            observer = self.connect()
            wait_until(lambda s=state, o=observer: o.ask("MOT:STAT?").split(",")[0] == s)
            self.now += 9.0
            self.assertEqual(observer.ask("MOT:STAT?").split(",")[0], "STOP")
            heard = [self.client.file.readline() for _ in range(100)]
            self.assertEqual(set(heard), {b"0\n"})
            wait_until(lambda o=observer: "too many commands wait" in o.ask("SYST:ERR?"))
            self.client.close()
            self.client = self.connect()

    def test_idle_connections_shut_nobody_out(self):
        """The one that was silent for the longest time makes room, never the one whose motion is played."""
        self.moving()
        crowd = [self.connect() for _ in range(40)]
        late = self.connect()
        self.assertEqual(late.ask("ABORt;:MOT:STAT?").split(",")[0], "BRAKE")
        self.assertTrue(self.client.ask("*IDN?").startswith("Kivant"))
        self.assertEqual(crowd[0].file.readline(), b"", "closed")
        self.now = 100.0 + 3600.0
        self.assertEqual(late.file.readline(), b"", "an hour without a word is the end")
        self.assertTrue(self.client.ask("*IDN?").startswith("Kivant"), "but for whose motion it was")

    def test_what_waits_for_the_end_has_a_bound(self):
        self.moving()
        self.client.socket.sendall(b"*OPC?\n" * 500)
        self.assertRegex(self.client.ask("SYST:ERR?"), "-350,.*wait for the end")
        self.now = 110.0
        self.assertEqual([self.client.file.readline() for _ in range(MOST_AWAITED)], [b"1\n"] * MOST_AWAITED)
        self.assertEqual(self.client.ask("*TST?"), "0")

    def test_no_false_word_about_braking_keeps_it_moving(self):
        """A brake time of an hour is refused; a share that leaves nothing to brake with ends in twice the brake time."""
        self.client.tell("AXIS:COUN 1")
        self.client.tell("MOT:APP? ", block(pack(even(10_000, 1, brake_us=3_600_000_000))))
        self.assertRegex(self.client.ask("SYST:ERR?"), "-222,.*able to stop within 60 s")
        self.client.tell("*RST")
        spans = [replace(span, share=2 << 16) for span in even(10_000, *[10] * 400, brake_us=200_000)]
        self.one_axis(spans)
        self.client.ask("SYST:WATC 0;:INIT;:POS?")
        self.now = 100.1
        self.client.ask("ABORt;:POS?")
        self.now = 100.6
        state = self.client.ask("MOT:STAT?").split(",")
        self.assertEqual(state[0], "STOP")
        self.assertLess(int(state[4]), (0.1 + 2 * 0.2 + 0.05) * 1000)

    def test_work_is_done_in_small_parts(self):
        """A long motion, and many commands: others may have their turn after a few of them."""
        board, session = StandIn(lambda: self.now), Session()
        take(session, b"*TST?\n" * 500)
        answers, turns = b"", 0
        while is_ready(board, session):
            answers, turns = answers + work(board, session), turns + 1
        self.assertEqual(answers, b"0\n" * 500)
        self.assertGreater(turns, 50)
        take(session, b"AXIS:COUN 1;:OUTP ON;:SYST:WATC 0;:MOT:APP? " + block(pack(even(1000, *[1] * 500))) + b";END\n")
        take(session, b"INIT\nPOS?\n")
        work(board, session)
        self.now, turns = 200.0, 0
        take(session, b"POS?\n")
        answer = b""
        while not answer:
            answer, turns = work(board, session), turns + 1
        self.assertEqual(answer, b"500\n")
        self.assertGreater(turns, 5)

    def test_rubbish_and_sudden_ends_do_no_harm(self):
        for rubbish in (
            b"\x00\xff" * 500 + b"\n",
            b"GET / HTTP/1.1\r\n\r\n",
            b"#9999999999\n",
            b'"' * 999 + b"\n",
        ):
            rude = self.connect()
            rude.socket.sendall(rubbish)
            rude.socket.shutdown(socket.SHUT_RDWR)
        self.assertTrue(self.client.ask("*IDN?").startswith("Kivant"))
