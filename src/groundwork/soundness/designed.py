"""Whether water leaves the finished surface as it is designed, before anything is dug."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from groundwork.base import SurfaceKey
from groundwork.drainage import kept_lines, outlets
from groundwork.job import Job
from groundwork.plan import Feature
from groundwork.surfaces import (
    DesignSurface,
    Facet,
    Mesh,
    NoSurface,
    Point,
    StandingWater,
    lay_mesh,
    standing_water,
)

MOST_STANDING = 0.003
"""The deepest water that may stand on a finished surface, metres (common practice, no published source)."""


@dataclass(frozen=True)
class DesignedPuddle:
    """Water that would stand on a surface built exactly as designed: how deep, metres, over how much, m², and where
    it is deepest."""

    depth: float
    area: float
    at: Point


@dataclass(frozen=True)
class DesignedWater:
    """Where water would stand, the deepest first; `landlocked` where no way out is named at all."""

    puddles: tuple[DesignedPuddle, ...]
    landlocked: bool

    @property
    def depth(self) -> float:
        return self.puddles[0].depth if self.puddles else 0.0


def designed_standing(job: Job) -> StandingWater | None:
    """Where water stands on a job's finished surface as designed: facets are planes, so that their corners, and those
    of the area and its ways out, say all of it. None where the facets make no surface."""
    return _standing(job.area, job.facets, job.ways_out)


def designed_water(job: Job) -> DesignedWater | None:
    """What rain does on a job's finished surface as designed. None where the facets make no surface."""
    found = designed_standing(job)
    if found is None:
        return None
    places = found.mesh.points
    return DesignedWater(
        tuple(DesignedPuddle(p.depth, p.area, _place(places[p.lowest])) for p in found.puddles), found.trapped > 0
    )


def _place(point: Sequence[float]) -> Point:
    return float(point[0]), float(point[1])


@lru_cache(maxsize=128)
def _standing(
    area: shapely.Polygon, facets: tuple[Facet, ...], ways_out: tuple[Feature, ...]
) -> StandingWater | None:
    """As long as these are the same, whatever lies under the finished surface."""
    mesh = _mesh(area, tuple(facet.outline for facet in facets), ways_out)
    if mesh is None:
        return None
    levels = DesignSurface(facets).level_at(*mesh.points.T)
    out = outlets(mesh, area, ways_out, None, SurfaceKey.FINISHED)
    return standing_water(mesh, levels, out)


@lru_cache(maxsize=128)
def _mesh(area: shapely.Polygon, facets: tuple[tuple[Point, ...], ...], features: tuple[Feature, ...]) -> Mesh | None:
    places = np.array([*shapely.get_coordinates(area).tolist(), *(corner for facet in facets for corner in facet)])
    try:
        return lay_mesh(places, area, kept_lines(facets, features, None))
    except NoSurface:
        return None
