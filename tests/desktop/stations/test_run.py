"""The Run station: axes moved by hand."""

from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from kivant.app.document.document import Document
from kivant.app.running.manual_move import ManualMove
from kivant.board.protocol.syntax import spellings
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.server import BoardServer
from kivant.core.machine import Move
from kivant.desktop.kit import figures
from tests.desktop.painted import Painted
from tests.desktop.stations.base import RUN, StationTest
from tests.machines import limits, machine, move, screw_axis


class Stopped(StationTest):
    def test_a_run_that_was_stopped_goes_on_to_its_end(self):
        """Stopped in its first move, stopped again on the way on, and then left to arrive where the routine ends."""
        blocks = (move(to={"Lift": "18.0003"}), move(by={"Lift": "-5.1"}))
        document = Document(machine(screw_axis(limits=limits(20.0, 100.0)), blocks=blocks))
        window, run = self.station(RUN, document=document)
        running, go_on = window.session.running, run.head.go_on
        self.assertFalse(go_on.isVisible())
        run.head.go.click()
        for least in (0.25, 0.1):
            self.wait(lambda least=least: running.status.elapsed_s > least)
            window.escape()
            self.wait(lambda: not running.active)
            self.assertEqual((running.status.phase, running.status.power), ("stopped", True))
            self.assertTrue(go_on.isVisible())
            self.assertLess(running.status.counts[0], 3600)
            QTest.keyClick(
                window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
            )
            self.assertTrue(running.active)
            self.wait(lambda: bool(running.status.counts))
            self.assertIn("counted, going on", run.panels[0].words()[0])
        self.wait(lambda: not running.active)
        self.assertEqual((running.status.phase, running.status.counts), ("done", (2580,)))
        self.assertEqual(str(running.standing.places["Lift"]), "12.9003")
        self.assertFalse(go_on.isVisible())
        self.assertFalse(running.go_on())


class Hostile(StationTest):
    def test_a_run_is_given_up_on_a_board_that_does_not_obey(self):
        """It says for ever that it moves: stop, cut the power, give up; then the machine runs on another board."""
        moving = dict.fromkeys(spellings("MOTion:STATe?"), lambda *_: "MOVE,1,1,500,0")
        document = Document(machine(screw_axis(limits=limits(20.0, 100.0)), blocks=(move(to={"Lift": "1"}),)))
        window, run = self.station(RUN, document=document)
        running, stop = window.session.running, window.bar.stop
        with mock.patch("kivant.board.standin.dialogue.COMMANDS", COMMANDS | moving), BoardServer() as server:
            running.set_address(server.address)
            run.head.go.click()
            self.wait(lambda: running.status.phase == "moving")
            for text in ("Stop", "Cut power"):
                self.wait(lambda text=text: stop.text() == text)
                stop.click()
            stop.click()
            self.assertTrue(running.active, "the board has its time to obey")
            with mock.patch("kivant.app.running.stops.OBEYING_S", 0.0):
                self.wait(lambda: stop.text() == "Give up")
                stop.click()
            self.assertFalse(running.active)
            self.assertIn("given up", window.notice.text.text())
            self.assertEqual(running.status.phase, "failed")
        running.set_address("")
        run.head.go.click()
        self.wait(lambda: not running.active)
        self.assertEqual((running.status.phase, running.status.counts), ("done", (200,)))


