"""A job as plain values: the site, its base, and what was recorded on it, in the order it was recorded."""

from dataclasses import dataclass, field
from datetime import date
from functools import cached_property
from typing import Any

import shapely

from groundwork.base import BaseSpecification
from groundwork.brief import Brief, ConeLog, FixedHeight, HeightKind, Outlet, Soil, SpotLevel, Traffic
from groundwork.entries import Entry
from groundwork.ground import ExistingGround
from groundwork.measure import Unit
from groundwork.stagebook import Slot
from groundwork.surface import DesignSurface, Facet, Point
from groundwork.surroundings import BuildingEdge, Feature, building_edges


@dataclass(frozen=True)
class Mark:
    """A point of known level to look back on."""

    name: str
    at: Point
    level: float


@dataclass(frozen=True)
class SignOff:
    """A stage signed, with the evidence frozen as it stood. `person` tells two signers apart; `slot` is whose
    signature it is of those the stage wanted then, `slots`; it `joins` the first one on the same evidence."""

    id: str
    stage: str
    by: str
    evidence: dict[str, Any]
    person: str = ""
    slot: Slot = Slot.LEAD
    slots: tuple[Slot, ...] = (Slot.LEAD,)
    joins: str = ""


@dataclass(frozen=True)
class Acceptance:
    """A stop accepted in writing: `finding` says which one and how it stood, `role` in which right."""

    id: str
    stage: str
    finding: str
    by: str
    role: str
    reason: str


@dataclass(frozen=True)
class Withdrawal:
    """A sign-off or an acceptance taken back; it stays in the record and no longer counts."""

    id: str
    withdraws: str
    by: str
    reason: str


@dataclass(frozen=True)
class Job:
    """Everything an assessment needs. `sign_offs`, `acceptances` and `withdrawals` oldest first. `version` counts the
    designs the record has held; `today` is the day it is judged on, where that matters and is known."""

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
    entries: tuple[Entry, ...] = ()
    sign_offs: tuple[SignOff, ...] = ()
    acceptances: tuple[Acceptance, ...] = ()
    withdrawals: tuple[Withdrawal, ...] = ()
    version: int = 1
    today: date | None = None

    @cached_property
    def area(self) -> shapely.Polygon:
        return shapely.Polygon(self.outline)

    @cached_property
    def design(self) -> DesignSurface:
        return DesignSurface(self.facets)

    @cached_property
    def ground(self) -> ExistingGround:
        return ExistingGround(self.spots)

    @cached_property
    def ways_out(self) -> tuple[Feature, ...]:
        """What stands along the area, and every drain of which only the level was given: where water may leave."""
        named = tuple(
            Feature("drain", height.name, (height.at,)) for height in self.heights if height.kind is HeightKind.DRAIN
        )
        return (*self.features, *named)

    @property
    def building_edges(self) -> tuple[BuildingEdge, ...]:
        return building_edges(self.facets, self.features, self.outline)
