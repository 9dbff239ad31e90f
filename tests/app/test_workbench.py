"""The workbench without a window: what is open, chosen, planned, looked at and run, and who is told."""

import threading
import unittest
from collections.abc import Callable
from decimal import Decimal
from fractions import Fraction
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.document import Document
from kivant.app.document.examples import FEEDER_CAROUSEL, SEEDLING_SETTER, load_example
from kivant.app.workbench import Workbench
from kivant.core.errors import KivantError
from kivant.core.machine import Machine, Move
from kivant.core.machine.axes import delete_axis
from kivant.core.machine.edits import typed
from kivant.core.machine.parts import Calibration
from kivant.core.motion.lines.limits import line_limits
from kivant.core.path import axis_path
from kivant.core.program.editing import remove_blocks
from tests.machines import machine, move, screw_axis


def _for_ever(_machine, _commanded, checkpoint):
    while True:
        checkpoint()


class BenchTest(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = Workbench(Document(load_example()))
        self.addCleanup(self.bench.close)
        self.told: list[str] = []
        bench = self.bench
        for name, event in (
            ("machine", bench.machine_changed), ("plan", bench.planning.changed), ("axis", bench.choice.axis_changed),
            ("playhead", bench.playhead.moved), ("run", bench.running.turned), ("trial", bench.trials.changed),
        ):  # fmt: skip
            event.connect(lambda name=name: self.told.append(name))
        self.until(lambda: not bench.planning.busy)

    def until(self, so: Callable[[], bool], seconds: float = 30.0) -> None:
        pause = threading.Event()
        for _ in range(int(seconds / 0.005)):
            if so():
                return
            pause.wait(0.005)
        self.fail("waited in vain")


class Machines(BenchTest):
    def test_an_edit_is_told_planned_and_undone(self):
        bench = self.bench
        before = bench.planning.duration_s
        self.told.clear()
        bench.edit(typed(axis_path(0, "limits", "speed"), "5rpm"), "speed of Wheel")
        self.until(lambda: not bench.planning.busy)
        self.assertEqual([name for name in self.told if name != "playhead"], ["machine", "plan"])
        self.assertGreater(bench.planning.duration_s, before)
        with self.assertRaisesRegex(KivantError, "above 0"):
            bench.edit(typed(axis_path(0, "limits", "speed"), "-1"), "speed of Wheel")
        bench.undo()
        self.until(lambda: not bench.planning.busy)
        self.assertEqual((bench.planning.duration_s, bench.document.modified), (before, False))
        bench.choice.select(3)
        bench.edit(delete_axis(3), "delete Tilt")
        self.assertEqual(bench.choice.axis.name, "Reach")

    def test_nothing_typed_for_one_machine_is_kept_for_another(self):
        bench = self.bench
        disc = load_example(FEEDER_CAROUSEL)
        bench.choice.choose_routine(None)
        bench.set_target("Wheel", "90")
        bench.trials.set_distance(bench.machine.axes[0], "5deg")
        bench.trials.wish(bench.machine, 0)
        self.until(lambda: not bench.trials.busy)
        self.assertAlmostEqual(float(bench.trials.move.distance), 5.0)
        bench.running.standing.places["Wheel"] = Decimal(3)
        bench.open(Document(disc))
        self.assertEqual(
            (bench.choice.own_move.texts, bench.running.standing.places, bench.trials.move), ({}, {}, None)
        )
        bench.open(Document(load_example()))
        self.assertEqual(bench.trials.distance(bench.machine.axes[0]), 90)

    def test_a_trial_move_is_made_once_for_one_axis(self):
        """Asking again for the same, or after an edit of another axis, makes none; one of its own does."""
        bench = self.bench
        bench.trials.wish(bench.machine, 0)
        self.until(lambda: not bench.trials.busy)
        first = bench.trials.move
        bench.edit(typed(axis_path(1, "limits", "speed"), "30"), "speed of Lift")
        for _ in range(3):
            bench.trials.wish(bench.machine, 0)
        self.assertFalse(bench.trials.busy)
        bench.edit(typed(axis_path(0, "limits", "speed"), "30"), "speed of Wheel")
        bench.trials.wish(bench.machine, 0)
        self.until(lambda: not bench.trials.busy)
        self.assertIsNot(bench.trials.move, first)
        self.assertAlmostEqual(bench.trials.move.axis.peak_speed, 30.0)


class Findings(BenchTest):
    def test_findings_of_what_was_undone_are_not_taken(self):
        """Edited and undone at once, many times: what is found in the end is of the machine that is open."""
        bench = self.bench
        first = bench.planning.findings
        far = typed(axis_path(1, "limits", "max"), "10")
        for _ in range(25):
            bench.edit(far, "greatest position")
            bench.undo()
        self.until(lambda: not bench.planning.busy and bench.planning.checked(bench.machine))
        self.assertEqual([f.code for f in bench.planning.findings], [f.code for f in first])
        bench.edit(far, "greatest position")
        self.until(lambda: bench.planning.checked(bench.machine))
        self.assertIn("outside-limits", [f.code for f in bench.planning.findings])

    def test_a_plan_comes_first_and_runs_when_its_findings_are_known(self):
        bench, seen = self.bench, list[object]()
        bench.planning.changed.connect(
            lambda: seen.append((bench.planning.checked(bench.machine), bench.running.start()))
        )
        bench.planning.settled.connect(
            lambda: seen.append((bench.planning.checked(bench.machine), bench.running.obstacle))
        )
        bench.edit(typed(axis_path(0, "limits", "speed"), "30"), "speed")
        self.until(lambda: len(seen) == 2)
        self.assertEqual(seen, [(False, False), (True, "")])

    def test_a_short_plan_is_caught_up_with(self):
        posted: list[Callable[[], None]] = []
        with mock.patch("kivant.app.planning.planning.MOMENT_S", 30.0):
            bench = Workbench(Document(load_example()), posted.append)
            self.addCleanup(bench.close)

            def settled() -> bool:
                while posted:
                    posted.pop(0)()
                return not bench.planning.busy

            self.until(settled)
            planned: list[Machine] = []
            bench.planning.changed.connect(lambda: planned.append(bench.planning.plan.machine))
            bench.edit(typed(axis_path(0, "limits", "speed"), "5rpm"), "speed of Wheel")
            self.assertEqual(planned, [])
            bench.planning.catch_up()
            self.assertEqual(planned, [bench.machine])
            bench.undo()
            with bench.calm.hurrying():  # it is not worked out meanwhile
                bench.planning.catch_up()
            self.until(settled)
            self.assertEqual(planned[1:], [bench.machine])

    def test_what_holds_the_plan_back_is_looked_for_while_somebody_looks(self):
        bench = self.bench
        self.assertIsNone(bench.holding.greatest)
        bench.holding.switch(True)
        self.until(lambda: bench.holding.greatest is not None)
        most = bench.holding.greatest
        self.assertEqual((most.axis, most.limit), (0, "speed"))
        self.assertAlmostEqual(most.saved_s, 8.88, delta=0.01)
        bench.edit(typed(axis_path(0, "limits", "speed"), "30"), "speed")
        self.assertIsNone(bench.holding.greatest if bench.planning.plan is None else None)
        self.until(lambda: bench.holding.greatest is not None and bench.holding.greatest.saved_s > 20)
        bench.holding.switch(False)
        bench.edit(typed(axis_path(0, "limits", "speed"), "40"), "speed")
        self.until(lambda: not bench.planning.busy)
        self.assertIsNone(bench.holding.greatest)

    def test_what_holds_lines_back_is_looked_for_once(self):
        """The findings look at what the plan's blocks have shown."""
        bench, arm = self.bench, load_example(SEEDLING_SETTER)
        goes = [Move(tool={"x": Decimal(x), "y": Decimal(-40)}, straight=True) for x in (150, 160, 145)]
        blocks = (Move(pose="Rest"), Move(tool=goes[0].tool), *goes[1:])
        arm = replace(arm, routines=(replace(arm.routines[0], blocks=blocks),))
        bench.holding.switch(True)
        with mock.patch("kivant.core.program.held_lines.line_limits", side_effect=line_limits) as looked:
            bench.open(Document(arm))
            self.until(lambda: not bench.planning.busy and bench.holding.of(2) is not None)
            self.assertEqual(looked.call_count, 2)
            self.assertIsNotNone(bench.holding.of(3).limit)

    def test_nothing_waits_for_what_holds_back_a_plan_that_is_not_looked_at(self):
        bench, begun = self.bench, threading.Event()
        with mock.patch("kivant.app.planning.holding.held_back", lambda *given: (begun.set(), _for_ever(*given))):
            bench.holding.switch(True)
            self.assertTrue(begun.wait(10))
            plan = bench.planning.plan
            bench.edit(typed(axis_path(0, "limits", "speed"), "30"), "speed")
            self.until(lambda: bench.planning.plan not in (plan, None))
            self.assertTrue(bench.planning.busy, "its findings are not known yet")
            bench.holding.switch(False)
            self.until(lambda: not bench.planning.busy)

    def test_what_held_back_the_plan_before_is_told_until_it_is_known_anew(self):
        bench, holding = self.bench, self.bench.holding
        for what, edit, alike in (
            ("a limit", typed(axis_path(0, "limits", "speed"), "30"), True),
            ("an axis less", delete_axis(3), False),
            ("a block less", remove_blocks(0, ((1,),)), False),
        ):
            with self.subTest(what):
                holding.switch(True)
                self.until(lambda: holding.plan is bench.planning.plan is not None)
                before = holding.plan
                with mock.patch("kivant.app.planning.holding.held_back", _for_ever):
                    bench.edit(edit, what)
                    self.until(lambda before=before: bench.planning.plan not in (before, None))
                    self.assertEqual((holding.plan is before, holding.greatest is not None), (alike, alike))
                    holding.switch(False)
                self.assertIsNone(holding.plan)
                self.until(lambda: not bench.planning.busy)
                bench.undo()
                self.until(lambda: not bench.planning.busy)


class InternalErrors(BenchTest):
    def test_nothing_is_waited_for_that_ended_by_an_error(self):
        """What cannot be worked out says so where it is waited for; the next change brings all of it."""
        bench, planning = self.bench, self.bench.planning
        bench.following.switch(True)
        bench.holding.switch(True)
        self.until(lambda: not bench.following.busy and bench.holding.greatest is not None)
        speed = 30.0
        for broken, told in (
            ("kivant.app.planning.planning.plan", lambda: [planning.error]),
            ("kivant.app.planning.trials.trial_move", lambda: [bench.trials.error]),
            ("kivant.core.findings.checks.machine_findings", lambda: planning.findings),
            ("kivant.core.findings.checks.simulated_findings", lambda: planning.findings),
            ("kivant.core.motor.following.follow", lambda: [bench.following.why_not(3)]),
            ("kivant.app.planning.holding.held_back", lambda: ["" if bench.holding.greatest else "Internal error"]),
        ):
            with self.subTest(broken=broken):
                with mock.patch(broken, side_effect=ZeroDivisionError), mock.patch("threading.excepthook"):
                    speed += 1.0
                    bench.edit(typed(axis_path(0, "limits", "speed"), str(speed)), "speed")
                    bench.trials.wish(bench.machine, 0)
                    self.until(lambda told=told: any("Internal error" in str(one) for one in told()))
                    self.until(lambda: not (planning.busy or bench.trials.busy or bench.following.busy))
                bench.edit(typed(axis_path(0, "limits", "speed"), str(speed + 0.5)), "speed")
                bench.trials.wish(bench.machine, 0)
                self.until(lambda told=told: not any("Internal error" in str(one) for one in told()))
                self.until(lambda: not planning.busy)
        unfinished = [finding for finding in planning.findings if finding.code == "checks-unfinished"]
        self.assertEqual((unfinished, bench.running.obstacle), ([], ""))


class Moves(BenchTest):
    def test_the_playhead_goes_by_steps_plays_and_pauses(self):
        bench, playhead = self.bench, self.bench.playhead
        bench.choice.select(1)
        bench.step(1)
        self.assertEqual((playhead.time_s, bench.instant.steps), (bench.planning.plan.axes[1].instants[0], 1))
        bench.toggle_play()
        playhead.set_rate(0.1)
        playhead.advance(2.0)
        self.assertAlmostEqual(playhead.time_s, bench.planning.plan.axes[1].instants[0] + 0.2)
        playhead.advance(1e6)
        self.assertEqual((playhead.playing, playhead.time_s), (False, bench.planning.duration_s))

    def test_a_run_is_looked_at_and_what_is_counted_stays(self):
        """Edits wait until it is over; afterwards a move of one's own begins where the axes stand."""
        bench, running = self.bench, self.bench.running
        bench.open(Document(load_example(FEEDER_CAROUSEL)))
        self.until(lambda: not bench.planning.busy)
        self.assertTrue(running.start())
        with self.assertRaisesRegex(KivantError, "Stop them before"):
            bench.edit(typed(axis_path(0, "limits", "speed"), "30"), "speed")

        def over() -> bool:
            running.look()
            return not running.active

        self.until(over)
        self.assertEqual((running.status.agrees, running.standing.places), (True, {"Disc": Decimal(30)}))
        self.assertIn("Disc stands at 30 deg, but this routine begins at 0 deg", bench.start.mismatch)
        self.assertTrue(bench.start.go())
        self.until(over)
        self.assertEqual((running.standing.places, bench.start.mismatch, bench.start.away), ({"Disc": 0}, "", {}))
        self.assertFalse(bench.start.go(), "it stands there")
        running.go_to({"Disc": Decimal(30)})
        self.until(over)
        bench.choice.choose_routine(None)
        bench.set_target("Disc", "45")
        self.until(lambda: not bench.planning.busy)
        self.assertEqual(bench.planning.plan.axes[0].start_steps, 100)
        running.nudge(1)
        self.until(over)
        self.assertEqual(running.status.counts, (101,))
        self.assertIsNot(running.plan, bench.planning.plan)

    def test_an_axis_with_play_comes_to_the_start_from_its_side(self):
        loose = replace(screw_axis(), calibration=Calibration(backlash=0.5))
        bench, running = self.bench, self.bench.running
        bench.open(Document(machine(loose, blocks=(move(to={"Lift": "4"}), move(to={"Lift": "3"})))))

        def over() -> bool:
            running.look()
            return not running.active

        self.until(lambda: bool(running.start()))
        self.until(over)
        for place, said in ((3, "Lift stands at 3 mm"), (0, "Lift came from the other side")):
            self.assertEqual((running.standing.places, running.standing.senses), ({"Lift": place}, {"Lift": -1}))
            self.assertIn(said, bench.start.mismatch)
            bench.choice.choose_routine(None)
            self.assertEqual((bench.start.mismatch, bench.start.go()), ("", False), "it begins where the axes stand")
            bench.choice.choose_routine(bench.machine.routines[0].name)
            self.until(lambda: not bench.planning.busy)
            if place:
                running.go_to({"Lift": Decimal(0)})
                self.until(over)
        self.assertTrue(bench.start.go())
        self.until(over)
        self.assertEqual((running.standing.places, running.standing.senses), ({"Lift": 0}, {"Lift": 1}))
        self.assertEqual((bench.start.mismatch, bench.start.away), ("", {}))
        # Pulled back by less than the play: the motor moves, and the tool does not.
        self.until(running.start_manual_move)
        running.pull(-0.02)
        self.until(lambda: over() or (bench.instant.counted or (0,))[0] <= -20)
        self.assertEqual(bench.instant.position_of(0), 0.0)
        running.release()
        self.until(over)
        self.assertEqual(running.standing.places, {"Lift": 0})
        self.assertTrue(-1 < running.standing.senses["Lift"] <= Fraction(3, 5))
        self.assertIn("Lift came from the other side", bench.start.mismatch)

    def test_a_run_that_is_stopped_while_play_is_taken_up_goes_on(self):
        loose = replace(screw_axis(), calibration=Calibration(backlash=4.0))
        bench, running = self.bench, self.bench.running
        bench.open(Document(machine(loose, blocks=(move(to={"Lift": "4"}), move(to={"Lift": "3"})))))
        self.until(lambda: bench.planning.plan is not None and not bench.planning.busy)
        lift = bench.planning.plan.axes[0]

        def over() -> bool:
            running.look()
            return not running.active

        self.until(lambda: bool(running.start()))
        self.until(lambda: over() or running.status.elapsed_s > lift.taken.begin_s[0] + 0.02)
        running.stop()
        self.until(over)
        sense = running.standing.senses["Lift"]
        self.assertTrue(-1 < sense < 1, sense)
        self.assertEqual(float(running.standing.places["Lift"]), 4.0, "the tool stands")
        self.assertTrue(running.go_on())
        self.until(over)
        self.assertTrue(running.status.agrees)
        self.assertEqual(running.status.counts, (lift.final_steps,))
        self.assertEqual((running.standing.places, running.standing.senses), ({"Lift": 3}, {"Lift": -1}))

    def test_a_move_of_ones_own_is_kept_as_a_routine(self):
        bench = self.bench
        said = []
        bench.noticed.connect(said.append)
        bench.choice.choose_routine(None)
        bench.set_target("Lift", "1in")
        bench.set_target("Lift", "1 apple")
        bench.keep_move()
        self.assertEqual(bench.machine.routines[-1].blocks, (move(to={"Lift": "25.4"}),))
        self.assertEqual((bench.choice.routine_name, len(said)), ("Lift", 1))
        bench.undo()
        self.assertEqual(bench.choice.routine_name, "Home")  # the one beside it
