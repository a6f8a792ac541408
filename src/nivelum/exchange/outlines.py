"""Outlines of paved areas in and out of GeoJSON, DXF and CSV. Coordinates are metres east and north on the plan.

What comes in is somebody else's file: its size, encoding, shape and numbers are checked before anything is believed.
"""

import csv
import io
import json
import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import ezdxf
import ezdxf.path
import numpy as np
import shapely
from django.utils.translation import gettext as _
from ezdxf import units
from ezdxf.entities import DXFEntity

from groundwork.measures import MeasureError, Unit, in_words, parse_length
from groundwork.plan import FARTHEST, OutlineError, checked
from groundwork.surfaces import Point
from nivelum.exchange.files import (
    LOCAL,
    UNREADABLE,
    UnreadableFile,
    decoded,
    drawn,
    ending_of,
    loaded,
    metres_a_unit,
    refuse_by_size,
)

SAGITTA = 0.001
"""Arcs are cut into chords no further than a millimetre off."""
MOST_CHORDS = 5000
"""Corners one shape may come to before it is looked at."""
DEGREES = 0.02
"""A shape under this across, in numbers that could be longitude and latitude, is no site in metres."""
EARTH_RADIUS, ECCENTRICITY_SQUARED = 6378137.0, 0.00669437999014


@dataclass(frozen=True)
class FoundOutline:
    """The outline in a file, and what was taken for granted in reading it."""

    points: tuple[Point, ...]
    note: str = ""


def read_outline(name: str, data: bytes, unit: Unit) -> FoundOutline:
    """The outline in a file of that name; bare numbers in CSV are in the crew's unit for plans. Raises
    `UnreadableFile`."""
    refuse_by_size(data)
    ending = ending_of(name)
    readers: dict[str, Callable[[str, Unit], FoundOutline]] = {
        "geojson": _from_geojson, "json": _from_geojson, "dxf": _from_dxf, "csv": _from_csv, "txt": _from_csv,
    }  # fmt: skip
    if ending not in readers:
        raise UnreadableFile(_("“.{ending}” is not read here: GeoJSON, DXF or CSV.").format(ending=ending[:12]))
    text = decoded(data, dxf=ending == "dxf")
    if text.lstrip().startswith("<"):
        raise UnreadableFile(_("This is XML or HTML, whatever its name: export GeoJSON, DXF or CSV instead."))
    try:
        found = readers[ending](text, unit)
        return FoundOutline(checked(found.points), found.note)
    except OutlineError as error:
        raise UnreadableFile(in_words(error, unit, _)) from error


def _from_geojson(text: str, unit: Unit) -> FoundOutline:
    data = loaded(text)
    try:
        shapes = list(_shapes(data))
    except RecursionError as error:
        raise UnreadableFile(_("Not JSON: {why}.").format(why=str(error)[:80])) from error
    except (KeyError, TypeError, AttributeError, IndexError) as error:
        raise UnreadableFile(_("JSON, but not GeoJSON: a Polygon is wanted.")) from error
    rings = [ring for shape in shapes for ring in shape[:1]]
    if any(len(shape) > 1 for shape in shapes):
        raise UnreadableFile(_("The area has a hole in it: outlines without holes are read, for now."))
    if not rings:
        raise UnreadableFile(_("No Polygon in it: draw the area as one."))
    ring, note = _largest([[_numbers(place) for place in corners] for corners in rings])
    if isinstance(data, dict) and data.get("coordinates_are") == LOCAL:
        return FoundOutline(ring, note)
    spread = max(abs(a - b) for axis in zip(*ring, strict=True) for a in axis[:1] for b in axis)
    if spread < DEGREES and all(abs(x) <= 180 and abs(y) <= 90 for x, y in ring):
        return FoundOutline(_to_metres(ring), _joined(note, _("Read as longitude and latitude.")))
    return FoundOutline(ring, _joined(note, _("Read as metres east and north.")))


def _shapes(data: Any) -> list[list[Any]]:
    match data["type"]:
        case "FeatureCollection":
            return [shape for feature in data["features"] for shape in _shapes(feature)]
        case "Feature":
            return _shapes(data["geometry"]) if data["geometry"] else []
        case "GeometryCollection":
            return [shape for geometry in data["geometries"] for shape in _shapes(geometry)]
        case "Polygon":
            return [data["coordinates"]]
        case "MultiPolygon":
            return list(data["coordinates"])
        case _:
            return []


def _numbers(place: Sequence[Any]) -> Point:
    if not isinstance(place, list) or len(place) < 2:
        raise UnreadableFile(_("A corner in it has not two numbers."))
    east, north = place[0], place[1]
    if any(isinstance(n, bool) or not isinstance(n, int | float) or abs(n) > 1e12 for n in (east, north)):
        raise UnreadableFile(_("A corner in it has not two numbers."))
    return float(east), float(north)


def _largest(rings: list[list[Point]]) -> tuple[tuple[Point, ...], str]:
    sized = [(abs(shapely.Polygon(ring).area) if len(ring) > 2 else 0.0, tuple(ring)) for ring in rings]
    _area, ring = max(sized, key=lambda pair: pair[0])
    note = _("The largest of {n} shapes was taken.").format(n=len(rings)) if len(rings) > 1 else ""
    return ring, note


def _joined(*notes: str) -> str:
    return " ".join(note for note in notes if note)


