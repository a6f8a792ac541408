"""Planning the falls: planes that meet the fixed heights with falls in range and least earth moved, as a linear
programme; or the heights that cannot all be met, and by how much.

What is dug down to the formation and what is filled up to it count alike: a surface that floats over the ground
to save digging is no saving. Where the ground is not known, or only one end is held, nothing is to be saved by a
steeper fall: the planes are as gentle as the heights let them be.

Unknowns are each facet's level at its middle and its gradient. Facets that meet have the same level at the ends of
what they share. A fall is held above the least by its component along the facet's own bearing, and below the greatest
by the cone itself: tangent planes are added until none is steeper (Kelley's cutting planes).
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.optimize import linprog
from shapely.geometry.base import BaseGeometry

from groundwork.brief import ExistingGround, FixedHeight, HeightKind
from groundwork.plan import Feature, Piece, building_edges
from groundwork.surfaces import Facet, Point

SIDES = 16
"""Tangents to the greatest fall to begin with."""
TOUCH = 0.002
"""Corners and edges nearer to each other than this are one, metres."""
SHORTEST_SHARED = 0.01
BEARINGS_TRIED = 24
MOST_CONFLICTS = 4
SAMPLES = 160
LITTLE = 1e-3
TANGENT = 1e-6
"""A fall steeper than the greatest by no more than this share is the greatest."""
PRECISION = 1e-10
STRAIGHT = 50.0
"""What a plane pays for falling aside, m³ a square metre at 1:1: more than any digging saved by it."""
CLOSE = 1e-6
Rows = tuple[NDArray[np.float64], NDArray[np.float64]]


@dataclass(frozen=True)
class FallRange:
    """The least and the greatest fall of any facet, as ratios. Raises `ValueError` where they cannot be."""

    least: float = 1 / 60
    most: float = 1 / 20

    def __post_init__(self) -> None:
        if not 0 <= self.least <= self.most <= 1:
            raise ValueError("the least fall is at most the greatest, and both lie between level and 1:1")


@dataclass(frozen=True)
class PlannedFalls:
    """Facets that meet everything asked; `excavation` in m³ down to the formation, where the ground is known."""

    facets: tuple[Facet, ...]
    excavation: float | None


@dataclass(frozen=True)
class Give:
    """A fixed height and how far it alone would have to move for its conflict to end: up positive, metres."""

    height: FixedHeight
    by: float


@dataclass(frozen=True)
class HeightConflict:
    """Heights that cannot all be met; without any one of them the others can."""

    gives: tuple[Give, ...]


@dataclass(frozen=True)
class NoFalls:
    """No planes meet what is asked: which heights are in conflict, or why there is no answer whatever they are.
    `more` where there may be further conflicts than the first few."""

    conflicts: tuple[HeightConflict, ...]
    why: str = ""
    more: bool = False


def plan_falls(
    pieces: Sequence[Piece],
    heights: Sequence[FixedHeight],
    falls: FallRange,
    features: Sequence[Feature] = (),
    ground: ExistingGround | None = None,
    depth: float = 0.0,
    level_access: bool = False,
    straight: bool = True,
    outline: tuple[Point, ...] = (),
    gentle: bool = False,
) -> PlannedFalls | NoFalls:
    """The planes, or why there are none. `depth` is from finished level to the formation; `straight` planes fall
    aside from their bearing only as far as the heights force them to, others also to move less earth; `gentle` ones
    are no steeper than the heights force them to be, whatever that digs. Pieces count as far as they lie in the
    area's `outline`, if one is given."""
    if not heights:
        return NoFalls((), "Give at least one fixed height: nothing says how high the surface lies.")
    gentle = gentle or sum(h.kind is not HeightKind.DAMP_PROOF_COURSE for h in heights) < 2
    plans: list[tuple[float, tuple[float, ...], PlannedFalls]] = []
    refusals: list[tuple[float, _Programme]] = []

    def tried(bearings: tuple[float, ...]) -> str | None:
        programme = _Programme(pieces, bearings, heights, falls, features, level_access, outline)
        answer = programme.best(ground, depth, STRAIGHT if straight else LITTLE, gentle)
        if isinstance(answer, str):
            return answer
        if answer:
            plans.append((answer[0], bearings, answer[1]))
        else:
            refusals.append((programme.shortfall(range(len(heights)))[0], programme))
        return None

    to_try = _bearings_to_try(pieces)
    for bearings in to_try:
        if why := tried(bearings):
            return NoFalls((), why)
    if plans and len(to_try) > 1:
        for step in _CLOSER:
            around = min(plans, key=lambda plan: plan[0])[1][0]
            for side in (-step, step):
                tried(((around + side) % 360,))
    if plans:
        return min(plans, key=lambda plan: plan[0])[2]
    shortfall, programme = min(refusals, key=lambda refusal: refusal[0])
    if math.isinf(shortfall):
        return NoFalls((), "These facets cannot meet with falls in that range, whatever the heights.")
    conflicts = tuple(programme.conflicts())
    return NoFalls(conflicts, more=len(conflicts) == MOST_CONFLICTS)


