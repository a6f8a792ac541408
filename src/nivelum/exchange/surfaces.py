"""Surfaces and points in and out of CSV, GeoJSON, DXF and LandXML. Metres: east and north on the job's own plan,
levels on the job's datum.

What comes in is somebody else's file: it is read as points with levels, and as triangles where it has any; nothing of
it is run, fetched or expanded.
"""

import csv
import io
import json
import math
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
from django.utils.translation import gettext as _
from ezdxf import new as new_drawing
from ezdxf import units
from ezdxf.entities import DXFEntity

from groundwork.built import AsBuilt
from groundwork.measures import MeasureError, Unit, in_words, parse_length
from groundwork.plan import FARTHEST
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
from nivelum.exchange.landxml import element, landxml_read, landxml_root, landxml_text, tag_of

MOST_POINTS = 20_000
SAME = 5e-5
"""Corners nearer to each other than this, metres, are one point."""
SURFACE_LAYER, POINT_LAYER = "SURFACE", "POINTS"
TRIANGLE = 3


@dataclass(frozen=True)
class Point3:
    name: str
    east: float
    north: float
    level: float


@dataclass(frozen=True)
class FoundSurface:
    """Points, and triangles by their places among them; `note` says what was taken for granted."""

    points: tuple[Point3, ...]
    triangles: tuple[tuple[int, int, int], ...] = ()
    note: str = ""


def of(built: AsBuilt) -> FoundSurface:
    """A surface as built, its stations by name, what was added to make triangles numbered after them."""
    names = {int(v): s.name for s, v in zip(built.stations, built.mesh.vertex_of, strict=True) if v >= 0}
    points = tuple(
        Point3(names.get(n, f"T{n + 1}"), round(float(x), 4), round(float(y), 4), round(float(level), 4))
        for n, ((x, y), level) in enumerate(zip(built.mesh.points, built.levels, strict=True))
    )
    return FoundSurface(points, tuple((int(a), int(b), int(c)) for a, b, c in built.mesh.triangles))


def to_csv(built: AsBuilt) -> str:
    """The stations, one a line: level and deviation as built."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(["point", "east_m", "north_m", "level_m", "design_m", "deviation_mm", "standard_uncertainty_mm"])
    for station, off, unsure in zip(built.stations, built.at_stations, built.uncertainties, strict=True):
        design = built.job.design.level(station.at) - built.surface.depth
        rows.writerow(
            [station.name, f"{station.at[0]:.4f}", f"{station.at[1]:.4f}", f"{design + off:.4f}", f"{design:.4f}",
             f"{off * 1000:.1f}", f"{unsure * 1000:.1f}"]
        )  # fmt: skip
    return text.getvalue()


def to_geojson(name: str, surface: FoundSurface) -> str:
    """Points and triangles, with levels as the third coordinate, in the job's own metres; it says so."""
    features: list[dict[str, Any]] = [
        _feature("Point", [p.east, p.north, p.level], {"name": p.name}) for p in surface.points
    ]
    for corners in surface.triangles:
        ring = [[surface.points[n].east, surface.points[n].north, surface.points[n].level] for n in corners]
        features.append(_feature("Polygon", [[*ring, ring[0]]], {"kind": "triangle"}))
    whole = {"type": "FeatureCollection", "coordinates_are": LOCAL, "name": name, "features": features}
    return json.dumps(whole, ensure_ascii=False, separators=(",", ":")) + "\n"


def _feature(kind: str, coordinates: Any, properties: dict[str, str]) -> dict[str, Any]:
    return {"type": "Feature", "properties": properties, "geometry": {"type": kind, "coordinates": coordinates}}


def to_dxf(surface: FoundSurface) -> str:
    """A drawing in metres: triangles as 3D faces, points with their names beside them."""
    drawing = new_drawing("R2010", units=units.M)
    space = drawing.modelspace()
    for corners in surface.triangles:
        places = [(surface.points[n].east, surface.points[n].north, surface.points[n].level) for n in corners]
        space.add_3dface(places, dxfattribs={"layer": SURFACE_LAYER})
    for p in surface.points:
        place = (p.east, p.north, p.level)
        space.add_point(place, dxfattribs={"layer": POINT_LAYER})
        space.add_text(p.name, height=0.1, dxfattribs={"layer": POINT_LAYER, "insert": place})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def to_landxml(name: str, surface: FoundSurface) -> str:
    """LandXML 1.2: the points by name, and the surface as a TIN. It writes north before east."""
    root = landxml_root()
    cogo = element(root, "CgPoints")
    for p in surface.points:
        element(cogo, "CgPoint", _north_east(p), name=p.name)
    definition = element(element(element(root, "Surfaces"), "Surface", name=name), "Definition", surfType="TIN")
    places = element(definition, "Pnts")
    for number, p in enumerate(surface.points, start=1):
        element(places, "P", _north_east(p), id=str(number))
    faces = element(definition, "Faces")
    for corners in surface.triangles:
        element(faces, "F", " ".join(str(n + 1) for n in corners))
    return landxml_text(root)


