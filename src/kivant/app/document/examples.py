"""The demo machines that ship with the package."""

from __future__ import annotations

from pathlib import Path

from kivant.core.machine import Machine
from kivant.files import project

FOLDER = Path(__file__).parents[2] / "examples"
BANDING_RIG = "banding-rig.kivant"
FEEDER_CAROUSEL = "feeder-carousel.kivant"
SEEDLING_SETTER = "seedling-setter.kivant"


def load_example(name: str = BANDING_RIG) -> Machine:
    """Return a demo machine by its file name."""
    return project.loads((FOLDER / name).read_bytes())
