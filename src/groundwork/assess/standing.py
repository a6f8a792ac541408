"""What an entry finds on a job when it is made: now, or at its place among what a file brings."""

from collections import defaultdict
from collections.abc import Mapping
from functools import cached_property
from typing import Any, TypeVar

import shapely

from groundwork.assess.parts import Parts
from groundwork.base import Family, Role
from groundwork.bedding import RailPlan, rail_plan
from groundwork.bedwork import RailsPlanned
from groundwork.edges import EdgeRun
from groundwork.edgework import EdgePlanned
from groundwork.entries import Foresight
from groundwork.job import Job
from groundwork.kinds import Entry, Wrong
from groundwork.layerwork import BESIDE_THE_AREA
from groundwork.layouts import paved_as
from groundwork.laywork import LayoutChosen
from groundwork.measures import Words
from groundwork.pattern import MOST_UNITS, Paving
from groundwork.plan import patches
from groundwork.stages import Step
from groundwork.surfaces import Point

_E = TypeVar("_E", bound=Entry)
OFF_MODULE = 0.15
"""A module taped differs by no more than this share from the designed one: more is a slip of the tape."""


class OnSite:
    """What the design and its stages have."""

    def __init__(self, job: Job, steps: Mapping[str, Step]) -> None:
        self.job, self.steps = job, steps
        self.sides = len(job.outline)
        self._plans: dict[RailsPlanned, RailPlan] = {}
        self._pavings: dict[LayoutChosen, Paving] = {}

    @cached_property
    def surfaces(self) -> frozenset[str]:
        return frozenset(str(surface.key) for surface in self.job.specification.levelled)

    @cached_property
    def stations(self) -> frozenset[str]:
        return frozenset(station.name for station in self.job.stations)

    @cached_property
    def patches(self) -> frozenset[str]:
        return frozenset(patch.name for patch in patches(self.job.area))

    @cached_property
    def marks(self) -> frozenset[str]:
        return frozenset(mark.name for mark in self.job.marks)

    def is_on_the_area(self, at: Point) -> bool:
        return bool(shapely.dwithin(self.job.area, shapely.Point(at), BESIDE_THE_AREA))

    def side_length(self, side: int) -> float:
        return self.job.ring.side_length(side)

    def _joints(self, edge: EdgePlanned | None) -> int:
        return len(EdgeRun(edge, self.job).joints) - 1 if edge and edge.side < self.sides else -1

    def rails(self, plan: str) -> frozenset[str]:
        found = self._planned(plan)
        return frozenset(found.rails) if found else frozenset()

    def bays(self, plan: str) -> frozenset[str]:
        found = self._planned(plan)
        return frozenset(bay.name for bay in found.bays) if found else frozenset()

    def _paved(self, layout: str) -> Paving | None:
        """A layout over the area, laid once however many entries name it."""
        chosen = self.of_kind(LayoutChosen).get(layout)
        if chosen is None or chosen.side >= self.sides:
            return None
        if chosen not in self._pavings:
            self._pavings[chosen] = paved_as(self.job, chosen)
        return self._pavings[chosen]

    def cannot_be_laid(self, layout: Any) -> Wrong | None:
        paving = self.job.specification.layer(Role.PAVING)
        if self.job.brief.by_others or paving is None or paving.family is not Family.UNIT:
            return Wrong("pattern", Words("this crew lays no units here"))
        if self.job.area.area / layout.unit.area > MOST_UNITS:
            return Wrong("length", Words("that is more than {n} units", counts={"n": MOST_UNITS}))
        try:
            number = paved_as(self.job, layout).number
        except ValueError as error:
            return Wrong("border", Words(str(error)))
        return None if number else Wrong("length", Words("nothing of it lies on the area"))

    def rows(self, layout: str) -> int:
        found = self._paved(layout)
        return max(found.rows, default=0) if found else 0

    def pieces(self, layout: str) -> frozenset[str]:
        found = self._paved(layout)
        return frozenset(found.pieces) if found else frozenset()

    def modules(self, layout: str) -> tuple[float, float]:
        found = self._paved(layout)
        pitch = found.design.pitch if found else 0.0
        return pitch * (1 - OFF_MODULE), pitch * (1 + OFF_MODULE)

    def _planned(self, plan: str) -> RailPlan | None:
        """A plan of rails, laid out once however many entries name it."""
        planned = self.of_kind(RailsPlanned).get(plan)
        if planned is None:
            return None
        if planned not in self._plans:
            self._plans[planned] = rail_plan(self.job, planned)
        return self._plans[planned]

    def of_kind(self, kind: type[_E]) -> Mapping[str, _E]:
        """The entries of a kind before it that count, by identifier."""
        raise NotImplementedError  # what a file has brought so far and what stands now keep them differently

    def asks(self, stage: str) -> dict[str, bool] | None:
        step = self.steps.get(stage)
        return None if step is None else {ask.key: bool(ask.photo) for ask in step.asks}


