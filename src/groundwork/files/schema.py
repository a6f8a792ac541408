"""The schema of a job file: the site's is written by hand, what entries may hold is made from their kinds. Each entry
is held to its own kind's, so that a long file takes no longer an entry than a short one."""

import json
from collections.abc import Iterator, Mapping
from functools import cache
from importlib import resources
from typing import Any

import jsonschema

from groundwork.kinds import KINDS, SHARED, entry_schemas

MOST_ENTRIES = 50_000


def schema() -> dict[str, Any]:
    """The whole, as it is published."""
    kinds = entry_schemas()
    one = _some_entry() | {"anyOf": [{"$ref": f"#/$defs/{name}"} for name in kinds]}
    return _site({"type": "array", "maxItems": MOST_ENTRIES, "items": one}) | {"$defs": {**SHARED, **kinds}}


def problems(data: Any) -> Iterator[tuple[list[str | int], str]]:
    """What in a job file is not as its schema has it, the place of each and what is wrong with it."""
    if found := jsonschema.exceptions.best_match(_of_the_site(len(KINDS)).iter_errors(data)):
        yield list(found.absolute_path), found.message
        return
    for place, entry in enumerate(data.get("entries", ())):
        validator = _validator(entry["kind"])
        if not validator.is_valid(entry) and (
            found := jsonschema.exceptions.best_match(validator.iter_errors(entry))
        ):
            yield ["entries", place, *found.absolute_path], found.message


def _site(entries: Mapping[str, Any]) -> dict[str, Any]:
    text = resources.files("groundwork.files").joinpath("site.schema.json").read_text(encoding="utf-8")
    site: dict[str, Any] = json.loads(text)
    return site | {"properties": site["properties"] | {"entries": entries}}


def _some_entry() -> dict[str, Any]:
    kinds = sorted(name for name, made in KINDS.items() if made.IN_FILES)
    return {"type": "object", "required": ["kind"], "properties": {"kind": {"enum": kinds}}}


@cache
def _of_the_site(_kinds: int) -> jsonschema.Draft202012Validator:
    """Of all but what entries hold, while there are so many kinds."""
    site = _site({"type": "array", "maxItems": MOST_ENTRIES, "items": _some_entry()})
    return jsonschema.Draft202012Validator(site | {"$defs": SHARED})


@cache
def _validator(kind: str) -> jsonschema.Draft202012Validator:
    """Of a kind of entry."""
    return jsonschema.Draft202012Validator(entry_schemas()[kind] | {"$defs": SHARED})
