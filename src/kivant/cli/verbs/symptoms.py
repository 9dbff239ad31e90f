"""``kivant symptoms``: what is wrong with a drive, from what its motor does."""

from __future__ import annotations

import argparse

from kivant.cli.find import find_axis
from kivant.cli.say import print_json
from kivant.core.drive.causes import causes
from kivant.core.drive.symptoms import SYMPTOMS, diagnose
from kivant.core.errors import Fault, KivantError, shown
from kivant.files import project

_WAYS = {"+": 1, "-": -1, "0": 0}


def run(options: argparse.Namespace) -> int:
    """List the causes that explain all that was seen; raises `KivantError` for a word that is not a symptom."""
    axis = find_axis(project.load(options.file), options.axis)
    for word in options.seen:
        if word not in SYMPTOMS:
            remedy = "Use " + ", ".join(f"{key} ({text})" for key, text in SYMPTOMS.items()) + "."
            raise KivantError(Fault("symptom", f"“{shown(word)}” is not a symptom.", remedy))
    if not set(options.moves) <= {*_WAYS, "."}:
        message = f"“{shown(options.moves)}” does not describe moves."
        raise KivantError(Fault("moves", message, "Give + - or 0 for each step forward, and . where you did not look."))
    moves = {step: _WAYS[sign] for step, sign in enumerate(options.moves) if sign != "."}
    found = diagnose(causes(axis), options.seen, moves)
    if options.json:
        listed = [{"kind": cause.kind, "cause": cause.title, "cure": cause.cure} for cause in found]
        print_json({"causes": listed})
    else:
        for number, cause in enumerate(found, start=1):
            print(f"{number}. {cause.title}\n   {cause.cure}")
        if not found:
            print("No known cause explains all of it. Give fewer symptoms, or look at single steps.")
    return 0
