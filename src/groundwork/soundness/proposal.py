"""The first falls of a new job: planes that start at the ways out and rise from them by the least fall, steeper only
where the fixed heights force it."""

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial

import shapely
from shapely import ops
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from groundwork.brief import FixedHeight, HeightKind
from groundwork.drainage import DRAIN_REACH, EDGE_REACH, shape_of
from groundwork.falls import FallRange, PlannedFalls, plan_falls
from groundwork.job import Job
from groundwork.plan import LayoutError, Piece, evenly_to_gully, meeting_at, one_plane, to_gully
from groundwork.schools import school
from groundwork.soundness.designed import MOST_STANDING, designed_water
from groundwork.surfaces import Facet

ROUND = 24
MOST_PARTS = 8
BESIDE = 0.05
"""Nearer to the area's edge than this a drain lies on it, metres."""
STEEPER = (1 / 20, 1 / 12)
FLATTEST = 1 / 80
SAME_FALL = 1e-4


def first_facets(job: Job) -> tuple[Facet, ...]:
    """Facets for a job that has none: of every way to lay it out that is tried, the gentlest on which no water
    stands, the simplest first. Where no planes meet the heights, those that fall by the least from the first of
    them: the rules then say which height is missed."""
    least = school(job.specification.school).least_fall
    heights = _heights(job)
    for held in (heights, heights[:1]):
        for falls in (*(FallRange(least, most) for most in STEEPER), FallRange(min(FLATTEST, least), STEEPER[-1])):
            if best := _best(job, held, falls):
                return best
    at, level = heights[0].at, heights[0].level
    return (Facet("all", job.cover, at, level, _bearings(job)[0], least),)


def _heights(job: Job) -> tuple[FixedHeight, ...]:
    """What holds the surface: the fixed heights, or else the first mark."""
    if job.heights:
        return job.heights
    at, level = (job.marks[0].at, job.marks[0].level) if job.marks else (job.outline[0], 0.0)
    return (FixedHeight(HeightKind.BOUNDARY, "", at, level),)


def _best(job: Job, heights: Sequence[FixedHeight], falls: FallRange) -> tuple[Facet, ...] | None:
    found: list[tuple[bool, float, float, int, tuple[Facet, ...]]] = []
    access = bool(job.brief.level_access)
    for number, pieces in enumerate(_layouts(job)):
        plan = plan_falls(
            pieces, heights, falls, job.features, job.ground, job.specification.excavation_depth, access,
            outline=job.edge, gentle=True,
        )  # fmt: skip
        if not isinstance(plan, PlannedFalls):
            continue
        water = designed_water(replace(job, facets=plan.facets))
        steepest = max(facet.steepest[0] for facet in plan.facets)
        stands = water is not None and not water.landlocked and water.depth > MOST_STANDING
        if not stands and steepest <= falls.least + SAME_FALL:
            return plan.facets
        depth = water.depth if water and stands else 0.0
        found.append((stands, round(depth, 3), round(steepest / SAME_FALL), number, plan.facets))
    return min(found)[-1] if found else None


def _layouts(job: Job) -> Iterator[tuple[Piece, ...]]:
    """Ways to lay the area out, the simplest first: one plane, a fan to a drain in it, two planes to a channel across
    it, or its parts led one into the next to the way out."""
    for bearing in _bearings(job):
        yield (Piece("all", job.cover, bearing),)
    for drain in _drains(job):
        ways: list[Callable[[], tuple[Piece, ...]]]
        if isinstance(drain, shapely.LineString):
            (x1, y1), (x2, y2) = drain.coords[0], drain.coords[-1]
            ways = [partial(meeting_at, job.cover, [(x1, y1), (x2, y2)], True)]
        else:
            ways = [partial(lay, job.cover, (drain.x, drain.y)) for lay in (to_gully, evenly_to_gully)]
        for lay_out in ways:
            with suppress(LayoutError):
                yield lay_out()
    if led := _led(job):
        yield led


def _drains(job: Job) -> Iterator[shapely.LineString | shapely.Point]:
    """The drains in the area, clear of its edge: lines, and the middles of gullies and grates."""
    inside = shapely.Polygon(job.edge).buffer(-BESIDE)
    for feature in job.ways_out:
        if feature.kind == "drain" and shapely.intersects(shape := shape_of(feature), inside):
            yield shape if isinstance(shape, shapely.LineString) else shape.centroid


def _outs(job: Job) -> list[BaseGeometry]:
    """The parts of the area that water leaves by."""
    found = []
    for feature in job.ways_out:
        reach = {"drain": DRAIN_REACH, "free edge": EDGE_REACH}.get(feature.kind)
        if reach is not None:
            shape = shape_of(feature)
            near = job.area.boundary if feature.kind == "free edge" else job.area
            part = shape.intersection(near.buffer(reach))
            if not part.is_empty:
                found.append(part)
    return found


