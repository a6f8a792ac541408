"""Ways to lay a paved area out in facets: one plane, planes that meet at a line, or a fan to a gully."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import shapely
from shapely import ops
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from groundwork.measures import Said
from groundwork.plan.surroundings import Feature, building_edges
from groundwork.surfaces import Facet, Point

SNAP = 0.001


class LayoutError(Said):
    """The area cannot be laid out like that; the message says why."""


@dataclass(frozen=True)
class Piece:
    """A facet before it has levels; `bearing` is where it is to fall to, degrees clockwise from north, None for
    wherever serves best."""

    name: str
    outline: tuple[Point, ...]
    bearing: float | None = None


def one_plane(outline: Sequence[Point], features: Sequence[Feature] = ()) -> tuple[Piece, ...]:
    """The whole area as one facet, falling straight away from the building it lies along most, if any."""
    flat = Facet("all", tuple(outline), outline[0], 0.0, 0.0, 0.0)
    edges = [e for e in building_edges([flat], features) if not e.drained]
    longest = max(edges, key=lambda e: math.dist(e.start, e.end), default=None)
    bearing = _bearing((-longest.towards[0], -longest.towards[1])) if longest else None
    return (Piece("all", tuple(outline), bearing),)


def meeting_at(outline: Sequence[Point], line: Sequence[Point], valley: bool) -> tuple[Piece, ...]:
    """The area cut along a line drawn through `line` to its edges; pieces fall to the line where it is a
    `valley`, away from it where it is a ridge. Raises `LayoutError` where the line misses the area."""
    (x1, y1), (x2, y2) = line[0], line[-1]
    length = math.hypot(x2 - x1, y2 - y1)
    if length < SNAP:
        raise LayoutError("the two ends of the line are the same place")
    area = shapely.Polygon(outline)
    reach = 2 * (area.length + shapely.distance(area, shapely.Point(x1, y1))) / length
    cut = shapely.LineString(
        [(x1 - (x2 - x1) * reach, y1 - (y2 - y1) * reach), (x2 + (x2 - x1) * reach, y2 + (y2 - y1) * reach)]
    )
    parts = [part for part in ops.split(area, cut).geoms if isinstance(part, shapely.Polygon) and part.area > 0.01]
    if len(parts) < 2:
        raise LayoutError("the line does not cross the area")
    pieces = []
    for number, part in enumerate(sorted(parts, key=lambda p: (round(p.centroid.y, 3), p.centroid.x)), start=1):
        foot = ops.nearest_points(part.centroid, cut)[1]
        to_line = foot.x - part.centroid.x, foot.y - part.centroid.y
        way = to_line if valley else (-to_line[0], -to_line[1])
        pieces.append(Piece(f"facet {number}", _ring(part), _bearing(way)))
    return tuple(pieces)


def to_gully(outline: Sequence[Point], gully: Point) -> tuple[Piece, ...]:
    """A facet from each side of the area to the gully, falling square from its side to it. Raises `LayoutError`
    where some side cannot be seen from the gully, so that planes would overlap."""
    ring = list(outline) if shapely.Polygon(outline).exterior.is_ccw else list(outline)[::-1]
    area = shapely.Polygon(ring)
    if not area.buffer(SNAP).covers(shapely.Point(gully)):
        raise LayoutError("the gully does not lie in the area")
    pieces: list[Piece] = []
    covered = 0.0
    for one, other in zip(ring, [*ring[1:], ring[0]], strict=True):
        triangle = shapely.Polygon([one, other, gully])
        turn = (other[0] - one[0]) * (gully[1] - one[1]) - (other[1] - one[1]) * (gully[0] - one[0])
        if turn < -SNAP:
            raise LayoutError("not every side can be seen from the gully: cut the area along a line instead")
        if triangle.area > 0.001:
            inward = (one[1] - other[1], other[0] - one[0])
            pieces.append(Piece(f"facet {len(pieces) + 1}", (one, other, gully), _bearing(inward)))
            covered += triangle.area
    if abs(covered - area.area) > 0.01:
        raise LayoutError("not every side can be seen from the gully: cut the area along a line instead")
    return tuple(pieces)


def evenly_to_gully(outline: Sequence[Point], gully: Point) -> tuple[Piece, ...]:
    """A facet from each side of the area to the gully, falling square from its side to it, divided so that all
    may fall alike wherever the gully lies: along the lines where equal falls meet, which need not end in corners.
    Raises `LayoutError` where the gully does not lie in the area, or the area has inner corners."""
    area = orient(shapely.Polygon(outline))
    if not area.contains(shapely.Point(gully)):
        raise LayoutError("the gully does not lie in the area")
    if area.convex_hull.area - area.area > 1e-6:
        raise LayoutError("not every side can be seen from the gully: cut the area along a line instead")
    ring, far = list(area.exterior.coords), 4 * area.length
    ways = []
    for (x1, y1), (x2, y2) in pairwise(ring):
        length = math.hypot(x2 - x1, y2 - y1)
        ways.append(((y2 - y1) / length, (x1 - x2) / length))
    pieces: list[Piece] = []
    for number, (east, north) in enumerate(ways):
        part: BaseGeometry = area
        for other in (*ways[:number], *ways[number + 1 :]):
            over = east - other[0], north - other[1]
            size = math.hypot(*over)
            if size > 1e-9:
                part = part.intersection(_half_plane(gully, (over[0] / size, over[1] / size), far))
        if isinstance(part, shapely.Polygon) and part.area > 0.001:
            pieces.append(Piece(f"facet {len(pieces) + 1}", _ring(orient(part)), _bearing((-east, -north))))
    return tuple(pieces)


def _half_plane(at: Point, way: Point, far: float) -> shapely.Polygon:
    """Everything on from `at` in the direction `way`, a unit vector, as far as it matters."""
    (x, y), (east, north) = at, way
    corners = [(-north, east), (-north + east, east + north), (north + east, -east + north), (north, -east)]
    return shapely.Polygon([(x + far * a, y + far * b) for a, b in corners])


def as_drawn(facets: Sequence[Facet]) -> tuple[Piece, ...]:
    """The facets of a design, each to fall where it falls now."""
    return tuple(Piece(f.name, f.outline, round(f.steepest[1], 1) if f.steepest[0] > 1e-6 else None) for f in facets)


def _ring(polygon: shapely.Polygon) -> tuple[Point, ...]:
    return tuple((round(x, 6), round(y, 6)) for x, y in polygon.exterior.coords[:-1])


def _bearing(way: Point) -> float:
    return math.degrees(math.atan2(way[0], way[1])) % 360
