"""What is done at each stage, how much of it, and how long that takes at a crew's pace."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date

from groundwork.base import SWELL, Family, Role, material
from groundwork.bedding import Bedding
from groundwork.edges import Edges
from groundwork.edgework import EdgeKind
from groundwork.job import Job
from groundwork.jointing import Jointing
from groundwork.labour.kit import KitItem, kit
from groundwork.labour.rates import PLATED, Rate, plate_rate, rates
from groundwork.laying import Laying
from groundwork.layouts import usual_unit
from groundwork.lifts import Works
from groundwork.logbook import Logbook
from groundwork.measures import Words
from groundwork.orders import Need, Orders
from groundwork.orderwork import Hired, HireEnded, HoursWorked, Measure
from groundwork.seating import Seating
from groundwork.soundness import Case
from groundwork.workings import JobPart, Workings, carried

BY_HAND = 4.0
"""m³: less is dug by hand (common practice: a day's work of two)."""
PASSES, OVER_THE_GROUND = 6, 4
"""Over a lift where no machine is known, and over the ground under it (common practice)."""
FLAGS = frozenset({"porcelain", "natural-stone"})
JOINTED = {"dry sand": "joint-dry", "kiln-dried sand": "joint-dry", "mortar": "joint-mortar"}
"""How each filling goes in; others as bonded sand does."""
EDGED = {EdgeKind.SPIKED: "edging", EdgeKind.FORM: "forms"}


@dataclass(frozen=True)
class Amount:
    """So much of something that is done at a stage."""

    stage: str
    rate: Rate
    amount: float
    says: Words


@dataclass(frozen=True)
class Task:
    """An amount with the person-hours it takes at a crew's pace."""

    done: Amount
    pace: float

    @property
    def stage(self) -> str:
        return self.done.stage

    @property
    def hours(self) -> float:
        return self.done.amount / self.done.rate.amount * self.pace


@dataclass(frozen=True)
class OnHire:
    """Something on hire since a day; `last` where it went back."""

    entry: str
    what: str
    first: date
    last: date | None

    def days(self, today: date) -> int:
        """That it is paid for so far."""
        return max(((self.last or today) - self.first).days + 1, 0)


class Labour(JobPart):
    """What is done, stage by stage."""

    PART = "labour"

    def __init__(
        self, workings: Workings, site: Job, case: Case, logbook: Logbook, orders: Orders, works: Works,
        bedding: Bedding, edges: Edges, laying: Laying, seating: Seating, jointing: Jointing,
    ) -> None:  # fmt: skip
        super().__init__(workings)
        self._site, self._case, self._logbook, self._orders, self._works = site, case, logbook, orders, works
        self._bedding, self._edges, self._laying = bedding, edges, laying
        self._seating, self._jointing = seating, jointing

    @property
    @carried
    def amounts(self) -> tuple[Amount, ...]:
        """Everything that takes hours, in the order of the stages that want it."""
        stages = [key for row in self._case.school.order for key in row]
        found = [each for each in self._all() if each.amount > 0]
        return tuple(sorted(found, key=lambda a: stages.index(a.stage) if a.stage in stages else -1))

    def tasks(self, paces: Mapping[str, float]) -> tuple[Task, ...]:
        """Each with its hours; `paces` of stages, 1 where none is known."""
        return tuple(Task(each, paces.get(each.stage, 1.0)) for each in self.amounts)

    @property
    @carried
    def entries(self) -> tuple[HoursWorked, ...]:
        """Hours as they were written down, oldest first."""
        return tuple(self._logbook.of_kind(HoursWorked).values())

    @property
    @carried
    def worked(self) -> dict[str, float]:
        """Person-hours that were written down, by stage."""
        found: dict[str, float] = {}
        for entry in self.entries:
            found[entry.stage] = found.get(entry.stage, 0.0) + entry.people * entry.hours
        return found

    @property
    @carried
    def ran(self) -> dict[str, float]:
        """Machine-hours that were written down, by stage."""
        found: dict[str, float] = {}
        for entry in self.entries:
            found[entry.stage] = found.get(entry.stage, 0.0) + entry.machine
        return {stage: hours for stage, hours in found.items() if hours}

    @property
    @carried
    def on_hire(self) -> tuple[OnHire, ...]:
        """What was on hire, and what is still."""
        ended = {e.hire: e.last for e in self._logbook.of_kind(HireEnded).values()}
        return tuple(OnHire(e.id, e.what, e.first, ended.get(e.id)) for e in self._logbook.of_kind(Hired).values())

    @property
    @carried
    def kit(self) -> tuple[KitItem, ...]:
        """What is at hand at each stage, in their order."""
        stages = dict.fromkeys(["set-out", *(each.stage for each in self.amounts), "handover"])
        return kit(stages, frozenset(self._so()))

    def _so(self) -> Iterator[str]:
        """What is so on this job, as the kit list asks."""
        keys = {each.rate.key for each in self.amounts}
        table = {
            "machine-dug": "dig-by-machine", "plated": PLATED, "poured": "pour", "edged": "kerb", "spiked": "edging",
            "flags": "lay-flags", "cut": "cut", "pointed": "joint-mortar",
        }  # fmt: skip
        yield from (so for so, key in table.items() if key in keys)
        if keys & {"joint-dry", "joint-bonded"}:
            yield "brushed"
        yield from (f"mixed:{need.stage}" for need in self._orders.needs if need.what in ("cement", "mortar"))
        if any(need.what == "water" for need in self._orders.needs):
            yield "watered"
        if self._bedding.has_rails:
            yield "railed"
        if any(each.stage == "seating" for each in self.amounts):
            yield "seated"

    def _all(self) -> Iterator[Amount]:
        others = bool(self._site.brief.by_others)
        corners = len(self._site.outline)
        yield Amount("set-out", rates()["pegs"], corners, Words("{n} corners", counts={"n": corners}))
        for need in self._orders.needs:
            yield from self._of_a_need(need)
        yield from self._compacted()
        if not others:
            yield from self._along_the_edges()
            yield from self._paved()

    def _of_a_need(self, need: Need) -> Iterator[Amount]:
        table = rates()
        if need.what == "spoil":
            bank = need.now / SWELL
            rate = table["dig-by-hand" if bank < BY_HAND else "dig-by-machine"]
            yield Amount(need.stage, rate, bank, Words("{volume} as it lies", volumes={"volume": bank}))
        elif need.what == "fabric":
            wide = float(self._site.footprint.area)
            yield Amount(need.stage, table["fabric"], wide, Words("{area} covered", areas={"area": wide}))
        elif need.stage in ("base-lifts", "subgrade") and need.measure is Measure.MASS:
            made_of = material(need.what)
            loose = need.now / made_of.density * made_of.bulking
            yield Amount(need.stage, table["spread"], loose, Words("{volume} loose", volumes={"volume": loose}))
        elif need.stage == "bound-base" and need.measure is Measure.VOLUME:
            yield Amount(need.stage, table["pour"], need.now, Words("{volume} placed", volumes={"volume": need.now}))

    def _compacted(self) -> Iterator[Amount]:
        wide = float(self._site.footprint.area)
        machine = next(reversed(list(self._works.machines.values())), None)
        rate = plate_rate(machine)
        if self._case.compacts_the_ground:
            yield self._gone_over("subgrade", rate, wide, OVER_THE_GROUND)
        lifts = [lift for lift in self._works.lifts.values() if lift.plan is not None]
        times = sum((lift.plan.passes if lift.plan else None) or PASSES for lift in lifts)
        if times:
            yield self._gone_over("base-lifts", rate, wide, times)
        if self._seating.is_there and self._seating.is_plated:
            yield self._gone_over("seating", rate, float(self._site.area.area), self._seating.passes)

    @staticmethod
    def _gone_over(stage: str, rate: Rate, area: float, times: int) -> Amount:
        says = Words("{area} gone over, {n} passes in all", counts={"n": times}, areas={"area": area})
        return Amount(stage, rate, area * times, says)

    def _along_the_edges(self) -> Iterator[Amount]:
        found: dict[tuple[str, str], float] = {}
        for run in self._edges.foreseen_runs.values():
            if run.plan.what is not EdgeKind.WALL:
                of = (self._orders.edge_stage(run), EDGED.get(run.plan.what, "kerb"))
                found[of] = found.get(of, 0.0) + run.long
        for (stage, key), long in found.items():
            yield Amount(stage, rates()[key], long, Words("{long} along the sides", distances={"long": long}))

    def _paved(self) -> Iterator[Amount]:
        site, table = self._site, rates()
        area = float(site.area.area)
        says = Words("{area} in all", areas={"area": area})
        if self._bedding.is_there:
            yield Amount("bedding", table["screed"], area, says)
        layer = site.specification.layer(Role.PAVING)
        if layer is not None:
            how = (
                "lay-panels"
                if layer.family is not Family.UNIT
                else "lay-flags"
                if layer.material in FLAGS
                else "lay-units"
            )
            yield Amount("laying", table[how], area, says)
            if layer.family is Family.UNIT:
                yield self._cut()
        if self._jointing.is_there and self._jointing.reckoned:
            yield Amount("joints", table[JOINTED.get(self._jointing.fill.key, "joint-bonded")], area, says)

    def _cut(self) -> Amount:
        """By the layout; without one, a cut for each unit's width along every second metre of the edge."""
        if self._laying.paving is not None:
            number = len(self._laying.cuts)
            return Amount("late-edges", rates()["cut"], number, Words("{n} by the layout", counts={"n": number}))
        unit = usual_unit(self._site)
        around = float(self._site.area.exterior.length)
        number = math.ceil(around / 2 / (unit.width + unit.joint))
        says = Words("some {n}, one a row along half of the edge, until there is a layout", counts={"n": number})
        return Amount("late-edges", rates()["cut"], number, says)
