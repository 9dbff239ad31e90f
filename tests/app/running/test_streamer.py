"""Runs on the stand-in, stops, and boards that refuse, are silent, answer rubbish or go away."""

import contextlib
import socket
import threading
import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.examples import FEEDER_CAROUSEL, load_example
from kivant.app.running.source import PlanSource
from kivant.app.running.status import MOST_MESSAGES, Log
from kivant.app.running.streamer import Streamer
from kivant.board.protocol.syntax import spellings
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.server import BoardServer
from kivant.board.transport import BoardError, check_address
from kivant.board.transport.tcp import parse_address
from kivant.core.machine import Pause
from kivant.core.plan import Plan, plan
from tests.machines import coil_axis, limits, machine, move, pair_axis, screw_axis
from tests.patience import wait_until


def faster(times: float) -> Callable[[], float]:
    """Return a clock for a board that lives faster."""
    steady = SteadyClock()
    return lambda: steady() * times


def run_of(made: Plan, address: str | None = None, **how) -> Streamer:
    """Return the run of a plan."""
    return Streamer(lambda: PlanSource(made), address, **how)


class Whole(unittest.TestCase):
    def test_every_demo_routine_is_counted_as_planned(self):
        machines = (load_example(), load_example(FEEDER_CAROUSEL))
        plans = [plan(built, routine) for built in machines for routine in built.routines]
        with ThreadPoolExecutor(len(plans)) as pool:
            runs = [run_of(made, clock=faster(5), watchdog_s=60) for made in plans]
            ends = list(pool.map(Streamer.execute, runs))
        for made, status in zip(plans, ends, strict=True):
            self.assertTrue(status.agrees, f"{made.routine.name}: {status}")
            self.assertEqual([r.board_steps for r in status.results], [a.final_steps for a in made.axes])
            self.assertAlmostEqual(status.elapsed_s, made.duration, delta=2e-6)

    def test_all_kinds_of_drivers_and_a_start_elsewhere(self):
        built = machine(
            screw_axis(enable="P30"), pair_axis("Reach", 4), coil_axis("Disc", 8),
            blocks=(move(to={"Lift": "3.0001", "Reach": "-2", "Disc": "45"}), move(by={"Disc": "-90"})), start={"Disc": "-7.3"},
        )  # fmt: skip
        self.assertTrue(run_of(plan(built), clock=faster(5), watchdog_s=60).execute().agrees)

    def test_the_log_tells_what_is_new_and_keeps_the_latest(self):
        log, seen, count = Log(), [], 0
        for k in range(MOST_MESSAGES + 7):
            log.add(">" if k % 2 else "<", str(k))
            if k % 100 == 3:
                count, new = log.since(count)
                seen += new
        count, new = log.since(count)
        self.assertEqual([int(text) for _way, text in seen + new], list(range(MOST_MESSAGES + 7)))
        self.assertEqual((count, log.since(count)), (log.count, (log.count, [])))
        self.assertEqual(log.since(0)[1][0], ("<" if 7 % 2 == 0 else ">", "7"))

    def test_a_plan_without_motion_and_a_machine_without_axes(self):
        for built in (machine(screw_axis(), blocks=(move(by={"Lift": "0"}),)), machine()):
            self.assertTrue(run_of(plan(built)).execute().agrees)

    def test_a_plan_of_pauses_switches_nothing_on(self):
        """A coil driver that is off at rest stays off, and no span is played."""
        disc = coil_axis(driver={"at_rest": "off"})
        work = run_of(plan(machine(disc, blocks=(Pause(seconds=0.2), move(by={"Disc": "0.1"})))))
        self.assertTrue(work.execute().agrees)
        self.assertEqual([text for _way, text in work.log.lines if "INIT" in text or "APPend" in text], [])

    def test_a_machine_with_errors_is_not_run(self):
        made = plan(machine(screw_axis(), screw_axis("Reach", 0), blocks=(move(to={"Lift": "1"}),)))
        status = run_of(made).execute()
        self.assertEqual(status.phase, "failed")
        self.assertIn("axes[1].driver.lines.STEP", status.message)


