"""How wide it is across from an edge, and whether whole units fill that: looked at before the edge is fixed."""

import math
from dataclasses import dataclass

import shapely

from groundwork.edges.sums import WidthFilled, closes_at, closing, least_radius
from groundwork.job import Job
from groundwork.surfaces import Point

INSIDE = 0.05
"""The outer widths are taken so far in from the ends of a side, metres."""
LIKE = 0.005
"""Widths that differ by less are one, metres."""


@dataclass(frozen=True)
class Courses:
    """Courses across: a unit's length `across` the width and `along` the edge, its usual joint and between what that
    may be, metres."""

    across: float
    along: float
    joint: float
    least: float
    most: float


@dataclass(frozen=True)
class Across:
    """A width so far along a side, metres: how whole units fill it, and by how much the edge would move for whole
    units at the usual joint, outwards positive."""

    at: float
    width: float
    filled: WidthFilled
    moves: float

    @property
    def moves_by(self) -> float:
        return abs(self.moves)


def widths(job: Job, side: int) -> tuple[tuple[float, float], ...]:
    """How far along a straight side, and how far straight across to the other edge there or to an opening, metres: at
    both its ends and in the middle; in the middle alone where it is the same everywhere; none across a curve."""
    ring = job.ring
    if ring.arc(side) is not None:
        return ()
    one, other = ring.ends(side)
    long = math.dist(one, other)
    inward = (one[1] - other[1]) / long, (other[0] - one[0]) / long
    inset = min(INSIDE, long / 4)
    found = []
    for at in (inset, long / 2, long - inset):
        start = ring.at(side, at / long)
        if (width := _across(job.area, start, inward)) is not None:
            found.append((at, width))
    wide = [width for _at, width in found]
    return (found[1],) if len(found) == 3 and max(wide) - min(wide) < LIKE else tuple(found)


def _across(area: shapely.Polygon, start: Point, inward: Point) -> float | None:
    x0, y0, x1, y1 = area.bounds
    far = math.dist((x0, y0), (x1, y1)) + 1
    ray = shapely.LineString([start, (start[0] + far * inward[0], start[1] + far * inward[1])])
    here = shapely.Point(start)
    parts = [part for part in shapely.get_parts(ray.intersection(area)) if part.length > LIKE]
    near = [max(math.dist(start, end) for end in part.coords) for part in parts if part.distance(here) < LIKE]
    return min(near, default=None)


def fills(job: Job, side: int, courses: Courses) -> tuple[Across, ...]:
    """Each width across from a side with what fills it."""
    unit, joint = courses.across, courses.joint
    return tuple(
        Across(at, width, closing(width, unit, joint, courses.least, courses.most), closes_at(width, unit, joint))
        for at, width in widths(job, side)
    )


def bends(job: Job, side: int, courses: Courses) -> tuple[float, float] | None:
    """On a curved side: its radius, and the tightest one that such courses follow, metres; None on a straight one."""
    arc = job.ring.arc(side)
    if arc is None or courses.most <= courses.least:
        return None
    return arc.radius, least_radius(courses.along, courses.across, courses.least, courses.most)
