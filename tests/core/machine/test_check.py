"""What a machine may hold: the same in the core as in a file, each fault with its place and what was expected."""

import json
import unittest
from decimal import Decimal
from importlib import resources
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.fields import Part
from kivant.core.machine import Gear, Machine, Move, Pause, Routine
from kivant.core.machine.check import MachineError, checked, faults_of
from kivant.core.machine.edits import with_value
from kivant.core.path import Path
from kivant.core.plan import PlanError, plan
from kivant.files import project
from tests.machines import machine, move, screw_axis

RIG = project.loads(resources.files("kivant").joinpath("examples", "banding-rig.kivant").read_bytes())

WRONG = [  # path, value, what is said
    ("axes[1].limits.speed", 0.0, "a number above 0"), ("axes[1].limits.speed", float("nan"), "a finite number"),
    ("axes[1].limits.speed", "fast", "a number; found \"fast\""), ("axes[1].limits.speed", True, "a number; found true"),
    ("axes[1].limits.acceleration", 1e13, "at most 1e\\+12"), ("axes[1].limits.min", Decimal("1e16"), "between -1e15 and 1e15"),
    ("axes[1].limits.min", 3.5, "a number"), ("axes[1].limits.jerk", 0.0, "at least 1e-09"),
    ("axes[1].limits.jerk", 1e-7, "takes 11.1 h to reach its speed"), ("axes[1].limits.shape", "round", "'none', 'trapezoid', 's_curve' or 'torque'"),
    ("axes[1].limits.avoid", ((20.0, 10.0),), "the lower first"),
    ("axes[1].limits.avoid", ((0.0, 10.0),), "at least 1e-09"), ("axes[1].limits.avoid", ((0.1, 1e6),), "hardly any speed to Lift"), ("axes[1].limits.avoid", ((1.0, 5.0), (5.0, 8.0)), "does not lie above the one before"),
    ("axes[1].driver.microsteps", 0, "at least 1"), ("axes[1].driver.microsteps", 2.5, "a whole number"),
    ("axes[1].driver.at_rest", "asleep", "'off', 'hold' or 'reduced'"), ("axes[0].driver.lines.A", "", "not empty"),
    ("axes[0].travel[0].driving", 0, "at least 1"), ("axes[1].travel[0].lead", Decimal(0), "a positive decimal number"),
    ("axes[0].name", "two\nlines", "without line breaks"), ("axes[0].name", "n" * 81, "at most 80 characters"),
    ("axes[0].travel", (Gear(driving=1, driven=2),) * 33, "at most 32 entries"), ("axes[0].travel", [], None),
    ("board.tick_hz", 10, "at least 1000"), ("routines[0].blocks[1].seconds", -1.0, "at least 0"),
    ("routines[0].blocks[0].to", {"Lift": Decimal("1e20")}, "between -1e15 and 1e15"),
]  # fmt: skip


def put(built: Machine, path: str, value: object) -> Machine:
    """Return a machine with a value that may be wrong, unchecked."""

    def replaced(part, rest: Path):
        if not rest:
            return value
        key, inner = rest[0], Path(rest[1:])
        if isinstance(key, int):
            return (*part[:key], replaced(part[key], inner), *part[key + 1 :])
        return replace(part, **{key: replaced(getattr(part, key), inner)})

    return replaced(built, Path.parse(path))


def fields(value: object, place: Path) -> dict[tuple[type, str], str]:
    """Return a path for every field of every class of parts that there are in a part."""
    if isinstance(value, tuple):
        found = [fields(inner, place / index) for index, inner in enumerate(value)]
    elif isinstance(value, Part):
        own = {name: getattr(value, name) for name in value.__struct_fields__ if name != "x"}
        found = [{(type(value), name): str(place / name) for name in own}]
        found += [fields(inner, place / name) for name, inner in own.items()]
    else:
        return {}
    return {key: path for one in found for key, path in one.items()}


ODD = [
    None, True, 0, 1, 2, -1, 0.0, -0.0, 1e-9, 9e-10, 1e-6, 1.0, 100.0, 100.00000000000001, 1e6, 1e7, 10_000_000.1, 1e12,
    1.0000000000000002e12, 10**400, "mm", "x" * 80, "x" * 81, " x", "", (), ((),), {}, {"Lift": Decimal("NaN")},
    {"": Decimal(1)}, {"Lift": Decimal("1e14")}, {"Lift": Decimal("1e15")}, {"Lift": 3}, {"Lift": 0.5}, {3: Decimal(1)},
    float("inf"), float("nan"), Decimal("NaN"), Decimal("1e15"), Decimal("1e-31"),
]  # fmt: skip
"""Values at bounds and beyond them, and of wrong kinds."""


