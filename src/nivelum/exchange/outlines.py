"""Outlines of paved areas in and out of GeoJSON, DXF, CSV and LandXML. Coordinates are metres east and north.

What comes in is somebody else's file: its size, encoding, shape and numbers are checked before anything is believed.
"""

import csv
import io
import json
import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import ezdxf
import ezdxf.path
import numpy as np
import shapely
from django.utils.translation import gettext as _
from ezdxf import units
from ezdxf.entities import Circle, DXFEntity, LWPolyline, Polyline

from groundwork.files import area_problem
from groundwork.measures import MeasureError, Unit, in_words, parse_length
from groundwork.plan import FARTHEST, MOST_CORNERS, OutlineError, checked
from groundwork.shape import (
    APART,
    KINDS,
    SAGITTA,
    SMALLEST_ISLAND,
    Island,
    Ring,
    area_data,
    circle,
    cut_out,
    islands_of,
    ring_of,
)
from groundwork.surfaces import Point
from nivelum.exchange import landxml
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

MOST_CHORDS = 5000
"""Corners one shape may come to before it is looked at."""
UNTOLD = "column"
"""What a hole is taken for of which a file says no more: water is held by it, and nothing reaches under its edge."""
KIND_OF_LAYER = {f"NOT_PAVED_{kind.upper().replace(' ', '_')}": kind for kind in KINDS}
SAME_CORNER = 2e-5
LARGEST_BULGE = 100.0
DEGREES = 0.02
"""A shape under this across, in numbers that could be longitude and latitude, is no site in metres."""
EARTH_RADIUS, ECCENTRICITY_SQUARED = 6378137.0, 0.00669437999014


@dataclass(frozen=True)
class FoundOutline:
    """The area in a file, its edge and what in it is not paved, and what was taken for granted in reading it."""

    ring: Ring
    islands: tuple[Island, ...] = ()
    note: str = ""


def read_outline(name: str, data: bytes, unit: Unit) -> FoundOutline:
    """The outline in a file of that name; bare numbers in CSV are in the crew's unit for plans. Raises
    `UnreadableFile`."""
    refuse_by_size(data)
    ending = ending_of(name)
    readers: dict[str, Callable[[str, Unit], FoundOutline]] = {
        "geojson": _from_geojson, "json": _from_geojson, "dxf": _from_dxf, "csv": _from_csv, "txt": _from_csv,
        "xml": _from_landxml, "landxml": _from_landxml,
    }  # fmt: skip
    if ending not in readers:
        raise UnreadableFile(
            _("“.{ending}” is not read here: GeoJSON, DXF, CSV or LandXML.").format(ending=ending[:12])
        )
    text = decoded(data, dxf=ending == "dxf")
    if text.lstrip().startswith("<") and readers[ending] is not _from_landxml:
        raise UnreadableFile(_("This is XML or HTML, whatever its name: export GeoJSON, DXF or CSV instead."))
    try:
        found = readers[ending](text, unit)
        ring = found.ring.checked() if not found.ring.is_straight else Ring(checked(found.ring.corners))
        cut_out(ring.polygon, found.islands)
        return replace(found, ring=ring)
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
    shapes = [shape for shape in shapes if shape and shape[0]]
    if not shapes:
        raise UnreadableFile(_("No Polygon in it: draw the area as one."))
    every = [[tuple(_numbers(place) for place in ring) for ring in shape] for shape in shapes]
    (ring, *holes), note = _largest(every)
    if isinstance(data, dict) and data.get("coordinates_are") == LOCAL:
        return _as_drawn(data, FoundOutline(Ring(ring), _holes(holes), note))
    spread = max(abs(a - b) for axis in zip(*ring, strict=True) for a in axis[:1] for b in axis)
    if spread < DEGREES and all(abs(x) <= 180 and abs(y) <= 90 for x, y in ring):
        found = [_to_metres(each, ring[0]) for each in (ring, *holes)]
        note = _joined(note, _("Read as longitude and latitude."))
        return FoundOutline(Ring(found[0]), _holes(found[1:]), note)
    return FoundOutline(Ring(ring), _holes(holes), _joined(note, _("Read as metres east and north.")))


