"""A made-up crew that does everything right: whatever a stage of any school asks, it measures, makes and looks at."""

import hashlib
import uuid
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, datetime, time, timedelta

from groundwork.assess import Assessment, assess, carrying
from groundwork.base import SurfaceKey
from groundwork.edges import EdgeRun
from groundwork.edges.sums import spikes
from groundwork.edgework import kinds as d
from groundwork.entries import kinds as e
from groundwork.job import Acceptance, Job, SignOff
from groundwork.jointwork import kinds as j
from groundwork.kinds import Entry
from groundwork.layerwork import kinds as w
from groundwork.layouts import pattern_options, paved_as, start_side, usual_unit
from groundwork.laywork import kinds as y
from groundwork.measures import Measured
from groundwork.observations import Observed, Pictured, Seen
from groundwork.tools import Machine, MachineKind

PLATE = Machine("plate", MachineKind.PLATE, 350, 0.5, 0.35, force=30.0)
PHOTO = hashlib.sha256(b"a photo").hexdigest()
TODAY = date(2026, 3, 20)


def name() -> str:
    return str(uuid.uuid4())


def mm(value: float) -> Measured:
    return Measured(f"{value:g} mm", value / 1000)


def looked(assessment: Assessment, stage: str) -> Iterator[Entry]:
    """Everything a stage asks looked at and right, its photos taken."""
    for asked in assessment.stages.asked(stage):
        if asked.answer is None and asked.ask.photo:
            yield Pictured(name(), stage, PHOTO, "as it lies", asked.ask.key)
        elif asked.answer is None:
            yield Observed(name(), stage, asked.ask.key, Seen.YES)


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


def edged(assessment: Assessment) -> Iterator[Entry]:
    """What fits best along each side that has none yet planned, its top shot at every joint it is set by; spikes
    driven, soil behind it 20 mm down."""
    job, height = assessment.job, max(a.finished for a in assessment.surveys.ground.values()) + 1.3
    mark = job.marks[0]
    set_up = e.SetUp(name(), mark.name, mm((height - mark.level) * 1000), at=(3.0, -3.0))
    yield set_up
    for side in range(len(job.outline)):
        if side in assessment.edges.runs:
            continue
        what = assessment.edges.options(side)[0].kind
        plan = d.EdgePlanned(name(), side, what, mm(0), mm(900), mm(3), mm(125), mm(150))
        yield plan
        if what is d.EdgeKind.SPIKED:
            yield d.SpikesDriven(name(), plan.id, spikes(job.ring.side_length(side), vehicles=True))
            yield d.Backfilled(name(), side, mm(20))
        elif what is not d.EdgeKind.WALL:
            run = EdgeRun(plan, job)
            for joint in run.looked_at:
                yield d.EdgeShot(name(), plan.id, joint, set_up.id, mm(round((height - run.level(joint)) * 1000, 1)))


def paved(assessment: Assessment) -> Iterator[Entry]:
    """A layout that has no small piece and no cross where wheels go, its rows taped as they should be, squared."""
    job, there = assessment.job, assessment.laying
    if not there.is_there:
        return
    chosen, shared = _layout(job)
    chosen = replace(chosen, id=name())
    yield chosen
    if shared:
        yield y.PiecesShared(name(), chosen.id, shared)
    laid = assess(replace(job, entries=(*job.entries, chosen))).laying
    for row in laid.to_tape:
        for where in ("left", "middle", "right"):
            yield y.CourseTaped(name(), chosen.id, row, where, mm(round(laid.targets[row] * 1000, 1)))
    yield y.RowsSquared(name(), chosen.id, *(Measured(f"{side} m", side) for side in (4.0, 3.0, 5.0)))


_LAYOUTS: dict[str, tuple[y.LayoutChosen, tuple[str, ...]]] = {}


def _layout(job: Job) -> tuple[y.LayoutChosen, tuple[str, ...]]:
    """A layout without small pieces, looked for once for areas and units alike."""
    key = repr((job.area.wkt, job.specification, job.brief.traffic))
    if key not in _LAYOUTS:
        _LAYOUTS[key] = _without_slivers(replace(job, entries=()))
    return _LAYOUTS[key]


def _without_slivers(job: Job) -> tuple[y.LayoutChosen, tuple[str, ...]]:
    """A running bond of units that close both ways where the area is a rectangle, so that all cut ones are halves;
    else the first layout of what fits best whose small pieces can all be shared."""
    unit = usual_unit(job)
    sizes = [mm(round(each * 1000, 1)) for each in (unit.length, unit.width, unit.joint)]
    first = y.LayoutChosen(name(), "running-half", *sizes, start_side(job))
    x0, y0, x1, y1 = paved_as(job, first).seen.bounds
    closing = [
        (across + unit.joint) / round((across + unit.joint) / (side + unit.joint)) - unit.joint
        for across, side in ((x1 - x0, unit.length), (y1 - y0, unit.width))
    ]
    fitted = replace(first, length=mm(round(closing[0] * 1000, 2)), width=mm(round(closing[1] * 1000, 2)))
    options = [replace(first, pattern=each.pattern.key, border=border)
               for each in pattern_options(job, unit) for border in ("none", "across", "along")]  # fmt: skip
    for chosen in (fitted, *options):
        slivers = len(paved_as(job, chosen).slivers)
        shared = assess(replace(job, entries=(chosen,))).laying.can_share if slivers else ()
        if len(shared) == slivers and not paved_as(job, chosen, frozenset(shared)).slivers:
            return chosen, shared
    raise AssertionError("no layout without small pieces")


def seated(assessment: Assessment, machine: str) -> Iterator[Entry]:
    """Gone over as often as wanted where a plate goes, shot, lips taped."""
    there = assessment.seating
    if there.is_there and there.is_plated:
        yield from passed(SurfaceKey.FINISHED, machine, 3)
    if assessment.surveys.of(SurfaceKey.FINISHED).left:
        yield from shot(assessment, SurfaceKey.FINISHED)
    yield from even(assessment)


def even(assessment: Assessment) -> Iterator[Entry]:
    """Lips taped where none were."""
    if assessment.seating.is_there and not assessment.seating.lips:
        for answer in list(assessment.surveys.of(SurfaceKey.FINISHED).answers.values())[:3]:
            yield j.LipTaped(name(), answer.station.at, mm(1))


def filled(assessment: Assessment) -> Iterator[Entry]:
    """Dry enough, every step done, taped in every patch."""
    there = assessment.jointing
    at = datetime.combine(TODAY, time(9, 0))
    yield j.AirRead(name(), at, 20.0, 0.5, 20.0, 0.0)
    for step in there.fill.steps:
        yield j.FillStepDone(name(), step.key, at)
    middle = (there.fill.least + there.fill.most) / 2
    for patch in there.patches:
        for spot in (1, 2, 3):
            yield j.JointDepth(name(), patch, spot, mm(middle * 1000))


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

    def make(self, stage: str) -> None:  # noqa: PLR0912 (one branch a stage)
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
            case "early-edges" | "late-edges":
                self.record(*edged(now))
            case "laying":
                self.record(*paved(now))
            case "seating":
                self.record(*seated(now, self.machine))
            case "joints":
                self.record(*filled(now))
            case "handover":
                if now.surveys.of(SurfaceKey.FINISHED).left:
                    self.record(*shot(now, SurfaceKey.FINISHED))
                self.record(*even(now))

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
