"""The schema of a job file: the site's is written by hand, what entries may hold is made from their kinds. Each entry
is held to its own kind's, so that a long file takes no longer an entry than a short one. Whether all is as it should
be is asked of one library, which is quick, and what is not of another, which says so in the words of the file."""

import json
from collections.abc import Iterator, Mapping
from functools import cache
from importlib import resources
from typing import Any

import jsonschema
import jsonschema_rs

from groundwork.kinds import KINDS, SHARED, entry_schemas

MOST_ENTRIES = 50_000
DRAFT = "https://json-schema.org/draft/2020-12/schema"


def schema() -> dict[str, Any]:
    """The whole, as it is published."""
    kinds = entry_schemas()
    one = _some_entry() | {"anyOf": [{"$ref": f"#/$defs/{name}"} for name in kinds]}
    return _site({"type": "array", "maxItems": MOST_ENTRIES, "items": one}) | {"$defs": {**SHARED, **kinds}}


def problems(data: Any) -> Iterator[tuple[list[str | int], str]]:
    """What in a job file is not as its schema has it, the place of each and what is wrong with it."""
    if found := _of_the_site(len(KINDS)).wrong_with(data):
        yield list(found.absolute_path), found.message
        return
    for place, entry in enumerate(data.get("entries", ())):
        if found := _of_a_kind(entry["kind"]).wrong_with(entry):
            yield ["entries", place, *found.absolute_path], found.message


def area_problem(data: Any) -> str:
    """What in an area by itself, as `area` in a job file, is not as the schema has it; nothing where all is."""
    found = _of_an_area().wrong_with(data)
    return found.message if found else ""


class _Schema:
    """A schema that data are held to."""

    def __init__(self, of: dict[str, Any]) -> None:
        self._is_valid = jsonschema_rs.validator_for(of).is_valid
        self._named = jsonschema.Draft202012Validator(of)

    def wrong_with(self, data: Any) -> jsonschema.ValidationError | None:
        return None if self._is_valid(data) else jsonschema.exceptions.best_match(self._named.iter_errors(data))


def _site(entries: Mapping[str, Any]) -> dict[str, Any]:
    text = resources.files("groundwork.files").joinpath("site.schema.json").read_text(encoding="utf-8")
    site: dict[str, Any] = json.loads(text)
    return site | {"properties": site["properties"] | {"entries": entries}}


def _some_entry() -> dict[str, Any]:
    kinds = sorted(name for name, made in KINDS.items() if made.IN_FILES)
    return {"type": "object", "required": ["kind"], "properties": {"kind": {"enum": kinds}}}


@cache
def _of_an_area() -> _Schema:
    area: dict[str, Any] = _site({})["properties"]["area"]
    return _Schema(area | {"$defs": dict(SHARED)})


@cache
def _of_the_site(_kinds: int) -> _Schema:
    """Of all but what entries hold, while there are so many kinds."""
    site = _site({"type": "array", "maxItems": MOST_ENTRIES, "items": _some_entry()})
    return _Schema(site | {"$defs": SHARED})


@cache
def _of_a_kind(kind: str) -> _Schema:
    return _Schema({"$schema": DRAFT} | entry_schemas()[kind] | {"$defs": SHARED})
