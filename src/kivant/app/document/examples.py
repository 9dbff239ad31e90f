"""The demo machines that ship with the package."""

from __future__ import annotations

from pathlib import Path

from kivant.core.machine import Machine
from kivant.files import project

FOLDER = Path(__file__).parents[2] / "examples"
BANDING_RIG = "banding-rig.kivant"
FEEDER_CAROUSEL = "feeder-carousel.kivant"
SEEDLING_SETTER = "seedling-setter.kivant"

EXAMPLES = {
    BANDING_RIG: ("Banding rig", "Four axes paint bands on bowls; two are driven coil by coil, two by pulses."),
    FEEDER_CAROUSEL: ("Feeder carousel", "One axis turns a disc of pockets, one further at each press of a button."),
    SEEDLING_SETTER: ("Seedling setter", "An arm of two links sets seedling plugs into a tray, by places of its tool."),
}
"""By the file: what the machine is called, and what it does."""


def load_example(name: str = BANDING_RIG) -> Machine:
    """Return a demo machine by its file name."""
    return project.loads((FOLDER / name).read_bytes())
