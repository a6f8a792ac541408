"""The open job file: JSON in and out, and readings as CSV beside it. Its schema is `job-file.schema.json`."""

import csv
import io
import json
import math
from collections.abc import Iterable
from dataclasses import replace
from importlib import resources
from typing import Any, NoReturn

import jsonschema

from groundwork.entries import (
    Anchor,
    Correction,
    Disturbance,
    Entry,
    FallCheck,
    Fill,
    Foresight,
    MarginMeasured,
    MeterBase,
    PegDistance,
    PegMove,
    Reading,
    SetUp,
    Strike,
    StringLine,
    entry_body,
    entry_value,
)
from groundwork.job import Job, SiteError, WorkNames, check_site, read_site, site_data
from groundwork.layerwork import MachineBrought, SoftSpot, Work
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
)
from groundwork.observations import Witness
from groundwork.plan import Station, patches
from groundwork.schools import school
from groundwork.stages import misnamed, sequence

LARGEST_FILE = 5_000_000
SHORTEST_STRING = 0.1
BELOW_THE_ROD = "less than nothing on a rod: readings start at 0"


class JobFileError(ValueError):
    """A job file that cannot be read; `path` says where in it, as `entries[3].reading`."""

    def __init__(self, path: str, message: str) -> None:
        super().__init__(f"{path}: {message}")
        self.path = path
        self.message = message


def schema() -> dict[str, Any]:
    text = resources.files("groundwork.files").joinpath("job-file.schema.json").read_text(encoding="utf-8")
    return dict(json.loads(text))


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
    validator = jsonschema.Draft202012Validator(schema())
    problem = jsonschema.exceptions.best_match(validator.iter_errors(data))
    if problem:
        raise JobFileError(_path(problem.absolute_path), problem.message[:200])
    if readings_csv is not None:
        if first_that_cannot_stand([readings_csv]):
            raise JobFileError("readings.csv", "holds a control: no text can")
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
    return replace(job, entries=_entries(data.get("entries", []), job, stations))


def _entries(rows: list[dict[str, Any]], job: Job, stations: tuple[Station, ...]) -> tuple[Entry, ...]:
    known: dict[str, Entry] = {}
    check = _Names(job, {s.name for s in stations}, known)
    latest = ""
    for place, row in enumerate(rows):
        path = row.get("where", f"entries[{place}]")
        if row["id"] in known:
            raise JobFileError(f"{path}.id", f"{row['id']!r} stands twice")
        body = {"set_up": latest} | row if row["kind"] in ("reading", "foresight") else row
        entry = _value(body, job.unit, path)
        check(entry, path)
        if isinstance(entry, Anchor):
            latest = entry.id
        known[entry.id] = entry
    return tuple(known.values())


_MEASURED = ("reading", "backsight", "shows", "start_height", "end_height", "length", "gap", "width", "thickness",
             "depth", "before", "after", "sank", "rut", "overlap", "up_sides", "deflection", "value")  # fmt: skip


def _value(row: dict[str, Any], unit: Unit, path: str) -> Entry:
    """One entry, each of its lengths read in the job's units where it stands as text."""

    def typed(kept: Any, how: Typed) -> Measured:
        name = next((key for key in _MEASURED if row.get(key) is kept), "reading")
        try:
            return _parse(kept, how, unit)
        except MeasureError as error:
            raise JobFileError(f"{path}.{name}", str(error)) from error

    try:
        return entry_value(row["kind"], row["id"], row, typed)
    except JobFileError:
        raise
    except (KeyError, ValueError) as error:
        raise JobFileError(path, str(error)) from error


