"""Edits of a machine: each changes what it says and nothing else, keeps every rule, and is refused with a reason."""

import unittest
from dataclasses import replace
from decimal import Decimal

from hypothesis import example, given, settings
from hypothesis import strategies as st

from kivant.app import adding, editing
from kivant.app.examples import load_example
from kivant.app.probing import probe
from kivant.app.remedies import remedy_of
from kivant.core.driver import board_lines
from kivant.core.errors import KivantError
from kivant.core.findings import all_findings
from kivant.core.machine import Gear, Move, Routine, Screw
from kivant.core.plan import PlanError, plan
from kivant.files import project
from tests.machines import coil_axis, limits, machine, move, screw_axis

RIG = load_example()
WHEEL, LIFT, REACH, TILT = range(4)


def at(made, path: str):
    """Return what stands at a key path such as ``limits.speed`` or ``travel.0.driven`` of the Wheel or another axis."""
    for part in path.split("."):
        made = made[int(part)] if part.isdigit() else getattr(made, part)
    return made


class Values(unittest.TestCase):
    def test_each_edit_changes_one_value(self):
        """What is typed is understood in its units, and the rest of the machine is the same."""
        table = [
            (WHEEL, editing.limit(WHEEL, "speed", "5rpm"), "limits.speed", 30.0),
            (WHEEL, editing.limit(WHEEL, "start_speed", "0"), "limits.start_speed", 0.0),
            (LIFT, editing.limit(LIFT, "acceleration", "1e3 mm/s2"), "limits.acceleration", 1000.0),
            (LIFT, editing.limit(LIFT, "deceleration", "250"), "limits.deceleration", 250.0),
            (LIFT, editing.limit(LIFT, "max", "8in"), "limits.max", Decimal("203.2")),
            (LIFT, editing.limit(LIFT, "min", ""), "limits.min", None),
            (REACH, editing.limit_value(REACH, "speed", 77.5), "limits.speed", 77.5),
            (LIFT, editing.driver_time(LIFT, "direction_setup_us", "0.5ms"), "driver.direction_setup_us", 500.0),
            (LIFT, editing.driver_time(LIFT, "pulse_high_us", "2.5"), "driver.pulse_high_us", 2.5),
            (LIFT, editing.driver_time(LIFT, "pulse_low_us", "900ns"), "driver.pulse_low_us", 0.9),
            (WHEEL, editing.sequence(WHEEL, "wave"), "driver.sequence", "wave"),
            (REACH, editing.microsteps(REACH, "32"), "driver.microsteps", 32),
            (TILT, editing.full_steps(TILT, "400"), "motor.full_steps_per_rev", 400),
            (WHEEL, editing.stage_value(WHEEL, 1, "driven", "60"), "travel.1.driven", 60),
            (LIFT, editing.stage_value(LIFT, 0, "lead", "0.1 in"), "travel.0.lead", Decimal("2.54")),
            (REACH, editing.stage_value(REACH, 0, "pitch", "2.032"), "travel.0.pitch", Decimal("2.032")),
        ]
        for index, edit, path, expected in table:
            with self.subTest(path=path):
                made = edit(RIG)
                self.assertEqual(at(made.axes[index], path), expected)
                others = [k for k in range(4) if k != index]
                self.assertEqual([made.axes[k] for k in others], [RIG.axes[k] for k in others])
                self.assertEqual((made.board, made.routines), (RIG.board, RIG.routines))
                self.assertEqual(project.loads(project.dumps(made)), made, "what is edited can be saved")

    def test_what_no_machine_can_have_is_refused_with_the_reason(self):
        table = [
            (editing.limit(WHEEL, "speed", "-1"), "above 0"), (editing.limit(WHEEL, "speed", "1e99"), "more than 1e15"),
            (editing.limit(WHEEL, "speed", "5mm/s"), "no unit of a speed"), (editing.limit(WHEEL, "acceleration", ""), "no acceleration"),
            (editing.limit(LIFT, "max", "-5"), "below the least"), (editing.driver_time(LIFT, "pulse_high_us", "0"), "above 0"),
            (editing.driver_time(LIFT, "pulse_high_us", "1 hour"), "unit of us"), (editing.microsteps(LIFT, "0"), "at least 1"),
            (editing.microsteps(LIFT, "2.5"), "whole number"), (editing.full_steps(LIFT, "many"), "no number of full steps"),
            (editing.stage_value(WHEEL, 0, "driving", "-3"), "at least 1"), (editing.stage_value(LIFT, 0, "lead", "0"), "positive decimal"),
            (editing.add_stage(WHEEL, "screw"), "no belt or screw"), (editing.remove_stage(LIFT, 0), "exactly one belt or screw"),
            (editing.rename_axis(WHEEL, " Lift "), "there twice"), (editing.rename_axis(WHEEL, ""), "not empty"),
            (editing.rename_axis(WHEEL, "a\nb"), "without line breaks"), (editing.rename_axis(WHEEL, "n" * 99), "at most 80"),
        ]  # fmt: skip
        for edit, words in table:
            with self.subTest(words=words), self.assertRaisesRegex(KivantError, words):
                edit(RIG)

    @settings(max_examples=200, deadline=None)
    @given(st.text(max_size=30))
    @example("0{")
    @example("1{shown}")
    def test_no_text_breaks_a_field(self, text):
        """Whatever is typed is taken or refused in words; what is taken can be saved."""
        for make in (
            lambda t: editing.limit(WHEEL, "speed", t), lambda t: editing.limit(LIFT, "max", t),
            lambda t: editing.driver_time(LIFT, "pulse_low_us", t), lambda t: editing.stage_value(LIFT, 0, "lead", t),
            lambda t: editing.microsteps(LIFT, t), lambda t: editing.rename_axis(WHEEL, t),
        ):  # fmt: skip
            try:
                made = make(text)(RIG)
            except KivantError as error:
                self.assertTrue(error.faults[0].message)
            else:
                project.loads(project.dumps(made))


