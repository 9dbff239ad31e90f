"""Line levels: what a logic analyser would see, checked edge by edge against the driver's own times."""

import unittest

import numpy as np

from kivant.core.drive.drivers import levels_after, levels_at_start, line_keys, step_edges
from kivant.core.drive.phases import SEQUENCES
from kivant.core.machine import Machine, Pause
from kivant.core.plan import plan
from kivant.core.signals import signals_between
from tests.machines import coil_axis, limits, machine, move, pair_axis, screw_axis

BACK_AND_FORTH = tuple(move(to={"Lift": x}) for x in ("0.113", "-0.04", "0.021", "0.015", "0.5"))


def levels_over_time(made: Machine) -> dict[str, list[tuple[int, int]]]:
    """Return all changes of the only axis's lines: ns and level, the level at the start first."""
    axis = plan(made).axes[0]
    times = np.rint(axis.instants * 1e9).astype(np.int64)
    first = int(axis.signs[0])
    edges = step_edges(axis.axis.driver, times, axis.signs, 0, first)
    start = levels_at_start(axis.axis.driver, first)
    found = {key: [(0, level)] for key, level in zip(line_keys(axis.axis.driver), start, strict=True)}
    for k in np.argsort(edges.times_ns, kind="stable"):
        found[line_keys(axis.axis.driver)[edges.keys[k]]].append((int(edges.times_ns[k]), int(edges.levels[k])))
    return found


class StepDirection(unittest.TestCase):
    def test_pulse_set_up_and_hold_are_met_in_every_polarity(self):
        """Also at the very limit of the driver, where rounding to nanoseconds could cost one."""
        jump = limits(2000.0, 9e5, start=2000.0)
        for pulse in ("high", "low"):
            for positive in ("high", "low"):
                times = {
                    "pulse_high_us": 2.5,
                    "pulse_low_us": 1.7,
                    "direction_setup_us": 3.3,
                    "direction_hold_us": 4.1,
                }
                axis = screw_axis(limits=jump, driver={**times, "pulse_active": pulse, "positive_level": positive})
                lines = levels_over_time(machine(axis, blocks=BACK_AND_FORTH, max_pulse_hz=1e6))
                active = int(pulse == "high")
                step = lines["STEP"][1:]
                rises = [t for t, level in step if level == active]
                falls = [t for t, level in step if level != active]
                self.assertEqual(lines["STEP"][0][1], 1 - active)
                self.assertTrue(all(f - r == 2500 for r, f in zip(rises, falls, strict=True)))
                self.assertGreaterEqual(min(np.array(rises[1:]) - falls[:-1]), 1700)
                for at, _level in lines["DIR"][1:]:
                    self.assertGreaterEqual(min(r for r in rises if r >= at) - at, 3300)
                    self.assertGreaterEqual(at - max(r for r in rises if r <= at), 4100)
                self.assertEqual(
                    [level for _, level in lines["DIR"]],
                    [int((positive == "high") ^ (k % 2)) for k in range(5)],
                )

    def test_a_pulse_pair_has_one_line_for_each_direction(self):
        axis = pair_axis("Lift", direction_setup_us=7.0, direction_hold_us=6.0)
        lines = levels_over_time(machine(axis, blocks=BACK_AND_FORTH))
        signs = plan(machine(axis, blocks=BACK_AND_FORTH)).axes[0].signs
        self.assertEqual(
            (len(lines["CW"]), len(lines["CCW"])),
            (1 + 2 * int((signs > 0).sum()), 1 + 2 * int((signs < 0).sum())),
        )
        ups = sorted([(t, "CW") for t, v in lines["CW"][1:] if v] + [(t, "CCW") for t, v in lines["CCW"][1:] if v])
        turns = [b[0] - a[0] for a, b in zip(ups, ups[1:], strict=False) if a[1] != b[1]]
        self.assertGreaterEqual(min(turns), 13_000)

    def test_enable_is_on_during_the_plan_and_rests_as_asked(self):
        for rest, after in (("hold", 0), ("off", 1), ("reduced", 0)):
            driver = screw_axis(enable="P2", driver={"at_rest": rest}).driver
            self.assertEqual(levels_at_start(driver, 1), (0, 1, 0))
            self.assertEqual(levels_after(driver, (0, 1, 0))[2], after)


