"""A made-up crew that does everything right: whatever a stage of any school asks, it measures, makes and looks at."""

import hashlib
import uuid
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta

from groundwork.assess import Assessment, assess, carrying
from groundwork.base import SurfaceKey
from groundwork.entries import kinds as e
from groundwork.job import Acceptance, Job, SignOff
from groundwork.kinds import Entry
from groundwork.layerwork import kinds as w
from groundwork.measures import Measured
from groundwork.observations import Gauged, Observed, Pictured, Seen
from groundwork.tools import Machine, MachineKind

PLATE = Machine("plate", MachineKind.PLATE, 350, 0.5, 0.35)
PHOTO = hashlib.sha256(b"a photo").hexdigest()
TODAY = date(2026, 3, 20)


def name() -> str:
    return str(uuid.uuid4())


def mm(value: float) -> Measured:
    return Measured(f"{value:g} mm", value / 1000)


def looked(assessment: Assessment, stage: str) -> Iterator[Entry]:
    """Everything a stage asks looked at and right, its photos taken, its checks measured in the middle."""
    for asked in assessment.stages.asked(stage):
        if asked.answer is None and asked.ask.photo:
            yield Pictured(name(), stage, PHOTO, "as it lies", asked.ask.key)
        elif asked.answer is None:
            yield Observed(name(), stage, asked.ask.key, Seen.YES)
    for checked in assessment.stages.checked(stage):
        low, high = checked.least, checked.most
        middle = (low + high) / 2 if low is not None and high is not None else low if high is None else high
        for n in range(checked.wanted):
            yield Gauged(name(), stage, checked.check.key, f"place {n}", mm(middle * 1000))


def shot(assessment: Assessment, surface: str) -> Iterator[Entry]:
    """A surface shot at design at every station, from a set-up of its own that is closed."""
    mark = assessment.job.marks[0]
    height = max(mark.level, *(a.finished for a in assessment.surveys.ground.values())) + 1.3
    set_up = e.SetUp(name(), mark.name, mm((height - mark.level) * 1000), at=(3.0, -3.0))
    yield set_up
    for answer in assessment.surveys.of(surface).answers.values():
        yield e.Reading(name(), answer.station.name, set_up.id, mm((height - answer.design) * 1000), surface=surface)
    yield e.Foresight(name(), set_up.id, mark.name, set_up.backsight)


def squared(assessment: Assessment, today: date = TODAY) -> Iterator[Entry]:
    yield e.ServicesLocated(name(), "T-1", today, 14, "the locators")
    pegs = assessment.setting_out.pegs
    for start, end in pegs.still_to_tape:
        metres = round(pegs.planned(start, end), 4)
        yield e.PegDistance(name(), start, end, Measured(f"{metres} m", metres))


def passed(lift: str, machine: str, count: int) -> Iterator[Entry]:
    for n in range(count):
        yield w.Passed(name(), lift, machine, list(w.Direction)[n % 2])


class Crew:
    """Walks a job from first to last; `job` is as it stands."""

    def __init__(self, job: Job) -> None:
        self.job = replace(job, today=TODAY)
        self._known: Assessment | None = None
        self.machine = name()
        self.record(w.MachineBrought(self.machine, PLATE))

    @property
    def now(self) -> Assessment:
        if self._known is None or self._known.job is not self.job:
            self._known = assess(self.job)
        return self._known

    def record(self, *entries: Entry) -> None:
        self.job = replace(self.job, entries=(*self.job.entries, *entries))

    def do(self, stage: str) -> None:
        """Everything a stage is signed on."""
        self.make(stage)
        self.look(stage)

    def look(self, stage: str) -> None:
        """Everything it asks answered, what can be accepted accepted."""
        self.record(*looked(self.now, stage))
        for stop in self.now.stages.of(stage).stops:
            if stop.acceptable:
                accepted = Acceptance(name(), stage, stop.identity, "Marit", "engineer", "as agreed")
                self.job = replace(self.job, acceptances=(*self.job.acceptances, accepted))

    def make(self, stage: str) -> None:
        now = self.now
        match stage:
            case "set-out":
                self.record(*squared(now))
            case "excavation":
                self.record(*shot(now, SurfaceKey.FORMATION))
            case "subgrade":
                self.record(*passed(SurfaceKey.FORMATION, self.machine, 4))
                place, at = self.now.works.lifts[SurfaceKey.FORMATION].places[0]
                self.record(w.SpikeTest(name(), SurfaceKey.FORMATION, place, at, mm(5)))
            case "separation":
                self.record(w.FabricLaid(name(), SurfaceKey.FORMATION, mm(1000), True, mm(200)))
            case "base-lifts":
                for key in list(now.works.lifts)[1:]:
                    self.compact(key)
                if "bound-base" in now.stages.steps:
                    self.record(*shot(now, list(now.works.lifts)[-1]))
            case "bound-base":
                volume = now.works.pour.volume
                self.record(w.Poured(name(), TODAY - timedelta(days=40), volume, 16.0, mm(2), "88"))
            case "base-proof":
                self.record(*shot(now, carrying(now)))
            case "seating" | "handover" if now.surveys.of(SurfaceKey.FINISHED).left:
                self.record(*shot(now, SurfaceKey.FINISHED))

    def compact(self, key: str) -> None:
        """A lift spread, wet enough, gone over both ways, its edges tamped, tested where tests are wanted."""
        self.record(
            w.Spread(
                name(), key, next(iter(self.now.surveys.ground)), mm(self.now.works.lifts[key].plan.loose * 1000)
            )
        )
        if self.now.works.lifts[key].optimum is not None:
            self.record(w.Moisture(name(), key, w.Feel.HOLDS))
        self.record(*passed(key, self.machine, 8))
        self.record(*(w.Tamped(name(), key, side) for side in range(len(self.job.outline))))
        lift = self.now.works.lifts[key]
        if lift.wants_density:
            # A parabola whose vertex is 2200 kg/m³ at 6 %; the gauge reads 2180 dry.
            densities = (2160.0, 2190.0, 2200.0, 2190.0, 2160.0)
            self.record(
                w.LaboratoryTest(
                    name(), lift.plan.material.key, (0.04, 0.05, 0.06, 0.07, 0.08), densities, 2.7, "the lab"
                ),
                *(w.GaugeTest(name(), key, place, at, 2180 * 1.06, 0.06) for place, at in lift.places),
            )

    def sign(self, stage: str) -> None:
        """Each signature a stage wants, by somebody else each."""
        first = ""
        for slot in self.now.stages.of(stage).awaits:
            evidence, slots = self.now.stages.evidence_of(stage), self.now.stages.steps[stage].slots
            signed = SignOff(name(), stage, str(slot), evidence, str(slot), slot, slots, first)
            first = first or signed.id
            self.job = replace(self.job, sign_offs=(*self.job.sign_offs, signed))