class Stages(unittest.TestCase):
    def test_stages_are_added_before_the_last_and_moved_about(self):
        geared = editing.add_stage(LIFT, "gear")(RIG)
        self.assertEqual([type(s) for s in geared.axes[LIFT].travel], [Gear, Screw])
        ratio = editing.add_stage(WHEEL, "ratio")(RIG)
        moved = editing.move_stage(WHEEL, 3, 0)(ratio)
        self.assertEqual(moved.axes[WHEEL].travel[0].stage, "ratio")
        self.assertEqual(editing.remove_stage(WHEEL, 0)(moved), RIG)
        swapped = editing.swap_last_stage(REACH)(RIG)
        self.assertEqual([s.stage for s in swapped.axes[REACH].travel], ["screw"])
        text = editing.stage_value(WHEEL, 3, "ratio", "1024/75")(ratio)
        self.assertEqual(text.axes[WHEEL].travel[3].ratio, "1024/75")
        with self.assertRaisesRegex(KivantError, "positive ratio"):
            editing.stage_value(WHEEL, 3, "ratio", "1/0")(ratio)


class Axes(unittest.TestCase):
    def test_a_renamed_axis_moves_as_before(self):
        """The routines name it anew, and their plans are the same step by step."""
        made = editing.rename_axis(LIFT, "Hoist")(RIG)
        for old, new in zip(RIG.routines, made.routines, strict=True):
            before, after = plan(RIG, old), plan(made, new)
            self.assertEqual(before.duration, after.duration)
            self.assertEqual(before.axis("Lift").instants.tolist(), after.axis("Hoist").instants.tolist())

    def test_a_deleted_axis_leaves_whole_routines(self):
        """Moves of it alone go, others keep the rest; what remains can be planned and saved."""
        made = editing.delete_axis(LIFT)(RIG)
        self.assertEqual([a.name for a in made.axes], ["Wheel", "Reach", "Tilt"])
        self.assertTrue(all(b.to or b.by for r in made.routines for b in r.blocks if isinstance(b, Move)))
        for routine in project.loads(project.dumps(made)).routines:
            plan(made, routine)
        for _ in range(3):
            made = editing.delete_axis(0)(made)
        self.assertEqual(made.axes, ())

    def test_new_axes_take_free_lines_and_more_are_added_where_none_are_free(self):
        """However many of each kind are added and doubled, each can be planned and saved, no line is shared and every line is on the board."""
        made = RIG
        for k in range(6):
            kind = list(adding.NEW_AXES)[k]
            made = adding.duplicate_axis(len(made.axes))(adding.add_axis(kind)(made))
            used = [line for axis in made.axes for line in board_lines(axis.driver).values()]
            self.assertEqual(len(used), len(set(used)))
            self.assertLessEqual(set(used), set(made.board.lines))
        self.assertEqual(made.board.lines[:16], RIG.board.lines)
        self.assertEqual(len({axis.name for axis in made.axes}), 16)
        self.assertEqual(project.loads(project.dumps(made)), made)
        kinds = [(axis.unit, axis.driver.kind) for axis in made.axes[4::2]]
        drivers = ("step_direction", "pulse_pair", "coils")
        self.assertEqual(kinds, [(unit, kind) for unit in ("deg", "mm") for kind in drivers])
        for axis in made.axes[4:]:
            self.assertTrue(plan(made, Routine(name="", blocks=(move(by={axis.name: "5"}),))).axis(axis.name).steps)

    def test_axes_change_places(self):
        made = editing.move_axis(0, 2)(RIG)
        self.assertEqual([a.name for a in made.axes], ["Lift", "Reach", "Wheel", "Tilt"])
        self.assertEqual(editing.move_axis(2, 0)(made), RIG)

    def test_remedies_remove_their_findings(self):
        """Each edit that a finding offers makes that finding go away; where only a person can help, none is offered."""
        fast = screw_axis(enable=None, limits=limits(900.0, start=950.0))
        built = machine(fast, screw_axis("Reach", 1, enable="P9"), coil_axis("Hot", 20))
        codes = [finding.code for finding in all_findings(built)]
        self.assertEqual(sorted(set(codes)), ["enable-missing", "line-shared", "no-ramp", "pulse-rate-capped"])
        while found := all_findings(built):
            edit = remedy_of(found[0].code, found[0].place)
            built = edit(built)
            self.assertNotIn(found[0], all_findings(built))
        self.assertIsNone(remedy_of("coil-current", "axes[0].driver.supply_v"))
        self.assertIsNone(remedy_of("line-shared", "routines[0]"))
        full = replace(
            built,
            board=replace(
                built.board, lines=tuple(line for a in built.axes for line in board_lines(a.driver).values())
            ),
        )
        with self.assertRaisesRegex(KivantError, "No line of the board is free"):
            remedy_of("enable-missing", "axes[0].driver.lines.EN")(full)


