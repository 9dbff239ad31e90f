"""What a motor can do, against brute force, waveforms that are added up, and the balance of power."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.drive.drivers import OwnSequence, driver_kind
from kivant.core.machine import Gear, Load, Motor
from kivant.core.machine.parts import Supply
from kivant.core.motor.load import load_of
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import FARTHEST_HZ, pulled_at, spare_of
from kivant.core.motor.torque import Drive, available_nm, drive_of
from kivant.core.motor.usable import ability, pulled_nm
from kivant.files import project
from tests.machines import coil_axis, machine, screw_axis

RIG = load_example()
WHEEL, LIFT = RIG.axes[:2]
KNOWN = Motor(
    winding="bipolar", full_steps_per_rev=200, current_a=1.0, resistance_ohm=2.0, inductance_mh=3.0,
    holding_torque_nm=0.4, rotor_inertia_kgm2=5e-6,
)  # fmt: skip


def brute_force(drive: Drive, rate: float) -> float:
    """Return the greatest torque over all currents that voltage and current allow, tried one by one."""
    emf = drive.torque_constant * rate * 2 * math.pi / drive.full_steps
    x = drive.inductance_h * rate * math.pi / 2
    size = drive.amperes * np.linspace(0, 1, 401)[:, None]
    current = size * np.exp(1j * np.linspace(-math.pi, math.pi, 2881))[None, :]
    volts = np.abs((drive.resistance_ohm + 1j * x) * current + emf)
    torque = np.where(volts <= drive.volts * (1 + 1e-9), drive.torque_constant * current.real, -1.0)
    return min(max(float(torque.max()), 0.0), drive.most_nm)


class Torque(unittest.TestCase):
    @settings(max_examples=60)
    @given(
        st.floats(0.2, 30), st.floats(0.2, 40), st.floats(0.01, 0.5), st.floats(3, 48), st.floats(0.1, 3),
        st.floats(0, 1.5),
    )  # fmt: skip
    def test_the_envelope_is_what_no_current_goes_beyond(self, ohm, millihenry, constant, volts, amps, share):
        drive = Drive(constant, ohm, millihenry / 1000, volts, amps, volts, amps, 200, math.inf, 0.0)
        rate = (
            share * volts / (constant * 2 * math.pi / 200)
        )  # up to beyond the speed at which the back-EMF is the supply
        ours, tried = float(available_nm(drive, rate)), brute_force(drive, rate)
        self.assertLessEqual(tried, ours * (1 + 1e-9) + 1e-12)
        self.assertGreater(tried, ours - 0.01 * constant * amps)

    def test_at_standstill_a_chopper_gives_all_of_its_current_and_rows_what_their_curves_leave(self):
        """The least torque over a turn of a rotor that always has the better of two rows: wave 0.71, full and half 1."""
        self.assertAlmostEqual(float(available_nm(drive_of(RIG, LIFT), 0.0)), 0.34 / (math.sqrt(2) * 1.4) * 1.0)
        angles = np.linspace(0, 2 * math.pi, 100_001)
        for sequence, rows in (("wave", 4), ("full", 4), ("half", 8), (OwnSequence(rows=(1, 3, 2, 6, 4, 12, 8, 9)), 8)):
            axis = replace(coil_axis(sequence=sequence, driver={"supply_v": 10.0}), motor=KNOWN)
            kind = driver_kind(axis.driver)
            states = [kind.excitation(axis.driver, row) for row in range(rows)]
            curves = np.array([s.torque * np.sin(math.radians(s.electrical_deg) - angles) for s in states])
            drive = drive_of(machine(axis), axis)
            one = drive.torque_constant * 10.0 / 2.0
            self.assertAlmostEqual(drive.most_nm / one, curves.max(axis=0).min(), places=4, msg=sequence)
            self.assertAlmostEqual(drive.held_nm / one, curves.max(), places=6)
            # The fundamental of one winding's voltage, from its waveform.
            fine = np.repeat([s.coils[0] - s.coils[2] for s in states], 5000)
            phase = np.arange(len(fine)) / len(fine) * 2 * math.pi
            self.assertAlmostEqual(drive.volts / 10.0, 2 * abs(np.mean(fine * np.exp(-1j * phase))), places=5)

    def test_the_ceiling_is_when_the_current_just_reverses(self):
        """A coil on plain voltage, L dI/dt = V, goes from -I to I within the step: added up bit by bit."""
        drive = drive_of(RIG, LIFT)
        current, t, dt = -drive.current_a, 0.0, 1e-9
        while current < drive.current_a:
            current += drive.supply_v / drive.inductance_h * dt * 1000
            t += dt * 1000
        self.assertAlmostEqual(t * drive.ceiling_full_steps_hz, 1.0, places=2)

    def test_connections_and_supplies(self):
        def with_driver(**changes: Any) -> Drive:
            axis = replace(LIFT, driver=replace(LIFT.driver, **changes))
            return drive_of(RIG, axis)

        half, series, parallel = (with_driver(connection=c) for c in ("half_coil", "series", "parallel"))
        self.assertEqual(half, with_driver())
        self.assertAlmostEqual(series.ceiling_full_steps_hz * 4, half.ceiling_full_steps_hz)
        self.assertAlmostEqual(series.held_nm, 2 * half.held_nm)
        self.assertAlmostEqual(parallel.resistance_ohm * 2, half.resistance_ohm)
        weak = (Supply(name="small", volts=5.0, max_a=0.05),)
        axis = replace(WHEEL, driver=replace(WHEEL.driver, supply="small", supply_v=None))
        self.assertEqual(drive_of(replace(RIG, supplies=weak), axis).current_a, 0.05)

    def test_points_of_a_data_sheet_take_the_place_of_the_model(self):
        axis = replace(LIFT, motor=replace(LIFT.motor, torque_points=((100.0, 0.3), (500.0, 0.1))))
        self.assertEqual(
            pulled_nm(drive_of(RIG, axis), axis.motor, [0.0, 100.0, 300.0, 500.0, 501.0]).round(12).tolist(),
            [0.3, 0.3, 0.2, 0.1, 0.0],
        )

    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.floats(1, 400), st.just(0.0) | st.floats(1e-3, 0.5)), max_size=5), st.floats(1, 4), st.floats(0, 0.2),
        st.floats(0, 1e-3),
    )  # fmt: skip
    def test_one_speed_is_told_as_many_are_and_what_is_left_ends_where_it_is_said_to(
        self, gaps, margin, friction, viscous
    ):
        """Single numbers and arrays agree, modelled or by points; up to the usable speed something is left, and then not."""
        rates = np.cumsum([gap for gap, _torque in gaps]).tolist()
        points = tuple((rate, torque) for rate, (_gap, torque) in zip(rates, gaps, strict=True)) or None
        axis = replace(
            LIFT, motor=replace(LIFT.motor, torque_points=points), margin=margin,
            load=Load(friction_torque_nm=friction, viscous_nms=viscous),
        )  # fmt: skip
        spare = spare_of(RIG, axis)
        looked = [0.0, *rates, *np.linspace(0, 3000, 40).tolist()]
        together = pulled_nm(spare.drive, axis.motor, looked)
        np.testing.assert_allclose([pulled_at(spare.drive, axis.motor, rate) for rate in looked], together, atol=1e-12)
        usable = spare.usable_hz()
        if usable:
            self.assertGreater(spare.left_nm(usable * (1 - 1e-9)), -1e-9)
            self.assertTrue(usable >= FARTHEST_HZ or spare.left_nm(usable * (1 + 1e-6)) <= 1e-6)
        else:
            self.assertLessEqual(spare.left_nm(0.0), 0.0)


class Loads(unittest.TestCase):
    def test_power_at_both_ends_is_the_same(self):
        """Force times speed at the tool is torque times speed at the rotor, less what the stages lose on the way."""
        load = Load(mass_kg=2.0, force_n=15.0, efficiency=0.8, friction_torque_nm=0.01, viscous_nms=1e-3)
        geared = replace(
            screw_axis(), travel=(Gear(driving=10, driven=25), *screw_axis().travel), load=load, motor=KNOWN
        )
        found = load_of(geared)
        metres_s, rotor = 0.008, 2 * math.pi * 2.5  # one turn of the screw a second
        self.assertAlmostEqual(found.pull_nm(1) * rotor * 0.8, 15.0 * metres_s)
        self.assertAlmostEqual(found.pull_nm(-1) * rotor, -15.0 * metres_s * 0.8)
        self.assertAlmostEqual(found.viscous_nms * rotor**2 * 0.8, 1e-3 * (2 * math.pi) ** 2)
        moving = found.inertia_kgm2 - 5e-6
        self.assertAlmostEqual(moving * rotor**2, 2.0 * metres_s**2)
        self.assertAlmostEqual(found.worst_nm(), 0.01 + found.pull_nm(1))
        turning = replace(WHEEL, load=Load(torque_nm=-0.3, viscous_nms=2e-3))
        ratio = 31 * 36 * 36 / (10 * 12 * 11)
        self.assertAlmostEqual(load_of(turning).worst_nm() * ratio, 0.3)
        self.assertAlmostEqual(load_of(turning).viscous_nms * ratio**2, 2e-3)

    def test_what_is_usable_is_where_the_torque_meets_the_load(self):
        axis = replace(
            LIFT, load=Load(force_n=30.0, mass_kg=1.0, friction_torque_nm=0.01), limits=replace(LIFT.limits, speed=60.0)
        )
        axis = replace(axis, driver=replace(axis.driver, microsteps=1))  # or the board would be the limit
        for margin in (1.0, 1.5, 3.0):
            found = ability(RIG, axis, margin)
            rate = found.speed * 25  # full steps/s
            self.assertEqual(found.limited_by, "torque")
            self.assertAlmostEqual(float(available_nm(found.drive, rate)) / margin, found.load.worst_nm(), places=6)
            rates = np.linspace(0, min(found.speed, 60.0) * 25, 999)
            radians = 2 * math.pi / 200
            spare = available_nm(found.drive, rates) / margin - found.load.worst_nm()
            self.assertAlmostEqual(
                found.acceleration / (spare.min() / found.load.inertia_kgm2 / radians / 25), 1.0, places=3
            )
        heavy = replace(axis, load=Load(force_n=300.0))
        self.assertEqual((ability(RIG, heavy).speed, ability(RIG, heavy).acceleration), (0.0, 0.0))
        self.assertEqual(ability(RIG, LIFT).limited_by, "board")
        slow = replace(LIFT, driver=replace(LIFT.driver, pulse_high_us=50.0, pulse_low_us=50.0))
        self.assertEqual(ability(RIG, slow).limited_by, "driver")
        self.assertEqual(ability(RIG, replace(axis, margin=3.0)).speed, ability(RIG, axis, 3.0).speed)

    def test_what_is_not_known_is_guessed_and_said(self):
        bare = nameplate(Motor(winding="bipolar", full_steps_per_rev=200))
        self.assertEqual(
            {guess.key for guess in bare.estimates},
            {"holding_torque_nm", "rotor_inertia_kgm2", "current_a", "resistance_ohm", "inductance_mh"},
        )
        self.assertEqual(nameplate(KNOWN).estimates, ())
        self.assertAlmostEqual(nameplate(KNOWN).torque_constant, 0.4 / math.sqrt(2))
        for key, plausible in (("inductance_mh", 3.6), ("rotor_inertia_kgm2", 6.67e-6), ("resistance_ohm", 3.6)):
            missing: dict[str, Any] = {key: None}
            (guess,) = nameplate(replace(KNOWN, **missing)).estimates
            self.assertEqual(guess.key, key)
            self.assertAlmostEqual(guess.value / plausible, 1.0, delta=0.02)
        constant = nameplate(replace(KNOWN, holding_torque_nm=None, voltage_constant_vs=0.2))
        self.assertEqual((constant.estimates, constant.torque_constant), ((), 0.2))
        self.assertAlmostEqual(constant.holding_torque_nm, 0.2 * math.sqrt(2))

    def test_what_cannot_be_is_refused_with_its_place(self):
        body = project.dumps(RIG).decode()
        motor, load = '"inductance_mh": 38.0', '"inertia_kgm2": 0.0,'
        for old, new, said in (
            (motor, '"inductance_mh": 0', "axes.0..motor.inductance_mh.*above 0"),
            (motor, '"torque_points": [[100, 0.1], [100, 0.05]]', "torque_points.1.*does not lie above the one before"),
            (motor, '"torque_points": [[100, 0.1], [50, 0.05]]', "torque_points.1"),
            (motor, '"torque_points": [[100]]', "torque_points.0.*a speed and a torque"),
            (motor, '"torque_points": [[100, "0,1"]]', "torque_points.0..1.*a number"),
            (motor, '"voltage_constant_vs": -1', "voltage_constant_vs.*above 0"),
            (load, '"efficiency": 1.5,', "load.efficiency.*at most 1"),
            (load, '"mass_kg": 2,', "load.mass_kg.*Wheel turns: its load has no mass_kg"),
            ('"sold": "30"', '"margin": 0.5', "axes.0..margin.*at least 1"),
        ):
            self.assertIn(old, body)
            with self.assertRaisesRegex(project.ProjectError, said):
                project.loads(body.replace(old, new, 1).encode())