class Stops(unittest.TestCase):
    def run_and_stop(self, presses: int) -> tuple[Streamer, int]:
        """Return the run and how many steps the board took after it was stopped at full speed."""
        slow = screw_axis(limits=limits(40.0, 80.0))
        work = run_of(plan(machine(slow, blocks=(move(to={"Lift": "400"}),))))
        thread = threading.Thread(target=work.execute)
        thread.start()
        self.addCleanup(thread.join)
        wait_until(lambda: work.status.elapsed_s >= 0.8)
        before = work.status.counts[0]
        for _ in range(presses):
            work.stop()
        thread.join(10)
        return work, work.status.counts[0] - before

    def test_the_first_stop_brakes_on_the_ramp_and_keeps_the_power(self):
        """Category 2: from 40 mm/s at 80 mm/s² takes 10 mm, 2000 steps."""
        work, went_on = self.run_and_stop(1)
        self.assertEqual((work.status.phase, work.status.power), ("stopped", True))
        self.assertGreaterEqual(went_on, 1990)
        self.assertNotIn((">", "OUTPut OFF"), work.log.lines)
        self.assertFalse(work.status.agrees)

    def test_the_second_takes_the_power_at_once(self):
        """Category 0: nothing moves any more, far from where braking would end; the board's counts are told."""
        work, went_on = self.run_and_stop(2)
        self.assertEqual((work.status.phase, work.status.power), ("stopped", False))
        self.assertLess(went_on, 1990)
        self.assertIn((">", "OUTPut OFF"), work.log.lines)
        self.assertEqual(len(work.status.results), 1)

    def test_the_second_takes_the_power_of_an_axis_that_has_just_come_to_rest(self):
        work = run_of(plan(machine(screw_axis(), blocks=(move(to={"Lift": "40"}),))))

        class Hasty(Log):
            def add(self, way: str, text: str) -> None:
                if way == "<" and text.startswith(("MOVE", "STOP")) and work.status.power:
                    work.stop()
                super().add(way, text)

        work.log = Hasty()
        status = work.execute()
        said = [text for way, text in work.log.lines if way == ">"]
        self.assertLess(said.index("ABORt", said.index("INITiate")), said.index("OUTPut OFF"))
        self.assertEqual((status.phase, status.power), ("stopped", False))


