"""Plans of many blocks."""

from __future__ import annotations

import math
from decimal import Decimal
from fractions import Fraction
from typing import Any

from msgspec.structs import replace
from tests.machines import limits, machine, move, screw_axis

from benchmarks.measuring import best, row
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.machine import Machine, Move, Repeat, Spin
from kivant.core.motion.curves import traces
from kivant.core.motion.routine import commands
from kivant.core.plan import Plan, plan
from kivant.core.program.held_back import held_back
from kivant.files import project


def anew(known: Machine) -> Machine:
    """Return a machine of which nothing remembers that it was checked."""
    axes, routines = (tuple(map(replace, parts)) for parts in (known.axes, known.routines))
    return replace(known, axes=axes, routines=routines)


def cut_plan(machine: Machine) -> Plan:
    """Return the plan of a machine, cut into segments, which is done when they are first looked at."""
    made = plan(machine)
    for axis in made.axes:
        axis.train.taken(0.0)
    return made


def planning() -> None:
    """Compare planning 1e4 blocks, segments included, with making one fraction of each target, and with a tenth."""
    axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0 + k)) for k, name in enumerate("ABCD"))
    for count, most in ((1, 2.8), (4, 1.6)):  # 5 and 12 us where a fraction of a text takes 1.8 and 2.1
        own = axes[:count]
        targets = [{axis.name: f"{math.sin(7 * k + n) * 100:.4f}" for n, axis in enumerate(own)} for k in range(10_000)]
        blocks = tuple(move(to=to) for to in targets)
        whole, tenth = machine(*own, blocks=blocks), machine(*own, blocks=blocks[:1000])
        values = [value for block in blocks for value in (block.to or {}).values()]
        ours, theirs = best(lambda m=whole: cut_plan(m), lambda v=values: [Fraction(value) for value in v], rounds=9)
        name = f"planning 1e4 blocks of {count} axes"
        wanted = f"at most {most}; {ours * 100:.1f} us a block"
        row(f"{name} against a fraction of each target", ours, theirs, wanted)
        (ours,) = best(lambda m=whole: cut_plan(anew(m)), rounds=5)
        row("the same with all checks", ours, theirs, f"at most {3 * most:.1f}; {ours * 100:.1f} us a block")
        ours, theirs = best(lambda m=whole: cut_plan(m), lambda m=tenth: [cut_plan(m) for _ in range(10)], rounds=5)
        row(f"{name} against ten times 1e3", ours, theirs, "at most 1.3")


def small() -> None:
    """Compare planning routines of a few moves with making 200 fractions.

    A planner that goes block by block took, of that time, for 1 x 1, 3 x 2 and 5 x 4 moves x axes: 0.67, 1.25 and 2.4
    for a call of `plan` (it checked the machine each time), 0.24, 0.64 and 1.5 without checks, 0.42, 1.0 and 2.1 with
    the curves that pictures need. Planning is not to be slower than that, whether the machine has been planned before,
    was read or was made, with checks and without. With its curves, a single move of one axis is.
    """
    rounds = 200
    for count, moves, most in (
        (1, 1, (0.67, 0.67, 0.67, 0.3, 0.6)), (2, 3, (1.25, 1.25, 1.25, 0.64, 1.0)), (4, 5, (2.4, 2.4, 2.4, 1.5, 2.1)),
    ):  # fmt: skip
        own = tuple(screw_axis(name, 4 * k) for k, name in enumerate("ABCD"[:count]))
        targets = [{axis.name: str((7 * k + n) % 13 + 1) for n, axis in enumerate(own)} for k in range(moves)]
        made, fractions = machine(*own, blocks=tuple(move(to=to) for to in targets)), ["12.3456"] * 200
        read = [project.loads(project.dumps(made)) for _ in range(rounds)]
        for what, work, limit in zip(
            (f"planning moves x axes, {moves} x {count}, against 200 fractions", "the same for a machine just read",
             "the same for a machine just made", "the same without checks", "the same without checks, with its curves"),
            (lambda m=made: plan(m), lambda r=read: plan(r.pop()), lambda m=made: plan(anew(m)),
             lambda m=made: plan(m, trusted=True), lambda m=made: traces(plan(m, trusted=True))),
            most, strict=True,
        ):  # fmt: skip
            ours, theirs = best(work, lambda f=fractions: [*map(Fraction, f)], rounds=rounds)
            row(what, ours, theirs, f"at most {limit}")


