"""Programs, poses and geometry in project files."""

from __future__ import annotations

import json
import unittest
from decimal import Decimal
from typing import Any

import jsonschema
import numpy as np

from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.machine import Call, Each, Move, Note, Pause, Repeat, Spin
from kivant.files import project
from tests.programs import built

SETTER = project.dumps(load_example(SEEDLING_SETTER))
BLOCKS: list[dict[str, Any]] = [
    {"do": "move", "name": "First", "to": {"Lift": 3}, "by": {"Elbow": -0.5}, "speed_factor": 0.5, "x": {"mine": 1}},
    {"do": "move", "pose": "Rest", "off": True},
    {"do": "move", "tool": {"x": 150, "y": 0.25, "z": 9}},
    {"do": "move", "tool": {"x": 150, "y": 1}, "straight": True, "tolerance": 0.1},
    {"do": "each", "by": {"Lift": 1, "Elbow": -1}},
    {"do": "spin", "speeds": {"Shoulder": 10}, "seconds": 2.5},
    {"do": "spin", "speeds": {"Shoulder": -10, "Elbow": 5}, "turns": 0.1},
    {"do": "spin", "name": "End", "speeds": {"Lift": 5}, "distance": 4.0, "speed_factor": 0.25},
    {"do": "pause", "seconds": 0.5},
    {"do": "repeat", "times": 2, "blocks": [{"do": "repeat", "times": 3, "blocks": [{"do": "note", "text": "ü"}]}]},
    {"do": "repeat", "times": 1, "blocks": []},
    {"do": "call", "routine": "Pick one"},
]


def document(**changes: Any) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(SETTER)
    found["routines"].append({"name": "All", "blocks": BLOCKS})
    return {**found, **changes}


def loaded(own: dict[str, Any]) -> Any:
    return project.loads(json.dumps(own).encode())


class Files(unittest.TestCase):
    def test_every_block_is_read_and_written_as_it_was(self):
        machine = loaded(document())
        kinds = [type(block) for block in machine.routine("All").blocks]
        self.assertEqual(kinds, [Move, Move, Move, Move, Each, Spin, Spin, Spin, Pause, Repeat, Repeat, Call])
        again = project.dumps(machine)
        self.assertEqual(json.loads(again), document())
        self.assertEqual(project.dumps(project.loads(again)), again)
        self.assertEqual(machine.routine("All").blocks[2].tool, {"x": 150, "y": Decimal("0.25"), "z": 9})
        self.assertEqual(machine.routine("All").blocks[9].blocks[0].blocks, (Note(text="ü"),))

    def test_random_programs_are_the_same_after_a_file(self):
        random = np.random.default_rng(12)
        for _ in range(40):
            machine = built(random)
            self.assertEqual(project.loads(project.dumps(machine)), machine)

    def test_the_schema_knows_all_of_it(self):
        validator = jsonschema.Draft202012Validator(project.schema())
        validator.validate(document())
        for wrong in (
            {"do": "spin", "seconds": 1}, {"do": "repeat", "times": 0, "blocks": []}, {"do": "move", "pose": 3},
            {"do": "each", "to": {"Lift": "far"}}, {"do": "call"}, {"do": "note", "text": 1},
            {"do": "move", "to": {"Lift": 1}, "straight": 1}, {"do": "pause", "seconds": 1, "off": "yes"},
        ):  # fmt: skip
            with self.subTest(wrong=wrong):
                self.assertFalse(validator.is_valid(document(routines=[{"name": "R", "blocks": [wrong]}])))
                with self.assertRaises(project.ProjectError) as caught:
                    loaded(document(routines=[{"name": "R", "blocks": [wrong]}]))
                self.assertTrue(str(caught.exception.faults[0].place).startswith("routines[0].blocks[0]"))

    def test_what_is_wrong_is_told_at_its_place(self):
        deep: dict[str, Any] = {"do": "pause", "seconds": 1}
        for _ in range(12):
            deep = {"do": "repeat", "times": 1, "blocks": [deep]}
        arm = document()["geometry"]
        rest = {"name": "Rest", "at": {"Lift": 1}}
        table: tuple[tuple[dict[str, Any], str, str], ...] = (
            ({"geometry": {"kind": "snake"}}, "geometry", "Expected 'independent', 'cylindrical'"),
            ({"geometry": {**arm, "lengths_mm": [120]}}, "geometry.lengths_mm", "two links; found 1"),
            ({"geometry": {**arm, "lengths_mm": [0, 1]}}, "geometry.lengths_mm[0]", "above 0; found 0"),
            ({"geometry": {**arm, "elbow": "up"}}, "geometry.elbow", "'left' or 'right'"),
            ({"geometry": {**arm, "axes": {"shoulder": "Lift", "elbow": "Elbow"}}}, "geometry.axes.shoulder", "Lift is in mm"),
            ({"geometry": {**arm, "tool_speed": -1}}, "geometry.tool_speed", "above 0"),
            ({"poses": [rest, rest]}, "poses[1].name", "“Rest” appears twice"),
            ({"poses": [{"name": "Rest", "at": {"Knee": 1}}]}, "poses[0].at.Knee", "no axis “Knee”"),
            ({"poses": [{"name": "Rest", "at": {}}]}, "poses[0].at", "names no axis"),
            ({"poses": [{"name": "", "at": {"Lift": 1}}]}, "poses[0].name", "not empty"),
        )  # fmt: skip
        for changes, place, words in table:
            with self.subTest(place), self.assertRaisesRegex(project.ProjectError, words) as caught:
                loaded(document(routines=[], **changes) if "poses" in changes else document(**changes))
            self.assertEqual(str(caught.exception.faults[0].place), place)
        with self.assertRaisesRegex(project.ProjectError, "levels deep|nested"):
            loaded(document(routines=[{"name": "R", "blocks": [deep] * 2}, *[]], notes="", x={"deep": _nested(40)}))

    def test_an_older_file_stays_what_it_was(self):
        own = document()
        for key in ("geometry", "poses"):
            del own[key]
        own["routines"] = [
            {"name": "Old", "blocks": [{"do": "move", "to": {"Lift": 3}}, {"do": "pause", "seconds": 1.0}]}
        ]
        machine = loaded(own)
        self.assertEqual((machine.geometry, machine.poses), (None, None))
        self.assertEqual(json.loads(project.dumps(machine)), own)


def _nested(depth: int) -> Any:
    found: Any = 1
    for _ in range(depth):
        found = [found]
    return found
