"""How thick the bed will be, before it is laid: screeded from rail to rail, as they were set, over the base as it was
shot."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from groundwork.bedding.rails import Bay, Rail, RailPlan, screeded
from groundwork.built import AsBuilt
from groundwork.job import Job
from groundwork.surfaces import Floats, Point

Off = Mapping[tuple[str, str], float]
"""How far each end of a rail lies above its level, metres, by rail and `start` or `end`; where not known, 0."""


def off_level(plan: RailPlan | None, off: Off, points: Floats) -> Floats:
    """How far the screeded bed will lie above its design at points (n, 2): straight along each rail, and from rail to
    rail; beyond the outer rails as between the last two."""
    found = np.zeros(len(points))
    if plan is None or not off:
        return found
    spots = shapely.points(points)
    nearest = np.array([shapely.distance(bay.outline, spots) for bay in plan.bays]).argmin(axis=0)
    for n, bay in enumerate(plan.bays):
        mine = nearest == n
        if mine.any():
            found[mine] = _off_in(bay, off, points[mine])
    return found


def _off_in(bay: Bay, off: Off, points: Floats) -> Floats:
    way = np.array(bay.way)
    along, across = points @ way, points @ np.array((-bay.way[1], bay.way[0]))
    sides = [_along_rails(bay, rails, off, along) for rails in (bay.one, bay.other) if rails]
    if len(sides) < 2:
        return sides[0][1] if sides else np.zeros(len(points))
    (first, low), (last, high) = sides
    wide = np.where(np.abs(last - first) > 1e-9, last - first, 1.0)
    share = np.clip((across - first) / wide, 0.0, 1.0)
    return np.asarray((1 - share) * low + share * high)


def _along_rails(bay: Bay, rails: tuple[Rail, ...], off: Off, along: Floats) -> tuple[Floats, Floats]:
    """How far aside the rails of a bay's side lie, and how far they are off their level, straight from end to end and
    over a gap from one rail to the next."""
    ends = sorted(
        (place[0] * bay.way[0] + place[1] * bay.way[1], place[1] * bay.way[0] - place[0] * bay.way[1],
         off.get((rail.name, end), 0.0))
        for rail in rails for end, place in (("start", rail.start), ("end", rail.end))
    )  # fmt: skip
    at, aside, offs = (np.array(each) for each in zip(*ends, strict=True))
    return np.interp(along, at, aside), np.interp(along, at, offs)


@dataclass(frozen=True)
class Bed:
    """The bed's `thickness` at the vertices of the base's triangulation, metres, as it will be screeded."""

    built: AsBuilt
    thickness: Floats

    @property
    def least(self) -> tuple[float, Point]:
        return self._extreme(int(self.thickness.argmin()))

    @property
    def greatest(self) -> tuple[float, Point]:
        return self._extreme(int(self.thickness.argmax()))

    def _extreme(self, vertex: int) -> tuple[float, Point]:
        x, y = self.built.mesh.points[vertex]
        return float(self.thickness[vertex]), (float(x), float(y))

    @cached_property
    def volume(self) -> float:
        """What is screeded, m³: prisms on the triangles."""
        mesh = self.built.mesh
        return float((mesh.areas * self.thickness[mesh.triangles].mean(axis=1)).sum())

    @cached_property
    def area(self) -> float:
        """m², as far as the base is known."""
        return float(self.built.mesh.areas.sum())

    @property
    def mean(self) -> float:
        return self.volume / self.area

    def at_stations(self) -> dict[str, float]:
        """By station, metres, where the base was shot."""
        mesh = self.built.mesh
        return {
            station.name: float(self.thickness[vertex])
            for station, vertex in zip(self.built.stations, mesh.vertex_of, strict=True)
            if vertex >= 0
        }


def bed_over(job: Job, base: AsBuilt, plan: RailPlan | None, off: Off) -> Bed:
    """The bed over a base as shot, from the rails as set, or as designed where none is planned."""
    points = base.mesh.points
    tops = job.design.level_at(*points.T) - screeded(job) + off_level(plan, off, points)
    return Bed(base, np.asarray(tops - base.levels))