class BadBoards(unittest.TestCase):
    MADE = plan(machine(screw_axis(), blocks=(move(to={"Lift": "40"}),)))

    def board(self, serve: Callable[[socket.socket], object]) -> str:
        """Return the address of a board that serves one connection as told."""
        listener = socket.create_server(("127.0.0.1", 0))

        def work() -> None:
            connection, _ = listener.accept()
            with connection, listener, contextlib.suppress(OSError):
                serve(connection)

        thread = threading.Thread(target=work, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 6)
        return f"127.0.0.1:{listener.getsockname()[1]}"

    def fails_with(self, address: str, words: str) -> Streamer:
        work = run_of(self.MADE, address)
        status = work.execute()
        self.assertEqual(status.phase, "failed")
        self.assertRegex(status.message, words)
        return work

    def test_refused(self):
        with socket.create_server(("127.0.0.1", 0)) as listener:
            port = listener.getsockname()[1]
        self.fails_with(f"127.0.0.1:{port}", "cannot be reached: nothing listens there. Check the address")

    def test_rubbish(self):
        def answer(rubbish: bytes, connection: socket.socket) -> None:
            connection.recv(9)
            connection.sendall(rubbish)
            connection.recv(9)

        for rubbish in (b"220 mail ready\n", b"\x00\xff\xfe\n", b"x" * 200_000):
            self.fails_with(self.board(partial(answer, rubbish)), "not a valid answer")

    def test_answers_that_no_board_gives_end_a_run(self):
        """Numbers without end, too few or none, in the midst of a motion: a fault that quotes them, and no endless state."""
        for answer in (
            "MOVE," + "7" * 400 + ",1,500,0",
            "MOVE,1,1,500",
            "MOVE,1,1,500,0,0",
            "MOVE,1,1,x,0",
            "DANCE,1,1,500,0",
            "MOVE,1,1,500,²",
        ):
            said = []

            def state(board, session, unit, said=said, answer=answer):
                said.append(1)
                return answer if len(said) > 3 else COMMANDS["MOTION:STATE?"](board, session, unit)

            odd = dict.fromkeys(spellings("MOTion:STATe?"), state)
            kept = dict(COMMANDS)
            with mock.patch("kivant.board.standin.dialogue.COMMANDS", kept | odd), BoardServer() as server:
                work = self.fails_with(server.address, "which is not a valid answer")
            self.assertIn(answer.removeprefix("MOVE,")[:40], work.status.message)

    def test_a_board_that_never_stops_or_never_ends_its_answer_holds_nobody(self):
        """Stopped once or twice, the run ends and says what is not known; so does one whose board drips bytes."""
        moving = dict.fromkeys(spellings("MOTion:STATe?"), lambda *_: "MOVE,1,1,500,0")
        for stops in (1, 2):
            with (
                mock.patch("kivant.board.standin.dialogue.COMMANDS", COMMANDS | moving),
                mock.patch.multiple("kivant.app.running.streamer", STOPPING_S=0.3, POWER_OFF_S=0.1),
                BoardServer() as server,
            ):
                work = run_of(self.MADE, server.address)
                thread = threading.Thread(target=work.execute)
                thread.start()
                wait_until(lambda w=work: w.status.phase == "moving")
                for _ in range(stops):
                    work.stop()
                thread.join(8)
            status = work.status
            self.assertRegex(status.message, "still reports motion.*unknown. Switch off its power")
            self.assertEqual((status.phase, status.power), ("failed", stops == 1))

        def drip(connection: socket.socket) -> None:
            while not threading.Event().wait(0.01):
                connection.sendall(b"1")

        with mock.patch("kivant.board.protocol.link._ANSWER_S", 0.3):
            self.fails_with(self.board(drip), "did not answer.*keeps sending bytes")

    def test_what_was_stopped_before_it_began_does_not_move(self):
        for stops, power in ((1, True), (2, False)):
            work = run_of(self.MADE)
            for _ in range(stops):
                work.stop()
            status = work.execute()
            self.assertEqual(
                (status.phase, status.elapsed_s, status.counts[0], status.power), ("stopped", 0.0, 0, power)
            )
            self.assertNotIn((">", "INITiate"), work.log.lines)

    def test_why_spans_are_refused_is_quoted(self):
        slow = machine(screw_axis(limits=limits(40.0, 1e3, 0.5)), blocks=(move(to={"Lift": "9e4"}),))
        with mock.patch("kivant.board.transport.tcp.ANSWER_S", 0.3):
            status = run_of(plan(slow)).execute()
        self.assertRegex(status.message, r"The board refused the motion: .*able to stop within 60 s \(-222\)")

    def test_an_accident_ends_a_run(self):
        with mock.patch.object(PlanSource, "accept", side_effect=ZeroDivisionError):
            work = run_of(self.MADE)
            with self.assertRaises(ZeroDivisionError):
                work.execute()
        self.assertEqual((work.status.phase, work.status.over), ("failed", True))

    def test_silent(self):
        self.fails_with(self.board(lambda c: (c.recv(100), c.recv(100))), r"did not answer “\*IDN\?”")

    def test_gone_at_once_and_gone_while_moving(self):
        self.fails_with(self.board(lambda c: None), "has disconnected")
        server = BoardServer().start()
        work = run_of(self.MADE, server.address)
        thread = threading.Thread(target=work.execute)
        thread.start()
        wait_until(lambda: work.status.elapsed_s >= 0.2)
        server.close()
        thread.join(8)
        self.assertEqual(work.status.phase, "failed")
        self.assertRegex(work.status.message, "has disconnected|did not answer")
        self.assertGreater(work.status.counts[0], 0, "what was counted until then is kept")

    def test_a_board_that_plays_other_records_is_refused(self):
        """One of today that offers another version, and one that has never heard of the question."""
        for header, words in (("MOTion:RECords?", r"motion records of version 1, 3; Kivant sends version 2\. Use firmware"),
                              (None, "The board plays older motion records")):  # fmt: skip
            older = {spelling: (lambda *_: "1,3") for spelling in spellings("MOTion:RECords?") if header}
            kept = {s: command for s, command in COMMANDS.items() if s not in spellings("MOTion:RECords?")}
            with mock.patch.dict(COMMANDS, kept | older, clear=True), BoardServer() as server:
                work = self.fails_with(server.address, words)
                self.assertNotIn((">", "OUTPut ON"), work.log.lines)

    def test_a_board_that_lacks_something_is_quoted(self):
        """The stand-in takes 64 axes and tick rates from 1 kHz: beyond, its own words are shown."""
        with BoardServer() as server:
            made = replace(
                self.MADE,
                machine=replace(self.MADE.machine, board=replace(self.MADE.machine.board, tick_hz=10)),
            )
            status = run_of(made, server.address).execute()
        self.assertRegex(status.message, r"The board refused the machine: Data out of range;10 \(-222\)")

    def test_what_a_board_says_is_no_command_to_a_terminal(self):
        said = dict.fromkeys(
            spellings("SYSTem:ERRor?"), lambda *_: '-200,"' + "\x1b[2J\x07red\x1b[0m" + "long " * 99 + '"'
        )
        with mock.patch("kivant.board.standin.dialogue.COMMANDS", COMMANDS | said), BoardServer() as server:
            message = self.fails_with(server.address, r"refused the machine: ␛\[2J␇red␛\[0mlong").status.message
        self.assertTrue(message.isprintable())
        self.assertLess(len(message), 400)

    def test_addresses(self):
        self.assertEqual(parse_address(" [::1]:5025 "), ("::1", 5025))
        for text in ("", "host", "host:", "host:0", "host:70000", "a b:5", ":5", "1:2:3", "x" * 500):
            with self.assertRaisesRegex(BoardError, "is not an address of a board. Write host:port"):
                check_address(text)