def _bearings(job: Job) -> list[float]:
    """Which way one plane may fall, the likeliest first: away from the building, straight to a way out, away from a
    threshold, then all round."""
    middle = job.area.centroid
    found = [piece.bearing for piece in one_plane(job.cover, job.features)]
    for out in _outs(job):
        found += [_square_to(out, middle), _bearing(middle, ops.nearest_points(out, middle)[0])]
    found += [
        _bearing(shapely.Point(height.at), middle)
        for height in _heights(job)
        if height.kind in (HeightKind.THRESHOLD, HeightKind.DAMP_PROOF_COURSE, HeightKind.BOUNDARY)
    ]
    found += [n * 360 / ROUND for n in range(ROUND)]
    return [bearing for bearing in dict.fromkeys(found) if bearing is not None]


def _square_to(line: BaseGeometry, start: shapely.Point) -> float | None:
    """The bearing from `start` square onto a straight line; None to anything else."""
    ends = shapely.get_coordinates(line)
    if line.geom_type != "LineString" or math.dist(ends[0], ends[-1]) < BESIDE:
        return None
    (x1, y1), (x2, y2) = ends[0], ends[-1]
    square = y2 - y1, x1 - x2
    side = (x1 - start.x) * square[0] + (y1 - start.y) * square[1]
    way = square if side > 0 else (-square[0], -square[1])
    return round(math.degrees(math.atan2(way[0], way[1])) % 360, 6)


def _bearing(start: shapely.Point, end: shapely.Point) -> float | None:
    if start.distance(end) < BESIDE:
        return None
    return round(math.degrees(math.atan2(end.x - start.x, end.y - start.y)) % 360, 6)


def _led(job: Job) -> tuple[Piece, ...] | None:
    """The area cut at its inner corners, each part falling to the one that is nearer to a way out; None where it has
    no inner corners, too many, or a part from which no way leads out."""
    outs, parts = _outs(job), _parts(shapely.Polygon(job.cover))
    if not outs or not 1 < len(parts) <= MOST_PARTS:
        return None
    bearings: dict[int, float] = {}
    for number, part in enumerate(parts):
        for out in outs:
            if part.distance(out) <= EDGE_REACH and number not in bearings:
                bearing = _square_to(out, part.centroid) or _bearing(part.centroid, out.centroid)
                bearings |= {number: bearing} if bearing is not None else {}
    waiting = list(bearings)
    while waiting:
        here = waiting.pop(0)
        for other in range(len(parts)):
            shared = parts[here].intersection(parts[other])
            if other not in bearings and shared.length > BESIDE:
                straight = _square_to(shared, parts[other].centroid)
                bearings[other] = straight if straight is not None else 0.0
                waiting.append(other)
    if len(bearings) < len(parts):
        return None
    rings = [tuple((float(x), float(y)) for x, y in part.exterior.coords[:-1]) for part in parts]
    return tuple(Piece(f"facet {n + 1}", ring, bearings[n]) for n, ring in enumerate(rings))


def _parts(area: shapely.Polygon) -> list[shapely.Polygon]:
    """A polygon cut into convex parts, each cut from an inner corner along one of its sides, the shortest first."""
    waiting, done = [orient(area)], list[shapely.Polygon]()
    while waiting and len(waiting) + len(done) <= MOST_PARTS:
        part = waiting.pop()
        cut = min(_cuts(part), key=lambda line: float(line.length), default=None)
        split = ops.split(part, cut).geoms if cut is not None else ()
        pieces = [p for p in split if isinstance(p, shapely.Polygon) and p.area > BESIDE**2]
        if len(pieces) < 2:
            done.append(part)
        else:
            waiting += [orient(piece) for piece in pieces]
    return [*waiting, *done]


def _cuts(part: shapely.Polygon) -> Iterator[shapely.LineString]:
    """Lines from a part's inner corners onward along either side, to where they meet its edge again."""
    ring = list(part.exterior.coords)[:-1]
    reach = part.length
    for before, corner, after in zip((ring[-1], *ring), ring, (*ring[1:], ring[0]), strict=False):
        turn = (corner[0] - before[0]) * (after[1] - corner[1]) - (corner[1] - before[1]) * (after[0] - corner[0])
        if turn > -1e-6:
            continue
        for end in (before, after):
            length = math.dist(end, corner)
            way = (corner[0] - end[0]) / length, (corner[1] - end[1]) / length
            far = corner[0] + way[0] * reach, corner[1] + way[1] * reach
            inside = shapely.LineString([corner, far]).intersection(part)
            first = next((p for p in shapely.get_parts(inside) if p.distance(shapely.Point(corner)) < 1e-6), None)
            if first is not None and first.length > BESIDE:
                ends = shapely.get_coordinates(first)
                long = ops.substring(shapely.LineString(ends), 0, first.length)
                (x1, y1), (x2, y2) = long.coords[0], long.coords[-1]
                yield shapely.LineString(
                    [(x1 - way[0] * 1e-6, y1 - way[1] * 1e-6), (x2 + way[0] * 1e-6, y2 + way[1] * 1e-6)]
                )
