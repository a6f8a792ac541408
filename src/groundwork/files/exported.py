"""An exported record read strictly: bytes that can be read in one way only, and everything in them known.

What is not known is refused, since a reader that passes over something proves less than it seems to. The header is
bound to the chain: its job to every entry, its name to the last design, its crew to the first entry where that names
one (records written before 2026-12 do not), its head to the last entry.
"""

import io
import json
import re
import struct
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, NoReturn
from uuid import UUID

from groundwork.job import Design
from groundwork.kinds import KINDS
from groundwork.record import Fault, Head, first_fault, held_to, photo_fault, photos_named

FORMAT = "nivelum-record/1"
DESIGN = Design.KIND
LARGEST_RECORD, LARGEST_BUNDLE, MOST_MEMBERS = 200_000_000, 2_000_000_000, 20_000
LARGEST_PHOTO = 20_000_000
RECORD, PHOTOS = "record.json", re.compile(r"photos/([0-9a-f]{64})\.jpg")
_HASH = re.compile(r"[0-9a-f]{64}")
_TIME = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{6})?\+00:00")
_HEADER = {"format", "job", "head", "entries"}
_JOB = {"id", "name", "crew"}
_ENTRY = {"id", "job", "number", "kind", "by", "at", "device_at", "body", "previous", "hash"}


class NoRecord(ValueError):
    """What was given is no exported record; the message says where it stops being one."""


@dataclass(frozen=True)
class Exported:
    """A record as exported; `photos` by their hash, None where it came without."""

    job: str
    name: str
    crew: str
    head: str
    entries: tuple[Mapping[str, Any], ...]
    photos: Mapping[str, bytes] | None = None

    @property
    def names_its_crew(self) -> bool:
        """Whether the crew's name is proven by the chain."""
        return bool(_founded(self.entries[0]))


def read_exported(data: bytes) -> Exported:
    """The record in the bytes of a JSON file or a zip with its photos. Raises `NoRecord`."""
    if data.startswith(b"PK"):
        return _bundle(data)
    return _record(data, None)


def fault_of(record: Exported, published: tuple[Head, ...] = ()) -> Fault | None:
    """The first thing in a record that does not fit: its chain, its header, what was published of it, its photos."""
    entries = record.entries
    fault = first_fault(entries, record.head) or fault_between(record.job, entries) or _fault_of_the_header(record)
    for head in published:
        fault = fault or held_to(entries, head)
    if fault or record.photos is None:
        return fault
    return photo_fault(entries, record.photos)


def fault_between(job: str, entries: Sequence[Mapping[str, Any]]) -> Fault | None:
    """The first entry that no record of this job can hold after those before it."""
    seen: set[str] = set()
    before = ""
    for place, entry in enumerate(entries, start=1):
        if entry["job"] != job:
            return Fault(place, f"is of job {entry['job']}, and the record says it is of {job}")
        if entry["id"] in seen:
            return Fault(place, "has the identifier of an entry before it")
        if place == 1 and entry["kind"] != DESIGN:
            return Fault(place, "is the first and no design")
        if entry["at"] < before:
            return Fault(place, "was written before the entry it follows")
        seen.add(entry["id"])
        before = entry["at"]
    return None


def _fault_of_the_header(record: Exported) -> Fault | None:
    designs = [entry["body"] for entry in record.entries if entry["kind"] == DESIGN]
    name = designs[-1].get("name", "") if designs else ""
    if record.name != name:
        return Fault(
            len(record.entries), f"leaves the job with the name “{name}”, and the record says “{record.name}”"
        )
    founded = _founded(record.entries[0])
    if founded and founded.get("crew") != record.crew:
        return Fault(1, f"was written for the crew “{founded.get('crew')}”, and the record says “{record.crew}”")
    return None


def _founded(first: Mapping[str, Any]) -> Mapping[str, Any]:
    """What the first entry says of the record it begins; nothing in records from before that was written."""
    found = first["body"].get("founded")
    return found if isinstance(found, Mapping) else {}


def _bundle(data: bytes) -> Exported:
    if len(data) > LARGEST_BUNDLE:
        raise NoRecord("too large")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            members = archive.infolist()
            _only_what_belongs(data, members)
            photos = {}
            for each in members:
                if each.filename == RECORD:
                    text = archive.read(each)
                elif named := PHOTOS.fullmatch(each.filename):
                    photos[named[1]] = archive.read(each)
    except (zipfile.BadZipFile, zlib.error, EOFError, struct.error, RuntimeError) as error:
        # A way of packing that is not known is a RuntimeError too.
        raise NoRecord(f"a zip that cannot be read: {error}") from error
    found = _record(text, photos)
    if extra := photos.keys() - photos_named(found.entries).keys():
        raise NoRecord(f"holds the photo {min(extra)[:12]}…, which no entry names")
    return found


