"""The JSON Schema (draft 2020-12) of parts of a machine, derived from the shapes of their fields.

It tells what stands in a field; rules between fields are the reader's, and no schema could tell them.
"""

from __future__ import annotations

import inspect
from typing import Any

from msgspec import NODEFAULT
from msgspec.structs import FieldInfo, fields

from kivant.core.bounds import Ge, Gt, Le, MaxLen, MinLen
from kivant.core.fields import About, Part
from kivant.core.machine.shape import Shape, shapes

_TYPES = {float: "number", int: "integer", str: "string", bool: "boolean"}
_BOUNDS = {
    Gt: "exclusiveMinimum",
    Ge: "minimum",
    Le: "maximum",
    MinLen: "minLength",
    MaxLen: "maxLength",
}


def schema_of(part: type[Part]) -> dict[str, Any]:
    """Return the schema of a part, with those of all parts that it can hold under ``$defs``."""
    found: dict[type, dict[str, Any]] = {}
    waiting = [part]
    while waiting:
        one = waiting.pop()
        if one not in found:
            found[one] = _object(one)
            waiting += [inner for shape in shapes(one).values() for inner in _parts(shape)]
    whole = found.pop(part)
    return {"$defs": {one.__name__: found[one] for one in sorted(found, key=lambda one: one.__name__)}, **whole}


def _parts(shape: Shape) -> list[type[Part]]:
    if shape.tagged is not None:
        return [kind.type for kind in shape.tagged.kinds.values()]
    if shape.item is not None:
        return _parts(shape.item)
    return [shape.type] if shape.is_part else []


def _object(part: type[Part]) -> dict[str, Any]:
    own, known = shapes(part), {field.name: field for field in fields(part)}
    # What tells kinds apart is never left out, though a part that is made in code has it by itself.
    tags = [name for name, shape in own.items() if len(shape.choices) == 1]
    needed = [*tags, *(name for name, shape in own.items() if shape.required)]
    return {
        "additionalProperties": False,
        "description": inspect.getdoc(part),
        "properties": {name: _property(shape, known[name]) for name, shape in own.items()},
        **({"required": needed} if needed else {}),
        "title": part.__name__,
        "type": "object",
    }


def _property(shape: Shape, field: FieldInfo) -> dict[str, Any]:
    found = _nullable(shape)
    if "$ref" in found:
        return found
    if field.default is not NODEFAULT and len(shape.choices) != 1:
        write = shape.form.write if shape.form is not None else None
        default = write(field.default) if write is not None and field.default is not None else field.default
        found["default"] = list(default) if isinstance(default, tuple) else default
    if abouts := [mark for mark in shape.marks if isinstance(mark, About)]:
        found["description"] = ", ".join(filter(None, (abouts[-1].text, abouts[-1].unit))) + "."
    return {**found, "title": field.name.replace("_", " ").title()}


def _nullable(shape: Shape) -> dict[str, Any]:
    return {"anyOf": [_value(shape), {"type": "null"}]} if shape.optional else _value(shape)


def _value(shape: Shape) -> dict[str, Any]:
    if shape.tagged is not None:
        mapping = {name: f"#/$defs/{kind.type.__name__}" for name, kind in shape.tagged.kinds.items()}
        discriminator = {"mapping": mapping, "propertyName": shape.tagged.tag}
        return {"discriminator": discriminator, "oneOf": [{"$ref": place} for place in mapping.values()]}
    if shape.is_part:
        place = {"$ref": f"#/$defs/{shape.type.__name__}"}
        return {"anyOf": [{"enum": list(shape.choices), "type": "string"}, place]} if shape.choices else place
    if shape.form is not None and shape.form.schema is not None:
        return dict(shape.form.schema)
    if len(shape.choices) == 1:
        return {"const": shape.choices[0], "type": "string"}
    if shape.choices:
        return {"enum": list(shape.choices), "type": "string"}
    if shape.key is not None and shape.item is not None:
        names = _bounds(shape.key)
        held = True if shape.item.type is Any else _value(shape.item)
        return {"additionalProperties": held, **({"propertyNames": names} if names else {}), "type": "object"}
    if shape.item is not None:
        most = shape.mark(MaxLen)
        return {"items": _value(shape.item), **({"maxItems": most.bound} if most else {}), "type": "array"}
    return {**_bounds(shape), "type": _TYPES[shape.type]}


def _bounds(shape: Shape) -> dict[str, Any]:
    return {_BOUNDS[type(mark)]: mark.bound for mark in shape.bounds}
