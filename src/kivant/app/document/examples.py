"""The demo machines that ship with the package."""

from __future__ import annotations

from importlib import resources

from kivant.core.machine import Machine
from kivant.files import project

BANDING_RIG = "banding-rig.kivant"
FEEDER_CAROUSEL = "feeder-carousel.kivant"
SEEDLING_SETTER = "seedling-setter.kivant"


def load_example(name: str = BANDING_RIG) -> Machine:
    """Return a demo machine by its file name."""
    return project.loads(resources.files("kivant").joinpath("examples", name).read_bytes())
