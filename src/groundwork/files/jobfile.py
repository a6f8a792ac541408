"""The open job file: JSON in and out, and readings as CSV beside it."""

import csv
import io
import json
from collections.abc import Iterable
from dataclasses import replace
from functools import cache, partial
from typing import Any, NoReturn

from cattrs import transform_error
from cattrs.errors import ClassValidationError

from groundwork.assess import Before
from groundwork.entries import Anchor
from groundwork.files.schema import problems
from groundwork.job import Job, SiteError, check_site, read_site, site_data
from groundwork.kinds import KINDS, Codec, Entry, is_anchored, key_of
from groundwork.measures import (
    Measured,
    MeasureError,
    Typed,
    Unit,
    all_cleaned,
    first_that_cannot_stand,
    parse_bar,
    parse_layer,
    parse_length,
    parse_rod,
    parse_signed,
    parse_tape,
)
from groundwork.schools import school
from groundwork.stages import sequence

LARGEST_FILE = 5_000_000


class JobFileError(ValueError):
    """A job file that cannot be read; `path` says where in it, as `entries[3].reading`."""

    def __init__(self, path: str, message: str) -> None:
        super().__init__(f"{path}: {message}")
        self.path = path
        self.message = message


def loads(text: str, readings_csv: str | None = None) -> Job:
    """The job in `text`, with the rows of `readings_csv` after its own entries. Raises `JobFileError`."""
    if len(text) > LARGEST_FILE:
        raise JobFileError("$", f"longer than {LARGEST_FILE} characters")
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except JobFileError:
        raise
    except (ValueError, RecursionError) as error:  # also a number of more digits than Python reads
        raise JobFileError("$", f"not JSON: {error}") from error
    if place := first_that_cannot_stand(data):
        raise JobFileError(
            _path(place), "holds a letter that cannot stand in a text: a control, or half a surrogate pair"
        )
    data = all_cleaned(data)
    for where, message in problems(data):
        raise JobFileError(_path(where), message[:200])
    if readings_csv is not None:
        if first_that_cannot_stand([readings_csv]):
            raise JobFileError("readings.csv", "holds a control: no text can")
        return _job(data, _csv_entries(readings_csv))
    return _job(data, [])


def dumps(job: Job) -> str:
    """The job file of `job`; `loads` gives the same job back. Sign-offs stay with the record."""
    data = site_data(job) | {"entries": [_entry_data(entry, job.unit) for entry in job.entries]}
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def _no_constant(name: str) -> NoReturn:
    raise JobFileError("$", f"{name} is no number in JSON")


def _path(parts: Iterable[str | int]) -> str:
    text = "$"
    for part in parts:
        text += f"[{part}]" if isinstance(part, int) else f".{part}"
    return text.removeprefix("$.")


def _csv_entries(text: str) -> list[dict[str, Any]]:
    rows = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    if not {"station", "reading"} <= set(rows.fieldnames or ()):
        raise JobFileError("readings.csv", "the first line must name the columns station and reading")
    entries = []
    try:
        for line, row in enumerate(rows, start=2):
            if None in row or None in row.values():
                raise JobFileError(f"readings.csv line {line}", "has not as many values as the first line")
            entry = {"kind": "reading", "id": f"csv-{line}", "where": f"readings.csv line {line}"}
            entry |= {"station": row["station"].strip(), "reading": row["reading"]}
            if row.get("set_up"):
                entry["set_up"] = row["set_up"].strip()
            same = (row.get("same_ground") or "").strip().lower()
            if same not in ("", "yes", "no"):
                raise JobFileError(f"readings.csv line {line}", f"same_ground is yes or no, not {same!r}")
            entries.append(entry | {"same_ground": same == "yes"})
    except csv.Error as error:
        raise JobFileError("readings.csv", f"not CSV: {error}") from error
    return entries


def _job(data: dict[str, Any], read: list[dict[str, Any]]) -> Job:
    """The job of a file, with the readings of a CSV after its own entries."""
    try:
        job = read_site(data)
    except ValueError as error:
        raise JobFileError("specification", str(error)) from error
    try:
        check_site(job)
    except SiteError as error:
        raise JobFileError(error.path, error.message) from error
    own = [(f"entries[{place}]", row) for place, row in enumerate(data.get("entries", ()))]
    beside = [(f"readings.csv line {line}", row) for line, row in enumerate(read, start=2)]
    return replace(job, entries=_entries([*own, *beside], job))


def _entries(rows: list[tuple[str, dict[str, Any]]], job: Job) -> tuple[Entry, ...]:
    before = Before(job, sequence(job, school(job.specification.school)))
    codec, latest = _codec(job.unit), ""
    for path, row in rows:
        if before.entry(row["id"]):
            raise JobFileError(f"{path}.id", f"{row['id']!r} stands twice")
        made = KINDS[row["kind"]]
        body = {"set_up": latest} | row if is_anchored(made) else row
        entry = _value(codec, body, path)
        if found := entry.wrong(before):
            raise JobFileError(f"{path}.{key_of(made, found.field)}", found.words.text(job.unit))
        if isinstance(entry, Anchor):
            latest = entry.id
        before.add(entry)
    return tuple(before.known.values())


@cache
def _codec(unit: Unit) -> Codec:
    """Entries as a job file has them: each length read in the job's units where it stands as text."""
    return Codec(partial(_parse, unit=unit), partial(_typed_in, unit=unit), strict=True)


def _value(codec: Codec, row: dict[str, Any], path: str) -> Entry:
    try:
        return codec.value(row["kind"], row["id"], row)
    except ClassValidationError as error:
        said, _at, place = transform_error(error, format_exception=lambda e, _to: str(e))[0].rpartition(" @ $")
        raise JobFileError(f"{path}{place}", said) from error


def _entry_data(entry: Entry, unit: Unit) -> dict[str, Any]:
    body = _codec(unit).body(entry)
    return {"kind": entry.KIND, "id": entry.id} | {key: value for key, value in body.items() if value is not None}


def _typed_in(measured: Measured, how: Typed, *, unit: Unit) -> str:
    """What was typed, or metres where a bare number was typed for another rod than `unit`."""
    try:
        same = abs(_parse(measured.raw, how, unit=unit).metres - measured.metres) < 1e-9
    except MeasureError:
        same = False
    return measured.raw if same else f"{measured.metres:.6f} m"


def _parse(text: str, how: Typed, *, unit: Unit) -> Measured:
    """A length of an entry as typed. Raises `MeasureError`."""
    match how:
        case Typed.ROD:
            return parse_rod(text, unit)
        case Typed.SIGNED:
            return parse_signed(text, unit)
        case Typed.PLAN:
            return parse_length(text, unit.for_plans)
        case Typed.LAYER:
            return parse_layer(text, unit)
        case Typed.TAPE:
            return parse_tape(text, unit)
        case Typed.BAR:
            return parse_bar(text, unit)