class Ranges(unittest.TestCase):
    def test_each_wrong_value_is_told_with_its_place(self):
        for path, value, words in WRONG:
            with self.subTest(path=path, value=value):
                faults = list(faults_of(put(RIG, path, value)))
                self.assertTrue(all(str(fault.place).startswith(path) for fault in faults), faults)
                self.assertRegex(faults[0].message, words or "a list in brackets")

    def test_the_file_and_the_core_say_the_same(self):
        """What the core has against a number, the reader of files has against it, word for word."""
        for path, value, _words in WRONG:
            if not isinstance(value, int | float) or value != value or path.endswith("min"):
                continue
            document = json.loads(project.dumps(RIG))
            Path.parse(path).parent.look_up(document)[Path.parse(path).key] = value
            with self.assertRaises(project.ProjectError) as caught:
                project.loads(json.dumps(document).encode())
            told = [str(fault).split("; found")[0] for fault in caught.exception.faults]
            own = [str(fault).split("; found")[0] for fault in faults_of(put(RIG, path, value))]
            self.assertEqual(told, own)

    @settings(max_examples=150)
    @given(st.sampled_from([path for path, _value, _words in WRONG]), st.one_of(
        st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=5), st.decimals(), st.just(()), st.just({}),
    ))  # fmt: skip
    def test_whatever_is_put_anywhere_is_sound_or_refused(self, path, value):
        """Nothing but the one error comes of it; what is sound can be saved, read again, and planned or refused in words."""
        try:
            made = checked(put(RIG, path, value), routines=True)
        except MachineError:
            return
        self.assertEqual(
            project.loads(project.dumps(made)), project.loads(project.dumps(project.loads(project.dumps(made))))
        )
        for routine in made.routines:
            try:
                plan(made, routine)
            except PlanError as error:
                self.assertTrue(error.faults)

    def test_the_quick_look_finds_wrong_what_the_whole_check_does(self):
        small = replace(RIG, axes=RIG.axes[:2], routines=RIG.routines[-1:])
        for path in fields(small, Path()).values():
            for value in ODD:
                made = put(small, path, value)
                told = list(faults_of(made))
                with mock.patch("kivant.core.machine.check.sound", return_value=False):
                    self.assertEqual(told, list(faults_of(made)), (path, value))

    def test_routines_are_left_out_unless_they_are_asked_for(self):
        wrong = put(RIG, "routines[0].blocks[1].seconds", -1.0)
        checked(wrong)
        with self.assertRaises(MachineError):
            checked(wrong, routines=True)
        with self.assertRaises(MachineError):
            with_value(RIG, Path.parse("routines[0].blocks[1].seconds"), -1.0)


class Plans(unittest.TestCase):
    def test_a_plan_refuses_what_no_file_could_hold(self):
        """No division by zero, no endless plan: the fault is told as a file's would be."""
        lift = screw_axis()
        slow = replace(lift, limits=replace(lift.limits, speed=0.0))
        stuck = replace(lift, limits=replace(lift.limits, acceleration=0.0))
        table = [
            (machine(slow, blocks=(move(to={"Lift": "1"}),)), r"axes\[0\]\.limits\.speed: Expected a number above 0"),
            (machine(stuck, blocks=(move(to={"Lift": "1"}),)), r"limits\.acceleration: Expected a number above 0"),
            (machine(lift, blocks=(move(to={"Lift": "1"}, speed_factor=0.0),)), r"blocks\[0\]\.speed_factor: Expected"),
            (machine(lift, blocks=(move(to={"Arm": "1"}),)), r"blocks\[0\]\.to\.Arm: There is no axis “Arm”"),
            (machine(lift, blocks=(Move(),)), r"routines\[0\]\.blocks\[0\]: The move names no axis"),
            (machine(lift, blocks=(Pause(seconds=float("inf")),)), r"blocks\[0\]\.seconds: Expected a finite number"),
            (machine(lift, start={"Arm": "1"}), r"routines\[0\]\.start\.Arm: There is no axis"),
            (machine(lift, lift), r"axes\[1\]\.name: The axis “Lift” appears twice"),
        ]
        for built, words in table:
            with self.subTest(words=words), self.assertRaisesRegex(PlanError, words):
                plan(built)
        with self.assertRaisesRegex(PlanError, r"^move\.blocks\[0\]\.by\.Arm: There is no axis"):
            plan(machine(lift), Routine(name="", blocks=(move(by={"Arm": "1"}),)))
