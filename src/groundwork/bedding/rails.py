"""Where rails lie and how high: by facet, along its fall or across it, so that a board reaches from one to the next
and none crosses a ridge or a valley."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from groundwork.bedding.sag import PACKED_EVERY
from groundwork.bedwork import RailsPlanned
from groundwork.job import Job
from groundwork.surfaces import Facet, Point

OVERHANG = 0.1
"""A bay is at least so much narrower than the board, metres (common practice, no published source)."""
INSET = 0.05
"""The outer rails lie so far inside the edge, metres: half of what the board hangs over."""
SHORTEST_RAIL = 0.5
"""What the edge leaves shorter is struck off from its neighbours, metres."""
BY_HAND = 1.0
"""Where a line has no rail for less than this, beside a cover or a small pit, the bed is drawn by hand, metres."""


Ends = tuple[Point, Point]


@dataclass(frozen=True)
class Rail:
    """One rail by its number, straight from one place to another, its top at a level at each, metres."""

    name: str
    start: Point
    end: Point
    start_level: float
    end_level: float

    @property
    def ends(self) -> tuple[Point, Point]:
        return self.start, self.end

    @property
    def length(self) -> float:
        return math.dist(self.start, self.end)

    def at(self, share: float) -> Point:
        (x0, y0), (x1, y1) = self.start, self.end
        return x0 + share * (x1 - x0), y0 + share * (y1 - y0)

    def level(self, share: float) -> float:
        return self.start_level + share * (self.end_level - self.start_level)

    @cached_property
    def spans(self) -> int:
        """Into how many its packings part it."""
        return max(1, math.ceil(self.length / PACKED_EVERY - 1e-9))

    @property
    def packings(self) -> list[float]:
        """Where it is packed, ends and all, as shares of its length."""
        return [n / self.spans for n in range(self.spans + 1)]

    def tubes(self, longest: float) -> int:
        """How many lengths of tube it takes."""
        return max(1, math.ceil(self.length / longest - 1e-9))


@dataclass(frozen=True)
class Bay:
    """What is screeded in one draw of the board along `way`, between the rails on its one side and on the other; a
    line that ends before the bay does goes on along the edge."""

    name: str
    facet: str
    outline: shapely.Polygon
    way: Point
    one: tuple[Rail, ...]
    other: tuple[Rail, ...]

    @property
    def area(self) -> float:
        return float(self.outline.area)

    def until(self, share: float) -> BaseGeometry:
        """The part of it from where the board begins that has this share of its area."""
        along = shapely.get_coordinates(self.outline) @ np.array(self.way)
        low, high = float(along.min()), float(along.max())
        first = low - 1
        part: BaseGeometry = self.outline
        for _halving in range(40):
            middle = (low + high) / 2
            part = _before(self.outline, self.way, first, middle)
            low, high = (low, middle) if part.area > share * self.area else (middle, high)
        return part


@dataclass(frozen=True)
class RailPlan:
    """The whole plan: every facet's rails, and the bays between them in the order they are screeded."""

    plan: RailsPlanned
    rails: dict[str, Rail]
    """By name, in walking order."""
    bays: tuple[Bay, ...]


def rail_plan(job: Job, plan: RailsPlanned) -> RailPlan:
    """Rails and bays of a job's design: tops at the level the bed is screeded to."""
    rails: dict[str, Rail] = {}
    bays: list[Bay] = []
    for facet in job.facets:
        parts = [
            part for part in shapely.get_parts(shapely.intersection(facet.polygon, job.area, grid_size=1e-6))
            if isinstance(part, shapely.Polygon) and part.area > SHORTEST_RAIL**2
        ]  # fmt: skip
        for part in parts:
            laid = _Laying(facet, part, plan, screeded(job))
            for start, end in laid.in_order:
                name = f"R{len(rails) + 1}"
                levels = facet.level_at([start[0], end[0]], [start[1], end[1]]) - screeded(job)
                rails[name] = Rail(name, start, end, *map(float, levels))
            bays += laid.bays({rail.ends: rail for rail in rails.values()}, len(bays))
    return RailPlan(plan, rails, tuple(bays))


