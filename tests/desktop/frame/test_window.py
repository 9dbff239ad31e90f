"""The window, driven with mouse and keyboard."""

import json
import re
import time
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from kivant.app.document.document import Document
from kivant.app.document.examples import EXAMPLES, FEEDER_CAROUSEL, load_example
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.server import BoardServer
from kivant.core.machine import Machine, Routine
from kivant.core.machine.edits import set_notes
from kivant.desktop.stations import STATIONS
from kivant.desktop.widgets.value_field import ValueField
from kivant.files import project
from tests.desktop.base import WindowTest
from tests.machines import coil_axis, machine, move, pair_axis, screw_axis


class Composing(WindowTest):
    def test_typed_targets_make_one_coordinated_move(self):
        """Angles and distances in any unit; the plan, its figures and the curves follow."""
        window = self.open()
        session, station = window.session, window.run_page
        self.press(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
        self.type(station.panels[0].field, "0.5rev")
        self.type(station.panels[1].field, "1in")
        self.wait(lambda: not session.planning.busy and len(session.planning.plan.blocks) == 1)
        self.assertEqual(session.planning.plan.axis("Wheel").final_steps, 1461)
        self.assertEqual(session.planning.plan.axis("Lift").final_steps, 5080)
        self.assertIn("2 axes, 1 block, 3.501000 s", station.head.sentence.text())
        session.playhead.go(99.0)
        self.assertEqual(
            station.panels[0].words()[0],
            "1 461 steps, exactly 1 460.945".replace(" ", "\u2009")
            .replace("\u2009steps", " steps")
            .replace("\u2009exactly\u2009", " exactly "),
        )
        self.assertTrue(station.head.go.isEnabled())

    def test_nonsense_is_explained_and_not_taken(self):
        """Whatever is typed, the plan stays, the reason stands beside the field, and Esc brings the old text back."""
        window = self.open()
        session, station = window.session, window.run_page
        session.choice.choose_routine(None)
        field = station.panels[1].field
        self.type(field, "25")
        self.wait(lambda: not session.planning.busy and bool(session.planning.plan.blocks))
        made = session.planning.plan
        for text in ("abc", "1e400", "12deg", "--5", "9" * 300, "1,5", "nan"):
            self.type(field, text)
            self.assertEqual(field.property("wrong"), True, text)
            self.assertIn("Type a number and a unit: mm, cm, in, steps", station.panels[1].words()[0])
            self.assertIn("Lift:", station.head.sentence.text())
            self.assertFalse(station.head.go.isEnabled())
            self.assertIs(session.planning.plan, made)
            field.setFocus()
            QTest.keyClick(field, Qt.Key.Key_Escape)
            self.assertEqual((field.text(), field.property("wrong")), ("25", False))
        self.type(field, "400")
        self.wait(lambda: session.planning.error is not None)
        self.assertIn("beyond its max of 180", station.panels[1].words()[0])
        self.type(field, "30")
        self.wait(lambda: session.planning.error is None and not session.planning.busy)
        self.assertTrue(station.head.go.isEnabled())

    def test_a_move_is_kept_undone_saved_and_opened_again(self):
        window = self.open()
        session = window.session
        session.choice.choose_routine(None)
        self.type(window.run_page.panels[1].field, "12.5mm")
        window.run_page.head.keep.click()
        self.wait(lambda: not session.planning.busy)
        self.assertEqual((session.choice.routine_name, session.document.machine.routines[-1].name), ("Lift", "Lift"))
        window.head.menu.aboutToShow.emit()
        self.assertIn("Undo: new routine “Lift”", window.actions_by_name["undo"].text())
        self.assertTrue(window.isWindowModified())
        self.press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(len(session.document.machine.routines), 5)
        self.press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        path = self.folder / "mine.kivant"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path.with_suffix("")), "")):
            self.press(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
        self.assertFalse(window.isWindowModified())
        self.assertEqual(project.load(path).routines[-1].name, "Lift")
        other = self.open(Document(load_example(FEEDER_CAROUSEL)))
        self.assertTrue(other.open_path(path))
        self.wait(lambda: not other.session.planning.busy)
        self.assertEqual([other.run_page.head.choice.itemText(k) for k in (0, 6)], ["A move of your own", "Lift"])


class Playhead(WindowTest):
    def test_keys_and_mouse_move_it(self):
        """Right and Left go by exactly one step of the selected axis; a click on the lanes goes there."""
        window = self.open()
        session, lanes = window.session, window.run_page.lanes
        lift = session.planning.plan.axis("Lift")
        self.click(window.rail.cards[1], 80, 20)
        self.assertEqual(session.choice.index, 1)
        for k in range(3):
            self.press(window, Qt.Key.Key_Right)
            self.assertEqual(session.playhead.time_s, lift.instants[k])
        self.press(window, Qt.Key.Key_Left)
        self.assertEqual((session.playhead.time_s, lift.train.taken(session.playhead.time_s)), (lift.instants[1], 2))
        left, per_second = lanes.span()
        self.click(lanes, left + 5.0 * per_second, 80)
        self.assertAlmostEqual(session.playhead.time_s, 5.0, delta=1 / per_second)
        self.click(window.bar.track, window.bar.track.width() + 500, 10)
        self.press(window, Qt.Key.Key_End)
        self.assertEqual(session.playhead.time_s, session.planning.duration_s)
        self.press(window, Qt.Key.Key_Right)
        self.press(window, Qt.Key.Key_Home)
        self.press(window, Qt.Key.Key_Left)
        self.assertEqual(session.playhead.time_s, 0.0)

    def test_it_plays_in_slow_motion_and_pauses(self):
        window = self.open()
        session = window.session
        for expected in (0.1, 0.01, 0.001, 1.0, 0.1):
            window.bar.rate.click()
            self.assertEqual(session.playhead.rate, expected)
        self.press(window, Qt.Key.Key_Space)
        begin = time.monotonic()
        self.wait(lambda: session.playhead.time_s > 0.03)
        took = time.monotonic() - begin
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(session.playhead.playing)
        self.assertLess(session.playhead.time_s / took, 0.2, "a tenth of real time")

    def test_it_plays_in_a_loop(self):
        window = self.open(Document(load_example(FEEDER_CAROUSEL)))
        session = window.session
        window.bar.loop.click()
        self.press(window, Qt.Key.Key_Space)
        places = []
        self.wait(
            lambda: (
                places.append(session.playhead.time_s) or any(b < a for a, b in zip(places, places[1:], strict=False))
            )
        )
        self.assertTrue(session.playhead.playing)
        window.bar.loop.click()
        self.wait(lambda: not session.playhead.playing)
        self.assertEqual(session.playhead.time_s, session.planning.duration_s)

    def test_the_close_up_shows_row_and_words_of_the_instant(self):
        window = self.open(Document(load_example(FEEDER_CAROUSEL)))
        session, detail = window.session, window.run_page.detail
        for k in range(10):
            session.bench.step(1)
            window.grab()
            self.assertIn(f"step {k + 1},", detail.heading())
            row = (k + 1) % 8
            self.assertTrue(detail.toolTip().startswith(f"Row {row} of 8: word {(1, 3, 2, 6, 4, 12, 8, 9)[row]:04b}"))


class Running(WindowTest):
    def test_a_run_is_followed_to_its_end_and_compared(self):
        """Commanded and counted positions live; at the end each axis says as planned; the next move starts there."""
        window = self.open(Document(load_example(FEEDER_CAROUSEL)))
        session = window.session
        QTest.mouseClick(window.run_page.head.go, Qt.MouseButton.LeftButton)
        self.assertFalse(window.run_page.head.go.isEnabled())
        seen, progress = set(), []

        def follow() -> bool:
            seen.add(window.run_page.panels[0].words()[0])
            found = re.fullmatch(r"moving: (\d+) %, ([\d.]+) s to go", window.run_page.head.sentence.text())
            if found:
                progress.append((int(found[1]), -float(found[2])))
            return not session.running.active

        self.wait(follow)
        self.assertEqual(progress, sorted(progress))
        self.assertGreater(len(set(progress)), 4)
        self.wait(lambda: session.running.status.over and bool(session.running.standing.places))
        self.assertGreater(len(seen), 4, "counts were shown while it moved")
        self.assertEqual(window.run_page.panels[0].words()[:2], ("100 counted, as planned", "good"))
        self.assertEqual(window.run_page.board.lines()[0], ("good", "Disc: 100 counted, as planned"))
        window.run_page.board.log.click()
        lines = window.sheets.log.text.toPlainText().splitlines()
        self.assertEqual(lines[lines.index("to  POSition?") + 1], "from  100")
        self.assertEqual(len(lines), session.running.streamer.log.count)
        self.assertTrue(window.rect().contains(window.sheets.log.geometry()))
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.sheets.log.isVisible())
        self.assertIn("but this routine begins at 0 deg", window.run_page.board.lines()[1][1])
        self.assertIn("Disc at 0 deg", window.run_page.head.to_start.toolTip())
        self.assertAlmostEqual(session.playhead.time_s, session.planning.duration_s, places=5)
        session.choice.choose_routine(None)
        self.type(window.run_page.panels[0].field, "60")
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(
            (session.planning.plan.axes[0].start_steps, session.planning.plan.axes[0].final_steps), (100, 200)
        )

    def test_escape_brakes_and_escape_again_takes_the_power(self):
        for presses, words in ((1, "stopped, power kept"), (2, "stopped, no power")):
            window = self.open()
            session = window.session
            held: list[float] = []  # the board's time stands still here while keys are pressed
            steady = SteadyClock()
            with BoardServer(clock=lambda h=held, s=steady: h[0] if h else s()) as server:
                self.type(window.run_page.board.address, server.address)
                session.running.start()
                self.wait(lambda s=session: s.running.status.elapsed_s > 0.6)
                held.append(steady())
                for _ in range(presses):
                    self.press(window, Qt.Key.Key_Escape)
                if presses == 1:
                    self.wait(lambda b=window.bar: b.stop.text() == "Cut power")
                    held.clear()
                self.wait(lambda s=session: not s.running.active)
            self.assertTrue(session.running.standing.places)
            self.assertEqual(session.running.status.phase, "stopped")
            self.assertIn(words, [w.words()[1] for w in window.bar.children() if hasattr(w, "words")])
            self.assertEqual(window.bar.stop.text(), "Stop")
            self.assertEqual(window.run_page.panels[1].words()[1], "warn")

    def test_boards_that_fail_are_told_beside_the_address(self):
        """A nonsense address is not taken; a board that is not there, or goes away, is told and nothing is lost."""
        window = self.open()
        session, board = window.session, window.run_page.board
        self.type(board.address, "over there")
        self.assertIn("Write host:port", board.lines()[0][1])
        self.assertFalse(window.run_page.head.go.isEnabled())
        self.type(board.address, "127.0.0.1:9")
        self.assertTrue(window.run_page.head.go.isEnabled())
        session.running.start()
        self.wait(board.address.isEnabled)
        self.assertIn("nothing listens there", board.lines()[0][1])
        server = BoardServer().start()
        self.type(board.address, server.address)
        session.running.start()
        self.wait(lambda: session.running.status.elapsed_s > 0.3)
        server.close()
        self.wait(board.address.isEnabled)
        self.assertEqual(board.lines()[0][0], "bad")
        self.assertIsNotNone(session.planning.plan)
        self.type(board.address, "")
        self.assertTrue(window.run_page.head.go.isEnabled())

    def test_closing_while_it_moves_brakes_first(self):
        window = self.open()
        window.session.running.start()
        self.wait(lambda: window.session.running.status.elapsed_s > 0.3)
        work = window.session.running.streamer
        window.close()
        self.assertEqual(work.status.phase, "stopped")


