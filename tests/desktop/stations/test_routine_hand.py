"""The Routine station under hands that do anything: choosing, menus, dropping, zooming, and all of it undone."""

from __future__ import annotations

from decimal import Decimal

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kivant.app.document.document import Document
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.machine import Move, Note, Pause, Repeat
from kivant.core.machine.check import checked
from kivant.core.motion.blocks import walk
from kivant.core.path import Path
from kivant.desktop.stations.routine.head import _TIPS
from kivant.desktop.stations.routine.view_span import LEAST_S, ViewSpan
from tests.desktop.stations.base import ROUTINE
from tests.desktop.stations.test_routine import RoutineTest, two_axes
from tests.machines import coil_axis, machine, move, screw_axis

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
D = Decimal


def stairs(count: int = 6) -> tuple[Move, ...]:
    return tuple(move(to={"Lift": str(2 * (k % 5) + k % 2 + 1)}, name=f"b{k}") for k in range(count))


def rgb(color: QColor) -> tuple[int, int, int]:
    return color.red(), color.green(), color.blue()


class Choosing(RoutineTest):
    def test_list_and_lanes_choose_the_same(self):
        window, page = self.station(ROUTINE, document=two_axes(*stairs()))
        rows, program = page.list, page.program
        self.click_row(rows, (1,))
        self.click_row(rows, (4,), SHIFT)
        self.assertEqual(program.places, ((1,), (2,), (3,), (4,)))
        self.click_row(rows, (2,), CTRL)
        self.assertEqual(program.places, ((1,), (3,), (4,)))
        boxes = [plate.box.center().toPoint() for plate in page.lanes.shown_plates()]
        left = Qt.MouseButton.LeftButton
        QTest.mouseClick(page.lanes, left, CTRL, boxes[5])
        self.assertEqual(set(program.places), {(1,), (3,), (4,), (5,)})
        QTest.mouseClick(page.lanes, left, CTRL, boxes[3])
        self.assertEqual(set(program.places), {(1,), (4,), (5,)})
        program.choose([(0,)])
        QTest.mouseClick(page.lanes, left, SHIFT, boxes[2])
        self.assertEqual(program.places, ((0,), (1,), (2,)))
        self.assertEqual(
            [rows.blocks.place(index) for index in rows.selectionModel().selectedRows()], [(0,), (1,), (2,)]
        )
        window.session.choice.choose_routine(None)
        self.settle(window)
        self.assertEqual((program.places, program.blocks), ((), ()))

    def test_the_menu_and_the_buttons_do_the_same(self):
        window, page = self.station(ROUTINE, document=two_axes(*stairs(2)))
        program = page.program
        program.choose([(0,)])
        for text, wanted in (
            ("Duplicate\tCtrl+D", lambda blocks: len(blocks) == 3 and blocks[1] == blocks[0]),
            ("Repeat\tCtrl+P", lambda blocks: blocks[1] == Repeat(times=2, blocks=(stairs(1)[0],))),
            ("Switch off or on\tCtrl+E", lambda blocks: blocks[1].off),
            ("Switch off or on\tCtrl+E", lambda blocks: blocks[1].off is None),
            ("Dissolve the repeat", lambda blocks: blocks[1] == stairs(1)[0]),
            ("Copy\tCtrl+C", lambda blocks: len(blocks) == 3),
            ("Cut\tCtrl+X", lambda blocks: len(blocks) == 2),
            ("Paste\tCtrl+V", lambda blocks: len(blocks) == 3),
            ("Delete\tDel", lambda blocks: len(blocks) == 2),
        ):
            with self.subTest(text):
                box = page.list.visualRect(page.list.blocks.index_of(program.current or (0,)))
                QTest.mouseMove(page.list.viewport(), box.center())
                self.menu_at(page.list, box.center())
                self.choose(text)
                self.settle(window)
                self.assertTrue(wanted(program.blocks), program.blocks)

    def menu_at(self, rows, at: QPoint) -> None:
        reason = QContextMenuEvent.Reason.Mouse
        QApplication.sendEvent(rows.viewport(), QContextMenuEvent(reason, at, rows.viewport().mapToGlobal(at)))
        self.app.processEvents()

    def test_blocks_are_dropped_before_behind_and_into_repeats(self):
        inside = (Note(text="in"),)
        window, page = self.station(ROUTINE, document=two_axes(*stairs(2), Repeat(times=2, blocks=inside), *stairs(1)))
        rows = page.list
        table = (((0,), 0.2, (0,)), ((0,), 0.8, (1,)), ((2,), 0.2, (2,)), ((2,), 0.8, (2, 0)), ((2, 0), 0.8, (2, 1)))
        for place, share, landing in table:
            box = rows.visualRect(rows.blocks.index_of(place))
            self.assertEqual(rows.drop_place(round(box.top() + share * box.height())), landing)
        self.assertEqual(rows.drop_place(rows.viewport().height() - 2), (4,))
        page.program.choose([(0,), (3,)])
        self.assertTrue(page.acts.move_to(rows.drop_place(rows.visualRect(rows.blocks.index_of((2,))).bottom() - 2)))
        self.settle(window)
        self.assertEqual([block.name for block in page.program.blocks[1].blocks], ["b0", "b0", None])
        self.assertEqual(page.program.places, ((1, 0), (1, 1)))
        page.program.choose([(1,)])
        self.assertFalse(page.acts.move_to((1, 0)))
        self.assertIn("into itself", window.notice.text.text())


