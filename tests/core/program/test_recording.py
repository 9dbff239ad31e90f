"""Recordings by hand: thinned within the tolerance, with the times that the hand took."""

from __future__ import annotations

import unittest
from decimal import Decimal

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.machine import Move, Pause, Routine
from kivant.core.plan import plan
from kivant.core.program.poses import kept_place
from kivant.core.program.recording import Sample, recorded, thinned
from tests.machines import limits, machine, screw_axis

D = Decimal


def moved_between(times, *ways):
    """Return samples in which each of the axes goes evenly between its places at times."""
    seconds = np.linspace(times[0], times[-1], max(round(50 * times[-1]) + 1, 2))
    columns = [np.interp(seconds, times, way) for way in ways]
    return [Sample(float(t), tuple(map(float, places))) for t, *places in zip(seconds, *columns, strict=True)]


class Thinned(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=1, max_size=40),
        st.floats(0.01, 20),
    )
    def test_no_point_is_farther_from_the_path_than_the_tolerance(self, points, tolerance):
        places = np.array(points)
        kept = thinned(places, tolerance)
        self.assertEqual((kept[0], kept[-1]), (0, len(points) - 1))
        for first, last in zip(kept, kept[1:], strict=False):
            for place in places[first : last + 1]:  # compared with many points of the piece of the path
                along = np.linspace(places[first], places[last], 2001)
                nearest = np.sqrt(((along - place) ** 2).sum(axis=1)).min()
                self.assertLessEqual(nearest, tolerance + 0.1)

    def test_of_a_straight_path_its_ends_are_left(self):
        places = np.column_stack([np.linspace(0, 10, 500), np.linspace(3, -2, 500)])
        self.assertEqual(thinned(places, 1e-9), [0, 499])


class Recorded(unittest.TestCase):
    def setUp(self):
        self.rig = machine(screw_axis("Lift", limits=limits(40, 300)), screw_axis("Reach", 4, limits=limits(60, 400)))

    def test_moves_and_pauses_take_the_time_that_the_hand_took(self):
        samples = moved_between([0, 1, 3, 4, 6, 9], [5, 5, 25, 25, 25, 10], [0, 0, 0, 0, 8, 8])
        blocks = recorded(self.rig, samples, 0.05)
        self.assertEqual([type(block) for block in blocks], [Move, Pause, Move, Move])
        self.assertEqual([getattr(b, "to", None) for b in blocks],
                         [{"Lift": D(25)}, None, {"Reach": D(8)}, {"Lift": D(10)}])  # fmt: skip
        routine = Routine(name="Path", start={"Lift": D(5)}, blocks=blocks)
        made = plan(replace(self.rig, routines=(routine,)), routine)
        took = made.blocks.end_s - made.blocks.begin_s
        for seconds, wanted in zip(took, (2, 1, 2, 3), strict=True):
            self.assertAlmostEqual(seconds, wanted, delta=0.06)  # as near as samples are together

    def test_what_the_axis_cannot_follow_is_as_fast_as_it_can_be(self):
        (block,) = recorded(self.rig, moved_between([0, 0.001], [0, 50], [0, 0]), 0.05)
        self.assertEqual(block, Move(to={"Lift": D(50)}))

    def test_a_turn_within_the_tolerance_is_no_turn_and_places_stay_within_limits(self):
        tight = replace(self.rig.axes[0], limits=replace(self.rig.axes[0].limits, max=D(20)))
        rig = replace(self.rig, axes=(tight, self.rig.axes[1]))
        samples = moved_between([0, 2, 2.2, 4], [0, 10, 9.98, 20.002], [0, 0, 0, 0])
        self.assertEqual([getattr(block, "to", None) for block in recorded(rig, samples, 0.05)], [{"Lift": D(20)}])
        turned = [getattr(block, "to", None) for block in recorded(rig, samples, 0.001)]
        self.assertEqual(turned, [{"Lift": D(10)}, {"Lift": D("9.98")}, {"Lift": D(20)}])

    def test_a_counted_step_just_beyond_a_limit_is_at_the_limit(self):
        axis = replace(self.rig.axes[0], limits=replace(self.rig.axes[0].limits, min=D(0), max=D("20.001")))
        table = ((20.0025, "20.001"), (-0.0025, "0"), (19.99, "19.99"), (20.1, "20.1"), (1 / 3, "0.333333"))
        for place, kept in table:  # a step is 0.005 mm
            self.assertEqual(kept_place(axis, place), D(kept))

    def test_nothing_comes_of_nothing(self):
        for samples in ([], [Sample(0, (1, 2))], moved_between([0, 5], [3, 3], [1, 1])):
            self.assertEqual(recorded(self.rig, samples, 0.1), ())