def _holes(rings: Sequence[tuple[Point, ...]]) -> tuple[Island, ...]:
    """Holes of which a file says no more than where they are; the first corner need not be said again at the end."""
    closed = [ring[:-1] if len(ring) > 1 and ring[0] == ring[-1] else ring for ring in rings]
    return tuple(Island(UNTOLD, "", Ring(ring)) for ring in closed)


def _as_drawn(data: dict[str, Any], found: FoundOutline) -> FoundOutline:
    """The curves and islands that a file of ours says besides, as long as what is drawn in it still follows them."""
    said = data.get("properties")
    said = said.get("area") if isinstance(said, dict) else None
    if not isinstance(said, dict) or area_problem(said):
        return found
    told = FoundOutline(ring_of(said), islands_of(said), found.note)
    rings = [
        (told.ring, found.ring),
        *zip((i.ring for i in told.islands), (i.ring for i in found.islands), strict=False),
    ]
    if len(told.islands) != len(found.islands) or not all(_follows(one, other) for one, other in rings):
        return found
    return told


def _follows(curve: Ring, chords: Ring) -> bool:
    """Whether chords are those of a curve still."""
    if len(curve.flat) + 1 < len(chords.corners) or len(chords.corners) < 3:
        return False
    ends = chords.corners[:-1] if chords.corners[0] == chords.corners[-1] else chords.corners
    return len(ends) == len(curve.flat) and all(
        math.dist(one, other) < 2 * SAGITTA for one, other in zip(curve.flat, ends, strict=True)
    )


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


def _largest(shapes: list[list[tuple[Point, ...]]]) -> tuple[list[tuple[Point, ...]], str]:
    """The shape with the largest outer ring."""
    largest = max(shapes, key=lambda rings: abs(shapely.Polygon(rings[0]).area) if len(rings[0]) > 2 else 0.0)
    note = _("The largest of {n} shapes was taken.").format(n=len(shapes)) if len(shapes) > 1 else ""
    return largest, note


def _joined(*notes: str) -> str:
    return " ".join(note for note in notes if note)


def _to_metres(ring: Sequence[Point], origin: Point) -> tuple[Point, ...]:
    """Longitude and latitude as metres east and north of an `origin`, on the ellipsoid WGS 84; over a site of a few
    hundred metres the plane is good to a millimetre or so."""
    east0, north0 = origin
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
            found = [(ring, entity.dxf.layer) for entity in space if (ring := _closed(entity, scale or 1.0))]
    except UnreadableFile:
        raise
    except UNREADABLE as error:
        raise UnreadableFile(_("Not a DXF drawing that can be read: {why}.").format(why=str(error)[:80])) from error
    if not found:
        raise UnreadableFile(_("No closed polyline in its model space: draw the area as one."))
    area = _with_islands([(KIND_OF_LAYER.get(layer, ""), "", ring) for ring, layer in found])
    if scale is None:
        return replace(area, note=_joined(area.note, _("The drawing names no unit: read as metres.")))
    return area


def _from_landxml(text: str, _unit: Unit) -> FoundOutline:
    return _with_islands(landxml.parcels(text))


def _with_islands(shapes: Sequence[tuple[str, str, Ring]]) -> FoundOutline:
    """The largest of shapes, each with its kind and name as far as they are known, and those within it."""
    edge = max((ring for _kind, _name, ring in shapes), key=lambda ring: abs(ring.area))
    within = edge.polygon.buffer(-APART)
    islands = tuple(
        Island(kind or UNTOLD, name, ring) for kind, name, ring in shapes
        if ring is not edge and abs(ring.area) >= SMALLEST_ISLAND and within.covers(ring.polygon)
    )  # fmt: skip
    left = len(shapes) - 1 - len(islands)
    note = _("The largest of {n} shapes was taken.").format(n=left + 1) if left else ""
    return FoundOutline(edge, islands, note)


