"""What stands along the paved area: where a facet meets a building, and whether a drain lies between."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import shapely
from shapely import ops
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from groundwork.surfaces import Facet, Point

BESIDE = 0.6
"""A building this near to a facet's side stands beside it, metres (common practice)."""
LEAST_LENGTH = 0.3
FEWEST_PLACES = {"drain": 1, "building": 2, "kerb": 2, "free edge": 2, "water": 3}
"""What it takes to say where something is: a gully lies at one place, a wall runs between two, a pond has an edge."""


@dataclass(frozen=True)
class Feature:
    """Something beside the area: `kind` is building, drain, kerb, free edge or water; a line or a ring. `side`
    counts the outline's sides from 0 where it was given as standing along one."""

    kind: str
    name: str
    points: tuple[Point, ...]
    side: int | None = None

    @property
    def shape(self) -> BaseGeometry:
        if self.kind in ("building", "water") and len(self.points) > 2:
            return shapely.Polygon(self.points)
        return shapely.LineString(self.points) if len(self.points) > 1 else shapely.Point(self.points[0])


def along_side(outline: Sequence[Point], side: int, kind: str) -> tuple[Point, ...]:
    """Where something of `kind` stands that runs along a side of an outline (counter-clockwise, sides from 0): the
    side itself, or for a building a strip outside it as deep as counts as beside it."""
    one, other = outline[side], outline[(side + 1) % len(outline)]
    if kind != "building":
        return one, other
    length = math.dist(one, other)
    out = (other[1] - one[1]) / length * BESIDE, (one[0] - other[0]) / length * BESIDE
    return one, other, (other[0] + out[0], other[1] + out[1]), (one[0] + out[0], one[1] + out[1])


@dataclass(frozen=True)
class BuildingEdge:
    """The part of a facet's side along a building, and the unit vector `towards` it, (east, north)."""

    facet: Facet
    building: str
    start: Point
    end: Point
    towards: Point
    drained: bool

    def falls_towards(self) -> float:
        """The fall towards the building as a ratio; negative where it falls away."""
        east, north = self.facet.gradient
        return -(east * self.towards[0] + north * self.towards[1])


def building_edges(
    facets: Sequence[Facet], features: Sequence[Feature], outline: tuple[Point, ...] = ()
) -> tuple[BuildingEdge, ...]:
    """Where facets, as far as they lie in an `outline` if one is given, meet buildings; `drained` where a drain runs
    along at least four fifths of it."""
    return _building_edges(tuple(facets), tuple(features), outline)


@lru_cache(maxsize=256)
def _building_edges(
    facets: tuple[Facet, ...], features: tuple[Feature, ...], outline: tuple[Point, ...]
) -> tuple[BuildingEdge, ...]:
    area = shapely.Polygon(outline) if outline else None
    buildings = [feature for feature in features if feature.kind == "building"]
    drains = shapely.union_all([f.shape.buffer(BESIDE) for f in features if f.kind == "drain"])
    found = []
    for facet, (one, other) in _sides(facets, area) if buildings else ():
        length = math.dist(one, other)
        out = (other[1] - one[1]) / length, (one[0] - other[0]) / length
        for building in buildings:
            near = _facing(shapely.LineString([one, other]), out, building.shape)
            if near.length >= LEAST_LENGTH:
                drained = bool(near.intersection(drains).length >= 0.8 * near.length)
                start, *_, end = map(tuple, shapely.get_coordinates(near).tolist())
                found.append(BuildingEdge(facet, building.name, start, end, out, drained))
    return tuple(found)


def _sides(facets: Sequence[Facet], area: shapely.Polygon | None) -> Iterator[tuple[Facet, tuple[Point, Point]]]:
    """Each facet's sides that are long enough to matter, counter-clockwise."""
    for facet in facets:
        shape = facet.polygon if area is None else facet.polygon.intersection(area)
        for part in shapely.get_parts(shape):
            if part.geom_type == "Polygon":
                ring = [(x, y) for x, y in orient(part).exterior.coords]
                yield from ((facet, side) for side in pairwise(ring) if math.dist(*side) >= LEAST_LENGTH)


def _facing(side: shapely.LineString, out: Point, building: BaseGeometry) -> BaseGeometry:
    """The part of `side` from which the building is met within reach, straight out."""
    steps = max(8, min(60, int(side.length / 0.25)))
    places = shapely.get_coordinates(side.interpolate([(n + 0.5) / steps for n in range(steps)], normalized=True))
    rays = shapely.linestrings([[(x, y), (x + out[0] * BESIDE, y + out[1] * BESIDE)] for x, y in places])
    met = [n for n, hit in enumerate(shapely.intersects(rays, building)) if hit]
    if not met:
        return shapely.LineString()
    start, end = met[0] / steps, (met[-1] + 1) / steps
    found: BaseGeometry = ops.substring(side, start, end, normalized=True)
    return found