def screeded(job: Job) -> float:
    """How far below the finished surface the bed is screeded: a unit less what it is laid proud by, metres."""
    specification = job.specification
    return specification.layers[0].thickness - specification.settlement


def notch(job: Job, upstand: float) -> float:
    """How deep a screed that runs on an edge is notched, which stands `upstand` over the finished surface, metres."""
    return upstand + screeded(job)


class _Laying:
    """Rails of one part of a facet: lines side by side, and along the edge where one of them ends before its bay."""

    def __init__(self, facet: Facet, part: shapely.Polygon, plan: RailsPlanned, depth: float) -> None:
        self.facet, self.part, self.depth = facet, part, depth
        self.way = _way(facet, part, plan)
        self.aside = -self.way[1], self.way[0]
        across = shapely.get_coordinates(part) @ np.array(self.aside)
        low, high = float(across.min()), float(across.max())
        inset = min(INSET, (high - low) / 4)
        reach = high - low - 2 * inset
        number = max(1, math.ceil(reach / max(plan.board.metres - OVERHANG, 0.1) - 1e-9))
        self.offs = [low + inset + reach * n / number for n in range(number + 1)]
        along = shapely.get_coordinates(part) @ np.array(self.way)
        self.along, self.across = (float(along.min()) - 1, float(along.max()) + 1), (low - 1, high + 1)
        self.lines = [list(_cut(part, off, self.way, self.aside, *self.along)) for off in self.offs]
        self.pieces = [self._pieces(n) for n in range(number)]
        self.edges = {
            (n, k, side): self._along_the_edge(piece, n + side, side)
            for n, pieces in enumerate(self.pieces) for k, piece in enumerate(pieces) for side in (0, 1)
        }  # fmt: skip

    @property
    def in_order(self) -> list[Ends]:
        """Every rail, line by line, each line along the way."""
        found: list[Ends] = []
        for n, line in enumerate(self.lines):
            beside = [rail for (bay, _k, side), rails in self.edges.items() if bay + side == n for rail in rails]
            found += sorted([*line, *beside], key=lambda ends: _dot(ends[0], self.way))
        return list(dict.fromkeys(found))

    def bays(self, named: Mapping[Ends, Rail], before: int) -> list[Bay]:
        found: list[Bay] = []
        for n, pieces in enumerate(self.pieces):
            for k, piece in enumerate(pieces):
                sides = [
                    tuple(named[ends] for ends in sorted(
                        [*_beside(self.lines[n + side], piece), *self.edges[n, k, side]],
                        key=lambda ends: _dot(ends[0], self.way)))
                    for side in (0, 1)
                ]  # fmt: skip
                name = f"B{before + len(found) + 1}"
                found.append(Bay(name, self.facet.name, piece, self.way, *sides))
        return found

    def _pieces(self, n: int) -> list[shapely.Polygon]:
        """What lies between a line and the next, out to the edge at both sides of all."""
        last = len(self.offs) - 2
        low = self.across[0] if n == 0 else self.offs[n]
        high = self.across[1] if n == last else self.offs[n + 1]
        first, end = self.along
        corners = [self._place(t, a) for t, a in ((first, low), (first, high), (end, high), (end, low))]
        pieces = shapely.get_parts(shapely.intersection(shapely.Polygon(corners), self.part, grid_size=1e-6))
        whole = [piece for piece in pieces if isinstance(piece, shapely.Polygon) and piece.area > SMALLEST_BAY]
        return sorted(whole, key=lambda piece: _dot((piece.centroid.x, piece.centroid.y), self.way))

    def _place(self, along: float, across: float) -> Point:
        return (
            along * self.way[0] + across * self.aside[0],
            along * self.way[1] + across * self.aside[1],
        )

    def _along_the_edge(self, piece: shapely.Polygon, line: int, side: int) -> list[Ends]:
        """Rails along the edge of a bay where its line has none: the board would lie on nothing there."""
        along = shapely.get_coordinates(piece) @ np.array(self.way)
        spans = [(_dot(s, self.way), _dot(e, self.way)) for s, e in _beside(self.lines[line], piece)]
        found: list[Ends] = []
        for first, last in _left(float(along.min()), float(along.max()), spans):
            corners = [t for t in sorted(set(along.tolist())) if first + STEP < t < last - STEP]
            at = (first + STEP, *(t + by for t in corners for by in (-STEP, STEP)), last - STEP)
            places = [(t, off) for t in at if (off := self._edge(piece, t, side)) is not None]
            if len(places) > 1:
                run = [self._place(t, a) for t, a in shapely.LineString(places).simplify(NEAR_THE_EDGE).coords]
                found += [rail for one, other in pairwise(run) for rail in _within(self.part, one, other)]
        return found

    def _edge(self, piece: shapely.Polygon, along: float, side: int) -> float | None:
        """How far aside a bay ends at a place along it, a little inside; None where it is too narrow for a rail."""
        line = shapely.LineString([self._place(along, across) for across in self.across])
        across = shapely.get_coordinates(shapely.intersection(line, piece)) @ np.array(self.aside)
        if len(across) > 1:
            least, most = float(across.min()), float(across.max())
            inset = min(INSET, (most - least) / 2)
            return most - inset if side else least + inset
        return None


