"""The writer: parts of a machine made into objects of a file, by the shapes of their fields."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from kivant.core.fields import Part
from kivant.core.machine.shape import Shape, shapes


def written(part: Part) -> dict[str, Any]:
    """Return a part as the object that stands for it in a file, its keys in the order of the schema."""
    found = {}
    for name, shape in shapes(type(part)).items():
        value = getattr(part, name)
        if value is not None:
            found[name] = value if name == "x" else _written(value, shape)
        elif shape.null_is_written:
            found[name] = None
    return found


def _written(value: Any, shape: Shape) -> Any:
    if isinstance(value, Part):
        return written(value)
    if isinstance(value, tuple) and shape.item is not None:
        return [_written(item, shape.item) for item in value]
    if isinstance(value, Mapping):
        return dict(value)
    form = shape.form
    return form.write(value) if form is not None and form.write is not None else value