class ByHand(StationTest):
    def setUp(self) -> None:
        super().setUp()
        # A computer that runs tests may stall for longer than the board is kept ahead, which would brake by itself.
        patch = mock.patch.object(ManualMove.__init__, "__defaults__", (1.0,))
        patch.start()
        self.addCleanup(patch.stop)

    def test_the_spring_moves_the_axis_while_it_is_pulled(self):
        """Faster the further; let go it brakes; then composed moves begin where it stands; one step is one step."""
        window, run = self.station(RUN, axis=1)
        session, spring = window.session, run.board.by_hand.spring
        far = QPoint(spring.width() - 12, 13)
        QTest.mousePress(spring, Qt.MouseButton.LeftButton, pos=far)
        self.wait(lambda: session.running.status.counts and session.running.status.counts[1] > 400)
        self.assertGreater(spring.speed(), 30.0)
        self.assertIn("by hand", run.panels[1].words()[0])
        self.assertGreater(session.instant.position_of(1), 1.0)
        with Painted() as painted:
            window.grab()
        counted = f"step {figures.grouped(session.running.status.counts[1])} counted, moved by hand"
        self.assertIn(counted, painted.texts)
        self.assertIn("While an axis is moved by hand, its lines are not planned.", painted.texts)
        self.assertEqual(session.instant.steps_moved, session.running.status.counts[1])
        QTest.mouseRelease(spring, Qt.MouseButton.LeftButton, pos=far)
        self.wait(lambda: not session.running.active and bool(session.running.standing.places))
        place, result = session.running.standing.places["Lift"], session.running.status.results[1]
        self.assertEqual(result.planned_steps, result.board_steps)
        self.assertEqual(float(place), result.board_steps / 200)
        run.board.by_hand.on.click()
        self.wait(lambda: not session.running.active and session.running.standing.places["Lift"] != place)
        self.assertAlmostEqual(float(session.running.standing.places["Lift"] - place), 0.005)
        session.choice.choose_routine(None)
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(session.planning.plan.axes[1].start_steps, result.board_steps + 1)

    def test_what_is_pulled_is_recorded_thinned_replayed_at_any_speed_and_undone(self):
        window, run = self.station(RUN, axis=1)
        session, spring, row = window.session, run.board.by_hand.spring, run.board.recording
        routines = session.document.machine.routines
        row.switch.click()
        row.switch.click()
        self.assertIn("Nothing was recorded", window.notice.text.text())
        row.switch.click()
        self.assertTrue(row.within.isVisible())
        for text, wrong in (("fast", True), ("0", True), ("1e9", True), ("0.05", False)):
            row.within.setText(text)
            self.assertEqual(row.within.commit(), not wrong, text)
        ends = []
        for way, count in ((1.0, 400), (-0.5, -100)):  # there, and a part of the way back
            begin = session.running.standing.places.get("Lift", 0)
            spring.pull_to(way)
            self.assertFalse(row.switch.isEnabled())
            moved = lambda w=way, c=count, b=begin: (  # noqa: E731
                bool(session.running.status.counts) and (session.running.status.counts[1] - float(b) * 200 - c) * w > 0
            )
            self.wait(moved)
            spring.let_go()
            self.wait(lambda: not session.running.active)
            ends.append(session.running.standing.places["Lift"])
        row.switch.click()
        self.settle(window)
        routine = session.document.machine.routines[-1]
        self.assertEqual((session.choice.routine_name, routine.name), ("Recorded path", "Recorded path"))
        moves = [block for block in routine.blocks if isinstance(block, Move)]
        self.assertEqual([move.to for move in moves], [{"Lift": end} for end in ends])
        self.assertGreater(session.planning.plan.duration, 0.2)
        self.assertEqual(len(set(ends)), 2)
        window.show_station("routine")
        session.bench.undo()
        self.assertEqual(session.document.machine.routines, routines)

    def test_it_brakes_when_the_window_is_hidden_or_stopped(self):
        for end in ("hide", "escape", "other station"):
            window, run = self.station(RUN, axis=1)
            spring = run.board.by_hand.spring
            spring.setFocus()
            QTest.keyPress(spring, Qt.Key.Key_Plus)
            self.wait(lambda s=window.session: s.running.status.counts and s.running.status.counts[1] > 100)
            {"hide": window.hide, "escape": window.escape, "other station": lambda w=window: w.show_station("phases")}[
                end
            ]()
            self.wait(lambda s=window.session: not s.running.active)
            status = window.session.running.status
            self.assertIn(status.phase, ("done", "stopped"), f"{end}: {status.message}")
            self.wait(lambda s=spring: s.share == 0.0)

    def test_a_machine_with_shared_lines_or_a_wrong_address_is_not_moved(self):
        window, run = self.station(RUN, document=Document(machine(screw_axis(), screw_axis("Reach", 0))))
        spring = run.board.by_hand.spring
        spring.pull_to(1.0)
        self.assertFalse(window.session.running.active)
        self.assertIn("uses line P0", window.notice.text.text())
        window, run = self.station(RUN)
        self.type(run.board.address, "nowhere")
        run.board.by_hand.spring.pull_to(1.0)
        run.board.by_hand.on.click()
        self.assertFalse(window.session.running.active)
