"""A job as plain values: the site, its base, and what was recorded on it, in the order it was recorded."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import shapely

from groundwork.base import BaseSpecification, SurfaceKey
from groundwork.measure import Measured, Unit
from groundwork.surface import DesignSurface, Facet, Point
from groundwork.verdict import Instrument


@dataclass(frozen=True)
class Mark:
    """A point of known level to look back on."""

    name: str
    at: Point
    level: float


@dataclass(frozen=True)
class Feature:
    """Something beside the area: `kind` is building, drain, kerb, free edge or water; a line or a ring."""

    kind: str
    name: str
    points: tuple[Point, ...]


@dataclass(frozen=True)
class SetUp:
    """The instrument set up by a backsight on a mark; `at` is where it stands, if known."""

    id: str
    mark: str
    backsight: Measured
    instrument: Instrument = Instrument.LASER
    at: Point | None = None


@dataclass(frozen=True)
class Reading:
    """A rod reading at a station. `same_ground`: the ground is as it was at the reading before."""

    id: str
    station: str
    set_up: str
    reading: Measured
    same_ground: bool = False
    surface: SurfaceKey = SurfaceKey.FORMATION


@dataclass(frozen=True)
class Fill:
    """Material put back at a station and compacted."""

    id: str
    station: str
    material: str
    lifts: int = 1

    @property
    def is_stone(self) -> bool:
        return self.material == "stone"


@dataclass(frozen=True)
class Strike:
    """Strikes out an earlier entry, which stays in the record but no longer counts."""

    id: str
    strikes: str
    reason: str = ""


Entry = SetUp | Reading | Fill | Strike


@dataclass(frozen=True)
class SignOff:
    """A stage signed, with the evidence frozen as it stood."""

    id: str
    stage: str
    by: str
    evidence: dict[str, Any]


@dataclass(frozen=True)
class Job:
    """Everything an assessment needs. `sign_offs` oldest first."""

    name: str
    unit: Unit
    outline: tuple[Point, ...]
    facets: tuple[Facet, ...]
    specification: BaseSpecification
    station_spacing: float
    marks: tuple[Mark, ...] = ()
    features: tuple[Feature, ...] = ()
    entries: tuple[Entry, ...] = ()
    sign_offs: tuple[SignOff, ...] = field(default=())

    @cached_property
    def area(self) -> shapely.Polygon:
        return shapely.Polygon(self.outline)

    @cached_property
    def design(self) -> DesignSurface:
        return DesignSurface(self.facets)
