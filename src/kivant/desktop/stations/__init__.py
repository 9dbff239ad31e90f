"""The stations: a folder for each, and the table of them all, in the order of the chain."""

from __future__ import annotations

from kivant.desktop.stations.kind import StationKind
from kivant.desktop.stations.motor.record import MOTOR
from kivant.desktop.stations.phases.record import PHASES
from kivant.desktop.stations.ramp.record import RAMP
from kivant.desktop.stations.routine.record import ROUTINE
from kivant.desktop.stations.run.record import RUN
from kivant.desktop.stations.travel.record import TRAVEL

__all__ = ["FIRST_SHOWN", "STATIONS", "StationKind"]

STATIONS: dict[str, StationKind] = {kind.key: kind for kind in (MOTOR, PHASES, TRAVEL, RAMP, ROUTINE, RUN)}
"""Every station by its key."""

FIRST_SHOWN = RUN.key
"""The station that is open when a window opens."""