def shaped() -> None:
    """Compare planning moves whose ramps have other shapes with planning trapezoids."""
    shapes: dict[str, Any] = {"as an S-curve": {"shape": "s_curve", "jerk": 2e4}, "by torque": {"shape": "torque"}}
    rig = load_example()
    lift = rig.axis("Lift")
    for count, limit in ((1, (2, 5)), (10_000, (2, 12))):
        blocks = tuple(move(to={"Lift": f"{20 + 17 * math.sin(7 * k):.3f}"}) for k in range(count))
        plain = replace(rig, axes=(lift,), poses=None, routines=(replace(rig.routines[0], start=None, blocks=blocks),))
        for (name, other), most in zip(shapes.items(), limit, strict=True):
            made = replace(plain, axes=(replace(lift, limits=replace(lift.limits, **other)),))
            ours, theirs = best(lambda m=made: plan(m), lambda m=plain: plan(m), rounds=100 if count == 1 else 5)
            row(f"planning moves {name}, {count}, against trapezoids", ours, theirs, f"at most {most}")


def programs() -> None:
    """Compare planning repeats, spins and calls with planning the same blocks written out, and 1e5 moves with 2 s."""
    axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0 + k)) for k, name in enumerate("ABCD"))
    targets = [{axis.name: f"{math.sin(7 * k + n) * 10:.4f}" for n, axis in enumerate(axes)} for k in range(100_000)]
    blocks = tuple(move(to=to) for to in targets)
    every = machine(*axes, blocks=blocks)
    (ours,) = best(lambda: cut_plan(every), rounds=3)
    row("planning 1e5 moves of four axes against 2 s", ours, 2.0, "at most 1")
    body = blocks[:100]
    repeated, written = machine(*axes, blocks=(Repeat(times=300, blocks=body),)), machine(*axes, blocks=body * 300)
    ours, theirs = best(lambda: plan(repeated), lambda: plan(written), rounds=5)
    row("planning 300 turns of 100 moves against writing them out", ours, theirs, "at most 1.1")
    spun = tuple(Spin(speeds={"A": Decimal(5 + k % 9)}, seconds=0.5) for k in range(2000))
    moved = tuple(move(by={"A": "2"}) for _ in range(2000))
    ours, theirs = best(lambda: plan(machine(*axes, blocks=spun)), lambda: plan(machine(*axes, blocks=moved)), rounds=5)
    row("planning 2000 spins of an axis against 2000 moves", ours, theirs, "at most 4")


def held() -> None:
    """Compare finding what holds 2000 different moves back after an edit of one with the first time."""
    axes = tuple(screw_axis(name, 4 * k, limits=limits(20.0 + k, 100.0 + k)) for k, name in enumerate("ABCD"))
    targets = [{axis.name: f"{math.sin(7 * k + n) * 10:.4f}" for n, axis in enumerate(axes)} for k in range(2000)]
    blocks = tuple(move(to=to) for to in targets)
    first = machine(*axes, blocks=blocks)
    edits = ((*blocks[:-1], move(to={"A": str(k)})) for k in range(9))
    others = [replace(first, routines=(replace(first.routines[0], blocks=own),)) for own in edits]

    def look(own: Machine) -> None:
        held_back(own, commands(own, own.routines[0]))

    (took,) = best(lambda: look(anew(first)), rounds=3)
    look(first)
    (again,) = best(lambda: look(others.pop()), rounds=len(others))
    row("what holds 2000 moves back, one of them changed, against the first time", again, took, "at most 0.15")


def straight_lines() -> None:
    """Compare planning straight lines of a tool, all of them different, with the time that they take.

    Then plan them again with another last line, as after an edit, against the first time.
    """
    arm = load_example(SEEDLING_SETTER)
    places = [(150 + 20 * math.cos(k), -40 + 20 * math.sin(k)) for k in range(50)]
    goes = [Move(tool={"x": Decimal(f"{x:.3f}"), "y": Decimal(f"{y:.3f}")}, straight=True) for x, y in places]
    for what, jerk, most in (("", None, 0.1), (" with a jerk", 2000.0, 0.2)):
        axes = tuple(replace(axis, limits=replace(axis.limits, jerk=jerk)) for axis in arm.axes)
        first, *others = (
            replace(arm, axes=axes, routines=(replace(arm.routines[0], blocks=(Move(pose="Rest"), *own)),))
            for own in (goes, *((*goes[:-1], replace(goes[-1], speed_factor=0.9 - k / 100)) for k in range(9)))
        )
        (took,) = best(lambda m=first: plan(anew(m)), rounds=3)
        row(f"planning 50 straight lines{what}, against their own time", took, plan(first).duration, f"at most {most}")
        (again,) = best(lambda m=others: plan(m.pop()), rounds=len(others))
        row("the same again, one of them changed, against the first time", again, took, "at most 0.1")