def _only_what_belongs(data: bytes, members: list[zipfile.ZipInfo]) -> None:
    """Raises `NoRecord` where a zip holds anything but one record and photos, lying one after the other from its
    first byte to the list of its members at its end."""
    names = [each.filename for each in members]
    if len(names) > MOST_MEMBERS or sum(each.file_size for each in members) > LARGEST_BUNDLE:
        raise NoRecord("too large")
    if len(set(names)) != len(names):
        raise NoRecord("holds two members of one name")
    if RECORD not in names:
        raise NoRecord(f"holds no {RECORD}")
    largest = {each.filename: LARGEST_RECORD if each.filename == RECORD else LARGEST_PHOTO for each in members}
    if any(each.file_size > largest[each.filename] for each in members):
        raise NoRecord("too large")
    if strange := [name for name in names if name != RECORD and not PHOTOS.fullmatch(name)]:
        raise NoRecord(f"holds “{strange[0][:60]}”, which does not belong into a record")
    at = 0
    for each in sorted(members, key=lambda each: each.header_offset):
        if each.header_offset != at or each.flag_bits & ~0x800 or each.compress_type not in (0, 8) or each.extra:
            raise NoRecord(f"“{each.filename[:60]}” does not follow on what is before it")
        name_length, extra_length = struct.unpack("<HH", data[at + 26 : at + 30])
        at += 30 + name_length + extra_length + each.compress_size
        if extra_length:
            raise NoRecord(f"“{each.filename[:60]}” carries more than its picture")
    listed = sum(46 + len(each.filename.encode()) + len(each.extra) + len(each.comment) for each in members)
    if at + listed + 22 != len(data) or data[at : at + 2] != b"PK":
        raise NoRecord("holds bytes that belong to none of its members")


def _record(data: bytes, photos: Mapping[str, bytes] | None) -> Exported:
    if len(data) > LARGEST_RECORD:
        raise NoRecord("too large")
    try:
        found = json.loads(data.decode("utf-8"), parse_constant=_no_constant, object_pairs_hook=_each_key_once)
    except (ValueError, RecursionError) as error:
        raise NoRecord(f"no JSON in UTF-8: {str(error)[:120]}") from error
    _keys(found, _HEADER, "the record")
    if found["format"] != FORMAT:
        raise NoRecord(f"its format is {str(found['format'])[:40]!r}, not {FORMAT}")
    job, entries = found["job"], found["entries"]
    _keys(job, _JOB, "its job")
    if not _identifier(job["id"]) or not _whole(job["name"]) or not _whole(job["crew"]):
        raise NoRecord("its job has no identifier, name and crew")
    if not _hash(found["head"]):
        raise NoRecord("its head is no hash")
    if not isinstance(entries, list) or not entries:
        raise NoRecord("it has no entries")
    for place, entry in enumerate(entries, start=1):
        _entry(entry, f"entry {place}")
    return Exported(job["id"], job["name"], job["crew"], found["head"], tuple(entries), photos)


def _entry(entry: Any, where: str) -> None:
    """Raises `NoRecord` for what is not shaped as an entry is."""
    _keys(entry, _ENTRY, where)
    by = entry["by"]
    _keys(by, {"id", "name"}, f"{where}, by")
    right = {
        "id": _identifier(entry["id"]),
        "job": _identifier(entry["job"]),
        "number": type(entry["number"]) is int,
        "kind": isinstance(entry["kind"], str) and entry["kind"] in KINDS,
        "by": type(by["id"]) is int and isinstance(by["name"], str),
        "at": _time(entry["at"]),
        "device_at": entry["device_at"] is None or _time(entry["device_at"]),
        "body": isinstance(entry["body"], dict),
        "previous": _hash(entry["previous"]),
        "hash": _hash(entry["hash"]),
    }
    if wrong := next((name for name, is_right in right.items() if not is_right), None):
        raise NoRecord(f"{where}: “{wrong}” is not what it should be")
    photo = entry["body"].get("photo")
    if photo not in (None, "") and not _hash(photo):
        raise NoRecord(f"{where}: names a photo by no hash")


def _keys(found: Any, wanted: set[str], what: str) -> None:
    if not isinstance(found, dict) or found.keys() != wanted:
        raise NoRecord(f"{what} has not the keys {', '.join(sorted(wanted))}, and no others")


def _identifier(text: Any) -> bool:
    try:
        return isinstance(text, str) and str(UUID(text)) == text
    except ValueError:
        return False


def _whole(text: Any) -> bool:
    """Whether a text holds no half of a surrogate pair."""
    return isinstance(text, str) and not any("\ud800" <= letter <= "\udfff" for letter in text)


def _hash(text: Any) -> bool:
    return isinstance(text, str) and bool(_HASH.fullmatch(text))


def _time(text: Any) -> bool:
    try:
        return (
            isinstance(text, str)
            and bool(_TIME.fullmatch(text))
            and datetime.fromisoformat(text).utcoffset() == timedelta()
        )
    except ValueError:
        return False


def _no_constant(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number in JSON")


def _each_key_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        raise ValueError("an object names a key twice")
    return found