class _Names:
    """Checks that an entry names only what there is, before it."""

    def __init__(self, job: Job, stations: set[str], known: dict[str, Entry]) -> None:
        self.marks = {mark.name for mark in job.marks}
        self.pegs = {f"P{n}" for n in range(1, len(job.outline) + 1)}
        self.surfaces = {str(surface.key) for surface in job.specification.levelled}
        patch_names = {patch.name for patch in patches(job.area)}
        self.work = WorkNames(self.surfaces, stations, patch_names, len(job.outline))
        self.stations, self.known = stations, known
        self.steps = sequence(job, school(job.specification.school))

    def __call__(self, entry: Entry, path: str) -> None:  # noqa: PLR0912 (one case a kind)
        if isinstance(entry, Work):
            self._check_work(entry, path)
        if isinstance(entry, Witness) and (found := misnamed(entry, self.steps)):
            raise JobFileError(f"{path}.{found[0]}", found[1])
        match entry:
            case SetUp() | MeterBase():
                self._one_of(entry.mark, self._points(), f"{path}.mark", "mark or turning point")
            case Disturbance():
                self._one_of(entry.point, self._points(), f"{path}.point", "mark or turning point")
                if entry.since:
                    self._before(entry.since, SetUp, f"{path}.since", "set-up")
            case Foresight():
                self._before(entry.set_up, SetUp, f"{path}.set_up", "set-up")
            case Reading():
                if entry.reading.metres < 0 and isinstance(self.known.get(entry.set_up), SetUp):
                    raise JobFileError(f"{path}.reading", BELOW_THE_ROD)
                self._one_of(entry.station, self.stations, f"{path}.station", "station")
                self._one_of(entry.surface, self.surfaces, f"{path}.surface", "surface of this base")
                self._before(entry.set_up, Anchor, f"{path}.set_up", "set-up")
            case Fill():
                self._one_of(entry.station, self.stations, f"{path}.station", "station")
            case FallCheck():
                self._one_of(entry.start, self.stations, f"{path}.start", "station")
                self._one_of(entry.end, self.stations - {entry.start}, f"{path}.end", "other station")
                self._one_of(entry.surface, self.surfaces, f"{path}.surface", "surface of this base")
            case PegDistance():
                self._one_of(entry.start, self.pegs, f"{path}.start", "peg")
                self._one_of(entry.end, self.pegs - {entry.start}, f"{path}.end", "other peg")
            case PegMove():
                self._one_of(entry.peg, self.pegs, f"{path}.peg", "peg")
            case Correction():
                corrigible = SetUp | Foresight | MeterBase | Reading | FallCheck | PegDistance
                self._before(entry.corrects, corrigible, f"{path}.corrects", "reading")
                if entry.reading.metres < 0 and self._by_rod(self.known[entry.corrects]):
                    raise JobFileError(f"{path}.reading", BELOW_THE_ROD)
            case StringLine():
                if math.dist(entry.start_at, entry.end_at) < SHORTEST_STRING:
                    raise JobFileError(f"{path}.end_at_m", "a string runs from one place to another")
            case MarginMeasured():
                if not 0 <= entry.side < len(self.pegs):
                    raise JobFileError(f"{path}.side", f"the area has {len(self.pegs)} sides, counted from 0")
            case Strike():
                if isinstance(self.known.get(entry.strikes), Strike):
                    raise JobFileError(f"{path}.strikes", f"nothing before it is called {entry.strikes!r}")
                self._before(entry.strikes, object, f"{path}.strikes", "entry")

    def _check_work(self, entry: Work, path: str) -> None:
        machines = [e.id for e in self.known.values() if isinstance(e, MachineBrought)]
        spots = [e.id for e in self.known.values() if isinstance(e, SoftSpot)]
        if found := replace(self.work, machines=machines, spots=spots).wrong(entry):
            raise JobFileError(f"{path}.{found[0]}", found[1])

    def _by_rod(self, entry: Entry) -> bool:
        """Whether an entry is read off a rod by a level."""
        by_level = isinstance(entry, Reading) and isinstance(self.known.get(entry.set_up), SetUp)
        return by_level or isinstance(entry, SetUp | Foresight)

    def _points(self) -> set[str]:
        return self.marks | {e.point for e in self.known.values() if isinstance(e, Foresight)}

    def _one_of(self, name: str, names: set[str], path: str, what: str) -> None:
        if name not in names:
            raise JobFileError(path, f"no {what} is called {name!r}")

    def _before(self, name: str, kind: Any, path: str, what: str) -> None:
        if name not in self.known or not isinstance(self.known[name], kind):
            raise JobFileError(path, f"no {what} before it is called {name!r}")


def _entry_data(entry: Entry, unit: Unit) -> dict[str, Any]:
    body = entry_body(entry, lambda measured, how: _typed_in(measured, how, unit))
    return {"kind": entry.KIND, "id": entry.id} | {key: value for key, value in body.items() if value is not None}


def _typed_in(measured: Measured, how: Typed, unit: Unit) -> str:
    """What was typed, or metres where a bare number was typed for another rod than `unit`."""
    try:
        same = abs(_parse(measured.raw, how, unit).metres - measured.metres) < 1e-9
    except MeasureError:
        same = False
    return measured.raw if same else f"{measured.metres:.6f} m"


def _parse(text: str, how: Typed, unit: Unit) -> Measured:
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
        case Typed.BAR:
            return parse_bar(text, unit)