class Files(WindowTest):
    def test_broken_files_leave_the_open_machine_alone(self):
        window = self.open()
        before = window.session.document.machine
        broken = self.folder / "broken.kivant"
        document = json.loads(project.dumps(before))
        document["axes"][1]["limits"]["speed"] = -5
        for data, words in (
            (json.dumps(document).encode(), "axes[1].limits.speed: Expected a number above 0 (at least 1e-09); found -5"),
            (b"\x00" * 1000, "This is not JSON"), (b"", "This is not JSON"),
            (b'{"format": "kivant-project", "version": 9}', "Open it with a newer Kivant"),
        ):  # fmt: skip
            broken.write_bytes(data)
            self.assertFalse(window.open_path(broken))
            self.assertTrue(window.notice.isVisible())
            self.assertIn(words, window.notice.text.text())
            self.assertIs(window.session.document.machine, before)
            self.press(window, Qt.Key.Key_Escape)
            self.assertFalse(window.notice.isVisible())

    def test_a_save_that_fails_is_told_and_the_changes_stay(self):
        window = self.open()
        window.session.document.edit(replace(window.session.document.machine, name="Renamed"), "name")
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            self.assertFalse(window.save_to(self.folder / "a.kivant"))
        self.assertIn("No space left on device", window.notice.text.text())
        self.assertTrue(window.session.document.modified)
        self.assertFalse((self.folder / "a.kivant").exists())

    def test_unsaved_changes_are_asked_about(self):
        window = self.open()
        buttons = QMessageBox.StandardButton
        with mock.patch.object(QMessageBox, "question") as question:
            self.assertTrue(window.may_leave())
            question.assert_not_called()
            window.session.document.edit(replace(window.session.document.machine, name="Renamed"), "name")
            for answer, leaves in ((buttons.Cancel, False), (buttons.Discard, True)):
                question.return_value = answer
                self.assertEqual(window.may_leave(), leaves)


