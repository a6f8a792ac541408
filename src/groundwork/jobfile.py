"""The open job file: JSON in and out, and readings as CSV beside it. Its schema is `job-file.schema.json`."""

import csv
import io
import json
from collections.abc import Iterable
from dataclasses import replace
from importlib import resources
from typing import Any, NoReturn

import jsonschema

from groundwork.job import Entry, Fill, Job, Mark, Reading, SetUp, Strike
from groundwork.measure import Measured, MeasureError, Unit, parse_rod
from groundwork.site import SiteError, check_site, point, read_site, site_data
from groundwork.stations import Station
from groundwork.verdict import Instrument

LARGEST_FILE = 5_000_000


class JobFileError(ValueError):
    """A job file that cannot be read; `path` says where in it, as `entries[3].reading`."""

    def __init__(self, path: str, message: str) -> None:
        super().__init__(f"{path}: {message}")
        self.path = path
        self.message = message


def schema() -> dict[str, Any]:
    text = resources.files("groundwork").joinpath("job-file.schema.json").read_text(encoding="utf-8")
    return dict(json.loads(text))


def loads(text: str, readings_csv: str | None = None) -> Job:
    """The job in `text`, with the rows of `readings_csv` after its own entries. Raises `JobFileError`."""
    if len(text) > LARGEST_FILE:
        raise JobFileError("$", f"longer than {LARGEST_FILE} characters")
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except (json.JSONDecodeError, RecursionError) as error:
        raise JobFileError("$", f"not JSON: {error}") from error
    validator = jsonschema.Draft202012Validator(schema())
    problem = jsonschema.exceptions.best_match(validator.iter_errors(data))
    if problem:
        raise JobFileError(_path(problem.absolute_path), problem.message[:200])
    if readings_csv is not None:
        data = data | {"entries": [*data.get("entries", []), *_csv_entries(readings_csv)]}
    return _job(data)


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


def _job(data: dict[str, Any]) -> Job:
    try:
        job = read_site(data)
    except ValueError as error:
        raise JobFileError("specification", str(error)) from error
    try:
        stations = check_site(job)
    except SiteError as error:
        raise JobFileError(error.path, error.message) from error
    return replace(job, entries=_entries(data.get("entries", []), job.unit, job.marks, stations))


def _entries(
    rows: list[dict[str, Any]], unit: Unit, marks: tuple[Mark, ...], stations: tuple[Station, ...]
) -> tuple[Entry, ...]:
    known: dict[str, Entry] = {}
    latest_set_up = ""
    mark_names, station_names = {m.name for m in marks}, {s.name for s in stations}
    for place, row in enumerate(rows):
        path = row.get("where", f"entries[{place}]")
        if row["id"] in known:
            raise JobFileError(f"{path}.id", f"{row['id']!r} stands twice")
        entry: Entry
        match row["kind"]:
            case "set_up":
                if row["mark"] not in mark_names:
                    raise JobFileError(f"{path}.mark", f"no mark is called {row['mark']!r}")
                backsight = _typed(row["backsight"], unit, f"{path}.backsight")
                at = point(row["at_m"]) if "at_m" in row else None
                instrument = Instrument(row.get("instrument", "laser"))
                entry = SetUp(row["id"], row["mark"], backsight, instrument, at)
                latest_set_up = entry.id
            case "reading":
                _check_station(row["station"], station_names, path)
                set_up = row.get("set_up", latest_set_up)
                if not isinstance(known.get(set_up), SetUp):
                    raise JobFileError(f"{path}.set_up", f"no set-up before it is called {set_up!r}")
                typed = _typed(row["reading"], unit, f"{path}.reading")
                entry = Reading(row["id"], row["station"], set_up, typed, row.get("same_ground", False))
            case "fill":
                _check_station(row["station"], station_names, path)
                entry = Fill(row["id"], row["station"], row["material"], row.get("lifts", 1))
            case _:
                if row["strikes"] not in known or isinstance(known[row["strikes"]], Strike):
                    raise JobFileError(f"{path}.strikes", f"nothing before it is called {row['strikes']!r}")
                entry = Strike(row["id"], row["strikes"], row.get("reason", ""))
        known[entry.id] = entry
    return tuple(known.values())


def _check_station(name: str, names: set[str], path: str) -> None:
    if name not in names:
        raise JobFileError(f"{path}.station", f"no station is called {name!r}")


def _typed(text: str, unit: Unit, path: str) -> Measured:
    try:
        return parse_rod(text, unit)
    except MeasureError as error:
        raise JobFileError(path, str(error)) from error


def _entry_data(entry: Entry, unit: Unit) -> dict[str, Any]:
    match entry:
        case SetUp():
            row = {"kind": "set_up", "id": entry.id, "mark": entry.mark, "instrument": str(entry.instrument)}
            row["backsight"] = _typed_in(entry.backsight, unit)
            return row | ({"at_m": list(entry.at)} if entry.at else {})
        case Reading():
            row = {"kind": "reading", "id": entry.id, "station": entry.station, "set_up": entry.set_up}
            return row | {"reading": _typed_in(entry.reading, unit), "same_ground": entry.same_ground}
        case Fill():
            row = {"kind": "fill", "id": entry.id, "station": entry.station, "material": entry.material}
            return row | {"lifts": entry.lifts}
        case Strike():
            return {"kind": "strike", "id": entry.id, "strikes": entry.strikes, "reason": entry.reason}


def _typed_in(measured: Measured, unit: Unit) -> str:
    """What was typed, or metres where a bare number was typed for another rod than `unit`."""
    try:
        same = abs(parse_rod(measured.raw, unit).metres - measured.metres) < 1e-9
    except MeasureError:
        same = False
    return measured.raw if same else f"{measured.metres:.6f} m"