class Looking(RoutineTest):
    def test_a_span_stays_within_its_plan(self):
        whole = ViewSpan(0, 100, 100)
        table = (
            (whole.zoomed(0.5, 50), 25, 75), (whole.zoomed(0.5, 0), 0, 50), (whole.zoomed(2, 50), 0, 100),
            (ViewSpan(25, 75, 100).shifted(50), 50, 100), (ViewSpan(25, 75, 100).shifted(-50), 0, 50),
            (ViewSpan(25, 75, 100).showing(80, 90), 40, 90), (ViewSpan(25, 75, 100).showing(30, 40), 25, 75),
            (ViewSpan(40, 50, 100).showing(10, 60), 5, 65), (ViewSpan(25, 75, 100).of(60), 25, 60),
            (ViewSpan(25, 75, 100).of(20), 0, 20), (whole.of(40), 0, 40), (ViewSpan().zoomed(0.5, 1), 0, 0),
        )  # fmt: skip
        for span, begin, end in table:
            self.assertAlmostEqual(span.begin, begin)
            self.assertAlmostEqual(span.end, end)
        span = whole
        for _ in range(500):
            span = span.zoomed(0.8, 33.3)
        self.assertAlmostEqual(span.seconds, LEAST_S)

    def test_keys_zoom_and_the_time_axis_is_dragged(self):
        window, page = self.station(ROUTINE, document=two_axes(*stairs()))
        lanes, session = page.lanes, window.session
        session.playhead.go(session.planning.plan.duration / 2)
        for _ in range(6):
            QTest.keyClicks(page, "+")
        self.settle(window)
        before = lanes.span
        self.assertAlmostEqual(before.seconds, before.whole / 1.25**6)
        self.assertTrue(before.begin < session.playhead.time_s < before.end)
        y = lanes.height() - 8
        self.dragged(window, lanes, QPointF(400, y), QPointF(350, y), QPointF(300, y))
        self.assertAlmostEqual(
            lanes.span.begin - before.begin, 100 / before.seconds**-1 / (lanes.width() - 44), places=4
        )
        QTest.keyClicks(page, "0")
        self.assertTrue(lanes.span.is_whole)

    def test_narrow_blocks_share_a_plate_that_opens(self):
        window, page = self.station(ROUTINE, document=two_axes(*(move(by={"Lift": s}) for s in ("0.1", "-0.1") * 2000)))
        plates = page.lanes.shown_plates()
        self.assertLess(len(plates), 300)
        self.assertEqual((plates[0].first, plates[-1].last), (0, 3999))
        at = plates[0].box.center().toPoint()
        QTest.mouseDClick(page.lanes, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        self.settle(window)
        self.assertLess(page.lanes.span.seconds, page.lanes.span.whole / 2)
        page.program.choose([(3000,)])
        self.settle(window)
        stretch = page.lanes.drag.handles()
        self.assertTrue(stretch, "what is chosen is in view, and can be held")

    def test_tips_say_what_is_under_the_hand(self):
        _window, page = self.station(ROUTINE, document=two_axes(*stairs(), Pause(seconds=1)))
        lanes = page.lanes
        box = lanes.shown_plates()[2].box.center()
        self.assertRegex(lanes.tip(box.x(), box.y()), r"^3  Lift to 5 mm, 0\.\d+ s$")
        lane = lanes.lane(0).center()
        told = lanes.tip(lanes.scale.at(0.1), lane.y())
        self.assertRegex(told, r"^0\.1 s\nLift: 1\.\d* mm, .* mm/s\nReach: 0 mm, 0 mm/s$|Lift: ")
        self.assertEqual(lanes.tip(2.0, lane.y()), "")
        self.assertEqual(set(page.head.adding), set(_TIPS))

    def test_the_strip_has_the_hue_of_what_holds_back(self):
        slow = replace(screw_axis("Reach", 4), limits=replace(screw_axis().limits, speed=2.0))
        document = two_axes(move(to={"Lift": "9", "Reach": "9"}), move(to={"Lift": "40"}))
        own = replace(document.machine, axes=(document.machine.axes[0], slow))
        window, page = self.station(ROUTINE, document=Document(own))
        session = window.session
        self.wait(lambda: session.holding.greatest is not None)
        self.settle(window)
        self.assertIn("Reach's speed of 2 mm/s holds it back", page.head.sentence.text)
        page.program.choose([(1,)])
        self.assertIn("Lift's speed of 40 mm/s holds block 2 back by", page.head.sentence.text)
        page.program.choose(())
        self.settle(window)
        picture = page.lanes.grab().toImage()
        y = page.lanes.height() - 30
        for time_s, axis in ((3.0, 1), (session.planning.plan.duration - 0.2, 0)):
            seen = rgb(QColor(picture.pixel(round(page.lanes.scale.at(time_s)), y)))
            paper = rgb(session.theme.color("paper"))
            hues = [rgb(session.theme.axis(k)) for k in range(2)]
            tinted = [[0.72 * p + 0.28 * h for p, h in zip(paper, hue, strict=True)] for hue in hues]
            near = min(range(2), key=lambda k: sum(abs(a - b) for a, b in zip(seen, tinted[k], strict=True)))
            self.assertEqual(near, axis)

    def test_the_tool_stands_where_the_playhead_puts_it(self):
        window, page = self.station(ROUTINE, document=Document(load_example(SEEDLING_SETTER)))
        view, session = page.tool, window.session
        view.grab()
        course = view.course()
        made = session.planning.plan
        for share in (0.2, 0.5, 0.9):
            time_s = share * made.duration
            session.playhead.go(time_s)
            here = view.tool.place(view.positions())
            along = [float(np.interp(time_s, course.times_s, course.places[:, k])) for k in range(3)]
            np.testing.assert_allclose(here, along, atol=0.5)
            point = view.at(here[0], here[1])
            np.testing.assert_allclose(view.place_of(point), here[:2], atol=1e-6)
        self.assertTrue(view.above().contains(view.at(*course.places[:, :2].mean(axis=0).tolist())))
        gaps = np.diff(course.ticks[:, :2], axis=0)
        self.assertGreater(np.sqrt((gaps**2).sum(axis=1)).max(), 1.0)


class Tables(RoutineTest):
    def test_positions_go_to_a_spreadsheet_and_come_back(self):
        window, page = self.station(ROUTINE, document=two_axes(*stairs(2)))
        page.acts.copy_table()
        text = QApplication.clipboard().text()
        self.assertEqual(text, "Lift\tReach\n1\t\n4\t\n")
        QApplication.clipboard().setText("Lift\tReach\n7\tby 1\n8\t\n9\t2\n")
        page.program.choose([(1,)])
        page.list.setFocus()
        QTest.keyClick(page.list, Qt.Key.Key_V, CTRL)
        self.settle(window)
        self.assertEqual(page.program.blocks[2], move(to={"Lift": "7"}, by={"Reach": "1"}))
        self.assertEqual(len(page.program.blocks), 5)
        page.program.choose([(0,), (1,)])
        QApplication.clipboard().setText("5\n6\n")
        page.acts.paste()
        self.assertEqual([block.to["Lift"] for block in page.program.blocks[:2]], [5, 6])
        self.assertEqual([block.name for block in page.program.blocks[:2]], ["b0", "b1"])
        QApplication.clipboard().setText("5\nsix\n")
        page.acts.paste()
        self.assertIn("Row 2, Lift: “six” is not a position", window.notice.text.text())
        for _ in range(2):
            window.session.bench.undo()
        self.assertEqual(page.program.blocks, stairs(2))


class Geometry(RoutineTest):
    def test_a_machine_becomes_an_arm_and_its_figures_are_typed(self):
        axes = (coil_axis("Shoulder"), coil_axis("Elbow", 4), screw_axis("Lift", 8))
        window, page = self.station(ROUTINE, document=Document(machine(*axes, blocks=(move(by={"Lift": "3"}),))))
        panel, session = page.panel, window.session
        self.assertFalse(page.tool.isVisible())
        page.head.shape.click()
        self.assertTrue(panel.isVisible())

        def offered(key: str, text: str) -> None:
            next(action for action in panel.choices[key].menu().actions() if action.text() == text).trigger()
            self.settle(window)

        offered("kind", "An arm of two links")
        self.assertTrue(page.tool.isVisible())
        self.type(panel.values["upper arm"], "15cm")
        self.settle(window)
        self.assertEqual(session.document.machine.geometry.lengths_mm, (150.0, 100.0))
        self.type(panel.values["tool speed"], "200")
        offered("shoulder", "Elbow")
        offered("elbow side", "right")
        geometry = session.document.machine.geometry
        self.assertEqual((geometry.axes.shoulder, geometry.elbow, geometry.tool_speed), ("Elbow", "right", 200.0))
        self.type(panel.values["forearm"], "-3")
        self.assertTrue(panel.values["forearm"].property("wrong"))
        self.assertIn("above 0", panel.values["forearm"].explanation.text())
        QTest.keyClick(panel.values["forearm"], Qt.Key.Key_Escape)
        offered("kind", "Two motors on a crossed belt")
        self.assertIn("needs an axis in mm", window.notice.text.text())
        while session.document.undo_name is not None:
            session.bench.undo()
        self.assertIsNone(session.document.machine.geometry)
        self.assertFalse(page.tool.isVisible())


class Anything(RoutineTest):
    def test_whatever_is_done_the_program_stays_one_and_can_be_undone(self):
        """Some hundred acts at random places; then back to the first state and forward to the last."""
        random = np.random.default_rng(31)
        window, page = self.station(ROUTINE, document=two_axes(*stairs(4), Repeat(times=2, blocks=stairs(2))))
        session, program, acts = window.session, page.program, page.acts
        first = session.document.machine
        done = 0
        for _ in range(250):
            every = [
                tuple(p for p in path if isinstance(p, int)) for path, _b in walk(program.blocks, Path.of("blocks"))
            ]
            if every:
                count = int(random.integers(1, 3))
                program.choose([every[k] for k in random.integers(0, len(every), count).tolist()])
            choices = (
                lambda: acts.add(str(random.choice(["move", "each", "spin", "pause", "repeat", "note"]))),
                acts.duplicate, acts.remove, acts.repeat, acts.dissolve, acts.switch, acts.copy, acts.paste, acts.cut,
                lambda: acts.move_by(int(random.choice([-1, 1]))), acts.move_in, acts.move_out,
            )  # fmt: skip
            before = session.document.machine
            choices[int(random.integers(len(choices)))]()
            if len(list(walk(program.blocks, Path()))) > 60:
                session.bench.undo()
            done += session.document.machine is not before
            self.assertTrue(all(program.block(place) is not None for place in program.places))
            self.app.processEvents()
        self.settle(window)
        self.assertGreater(done, 120)
        last = session.document.machine
        self.assertIs(checked(last, routines=True), last)
        while session.document.undo_name is not None:
            session.bench.undo()
        self.assertEqual(session.document.machine, first)
        while session.document.redo_name is not None:
            session.bench.redo()
        self.assertEqual(session.document.machine, last)
        self.settle(window)