class SilentHosts(unittest.TestCase):
    def test_a_host_that_falls_silent_is_braked_for(self):
        """The program that runs a plan is stopped dead in the middle: the board brakes by itself, keeps its count
        and its power, and serves the next run."""
        with BoardServer() as server:
            slow = screw_axis(limits=limits(40.0, 80.0))
            work = run_of(plan(machine(slow, blocks=(move(to={"Lift": "400"}),))), server.address, watchdog_s=0.3)
            frozen = threading.Event()

            class Hanging(Log):
                def add(self, way: str, text: str) -> None:  # as if the process were stopped: nothing is said any more
                    if text == "MOTion:STATe?" and work.status.elapsed_s > 0.6 and not frozen.is_set():
                        frozen.set()
                        wait_until(lambda: server.board.player.state == "STOP")
                    super().add(way, text)

            work.log = Hanging()
            status = work.execute()
            self.assertTrue(frozen.is_set())
            self.assertEqual(status.phase, "failed")
            self.assertRegex(status.message, "stopped by itself: Time out error")
            stopped = server.board.player.now()[0]
            self.assertGreater(stopped, 0)
            self.assertTrue(server.board.powered)
            again = run_of(plan(machine(slow, blocks=(move(to={"Lift": "1"}),))), server.address).execute()
            self.assertTrue(again.agrees, again)
