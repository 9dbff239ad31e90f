"""The Motor station: figures are typed, the curve follows over a ghost, and what is usable is taken by a press."""

import os
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.motor.usable import ability
from tests.desktop.painted import Painted
from tests.desktop.stations.base import MOTOR, StationTest


class Motors(StationTest):
    def test_figures_are_typed_and_the_curve_follows(self):
        window, station = self.station(MOTOR)
        session = window.session
        with Painted() as painted:
            station.chart.grab()
        self.assertEqual(painted.cut, [])
        self.assertIn("usable 114", painted.texts)
        self.assertIn("limited by the torque; 60 deg/s is within that", station.usable.text())
        for key, typed, shown, said in (
            ("motor.full_steps_per_rev", "7.5deg", "48 a turn", ""), ("motor.full_steps_per_rev", "0.7°", "48 a turn", "no whole number"),
            ("motor.full_steps_per_rev", "0deg", "48 a turn", "must be more than 0"), ("motor.current_a", "90mA", "0.09 A", ""), ("motor.resistance_ohm", "0", "62 ohm", "above 0"),
            ("motor.inductance_mh", "not known", "≈ 112 mH", ""), ("motor.inductance_mh", "abc", "≈ 112 mH", "not an inductance"),
            ("motor.voltage_constant_vs", "0.12Vs/rad", "0.12 Vs/rad", ""), ("load.efficiency", "80%", "0.8", ""),
            ("load.efficiency", "1.2", "0.8", "at most 1"), ("load.torque_nm", "0.05Nm", "0.05 Nm", ""), ("margin", "2", "2", ""),
            ("margin", "0.5", "2", "at least 1"), ("motor.torque_points", "0 0.01, 400 0.002", "0 0.01, 400 0.002", ""),
            ("motor.torque_points", "400 0.002, 100 0.01", "0 0.01, 400 0.002", "does not lie above"),
            ("motor.torque_points", "1,5 3", "0 0.01, 400 0.002", "Use a decimal point"), ("motor.torque_points", "", "modelled", ""),
        ):  # fmt: skip
            field = station.fields[key]
            if typed:
                self.type(field, typed)
            else:
                self.type(field, "modelled")
            self.assertIn(said, field.explanation.text() if said else "", typed)
            field.take_back()
            self.assertEqual(field.text(), shown, (key, typed))
        self.assertIn("guessed for a time constant", station.fields["motor.inductance_mh"].toolTip())
        with Painted() as painted:
            station.chart.grab()
        self.assertEqual(painted.cut, [])
        while session.document.modified:
            session.bench.undo()
        self.assertEqual(session.document.machine, load_example())

        """Of a named supply its volts, else the driver's own; the curve before stays; each drag is undone as one."""
        window, station = self.station(MOTOR, axis=1)
        session = window.session
        before = session.document.machine
        for slider, ends, read in (
            (station.volts, (40, 80), lambda m: m.supplies[[s.name for s in m.supplies].index("24 V supply")].volts),
            (station.amps, (150, 60), lambda m: m.axes[1].driver.current_a),
        ):
            old = read(before)
            slider.setSliderDown(True)
            for notch in ends:
                slider.setSliderPosition(notch)
                self.settle(window)
            slider.setSliderDown(False)
            self.assertLess(read(session.document.machine), old)
            session.bench.undo()
            self.assertEqual(session.document.machine, before)
        self.settle(window)
        self.assertRegex(
            station.forms.text(),
            r"mm/s by torque \d+, driver 1250, board 500; usable: 3750 rpm of the screw = .* a turn",
        )
        held = station.held.text()
        station.connection.take("series")
        self.settle(window)
        self.assertEqual(session.document.machine.axes[1].driver.connection, "series")
        self.assertNotEqual(station.held.text(), held)
        session.choice.select(0)
        self.settle(window)
        self.assertFalse(station.amps.isVisible())
        self.assertNotIn("driver", station.forms.text())

    def test_what_is_usable_is_taken(self):
        window, station = self.station(MOTOR)
        session = window.session
        station.take_speed.click()
        station.take_acceleration.click()
        limits = session.document.machine.axes[0].limits
        self.assertEqual((limits.speed, limits.acceleration, limits.deceleration), (114.0, *[limits.acceleration] * 2))
        found = ability(load_example(), load_example().axes[0])
        self.assertTrue(found.acceleration * 0.98 < 27_000 <= found.acceleration)
        session.bench.undo()
        session.bench.undo()
        self.assertEqual(session.document.machine, load_example())
        self.type(station.fields["load.inertia_kgm2"], "1e4")
        station.take_acceleration.click()
        self.assertTrue(0 < session.document.machine.axes[0].limits.acceleration < 1e-6, "it may be tiny")
        session.choice.select(1)
        self.assertIn("limited by the board's pulses", station.usable.text())
        self.assertEqual(window.head.chain.plates[MOTOR].second, "limit: board")

    def test_motors_come_from_the_shelf_and_go_there(self):
        window, station = self.station(MOTOR)
        session, shelf = window.session, station.shelf
        with mock.patch.dict(os.environ, {"KIVANT_SHELF": str(self.folder)}):
            shelf.keep.click()
            self.assertIn("Kept as “small geared unipolar”", window.notice.text.text())
            menu = shelf.other.menu()
            menu.aboutToShow.emit()
            texts = [action.text() for action in menu.actions() if not action.isSeparator()]
            self.assertEqual(texts[0], "small geared unipolar")
            self.assertIn("28 mm bipolar, 0.09 Nm, 0.7 A", texts)
            menu.actions()[2 + texts[1:].index("28 mm bipolar, 0.09 Nm, 0.7 A")].trigger()
            self.assertEqual(session.document.machine.axes[0].motor.label, "28 mm bipolar")
            self.assertEqual(station.fields["motor.full_steps_per_rev"].text(), "200 a turn")
            menu.actions()[0].trigger()
            self.assertEqual(session.document.machine.axes[0].motor.label, "small geared unipolar")
            (self.folder / "motors" / "small geared unipolar.json").write_text("{}")
            menu.aboutToShow.emit()
            menu.actions()[0].trigger()
            self.assertIn("not a motor that Kivant kept", window.notice.text.text())
            self.type(station.fields["motor.label"], "")

    def test_what_holds_is_told(self):
        rig = load_example()
        lift = rig.axes[1]
        heavy = replace(lift, load=replace(lift.load, friction_torque_nm=0.0, force_n=40.0))
        window, station = self.station(
            MOTOR, axis=1, document=Document(replace(rig, axes=(rig.axes[0], heavy, *rig.axes[2:])))
        )
        self.assertIn("the load pulls 0.0509 Nm, so that it does not hold without power", station.held.text())
        self.type(station.fields["load.force_n"], "4000")
        self.assertIn("more than the motor can start", station.usable.text())
        self.assertFalse(station.take_speed.isEnabled())
        self.assertIn("does not hold with power", station.held.text())
        self.type(station.fields["load.force_n"], "none")
        self.assertIn("its friction is the only load", station.held.text())
        window.session.choice.select(3)
        self.assertFalse(station.fields["load.mass_kg"].isVisible(), "it turns")
        self.assertFalse(station.fields["driver.current_a"].isVisible(), "its driver makes no currents")
