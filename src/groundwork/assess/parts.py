"""What a job is made of, part by part, but for its stages."""

from collections.abc import Callable, Sequence
from operator import is_
from typing import Any, TypeVar

from groundwork.base import Quantities, quantities
from groundwork.bedding import Bedding
from groundwork.built import Surfaces
from groundwork.edges import Edges
from groundwork.job import Acceptance, Job, SignOff, Withdrawal
from groundwork.jointing import Jointing
from groundwork.kinds import Entry
from groundwork.labour import Labour
from groundwork.laying import Laying
from groundwork.levels import Known, Levels
from groundwork.lifts import Works
from groundwork.logbook import Logbook
from groundwork.measures import Finding
from groundwork.orders import Orders
from groundwork.seating import Seating
from groundwork.setout import SettingOut
from groundwork.soundness import Case, soundness
from groundwork.survey import Readings, Surveys, Targets
from groundwork.workings import BESIDE, JobPart, Workings, carried, noted

Made = TypeVar("Made")
Decisions = tuple[tuple[SignOff, ...], tuple[Acceptance, ...], tuple[Withdrawal, ...]]


class Parts(JobPart):
    """The parts of a job, each worked out when asked for and once. What no record changes is asked of `site`, so that
    it is carried over from step to step; `before` is the same job on the same site a step ago, `added` what was
    recorded since."""

    PART = ""

    def __init__(self, job: Job, before: "Parts | None" = None, added: Sequence[Entry] = ()) -> None:
        super().__init__(Workings(self, before.workings if before else None))
        self.job, self.site, workings = job, job.site, self.workings
        site = self.site
        now = job.sign_offs, job.acceptances, job.withdrawals
        self._decisions: Decisions = before._decisions if before and all(map(is_, now, before._decisions)) else now
        self.logbook: Logbook = before.logbook.after(workings, added) if before else Logbook(workings, job.entries)
        """What counts of what was recorded."""
        marks = {mark.name: Known(mark.at, mark.level) for mark in site.marks}
        self.levels = Levels(workings, self.logbook, marks, site.ground, site.extent)
        """What can be read against, and how high it is."""
        booked = before.readings if before else None
        self.readings: Readings = Readings(workings, self.logbook, self.levels, site.design, booked)
        """What was read at each station."""
        self.surveys = Surveys(workings, site, self.logbook, self.levels, self.readings)
        """Every surface as shot, station by station."""
        foretold = before.targets if before else None
        self.targets: Targets = Targets(self.levels, self.readings, self.surveys, foretold)
        """What should be read next, and what it will come to."""
        self.surfaces = Surfaces(workings, site, self.surveys)
        """Every surface taken whole: as built, as designed, its least fix."""
        self.setting_out = SettingOut(workings, site, self.logbook)
        """Pegs, services, margins."""
        self.works = Works(workings, site, self.case, self.logbook, self.surveys)
        """Lifts, the ground under them, pours and deliveries."""
        self.bedding = Bedding(workings, site, self.case, self.logbook, self.levels, self.surfaces)
        """Rails, and the bed over the base."""
        self.edges = Edges(workings, site, self.case, self.logbook, self.levels)
        """What stands along the sides, joint by joint."""
        self.laying = Laying(workings, site, self.case, self.logbook)
        """The layout, its rows as taped, cuts and packs."""
        self.seating = Seating(
            workings, site, self.case, self.logbook, self.levels, self.surveys, self.laying, self.bedding
        )  # fmt: skip
        """Passes over the paving, what came down, units to mend."""
        self.jointing = Jointing(workings, site, self.case, self.logbook, self.laying, self.bedding)
        """What joints take, how and how far they are filled."""
        self.orders = Orders(
            workings, site, self.case.school, self.logbook, self.surveys, self.surfaces, self.works, self.bedding,
            self.edges, self.laying, self.jointing,
        )  # fmt: skip
        """What the job takes, stage by stage; what was ordered of it."""
        self.labour = Labour(
            workings, site, self.case, self.logbook, self.orders, self.works, self.bedding, self.edges, self.laying,
            self.seating, self.jointing,
        )  # fmt: skip
        """What is done at each stage, how long it takes, with what."""

    def carry(self, key: tuple[str, tuple[Any, ...]], make: Callable[[], Made]) -> Made:
        """What somebody else makes of these parts, as a drawing: made once, and carried over like what they hold
        themselves."""
        made: Made = self.workings.value((BESIDE, *key), make)
        return made

    @noted
    def decisions(self) -> Decisions:
        """What people decided, oldest first: what they signed, what they accepted, what they took back."""
        return self._decisions

    @property
    @carried
    def case(self) -> Case:
        """The specification with what its rules go by: school, ground, outlet."""
        return Case(self.site)

    @property
    @carried
    def soundness(self) -> tuple[Finding, ...]:
        """The S rules on the base specification."""
        return soundness(self.site)

    @property
    @carried
    def quantities(self) -> Quantities:
        return quantities(self.site.area, self.site.specification, self.site.footprint)
