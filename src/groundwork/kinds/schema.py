"""The JSON Schema of what entries may hold in a job file, made from the kinds themselves."""

import types
from collections.abc import Iterable, Mapping
from dataclasses import MISSING, fields
from datetime import date, datetime
from enum import StrEnum
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from annotated_types import DocInfo, Ge, Gt, Le, MaxLen, MinLen
from annotated_types import GroupedMetadata as Grouped

from groundwork.kinds.codec import hints_of, json_key
from groundwork.kinds.fields import LATEST, Pattern
from groundwork.kinds.kind import KINDS, Entry
from groundwork.kinds.nested import INSTRUMENT_SCHEMA, MACHINE_SCHEMA
from groundwork.measures import Measured
from groundwork.surfaces import Point
from groundwork.tools import Instrument, Machine

Schema = dict[str, Any]
SHARED: Mapping[str, Schema] = {
    "point_m": {
        "type": "array",
        "prefixItems": [{"type": "number", "minimum": -10000, "maximum": 10000}] * 2,
        "items": False,
        "minItems": 2,
        "description": "East and north on the plan, metres.",
    },
    "corners_m": {
        "type": "array",
        "items": {"$ref": "#/$defs/point_m"},
        "minItems": 2,
        "maxItems": 500,
        "description": "Corners in order, metres; not closed. Two where both sides are arcs.",
    },
    "bulges": {
        "type": "array",
        "items": {"type": "number", "minimum": -20, "maximum": 20},
        "maxItems": 500,
        "description": "For each side the tangent of a quarter of the angle its arc turns through, positive to the "
        "left; 0 where it is straight.",
    },
    "ring_m": {
        "type": "array",
        "items": {"$ref": "#/$defs/point_m"},
        "minItems": 3,
        "maxItems": 500,
        "description": "Corners in order, metres; not closed.",
    },
    "length": {
        "type": "string",
        "minLength": 1,
        "maxLength": 60,
        "description": "As typed: 1406, 1.406 m, 4.61', 4' 7 3/8\". A bare number is in the job's units.",
    },
    "instrument": INSTRUMENT_SCHEMA,
    "machine_brought": MACHINE_SCHEMA,
}
"""What kinds refer to, by name."""
_REFERRED: dict[Any, str] = {
    Point: "point_m",
    tuple[Point, ...]: "ring_m",
    Measured: "length",
    Instrument: "instrument",
    Machine: "machine_brought",
}
_PLAIN: dict[Any, str] = {str: "string", bool: "boolean", int: "integer", float: "number"}
_LIMITS: tuple[tuple[Any, str, str], ...] = (
    (Ge, "ge", "minimum"),
    (Gt, "gt", "exclusiveMinimum"),
    (Le, "le", "maximum"),
)


def entry_schemas() -> dict[str, Schema]:
    """The schema of each kind a job file may hold, by name; beside them stands what they refer to, `SHARED`."""
    return {name: _entry(made) for name, made in KINDS.items() if made.IN_FILES}


def _entry(made: type[Entry]) -> Schema:
    properties: Schema = {"kind": {"const": made.KIND}}
    required = ["kind"]
    hints = hints_of(made)
    for each in fields(made):
        key = json_key(each.name, hints[each.name])
        properties[key] = _field(hints[each.name])
        left_out = LATEST in get_args(hints[each.name])
        if each.default is MISSING and each.default_factory is MISSING and not left_out:
            required.append(key)
    return {
        "type": "object",
        "description": " ".join((made.__doc__ or "").split()),
        "required": required,
        "properties": properties,
        "additionalProperties": False,
    }


def _field(hint: Any) -> Schema:
    """The schema of a field: absent where it is nothing."""
    said: list[Any] = []
    while get_origin(hint) is Annotated:
        hint, *more = get_args(hint)
        said = [*said, *more]
    if get_origin(hint) in (Union, types.UnionType):
        inner = next(part for part in get_args(hint) if part is not type(None))
        return _field(Annotated[inner, *said] if said else inner)
    return _of(hint) | _limits(said, is_row=get_origin(hint) is tuple)


def _of(hint: Any) -> Schema:
    if hint in _REFERRED:
        return {"$ref": f"#/$defs/{_REFERRED[hint]}"}
    if hint in _PLAIN:
        return {"type": _PLAIN[hint]}
    if hint is datetime:
        return {"type": "string", "pattern": r"^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$"}
    if hint is date:
        return {"type": "string", "format": "date", "pattern": r"^\d{4}-\d{2}-\d{2}$"}
    if get_origin(hint) is Literal:
        return {"enum": list(get_args(hint))}
    if get_origin(hint) is tuple:
        return {"type": "array", "items": _field(get_args(hint)[0])}
    if isinstance(hint, type) and issubclass(hint, StrEnum):
        return {"enum": [str(each) for each in hint]}
    raise TypeError(f"no schema for {hint!r}")


def _limits(said: Iterable[Any], is_row: bool) -> Schema:
    found: Schema = {}
    for one in said:
        for each in one if isinstance(one, Grouped) else (one,):
            for limit, name, key in _LIMITS:
                if isinstance(each, limit):
                    found[key] = getattr(each, name)
            match each:
                case MinLen(least):
                    found |= {"minItems" if is_row else "minLength": least} if least else {}
                case MaxLen(most):
                    found["maxItems" if is_row else "maxLength"] = most
                case Pattern(regex):
                    found["pattern"] = regex
                case DocInfo():
                    found["description"] = each.documentation
    return found
