"""Everything between the dig and the bedding: lifts, the ground under them, pours, deliveries."""

import math
from collections import defaultdict

import numpy as np
import shapely

from groundwork.base import STONE, Course, Role, SurfaceKey, quantities
from groundwork.built import Laid, laid_between
from groundwork.job import Job
from groundwork.laboratory import CompactionCurve, curve
from groundwork.layerwork import (
    Competent,
    Delivered,
    LaboratoryTest,
    MachineBrought,
    Passed,
    Poured,
    Spread,
    Work,
)
from groundwork.lifts.deliveries import Tally, delivery_findings, tallies
from groundwork.lifts.history import LiftRecord, bulking_ratios, by_lift
from groundwork.lifts.lift import Lift
from groundwork.lifts.plan import Bulking, CoursePlan, bulking
from groundwork.lifts.pours import Curing, PourPlan, pour_findings, pour_plan
from groundwork.lifts.subgrade import Subgrade, depth_findings
from groundwork.logbook import Logbook, warmth
from groundwork.measures import Finding
from groundwork.soundness import Case
from groundwork.surfaces import Point
from groundwork.survey import Surveys
from groundwork.tools import Machine, daily_exposure, time_on_machine
from groundwork.workings import JobPart, Workings, carried


class Works(JobPart):
    """The layers as they were made, over what `surveys` has of each surface."""

    PART = "works"

    def __init__(self, workings: Workings, site: Job, case: Case, logbook: Logbook, surveys: Surveys) -> None:
        super().__init__(workings)
        self.job, self.case, self._logbook, self._surveys = site, case, logbook, surveys

    @property
    @carried
    def work(self) -> tuple[Work, ...]:
        """What was done and counts, oldest first."""
        return tuple(self._logbook.of_kind(Work).values())

    def nearest_station(self, at: Point) -> tuple[str, float]:
        """The station nearest to a place, and how far it is, metres."""
        far, name = min((math.dist(station.at, at), station.name) for station in self.job.stations)
        return name, far

    @property
    @carried
    def machines(self) -> dict[str, Machine]:
        """The machines brought, oldest first, by the entry that brought them."""
        return {e.id: e.machine for e in self.work if isinstance(e, MachineBrought)}

    @property
    @carried
    def courses(self) -> tuple[Course, ...]:
        """What is compacted, from the formation up."""
        return tuple(
            course
            for course in self.job.specification.courses
            if course.layer.role in (Role.BASE, Role.SUB_BASE) and course.layer.family in STONE
        )

    @property
    @carried
    def curves(self) -> dict[str, CompactionCurve]:
        """The newest laboratory curve of each material."""
        tests = (e for e in self.work if isinstance(e, LaboratoryTest))
        return {
            e.material: curve(list(zip(e.moistures, e.densities, strict=True)), e.gravity)
            for e in tests
        }  # fmt: skip

    @property
    @carried
    def _by_lift(self) -> dict[str, list[Work]]:
        return by_lift(self.work)

    @property
    @carried
    def _laid(self) -> dict[str, Laid | None]:
        return {
            course.surface.key: self._laid_between(course.under.key, course.surface.key) for course in self.courses
        }

    @carried
    def _laid_between(self, under: str, top: str) -> Laid | None:
        return laid_between(self.job, self._surveys.of(under), self._surveys.of(top))

    @property
    @carried
    def bulked(self) -> dict[str, list[float]]:
        """Loose over compacted thickness of each material as this job measured it, station by station."""
        ratios: dict[str, list[float]] = defaultdict(list)
        for course in self.courses:
            spread = {e.station: e.thickness.metres for e in self._done(course.surface.key)
                      if isinstance(e, Spread)}  # fmt: skip
            ratios[course.layer.material] += bulking_ratios(spread, self._laid[course.surface.key])
        return dict(ratios)

    @property
    @carried
    def bulkings(self) -> dict[str, Bulking]:
        """Loose over compacted thickness of each material, with what this job measured."""
        known = self.bulked
        return {c.layer.material: bulking(c.layer.made_of, known[c.layer.material]) for c in self.courses}

    @property
    @carried
    def area(self) -> shapely.Polygon:
        """What stone is laid over: the paved area with its margin."""
        return self.job.footprint

    @property
    @carried
    def lifts(self) -> dict[str, Lift]:
        """The formation and every course of stone, from below, by surface."""
        found = {str(SurfaceKey.FORMATION): self._lift(SurfaceKey.FORMATION, None)}
        return found | {course.surface.key: self._lift(course.surface.key, course) for course in self.courses}

    @carried
    def _done(self, key: str) -> tuple[Work, ...]:
        """What was done to a lift."""
        return tuple(self._by_lift.get(key, ()))

    @carried
    def _lift(self, key: str, course: Course | None) -> Lift:
        work = self._done(key)
        last = next((e.machine for e in reversed(work) if isinstance(e, Passed)), "")
        machine = self.machines.get(last) or next(reversed(list(self.machines.values())), None)
        if course is None:
            return Lift(self.job, key, None, work, self.machines, levels_left=self._surveys.left(key),
                        more=self.subgrade.findings if work else ())  # fmt: skip
        plan = CoursePlan(course, machine, self.bulkings[course.layer.material], self.area.area, self.area.length)
        return Lift(self.job, key, plan, work, self.machines, self.curves.get(course.layer.material),
                    self._laid.get(key), self._surveys.left(key))  # fmt: skip

    @property
    def in_hand(self) -> Lift:
        """The lowest lift that is not tight or not shot, else the last."""
        return self.lifts[self.in_hand_key]

    @property
    @carried
    def in_hand_key(self) -> str:
        """Its key."""
        *_others, last = self.lifts
        return next((key for key, lift in self.lifts.items() if lift.next_step.kind != "tight"), last)

    @property
    @carried
    def subgrade(self) -> Subgrade:
        key = str(SurfaceKey.FORMATION)
        tested = LiftRecord(self.job, key, None, self._done(key), self.machines)
        return Subgrade(self.case, tested, self.work, self.job.today)

    @property
    @carried
    def pour(self) -> PourPlan | None:
        return pour_plan(self.job.specification, self.job.footprint)

    @property
    @carried
    def pours(self) -> tuple[Poured, ...]:
        return tuple(e for e in self.work if isinstance(e, Poured))

    @property
    @carried
    def curing(self) -> Curing | None:
        """What may go on the newest pour when."""
        if self.pour is None or not self.pours:
            return None
        newest = max(self.pours, key=lambda p: p.on)
        warm = warmth(self._logbook, newest.celsius)
        return Curing(newest, self.pour.layer.family, warm, self.case.school.pour_waits)

    @property
    @carried
    def pour_findings(self) -> tuple[Finding, ...]:
        if self.pour is None:
            return ()
        details = self.job.specification.details
        return tuple(pour_findings(self.pour, self.pours, details.reinforcement, self.job.today, self.slab,
                                 self.curing))  # fmt: skip

    @property
    @carried
    def slab(self) -> Laid | None:
        """The bound base as poured, where its top and what is under it were shot."""
        slab = next((c for c in self.job.specification.courses if c.layer.role is Role.BOUND_BASE), None)
        if slab is None:
            return None
        return self._laid_between(slab.under.key, slab.surface.key)

    @property
    @carried
    def tallies(self) -> tuple[Tally, ...]:
        """Deliveries by material, held against what was laid."""
        tickets = [e for e in self.work if isinstance(e, Delivered)]
        planned: dict[str, float] = defaultdict(float)
        for each in quantities(self.job.area, self.job.specification, self.area).layers:
            planned[each.layer.material] += each.mass
        measured: dict[str, tuple[float, float]] = {}
        whole: dict[str, float] = {}
        spread: dict[str, float] = {}
        by_material: dict[str, list[Course]] = defaultdict(list)
        for course in self.courses:
            by_material[course.layer.material].append(course)
        for name, courses in by_material.items():
            laid = [self._laid[course.surface.key] for course in courses]
            known = [each for each in laid if each is not None]
            if len(known) == len(courses):
                area = known[0].area
                measured[name] = (sum(each.mean for each in known) * area, area)
                whole[name] = self.area.area
                unsure = [float(each.thickness.var(ddof=1)) / len(each.thickness) for each in known]
                spread[name] = math.sqrt(sum(unsure))
        return tallies(tickets, planned, measured, whole, spread)

    @property
    @carried
    def delivery_findings(self) -> tuple[Finding, ...]:
        return tuple(delivery_findings(self.tallies))

    @property
    @carried
    def deepest(self) -> float:
        """How deep the dig is: from the existing ground where it is known, else from the finished surface."""
        job, specification = self.job, self.job.specification
        corners = np.array([*job.outline, *(station.at for station in job.stations)])
        depth = np.full(len(corners), specification.excavation_depth)
        ground = job.ground.level_at(corners)
        known = np.isfinite(ground)
        depth[known] = (ground - job.design.level_at(*corners.T) + specification.excavation_depth)[known]
        return float(depth.max())

    @property
    @carried
    def depth_findings(self) -> tuple[Finding, ...]:
        return tuple(depth_findings(self.deepest, [e for e in self.work if isinstance(e, Competent)]))

    @property
    @carried
    def vibration(self) -> float:
        """A(8) of one person who did every pass recorded so far, m/s²."""
        area = {patch.patch.name: patch.patch.area for patch in self.lifts[SurfaceKey.FORMATION].coverage}
        passes = [e for e in self.work if isinstance(e, Passed) and e.machine in self.machines]
        return daily_exposure(
            (machine.vibration, time_on_machine(area.get(e.patch, self.job.area.area), 1, machine))
            for e in passes
            for machine in [self.machines[e.machine]]
        )
