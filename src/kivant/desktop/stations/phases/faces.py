"""The table of the faces of the Phases station, each loaded when it is first shown."""

from __future__ import annotations

import importlib

from msgspec import Struct

from kivant.core.path import Path
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.face import Face


class FaceKind(Struct, frozen=True):
    """A face: its name for people, its class as ``module:class`` of this package, and the places it shows."""

    title: str
    made_by: str
    places: tuple[tuple[str, ...], ...] = ()

    def make(self, session: Session) -> Face:
        """Return a new one."""
        module, _, name = self.made_by.partition(":")
        found: Face = getattr(importlib.import_module(f"kivant.desktop.stations.phases.{module}"), name)(session)
        return found


FACES: dict[str, FaceKind] = {
    "sequence": FaceKind("Sequence", "sequence_face:SequenceFace", (("axes", "*", "driver", "sequence"),)),
    "microsteps": FaceKind(
        "Microsteps",
        "microsteps_face:MicrostepsFace",
        (("axes", "*", "driver", "microsteps"), ("axes", "*", "driver", "switches")),
    ),
    "pulses": FaceKind(
        "Pulses",
        "pulses_face:PulsesFace",
        tuple(("axes", "*", "driver", key) for key in ("pulse_high_us", "pulse_low_us", "direction_setup_us",
                                                       "direction_hold_us", "enable_lead_us")),
    ),
    "wires": FaceKind(
        "Wires",
        "wires_face:WiresFace",
        tuple(("axes", "*", "driver", key) for key in ("wires", "lines", "active", "outputs", "pulse_active",
                                                       "positive_level", "enable_active")),
    ),
    "finder": FaceKind("Finder", "finder_face:FinderFace", (("axes", "*", "motor", "leads"),)),
    "symptoms": FaceKind("Symptoms", "symptoms_face:SymptomsFace"),
    "current": FaceKind(
        "Current",
        "current_face:CurrentFace",
        (("supplies",), ("axes", "*", "motor"), ("axes", "*", "load"),
         *(("axes", "*", "driver", key) for key in ("supply", "supply_v", "current_a", "current_switches", "at_rest",
                                                    "reduced_percent"))),
    ),
    "board": FaceKind("Board", "board_face:BoardFace", (("board",),)),
}  # fmt: skip
"""Every face by its key."""


def face_of(place: Path, keys: tuple[str, ...]) -> str:
    """Return the key of the face, among some, that shows a place; the first one where none does."""
    fitting = [(len(prefix), key) for key in keys for prefix in FACES[key].places if place.below(*prefix) is not None]
    return max(fitting)[1] if fitting else keys[0]
