"""What a job is made of, part by part, but for its stages."""

from functools import cached_property

from groundwork.base import Quantities, quantities
from groundwork.built import Surfaces
from groundwork.job import Job
from groundwork.levels import Known, Levels
from groundwork.lifts import Works
from groundwork.logbook import Logbook
from groundwork.measures import Finding
from groundwork.setout import SettingOut
from groundwork.soundness import Case, soundness
from groundwork.survey import Readings, Surveys, Targets


class Parts:
    """The parts of a job, each worked out when asked for and once."""

    def __init__(self, job: Job) -> None:
        self.job = job

    @cached_property
    def logbook(self) -> Logbook:
        """What counts of what was recorded."""
        return Logbook(self.job.entries)

    @cached_property
    def levels(self) -> Levels:
        """What can be read against, and how high it is."""
        marks = {mark.name: Known(mark.at, mark.level) for mark in self.job.marks}
        return Levels(self.logbook, marks, self.job.ground, self.job.extent)

    @cached_property
    def readings(self) -> Readings:
        """What was read at each station."""
        return Readings(self.logbook, self.levels, self.job.design)

    @cached_property
    def surveys(self) -> Surveys:
        """Every surface as shot, station by station."""
        return Surveys(self.job, self.logbook, self.levels, self.readings)

    @cached_property
    def targets(self) -> Targets:
        """What should be read next, and what it will come to."""
        return Targets(self.levels, self.readings, self.surveys)

    @cached_property
    def surfaces(self) -> Surfaces:
        """Every surface taken whole: as built, as designed, its least fix."""
        return Surfaces(self.job, self.surveys)

    @cached_property
    def setting_out(self) -> SettingOut:
        """Pegs, services, margins."""
        return SettingOut(self.job, self.logbook)

    @cached_property
    def case(self) -> Case:
        """The specification with what its rules go by: school, ground, outlet."""
        return Case(self.job)

    @cached_property
    def soundness(self) -> tuple[Finding, ...]:
        """The S rules on the base specification."""
        return soundness(self.job)

    @cached_property
    def works(self) -> Works:
        """Lifts, the ground under them, pours and deliveries."""
        return Works(self.job, self.case, self.logbook.entries.values(), self.surveys.of)

    @cached_property
    def quantities(self) -> Quantities:
        return quantities(self.job.area, self.job.specification, self.job.footprint)