def _north_east(p: Point3) -> str:
    return f"{p.north:.4f} {p.east:.4f} {p.level:.4f}"


def read_surface(name: str, data: bytes, unit: Unit) -> FoundSurface:
    """Points and triangles in a file of that name; bare numbers in CSV are in the crew's unit for plans. Raises
    `UnreadableFile`."""
    refuse_by_size(data)
    ending = ending_of(name)
    readers: dict[str, Callable[[str, Unit], FoundSurface]] = {
        "geojson": _from_geojson, "json": _from_geojson, "dxf": _from_dxf, "csv": _from_csv, "txt": _from_csv,
        "xml": _from_landxml, "landxml": _from_landxml,
    }  # fmt: skip
    if ending not in readers:
        says = _("“.{ending}” is not read here: CSV, GeoJSON, DXF or LandXML.")
        raise UnreadableFile(says.format(ending=ending[:12]))
    try:
        found = readers[ending](decoded(data, dxf=ending == "dxf"), unit)
    except UnreadableFile:
        raise
    except UNREADABLE as error:
        raise UnreadableFile(_("Not read: {why}.").format(why=str(error)[:80])) from error
    return _checked(found)


def _checked(found: FoundSurface) -> FoundSurface:
    if not found.points:
        raise UnreadableFile(_("No point with a level in it."))
    if len(found.points) > MOST_POINTS:
        raise UnreadableFile(_("More than {n} points: thin it out first.").format(n=MOST_POINTS))
    for p in found.points:
        if not all(math.isfinite(v) and abs(v) <= FARTHEST for v in (p.east, p.north, p.level)):
            raise UnreadableFile(_("“{name}” lies nowhere: a coordinate is no number or too large.").format(
                name=p.name[:24]))  # fmt: skip
    return found


def _from_csv(text: str, unit: Unit) -> FoundSurface:
    lines = [line for line in text.splitlines() if line.strip()]
    mark = next((mark for mark in ";\t," if mark in lines[0]), ",")
    rows = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=mark)]
    headed = not any(re.fullmatch(r"[+-]?[\d.,]+", cell) for cell in rows[0])
    columns = _columns(rows[0]) if headed else _usual_columns(rows[0])
    points = []
    for number, row in enumerate(rows[1:] if headed else rows, start=2 if headed else 1):
        try:
            values = [parse_length(row[place], bare or unit.for_plans).metres for place, bare in columns[1:]]
            name = row[columns[0][0]] if columns[0][0] >= 0 else str(number)
        except (MeasureError, IndexError) as error:
            why = in_words(error, unit, _) if isinstance(error, MeasureError) else _("not enough values")
            raise UnreadableFile(_("Line {number}: {why}").format(number=number, why=why)) from error
        points.append(Point3(name[:40], *values))
    return FoundSurface(tuple(points))


Column = tuple[int, Unit | None]


def _columns(heading: Sequence[str]) -> list[Column]:
    """Where the name, east, north and level stand, and the unit each heading names."""
    names = [re.split(r"[\s_(\[]", cell.lower()) for cell in heading]
    known = {"m": Unit.METRES, "mm": Unit.MILLIMETRES, "ft": Unit.FEET_TENTHS}
    found: list[Column] = []
    for asked in (
        ("point", "name", "station", "id", "no"),
        ("east", "e", "x", "easting"),
        ("north", "n", "y", "northing"),
        ("level", "z", "elevation", "height", "rl"),
    ):
        place = next((n for n, parts in enumerate(names) if parts[0] in asked), -1)
        if place < 0 and asked[0] != "point":
            raise UnreadableFile(_("The first line must name the columns east, north and level, or x, y and z."))
        unit = known.get(names[place][1].rstrip(")]")) if place >= 0 and len(names[place]) > 1 else None
        found.append((place, unit))
    return found


def _usual_columns(first: Sequence[str]) -> list[Column]:
    """Without a heading: name, east, north, level; or the last three alone."""
    shift = 1 if len(first) > TRIANGLE else 0
    return [(shift - 1, None), *((shift + n, None) for n in range(3))]


def _from_geojson(text: str, unit: Unit) -> FoundSurface:
    data = loaded(text)
    if not isinstance(data, dict):
        raise UnreadableFile(_("JSON, but not GeoJSON: points or triangles with levels are wanted."))
    points = _Points()
    triangles = []
    for feature in _features(data):
        geometry, properties = feature.get("geometry") or {}, feature.get("properties") or {}
        kind, places = geometry.get("type"), geometry.get("coordinates") or [[]]
        if kind == "Point":
            points.named(str(properties.get("name", "")), *_three(places, properties))
        elif kind == "Polygon":
            ring = [_three(place, {}) for place in places[0]]
            if len(ring) == TRIANGLE + 1:
                triangles.append(tuple(points.place(*corner) for corner in ring[:3]))
    found = points.all()
    if data.get("coordinates_are") != LOCAL and found:
        spread = max(max(abs(p.east), abs(p.north)) for p in found)
        if spread <= 180:
            wide = max(np.ptp([p.east for p in found]), np.ptp([p.north for p in found]))
            if wide < 0.02:
                raise UnreadableFile(_("This looks like longitude and latitude: export it in metres on the plan."))
    return FoundSurface(found, tuple(triangles), _("Read as metres east and north."))  # type: ignore[arg-type]


