"""What an entry finds on a job when it is made: now, or at its place among what a file brings."""

from collections import defaultdict
from collections.abc import Mapping
from functools import cached_property
from typing import Any, TypeVar

import shapely

from groundwork.assess.parts import Parts
from groundwork.entries import Foresight
from groundwork.job import Job
from groundwork.kinds import Entry
from groundwork.layerwork import BESIDE_THE_AREA
from groundwork.plan import patches
from groundwork.stages import Step
from groundwork.surfaces import Point

_E = TypeVar("_E", bound=Entry)


class OnSite:
    """What the design and its stages have."""

    def __init__(self, job: Job, steps: Mapping[str, Step]) -> None:
        self.job, self.steps = job, steps
        self.sides = len(job.outline)

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

    def asks(self, stage: str) -> dict[str, bool] | None:
        step = self.steps.get(stage)
        return None if step is None else {ask.key: bool(ask.photo) for ask in step.asks}

    def checks(self, stage: str) -> set[str]:
        return {check.key for check in self.steps[stage].checks}


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
