"""Findings: each mistake is found at its place, and a sound machine has none."""

import unittest
from decimal import Decimal
from typing import Any

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.drive.drivers import OwnSequence
from kivant.core.drive.switches import SwitchBank
from kivant.core.drive.wiring import orders
from kivant.core.findings.checks import all_findings, remedy_of
from kivant.core.findings.finding import Finding
from kivant.core.machine import Block, Each, Machine, Move, Pause, Pose, Repeat, Spin
from kivant.core.machine.parts import Calibration, Supply
from tests.core.test_geometry import column
from tests.machines import MOTOR, coil_axis, limits, machine, move, screw_axis


def apart_from_speed(built: Machine) -> tuple[Finding, ...]:
    """Return the findings of a machine, without the note that a short move never gets to its speed."""
    return tuple(found for found in all_findings(built) if found.code != "never-reaches-speed")


class Findings(unittest.TestCase):
    def test_each_mistake_is_found_with_place_and_remedy(self):
        sound = screw_axis(enable="P2")
        hot = replace(
            coil_axis(first_line=8, driver={"at_rest": "off"}), motor=replace(MOTOR, current_a=0.6, resistance_ohm=8.0)
        )
        table = [
            ((sound, screw_axis("Reach", 2, enable="P4")), "line-shared", "error", "axes[1].driver.lines.STEP", "such as P5"),
            ((screw_axis(enable="P2", limits=limits(600.0)),), "pulse-rate-capped", "warning", "axes[0].limits.speed", "500 mm/s"),
            ((screw_axis(enable="P2", limits=limits(40.0, start=40.0)),), "no-ramp", "warning", "axes[0].limits.start_speed", "start speed"),
            ((replace(hot, driver=replace(hot.driver, supply_v=12.0)),), "coil-current", "warning", "axes[0].driver.supply_v", "4.8 V"),
            ((coil_axis(driver={"wires": "ACBD"}),), "wires-permuted", "warning", "axes[0].driver.wires", "Swap the plugs of outputs B and C, so that they reach ABCD"),
            ((coil_axis(driver={"wires": "ADCB"}),), "wires-permuted", "warning", "axes[0].driver.wires", "Swap the plugs of outputs . and ., so"),
            ((coil_axis(sequence=OwnSequence(rows=(1, 0, 2, 4, 8))),), "sequence-dead-row", "warning", "axes[0].driver.sequence", "meant as 1, 2, 4, 8"),
            ((coil_axis(sequence=OwnSequence(rows=(1, 4, 2, 8))),), "sequence-uneven", "warning", "axes[0].driver.sequence", "meant as 1, 2, 4, 8"),
            ((screw_axis(),), "enable-missing", "note", "axes[0].driver.lines.EN", "Wire"),
            ((screw_axis(enable="P2", limits=limits(max=Decimal(5))),), "outside-limits", "error", "routines[0].blocks[0].to.Lift", "5 mm at most"),
        ]  # fmt: skip
        for axes, code, severity, place, remedy in table:
            with self.subTest(code=code):
                blocks = (move(to={"Lift": "9"}),) if any(a.name == "Lift" for a in axes) else ()
                found = apart_from_speed(machine(*axes, blocks=blocks))
                self.assertEqual([(f.code, f.severity, str(f.place)) for f in found], [(code, severity, place)])
                self.assertRegex(found[0].remedy, remedy)

    def test_mistakes_of_programs(self):
        """Each at its block; what a machine can mend is gone when it is mended."""
        lift, reach = screw_axis("Lift", enable="P2"), screw_axis("Reach", 4, enable="P6", limits=limits(1.0, 300))
        to, off = {"Lift": "9"}, {"Lift": "0"}
        pause, there = Pause(seconds=0.5), move(to=to)
        table: tuple[tuple[tuple[Block, ...], str, str, str, bool], ...] = (
            ((there, there), "block-without-effect", "routines[0].blocks[1]", "where its axes already are", True),
            ((Repeat(times=3),), "block-without-effect", "routines[0].blocks[0]", "holds nothing", True),
            ((there, Pause(seconds=0.0)), "block-without-effect", "routines[0].blocks[1]", "lasts no time", True),
            ((Repeat(times=3, blocks=(there, pause, move(to=off))),), "repeat-without-pause", "routines[0].blocks[0]", "ends each of 3 turns", True),
            ((Repeat(times=3, blocks=(there, move(to=off))),), "", "", "", True),  # it pauses nowhere, as is meant
            ((Repeat(times=3, blocks=(there, pause, move(to=off), pause)),), "", "", "", True),
            ((move(to={"Lift": "9", "Reach": "9"}),), "axis-holds-back", "routines[0]", "Without Reach's speed of 1 mm/s", False),
            ((Each(to={"Lift": Decimal(2)}), Each(to={"Lift": Decimal(4)})), "never-reaches-speed", "routines[0].blocks[0]", "nor in another block: for that it would need 5.33 mm", False),
            ((Spin(speeds={"Lift": Decimal(99)}, seconds=1.0),), "spin-impossible", "routines[0].blocks[0].speeds.Lift", "is 40", False),
        )  # fmt: skip
        for blocks, code, place, words, mends in table:
            with self.subTest(code=code, words=words):
                built = machine(lift, reach, blocks=blocks)
                found = all_findings(built)
                self.assertEqual([(f.code, str(f.place)) for f in found], [(code, place)] if code else [])
                if code:
                    self.assertIn(words, found[0].message)
                    edit = remedy_of(found[0])
                    self.assertEqual(edit is not None, mends)
                    self.assertEqual(all_findings(edit(built)) if edit else (), ())

    def test_a_pose_beyond_a_limit_can_be_pulled_in(self):
        axis = screw_axis(enable="P2", limits=limits(max=Decimal(10)))
        built = replace(machine(axis), poses=(Pose(name="Far", at={"Lift": Decimal(12)}),))
        found = all_findings(built)
        self.assertEqual([(f.code, str(f.place)) for f in found], [("pose-unreachable", "poses[0].at.Lift")])
        edit = remedy_of(found[0])
        assert edit is not None
        self.assertEqual(edit(built).poses, (Pose(name="Far", at={"Lift": Decimal(10)}),))

    def test_mistakes_of_supplies_switches_and_windings(self):
        supplies = (Supply(name="bench", volts=12.0, max_a=1.0),)
        bank = SwitchBank(names=("1", "2"), microsteps={"00": 4, "10": 8}, setting="10")
        motor = replace(MOTOR, current_a=2.0, resistance_ohm=8.0)
        disc = coil_axis(driver={"supply": "bench", "at_rest": "off"})
        table = [
            (replace(disc, motor=motor), "supply-overloaded", "warning", "supplies[0].max_a", "stronger", False),
            (replace(disc, driver=replace(disc.driver, supply_v=9.0)), "supply-mismatch", "warning", "axes[0].driver.supply_v", "Remove", True),
            (screw_axis(enable="P2", driver={"switches": bank, "microsteps": 4}), "switches-differ", "warning", "axes[0].driver.switches.setting", "Set them to 00 .1 off, 2 off., or take the 8", True),
            (screw_axis(enable="P2", driver={"switches": bank, "microsteps": 16}), "switches-differ", "warning", "axes[0].driver.switches.setting", "cannot give that", True),
            (coil_axis(driver={"outputs": "sink"}), "winding-mismatch", "warning", "axes[0].motor.winding", "bridge for each", True),
            (replace(coil_axis(driver={"supply_v": 12.0}), motor=motor), "hold-warms", "note", "axes[0].driver.at_rest", "9 W are left, and half", True),
        ]  # fmt: skip
        for axis, code, severity, place, remedy, mends in table:
            with self.subTest(code=code):
                built = replace(machine(axis), supplies=supplies)
                found = all_findings(built)
                self.assertEqual([(f.code, f.severity, str(f.place)) for f in found], [(code, severity, place)])
                self.assertRegex(found[0].remedy, remedy)
                edit = remedy_of(found[0])
                self.assertEqual(edit is not None, mends)
                if edit is not None:
                    self.assertEqual(all_findings(edit(built)), ())

    def test_mistakes_of_calibrations(self):
        """A chain that was changed since, readings that scatter, and a move that is lost in the play."""
        lift = screw_axis(enable="P2")
        loose = replace(lift, calibration=Calibration(backlash=0.5, residual=0.005, chain="200/1"))
        scattered = Calibration(backlash=0.5, residual=0.4, chain="200/1")
        against = replace(loose, calibration=Calibration(backlash=0.5, chain="200/1", sense=-1))
        table = [
            (against, "9", "turns-the-other-way", "axes[0].calibration.sense", True),
            (replace(coil_axis("Lift"), calibration=Calibration(sense=-1)), "9", "turns-the-other-way", "axes[0].calibration.sense", True),
            (replace(lift, tolerance=0.002), "9", "resolution-coarse", "axes[0].tolerance", True),
            (replace(lift, tolerance=1e-4), "9", "resolution-coarse", "axes[0].tolerance", False),
            (replace(lift, tolerance=0.005), "9", None, "", False),
            (replace(lift, sold="1.01"), "9", "ratio-differs-from-sold", "axes[0].sold", False),
            (replace(loose, driver=replace(lift.driver, microsteps=16)), "9", "calibration-stale", "axes[0].calibration", True),
            (replace(loose, calibration=scattered), "9", "residual-large", "axes[0].calibration.residual", False),
            (loose, "0.3", "backlash-exceeds-move", "routines[0].blocks[0]", False),
            (loose, "9", None, "", False),
        ]  # fmt: skip
        for axis, way, code, place, mends in table:
            built = machine(axis, blocks=(move(to={"Lift": way}),))
            found = apart_from_speed(built)
            self.assertEqual([(f.code, str(f.place)) for f in found], [(code, place)] if code else [])
            edit = remedy_of(found[0]) if found else None
            self.assertEqual(edit is not None, mends)
            if edit is not None:
                self.assertEqual(apart_from_speed(edit(built)), ())

    def test_mistakes_of_motors(self):
        """Only where nothing has to be guessed: a bare motor is not judged."""
        rig = load_example()
        lift = rig.axes[1]

        def with_limits(**changes):
            return replace(lift, limits=replace(lift.limits, **changes))

        judged = ("speed-over-torque", "acceleration-over-torque", "supply-low", "load-not-held")
        heavy = replace(lift, load=replace(lift.load, force_n=40.0, friction_torque_nm=0.0))
        fast = replace(with_limits(speed=900.0, acceleration=10.0), driver=replace(lift.driver, microsteps=1))
        table = [
            (fast, "speed-over-torque", "limits.speed", "may stall", True),
            (with_limits(acceleration=40_000.0), "acceleration-over-torque", "limits.acceleration", "2.46 times", True),
            (replace(with_limits(speed=0.5), driver=replace(lift.driver, supply=None, supply_v=1.2)), "supply-low", "driver.current_a", "needs 1.7 V", True),
            (replace(heavy, driver=replace(lift.driver, at_rest="off")), "load-not-held", "driver.at_rest", "0.015 N m hold it", True),
            (replace(heavy, load=replace(heavy.load, force_n=400.0)), "load-not-held", "driver.at_rest", "pulls 0.509 N m", False),
            (heavy, None, "", "", False),
            (replace(fast, motor=replace(lift.motor, inductance_mh=None)), None, "", "", False),
        ]  # fmt: skip
        for axis, code, place, said, mends in table:
            built = replace(rig, axes=(axis,), routines=())
            own = [f for f in all_findings(built) if f.code in judged]
            if code is None:
                self.assertEqual(own, [], axis)
                continue
            own = [f for f in own if f.code == code]
            self.assertEqual([str(f.place) for f in own], [f"axes[0].{place}"])
            self.assertIn(said, own[0].message)
            edit = remedy_of(own[0])
            self.assertEqual(edit is not None, mends)
            if edit is not None:
                self.assertNotIn(code, [f.code for f in all_findings(edit(built))])

    def test_mistakes_of_ramps(self):
        """Each is told once, at its place, and mended by its press where there is one."""
        rig = load_example()
        lift = rig.axes[1]
        unknown = replace(lift, motor=replace(lift.motor, rotor_inertia_kgm2=None, inductance_mh=None), margin=2.0)
        odd = replace(lift, motor=replace(lift.motor, inductance_mh=1e-12))  # no rotor of such figures can be simulated
        odd = replace(odd, limits=replace(lift.limits, speed=300.0, acceleration=15_000.0, deceleration=15_000.0))
        table: list[tuple[Any, ...]] = [
            (odd, "steps-lost", None, "", False),
            ({"start_speed": 39.0}, "start-speed-over-pull-in", "axes[1].limits.start_speed", "start at about 36.1 mm/s", True),
            ({"shape": "none", "speed": 60.0}, "start-speed-over-pull-in", "axes[1].limits.speed", "jumps to 60 mm/s", True),
            ({"avoid": ((35.0, 45.0),)}, "speed-in-avoid-band", "axes[1].limits.speed", "it goes 35 mm/s", True),
            ({"avoid": ((25.0, 31.0),)}, "speed-in-avoid-band", "routines[2].blocks[0].speed_factor", "is to go 28 mm/s", False),
            ({"speed": 300.0, "acceleration": 15_000.0, "deceleration": 15_000.0}, "steps-lost", "routines[0].blocks[2]", "Lift loses 40 full steps, first at 1.272 s", False),
            ({"shape": "none", "speed": 200.0}, "steps-lost", "routines[0].blocks[2]", "Lift slips, first at 1.255 s", False),
            ({"shape": "torque", "acceleration": 200.0}, "steps-lost", None, "", False),
            (unknown, "motor-data-estimated", "axes[1].motor", "guessed: rotor inertia, inductance", False),
        ]  # fmt: skip
        for changes, code, place, said, mends in table:
            axis = replace(lift, limits=replace(lift.limits, **changes)) if isinstance(changes, dict) else changes
            built = replace(rig, axes=(rig.axes[0], axis, *rig.axes[2:]))
            blocks = (replace(built.routines[2].blocks[0], speed_factor=0.7), *built.routines[2].blocks[1:])
            built = replace(built, routines=(*built.routines[:2], replace(built.routines[2], blocks=blocks)))
            found = all_findings(built)
            own = [f for f in found if f.code == code]
            self.assertEqual(str(own[0].place) if own else None, place, (changes, own))
            if isinstance(changes, dict) and changes.get("acceleration") == 15_000.0:
                worst = [f for f in found if f.code == "acceleration-over-torque" and f.place.routine is not None]
                self.assertEqual(str(worst[0].place), place)
                self.assertRegex(worst[0].message, r"At 1.2\d* s Lift needs 1.\d* of the torque")
                self.assertIsNone(remedy_of(worst[0]))
            if place:
                self.assertIn(said, own[0].message)
                edit = remedy_of(own[0])
                self.assertEqual(edit is not None, mends)
                if edit is not None:
                    self.assertNotIn(code, [f.code for f in all_findings(edit(built))])

    def test_a_band_is_told_at_whatever_names_its_axis(self):
        """By itself, by a pose, or as one that carries the tool; a place without z leaves the lift where it is."""
        base, places = column(), {"x": Decimal(20), "y": Decimal(30)}
        axes = [replace(axis, limits=replace(axis.limits, speed=80.0, avoid=((35.0, 45.0),))) for axis in base.axes]
        pose = Pose(name="Home", at={base.axes[2].name: Decimal(0)})
        turn, reach, lift = (axis.name for axis in axes)
        for block, told in (
            (Move(to={reach: Decimal(5)}, by={lift: Decimal(1)}, speed_factor=0.5), [reach, lift]),
            (Move(pose="Home", speed_factor=0.5), [lift]),
            (Move(tool={**places, "z": Decimal(0)}, speed_factor=0.5), [turn, reach, lift]),
            (Move(tool=places, straight=True, speed_factor=0.5), [turn, reach]),
            (Move(tool=places), []),
        ):
            routine = replace(base.routines[0], blocks=(block,))
            built = replace(base, axes=tuple(axes), poses=(pose,), routines=(routine,))
            found = [f for f in all_findings(built) if f.code == "speed-in-avoid-band" and f.place.routine is not None]
            with self.subTest(block=block):
                self.assertEqual([f.message.split(" is to go 40 ")[0] for f in found], told)

    def test_thresholds_are_where_they_are_said_to_be(self):
        """Ten per cent above the rated current is the tolerance of a winding; at the pulse limit is not above it."""
        motor = replace(MOTOR, current_a=1.0, resistance_ohm=10.0)
        for supply, count in ((11.0, 0), (11.01, 1)):
            axis = replace(coil_axis(driver={"supply_v": supply, "at_rest": "off"}), motor=motor)
            self.assertEqual(len(all_findings(machine(axis))), count, supply)
        self.assertEqual(all_findings(machine(screw_axis(enable="P2", limits=limits(500.0)))), ())

    def test_a_table_is_mended_to_what_it_was_meant_to_be(self):
        for rows in ((1, 4, 2, 8), (1, 0, 2, 4, 8), (1, 3, 2, 6, 4, 12, 8, 1), (5, 10)):
            built = machine(coil_axis(sequence=OwnSequence(rows=rows)))
            edit = remedy_of(all_findings(built)[0])
            assert edit is not None
            self.assertEqual(all_findings(edit(built)), (), rows)

    def test_plugs_are_mended_with_the_least_change(self):
        """Whatever the order, one press leads to one that turns forward; orders that do have no finding."""
        for order in orders((1, 3, 2, 6, 4, 12, 8, 9)):
            built = machine(coil_axis(driver={"wires": order.wires}))
            found = all_findings(built)
            self.assertEqual(bool(found), order.verdict != "forward", order)
            if found:
                edit = remedy_of(found[0])
                assert edit is not None
                self.assertEqual(all_findings(edit(built)), ())

    def test_errors_come_first(self):
        axes = (screw_axis(limits=limits(40.0, start=50.0)), screw_axis("Reach", 0))
        self.assertEqual(
            [f.severity for f in all_findings(machine(*axes))], ["error", "error", "warning", "note", "note"]
        )
