"""``kivant wires``: what an axis's motor does for each order of plugs."""

from __future__ import annotations

import argparse

from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.wiring import orders
from kivant.core.errors import Fault, KivantError
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Judge all 24 orders; raises `KivantError` where the axis has no coils to be plugged."""
    axis = find_axis(project.load(options.file), options.axis)
    rows = driver_kind(axis.driver).rows(axis.driver)
    if rows is None:
        message = f"{axis.name} has a driver that takes pulses: it orders the coils itself."
        raise KivantError(Fault("axes", message, "Name an axis with a coil driver."))
    found = orders(tuple(row.word for row in rows))
    if options.json:
        listed = [{"order": order.wires, "verdict": order.verdict, "turns": order.turns} for order in found]
        print_json({"orders": listed})
    else:
        for order in found:
            print(f"{order.wires}  {order.verdict:<8}  electrical turns a cycle: {order.turns:+d}")
    return 0
