"""Lost motion in plans, against an independent simulation of a loose gear: the tool stands where it was commanded."""

import random
import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Pause
from kivant.core.machine.parts import Calibration
from kivant.core.motion.remainder import remainder
from kivant.core.motion.routine import commands
from kivant.core.plan import plan
from kivant.core.travel.conversion import convert, steps_per_unit
from kivant.core.travel.play import play_of
from kivant.files import project
from tests.board.played import played
from tests.machines import coil_axis, limits, machine, move, screw_axis


def loose(axis, backlash, first=1, scale="1"):
    return replace(axis, calibration=Calibration(scale=Decimal(scale), backlash=backlash, first_direction=first))


def tool_after(planned, first, play, ends_s, gear=None):
    """Let a motor turn a gear with play, step by step; return where the gear is at each of some times, in steps.

    It begins at `gear`, or where the motor does.

    The gap between the teeth is a stretch of `play` steps; the motor moves in it, and takes the gear along at its ends.
    """
    low, high = (-play, 0) if first > 0 else (0, play)
    motor = planned.start_steps
    gear = motor if gear is None else gear
    gone = [gear]
    for sign in planned.signs.tolist():
        motor += sign
        gear = min(max(gear, motor - high), motor - low)
        gone.append(gear)
    return np.array(gone)[np.searchsorted(planned.instants, np.array(ends_s) + 1e-12, "right")]


