"""Everything between the dig and the bedding: lifts, the ground under them, pours, deliveries."""

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from functools import cached_property

import numpy as np
import shapely

from groundwork.base import STONE, Course, Role, SurfaceKey, quantities
from groundwork.built import Laid, laid_between
from groundwork.job import Job
from groundwork.kinds import Entry
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
from groundwork.measures import Finding
from groundwork.soundness import Case
from groundwork.surfaces import Point
from groundwork.survey import Survey
from groundwork.tools import Machine, daily_exposure, time_on_machine


class Works:
    """The layers as they were made. `entries` are what counts, oldest first; `survey` a surface as shot."""

    def __init__(self, job: Job, case: Case, entries: Iterable[Entry], survey: Callable[[str], Survey]) -> None:
        self.job, self.case, self._survey = job, case, survey
        self.work: tuple[Work, ...] = tuple(e for e in entries if isinstance(e, Work))

    def nearest_station(self, at: Point) -> tuple[str, float]:
        """The station nearest to a place, and how far it is, metres."""
        answers = self._survey(SurfaceKey.FORMATION).answers.values()
        far, name = min((math.dist(answer.station.at, at), answer.station.name) for answer in answers)
        return name, far

    @cached_property
    def machines(self) -> dict[str, Machine]:
        """The machines brought, oldest first, by the entry that brought them."""
        return {e.id: e.machine for e in self.work if isinstance(e, MachineBrought)}

    @cached_property
    def courses(self) -> tuple[Course, ...]:
        """What is compacted, from the formation up."""
        return tuple(
            course
            for course in self.job.specification.courses
            if course.layer.role in (Role.BASE, Role.SUB_BASE) and course.layer.family in STONE
        )

    @cached_property
    def curves(self) -> dict[str, CompactionCurve]:
        """The newest laboratory curve of each material."""
        tests = (e for e in self.work if isinstance(e, LaboratoryTest))
        return {
            e.material: curve(list(zip(e.moistures, e.densities, strict=True)), e.gravity)
            for e in tests
        }  # fmt: skip

    @cached_property
    def _by_lift(self) -> dict[str, list[Work]]:
        return by_lift(self.work)

    @cached_property
    def _laid(self) -> dict[str, Laid | None]:
        return {
            course.surface.key: laid_between(
                self.job, self._survey(course.under.key), self._survey(course.surface.key)
            )
            for course in self.courses
        }

    @cached_property
    def bulkings(self) -> dict[str, Bulking]:
        """Loose over compacted thickness of each material, with what this job measured."""
        ratios: dict[str, list[float]] = defaultdict(list)
        for course in self.courses:
            spread = {e.station: e.thickness.metres for e in self._by_lift.get(course.surface.key, ())
                      if isinstance(e, Spread)}  # fmt: skip
            ratios[course.layer.material] += bulking_ratios(spread, self._laid[course.surface.key])
        return {c.layer.material: bulking(c.layer.made_of, ratios[c.layer.material]) for c in self.courses}

    @cached_property
    def area(self) -> shapely.Polygon:
        """What stone is laid over: the paved area with its margin."""
        return self.job.footprint

    @cached_property
    def lifts(self) -> dict[str, Lift]:
        """The formation and every course of stone, from below, by surface."""
        found = {str(SurfaceKey.FORMATION): self._lift(SurfaceKey.FORMATION, None)}
        return found | {course.surface.key: self._lift(course.surface.key, course) for course in self.courses}

    def _lift(self, key: str, course: Course | None) -> Lift:
        work = self._by_lift.get(key, [])
        last = next((e.machine for e in reversed(work) if isinstance(e, Passed)), "")
        machine = self.machines.get(last) or next(reversed(list(self.machines.values())), None)
        if course is None:
            return Lift(self.job, key, None, work, self.machines, levels_left=self._survey(key).left,
                        more=self.subgrade.findings if work else ())  # fmt: skip
        plan = CoursePlan(course, machine, self.bulkings[course.layer.material], self.area.area, self.area.length)
        return Lift(self.job, key, plan, work, self.machines, self.curves.get(course.layer.material),
                    self._laid.get(key), self._survey(key).left)  # fmt: skip

    @property
    def in_hand(self) -> Lift:
        """The lowest lift that is not tight or not shot, else the last."""
        order = list(self.lifts.values())
        return next((lift for lift in order if lift.next_step.kind != "tight"), order[-1])

    @cached_property
    def subgrade(self) -> Subgrade:
        key = str(SurfaceKey.FORMATION)
        tested = LiftRecord(self.job, key, None, self._by_lift.get(key, []), self.machines)
        return Subgrade(self.case, tested, self.work, self.job.today)

    @cached_property
    def pour(self) -> PourPlan | None:
        return pour_plan(self.job.specification, self.job.footprint)

    @cached_property
    def pours(self) -> tuple[Poured, ...]:
        return tuple(e for e in self.work if isinstance(e, Poured))

    @cached_property
    def curing(self) -> Curing | None:
        """What may go on the newest pour when."""
        if self.pour is None or not self.pours:
            return None
        return Curing(max(self.pours, key=lambda p: p.on), self.pour.layer.family)

    @cached_property
    def pour_findings(self) -> tuple[Finding, ...]:
        if self.pour is None:
            return ()
        details = self.job.specification.details
        return tuple(pour_findings(self.pour, self.pours, details.reinforcement, self.job.today, self.slab))

    @cached_property
    def slab(self) -> Laid | None:
        """The bound base as poured, where its top and what is under it were shot."""
        slab = next((c for c in self.job.specification.courses if c.layer.role is Role.BOUND_BASE), None)
        if slab is None:
            return None
        return laid_between(self.job, self._survey(slab.under.key), self._survey(slab.surface.key))

    @cached_property
    def tallies(self) -> tuple[Tally, ...]:
        """Deliveries by material, held against what was laid."""
        tickets = [e for e in self.work if isinstance(e, Delivered)]
        planned: dict[str, float] = defaultdict(float)
        for each in quantities(self.job.area, self.job.specification, self.area).layers:
            planned[each.layer.material] += each.mass
        measured: dict[str, tuple[float, float]] = {}
        whole: dict[str, float] = {}
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
        return tallies(tickets, planned, measured, whole)

    @cached_property
    def delivery_findings(self) -> tuple[Finding, ...]:
        return tuple(delivery_findings(self.tallies))

    @cached_property
    def deepest(self) -> float:
        """How deep the dig is: from the existing ground where it is known, else from the finished surface."""
        job, specification = self.job, self.job.specification
        corners = np.array(
            [*job.outline, *(answer.station.at for answer in self._survey("formation").answers.values())]
        )
        depth = np.full(len(corners), specification.excavation_depth)
        ground = job.ground.level_at(corners)
        known = np.isfinite(ground)
        depth[known] = (ground - job.design.level_at(*corners.T) + specification.excavation_depth)[known]
        return float(depth.max())

    @cached_property
    def depth_findings(self) -> tuple[Finding, ...]:
        return tuple(depth_findings(self.deepest, [e for e in self.work if isinstance(e, Competent)]))

    @cached_property
    def vibration(self) -> float:
        """A(8) of one person who did every pass recorded so far, m/s²."""
        area = {patch.patch.name: patch.patch.area for patch in self.lifts[SurfaceKey.FORMATION].coverage}
        passes = [e for e in self.work if isinstance(e, Passed) and e.machine in self.machines]
        return daily_exposure(
            (machine.vibration, time_on_machine(area.get(e.patch, self.job.area.area), 1, machine))
            for e in passes
            for machine in [self.machines[e.machine]]
        )
