"""A job as plain values: the site, its base, and what was recorded on it, in the order it was recorded."""

import math
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np
import shapely
from shapely import LineString
from shapely.geometry.polygon import orient

from groundwork.base import BaseSpecification
from groundwork.brief import Brief, ConeLog, ExistingGround, FixedHeight, HeightKind, Outlet, Soil, SpotLevel, Traffic
from groundwork.job.decisions import Acceptance, SignOff, Withdrawal
from groundwork.kinds import Entry
from groundwork.measures import Unit
from groundwork.plan import BuildingEdge, Feature, OutlineError, Station, building_edges, lay
from groundwork.shape import EDGED, SAGITTA, Island, Ring, cut_out
from groundwork.surfaces import DesignSurface, Facet, Point

_Answer = TypeVar("_Answer")


class of_site(cached_property[_Answer]):  # noqa: N801 (reads as `property` does)
    """A property of a job's site, worked out once for every state of its record."""

    if not TYPE_CHECKING:

        def __get__(self, job: "Job | None", owner: type | None = None) -> Any:
            return super().__get__(job if job is None else job.site, owner)


BY_A_SIDE = 2 * SAGITTA
"""A piece of the area's edge that lies this near to a side is of that side, metres."""
MOSTLY = 0.5
"""A side that lies against a wall for more than this share of it is the wall's."""


@dataclass(frozen=True)
class Mark:
    """A point of known level to look back on."""

    name: str
    at: Point
    level: float


@dataclass(frozen=True)
class Job:
    """Everything an assessment needs. `outline` are the area's corners, `bulges` what its sides turn through, none
    where all are straight; `islands` what in it is not paved. `sign_offs`, `acceptances` and `withdrawals` oldest
    first. `version` counts the designs the record has held; `today` is the day it is judged on, where that matters
    and is known."""

    name: str
    unit: Unit
    outline: tuple[Point, ...]
    facets: tuple[Facet, ...]
    specification: BaseSpecification
    station_spacing: float
    marks: tuple[Mark, ...] = ()
    features: tuple[Feature, ...] = ()
    brief: Brief = field(default_factory=lambda: Brief(Traffic.FOOT, Soil.CLAY))
    heights: tuple[FixedHeight, ...] = ()
    outlet: Outlet | None = None
    spots: tuple[SpotLevel, ...] = ()
    cone_logs: tuple[ConeLog, ...] = ()
    bulges: tuple[float, ...] = ()
    islands: tuple[Island, ...] = ()
    entries: tuple[Entry, ...] = ()
    sign_offs: tuple[SignOff, ...] = ()
    acceptances: tuple[Acceptance, ...] = ()
    withdrawals: tuple[Withdrawal, ...] = ()
    version: int = 1
    today: date | None = None

    @cached_property
    def site(self) -> "Job":
        """The job without its record: the same one for as long as its design is."""
        return replace(self, entries=(), sign_offs=(), acceptances=(), withdrawals=()) if self._is_recorded else self

    @property
    def _is_recorded(self) -> bool:
        return bool(self.entries or self.sign_offs or self.acceptances or self.withdrawals)

    @of_site
    def ring(self) -> Ring:
        return Ring(self.outline, self.bulges)

    @of_site
    def area(self) -> shapely.Polygon:
        """What is paved: curves by straight pieces within a millimetre, of the curves' own area; without its islands
        where they lie in it as they should."""
        try:
            return cut_out(self.ring.polygon, self.islands) if self.islands else self.ring.polygon
        except OutlineError:
            return self.ring.polygon

    @of_site
    def edge(self) -> tuple[Point, ...]:
        """The area's outer edge as it is reckoned with, straight from place to place."""
        return self.outline if self.ring.is_straight else tuple((x, y) for x, y in self.area.exterior.coords[:-1])

    @of_site
    def cover(self) -> tuple[Point, ...]:
        """Few places around the area, for planes to be laid by."""
        return self.ring.cover

    @of_site
    def design(self) -> DesignSurface:
        return DesignSurface(self.facets)

    @of_site
    def stations(self) -> tuple[Station, ...]:
        """Where levels are taken, in walking order."""
        return lay(self.area, self.station_spacing, self.outline, self.ring.along_arcs(self.station_spacing))

    @of_site
    def finished(self) -> tuple[float, ...]:
        """The design's finished levels at the stations, metres."""
        return tuple(self.design.level_at(*np.array([station.at for station in self.stations]).T).tolist())

    @of_site
    def extent(self) -> float:
        """From end to end of the site, its marks included, metres."""
        places = np.array([*self.outline, *(mark.at for mark in self.marks)])
        return float(np.hypot(*np.ptp(places, axis=0)))

    @of_site
    def ground(self) -> ExistingGround:
        return ExistingGround(self.spots)

    @of_site
    def ways_out(self) -> tuple[Feature, ...]:
        """What stands along the area, and every drain of which only the level was given: where water may leave."""
        named = tuple(
            Feature("drain", height.name, (height.at,)) for height in self.heights if height.kind is HeightKind.DRAIN
        )
        led = [out for island in self.islands if (out := island.way_out)]
        return (*self.features, *named, *led)

    @of_site
    def walls(self) -> frozenset[int]:
        """The outline's sides that lie against a building for most of their length: the base ends there."""
        whole = Facet("", self.edge, self.edge[0], 0.0, 0.0, 0.0)
        along = [LineString([e.start, e.end]) for e in building_edges((whole,), self.features)]
        return frozenset(
            n for n, side in enumerate(self.sides)
            if sum(line.intersection(side.buffer(0.01)).length for line in along) > MOSTLY * side.length
        )  # fmt: skip

    @of_site
    def sides(self) -> tuple[LineString, ...]:
        """The outline's sides, each from its corner to the next."""
        return tuple(LineString(self.ring.along(n)) for n in range(len(self.outline)))

    @of_site
    def footprint(self) -> shapely.Polygon:
        """What is dug and filled with stone: the area and the base's margin outside its free edges, square at
        corners; none of it behind a wall, or in what stands in the area and has no edging."""
        margin = self.specification.details.margin
        wide = self.area.buffer(margin, join_style="mitre")
        if stand := [island.ring.polygon for island in self.islands if island.kind not in EDGED]:
            left = wide.difference(shapely.union_all(stand))
            wide = left if isinstance(left, shapely.Polygon) else wide
        if not margin or not self.walls:
            return wide
        ring, walls = orient(self.area).exterior.coords, []
        for start, end in pairwise(ring):
            middle = (start[0] + end[0]) / 2, (start[1] + end[1]) / 2
            at = shapely.Point(middle)
            if any(n in self.walls and side.dwithin(at, BY_A_SIDE) for n, side in enumerate(self.sides)):
                length = math.dist(start, end)
                on = (end[0] - start[0]) / length * 2 * margin, (end[1] - start[1]) / length * 2 * margin
                first, last = (start[0] - on[0], start[1] - on[1]), (end[0] + on[0], end[1] + on[1])
                out = on[1], -on[0]
                walls.append(shapely.Polygon(
                    [first, last, (last[0] + out[0], last[1] + out[1]), (first[0] + out[0], first[1] + out[1])]
                ))  # fmt: skip
        kept = wide.difference(shapely.union_all(walls)).union(self.area)
        return kept if isinstance(kept, shapely.Polygon) else wide

    @of_site
    def building_edges(self) -> tuple[BuildingEdge, ...]:
        return building_edges(self.facets, self.features, self.edge)
