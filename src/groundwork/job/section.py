"""A cut across the plan: the finished surface, what lies under it and beside it, along a line."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from groundwork.brief import ExistingGround, FixedHeight
from groundwork.job.job import Job
from groundwork.plan import Feature
from groundwork.surfaces import Facet, Point

NEAR = 1.0
"""A fixed height this near to the cut is shown on it, metres."""
STEP = 0.25


@dataclass(frozen=True)
class Stretch:
    """The finished surface along a piece of the cut within one facet: distances and levels, straight between."""

    start: float
    end: float
    start_level: float
    end_level: float


@dataclass(frozen=True)
class Crossing:
    """A feature the cut meets, over distances `start` to `end`."""

    kind: str
    name: str
    start: float
    end: float


@dataclass(frozen=True)
class Cut:
    """`ground` are (distance, level) of the existing ground where it is known, in runs; `heights` are fixed
    heights near the cut with their distance along it."""

    length: float
    stretches: tuple[Stretch, ...]
    ground: tuple[tuple[tuple[float, float], ...], ...]
    crossings: tuple[Crossing, ...]
    heights: tuple[tuple[float, FixedHeight], ...]


def cut(job: Job, start: Point, end: Point) -> Cut:
    """The cut from `start` to `end`. Raises `ValueError` where they are the same place or miss the paved area."""
    return _cut(job.area, job.facets, job.features, job.heights, job.ground, start, end)


@lru_cache(maxsize=256)
def _cut(
    area: shapely.Polygon,
    facets: tuple[Facet, ...],
    features: tuple[Feature, ...],
    heights: tuple[FixedHeight, ...],
    ground: ExistingGround,
    start: Point,
    end: Point,
) -> Cut:
    length = math.dist(start, end)
    if length < 0.1:
        raise ValueError("the two ends of a cut lie apart")
    line = shapely.LineString([start, end])
    paved = shapely.intersection(line, area)
    stretches = []
    for facet in facets:
        inside = shapely.intersection(paved, facet.polygon)
        for part in shapely.get_parts(inside):
            if part.length > 1e-6:
                ends = shapely.get_coordinates(part)
                levels = facet.level_at(*ends.T)
                along = [math.dist(start, place) for place in ends]
                first, last = int(np.argmin(along)), int(np.argmax(along))
                stretches.append(Stretch(along[first], along[last], float(levels[first]), float(levels[last])))
    if not stretches:
        raise ValueError("the cut misses the paved area")
    stretches.sort(key=lambda stretch: stretch.start)
    return Cut(
        length,
        tuple(stretches),
        _ground(ground, start, end, length),
        _crossings(features, line),
        _heights(heights, line),
    )


def across(job: Job, through: Point) -> tuple[Point, Point]:
    """The ends of a cut down the steepest fall through a point, a little longer than the area."""
    facet = min(job.facets, key=lambda f: shapely.distance(f.polygon, shapely.Point(through)))
    bearing = math.radians(facet.steepest[1])
    way = math.sin(bearing), math.cos(bearing)
    reach = job.area.length
    whole = shapely.LineString(
        [
            (through[0] - way[0] * reach, through[1] - way[1] * reach),
            (through[0] + way[0] * reach, through[1] + way[1] * reach),
        ]
    )
    met = shapely.get_coordinates(whole.intersection(job.area))
    if not len(met):
        met = np.array([through, through])
    along = (met - np.array(through)) @ np.array(way)
    beyond = max(0.6, 0.08 * float(np.ptp(along)))
    low, high = float(along.min()) - beyond, float(along.max()) + beyond
    return (through[0] + way[0] * low, through[1] + way[1] * low), (
        through[0] + way[0] * high,
        through[1] + way[1] * high,
    )


def _ground(
    known: ExistingGround, start: Point, end: Point, length: float
) -> tuple[tuple[tuple[float, float], ...], ...]:
    along = np.linspace(0, length, max(2, int(length / STEP) + 1))
    places = np.array(start) + np.outer(along / length, np.array(end) - np.array(start))
    runs: list[list[tuple[float, float]]] = [[]]
    for distance, level in zip(along.tolist(), known.level_at(places).tolist(), strict=True):
        if math.isfinite(level):
            runs[-1].append((distance, level))
        elif runs[-1]:
            runs.append([])
    return tuple(tuple(run) for run in runs if len(run) > 1)


def _crossings(features: tuple[Feature, ...], line: shapely.LineString) -> tuple[Crossing, ...]:
    found = []
    for feature in features:
        shape = feature.shape if feature.kind in ("building", "water") else feature.shape.buffer(0.05)
        for part in shapely.get_parts(shapely.intersection(line, shape)):
            along = [line.project(shapely.Point(place)) for place in shapely.get_coordinates(part)]
            if along:
                found.append(Crossing(feature.kind, feature.name, min(along), max(along)))
    return tuple(sorted(found, key=lambda crossing: crossing.start))


def _heights(heights: tuple[FixedHeight, ...], line: shapely.LineString) -> tuple[tuple[float, FixedHeight], ...]:
    near = [(line.project(shapely.Point(h.at)), h) for h in heights if line.distance(shapely.Point(h.at)) <= NEAR]
    return tuple(sorted(near, key=lambda found: found[0]))