class Before(OnSite):
    """What a file has brought so far: what it goes on to judge is judged when all of it is there."""

    is_now = False

    def __init__(self, job: Job, steps: Mapping[str, Step]) -> None:
        super().__init__(job, steps)
        self.known: dict[str, Entry] = {}
        self._by_kind: dict[type[Any], dict[str, Any]] = defaultdict(dict)
        self._points = set(self.marks)

    def add(self, entry: Entry) -> None:
        self.known[entry.id] = self._by_kind[type(entry)][entry.id] = entry
        if isinstance(entry, Foresight):
            self._points.add(entry.point)

    @property
    def levelled(self) -> frozenset[str]:
        return self.surfaces

    def entry(self, name: str) -> Entry | None:
        return self.known.get(name)

    def of_kind(self, kind: type[_E]) -> Mapping[str, _E]:
        return self._by_kind[kind]

    def joints(self, edge: str) -> int:
        return self._joints(self.of_kind(EdgePlanned).get(edge))

    def is_point(self, name: str) -> bool:
        return name in self._points

    def is_level_known(self, point: str) -> bool:
        return self.is_point(point)

    def is_knocked(self, _point: str) -> bool:
        return False

    def holds(self, anchor: str) -> bool:
        return anchor in self.known

    def can_be_read(self, _station: str, _surface: str, _anchor: str) -> bool:
        return True


class Now(OnSite):
    """What stands on a job as it is: `parts` of it."""

    is_now = True

    def __init__(self, parts: Parts, steps: Mapping[str, Step]) -> None:
        super().__init__(parts.job, steps)
        self._parts = parts

    @cached_property
    def levelled(self) -> frozenset[str]:
        return frozenset(surface.key for surface in self._parts.surveys.levelled)

    def entry(self, name: str) -> Entry | None:
        return self._parts.logbook.entries.get(name)

    def of_kind(self, kind: type[_E]) -> Mapping[str, _E]:
        return self._parts.logbook.of_kind(kind)

    def joints(self, edge: str) -> int:
        return self._joints(self.of_kind(EdgePlanned).get(edge))

    def _paved(self, layout: str) -> Paving | None:
        there = self._parts.laying
        return there.paving if there.chosen and there.chosen.id == layout else super()._paved(layout)

    def _planned(self, plan: str) -> RailPlan | None:
        bed = self._parts.bedding
        return bed.plan if bed.planned and bed.planned.id == plan else super()._planned(plan)

    def is_point(self, name: str) -> bool:
        return name in self.marks or name in self._parts.levels.runs.turning_points

    def is_level_known(self, point: str) -> bool:
        return self._parts.levels.runs.level_of(point) is not None and not self.is_knocked(point)

    def is_knocked(self, point: str) -> bool:
        return point in self._parts.logbook.knocked

    def holds(self, anchor: str) -> bool:
        return anchor in self._parts.levels.references

    def can_be_read(self, station: str, surface: str, anchor: str) -> bool:
        reference = self._parts.levels.references[anchor]
        return self._parts.targets.at(station, surface, reference) is not None
