"""``kivant supplies``: what each supply must give, and what each motor turns into heat."""

from __future__ import annotations

import argparse
from typing import Any

from kivant.cli.say import print_json
from kivant.core.drive.copper import at_rest, greatest_draw, held_torque_nm, mean_draw, supply_volts
from kivant.core.drive.feeds import Feed, feeds, greatest_current
from kivant.core.machine import Axis, Machine
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Tell the currents of all supplies and the copper losses of all axes; raises `ProjectError` on a wrong file."""
    machine = project.load(options.file)
    supplies = [_supply(machine, feed) for feed in feeds(machine)]
    axes = [_axis(machine, axis) for axis in machine.axes]
    if options.json:
        print_json({"supplies": supplies, "axes": axes})
        return 0
    for found in supplies:
        limit = f" of {found['max_a']:.3g} A" if found["max_a"] is not None else ""
        fed = ", ".join(found["axes"]) or "nothing"
        print(f"{found['name']}: up to {found['greatest_a']:.3g} A{limit} for {fed}")
        if found["unknown"]:
            print(f"  not counted, since figures are missing: {', '.join(found['unknown'])}")
    for found in axes:
        heat = {key: "?" if found[key] is None else f"{found[key]:.3g}" for key in ("moving_w", "rest_w")}
        print(f"{found['name']}: {heat['moving_w']} W moving, {heat['rest_w']} W at rest")
    return 0


def _supply(machine: Machine, feed: Feed) -> dict[str, Any]:
    total, unknown = greatest_current(machine, feed)
    names = [machine.axes[i].name for i in feed.axes]
    return {"name": feed.name, "volts": feed.volts, "max_a": feed.max_a, "axes": names, "greatest_a": total,
            "unknown": list(unknown)}  # fmt: skip


def _axis(machine: Machine, axis: Axis) -> dict[str, Any]:
    volts = supply_volts(machine, axis)
    rest = at_rest(axis, greatest_draw(axis, volts))
    return {"name": axis.name, "moving_w": mean_draw(axis, volts).loss_w, "rest_w": rest.loss_w,
            "held_torque_nm": held_torque_nm(axis, rest)}  # fmt: skip
