"""``kivant windings``: which wires of a motor belong together."""

from __future__ import annotations

import argparse

from kivant.cli.say import print_json
from kivant.core.drive.windings import Found, find_windings
from kivant.files.readings import load_readings

_KINDS = {
    "two_coils": "two separate coils",
    "two_tapped": "two coils, each with a tap in its middle",
    "common_tap": "two coils whose taps are joined",
    "four_coils": "four separate coils",
    "incomplete": "not known yet",
    "contradictory": "the readings contradict each other",
}


def run(options: argparse.Namespace) -> int:
    """Find the windings; raises `ReadingsError` if the readings cannot be used."""
    found = find_windings(load_readings(options.file))
    if options.json:
        windings = [{"ends": list(w.ends), "tap": w.tap, "ohm": w.ohm} for w in found.windings]
        following = list(found.next) if found.next else None
        print_json(
            {"kind": found.kind, "windings": windings, "common": found.common, "next": following,
             "faults": list(found.faults)}
        )  # fmt: skip
    else:
        _print(found)
    return 0


def _print(found: Found) -> None:
    print(_KINDS[found.kind])
    for winding in found.windings:
        tap = f", tap {winding.tap}" if winding.tap is not None else ""
        ohm = f", {winding.ohm:.3g} ohm" if winding.ohm is not None else ""
        print(f"  {winding.ends[0]} to {winding.ends[1]}{tap}{ohm}")
    if found.common is not None:
        print(f"  common wire: {found.common}")
    for fault in found.faults:
        print(fault)
    if found.next:
        print(f"measure next: {found.next[0]} to {found.next[1]}")
