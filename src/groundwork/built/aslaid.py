"""What was laid between two surfaces: how thick at every station, how much in all."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from groundwork.base import Material, Surface, SurfaceKey
from groundwork.brief import ExistingGround
from groundwork.built.asbuilt import AsBuilt, job_mesh
from groundwork.drainage import kept_lines
from groundwork.job import Job
from groundwork.surfaces import Floats, Mesh, NoSurface, lay_mesh
from groundwork.survey import Survey


@dataclass(frozen=True, eq=False)
class Laid:
    """The layer between `lower` and `upper` where both were shot: `thickness` at the stations named, and at the
    `mesh`'s vertices; `specified`; its `volume`, m³, over the part of the area that is known, `area`, m²."""

    lower: Surface
    upper: Surface
    specified: float
    stations: tuple[str, ...]
    thickness: Floats
    mesh: Mesh
    at_vertices: Floats

    @property
    def area(self) -> float:
        return float(self.mesh.areas.sum())

    @property
    def volume(self) -> float:
        return self.mesh.volume(self.at_vertices)

    @property
    def mean(self) -> float:
        return self.volume / self.area

    @property
    def least(self) -> tuple[str, float]:
        """The thinnest station, and how thick it is there."""
        place = int(self.thickness.argmin())
        return self.stations[place], float(self.thickness[place])

    def mass(self, made_of: Material) -> float:
        """Of the layer in that material, kg."""
        return self.volume * made_of.density


def laid_between(job: Job, lower: Survey, upper: Survey) -> Laid | None:
    """The layer between two surfaces as shot; None where fewer than three stations that enclose any of the area
    have both."""
    both = [
        (answer.station, top, bottom)
        for name, answer in upper.answers.items()
        for top, bottom in [(answer.judgement.deviation, lower.answers[name].judgement.deviation)]
        if top is not None and bottom is not None
    ]
    places = tuple(station.at for station, _top, _bottom in both)
    try:
        mesh = job_mesh(job, places)
    except NoSurface:
        return None
    specified = lower.surface.depth - upper.surface.depth
    thickness = np.array([specified + top - bottom for _station, top, bottom in both])
    names = tuple(station.name for station, _top, _bottom in both)
    return Laid(lower.surface, upper.surface, specified, names, thickness, mesh, mesh.at_vertices(thickness))


@dataclass(frozen=True)
class Dug:
    """From the existing ground to the formation as shot, where both are known: `cut` and `fill`, m³, over `area`."""

    cut: float
    fill: float
    area: float


def dug(job: Job, formation: AsBuilt) -> Dug | None:
    """What was dug and filled; exact, since the ground's triangles are kept as edges of the formation's. None where
    the ground is not known over any of it."""
    ground = job.ground
    lines = [*kept_lines([facet.outline for facet in job.facets], job.ways_out, job.outlet), *ground.edges]
    try:
        mesh = lay_mesh([s.at for s in formation.stations], job.area, lines, job.station_spacing)
    except NoSurface:
        return None
    levels = job.design.level_at(*mesh.points.T) - formation.surface.depth + mesh.at_vertices(formation.at_stations)
    depth = _ground_level(ground, mesh.points) - levels
    known = np.isfinite(depth)[mesh.triangles].all(axis=1)
    if not known.any():
        return None
    part = Mesh(mesh.points, mesh.triangles[known], mesh.neighbours[known], mesh.weights, mesh.vertex_of, mesh.region)
    cut, fill = part.volumes(np.nan_to_num(depth))
    return Dug(cut, fill, float(part.areas.sum()))


def _ground_level(ground: ExistingGround, points: Floats) -> Floats:
    """The ground's level, a hair's breadth beyond its edge as well."""
    levels = ground.level_at(points)
    missing = np.flatnonzero(np.isnan(levels))
    middle = np.mean([spot.at for spot in ground.spots], axis=0) if ground.spots else np.zeros(2)
    inward = points[missing] + (middle - points[missing]) * 1e-6
    levels[missing] = ground.level_at(inward) if len(missing) else []
    return levels


def layers_laid(job: Job, surveys: Sequence[Survey]) -> tuple[Laid, ...]:
    """Layer by layer from the formation up, between surfaces that were shot; lifts of one layer together."""
    tops = [s for s in surveys if not s.surface.is_covered and s.surface.kind is not SurfaceKey.SCREED]
    found = (laid_between(job, lower, upper) for lower, upper in pairwise(tops))
    return tuple(laid for laid in found if laid)
