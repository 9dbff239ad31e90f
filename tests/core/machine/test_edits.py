"""Edits of a machine: each changes what it says and nothing else, keeps every rule, and is refused with a reason."""

import unittest
from decimal import Decimal

from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.drive.drivers import board_lines
from kivant.core.errors import KivantError
from kivant.core.findings.checks import all_findings, remedy_of
from kivant.core.machine import Gear, Move, Ratio, Routine, Screw, axes, edits
from kivant.core.path import Path, axis_path
from kivant.core.plan import plan
from kivant.files import project
from tests.machines import MOTOR, coil_axis, limits, machine, move, screw_axis

RIG = load_example()
WHEEL, LIFT, REACH, TILT = range(4)


def typed(index: int, inner: str, text: str) -> edits.Edit:
    """Return the edit of what is typed at a path of an axis."""
    return edits.typed(axis_path(index) / Path.parse(inner), text)


def at(made, path: str):
    """Return what stands at a key path such as ``limits.speed`` or ``travel.0.driven`` of the Wheel or another axis."""
    for part in path.split("."):
        made = made[int(part)] if part.isdigit() else getattr(made, part)
    return made


class Values(unittest.TestCase):
    def test_each_edit_changes_one_value(self):
        """What is typed is understood in its units, and the rest of the machine is the same."""
        table = [
            (WHEEL, typed(WHEEL, "limits.speed", "5rpm"), "limits.speed", 30.0),
            (WHEEL, typed(WHEEL, "limits.start_speed", "0"), "limits.start_speed", 0.0),
            (LIFT, typed(LIFT, "limits.acceleration", "1e3 mm/s2"), "limits.acceleration", 1000.0),
            (LIFT, typed(LIFT, "limits.deceleration", "250"), "limits.deceleration", 250.0),
            (LIFT, typed(LIFT, "limits.max", "8in"), "limits.max", Decimal("203.2")),
            (LIFT, typed(LIFT, "limits.min", ""), "limits.min", None),
            (REACH, edits.set_value(axis_path(REACH, "limits", "speed"), 77.5), "limits.speed", 77.5),
            (LIFT, typed(LIFT, "driver.direction_setup_us", "0.5ms"), "driver.direction_setup_us", 500.0),
            (LIFT, typed(LIFT, "driver.pulse_high_us", "2.5"), "driver.pulse_high_us", 2.5),
            (LIFT, typed(LIFT, "driver.pulse_low_us", "900ns"), "driver.pulse_low_us", 0.9),
            (WHEEL, edits.set_value(axis_path(WHEEL, "driver", "sequence"), "wave"), "driver.sequence", "wave"),
            (REACH, typed(REACH, "driver.microsteps", "32"), "driver.microsteps", 32),
            (TILT, typed(TILT, "motor.full_steps_per_rev", "400"), "motor.full_steps_per_rev", 400),
            (WHEEL, typed(WHEEL, "travel[1].driven", "60"), "travel.1.driven", 60),
            (LIFT, typed(LIFT, "travel[0].lead", "0.1 in"), "travel.0.lead", Decimal("2.54")),
            (REACH, typed(REACH, "travel[0].pitch", "2.032"), "travel.0.pitch", Decimal("2.032")),
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
            (typed(WHEEL, "limits.speed", "-1"), "above 0"), (typed(WHEEL, "limits.speed", "1e99"), "more than 1e15"),
            (typed(WHEEL, "limits.speed", "5mm/s"), "not a unit of a speed"), (typed(WHEEL, "limits.acceleration", ""), "not an acceleration"),
            (typed(LIFT, "limits.max", "-5"), "below the least"), (typed(LIFT, "driver.pulse_high_us", "0"), "above 0"),
            (typed(LIFT, "driver.pulse_high_us", "1 hour"), "a unit: us"), (typed(LIFT, "driver.microsteps", "0"), "at least 1"),
            (typed(LIFT, "driver.microsteps", "2.5"), "not a whole number"), (typed(LIFT, "motor.full_steps_per_rev", "many"), "not a number of full steps"),
            (typed(WHEEL, "travel[0].driving", "-3"), "at least 1"), (typed(LIFT, "travel[0].lead", "0"), "positive decimal"),
            (edits.add_stage(WHEEL, "screw"), "no belt or screw"), (edits.remove_stage(LIFT, 0), "exactly one belt or screw"),
            (axes.rename_axis(WHEEL, " Lift "), "appears twice"), (axes.rename_axis(WHEEL, ""), "not empty"),
            (axes.rename_axis(WHEEL, "a\nb"), "without line breaks"), (axes.rename_axis(WHEEL, "n" * 99), "at most 80"),
        ]  # fmt: skip
        for edit, words in table:
            with self.subTest(words=words), self.assertRaisesRegex(KivantError, words):
                edit(RIG)

    @settings(max_examples=200)
    @given(st.text(max_size=30))
    @example("0{")
    @example("1{shown}")
    def test_no_text_breaks_a_field(self, text):
        """Whatever is typed is taken or refused in words; what is taken can be saved."""
        for make in (
            lambda t: typed(WHEEL, "limits.speed", t), lambda t: typed(LIFT, "limits.max", t),
            lambda t: typed(LIFT, "driver.pulse_low_us", t), lambda t: typed(LIFT, "travel[0].lead", t),
            lambda t: typed(LIFT, "driver.microsteps", t), lambda t: axes.rename_axis(WHEEL, t),
        ):  # fmt: skip
            try:
                made = make(text)(RIG)
            except KivantError as error:
                self.assertTrue(error.faults[0].message)
            else:
                project.loads(project.dumps(made))


