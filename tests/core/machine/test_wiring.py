"""Edits of drives, lines, supplies and windings: what both sides share is kept, and nothing is lost."""

import unittest
from itertools import permutations
from typing import Any

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.drive.drivers import DRIVERS, board_lines
from kivant.core.drive.windings import Reading, find_windings
from kivant.core.errors import KivantError
from kivant.core.findings.checks import all_findings, remedy_of
from kivant.core.machine import Board, Unit
from kivant.core.machine.drives import change_driver, change_unit, set_lead, use_windings
from kivant.core.machine.feeding import add_supply, feed_axis, remove_supply, rename_supply, type_supply
from kivant.core.machine.lines import (
    Use,
    add_line,
    assign_line,
    exchange_lines,
    free_lines,
    remove_line,
    rename_line,
    take_off,
    type_board,
    use_board,
    uses,
)
from kivant.core.travel.conversion import steps_per_unit
from kivant.files import project
from tests.machines import coil_axis, machine, screw_axis

RIG = load_example()


def sound(made):
    """Return a machine as it is read back from its file: what no file could hold is refused there."""
    return project.loads(project.dumps(made))


class Drives(unittest.TestCase):
    def test_another_kind_keeps_what_both_share(self):
        """Through every other kind and back: resolution, supply, figures; lines do not collide."""
        for index, axis in enumerate(RIG.axes):
            for way in permutations(DRIVERS, 2):
                made = RIG
                for kind in (*way, axis.driver.kind):
                    made = sound(change_driver(index, kind)(made))
                    self.assertEqual([u for u in uses(made).values() if len(u) > 1], [])
                    self.assertEqual(made.axes[index].driver.supply, axis.driver.supply)
                    self.assertEqual(made.axes[index].driver.at_rest, axis.driver.at_rest)
                if axis.driver.kind == "coils":
                    self.assertEqual(steps_per_unit(made.axes[index]), steps_per_unit(axis))
                    self.assertEqual(made.axes[index].motor, axis.motor)
        self.assertEqual(change_driver(0, "coils")(RIG), RIG)

    def test_turning_and_sliding(self):
        for index, axis in enumerate(RIG.axes):
            other: Unit = "mm" if axis.unit == "deg" else "deg"
            made = sound(change_unit(index, other)(RIG)).axes[index]
            self.assertEqual((made.unit, made.limits, made.driver), (other, axis.limits, axis.driver))
        self.assertEqual(len(change_unit(0, "mm")(RIG).axes[0].travel), 4, "a screw behind the gears")

    def test_windings_are_put_to_use(self):
        ohm = {"two": 8.0, "half": 4.0}
        six = [Reading(p, ohm["half"]) for p in (("1", "2"), ("3", "2"), ("4", "5"), ("6", "5"))]
        six += [Reading(("1", "3"), ohm["two"]), Reading(("4", "6"), ohm["two"]), Reading(("1", "4"), "open")]
        found = find_windings(six, [str(k) for k in range(1, 7)])
        motor = sound(use_windings(0, found)(machine(coil_axis()))).axes[0].motor
        self.assertEqual((motor.winding, motor.resistance_ohm), ("unipolar", 4.0))
        leads = motor.leads
        self.assertEqual({leads.A, leads.C, leads.AC}, {"1", "3", "2"})
        self.assertEqual({leads.B, leads.D, leads.BD}, {"4", "6", "5"})
        bridge: Any = use_windings(0, found)(machine(coil_axis(driver={"outputs": "bridge", "wires": "ACBD"}))).axes[0]
        self.assertEqual(
            (bridge.motor.winding, bridge.motor.resistance_ohm, bridge.driver.wires), ("bipolar", 8.0, None)
        )
        five = find_windings([Reading((str(k), "5"), 40.0) for k in range(1, 5)] + [Reading(("1", "2"), 80.0)])
        motor = use_windings(0, five)(machine(coil_axis())).axes[0].motor
        self.assertEqual((motor.winding, motor.resistance_ohm, motor.leads.AC), ("unipolar", 40.0, "5"))
        eight = find_windings([Reading((str(k), str(k + 1)), 2.0) for k in (1, 3, 5, 7)])
        motor = use_windings(0, eight)(machine(screw_axis())).axes[0].motor
        self.assertEqual((motor.winding, motor.resistance_ohm), ("bipolar", 4.0))
        self.assertEqual((motor.leads.A, motor.leads.AC, motor.leads.C), ("1", "2 + 3", "4"))
        with self.assertRaisesRegex(KivantError, "not known yet"):
            use_windings(0, find_windings([], ["1", "2", "3", "4"]))(machine(coil_axis()))
        named = set_lead(0, "B", " red ")(machine(coil_axis()))
        self.assertEqual(named.axes[0].motor.leads.B, "red")
        self.assertIsNone(set_lead(0, "B", "")(named).axes[0].motor.leads)