class Probes(unittest.TestCase):
    def test_a_probe_is_the_move_by_itself(self):
        """Up, on and down add up to the distance and the time; end stops do not matter; the figures are the plan's."""
        for index, distance in ((WHEEL, "90"), (LIFT, "-500"), (REACH, "0.4"), (TILT, "3000")):
            found = probe(RIG, index, Decimal(distance))
            seconds = sum(s for _name, s, _d in found.phases())
            self.assertAlmostEqual(seconds, found.plan.duration - found.begin_s)
            self.assertAlmostEqual(sum(d for _n, _s, d in found.phases()), abs(float(distance)))
            self.assertEqual(len(found.intervals_s()), max(found.axis.steps - 1, 0))
        self.assertEqual([n for n, _s, _d in probe(RIG, REACH, Decimal("0.4")).phases()], ["up", "down"])
        self.assertEqual(probe(RIG, WHEEL, Decimal(0)).phases(), ())
        self.assertEqual(probe(RIG, WHEEL, Decimal(90)).pulse_limit_hz, 100_000.0)

    def test_a_probe_too_long_is_refused(self):
        with self.assertRaisesRegex(PlanError, "GB of memory|farthest"):
            probe(RIG, LIFT, Decimal("1e9"))

    def test_a_probe_leaves_routines_out(self):
        long = machine(screw_axis(), blocks=(move(to={"Lift": "5"}),) * 1000)
        self.assertEqual(len(probe(long, 0, Decimal(1)).plan.blocks), 1)