class LooseGear(unittest.TestCase):
    def test_the_tool_is_where_it_was_commanded_after_every_block(self):
        """Within half a step, whatever the routine; the block's motion comes behind the take-up, and nothing is faster."""
        chance = random.Random(9)
        for _ in range(1000):
            axes, plays = [], []
            for k, axis in enumerate((coil_axis("Disc"), screw_axis("Lift", 4, limits=limits(40.0)))):
                first = chance.choice((1, -1))
                axes.append(
                    loose(axis, chance.choice((0.0, 0.5, 0.13, 2.0)), first, chance.choice(("1", "1.0137", "0.98")))
                )
                plays.append((first, play_of(axes[k]).steps))
            blocks = []
            for _block in range(chance.randrange(1, 9)):
                names = chance.sample(("Disc", "Lift"), chance.randrange(1, 3))
                way = {name: str(round(chance.uniform(-30, 30), chance.randrange(4))) for name in names}
                blocks.append(
                    Pause(seconds=0.1) if chance.random() < 0.2 else move(**{chance.choice(("to", "by")): way})
                )
            built = machine(*axes, blocks=tuple(blocks))
            made = plan(built)
            commanded = commands(built, built.routines[0])
            ends_s = [block.end_s for block in made.blocks]
            tools = [tool_after(axis, *play, ends_s) for axis, play in zip(made.axes, plays, strict=True)]
            for row, end_s in enumerate(ends_s):
                for planned, tool, place in zip(made.axes, tools, commanded.positions(row + 1), strict=True):
                    wanted = float(place * steps_per_unit(planned.axis))
                    self.assertLessEqual(abs(tool[row] - wanted), 0.5 + 1e-9)
                    self.assertAlmostEqual(float(planned.ideal(end_s)), wanted, places=5)
            for planned, (_first, play) in zip(made.axes, plays, strict=True):
                self.assertLessEqual(planned.peak_speed, planned.axis.limits.speed * (1 + 1e-9))
                self.assertLessEqual(
                    abs(planned.final_steps - planned.final_position * float(planned.steps_per_unit)), play + 1e-6
                )
                times = np.linspace(0, made.duration, 400)
                ideal = planned.ideal(times)
                self.assertLessEqual(
                    float(np.max(np.abs(np.diff(ideal)), initial=0)), planned.peak_pulse_hz * made.duration / 399 + 1e-6
                )

    def test_one_reversal_by_hand(self):
        """Forward 10 mm and back 5: 200 steps/mm, 0.5 mm of play; 2000 on, then 100 for the play and 1000 back."""
        axis = loose(screw_axis(), 0.5)
        made = plan(machine(axis, blocks=(move(to={"Lift": "10"}), move(to={"Lift": "5"}), move(to={"Lift": "6"}))))
        lift = made.axes[0]
        self.assertEqual(lift.steps, 2000 + 1100 + 300)
        self.assertEqual((lift.final_steps, lift.final_position), (1200, 6.0))
        second = made.blocks[1]
        taking = lift.taken.end_s[0]
        self.assertEqual((lift.taken.begin_s[0], lift.taken.offsets.tolist()), (second.begin_s, [0, -100, 0]))
        self.assertTrue(second.begin_s < taking < second.end_s)
        self.assertEqual(float(lift.ideal(taking)), 2000.0, "the tool stands while the play is taken up")
        self.assertEqual(lift.sense_at(second.end_s), -1)
        slow = plan(machine(axis, blocks=(move(to={"Lift": "10"}), move(to={"Lift": "5"}, speed_factor=0.1))))
        took = slow.axes[0].taken.end_s[0] - slow.blocks[1].begin_s
        self.assertAlmostEqual(took, 2 * (0.5 / 300) ** 0.5, msg="as fast as it can, however slow the move is")
        back = plan(machine(axis, blocks=(move(by={"Lift": "1"}),)), senses={"Lift": -1}).axes[0]
        self.assertEqual((back.start_steps, back.steps, back.final_steps), (-100, 300, 200))
        for way, offset in (("1", 0), ("-1", -100)):  # from within the play, what is left of it is taken up either way
            blocks = (Pause(seconds=0.1), move(by={"Lift": way}))
            within = plan(machine(axis, blocks=blocks), senses={"Lift": Fraction(-1, 2)}).axes[0]
            self.assertEqual((within.start_steps, within.taken.offsets.tolist()), (-75, [-75, offset]))
            self.assertEqual((within.steps, float(within.ideal(within.taken.end_s[0]))), (200 + abs(offset + 75), 0.0))

    def test_what_is_left_after_a_stop_leads_the_tool_to_the_same_place(self):
        """Stopped anywhere, within a take-up too: it begins with the step that was counted, and ends as the whole."""
        chance, within = random.Random(4), 0
        for case in range(300):
            first, backlash = chance.choice((1, -1)), chance.choice((0.5, 0.13, 2.0))
            axis = loose(screw_axis(), backlash, first)
            places = [str(round(chance.uniform(0, 3), 2)) for _ in range(4)]
            built = machine(axis, blocks=tuple(move(to={"Lift": place}) for place in places))
            made = plan(built)
            lift, at, play = made.axes[0], chance.uniform(0, made.duration), play_of(axis).steps
            count = lift.train.position_after(lift.train.taken(at))
            rest = remainder(made, at, (count,))
            assert rest is not None
            left = plan(built, rest, senses={"Lift": lift.sense_at(at)}).axes[0]
            with self.subTest(case=case, places=places, at=at):
                self.assertEqual((left.start_steps, left.final_steps), (count, lift.final_steps))
                stopped = tool_after(lift, first, play, (at,))[0]
                ends = tool_after(left, first, play, (np.inf,), stopped)[0]
                self.assertLessEqual(abs(ends - 200 * float(places[-1])), 0.5 + 1e-9)
            within += abs(lift.sense_at(at)) != 1
        self.assertGreater(within, 20)

    def test_a_routine_without_blocks_leaves_the_motor_beside_the_tool(self):
        for sense, stands in ((1, 0), (-1, -100), (Fraction(1, 2), -25)):
            made = plan(machine(loose(screw_axis(), 0.5), coil_axis("Disc", 4)), senses={"Lift": sense})
            lift = made.axes[0]
            self.assertEqual((made.duration, lift.start_steps, lift.final_steps), (made.lead_in_s, stands, stands))
            self.assertEqual((lift.final_position, float(lift.ideal(0.0))), (0.0, 0.0))

    def test_the_board_plays_it_and_counts_it(self):
        axes = (loose(coil_axis("Disc"), 3.0, -1), loose(screw_axis("Lift", 4), 0.2))
        blocks = (move(to={"Disc": "40", "Lift": "3"}), move(to={"Disc": "-10"}), move(to={"Disc": "5", "Lift": "1"}))
        made = plan(machine(*axes, blocks=blocks))
        for planned, (times, signs) in zip(made.axes, played(made), strict=True):
            np.testing.assert_array_equal(signs, planned.signs)
            np.testing.assert_allclose(times, planned.instants, atol=2.5e-5)

    def test_the_scale_is_exact(self):
        axis = loose(screw_axis(), 0.0, scale="1.0137")
        self.assertEqual(steps_per_unit(axis), 200 / Fraction("1.0137"))
        self.assertEqual(convert(axis, Fraction("10.137")).steps_exact, 2000)
        built = machine(axis)
        self.assertEqual(project.loads(project.dumps(built)), built)
        for key, value in (("scale", "0"), ("backlash", -1), ("first_direction", 0), ("measured", "soon")):
            text = project.dumps(machine(replace(axis, calibration=Calibration())))
            changed = (
                text.replace(b'"scale": "1"', f'"scale": "1", "{key}": {value!r}'.replace("'", '"').encode())
                if key != "scale"
                else text.replace(b'"scale": "1"', b'"scale": "0"')
            )
            changed = changed.replace(b',\n        "backlash": 0.0', b"") if key == "backlash" else changed
            changed = changed.replace(b',\n        "first_direction": 1', b"") if key == "first_direction" else changed
            with self.assertRaisesRegex(project.ProjectError, f"calibration.{key}"):
                project.loads(changed)


if __name__ == "__main__":
    unittest.main()
