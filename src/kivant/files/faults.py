"""What the reader found wrong with a document, in the words of a maker and with its key path."""

from __future__ import annotations

from typing import Any

from pydantic_core import ErrorDetails

from kivant.core.errors import Fault
from kivant.core.fields import expected
from kivant.core.machine import Machine
from kivant.core.machine.check import found_text, misfit
from kivant.core.machine.shape import Shape, shapes
from kivant.core.path import Path


def fault_of(document: Any, detail: ErrorDetails) -> Fault:
    """Return the fault of one error that the reader found in a document."""
    kind, context = detail["type"], detail.get("ctx", {})
    place, value = _locate(document, detail["loc"])
    if kind in ("unexpected_keyword_argument", "extra_forbidden"):
        known = "Check its spelling, or keep your own data under “x”."
        return Fault(place, f"The key “{place.key}” is unknown.", known)
    if kind == "union_tag_not_found":
        tag = str(context.get("discriminator", "")).strip("'")
        return Fault(place, f"Expected an object with the key “{tag}”, found {found_text(value)}.", f"Add “{tag}”.")
    if kind == "missing":
        return Fault(place, f"The key “{place.key}” is missing.", "Add it; docs/file-format.md lists all keys.")
    said = str(context["error"]).removeprefix("expected ") if kind == "value_error" else None
    return misfit(place, said or expected(kind, key=place.key, **context) or detail["msg"], value)


def _locate(document: Any, location: tuple[int | str, ...]) -> tuple[Path, Any]:
    """Return the path and value of an error's location, which also names the kinds of tagged parts."""
    place, value = Path(), document
    part: type | None = Machine
    shape: Shape | None = None
    kind_next = False
    for step in location:
        if kind_next:
            kind_next = False
            continue
        if step == "[key]":
            continue
        place = place / step
        if part is not None:
            shape = shapes(part).get(str(step))
        elif shape is not None:
            shape = shape.item
        try:
            value = value[step]
        except (KeyError, IndexError, TypeError):
            value = None
        part = shape.part_of(value) if shape is not None else None
        kind_next = shape is not None and shape.tagged is not None and part is not None
    return place, value