class Stages(unittest.TestCase):
    def test_stages_are_added_before_the_last_and_moved_about(self):
        geared = edits.add_stage(LIFT, "gear")(RIG)
        self.assertEqual([type(s) for s in geared.axes[LIFT].travel], [Gear, Screw])
        ratio = edits.add_stage(WHEEL, "ratio")(RIG)
        moved = edits.move_stage(WHEEL, 3, 0)(ratio)
        self.assertEqual(moved.axes[WHEEL].travel[0].stage, "ratio")
        self.assertEqual(edits.remove_stage(WHEEL, 0)(moved), RIG)
        swapped = edits.replace_last_stage(REACH, "screw")(RIG)
        self.assertEqual([s.stage for s in swapped.axes[REACH].travel], ["screw"])
        text = typed(WHEEL, "travel[3].ratio", "1024/75")(ratio)
        self.assertEqual(text.axes[WHEEL].travel[3], Ratio(ratio="1024/75"))
        with self.assertRaisesRegex(KivantError, "positive ratio"):
            typed(WHEEL, "travel[3].ratio", "1/0")(ratio)


class Axes(unittest.TestCase):
    def test_a_renamed_axis_moves_as_before(self):
        """The routines name it anew, and their plans are the same step by step."""
        made = axes.rename_axis(LIFT, "Hoist")(RIG)
        for old, new in zip(RIG.routines, made.routines, strict=True):
            before, after = plan(RIG, old), plan(made, new)
            self.assertEqual(before.duration, after.duration)
            self.assertEqual(before.axis("Lift").instants.tolist(), after.axis("Hoist").instants.tolist())

    def test_a_deleted_axis_leaves_whole_routines(self):
        """Moves of it alone go, others keep the rest; what remains can be planned and saved."""
        made = axes.delete_axis(LIFT)(RIG)
        self.assertEqual([a.name for a in made.axes], ["Wheel", "Reach", "Tilt"])
        self.assertTrue(all(b.to or b.by for r in made.routines for b in r.blocks if isinstance(b, Move)))
        for routine in project.loads(project.dumps(made)).routines:
            plan(made, routine)
        for _ in range(3):
            made = axes.delete_axis(0)(made)
        self.assertEqual(made.axes, ())

    def test_new_axes_take_free_lines_and_more_are_added_where_none_are_free(self):
        """However many of each kind are added and doubled, each can be planned and saved, no line is shared and every line is on the board."""
        made = RIG
        for k in range(6):
            kind = list(axes.new_axes())[k]
            made = axes.duplicate_axis(len(made.axes))(axes.add_axis(kind)(made))
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
        made = axes.move_axis(0, 2)(RIG)
        self.assertEqual([a.name for a in made.axes], ["Lift", "Reach", "Wheel", "Tilt"])
        self.assertEqual(axes.move_axis(2, 0)(made), RIG)

    def test_remedies_remove_their_findings(self):
        """Each edit that a finding offers makes that finding go away; where only a person can help, none is offered."""
        fast = screw_axis(enable=None, limits=limits(900.0, start=950.0))
        built = machine(fast, screw_axis("Reach", 1, enable="P9"), coil_axis("Hot", 20))
        codes = [finding.code for finding in all_findings(built)]
        self.assertEqual(sorted(set(codes)), ["enable-missing", "line-shared", "no-ramp", "pulse-rate-capped"])
        while found := all_findings(built):
            edit = remedy_of(found[0])
            built = edit(built)
            self.assertNotIn(found[0], all_findings(built))
        hot = replace(
            coil_axis(driver={"supply_v": 12.0, "at_rest": "off"}),
            motor=replace(MOTOR, current_a=0.1, resistance_ohm=8.0),
        )
        self.assertEqual([remedy_of(found) for found in all_findings(machine(hot))], [None])
        full = replace(
            built,
            board=replace(
                built.board, lines=tuple(line for a in built.axes for line in board_lines(a.driver).values())
            ),
        )
        bare = replace(full, axes=(screw_axis(first_line=0), *full.axes[1:]))
        note = next(found for found in all_findings(bare) if found.code == "enable-missing")
        tight = replace(bare, board=replace(bare.board, lines=tuple(board_lines(bare.axes[0].driver).values())))
        with self.assertRaisesRegex(KivantError, "No board line is free"):
            remedy_of(note)(tight)
