"""Motion records: what a board makes of them is the plan, step by step."""

import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.board.protocol.record import MOST_US, AxisSpan, Span, pack, unpack
from kivant.board.protocol.spans import LONGEST_S, quadratic, spans, start_places
from kivant.board.standin.sums import step_ticks
from kivant.core.machine import Block, Machine, Pause
from kivant.core.motion.rates import pulse_rate
from kivant.core.plan import PlanError, plan
from kivant.core.travel.conversion import nearest_step
from tests.board.played import played, summed
from tests.machines import coil_axis, limits, machine, move, pair_axis, screw_axis
from tests.programs import built as program

RATES = (1_000, 20_000, 50_000, 100_000, 200_000, 1_000_000, 10_000_000)


def some_machine(random: np.random.Generator, half_way: bool) -> Machine:
    """Return a machine of one or two axes with a short routine, its targets all half way between steps or anywhere."""
    times = {
        "direction_setup_us": random.choice([5.0, 200.0, 3000.0]),
        "direction_hold_us": random.choice([5.0, 500.0]),
    }
    lift = screw_axis(driver=times) if random.random() < 0.7 else pair_axis(**times)
    start = float(random.choice([0.0, 2.0]))
    lift_limits = limits(random.uniform(1, 30), random.uniform(50, 3000), random.uniform(50, 3000), start=start)
    if random.random() < 0.3:  # changes of acceleration that fall on ticks
        lift_limits = limits(float(random.choice([10, 20])), float(random.choice([100, 400, 1000])), start=start)
    if random.random() < 0.3:
        lift_limits = replace(lift_limits, jerk=float(random.choice([300, 5000, 100_000])))
    disc_limits = limits(random.uniform(50, 700), random.uniform(50, 3000), start=15 * start)
    axes = [replace(lift, limits=lift_limits)]
    axes += [coil_axis(first_line=4, limits=disc_limits)] if random.random() < 0.5 else []
    blocks: list[Block] = [Pause(seconds=1.7)] if random.random() < 0.3 else []
    for _ in range(3):
        mm = Decimal(int(random.integers(-200, 200))) / 200
        to = {axes[0].name: mm + (Decimal("0.0025") if half_way else Decimal(int(random.integers(500))) / 100000)}
        if len(axes) > 1 and random.random() < 0.7:
            to["Disc"] = Decimal(int(random.integers(-60, 60))) * 9 / 10 + Decimal("0.45" if half_way else "0.123")
        blocks.append(move(to=to))
        blocks += [Pause(seconds=float(random.uniform(0, 0.4)))] if random.random() < 0.2 else []
    begin = {axes[0].name: Decimal("0.0075")} if half_way else None
    return machine(*axes, blocks=tuple(blocks), start=begin, tick_hz=int(random.choice(RATES)))


class AsPlanned(unittest.TestCase):
    def test_the_steps_of_a_thousand_routines(self):
        """None missing, doubled, or more than a tick and 20 us off; no driver's time and no pulse rate is broken."""
        random = np.random.default_rng(7)
        for number in range(1000):
            built = some_machine(random, half_way=number % 2 == 0)
            made, hz = plan(built), built.board.tick_hz
            for axis, (instants, signs) in zip(made.axes, played(made), strict=True):
                case = f"{number}: {axis.name} at {hz} Hz"
                self.assertEqual(signs.tolist(), axis.signs.tolist(), case)
                self.assertLessEqual(float(np.max(np.abs(instants - axis.instants), initial=0)), 1 / hz + 20e-6, case)
                gaps, turns, driver = np.diff(instants), np.diff(signs) != 0, axis.axis.driver
                least = 1 / pulse_rate(built, axis.axis)
                turn = (getattr(driver, "direction_setup_us", 0) + getattr(driver, "direction_hold_us", 0)) * 1e-6
                self.assertGreaterEqual(float(np.min(gaps, initial=1.0)), least - 1e-12, case)
                self.assertGreaterEqual(float(np.min(gaps[turns], initial=1.0)), turn - 1e-12, case)

    def test_fast_steps_keep_their_time(self):
        """81,000 steps/s in ticks of 1 us: added up, rounded intervals would run 2.9 % fast."""
        fast = screw_axis(limits=limits(405.0, 1e6))
        made = plan(machine(fast, blocks=(move(to={"Lift": "810"}),), max_pulse_hz=200_000.0))
        ((instants, _signs),) = played(made)
        self.assertEqual(len(instants), 162_000)
        self.assertLess(float(np.abs(instants - made.axes[0].instants).max()), 2e-6)
        self.assertGreater(float(instants[-1]) - 162_000 * round(1e6 / 81_000) * 1e-6, 0.05, "the trap")

    def test_programs_of_all_blocks_are_played_to_the_step(self):
        """Spins that go over the ends of their blocks, axes that arrive each by itself, repeats and calls."""
        random = np.random.default_rng(21)
        for number in range(120):
            built = program(random)
            jerk = float(random.uniform(2000, 20_000)) if number % 3 == 0 else None
            axes = tuple(replace(axis, limits=replace(axis.limits, jerk=jerk)) for axis in built.axes)
            hz = int(random.choice(RATES[2:6]))
            built = replace(built, axes=axes, board=replace(built.board, tick_hz=hz))
            try:
                made = plan(built)
            except PlanError as error:  # with a jerk, some spins are too short for their change of speed
                self.assertRegex(str(error), "at least")
                continue
            for axis, (instants, signs) in zip(made.axes, played(made), strict=True):
                case = f"{number}: {axis.name} at {hz} Hz"
                self.assertEqual(signs.tolist(), axis.signs.tolist(), case)
                self.assertLessEqual(float(np.max(np.abs(instants - axis.instants), initial=0)), 1 / hz + 20e-6, case)

    def test_counts_at_the_ends_of_blocks_are_those_of_the_routine(self):
        """Targets on which a step falls at the very end of a move, or at the very beginning of the next."""
        random = np.random.default_rng(2)
        for start_speed in (0.0, 3.0) * 20:
            halves = [Decimal(int(n)) / 200 + Decimal("0.0025") for n in random.integers(-400, 400, 6)]
            lift = screw_axis(limits=limits(random.uniform(5, 60), random.uniform(50, 2000), start=start_speed))
            made = plan(machine(lift, blocks=tuple(move(to={"Lift": half}) for half in halves)))
            ((instants, signs),) = played(made)
            nexts = [block.begin_s for block in made.blocks[1:]] + [made.duration + 1]
            for block, half, following in zip(made.blocks, halves, nexts, strict=True):
                if following < block.end_s + 2e-6:
                    continue  # the next move takes its first step at the end of this one
                taken = int(signs[instants <= block.end_s + 1.0001e-6].sum())
                self.assertEqual(taken, nearest_step(Fraction(half) * 200), (halves, block.path))

    def test_ramps_with_jerk_are_cut_where_a_quadratic_would_not_do(self):
        for shape in ({"jerk": 1200.0}, {"shape": "torque"}, {"shape": "none"}):
            lift = screw_axis(limits=limits(30.0, 200.0 if "jerk" in shape else 9e4, **shape), microsteps=8)
            self.played_as_planned(plan(machine(lift, blocks=(move(to={"Lift": "40"}),))))

    def played_as_planned(self, made):
        ((instants, signs),) = played(made)
        self.assertEqual(signs.tolist(), axis_signs := made.axes[0].signs.tolist())
        self.assertEqual(len(axis_signs), 8000)
        self.assertLess(float(np.abs(instants - made.axes[0].instants).max()), 21e-6)
        self.assertLess(len(list(spans(made))), 400)

    def test_spans_are_few_and_no_longer_than_a_quarter_second(self):
        """Three for a ramp, one for each quarter second; whole ticks that add up to the plan; four axes in 500 B/s."""
        axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0, 100.0)) for k, name in enumerate("ABCD"))
        made = plan(machine(*axes, blocks=(move(to=dict.fromkeys("ABCD", "40")), Pause(seconds=1.0))))
        found = list(spans(made))
        self.assertEqual(sum(span.ticks for span in found), 3_200_000)
        self.assertLessEqual(max(span.ticks for span in found), LONGEST_S * 1e6)
        self.assertLess(len(pack(found)) / made.duration, 700)
        self.assertLess(len(found), 20)