SMALLEST_BAY = 0.01
STEP = 0.001
"""The edge is looked at just before and just behind its corners, metres: it may step aside there."""
NEAR_THE_EDGE = 0.06
"""A rail along a curved edge is nowhere further from it than so much more than the inset, metres."""


def _left(first: float, last: float, spans: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """What of a stretch no span covers, where it is too long to draw by hand."""
    found, at = [], first
    for low, high in sorted(spans):
        if low - at >= BY_HAND:
            found.append((at, low))
        at = max(at, high)
    if last - at >= BY_HAND:
        found.append((at, last))
    return found


def _way(facet: Facet, part: shapely.Polygon, plan: RailsPlanned) -> Point:
    """Down the fall; on a level facet along its longer side."""
    fall, bearing = facet.steepest
    if fall > 1e-9:
        east, north = math.sin(math.radians(bearing)), math.cos(math.radians(bearing))
    else:
        corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(part))
        one, other = corners[1] - corners[0], corners[2] - corners[1]
        longer = one if np.hypot(*one) >= np.hypot(*other) else other
        east, north = (float(x) for x in longer / np.hypot(*longer))
    return (east, north) if plan.way == "along" else (north, -east)


def _cut(
    part: shapely.Polygon, off: float, way: Point, aside: Point, first: float, last: float
) -> Iterator[tuple[Point, Point]]:
    """What of a line through a facet lies in it, end by end."""
    ends = [(off * aside[0] + t * way[0], off * aside[1] + t * way[1]) for t in (first, last)]
    found = [
        (one, other) if _dot(one, way) <= _dot(other, way) else (other, one) for one, other in _within(part, *ends)
    ]
    yield from sorted(found, key=lambda ends: _dot(ends[0], way))


def _within(part: shapely.Polygon, start: Point, end: Point) -> Iterator[Ends]:
    """What of a line lies in a part, where that is long enough for a rail."""
    for line in shapely.get_parts(shapely.intersection(shapely.LineString([start, end]), part)):
        if line.geom_type == "LineString" and line.length >= SHORTEST_RAIL:
            (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
            yield (float(x0), float(y0)), (float(x1), float(y1))


def _dot(one: Point, other: Point) -> float:
    return one[0] * other[0] + one[1] * other[1]


def _before(outline: shapely.Polygon, way: Point, first: float, last: float) -> BaseGeometry:
    """What of an outline lies no further along a way."""
    across = shapely.get_coordinates(outline) @ np.array((-way[1], way[0]))
    low, high = float(across.min()) - 1, float(across.max()) + 1
    corners = [
        (t * way[0] - a * way[1], t * way[1] + a * way[0])
        for t, a in ((first, low), (last, low), (last, high), (first, high))
    ]
    return shapely.intersection(outline, shapely.Polygon(corners), grid_size=1e-6)


def _beside(line: Sequence[Ends], piece: shapely.Polygon) -> list[Ends]:
    return [ends for ends in line if shapely.dwithin(shapely.LineString(ends), piece, 2 * INSET)]