def _closed(entity: DXFEntity, scale: float) -> Ring | None:
    """A closed polyline with its arcs, or a circle, metres; None for anything else. One that lies turned in space has
    its arcs cut into chords no further than `SAGITTA` off."""
    if isinstance(entity, Circle) and _lies_flat(entity):
        return circle((entity.dxf.center.x * scale, entity.dxf.center.y * scale), entity.dxf.radius * scale)
    if isinstance(entity, LWPolyline) and entity.closed and _lies_flat(entity):
        points = [(x * scale, y * scale, bulge) for x, y, bulge in entity.get_points("xyb")]
    elif isinstance(entity, Polyline) and entity.is_closed and entity.is_2d_polyline and _lies_flat(entity):
        places = [(v.dxf.location, v.dxf.get("bulge", 0.0)) for v in entity.vertices]
        points = [(at.x * scale, at.y * scale, bulge) for at, bulge in places]
    elif isinstance(entity, LWPolyline | Polyline):
        return _flattened(entity, scale)
    else:
        return None
    if not all(abs(value) <= FARTHEST for x, y, _bulge in points for value in (x, y)):
        raise UnreadableFile(_("Something in it lies further out than any site."))
    # A polyline may say its first corner again at its end.
    while len(points) > 1 and math.dist(points[0][:2], points[-1][:2]) < SAME_CORNER:
        points.pop()
    kept = [point for n, point in enumerate(points) if not n or math.dist(point[:2], points[n - 1][:2]) > SAME_CORNER]
    if len(kept) < 2:
        return None
    if not all(abs(bulge) < LARGEST_BULGE for _x, _y, bulge in kept):
        raise UnreadableFile(_("Something in it lies further out than any site."))
    ring = Ring(tuple((x, y) for x, y, _bulge in kept), tuple(bulge for _x, _y, bulge in kept))
    if len(kept) > MOST_CORNERS or ring.pieces > MOST_CHORDS:
        raise UnreadableFile(_("An arc in it comes to more than {n} corners.").format(n=MOST_CHORDS))
    return Ring(ring.corners) if ring.is_straight else ring


def _lies_flat(entity: DXFEntity) -> bool:
    return bool(entity.dxf.get("extrusion", (0, 0, 1)) == (0, 0, 1))


def _flattened(entity: DXFEntity, scale: float) -> Ring | None:
    """The corners of a polyline whose plane is turned, its arcs cut into chords; None where it is not closed."""
    way = ezdxf.path.make_path(entity)
    if not all(abs(x * scale) <= FARTHEST for vertex in way.control_vertices() for x in vertex):
        raise UnreadableFile(_("Something in it lies further out than any site."))
    points: list[Point] = []
    for p in way.flattening(SAGITTA / scale, segments=1):
        points.append((float(p.x) * scale, float(p.y) * scale))
        if len(points) > MOST_CHORDS:
            raise UnreadableFile(_("An arc in it comes to more than {n} corners.").format(n=MOST_CHORDS))
    if len(points) > 3 and math.dist(points[0], points[-1]) < 1e-6:
        return Ring(tuple(points[:-1]))
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
    columns, bare = Columns(0, 1), unit.for_plans
    if not re.search(r"\d", "".join(rows[0])):
        columns, bare = _columns(rows[0], bare)
        rows = rows[1:]
    rings: dict[str, list[tuple[float, float, float]]] = {}
    for number, row in enumerate(rows, start=len(lines) - len(rows) + 1):
        try:
            of = row[columns.of].strip()[:160] if columns.of is not None and len(row) > columns.of else ""
            said = row[columns.bulge] if columns.bulge is not None and len(row) > columns.bulge else ""
            east, north = (parse_length(row[n], bare).metres for n in (columns.east, columns.north))
            rings.setdefault(of, []).append((east, north, float(said or 0)))
        except (MeasureError, IndexError, ValueError) as error:
            why = in_words(error, unit, _) if isinstance(error, MeasureError) else _("not two values")
            raise UnreadableFile(_("Line {number}: {why}").format(number=number, why=why)) from error
    edge = rings.pop("", None)
    if edge is None:
        raise UnreadableFile(_("No corner of the area itself in it, only of what lies in it."))
    islands = [(of.partition(": "), _ring(rows)) for of, rows in rings.items()]
    return FoundOutline(_ring(edge), tuple(Island(kind if kind in KINDS else UNTOLD, name, ring)
                                           for (kind, _colon, name), ring in islands))  # fmt: skip