class Coils(unittest.TestCase):
    def test_every_step_shows_the_word_of_its_row(self):
        """Both directions, all sequences, both polarities: the levels at any time are the row's word."""
        for sequence in SEQUENCES:
            for active in ("high", "low"):
                axis = coil_axis(sequence=sequence, driver={"active": active})
                made = plan(
                    machine(
                        axis,
                        blocks=(move(to={"Disc": "20"}), move(to={"Disc": "-31"}), move(to={"Disc": "3"})),
                    )
                )
                disc = made.axes[0]
                position = 0
                for k, (at, sign) in enumerate(zip(disc.instants, disc.signs, strict=True)):
                    position += int(sign)
                    seen = signals_between(disc, at - 1e-4, at + 1e-9, made.duration)
                    word = SEQUENCES[sequence].words[position % len(SEQUENCES[sequence].words)]
                    expected = [(word >> bit & 1) ^ (active == "low") for bit in range(4)]
                    self.assertEqual([s.level_at(at + 1e-9) for s in seen], expected, f"{sequence} step {k}")

    def test_at_rest_off_means_off_after_the_plan(self):
        axis = coil_axis(driver={"at_rest": "off"})
        made = plan(machine(axis, blocks=(move(to={"Disc": "90"}),)))
        self.assertEqual(levels_at_start(axis.driver, 1), (1, 0, 0, 0), "row 0 at the plan's first instant")
        seen = signals_between(made.axes[0], made.duration - 0.01, made.duration + 0.01, made.duration)
        self.assertEqual([s.level_at(made.duration + 0.005) for s in seen], [0, 0, 0, 0])
        self.assertNotEqual([s.level_at(made.duration - 0.001) for s in seen], [0, 0, 0, 0])

    def test_the_last_step_stands_before_the_power_goes(self):
        """A target half way between two steps puts the last step on the very end of its block."""
        table = [  # start speed in deg/s, at rest, how long the last of two half steps stands
            (60.0, "off", 1 / (60 / 0.9)), (2000.0, "off", 1e-3), (60.0, "hold", 0.0),
        ]  # fmt: skip
        for start, at_rest, stands_s in table:
            axis = coil_axis(driver={"at_rest": at_rest}, limits=limits(start, 9000.0, start=start))
            made = plan(machine(axis, blocks=(move(to={"Disc": "1.35"}),)))
            disc = made.axes[0]
            self.assertEqual((disc.steps, disc.final_steps), (2, 2), "the half step away from zero")
            self.assertAlmostEqual(disc.instants[-1], made.blocks[-1].end_s)
            self.assertAlmostEqual(made.duration - disc.instants[-1], stands_s)
        made = plan(machine(coil_axis(driver={"at_rest": "off"}), blocks=(Pause(seconds=2.0),)))
        for signal in signals_between(made.axes[0], 0.0, 3.0, made.powered_s):
            self.assertEqual([signal.level_at(t) for t in (0.0, 1.0, 2.5)], [0, 0, 0], "nothing moves: never on")


class Windows(unittest.TestCase):
    def test_a_window_shows_what_the_whole_shows(self):
        """Any cut-out of the signals agrees with the edges of the whole plan."""
        jump = limits(40.0, 300.0, start=40.0)
        axis = screw_axis(enable="P2", limits=jump, driver={"direction_setup_us": 80.0, "at_rest": "off"})
        made = machine(axis, blocks=BACK_AND_FORTH)
        whole, planned = levels_over_time(made), plan(made)
        for begin in np.linspace(-0.001, planned.duration, 60):
            end = begin + 0.0013
            for signal in signals_between(planned.axes[0], begin, end, planned.duration):
                for at in np.linspace(begin, end, 23)[np.linspace(begin, end, 23) < planned.duration - 1e-6]:
                    expected = [level for t, level in whole[signal.key] if t <= round(at * 1e9)] or [
                        whole[signal.key][0][1]
                    ]
                    near = any(abs(t * 1e-9 - at) < 2e-9 for t, _ in whole[signal.key])
                    if not near:
                        self.assertEqual(signal.level_at(at), expected[-1], (signal.key, at))
