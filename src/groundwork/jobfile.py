"""The open job file: JSON in and out, and readings as CSV beside it. Its schema is `job-file.schema.json`."""

import csv
import io
import json
from collections.abc import Iterable
from dataclasses import replace
from importlib import resources
from typing import Any, NoReturn

import jsonschema
import shapely

from groundwork.base import FORMATION_TOLERANCE, BaseSpecification, Layer, Role, Tolerance
from groundwork.job import Entry, Feature, Fill, Job, Mark, Reading, SetUp, Strike
from groundwork.measure import Measured, MeasureError, Unit, parse_rod
from groundwork.stations import Station, lay
from groundwork.surface import Facet, Point, uncovered
from groundwork.verdict import Instrument

FORMAT = "nivelum-job/1"
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
    return json.dumps(_data(job), indent=2, ensure_ascii=False) + "\n"


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
    for n, facet in enumerate(data["facets"]):
        _check_ring(facet["outline_m"], f"facets[{n}].outline_m")
    _check_ring(data["area"]["outline_m"], "area.outline_m")
    try:
        job = read_site(data)
    except ValueError as error:
        raise JobFileError("specification", str(error)) from error
    if (bare := uncovered(job.area, job.facets)) > 0.01:
        raise JobFileError("facets", f"{bare:.2f} m² of the area lie in no facet")
    for one, other, step in job.design.disagreements():
        gap = f"{one.name!r} and {other.name!r} differ by {step * 1000:.1f} mm on their shared edge"
        raise JobFileError("facets", gap)
    for kind, names in (("marks", [m.name for m in job.marks]), ("facets", [f.name for f in job.facets])):
        if len(set(names)) < len(names):
            raise JobFileError(kind, "two have the same name")
    try:
        stations = lay(job.area, job.station_spacing)
    except ValueError as error:
        raise JobFileError("station_spacing_m", str(error)) from error
    return replace(job, entries=_entries(data.get("entries", []), job.unit, job.marks, stations))


def read_site(data: dict[str, Any]) -> Job:
    """The job without its entries from data that has passed `loads` once. Raises `ValueError` where the
    layers cannot be built."""
    return Job(
        name=data["name"],
        unit=Unit(data.get("units", "mm")),
        outline=_points(data["area"]["outline_m"]),
        facets=tuple(
            Facet(
                f["name"],
                _points(f["outline_m"]),
                _point(f["at_m"]),
                f["level_m"],
                f["bearing_deg"],
                _ratio(f.get("fall_1_in")),
                _ratio(f.get("cross_fall_1_in")),
            )
            for f in data["facets"]
        ),
        specification=_specification(data["specification"]),
        station_spacing=data["station_spacing_m"],
        marks=tuple(Mark(m["name"], _point(m["at_m"]), m["level_m"]) for m in data.get("marks", [])),
        features=tuple(Feature(f["kind"], f["name"], _points(f["points_m"])) for f in data.get("features", [])),
    )


def site_data(job: Job) -> dict[str, Any]:
    """What `read_site` reads."""
    data = _data(job)
    del data["entries"]
    return data


def _check_ring(points: list[list[float]], path: str) -> None:
    polygon = shapely.Polygon(points)
    if not polygon.is_valid:
        raise JobFileError(path, f"is no plain outline: {shapely.is_valid_reason(polygon)}")
    if not 0.5 <= polygon.area <= 100_000:
        raise JobFileError(path, f"has {polygon.area:.2f} m²: between 0.5 and 100 000")


def _points(values: list[list[float]]) -> tuple[Point, ...]:
    return tuple(map(_point, values))


def _point(values: list[float]) -> Point:
    return float(values[0]), float(values[1])


def _ratio(one_in: float | None) -> float:
    return 1 / one_in if one_in else 0.0


def _specification(data: dict[str, Any]) -> BaseSpecification:
    layers = tuple(Layer(Role(x["role"]), x["material"], x["thickness_mm"] / 1000) for x in data["layers"])
    given = data.get("formation_tolerance")
    tolerance = Tolerance(given["high_mm"] / 1000, given["low_mm"] / 1000) if given else FORMATION_TOLERANCE
    return BaseSpecification(data["school"], layers, data.get("pavers_laid_high_mm", 0) / 1000, tolerance)


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
                at = _point(row["at_m"]) if "at_m" in row else None
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


def _data(job: Job) -> dict[str, Any]:
    specification, tolerance = job.specification, job.specification.formation_tolerance
    return {
        "format": FORMAT,
        "name": job.name,
        "units": str(job.unit),
        "area": {"outline_m": [list(p) for p in job.outline]},
        "station_spacing_m": job.station_spacing,
        "features": [{"kind": f.kind, "name": f.name, "points_m": [list(p) for p in f.points]} for f in job.features],
        "marks": [{"name": m.name, "at_m": list(m.at), "level_m": m.level} for m in job.marks],
        "facets": [
            {
                "name": f.name,
                "outline_m": [list(p) for p in f.outline],
                "at_m": list(f.at),
                "level_m": f.level,
                "bearing_deg": f.bearing,
                "fall_1_in": _one_in(f.fall),
                "cross_fall_1_in": _one_in(f.cross_fall),
            }
            for f in job.facets
        ],
        "specification": {
            "school": specification.school,
            "layers": [
                {"role": str(x.role), "material": x.material, "thickness_mm": round(x.thickness * 1000, 4)}
                for x in specification.layers
            ],
            "pavers_laid_high_mm": round(specification.settlement * 1000, 4),
            "formation_tolerance": {
                "high_mm": round(tolerance.high * 1000, 4),
                "low_mm": round(tolerance.low * 1000, 4),
            },
        },
        "entries": [_entry_data(entry, job.unit) for entry in job.entries],
    }


def _one_in(ratio: float) -> float | None:
    return round(1 / ratio, 9) if ratio else None


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