_CLOSER = tuple(360 / BEARINGS_TRIED / 2**n for n in range(1, 8))
"""Steps by which the best bearing found is looked at from either side."""


def _bearings_to_try(pieces: Sequence[Piece]) -> list[tuple[float, ...]]:
    """A lone facet with no bearing is tried all round; of several, those without take the mean of the others'."""
    if len(pieces) == 1 and pieces[0].bearing is None:
        return [(n * 360 / BEARINGS_TRIED,) for n in range(BEARINGS_TRIED)]
    known = [math.radians(p.bearing) for p in pieces if p.bearing is not None] or [math.pi]
    mean = math.degrees(math.atan2(sum(map(math.sin, known)), sum(map(math.cos, known)))) % 360
    return [tuple(mean if p.bearing is None else p.bearing for p in pieces)]


class _Programme:
    """The constraints on the unknowns: per facet its level at the middle, and the gradient east and north."""

    def __init__(
        self,
        pieces: Sequence[Piece],
        bearings: Sequence[float],
        heights: Sequence[FixedHeight],
        falls: FallRange,
        features: Sequence[Feature],
        level_access: bool,
        outline: tuple[Point, ...],
    ) -> None:
        self.pieces = pieces
        self.heights = heights
        self.outline = outline
        self.polygons = [_within(shapely.Polygon(piece.outline), outline) for piece in pieces]
        self.middles = [(p.centroid.x, p.centroid.y) for p in self.polygons]
        self.size = 3 * len(pieces)
        self.down = [math.radians(bearing) for bearing in bearings]
        self.most = falls.most
        self.cuts: list[tuple[NDArray[np.float64], float]] = []
        self.meetings = _meetings([piece.outline for piece in pieces])
        self.upper = _stacked([*self._falls(falls), *self._buildings(features)], self.size)
        self.equal = _stacked(list(self._edges()), self.size)
        self.held = [list(self._height(height, level_access)) for height in heights]

    def at(self, facet: int, east: float, north: float) -> NDArray[np.float64]:
        """The row that gives a facet's level at a point."""
        row = np.zeros(self.size)
        row[3 * facet : 3 * facet + 3] = 1.0, east - self.middles[facet][0], north - self.middles[facet][1]
        return row

    def _slope(self, facet: int, way: tuple[float, float]) -> NDArray[np.float64]:
        row = np.zeros(self.size)
        row[3 * facet + 1 : 3 * facet + 3] = way
        return row

    def _falls(self, falls: FallRange) -> Iterator[tuple[NDArray[np.float64], float]]:
        for facet, down in enumerate(self.down):
            yield self._slope(facet, (math.sin(down), math.cos(down))), -falls.least
            for n in range(SIDES):
                angle = down + 2 * n * math.pi / SIDES
                yield self._slope(facet, (math.sin(angle), math.cos(angle))), falls.most

    def _buildings(self, features: Sequence[Feature]) -> Iterator[tuple[NDArray[np.float64], float]]:
        flat = [Facet(p.name, p.outline, p.outline[0], 0.0, 0.0, 0.0) for p in self.pieces]
        places = {facet: n for n, facet in enumerate(flat)}
        for edge in building_edges(flat, features, self.outline):
            if not edge.drained:
                yield self._slope(places[edge.facet], (-edge.towards[0], -edge.towards[1])), 0.0

    def _edges(self) -> Iterator[tuple[NDArray[np.float64], float]]:
        """Facets that meet in a place have one level there."""
        for place, (first, *others) in self.meetings:
            for other in others:
                yield self.at(first, *place) - self.at(other, *place), 0.0

    def _height(self, height: FixedHeight, level_access: bool) -> Iterator[tuple[NDArray[np.float64], float]]:
        """Rows that keep the surface at or under, and at or over, what a height allows: on the facet it lies in or
        nearest to; where facets meet they have one level, so that one of them is enough."""
        least, most = height.bounds(level_access)
        facet = int(np.argmin(shapely.distance(self.polygons, shapely.Point(height.at))))
        if most is not None:
            yield self.at(facet, *height.at), most
        if least is not None:
            yield -self.at(facet, *height.at), -least

    def _solved(self, cost: NDArray[np.float64], upper: Rows, equal: Rows) -> Any:
        """The programme solved with no facet steeper than the greatest fall: where one is, a tangent is put to the
        cone there, and it is solved again. Unknowns beyond the planes' own are not negative."""
        while True:
            rows = _joined(upper, _wide(_stacked(self.cuts, self.size), len(cost)))
            solved = _solve(cost, rows, equal, free=self.size)
            if solved.status != 0:
                return solved
            slopes = solved.x[: self.size].reshape(-1, 3)[:, 1:]
            steep = [n for n, slope in enumerate(slopes) if math.hypot(*slope) > self.most * (1 + TANGENT)]
            if not steep:
                return solved
            for facet in steep:
                east, north = slopes[facet] / math.hypot(*slopes[facet])
                self.cuts.append((self._slope(facet, (east, north)), self.most))

    def best(
        self, ground: ExistingGround | None, depth: float, aside: float, gentle: bool
    ) -> tuple[float, PlannedFalls] | str | None:
        """The cheapest planes with what they cost, falling aside at the price `aside`; None where there are none,
        words where nothing holds them."""
        upper = _joined(self.upper, *(_stacked(rows, self.size) for rows in self.held))
        cost, aims = self._aims(ground, depth, aside, gentle)
        width = len(cost)
        solved = self._solved(cost, _joined(_wide(upper, width), aims), _wide(self.equal, width))
        if solved.status == 3:
            return "Nothing holds the surface down: give a threshold, a drain or a damp-proof course."
        if solved.status != 0:
            return None
        facets = tuple(self._facet(n, solved.x[3 * n : 3 * n + 3]) for n in range(len(self.pieces)))
        excavation = ground.excavation(facets, depth) if ground else None
        return float(solved.fun), PlannedFalls(facets, excavation)

    def _aims(
        self, ground: ExistingGround | None, depth: float, price: float, gentle: bool
    ) -> tuple[NDArray[np.float64], Rows]:
        """Cost and rows for the unknowns and what follows them: each facet's fall aside from its bearing, then the
        depth dug and filled at places over the area. Where the ground is not known, the planes are gentle, and as
        high as they may be. A little is put on falling and falling aside, so that nothing is steeper than it has to
        be."""
        areas = np.array([polygon.area for polygon in self.polygons])
        aside = np.array([self._slope(n, (math.cos(b), -math.sin(b))) for n, b in enumerate(self.down)])
        count = len(areas)
        cost = np.zeros(self.size)
        points, facets = self._places()
        levels = ground.level_at(points) if ground else np.full(len(points), np.nan)
        known = np.isfinite(levels)
        steep = STRAIGHT if gentle or not known.any() else LITTLE
        for facet, bearing in enumerate(self.down):
            cost -= steep * areas[facet] * self._slope(facet, (math.sin(bearing), math.cos(bearing)))
        rows = np.vstack([np.hstack([aside, -np.eye(count)]), np.hstack([-aside, -np.eye(count)])])
        limits = np.zeros(2 * count)
        if not known.any():
            cost[::3] = -LITTLE * areas
            return np.concatenate([cost, price * areas]), (rows, limits)
        share = areas[facets] / np.bincount(facets)[facets]
        design = np.array([self.at(f, *p) for f, p in zip(facets, points, strict=True)])[known]
        level, share, many = levels[known] + depth, share[known], int(known.sum())
        between, none = np.zeros((many, count)), np.zeros((many, many))
        digging = np.hstack([-design, between, -np.eye(many), none])
        filling = np.hstack([design, between, none, -np.eye(many)])
        return (
            np.concatenate([cost, price * areas, share, share]),
            (
                np.vstack([_wide((rows, limits), digging.shape[1])[0], digging, filling]),
                np.concatenate([limits, -level, level]),
            ),
        )

    def _places(self) -> tuple[NDArray[np.float64], NDArray[np.int_]]:
        """Places spread over the facets, and which facet each lies in."""
        each = max(4, SAMPLES // len(self.polygons))
        found = [_spread(polygon, each) for polygon in self.polygons]
        return np.concatenate(found), np.repeat(np.arange(len(found)), [len(places) for places in found])

    def _facet(self, place: int, unknowns: NDArray[np.float64]) -> Facet:
        piece = self.pieces[place]
        east, north = float(unknowns[1]), float(unknowns[2])
        fall = math.hypot(east, north)
        bearing = math.degrees(math.atan2(-east, -north)) % 360 if fall > 1e-9 else 0.0
        return Facet(piece.name, piece.outline, self.middles[place], float(unknowns[0]), bearing, fall)

    def shortfall(self, chosen: Sequence[int]) -> tuple[float, list[int]]:
        """How far the chosen heights together have to give, and those a proof of it rests on."""
        rows, whose = [], []
        for place, which in enumerate(chosen):
            for row, limit in self.held[which]:
                wide = np.zeros(self.size + len(chosen))
                wide[: self.size], wide[self.size + place] = row, -1.0
                rows.append((wide, limit))
                whose.append(which)
        width = self.size + len(chosen)
        fixed = _wide(self.upper, width)
        cost = np.concatenate([np.zeros(self.size), np.ones(len(chosen))])
        solved = self._solved(cost, _joined(fixed, _stacked(rows, width)), _wide(self.equal, width))
        if solved.status != 0:
            return math.inf, []
        weights = np.abs(solved.ineqlin.marginals[len(fixed[1]) :])[: len(whose)]
        return float(solved.fun), sorted({w for w, weight in zip(whose, weights, strict=True) if weight > 1e-9})

    def conflicts(self) -> Iterator[HeightConflict]:
        """Minimal sets of heights that cannot all be met, each once, found by leaving out one after another."""
        found: set[frozenset[int]] = set()
        waiting: list[frozenset[int]] = [frozenset()]
        seen = set(waiting)
        while waiting and len(found) < MOST_CONFLICTS:
            without = waiting.pop(0)
            conflict = next((c for c in found if not c & without), None)
            if conflict is None:
                rest = [n for n in range(len(self.heights)) if n not in without]
                shortfall, core = self.shortfall(rest)
                if shortfall <= CLOSE:
                    continue
                conflict = self._least(core)
                found.add(conflict)
                gives = (Give(self.heights[n], self._give(n, conflict)) for n in sorted(conflict))
                yield HeightConflict(tuple(sorted(gives, key=lambda give: abs(give.by))))
            for member in sorted(conflict):
                branch = without | {member}
                if branch not in seen:
                    seen.add(branch)
                    waiting.append(branch)

    def _least(self, core: Sequence[int]) -> frozenset[int]:
        """A conflict within `core` from which nothing can be left out."""
        kept, needed = list(core), set[int]()
        while untried := [n for n in kept if n not in needed]:
            shortfall, smaller = self.shortfall([n for n in kept if n != untried[0]])
            if shortfall > CLOSE:
                kept = smaller
            else:
                needed.add(untried[0])
        return frozenset(kept)

    def _give(self, which: int, conflict: frozenset[int]) -> float:
        """How far one height of a conflict has to move, the others held."""
        others = [_stacked(self.held[n], self.size) for n in conflict if n != which]
        fixed = _wide(_joined(self.upper, *others), self.size + 2)
        rows = []
        for row, limit in self.held[which]:
            sign = 1.0 if row[np.flatnonzero(row)[0]] > 0 else -1.0
            rows.append((np.concatenate([row, [-sign, sign]]), limit))
        cost = np.concatenate([np.zeros(self.size), [1.0, 1.0]])
        upper = _joined(fixed, _stacked(rows, self.size + 2))
        solved = self._solved(cost, upper, _wide(self.equal, self.size + 2))
        return float(solved.x[-2] - solved.x[-1]) if solved.status == 0 else math.nan


def _meetings(outlines: Sequence[Sequence[Point]]) -> list[tuple[Point, tuple[int, ...]]]:
    """Where facets meet: the two ends of every edge that two of them share, each place once, with the facets that
    have an end there. Corners that should be one, and are not to the last digit, are one."""
    ends: list[tuple[Point, int]] = []
    for (one, first), (other, second) in combinations(enumerate(outlines), 2):
        shared = [end for this in _sides(first) for that in _sides(second) for end in _overlap(this, that)]
        for start, end in _in_lines(shared):
            ends += [(place, facet) for place in (start, end) for facet in (one, other)]
    places: list[tuple[Point, set[int]]] = []
    for place, facet in ends:
        known = next((facets for at, facets in places if math.dist(at, place) <= TOUCH), None)
        if known is None:
            places.append((place, {facet}))
        else:
            known.add(facet)
    return [(place, tuple(sorted(facets))) for place, facets in places]


def _sides(outline: Sequence[Point]) -> Iterator[tuple[Point, Point]]:
    for one, other in zip(outline, (*outline[1:], outline[0]), strict=True):
        if math.dist(one, other) > TOUCH:
            yield one, other


def _overlap(this: tuple[Point, Point], that: tuple[Point, Point]) -> tuple[Point, ...]:
    """The two ends of what two edges share; none where they do not lie along each other."""
    start, way = np.array(this[0]), np.subtract(this[1], this[0])
    length = float(np.hypot(*way))
    way = way / length
    offsets = np.array(that) - start
    along, aside = offsets @ way, offsets @ np.array([-way[1], way[0]])
    low, high = max(0.0, float(along.min())), min(length, float(along.max()))
    if high - low < SHORTEST_SHARED or abs(float(along[1] - along[0])) < SHORTEST_SHARED:
        return ()
    off = aside[0] + (np.array([low, high]) - along[0]) / (along[1] - along[0]) * (aside[1] - aside[0])
    if np.abs(off).max() > TOUCH:
        return ()
    return tuple((float(x), float(y)) for x, y in (start + low * way, start + high * way))


def _in_lines(shared: Sequence[Point]) -> Iterator[tuple[Point, Point]]:
    """Shared edges, ends two by two, each as far as it goes on straight."""
    waiting = list(zip(shared[::2], shared[1::2], strict=True))
    while waiting:
        start, end = waiting.pop()
        for edge in list(waiting):
            four = (start, end, *edge)
            far = max(combinations(four, 2), key=lambda pair: math.dist(*pair))
            line = shapely.LineString(far)
            touches = any(math.dist(a, b) <= TOUCH for a in (start, end) for b in edge)
            if touches and all(shapely.distance(line, shapely.Point(p)) <= TOUCH for p in four):
                waiting.remove(edge)
                waiting.append(far)
                break
        else:
            yield start, end


def settled(planned: Sequence[Facet], before: Sequence[Facet]) -> tuple[Facet, ...]:
    """The planned facets, each as it stood before where it is the same plane to a hundredth of a millimetre."""
    known = {facet.outline: facet for facet in before}

    def kept(facet: Facet) -> Facet:
        old = known.get(facet.outline)
        corners = np.array(facet.outline).T
        same = old is not None and bool(np.abs(old.level_at(*corners) - facet.level_at(*corners)).max() < 1e-5)
        return old if same and old is not None and old.name == facet.name else facet

    return tuple(map(kept, planned))


def _stacked(rows: Sequence[tuple[NDArray[np.float64], float]], width: int) -> Rows:
    if not rows:
        return np.zeros((0, width)), np.zeros(0)
    return np.array([row for row, _ in rows]), np.array([limit for _, limit in rows])


def _joined(*blocks: Rows) -> Rows:
    return np.vstack([rows for rows, _ in blocks]), np.concatenate([limits for _, limits in blocks])


def _wide(block: Rows, width: int) -> Rows:
    rows, limits = block
    return np.hstack([rows, np.zeros((len(rows), width - rows.shape[1]))]), limits


def _solve(cost: NDArray[np.float64], upper: Rows, equal: Rows, free: int) -> Any:
    """The programme solved; the first `free` unknowns may be negative."""
    bounds = np.array([(-np.inf, np.inf)] * free + [(0.0, np.inf)] * (len(cost) - free))
    return linprog(
        cost, *upper, *equal, bounds=bounds, method="highs-ds", options={"primal_feasibility_tolerance": PRECISION}
    )


def _within(piece: shapely.Polygon, outline: tuple[Point, ...]) -> BaseGeometry:
    """The part of a piece in the area; all of it where none is, or no area is given."""
    inside: BaseGeometry = piece.intersection(shapely.Polygon(outline)) if outline else piece
    return inside if inside.area > 0 else piece


def _spread(polygon: BaseGeometry, count: int) -> NDArray[np.float64]:
    """About `count` places evenly over a polygon; at least one."""
    west, south, east, north = polygon.bounds
    step = math.sqrt(polygon.area / count)
    grid = np.stack(
        np.meshgrid(np.arange(west + step / 2, east, step), np.arange(south + step / 2, north, step)), axis=-1
    ).reshape(-1, 2)
    inside = grid[shapely.contains_xy(polygon, grid)]
    return inside if len(inside) else shapely.get_coordinates(polygon.representative_point())