class Lines(unittest.TestCase):
    def test_a_line_is_given_and_what_was_there_takes_its_place(self):
        made = sound(assign_line(Use(0, "A"), "P4")(RIG))
        self.assertEqual(board_lines(made.axes[0].driver)["A"], "P4")
        self.assertEqual(board_lines(made.axes[1].driver)["STEP"], "P0")
        self.assertEqual(assign_line(Use(0, "A"), free_lines(RIG)[0])(RIG).axes[1:], RIG.axes[1:])
        swapped = exchange_lines(0, "A", "C")(RIG)
        self.assertEqual([*board_lines(swapped.axes[0].driver).values()], ["P2", "P1", "P0", "P3"])
        self.assertEqual(exchange_lines(0, "A", "C")(swapped), RIG)
        without = take_off(Use(1, "EN"))(RIG)
        self.assertNotIn("EN", board_lines(without.axes[1].driver))
        self.assertEqual(assign_line(Use(1, "EN"), "P6")(without), RIG)
        for edit, said in (
            (take_off(Use(0, "A")), "Wheel's A needs a line"),
            (assign_line(Use(0, "A"), "Q"), "no line “Q”"),
            (remove_line("lines", "P0"), "Wheel's A uses line P0"),
            (rename_line("lines", "P0", "P1"), "appears twice"),
            (rename_line("inputs", "I0", ""), "not empty"),
            (type_board("tick_hz", "5"), "at least 1000"),
            (use_board(Board(name="small", lines=("X",))), "has 1 lines; 14 are needed"),
        ):
            with self.assertRaisesRegex(KivantError, said):
                edit(RIG)

    def test_the_board(self):
        named = sound(rename_line("lines", "P0", "coil A")(RIG))
        self.assertEqual(board_lines(named.axes[0].driver)["A"], "coil A")
        self.assertEqual(remove_line("inputs", "I3")(add_line("inputs")(RIG)).board.inputs, ("I0", "I1", "I2", "I4"))
        self.assertEqual(type_board("max_pulse_hz", "50 kHz")(RIG).board.max_pulse_hz, 50_000.0)
        other = Board(name="other", lines=tuple(f"P{k}" for k in range(2, 30)))
        made = sound(use_board(other)(RIG))
        self.assertEqual(board_lines(made.axes[1].driver), board_lines(RIG.axes[1].driver), "names of both stay")
        self.assertEqual([u for u in uses(made).values() if len(u) > 1], [])

    def test_supplies(self):
        rig = replace(
            RIG,
            supplies=None,
            axes=tuple(replace(a, driver=replace(a.driver, supply=None, supply_v=9.0)) for a in RIG.axes),
        )
        made: Any = sound(add_supply((0, 1), 9.0)(rig))
        self.assertEqual([a.driver.supply for a in made.axes], ["9 V supply", "9 V supply", None, None])
        made = type_supply(0, "max_a", "1500mA")(rename_supply(0, "bench")(made))
        self.assertEqual(
            (made.supplies[0].name, made.supplies[0].max_a, made.axes[1].driver.supply), ("bench", 1.5, "bench")
        )
        self.assertEqual(feed_axis(1, None)(made).axes[1], rig.axes[1])
        self.assertEqual(remove_supply(0)(made).axes, rig.axes)
        unknown: Any = type_supply(0, "max_a", "not known")(made)
        self.assertIsNone(unknown.supplies[0].max_a)
        for edit, said in (
            (type_supply(0, "volts", "12 W"), "not a unit"),
            (rename_supply(0, ""), "not empty"),
            (rename_supply(0, "9 V supply"), "appears twice"),
            (feed_axis(0, "nothing"), "no supply “nothing”"),
            (remove_supply(7), "no such supply"),
        ):
            with self.assertRaisesRegex(KivantError, said):
                edit(add_supply((), 9.0)(made))


class MendedInOnePress(unittest.TestCase):
    def test_more_lines(self):
        axes = (coil_axis(), coil_axis("B", 2), screw_axis("C", 0))
        small = replace(machine(*axes), board=Board(lines=tuple(f"P{k}" for k in range(6))))
        short = next(f for f in all_findings(small) if f.code == "lines-short")
        self.assertIn("need 10 lines; the board has 6", short.message)
        mended = sound(remedy_of(short)(small))
        self.assertEqual([u for u in uses(mended).values() if len(u) > 1], [])
        self.assertEqual({f.code for f in all_findings(mended)}, {"enable-missing"})


if __name__ == "__main__":
    unittest.main()
