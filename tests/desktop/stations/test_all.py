"""All stations: at every size, in both lights, with axes newer than the plan."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QWidget

from kivant.app.document.document import Document
from kivant.app.document.examples import BANDING_RIG, FEEDER_CAROUSEL, SEEDLING_SETTER, load_example
from kivant.core.machine import Machine
from kivant.core.machine import axes as axes_of
from kivant.desktop.stations import STATIONS
from kivant.desktop.widgets.value_field import ValueField
from tests.desktop.stations.base import MOTOR, PHASES, RAMP, RUN, TRAVEL, StationTest
from tests.desktop.test_layout import SIZES, axes
from tests.machines import coil_axis, machine, move, screw_axis


class Newer(StationTest):
    def test_an_axis_that_is_newer_than_the_plan_has_no_steps_yet(self):
        """Until the next plan has come, a new axis can be looked at and stepped through without harm."""
        window, _station = self.station(PHASES)
        session = window.session
        session.edit(axes_of.add_axis(next(iter(axes_of.new_axes()))), "new axis")
        session.choice.select(4)
        self.assertTrue(session.planning.busy)
        self.assertIsNone(session.instant.axis_plan)
        for number in (PHASES, RUN):
            window.show_station(number)
            window.bar.on.click()
            window.bar.back.click()
            window.grab()
        self.assertEqual((session.instant.steps_moved, session.playhead.time_s), (0, 0.0))
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(session.instant.axis_plan.axis, session.choice.axis)

    def test_axes_come_and_go_while_a_station_is_away(self):
        """Each station is left and shown again at once, before there is a plan of the axes that are there now."""
        edits = (
            axes_of.add_axis(next(iter(axes_of.new_axes()))), axes_of.move_axis(4, 0), axes_of.rename_axis(0, "Feed"),
            axes_of.duplicate_axis(1), axes_of.delete_axis(2), axes_of.delete_axis(0),
        )  # fmt: skip
        window, _page = self.station(MOTOR)
        for key in STATIONS:
            window.show_station(key)
            self.settle(window)
        for edit in edits:
            window.session.edit(edit, "axes")
            for key in STATIONS:
                window.show_station(key)
                window.grab()
            self.settle(window)
        self.assertEqual(len(window.session.document.machine.axes), 4)


class Examples(StationTest):
    def test_every_axis_of_every_example_is_shown_by_every_station(self):
        """All that is computed for it comes, on whatever thread."""
        for name in (BANDING_RIG, FEEDER_CAROUSEL, SEEDLING_SETTER):
            built = load_example(name)
            window, _page = self.station(MOTOR, document=Document(built))
            for index in range(len(built.axes)):
                window.session.choice.select(index)
                for key in STATIONS:
                    window.show_station(key)
                    window.grab()
                    self.settle(window)
                self.assertIsNone(window.session.trials.fault)
                self.assertEqual(window.session.trials.move.axis.axis.name, built.axes[index].name)


class Odd(StationTest):
    def test_every_station_at_every_size_in_both_lights(self):
        """Nothing, one axis, twelve, figures of twelve digits: all stations are painted, and stay in the window."""
        huge = replace(coil_axis(), limits=replace(coil_axis().limits, speed=123456789012.0, acceleration=1e-6))
        tiny = replace(screw_axis(), limits=replace(screw_axis().limits, speed=1e-9, acceleration=1e12))
        for built in (
            Machine(),
            machine(huge, tiny),
            axes(12),
            machine(screw_axis(), blocks=(move(to={"Lift": "1"}),)),
        ):
            for size in SIZES:
                window = self.open(Document(built), size)
                for night in (False, True):
                    window.session.set_night(night)
                    for key in STATIONS:
                        window.show_station(key)
                        for axis in {0, max(len(built.axes) - 1, 0)}:
                            window.session.choice.select(axis)
                            picture = window.grab().toImage()
                            self.assertEqual((picture.width(), picture.height()), size)
                            for child in window.page.findChildren(QWidget):
                                if child.isVisible() and isinstance(child, ValueField):
                                    place = child.mapTo(window, QPoint(0, 0))
                                    self.assertLessEqual(place.y() + child.height(), window.bar.y(), (key, size))
                                    self.assertLessEqual(place.x() + child.width(), size[0], (key, size))


class Running(StationTest):
    def test_a_run_plans_nothing_and_makes_no_widgets_anew(self):
        """Looked at 25 times a second, only what shows the run is painted: no trial move, no card, no field is made."""
        for key in (PHASES, RAMP, TRAVEL):
            window, page = self.station(key, document=Document(load_example(FEEDER_CAROUSEL)))
            session, told = window.session, []
            widgets = {id(widget) for widget in page.findChildren(QWidget)}
            for signal in (session.trial_changed, session.plan_changed, session.findings_changed):
                signal.connect(partial(told.append, "planned"))
            session.running.start()
            self.wait(lambda s=session: not s.running.active)
            self.assertTrue(session.running.status.agrees)
            self.assertEqual((told, {id(widget) for widget in page.findChildren(QWidget)}), ([], widgets), key)
