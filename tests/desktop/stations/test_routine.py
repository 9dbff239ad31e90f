"""The Routine station: programs built, changed and looked at, with hand and keys."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QFontMetrics, QImage, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QStyleOptionViewItem

from kivant.app.document.document import Document
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.geometry import CrossedBelts, Differential, SumAxes
from kivant.core.machine import Call, Each, Move, Note, Pause, Pose, Repeat, Routine, Spin
from kivant.core.machine.edits import set_value
from kivant.core.path import Path, axis_path
from kivant.desktop.kit.theme import font
from kivant.desktop.stations.routine.block_list import BlockList
from kivant.desktop.stations.routine.block_model import POSITIONS
from kivant.desktop.stations.routine.plates import paint_plates
from kivant.desktop.stations.routine.view_span import LEAST_S, ViewSpan
from kivant.desktop.widgets.value_field import ValueField
from tests.core.test_geometry import arm
from tests.core.test_geometry import column as turning_column
from tests.desktop.painted import Painted
from tests.desktop.stations.base import ROUTINE, StationTest
from tests.machines import coil_axis, limits, machine, move, screw_axis

BANDS = (
    "Lift to 40 mm and Reach to 70 mm and Tilt to -10 deg together", "Reach by 15 mm", "Wheel by 360 deg",
    "Reach by -15 mm", "Lift by 17.5 mm", "Reach by 15 mm", "Wheel by 360 deg", "Reach by -15 mm", "Lift by 17.5 mm",
    "Reach by 15 mm", "Wheel by 360 deg", "Reach by -15 mm",
)  # fmt: skip
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
D = Decimal


def two_axes(*blocks):
    """A document of two axes with a routine."""
    axes = screw_axis("Lift", limits=limits(40, 300)), screw_axis("Reach", 4, limits=limits(60, 400))
    return Document(machine(*axes, blocks=blocks))


class RoutineTest(StationTest):
    def typed(self, page, text: str) -> None:
        """Type over what is in the field that has just been opened."""
        field = QApplication.focusWidget() or page.window().focusWidget()
        assert isinstance(field, ValueField)
        field.selectAll()
        QTest.keyClick(field, Qt.Key.Key_Delete)
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.clear_away()

    def click_row(self, rows: BlockList, place, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        box = rows.visualRect(rows.blocks.index_of(place))
        at = QPoint(box.left() + 60, box.center().y())
        QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, modifier, at)

    def dragged(self, window, widget, begin: QPointF, *way: QPointF) -> None:
        """Press, move and let go; after each move the plan follows."""
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, begin.toPoint())
        for at in way:
            QTest.mouseMove(widget, at.toPoint())
            event = self.moving(widget, at)
            QApplication.sendEvent(widget, event)
            self.settle(window)
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, way[-1].toPoint())
        self.settle(window)

    def moving(self, widget, at: QPointF):
        left = Qt.MouseButton.LeftButton
        there = widget.mapToGlobal(at)
        return QMouseEvent(QEvent.Type.MouseMove, at, there, Qt.MouseButton.NoButton, left, Qt.KeyboardModifier(0))


class Building(RoutineTest):
    def test_three_bands_with_keys_alone(self):
        window, page = self.station(ROUTINE)
        wanted = load_example().routine("Three bands").blocks
        page.routines.add()
        self.settle(window)
        self.assertEqual((page.program.routine.name, page.program.blocks), ("New routine", ()))
        page.list.setFocus()
        QTest.keyClick(page.list, Qt.Key.Key_Insert)
        self.assertTrue(page.line.hasFocus())
        for line in BANDS[:5]:
            QTest.keyClicks(page.line, line)
            QTest.keyClick(page.line, Qt.Key.Key_Return)
        self.assertEqual(page.line.text(), "")
        self.settle(window)
        page.list.setFocus()
        for _ in range(3):  # the last four, by hand: chosen, copied and pasted twice
            QTest.keyClick(page.list, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
        QTest.keyClick(page.list, Qt.Key.Key_C, CTRL)
        QTest.keyClick(page.list, Qt.Key.Key_End)
        for _ in range(2):
            QTest.keyClick(page.list, Qt.Key.Key_V, CTRL)
        self.settle(window)
        self.assertEqual(len(page.program.blocks), 13)
        QTest.keyClick(page.list, Qt.Key.Key_Up)
        QTest.keyClick(page.list, Qt.Key.Key_Down)
        QTest.keyClick(page.list, Qt.Key.Key_Delete)
        self.settle(window)
        self.assertEqual(page.program.blocks, wanted)
        for _ in range(9):
            window.session.bench.undo()
        self.assertEqual(window.session.document.machine, load_example())

    def test_three_bands_with_the_mouse(self):
        window, page = self.station(ROUTINE)
        wanted = load_example().routine("Three bands").blocks
        page.head.others.menu().aboutToShow.emit()
        next(action for action in page.head.others.menu().actions() if action.text() == "New routine").trigger()
        self.settle(window)
        for k, line in enumerate(BANDS[:5]):
            page.head.adding["move"].click()
            self.settle(window)
            row = page.list.visualRect(page.list.blocks.index_of((k,)))
            at = QPoint(row.left() + 90, row.center().y())
            QTest.mouseDClick(page.list.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
            self.typed(page, line)
            self.settle(window)
        for _ in range(2):
            self.click_row(page.list, (len(page.program.blocks) - 4,))
            self.click_row(page.list, (len(page.program.blocks) - 1,), Qt.KeyboardModifier.ShiftModifier)
            page.head.acting["duplicate"].click()
            self.settle(window)
        self.click_row(page.list, (12,))
        page.head.acting["delete"].click()
        self.settle(window)
        self.assertEqual(page.program.blocks, wanted)
        self.assertAlmostEqual(window.session.planning.plan.duration, 23.1044, places=3)

    def test_every_kind_has_a_button_and_can_be_taken_back(self):
        window, page = self.station(ROUTINE, document=two_axes())
        for kind, button in page.head.adding.items():
            page.program.choose(())
            button.click()
            self.settle(window)
            if kind == "call":
                self.assertIn("no other routine", window.notice.text.text())
        kinds = (Move, Each, Spin, Pause, Repeat, Note)
        self.assertEqual(tuple(type(block) for block in page.program.blocks), kinds)
        self.assertIsNone(window.session.planning.error)
        for _ in kinds:
            window.session.bench.undo()
        self.assertEqual(page.program.blocks, ())


class Changing(RoutineTest):
    def test_blocks_are_moved_wrapped_named_and_switched_off(self):
        first, second = move(to={"Lift": "5"}), Pause(seconds=0.5)
        window, page = self.station(ROUTINE, document=two_axes(first, second))
        rows, program = page.list, page.program
        rows.setFocus()
        program.choose([(1,)])
        QTest.keyClick(rows, Qt.Key.Key_Up, ALT)
        self.assertEqual((program.blocks, program.current), ((second, first), (0,)))
        QTest.keyClick(rows, Qt.Key.Key_P, CTRL)
        self.assertEqual(program.blocks, (Repeat(times=2, blocks=(second,)), first))
        program.choose([(1,)])
        QTest.keyClick(rows, Qt.Key.Key_Right, ALT)
        self.assertEqual(program.blocks, (Repeat(times=2, blocks=(second, first)),))
        self.assertEqual(program.current, (0, 1))
        QTest.keyClick(rows, Qt.Key.Key_E, CTRL)
        self.settle(window)
        self.assertTrue(program.block((0, 1)).off)
        self.assertEqual(window.session.planning.plan.duration, 1.0)
        QTest.keyClick(rows, Qt.Key.Key_F2)
        self.typed(page, "Down again")
        self.assertEqual(program.block((0, 1)), replace(first, off=True, name="Down again"))
        QTest.keyClick(rows, Qt.Key.Key_Left, ALT)
        self.assertEqual(program.current, (1,))
        program.choose([(0,)])
        page.acts.dissolve()
        self.assertEqual(program.blocks[0], second)
        for _ in range(7):
            window.session.bench.undo()
        self.assertEqual(program.blocks, (first, second))

    def test_a_target_is_typed_in_its_cell(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "5"}), Pause(seconds=1)))
        rows = page.list
        rows.setFocus()
        cases = (
            (0, 4, "by 0.5in", Move(to={"Lift": D(5)}, by={"Reach": D("12.7")})),
            (0, 4, "20", Move(to={"Lift": D(5), "Reach": D(20)})),
            (0, 3, "", Move(to={"Reach": D(20)})),
        )
        for row, column, text, block in cases:
            rows.typing.line(rows.blocks.index_of((row,), column))
            self.typed(page, text)
            self.settle(window)
            self.assertEqual(page.program.blocks[0], block)
        self.assertEqual(rows.blocks.index_of((1,), 4).data(), "20")
        rows.typing.line(rows.blocks.index_of((1,), 4))
        self.typed(page, "3")
        self.assertIn("Only a move", QApplication.focusWidget().explanation.text())

    def test_where_a_routine_begins_is_typed_or_taken_from_where_axes_stand(self):
        window, page = self.station(ROUTINE, document=two_axes(move(by={"Lift": "5"})))
        session, beginning = window.session, page.beginning
        self.assertEqual((beginning.positions.text(), beginning.here.isVisible()), ("", False))
        for text, start, shown in (
            (
                "Reach at 1in and Lift at -3",
                {"Reach": D("25.4"), "Lift": D(-3)},
                "Reach at 25.4 mm and Lift at \u22123 mm",
            ),
            ("Lift at 30 mm and Reach at 0", {"Lift": D(30)}, "Lift at 30 mm"),
            ("", None, ""),
            ("Lift at 30", {"Lift": D(30)}, "Lift at 30 mm"),
        ):
            beginning.positions.setFocus()
            self.typed(page, text)
            self.settle(window)
            self.assertEqual(page.program.routine.start, start)
            self.assertEqual(beginning.positions.text(), shown)
            beginning.positions.setText(f"{shown} ")
            self.assertTrue(beginning.positions.commit())  # as it is shown, it can be read
        self.assertEqual(page.list.blocks.index_of((0,), 3).data(), "35")
        for text, words in (("Lift 5", "does not say “at”"), ("Tilt at 5", "as|like “Wheel"), ("Lift at 1e20", "1e15")):
            self.type(beginning.positions, text)
            self.assertRegex(beginning.positions.explanation.text(), words)
            self.assertEqual(page.program.routine.start, {"Lift": D(30)})
        QTest.keyClick(beginning.positions, Qt.Key.Key_Escape)
        session.edit(set_value(axis_path(0, "limits", "max"), D(20)), "greatest position")
        self.settle(window)
        self.assertIn(
            "Lift would begin at 30 mm, beyond its max of 20. Begin at 20 mm at most", page.head.sentence.text
        )
        self.assertTrue(beginning.positions.property("wrong"))
        session.bench.undo()
        self.settle(window)
        self.assertFalse(beginning.positions.property("wrong"))
        session.running.standing.places.update({"Lift": D(12), "Reach": D(0)})
        session.machine_changed.emit()
        beginning.here.click()
        self.settle(window)
        self.assertEqual((beginning.positions.text(), beginning.here.isVisible()), ("Lift at 12 mm", False))
        self.assertEqual(session.bench.start.mismatch, "")
        for start in ({"Lift": D(30)}, None):
            session.bench.undo()
            self.assertEqual(page.program.routine.start, start)
        window.show_place(Path.parse("routines[0].start.Lift"))
        self.assertTrue(beginning.positions.hasFocus())

    def test_a_row_that_is_carried_looks_as_it_does_in_the_list(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "5"})))
        rows, theme = page.list, window.session.theme
        for column, token in ((0, theme.color("ink")), (2, theme.color("muted")), (POSITIONS, theme.axis(0))):
            index = rows.blocks.index_of((0,), column)
            option: Any = QStyleOptionViewItem()  # its stubs lack its fields
            option.rect = rows.visualRect(index)
            carried = QImage(rows.viewport().size(), QImage.Format.Format_RGB32)
            carried.fill(theme.color("sheet"))
            painter = QPainter(carried)
            rows.itemDelegate().paint(painter, option, index)
            painter.end()
            seen = rows.viewport().grab().toImage()
            inked = [
                {
                    (x, y) for x in range(option.rect.left(), option.rect.right())
                    for y in range(option.rect.top(), option.rect.bottom()) if image.pixelColor(x, y) == token
                }
                for image in (carried, seen)
            ]  # fmt: skip
            self.assertTrue(inked[0])
            wide = QFontMetrics(font("text")).horizontalAdvance(index.data())
            self.assertGreater(rows.sizeHintForIndex(index).width(), wide)
            self.assertEqual(*inked)

    def test_what_is_wrong_stays_to_be_put_right(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "5"})))
        before = window.session.document.machine
        page.line.setFocus()
        QTest.keyClicks(page.line, "Lift to nowhere")
        QTest.keyClick(page.line, Qt.Key.Key_Return)
        self.assertTrue(page.line.property("wrong"))
        self.assertIn("not a position", page.line.explanation.text())
        self.assertIs(window.session.document.machine, before)
        QTest.keyClick(page.line, Qt.Key.Key_Escape)
        QApplication.clipboard().setText("Lift to 5")
        page.acts.paste()
        self.assertIn("Nothing was pasted", window.notice.text.text())
        self.assertIs(window.session.document.machine, before)
        page.line.setFocus()
        QTest.keyClicks(page.line, "spin Lift at 99 for 2 s")
        QTest.keyClick(page.line, Qt.Key.Key_Return)
        self.settle(window)
        self.assertIn("the limit, by its speed, is 40", page.head.sentence.text)
        self.assertEqual(list(page.list.marks.wrong), [(1,)])
        window.show_place(window.session.planning.findings[0].place)
        self.assertEqual(page.program.current, (1,))

    def test_blocks_go_from_window_to_window(self):
        _window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "5"}), Note(text="ü “x”")))
        page.program.choose([(0,), (1,)])
        page.acts.copy()
        _other, there = self.station(ROUTINE, document=two_axes())
        there.acts.paste()
        self.assertEqual(there.program.blocks, page.program.blocks)
        page.acts.cut()
        self.assertEqual((page.program.blocks, page.program.places), ((), ()))

    def test_a_routine_is_renamed_copied_and_deleted_with_its_calls_in_mind(self):
        document = two_axes(Call(routine="sub"))
        own = document.machine
        sub = Routine(name="sub", blocks=(Pause(seconds=1),))
        window, page = self.station(ROUTINE, document=Document(replace(own, routines=(*own.routines, sub))))
        window.session.choice.choose_routine("sub")
        self.settle(window)
        self.type(page.head.title, "other")
        self.settle(window)
        self.assertEqual(window.session.document.machine.routines[0].blocks, (Call(routine="other"),))
        page.routines.delete()
        self.assertIn("is called by “test”", window.notice.text.text())
        page.routines.duplicate()
        self.settle(window)
        self.assertEqual(page.program.routine.name, "other 2")
        page.routines.delete()
        self.assertEqual([r.name for r in window.session.document.machine.routines], ["test", "other"])
        self.type(page.head.title, "test")
        self.assertNotEqual(page.program.routine.name, "")


class PosesAndTempo(RoutineTest):
    def test_a_pose_is_kept_named_used_and_changed(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "20", "Reach": "6"}), Pause(seconds=1)))
        session, shelf = window.session, page.shelf
        session.playhead.go(session.planning.plan.duration)
        shelf.keep.click()
        self.typed(page, "Over the bowl")
        self.assertEqual(shelf.poses, (Pose(name="Over the bowl", at={"Lift": D(20), "Reach": D(6)}),))
        session.playhead.go(0.0)
        page.program.choose([(1,)])
        shelf.cards[0].buttons["use"].click()
        self.settle(window)
        self.assertEqual(page.program.blocks[2], Move(pose="Over the bowl"))
        shelf.cards[0].setFocus()
        QTest.keyClick(shelf.cards[0], Qt.Key.Key_F2)
        self.typed(page, "Rest")
        self.assertEqual(page.program.blocks[2], Move(pose="Rest"))
        shelf.cards[0].setFocus()
        QTest.keyClick(shelf.cards[0], Qt.Key.Key_Delete)
        self.assertIn("Blocks of “test” go to the pose “Rest”", window.notice.text.text())
        shelf.cards[0].asked.emit(QPoint(100, 100))
        self.choose("Move it to this place")
        self.settle(window)
        self.assertEqual(page.list.blocks.index_of((2,), 3).data(), "0")  # the block goes where the pose is now
        for _ in range(5):
            session.bench.undo()
        self.assertEqual(shelf.poses, ())

    def test_axes_go_to_a_pose_and_are_recorded_where_they_stand(self):
        document = two_axes()
        pose = Pose(name="Near", at={"Lift": D(1), "Reach": D(2)})
        window, page = self.station(ROUTINE, document=Document(replace(document.machine, poses=(pose,))))
        running = window.session.running
        page.shelf.cards[0].buttons["go"].click()
        self.assertTrue(running.active)
        self.wait(lambda: not running.active)
        self.assertEqual(running.status.counts, (200, 400))
        page.shelf.record.click()
        self.settle(window)
        self.assertEqual(page.shelf.poses[1], Pose(name="Place", at={"Lift": D(1), "Reach": D(2)}))
        self.assertEqual(page.program.blocks, (Move(pose="Place"),))

    def test_a_duration_is_typed_and_let_go_again(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "20"}), move(to={"Lift": "0"})))
        tempo, before = page.head.tempo, page.program.blocks
        self.type(tempo.seconds, "6 s")
        self.settle(window)
        self.assertAlmostEqual(window.session.planning.plan.duration, 6, places=4)
        self.assertEqual(tempo.label.text(), "all takes")
        page.program.choose([(1,)])
        self.type(tempo.seconds, "1000ms")
        self.settle(window)
        self.assertAlmostEqual(window.session.planning.plan.duration, 4, places=4)
        self.type(tempo.seconds, "1 ms")
        self.assertIn("at least 0.6333 s", tempo.seconds.explanation.text())
        page.program.choose(())
        tempo.fastest.click()
        self.settle(window)
        self.assertEqual(page.program.blocks, before)
        self.assertFalse(tempo.fastest.isVisible())


class ToolHand(RoutineTest):
    def test_every_kind_of_tool_is_seen_and_goes_with_its_axes(self):
        ways = {"Shoulder": D(20), "Elbow": D(-60)}, {"Shoulder": D(20), "Reach": D(60)}, {"A": D(20)}
        sums = machine(coil_axis("A", 0), coil_axis("B", 4), blocks=())
        belts = machine(screw_axis("A", 0), screw_axis("B", 4), blocks=())
        axes = SumAxes(a="A", b="B")
        for built, way in (
            (arm(), ways[0]),
            (turning_column(), ways[1]),
            (replace(belts, geometry=CrossedBelts(axes=axes)), ways[2]),
            (replace(sums, geometry=Differential(axes=axes)), ways[2]),
        ):
            with self.subTest(kind=built.geometry.kind):
                blocks = (Move(to=way),)
                document = Document(replace(built, routines=(replace(built.routines[0], blocks=blocks),)))
                window, page = self.station(ROUTINE, document=document)
                before = page.tool.grab().toImage()
                window.session.playhead.go(window.session.planning.plan.duration)
                self.assertTrue(page.tool.isVisible())
                self.assertNotEqual(page.tool.grab().toImage(), before)

    def test_the_tool_is_dragged_to_a_place_and_a_block_and_a_pose_are_made(self):
        window, page = self.station(ROUTINE, document=Document(load_example(SEEDLING_SETTER)))
        view, session = page.tool, window.session
        view.grab()
        self.assertTrue(view.isVisible())
        begin, end = view.at(210, 53), view.at(150.02, -40.01)
        self.dragged(window, view, begin, end)
        self.assertAlmostEqual(float(view.wanted["x"]), 150, delta=1.5)  # as near as a pixel tells
        for _ in range(3):
            QTest.keyClick(view, Qt.Key.Key_Right)
        x, y = view.wanted["x"], view.wanted["y"]
        page.program.choose([(8,)])
        view.here.click()
        self.settle(window)
        self.assertEqual(page.program.blocks[9], Move(tool={"x": x.normalize() + 0, "y": y.normalize() + 0}))
        self.assertIsNone(session.planning.error)
        session.playhead.go(session.planning.plan.duration)
        place = view.tool.place(view.positions())
        self.assertAlmostEqual(place[0], float(x), delta=1e-5)
        view.want(400, 10)  # far beyond the reach: the nearest place
        self.assertIn("out of reach", view.said)
        self.assertAlmostEqual(float(view.wanted["x"]), 250, delta=1)
        view.keep.click()
        self.typed(page, "Far out")
        self.assertEqual(page.shelf.poses[-1].name, "Far out")
        self.assertAlmostEqual(float(page.shelf.poses[-1].at["Elbow"]), 0, delta=2)
        QTest.keyClick(view, Qt.Key.Key_Escape)
        self.assertIsNone(view.wanted)
        session.edit(lambda own: replace(own, geometry=None, routines=()), "no geometry")
        self.assertFalse(view.isVisible())

    def test_a_straight_line_is_shown_typed_undone_and_refused_where_it_leaves_the_reach(self):
        window, page = self.station(ROUTINE, document=Document(load_example(SEEDLING_SETTER)))
        view, session = page.tool, window.session
        blocks = page.program.blocks
        page.program.choose([(len(blocks) - 1,)])  # the arm rests at its pose, and goes straight from there
        view.want(200, 60)
        for height in (900, 760):
            window.resize(1280, height)
            self.settle(window)
            for button in (view.here, view.straight, view.keep):
                self.assertTrue(view.rect().contains(button.geometry()), f"{button.text()} at {height}")
        view.straight.click()
        self.settle(window)
        self.assertEqual(page.program.blocks[-1], Move(tool={"x": D(200), "y": D(60)}, straight=True))
        self.assertIsNone(session.planning.error)
        made = session.planning.plan
        block = made.blocks[-1]
        places = []
        for share in range(11):
            session.playhead.go(block.begin_s + (block.end_s - block.begin_s) * share / 10)
            places.append(view.tool.place(view.positions())[:2])
        (begin_x, begin_y), (end_x, end_y) = places[0], places[-1]
        self.assertAlmostEqual(end_x, 200, delta=0.01)
        length = ((end_x - begin_x) ** 2 + (end_y - begin_y) ** 2) ** 0.5
        for x, y in places:
            beside = ((x - begin_x) * (end_y - begin_y) - (y - begin_y) * (end_x - begin_x)) / length
            self.assertLess(abs(beside), 0.05)
        view.want(-200, -150)  # reached by the arm, but not along a line through the column
        view.straight.click()
        self.settle(window)
        self.assertIsNotNone(session.planning.error)
        self.assertEqual(len(page.program.blocks), len(blocks) + 2)
        begin = session.document.machine.routines[0].start
        self.assertEqual(page.shelf.here(), begin)  # without a plan the axes are shown where they begin
        session.bench.undo()
        session.bench.undo()
        self.settle(window)
        self.assertEqual(page.program.blocks, blocks)
        self.assertIsNone(session.planning.error)


class Lanes(RoutineTest):
    def test_ends_speeds_and_pauses_are_dragged(self):
        spin = Spin(speeds={"Reach": D(-30), "Lift": D(10)}, seconds=1.0)
        blocks = (move(to={"Lift": "20"}), Pause(seconds=1), Each(by={"Lift": D(-10), "Reach": D(30)}), spin)
        window, page = self.station(ROUTINE, document=two_axes(*blocks))
        lanes, program = page.lanes, page.program
        cases = (
            ((1,), (0, "time"), (60, 0), lambda block: block.seconds > 1.05),
            ((0,), (0, "end"), (80, 0), lambda block: block.to["Lift"] > 21),
            ((0,), (0, "speed"), (0, 20), lambda block: 0.2 < block.speed_factor < 0.95),
            (
                (3,),
                (1, "speed"),
                (0, 12),
                lambda block: -30 < block.speeds["Reach"] < -10 and block.speeds["Lift"] == 10,
            ),
            ((3,), (1, "time"), (50, 0), lambda block: block.seconds > 1.05),
            ((2,), (1, "end"), (40, 0), lambda block: block.by["Reach"] > 31 and block.by["Lift"] == -10),
        )
        for place, handle, (across, down), changed in cases:
            with self.subTest(handle=handle, place=place):
                program.choose([place])
                self.settle(window)
                begin = lanes.drag.handles()[handle]
                before = program.blocks
                self.dragged(window, lanes, begin, begin + QPointF(across / 2, down / 2), begin + QPointF(across, down))
                self.assertTrue(changed(program.block(place)), program.block(place))
                window.session.bench.undo()
                self.settle(window)
                self.assertEqual(program.blocks, before)

    def test_plates_are_chosen_and_carried(self):
        blocks = tuple(move(to={"Lift": str(20 * (k % 2 + 1))}, name=f"b{k}") for k in range(4))
        window, page = self.station(ROUTINE, document=two_axes(*blocks))
        lanes = page.lanes
        plates = [plate.box.center() for plate in lanes.shown_plates()]
        self.click(lanes, plates[2].x(), plates[2].y())
        self.assertEqual((page.program.places, page.list.blocks.place(page.list.currentIndex())), (((2,),), (2,)))
        self.dragged(window, lanes, plates[3], plates[1], QPointF(plates[0].x() - 20, plates[0].y()))
        self.assertEqual([block.name for block in page.program.blocks], ["b3", "b0", "b1", "b2"])
        self.assertEqual(page.program.places, ((0,),))

    def test_a_plate_says_as_much_as_fits(self):
        """The same move is short beside ever longer pauses; a name is never made another one."""
        both = move(by={"Lift": "20", "Reach": "15"})
        for block, pause, text in (
            (both, 0.1, "Lift by 20 mm and Reach by 15 mm"),
            (both, 8, "L + R"),
            (move(by={"Lift": "20"}), 2, "Lift by 20 mm"),
            (move(by={"Lift": "20"}), 8, "Lift"),
            (move(by={"Lift": "20"}), 24, "L"),
            (move(by={"Lift": "20"}, name="Down to the table"), 8, "Down to th…"),
        ):
            window, page = self.station(ROUTINE, document=two_axes(block, Pause(seconds=pause)))
            picture, plan = QImage(2000, 60, QImage.Format.Format_RGB32), page.lanes.plan
            painter = QPainter(picture)
            with self.subTest(block=block, pause=pause), Painted() as painted:
                list(paint_plates(painter, window.session.theme, plan, page.lanes.shown_plates(), set()))
                self.assertEqual(painted.texts[0], text)
            painter.end()

    def test_the_wheel_zooms_to_microseconds_and_back(self):
        window, page = self.station(ROUTINE, document=two_axes(move(to={"Lift": "20"}), Pause(seconds=7200)))
        lanes = page.lanes

        def wheel(notches: int) -> None:
            at = QPointF(300, 100)
            event = QWheelEvent(
                at, lanes.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(lanes, event)

        around = lanes.scale.value(300)
        for _ in range(120):
            wheel(1)
        self.settle(window)
        self.assertAlmostEqual(lanes.span.seconds, LEAST_S)
        self.assertAlmostEqual(lanes.scale.value(300), around, places=3)
        wheel(-300)
        self.assertTrue(lanes.span.is_whole)
        page.program.choose([(0,)])
        lanes.set_span(ViewSpan(100.0, 200.0, lanes.span.whole))
        page.program.choose([(1,)])
        page.program.choose([(0,)])
        self.assertEqual(lanes.span.begin, 0.0)  # what is chosen is brought into view

    def test_a_repeat_is_drawn_once_or_unrolled(self):
        inside = (move(to={"Lift": "20"}), move(to={"Lift": "0"}))
        window, page = self.station(ROUTINE, document=two_axes(Repeat(times=5, blocks=inside), Pause(seconds=1)))
        self.assertEqual(len(page.lanes.shown_plates()), 4)
        page.head.unroll.click()
        self.settle(window)
        self.assertEqual(len(page.lanes.shown_plates()), 12)
        self.assertEqual(page.list.blocks.index_of((0,), 2).data(), "6.333 s")
        lane = page.lanes.lane(0).center()
        self.click(page.lanes, page.lanes.scale.at(3.0), lane.y())
        self.assertEqual(page.program.current, (0, 0))
        self.assertAlmostEqual(window.session.playhead.time_s, 3.0, delta=0.05)
        self.assertEqual(page.list.marks.in_force, (0, 0))