class Sums(unittest.TestCase):
    @settings(max_examples=150)
    @given(
        st.integers(0, 2**32 - 1),
        st.integers(-90, 90),
        st.integers(0, 2**32 - 1),
        st.integers(1, 3000),
        st.floats(-1, 1),
        st.integers(-5, 5),
    )
    def test_steps_come_at_the_ticks_at_which_adding_has_them(self, share, steps, end, ticks, bend, turns):
        """Whatever the span, and wherever counts wrap around, the solved ticks are those of the sums done one by one."""
        steps = max(min(steps, ticks), -ticks)
        begin = (turns << 62) + share
        target = ((begin >> 32) + steps << 32) + end
        # From rest to twice the mean speed, or back: beyond that an axis would turn within a span.
        span = quadratic(ticks, begin, target, bend * 2 * (target - begin) / 2**32 / ticks**2)
        self.assertEqual(step_ticks(begin % 2**64, span, ticks).tolist(), summed(begin, span, ticks))

    def test_a_small_controller_that_only_adds_plays_a_whole_plan(self):
        """At 50, 100 and 200 kHz every step comes within a tick and 10 us, and none is lost, with six bytes as with eight."""
        lift = screw_axis(limits=limits(20.0, 800.0, 500.0))
        blocks = (move(to={"Lift": "0.5075"}), move(to={"Lift": "-0.2025"}), move(to={"Lift": "0.3"}))
        for hz in (50_000, 100_000, 200_000):
            made = plan(machine(lift, blocks=blocks, tick_hz=hz))
            for dropped in (0, 16):
                place, at, ticks = start_places(made)[0], 0, []
                for span in spans(made):
                    ticks += [at + tick for tick in summed(place, span.axes[0], span.ticks, dropped)]
                    place, at = span.axes[0].end, at + span.ticks
                self.assertEqual(len(ticks), made.axes[0].steps)
                self.assertLess(float(np.abs(np.array(ticks) / hz - made.axes[0].instants).max()), 1 / hz + 10e-6)


class Bytes(unittest.TestCase):
    def test_braking_beyond_all_bounds_is_told_as_far_as_there_is_room(self):
        """A jump to 5e5 mm/s that 1e-9 mm/s² would brake in millions of years."""
        axis = screw_axis(limits=limits(1e6, 1.0, 1e-9, 5e5))
        made = plan(machine(axis, blocks=(move(to={"Lift": "2"}),)))
        self.assertIn((MOST_US, MOST_US), {span.brake_us for span in spans(made)})

    def test_there_and_back(self):
        found = [
            Span(5, (AxisSpan(2**63 + 1, -7, 3), AxisSpan(0, 2**62, -(2**63)))),
            Span(1 << 20, (AxisSpan(1), AxisSpan(2)), (9, 10), -65536),
        ]
        self.assertEqual(unpack(pack(found), 2), found)

    def test_what_is_no_row_of_spans(self):
        for data, words in (
            (b"123", "not a whole number of spans"),
            (pack([Span(0, ())]), "0 ticks"),
            (pack([Span(2**21, ())]), "2097152 ticks"),
        ):
            with self.assertRaisesRegex(ValueError, words):
                unpack(data, 0)