def _to_metres(ring: Sequence[Point]) -> tuple[Point, ...]:
    """Longitude and latitude as metres east and north of the first corner, on the ellipsoid WGS 84; over a site of
    a few hundred metres the plane is good to a millimetre or so."""
    east0, north0 = ring[0]
    sin = math.sin(math.radians(north0))
    flat = 1 - ECCENTRICITY_SQUARED * sin * sin
    along = EARTH_RADIUS * (1 - ECCENTRICITY_SQUARED) / flat**1.5
    across = EARTH_RADIUS / math.sqrt(flat) * math.cos(math.radians(north0))
    return tuple((math.radians(x - east0) * across, math.radians(y - north0) * along) for x, y in ring)


def _from_dxf(text: str, unit: Unit) -> FoundOutline:
    try:
        with np.errstate(over="raise", invalid="raise"):
            drawing = drawn(text)
            space = drawing.modelspace()
            scale = metres_a_unit(drawing.units)
            rings = [corners for entity in space if (corners := _closed(entity, SAGITTA / (scale or 1.0)))]
    except UnreadableFile:
        raise
    except UNREADABLE as error:
        raise UnreadableFile(_("Not a DXF drawing that can be read: {why}.").format(why=str(error)[:80])) from error
    if not rings:
        raise UnreadableFile(_("No closed polyline in its model space: draw the area as one."))
    ring, note = _largest(rings)
    if scale is None:
        return FoundOutline(ring, _joined(note, _("The drawing names no unit: read as metres.")))
    return FoundOutline(tuple((x * scale, y * scale) for x, y in ring), note)


def _closed(entity: DXFEntity, sagitta: float) -> list[Point] | None:
    """The corners of a closed polyline, its arcs cut into chords no further than `sagitta` off; None for anything
    else."""
    if entity.dxftype() not in ("LWPOLYLINE", "POLYLINE"):
        return None
    way = ezdxf.path.make_path(entity)
    farthest = FARTHEST * sagitta / SAGITTA
    if not all(abs(x) <= farthest for vertex in way.control_vertices() for x in vertex):
        raise UnreadableFile(_("Something in it lies further out than any site."))
    points: list[Point] = []
    for p in way.flattening(sagitta, segments=1):
        points.append((float(p.x), float(p.y)))
        if len(points) > MOST_CHORDS:
            raise UnreadableFile(_("An arc in it comes to more than {n} corners.").format(n=MOST_CHORDS))
    if len(points) > 3 and math.dist(points[0], points[-1]) < 1e-6:
        return points[:-1]
    return None


def _from_csv(text: str, unit: Unit) -> FoundOutline:
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise UnreadableFile(_("The file is empty."))
    mark = next((mark for mark in ";\t," if mark in lines[0]), ",")
    try:
        rows = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=mark)]
    except csv.Error as error:
        raise UnreadableFile(_("Not CSV: {why}.").format(why=error)) from error
    columns, bare = (0, 1), unit.for_plans
    if not re.search(r"\d", "".join(rows[0])):
        columns, bare = _columns(rows[0], bare)
        rows = rows[1:]
    points = []
    for number, row in enumerate(rows, start=len(lines) - len(rows) + 1):
        try:
            points.append((parse_length(row[columns[0]], bare).metres, parse_length(row[columns[1]], bare).metres))
        except (MeasureError, IndexError) as error:
            why = in_words(error, unit, _) if isinstance(error, MeasureError) else _("not two values")
            raise UnreadableFile(_("Line {number}: {why}").format(number=number, why=why)) from error
    return FoundOutline(tuple(points))


def _columns(heading: list[str], bare: Unit) -> tuple[tuple[int, int], Unit]:
    """Where east and north stand, and the unit the heading names."""
    names = [re.split(r"[\s_(\[]", name.lower()) for name in heading]
    east = next((n for n, name in enumerate(names) if name[0] in ("east", "e", "x", "easting")), None)
    north = next((n for n, name in enumerate(names) if name[0] in ("north", "n", "y", "northing")), None)
    if east is None or north is None:
        raise UnreadableFile(_("The first line must name the columns east and north, or x and y."))
    named = names[east][1].rstrip(")]") if len(names[east]) > 1 else ""
    return (east, north), {"m": Unit.METRES, "mm": Unit.MILLIMETRES, "ft": Unit.FEET_TENTHS}.get(named, bare)


def to_geojson(name: str, outline: Sequence[Point]) -> str:
    """A Feature in the job's own metres; it says so, since GeoJSON is otherwise longitude and latitude."""
    ring = [[round(x, 6), round(y, 6)] for x, y in (*outline, outline[0])]
    feature = {
        "type": "Feature",
        "coordinates_are": LOCAL,
        "properties": {"name": name},
        "geometry": {"type": "Polygon", "coordinates": [ring]},
    }
    return json.dumps(feature, indent=1, ensure_ascii=False) + "\n"


def to_dxf(outline: Sequence[Point]) -> str:
    """A drawing in metres with the outline as a closed polyline."""
    drawing = ezdxf.new("R2010", units=units.M)
    drawing.modelspace().add_lwpolyline(list(outline), format="xy", close=True, dxfattribs={"layer": "PAVED_AREA"})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def to_csv(outline: Sequence[Point]) -> str:
    """Corners one a line, metres."""
    return "east_m,north_m\n" + "".join(f"{x:.6f},{y:.6f}\n" for x, y in outline)