def _features(data: dict[str, Any]) -> Iterator[dict[str, Any]]:
    if data.get("type") == "FeatureCollection":
        yield from (f for f in data["features"] if isinstance(f, dict))
    elif data.get("type") == "Feature":
        yield data
    else:
        raise UnreadableFile(_("JSON, but not GeoJSON: points or triangles with levels are wanted."))


def _three(place: Any, properties: dict[str, Any]) -> tuple[float, float, float]:
    values = list(place) if isinstance(place, list) else []
    if len(values) == 2 and "level_m" in properties:
        values.append(properties["level_m"])
    if len(values) < TRIANGLE or any(isinstance(v, bool) or not isinstance(v, int | float) for v in values[:3]):
        raise UnreadableFile(_("A place in it has no level: three numbers are wanted."))
    return float(values[0]), float(values[1]), float(values[2])


class _Points:
    """Points as they are met, each place once."""

    def __init__(self) -> None:
        self._found: list[Point3] = []
        self._known: dict[tuple[int, int], int] = {}

    def place(self, east: float, north: float, level: float, name: str = "") -> int:
        """The number of the point there."""
        if not all(map(math.isfinite, (east, north, level))):
            raise UnreadableFile(_("A coordinate in it is no number."))
        key = (round(east / SAME / 2), round(north / SAME / 2))
        if key not in self._known:
            if len(self._found) >= MOST_POINTS:
                raise UnreadableFile(_("More than {n} points: thin it out first.").format(n=MOST_POINTS))
            self._known[key] = len(self._found)
            self._found.append(Point3(name or str(len(self._found) + 1), east, north, level))
        return self._known[key]

    def named(self, name: str, east: float, north: float, level: float) -> None:
        number = self.place(east, north, level, name[:40])
        if name:
            self._found[number] = Point3(name[:40], east, north, level)

    def all(self) -> tuple[Point3, ...]:
        return tuple(self._found)


def _from_dxf(text: str, unit: Unit) -> FoundSurface:
    drawing = drawn(text)
    scale = metres_a_unit(drawing.units)
    metres = scale or 1.0
    points = _Points()
    triangles = []
    for entity in drawing.modelspace():
        kind = entity.dxftype()
        if kind == "3DFACE":
            corners = [points.place(*(metres * v for v in corner)) for corner in _corners(entity)]
            for n in range(1, len(corners) - 1):
                if len({corners[0], corners[n], corners[n + 1]}) == TRIANGLE:
                    triangles.append((corners[0], corners[n], corners[n + 1]))
        elif kind == "POINT":
            points.place(*(metres * v for v in entity.dxf.location))
    for text_entity in drawing.modelspace().query("TEXT"):
        east, north, level = (metres * v for v in text_entity.dxf.insert)
        if text_entity.dxf.layer == POINT_LAYER:
            points.named(text_entity.dxf.text, east, north, level)
    note = "" if scale else _("The drawing names no unit: read as metres.")
    return FoundSurface(points.all(), tuple(triangles), note)


def _corners(face: DXFEntity) -> list[Any]:
    """A face's corners, each once."""
    return list(dict.fromkeys(face.dxf.get(f"vtx{n}") for n in range(4) if face.dxf.hasattr(f"vtx{n}")))


def _from_landxml(text: str, unit: Unit) -> FoundSurface:
    root, metres = landxml_read(text)
    points = _Points()
    numbers: dict[str, int] = {}
    triangles = []
    for node in root.iter():
        tag = tag_of(node)
        if tag == "CgPoint" and (node.text or "").strip():
            points.named(node.get("name", ""), *_east_north(node, metres))
        elif tag == "P" and node.get("id") is not None:
            numbers[str(node.get("id"))] = points.place(*_east_north(node, metres))
    for node in root.iter():
        if tag_of(node) == "F" and node.get("i") != "1":
            corners = (node.text or "").split()
            if len(corners) < TRIANGLE or not set(corners) <= numbers.keys():
                raise UnreadableFile(_("A face in it names points that are not there."))
            triangles.append((numbers[corners[0]], numbers[corners[1]], numbers[corners[2]]))
    return FoundSurface(points.all(), tuple(triangles))


def _east_north(node: Element, metres: float) -> tuple[float, float, float]:
    values = (node.text or "").split()
    if len(values) != TRIANGLE:
        raise UnreadableFile(_("A point in it has no level: north, east and level are wanted."))
    north, east, level = (float(value) * metres for value in values)
    return east, north, level
