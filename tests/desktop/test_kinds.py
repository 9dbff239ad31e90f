"""Kinds are tables in the window, too: a stage, a block and a station that are added there work like the others."""

from unittest import mock

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from kivant.app.document.document import Document
from kivant.core.path import Path
from kivant.desktop.frame.navigation import station_of
from kivant.desktop.stations import STATIONS, StationKind
from kivant.desktop.stations.travel.stage_pictures import PICTURES, StagePicture
from tests.core.test_kinds import built
from tests.desktop.base import WindowTest
from tests.desktop.painted import Painted
from tests.kinds import LabWorm, added


class AddedStageAndBlock(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.drawn: list[str] = []
        picture = StagePicture(
            lambda brush, *_: self.drawn.append("large") or brush.painter.drawEllipse(brush.middle, 9, 9),
            lambda painter, _stage, box: self.drawn.append("small") or painter.drawRect(QRectF(box)),
        )
        for context in (added(), mock.patch.dict(PICTURES, {"test_worm": picture})):
            context.__enter__()
            self.addCleanup(context.__exit__, None, None, None)

    def test_they_are_shown_edited_and_run(self):
        """The stage is drawn, typed at and offered; the block has its slip and words, and the board counts it."""
        window = self.open(Document(built()))
        session = window.session
        window.show_station("travel")
        self.settle(window)
        window.grab()
        self.assertEqual(set(self.drawn), {"large", "small"})
        travel = window.page
        self.assertEqual([field.text() for field in travel.cards[1].fields], ["2 teeth", "80 teeth"])
        self.assertIn("Worm: 2 starts drive 80 teeth", travel.cards[1].toolTip())
        self.type(travel.cards[1].fields[1], "40")
        travel.adding["test_worm"].click()
        self.assertEqual(
            session.document.machine.axes[0].travel, (LabWorm(starts=2, teeth=40), LabWorm(starts=1, teeth=30))
        )
        session.bench.undo()
        session.bench.undo()
        self.settle(window)
        window.show_station("run")
        session.playhead.go(session.planning.duration_s)
        with Painted() as painted:
            window.grab()
        self.assertIn("block 2: home after 0.25 s", painted.texts)
        session.running.start()
        self.wait(lambda: not session.running.active)
        self.assertTrue(session.running.status.agrees, session.running.status)


class AddedStation(WindowTest):
    def test_a_station_of_the_table_has_its_plate_key_and_places(self):
        """By its key, its number on the keyboard, and the paths it is the place for; the keys sheet lists its keys."""
        bench = StationKind(
            key="test_bench",
            title="Bench",
            page=lambda _session: QLabel("a bench"),
            figure=lambda _session, axis: f"{axis.motor.full_steps_per_rev} full steps",
            second=lambda _session, axis: axis.motor.winding,
            picture=lambda painter, _session, _axis, middle, _color: painter.drawEllipse(QPointF(middle), 5, 5),
            places=(("axes", "*", "motor"),),
            keys=(("Q", "quench"),),
        )
        with mock.patch.dict(STATIONS, {"test_bench": bench}):
            window = self.open()
            plate = window.head.chain.plates["test_bench"]
            self.assertEqual((plate.figure, plate.second), ("48 full steps", "unipolar"))
            self.press(window, Qt.Key.Key_7, Qt.KeyboardModifier.AltModifier)
            self.assertEqual(window.page.text(), "a bench")
            window.show_station("run")
            QTest.mouseClick(plate, Qt.MouseButton.LeftButton)
            self.assertTrue(plate.isChecked())
            self.assertEqual(station_of(Path.parse("axes[1].motor.label")), "motor", "the first of two claims holds")
            window.sheets.keys.toggle()
            self.assertIn("quench", [label.text() for label in window.sheets.keys.findChildren(QLabel)])