def _ring(corners: Sequence[tuple[float, float, float]]) -> Ring:
    bulges = tuple(bulge for _x, _y, bulge in corners)
    return Ring(tuple((x, y) for x, y, _bulge in corners), bulges if any(bulges) else ())


@dataclass(frozen=True)
class Columns:
    """Where in a line of CSV each value stands."""

    east: int
    north: int
    bulge: int | None = None
    of: int | None = None


def _columns(heading: list[str], bare: Unit) -> tuple[Columns, Unit]:
    """Where the values stand, and the unit the heading names."""
    names = [re.split(r"[\s_(\[]", name.lower()) for name in heading]

    def where(*known: str) -> int | None:
        return next((n for n, name in enumerate(names) if name[0] in known), None)

    east, north = where("east", "e", "x", "easting"), where("north", "n", "y", "northing")
    if east is None or north is None:
        raise UnreadableFile(_("The first line must name the columns east and north, or x and y."))
    named = names[east][1].rstrip(")]") if len(names[east]) > 1 else ""
    unit = {"m": Unit.METRES, "mm": Unit.MILLIMETRES, "ft": Unit.FEET_TENTHS}.get(named, bare)
    return Columns(east, north, where("bulge"), where("of")), unit


def to_geojson(name: str, ring: Ring, islands: Sequence[Island] = ()) -> str:
    """A Feature in the job's own metres; it says so, since GeoJSON is otherwise longitude and latitude. It knows no
    arcs: they are followed within a millimetre, and said besides as what they are."""
    rings = [
        [[round(x, 6), round(y, 6)] for x, y in (*each.flat, each.flat[0])]
        for each in (ring, *(island.ring for island in islands))
    ]
    said = {} if ring.is_straight and not islands else {"area": area_data(ring, islands)}
    feature = {
        "type": "Feature",
        "coordinates_are": LOCAL,
        "properties": {"name": name} | said,
        "geometry": {"type": "Polygon", "coordinates": rings},
    }
    return json.dumps(feature, indent=1, ensure_ascii=False) + "\n"


def to_dxf(ring: Ring, islands: Sequence[Island] = ()) -> str:
    """A drawing in metres with the outline as a closed polyline, its arcs as arcs; what is not paved on layers by its
    kind."""
    drawing = ezdxf.new("R2010", units=units.M)
    layers = {kind: layer for layer, kind in KIND_OF_LAYER.items()}
    every = [("PAVED_AREA", ring), *((layers[island.kind], island.ring) for island in islands)]
    for layer, each in every:
        points = [(x, y, bulge) for (x, y), bulge in zip(each.corners, each.curves, strict=True)]
        drawing.modelspace().add_lwpolyline(points, format="xyb", close=True, dxfattribs={"layer": layer})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def to_csv(ring: Ring, islands: Sequence[Island] = ()) -> str:
    """Corners one a line, metres; with curves or islands also each side's bulge and what a corner is of."""
    if ring.is_straight and not islands:
        return "east_m,north_m\n" + "".join(f"{x:.6f},{y:.6f}\n" for x, y in ring.corners)
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["east_m", "north_m", "bulge", "of"])
    for of, each in (("", ring), *((f"{i.kind}: {i.name or n}", i.ring) for n, i in enumerate(islands, start=1))):
        for (x, y), bulge in zip(each.corners, each.curves, strict=True):
            rows.writerow([f"{x:.6f}", f"{y:.6f}", f"{bulge:.9f}", of])
    return stream.getvalue()
