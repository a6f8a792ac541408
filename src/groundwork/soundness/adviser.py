"""Which schools of base fit a job: every one of them, ranked, with the reasons for and against on this job.

The weights are common practice, no published source; they order the list and settle nothing. The lead decides.
"""

import tomllib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache, cached_property, lru_cache
from importlib import resources

import shapely

from groundwork.base import BaseSpecification, Family, Quantities, Role, quantities
from groundwork.brief import Neighbour, Season, Soil, Traffic
from groundwork.drainage import OutletReach
from groundwork.job import Job
from groundwork.measures import Finding, Severity, Words
from groundwork.plan import BESIDE
from groundwork.schools import School, Water, schools
from groundwork.soundness.completion import completed, settled_joint, settled_paving
from groundwork.soundness.rules import Case, soundness

SEVERITY_WEIGHT = {Severity.STOP: -10, Severity.WARNING: -3, Severity.NOTE: -1}
DAYS_THAT_MATTER = 2
FOUNDATION_REACH = 3.0
"""Water let down within this of a building is water at its foundation, metres."""


class Side(StrEnum):
    FOR = "for"
    AGAINST = "against"


@dataclass(frozen=True)
class Reason:
    """Something about this job that speaks for or against a school; the heavier, the larger `weight`."""

    side: Side
    words: Words
    weight: int = 1


@dataclass(frozen=True)
class Disagreement:
    """A question practitioners answer differently, their positions, and what Nivelum does."""

    question: str
    positions: str
    here: str
    schools: tuple[str, ...]


@dataclass(frozen=True)
class Advice:
    """A school on this job, with its usual base for it: reasons, findings, what it takes and allows."""

    school: School
    job: Job
    reasons: tuple[Reason, ...]
    findings: tuple[Finding, ...]

    @property
    def specification(self) -> BaseSpecification:
        return self.job.specification

    @cached_property
    def quantities(self) -> Quantities:
        return quantities(
            self.job.area, self.specification, replace(self.job, specification=self.specification).footprint
        )

    @cached_property
    def outlet(self) -> OutletReach | None:
        return Case(self.job).outlet

    @property
    def score(self) -> int:
        reasons = sum(r.weight if r.side is Side.FOR else -r.weight for r in self.reasons)
        return reasons + sum(SEVERITY_WEIGHT[f.severity] for f in self.findings)

    @property
    def ruled_out(self) -> bool:
        return any(f.severity is Severity.STOP for f in self.findings)

    @property
    def disagreements(self) -> tuple[Disagreement, ...]:
        return tuple(d for d in disagreements() if self.school.key in d.schools)


def advise(job: Job) -> tuple[Advice, ...]:
    """Every school on this job, the best fit first; those a stop rules out come last and are still shown."""
    found = [advice(job, school) for school in schools().values()]
    return tuple(sorted(found, key=lambda a: (a.ruled_out, -a.score, a.specification.dig)))


def advice(job: Job, school: School) -> Advice:
    """One school on this job, its base completed for it: what is compared here is what is taken. What no school can
    help (falls, heights, dust) is left to the job's own findings."""
    return _advice(replace(job, entries=(), sign_offs=(), acceptances=(), version=0), school.key)


@lru_cache(maxsize=256)
def _advice(job: Job, key: str) -> Advice:
    """The advice, worked out once as long as the design is the same: what was recorded has no part in it."""
    school = schools()[key]
    tried = replace(job, specification=completed(job, school))
    findings = tuple(f for f in soundness(tried) if f.rule not in _OF_THE_JOB)
    reasons = tuple(reason for ask in _QUESTIONS for reason in ask(Case(tried), job))
    return Advice(school, tried, reasons, findings)


_OF_THE_JOB = frozenset({"S01", "S02", "S03", "S04", "S17", "S21", "S22"})


@cache
def disagreements() -> tuple[Disagreement, ...]:
    text = resources.files("groundwork.soundness").joinpath("disagreements.toml").read_text(encoding="utf-8")
    data = tomllib.loads(text)
    return tuple(
        Disagreement(row["question"], row["positions"], row["here"], tuple(row["schools"]))
        for row in data["questions"]
    )


def _for(phrase: str, weight: int = 1, **names: str) -> Reason:
    return Reason(Side.FOR, Words(phrase, names=names), weight)


def _against(phrase: str, weight: int = 1, **names: str) -> Reason:
    return Reason(Side.AGAINST, Words(phrase, names=names), weight)


def _anywhere(case: Case, _job: Job) -> Iterator[Reason]:
    """What speaks for or against the school on any job, from its own file."""
    yield from map(_for, case.school.always_for)
    yield from map(_against, case.school.always_against)


def _traffic(case: Case, _job: Job) -> Iterator[Reason]:
    bound = case.base.layer(Role.BOUND_BASE) is not None
    if case.traffic.wheels and bound:
        yield _for("A slab spreads wheels over soft and firm ground alike")
    elif case.traffic is Traffic.FOOT and bound:
        yield _against("More than feet ask for", 2)
    if case.school.foot_only and case.traffic is Traffic.FOOT:
        yield _for("Light work, little to dig, for feet only")


def _weather(case: Case, _job: Job) -> Iterator[Reason]:
    school, season = case.school, case.job.brief.season
    if season is Season.WET:
        yield (
            _for("Goes on in rain", 2)
            if school.works_wet
            else _against("Fines go soft in rain and cannot be compacted", 2)
        )
    if season is Season.FREEZING:
        if school.works_in_frost:
            yield _for("Can be placed in the cold: no water in it to freeze", 2)
        else:
            yield _against("Nothing that is wetted or set with cement is placed in frost", 3)


