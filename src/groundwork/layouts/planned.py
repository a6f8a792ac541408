"""A job's area as a layout paves it."""

import math
from functools import lru_cache

import shapely

from groundwork.job import Job
from groundwork.laywork import LayoutChosen
from groundwork.pattern import Border, BorderCorner, BorderCourse, Paving, PavingDesign, pattern
from groundwork.surfaces import Point


def start_side(job: Job) -> int:
    """The side one starts at: the longest straight one, or the longest."""
    straight = [side for side in range(len(job.outline)) if job.ring.arc(side) is None]
    return max(straight or range(len(job.outline)), key=job.ring.side_length)


def side_line(job: Job, side: int) -> tuple[Point, float]:
    """Where a side begins, and its direction, radians, the area to its left."""
    (x0, y0), (x1, y1) = job.ring.ends(side)
    return (x0, y0), math.atan2(y1 - y0, x1 - x0)


def design_of(job: Job, chosen: LayoutChosen) -> PavingDesign:
    """How a layout paves a job. Raises `KeyError` for an unknown pattern."""
    at, along = side_line(job, chosen.side)
    border = Border(BorderCourse(chosen.border), BorderCorner(chosen.corner))
    return PavingDesign(
        pattern(chosen.pattern, chosen.seed), chosen.unit, border, at, along, math.radians(chosen.turned),
        chosen.over, chosen.ahead,
    )  # fmt: skip


def paved_as(job: Job, chosen: LayoutChosen, shared: frozenset[str] = frozenset()) -> Paving:
    """A job's area paved to a layout. Raises `ValueError` where its border leaves no room."""
    return _paved(job.area, design_of(job, chosen), shared)


@lru_cache(maxsize=2)
def _paved(area: shapely.Polygon, design: PavingDesign, shared: frozenset[str]) -> Paving:
    """The one just tried is asked for again: whether it can be laid, and what it comes to."""
    return Paving(area, design, shared)
