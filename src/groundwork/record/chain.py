"""The record's proof: each entry carries the hash of the one before it.

An entry's hash is SHA-256 over its canonical JSON (keys sorted, no spaces, UTF-8) without the key `hash`.
A changed, missing, swapped or inserted entry breaks the chain. A tail rewritten whole does not: it is caught against
a head that was published before, on a printed record or its code (`Head`).
"""

import hashlib
import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

FIRST = "0" * 64
"""What the first entry carries in place of a previous hash."""
HEAD_MARK = "nivelum-head/1"
LONGEST_HEAD = 200
_HEAD = re.compile(
    r"\s*(?:nivelum-head/1\s+(?P<job>\S+)\s+)?(?:(?P<number>[1-9]\d{0,8})[\s:])?\s*(?P<hash>[0-9a-f]{64})\s*"
)


@dataclass(frozen=True)
class Fault:
    """The first entry that does not fit, by its place in the list, and why."""

    place: int
    why: str


@dataclass(frozen=True)
class Head:
    """A hash the record once ended in, as it was published: of entry `number` of `job`, where that is known."""

    hash: str
    number: int | None = None
    job: str = ""

    def __str__(self) -> str:
        return f"{HEAD_MARK} {self.job} {self.number} {self.hash}"


def head_of(text: str) -> Head:
    """A published head as printed, `nivelum-head/1 JOB NUMBER HASH`, or `NUMBER:HASH`, or a hash alone. Raises
    `ValueError`."""
    found = _HEAD.fullmatch(text) if len(text) <= LONGEST_HEAD else None
    if not found:
        raise ValueError("a head is 64 hexadecimal figures, or nivelum-head/1 JOB NUMBER HASH as it is printed")
    number = found["number"]
    return Head(found["hash"], int(number) if number else None, found["job"] or "")


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


def held_to(entries: Sequence[Mapping[str, Any]], published: Head) -> Fault | None:
    """Where an unbroken chain does not lead through a head published before: it was rewritten at or before that
    entry. None where it does."""
    hashes = [entry.get("hash") for entry in entries]
    jobs = {str(entry["job"]) for entry in entries if "job" in entry}
    if published.job and jobs and jobs != {published.job}:
        return Fault(1, f"is of job {min(jobs)}; the head that was published is of job {published.job}")
    if published.number is None:
        return None if published.hash in hashes else Fault(len(hashes), "leads nowhere through the published head")
    if published.number > len(hashes):
        return Fault(len(hashes), f"is the last, and entry {published.number} was published: the end is missing")
    if hashes[published.number - 1] != published.hash:
        return Fault(published.number, "is not what was published: it, or one before it, was written anew")
    return None


def photos_named(entries: Iterable[Mapping[str, Any]]) -> dict[str, int]:
    """The photos a record names, by hash, each with the first entry that does."""
    found: dict[str, int] = {}
    for entry in entries:
        photo = entry["body"].get("photo") if isinstance(entry.get("body"), Mapping) else None
        if photo:
            found.setdefault(str(photo), int(entry["number"]))
    return found


def photo_fault(entries: Iterable[Mapping[str, Any]], photos: Mapping[str, bytes]) -> Fault | None:
    """The first entry whose photo is missing from `photos`, by hash, or is another picture."""
    for name, number in photos_named(entries).items():
        if name not in photos:
            return Fault(number, f"names the photo {name[:12]}…, which is missing")
        if hashlib.sha256(photos[name]).hexdigest() != name:
            return Fault(number, f"names the photo {name[:12]}…, and another picture stands in its place")
    return None
