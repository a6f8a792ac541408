"""The record's proof: each entry carries the hash of the one before it.

An entry's hash is SHA-256 over its canonical JSON (keys sorted, no spaces, UTF-8) without the key `hash`.
A changed, missing, swapped or inserted entry breaks the chain; a tail rewritten whole does not, and is only
caught against a head hash kept elsewhere.
"""

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

FIRST = "0" * 64
"""What the first entry carries in place of a previous hash."""


@dataclass(frozen=True)
class Fault:
    """The first entry that does not fit, by its place in the list, and why."""

    place: int
    why: str


def entry_hash(entry: Mapping[str, Any]) -> str:
    """The hash of an entry given as JSON values. Raises `ValueError` for numbers JSON has not."""
    body = {key: value for key, value in entry.items() if key != "hash"}
    text = json.dumps(body, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)
    return hashlib.sha256(text.encode()).hexdigest()


def first_fault(entries: Iterable[Mapping[str, Any]], head: str | None = None) -> Fault | None:
    """The first entry that breaks the chain, or None where it holds and ends at `head`."""
    previous, place = FIRST, 0
    for place, entry in enumerate(entries, start=1):
        if entry.get("number") != place:
            return Fault(place, f"is numbered {entry.get('number')}: one is missing, extra or out of order")
        if entry.get("previous") != previous:
            return Fault(place, "does not follow from the entry before it")
        if entry.get("hash") != entry_hash(entry):
            return Fault(place, "was changed after it was written")
        previous = str(entry["hash"])
    if head is not None and previous != head:
        return Fault(place, "is not the last: the record's head is another")
    return None