def _frost(case: Case, _job: Job) -> Iterator[Reason]:
    brief = case.job.brief
    if brief.frost and brief.soil in (Soil.SILT, Soil.CLAY, Soil.PEAT):
        if case.school.water is Water.THROUGH and case.is_a_bath:
            yield _against("What stands in it freezes and lifts it", 2)
        elif case.school.water is Water.THROUGH:
            yield _for("Holds no water to freeze and lift it", 1)
        else:
            yield _against("Frost lifts fine soil under a base that holds water: dig deeper", 1)


def _water(case: Case, _job: Job) -> Iterator[Reason]:
    through = case.school.water is Water.THROUGH
    if through and case.is_a_bath:
        yield _against("With no way out it holds the rain it takes in: a bath under the paving", 4)
    elif through:
        yield _for("Rain leaves through the base, and dips in it hold none")
    buildings = [f for f in case.job.features if f.kind == "building"]
    away = {f.name or "the building": shapely.distance(f.shape, case.job.area) for f in buildings}
    drained = {edge.building or "the building" for edge in case.job.building_edges if edge.drained}
    near = {name: far for name, far in away.items() if far <= FOUNDATION_REACH and name not in drained}
    if not near:
        return
    building, far = min(near.items(), key=lambda pair: pair[1])
    phrase = "Lets water down {far} from the foundation of {building}" if through else (
        "Keeps water off the foundation of {building}, {far} away")  # fmt: skip
    weight = 2 if far <= BESIDE else 1
    words = Words(phrase, {"far": far}, names={"building": building})
    yield Reason(Side.AGAINST if through else Side.FOR, words, weight)


def _outlet(case: Case, _job: Job) -> Iterator[Reason]:
    through, reach = case.school.water is Water.THROUGH, case.outlet
    if reach and reach.reaches:
        words = Words(
            "A pipe from the {surface} reaches the outlet, {spare} to spare",
            {"spare": reach.spare},
            names={"surface": reach.surface},
        )
        yield Reason(Side.FOR, words, 2 if through else 1)
    elif reach:
        words = Words(
            "A pipe from the {surface} arrives {short} too low for the outlet",
            {"short": reach.spare},
            names={"surface": reach.surface},
        )
        yield Reason(Side.AGAINST, words, 4 if through or case.job.brief.raised else 1)
    elif through and case.job.brief.raised and not case.is_a_bath:
        yield _against("A raised edge with no outlet holds the water it takes in", 4)
    elif not through and case.job.brief.raised:
        yield _for("Behind a raised edge water leaves over the base, where a pipe lies higher")


def _beside(case: Case, _job: Job) -> Iterator[Reason]:
    neighbour = case.job.brief.neighbour
    if neighbour is Neighbour.NONE:
        return
    same = {Neighbour.DENSE: "dense", Neighbour.OPEN: "open", Neighbour.BOUND: "slab"}[neighbour]
    if case.school.key == same:
        yield _for("The same base as lies beside it: they settle alike", 2)
    elif neighbour is Neighbour.DENSE and case.clean_stone:
        yield _against("An open base draws fines out of the dense one beside it", 1)
    elif neighbour is Neighbour.OPEN and not case.clean_stone:
        yield _against("Fines from it wash into the open base beside it", 2)


def _joints_and_pavers(case: Case, job: Job) -> Iterator[Reason]:
    width, paving = settled_joint(job), settled_paving(job)
    least, most = case.school.joint_bounds
    if width is not None and most and not least - 1e-9 <= width <= most + 1e-9:
        words = Words("Joints of {width} are outside its {least} to {most}", {"width": width},
                      limits={"least": least, "most": most})  # fmt: skip
        yield Reason(Side.AGAINST, words, 2)
    if paving is None:
        return
    usual = case.school.by_role[Role.PAVING].materials
    if paving.made_of not in usual:
        yield _against("Not a base for {paving}", 6, paving=paving.made_of.title)
    elif paving.made_of in usual[:1]:
        yield _for("Made for {paving}", 1, paving=paving.made_of.title)
    bound = case.base.layer(Role.BOUND_BASE) is not None
    thin = case.traffic.wheels and paving.family is Family.UNIT and paving.thickness < 0.060 - 1e-9
    if thin and not bound:
        yield _against("Units as thin as these break under wheels without a bound base", 3)


def _slab_there(case: Case, job: Job) -> Iterator[Reason]:
    """A slab that is there: paved over, or broken out."""
    if case.base.lies_on_what_is_there:
        yield _for("Nothing to dig, to cart or to compact: the slab carries it", 3)
    elif job.brief.sound_slab:
        yield _against("The slab that is there has to be broken out and carted away", 3)


def _waiting(case: Case, _job: Job) -> Iterator[Reason]:
    days = case.school.waiting_days
    if days > DAYS_THAT_MATTER:
        yield Reason(
            Side.AGAINST,
            Words(
                "{n} days of waiting before it can go on",
                counts={"n": days},
                one="{n} day of waiting before it can go on",
            ),
            1,
        )


def _ground(case: Case, _job: Job) -> Iterator[Reason]:
    if case.school.water is Water.THROUGH and case.job.brief.soil in (Soil.SAND, Soil.GRAVEL):
        yield _for("The ground lets the water in", 2)


_QUESTIONS: tuple[Callable[[Case, Job], Iterator[Reason]], ...] = (
    _anywhere,
    _traffic,
    _water,
    _outlet,
    _ground,
    _weather,
    _frost,
    _beside,
    _joints_and_pavers,
    _slab_there,
    _waiting,
)