class Odd(WindowTest):
    def test_odd_machines_at_every_size_and_in_both_lights(self):
        """Nothing, one axis, twelve with long names, errors, an hour, thousands of blocks: all are painted."""
        twelve = machine(
            *(
                (screw_axis, coil_axis, pair_axis)[k % 3](f"Axis number {k} with quite a long name", 4 * k)
                for k in range(12)
            ),
            blocks=tuple(move(by={f"Axis number {k} with quite a long name": "123456.789"}) for k in range(12)),
        )
        thousands = machine(coil_axis(), blocks=tuple(move(by={"Disc": "7" if k % 3 else "-9"}) for k in range(3000)))
        hour = machine(screw_axis(), blocks=(move(to={"Lift": "144000"}),))
        shared = machine(screw_axis(), screw_axis("Reach", 0), blocks=(move(to={"Lift": "1"}),))
        for built in (Machine(), machine(screw_axis()), twelve, thousands, hour, shared):
            for size in ((1100, 700), (1280, 800), (1920, 1080)):
                window = self.open(Document(built), size)
                for night in (False, True):
                    window.session.set_night(night)
                    for routine in (None, *(r.name for r in built.routines)):
                        window.session.choice.choose_routine(routine)
                        self.wait(lambda s=window.session: not s.planning.busy)
                        window.session.playhead.go(window.session.planning.duration_s * 0.6)
                        window.session.choice.select(len(built.axes) - 1)
                        picture = window.grab().toImage()
                        self.assertEqual((picture.width(), picture.height()), size)
        self.assertEqual(
            window.run_page.head.sentence.text().split(".")[0],
            "Reach's STEP uses line P0, which Lift's STEP already uses",
        )

    def test_the_empty_stage_says_what_to_do_first_whatever_station_is_open(self):
        window = self.open(Document(Machine()))
        for key in STATIONS:
            window.show_station(key)
            self.assertEqual((window.stage.empty.isVisible(), window.pages.isVisible()), (True, False))
        QTest.mouseClick(window.stage.empty.add, Qt.MouseButton.LeftButton)
        self.choose("Turning, coil driver")
        self.assertEqual((window.stage.empty.isVisible(), window.pages.isVisible()), (False, True))
        self.assertEqual([axis.driver.kind for axis in window.session.document.machine.axes], ["coils"])
        QTest.mouseDClick(window.head.name, Qt.MouseButton.LeftButton)
        (field,) = window.head.findChildren(ValueField)
        self.type(field, "Bench {1}")
        self.assertEqual((window.session.document.machine.name, window.head.name.text), ("Bench {1}", "Bench {1} *"))
        window.session.bench.undo()
        window.session.bench.undo()
        for file, button in window.stage.empty.examples.items():
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            self.assertEqual(window.session.document.machine, load_example(file))
            self.assertEqual(window.head.name.text, EXAMPLES[file][0])
            window.session.bench.open(Document(Machine()))
        with mock.patch.object(window, "may_leave", side_effect=(False, True)):
            for name in ("", "Seedling setter"):
                window.example_menu.actions()[2].trigger()
                self.assertEqual(window.session.document.machine.name, name)

    def test_notes_are_typed_saved_and_taken_back(self):
        path = self.folder / "noted.kivant"
        project.save(load_example(FEEDER_CAROUSEL), path)
        window = self.open(Document.open(path))
        document, before = window.session.document, window.session.document.machine.notes
        self.press(window, Qt.Key.Key_F9)
        text = window.sheets.notes.text
        self.assertEqual((text.hasFocus(), text.toPlainText()), (True, before))
        for typed in (" Oil it.", " <b>u</b>"):
            QTest.keyClicks(text, typed)
            self.wait(lambda: not text.isModified())
        self.assertEqual(document.machine.notes, f"{before} Oil it. <b>u</b>")
        QTest.keyClicks(text, " Now.")
        self.assertTrue(window.save())  # at once, without a pause
        self.assertEqual(project.load(path).notes, f"{before} Oil it. <b>u</b> Now.")
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.sheets.notes.isVisible())
        window.session.bench.undo()
        self.assertEqual((document.machine.notes, document.modified), (before, True))
        self.press(window, Qt.Key.Key_F9)
        self.assertEqual(text.toPlainText(), before)
        self.wait(lambda: not window.session.running.obstacle)
        self.assertTrue(window.session.running.start())
        self.assertTrue(text.isReadOnly())
        self.wait(lambda: not window.session.running.active)
        self.assertFalse(text.isReadOnly())
        QApplication.clipboard().setText("x" * 20_000)
        text.paste()
        self.assertIn("Nothing was pasted", window.notice.text.text())
        self.assertEqual((document.machine.notes, text.toPlainText()), (before, before))
        window.session.edit(set_notes("x" * 900_000), "notes")
        self.assertTrue(text.isReadOnly())
        self.assertTrue(text.toPlainText().endswith("too long to edit here."))
        self.assertTrue(text.commit())
        self.assertEqual(len(document.machine.notes), 900_000)

    def test_the_window_lives_while_a_long_routine_is_planned(self):
        """Twenty thousand blocks are planned in the background; the newest choice wins."""
        long = Routine(name="long", blocks=tuple(move(by={"Disc": "0.5"}) for _ in range(20_000)))
        built = machine(coil_axis(), blocks=(move(to={"Disc": "9"}),))
        window = self.open(Document(replace(built, routines=(*built.routines, long))))
        window.session.choice.choose_routine("long")
        self.assertTrue(window.session.planning.busy)
        window.grab()
        window.session.choice.choose_routine("test")
        self.wait(lambda: not window.session.planning.busy)
        self.assertEqual(window.session.planning.plan.routine.name, "test")
