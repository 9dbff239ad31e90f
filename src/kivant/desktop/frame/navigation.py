"""Navigation: from a key path to the station where it is seen and changed, and into its field."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from kivant.core.path import Path
from kivant.desktop.state.session import Session
from kivant.desktop.stations import STATIONS
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.word_choice import WordChoice


def station_of(place: Path) -> str | None:
    """Return the key of the station that is the place for a path; None where none is, such as for an axis's name."""
    found: tuple[int, str] | None = None
    for key, kind in STATIONS.items():
        for prefix in kind.places:
            if place.below(*prefix) is not None and (found is None or len(prefix) > found[0]):
                found = len(prefix), key
    return found[1] if found else None


def choose(session: Session, place: Path) -> None:
    """Choose the axis or the routine that a path lies in."""
    if place.axis is not None:
        session.choice.select(place.axis)
    machine, routine = session.document.machine, place.routine
    if routine is not None and not session.running.active and routine < len(machine.routines):
        session.choice.choose_routine(machine.routines[routine].name)


def enter_field(page: QWidget, place: Path) -> None:
    """Put the focus into the field of a path, where the page shows one."""
    inner = place.below("axes", "*")
    for field in page.findChildren(QWidget):
        shown = isinstance(field, AxisField | WordChoice) and field.path == inner and field.isVisible()
        if inner is not None and shown:
            field.setFocus()
            if isinstance(field, AxisField):
                field.selectAll()
            return
