"""A lift as it was made: spread, wetted, gone over, tested."""

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

import shapely

from groundwork.base import Course, Family, SurfaceKey
from groundwork.brief import Traffic
from groundwork.built import Laid
from groundwork.job import Job
from groundwork.laboratory import (
    ONE_UNDER,
    CompactionCurve,
    CompactionVerdict,
    acceptance,
    combined_gravity,
    deformation_modulus,
    dry_density,
    hole_volume,
    least_relative_compaction,
    oversize_corrected_density,
    relative_compaction,
    zero_air_voids,
)
from groundwork.layerwork import (
    BESIDE_THE_AREA,
    RISEN,
    ConeTest,
    DensityTest,
    Direction,
    GaugeTest,
    Moisture,
    Passed,
    PlacedTest,
    ProofRoll,
    Scarified,
    Settling,
    SpikeTest,
    Spread,
    Tamped,
    WeightTest,
    Work,
)
from groundwork.lifts.plan import CoursePlan
from groundwork.plan import Patch, draw, how_many, patches
from groundwork.schools import school
from groundwork.surfaces import Point
from groundwork.tools import FEWEST, Machine, passes_needed

NEAR_OPTIMUM = 0.02
"""Moisture as far from the optimum as this, a share of the dry mass, still compacts (common practice)."""
DRY_BY = 0.02
"""What a handful that falls apart is taken to be under its optimum (common practice, no published source)."""
STILL = 0.002
"""A lift is tight when the last pass settles it by no more than this on the mean (common practice)."""
THIN_SKIN = 0.040
"""A skin thinner than this, or than twice its largest stone, does not knit (common practice)."""
STIFFNESS = {
    SurfaceKey.FORMATION: {Traffic.FOOT: 15.0, Traffic.LIGHT: 15.0, Traffic.DRIVE: 25.0, Traffic.HEAVY: 25.0},
    SurfaceKey.SUB_BASE: {Traffic.FOOT: 20.0, Traffic.LIGHT: 25.0, Traffic.DRIVE: 35.0, Traffic.HEAVY: 35.0},
    SurfaceKey.BASE: {Traffic.FOOT: 25.0, Traffic.LIGHT: 30.0, Traffic.DRIVE: 45.0, Traffic.HEAVY: 45.0},
}
"""The least Evd by a light falling weight, MPa (common practice, no published source; the engineer's comes first)."""
GROUND_TESTS = (SpikeTest, ConeTest, WeightTest, ProofRoll)
"""What shows whether the ground is firm."""
WETTED = frozenset({Family.DENSE, Family.DUST})
"""Materials whose compaction hangs on water."""


_Test = TypeVar("_Test", bound=PlacedTest)


@dataclass(frozen=True)
class Coverage:
    """How often a patch was gone over since it was last loosened, by direction; `share` of what its machines need of
    it, 1 where that is reached; None where a machine does not compact the lift at all."""

    patch: Patch
    along: int
    across: int
    share: float | None

    @property
    def passes(self) -> int:
        return self.along + self.across

    @property
    def is_done(self) -> bool:
        enough = self.share is not None and self.share >= 1 - 1e-9 and self.passes >= FEWEST
        return enough and self.along > 0 and self.across > 0

    @property
    def next_way(self) -> Direction:
        """The direction it has had less of."""
        return Direction.ALONG if self.along <= self.across else Direction.ACROSS


@dataclass(frozen=True)
class Density:
    """A density test as it came out: dry density, kg/m³, and its share of the laboratory's maximum, where known;
    why it says nothing, if so."""

    test: DensityTest
    dry: float | None
    ratio: float | None
    why_not: str = ""


@dataclass(frozen=True)
class Stiffness:
    """A falling weight's result: mean settlement of its drops, metres, Evd in MPa, and what is asked, if anything."""

    test: WeightTest
    mean: float
    modulus: float
    asked: float | None

    @property
    def holds(self) -> bool:
        return self.asked is None or self.modulus >= self.asked - 1e-9


def test_density(test: DensityTest) -> float:
    """Dry density of a field test, kg/m³. Raises `ValueError` for one that cannot be."""
    if isinstance(test, GaugeTest):
        return dry_density(test.wet, test.moisture)
    return dry_density(test.wet / hole_volume(test.used, test.cone, test.sand), test.moisture)


class LiftRecord:
    """One lift of a job, or its formation where nothing is planned. `work` is what was recorded on it and counts,
    oldest first, `brought` the machines by the entry that brought them, `laid` what was laid up to it, if known, and
    `levels_left` how many stations of its top are still to be shot."""

    def __init__(
        self,
        job: Job,
        key: str,
        plan: CoursePlan | None,
        work: Sequence[Work],
        brought: Mapping[str, Machine],
        curve: CompactionCurve | None = None,
        laid: Laid | None = None,
        levels_left: int = 0,
    ) -> None:
        self.job, self.key, self.plan, self.work, self.brought = job, key, plan, tuple(work), brought
        self.curve, self.laid, self.levels_left = curve, laid, levels_left

    @property
    def course(self) -> Course | None:
        return self.plan.course if self.plan else None

    @property
    def family(self) -> Family | None:
        return self.plan.material.family if self.plan else None

    @property
    def is_begun(self) -> bool:
        return bool(self.work)

    @cached_property
    def thickness(self) -> float:
        """Compacted: as laid where that is known and more than planned, else as planned; 0 for the formation."""
        planned = self.course.thickness if self.course else 0.0
        return max(planned, self.laid.mean) if self.laid else planned

    @cached_property
    def since_loosened(self) -> tuple[Work, ...]:
        """What was done since the lift was last scarified."""
        last = max((n for n, each in enumerate(self.work) if isinstance(each, Scarified)), default=-1)
        return self.work[last + 1 :]

    @cached_property
    def machines_used(self) -> tuple[Machine, ...]:
        names = dict.fromkeys(each.machine for each in self.since_loosened if isinstance(each, Passed))
        return tuple(self.brought[name] for name in names if name in self.brought)

    @cached_property
    def spread(self) -> dict[str, float]:
        """Loose thickness by station, the newest."""
        return {each.station: each.thickness.metres for each in self.work if isinstance(each, Spread)}

    @cached_property
    def moisture(self) -> Moisture | None:
        return next((each for each in reversed(self.work) if isinstance(each, Moisture)), None)

    @property
    def optimum(self) -> float | None:
        """The moisture it compacts best at: the laboratory's, or the table's."""
        if self.plan is None or self.family not in WETTED:
            return None
        return self.curve.optimum if self.curve else self.plan.material.optimum

    @cached_property
    def tamped(self) -> frozenset[int]:
        return frozenset(each.side for each in self.since_loosened if isinstance(each, Tamped))

    @property
    def untamped(self) -> tuple[int, ...]:
        if self.course is None:
            return ()
        return tuple(n for n in range(len(self.job.outline)) if n not in self.tamped)

    @cached_property
    def coverage(self) -> tuple[Coverage, ...]:
        """Patch by patch."""
        found = []
        gone = [each for each in self.since_loosened if isinstance(each, Passed) and each.machine in self.brought]
        for patch in patches(self.job.area):
            here = [each for each in gone if each.patch in ("", patch.name)]
            ways = Counter(each.direction for each in here)
            shares = [self._share(self.brought[each.machine]) for each in here]
            whole = None if None in shares else math.fsum(share for share in shares if share is not None)
            found.append(Coverage(patch, ways[Direction.ALONG], ways[Direction.ACROSS], whole))
        return tuple(found)

    def _share(self, machine: Machine) -> float | None:
        """What one pass of a machine is of all this lift needs."""
        needed = passes_needed(machine, self.thickness) if self.course else FEWEST
        return None if needed is None else 1 / needed

    @property
    def passes_begun(self) -> bool:
        """Whether any machine has gone over any of it."""
        return any(each.passes for each in self.coverage)

    @property
    def passes_done(self) -> int:
        """The fewest any patch has had."""
        return min(each.passes for each in self.coverage)

    def passes_left(self, coverage: Coverage, machine: Machine) -> int | None:
        """How many more passes of a machine a patch needs; None where it is too light."""
        one = self._share(machine)
        if one is None or coverage.share is None:
            return None
        left = max(math.ceil((1 - coverage.share) / one - 1e-9), FEWEST - coverage.passes, 0)
        return max(left, 1 if 0 in (coverage.along, coverage.across) else 0)

    @cached_property
    def _settlements(self) -> tuple[int, dict[str, float]]:
        """The number of passes after which settlement was last measured, and by how much at each station, metres."""
        found: dict[int, dict[str, float]] = defaultdict(dict)
        for each in self.since_loosened:
            if isinstance(each, Settling):
                found[each.after_passes][each.station] = each.after.metres - each.before.metres
        last = max(found, default=0)
        return last, dict(found.get(last, {}))

    @property
    def risen(self) -> tuple[str, ...]:
        """The stations that read as if the last pass had raised them: their readings are swapped, or misread."""
        return tuple(name for name, by in self._settlements[1].items() if by < -RISEN - 1e-9)

    @cached_property
    def settled(self) -> tuple[int, float] | None:
        """The number of passes after which settlement was last measured, and its mean, metres; None where it was not,
        or some of it cannot be."""
        last, by = self._settlements
        return None if not by or self.risen else (last, math.fsum(by.values()) / len(by))

    @cached_property
    def places(self) -> tuple[tuple[str, Point], ...]:
        """Where it is to be tested: drawn by the first thing recorded on it, so that nobody knows beforehand."""
        if not self.work:
            return ()
        number = how_many(self.job.area.area)
        spots = draw(self.job.area, f"{self.key} {self.work[0].id}", number)
        return tuple((f"T{n}", spot) for n, spot in enumerate(spots, start=1))

    @property
    def tests(self) -> tuple[PlacedTest, ...]:
        """Every test taken on it, oldest first."""
        return tuple(each for each in self.work if isinstance(each, PlacedTest))

    def newest(self, *kinds: type[_Test]) -> dict[str, _Test]:
        """The newest test of these kinds at each place, in the order the places were first tested."""
        found: dict[str, _Test] = {}
        for each in self.work:
            if isinstance(each, kinds):
                found[each.place] = each
        return found

    @cached_property
    def densities(self) -> tuple[Density, ...]:
        """The newest density test at each place that says something, or else the newest there: one that says nothing
        hides none that does."""
        found: dict[str, Density] = {}
        for each in self.every_density:
            before = found.get(each.test.place)
            if before is None or each.ratio is not None or before.ratio is None:
                found[each.test.place] = each
        return tuple(found.values())

    @cached_property
    def every_density(self) -> tuple[Density, ...]:
        """Every density test, oldest first."""
        return tuple(self._density(test) for test in self.work if isinstance(test, DensityTest))

    @property
    def silent(self) -> tuple[Density, ...]:
        """The places whose newest density test says nothing."""
        newest = {each.test.place: each for each in self.every_density}
        return tuple(each for each in newest.values() if each.ratio is None)

    def misplaced(self, test: PlacedTest) -> str:
        """Why a test says nothing of this lift by where it was taken; nothing where it does."""
        if not shapely.dwithin(self.job.area, shapely.Point(test.at), BESIDE_THE_AREA):
            return "taken outside the area"
        return ""

    def _density(self, test: DensityTest) -> Density:
        if misplaced := self.misplaced(test):
            return Density(test, None, None, misplaced)
        try:
            dry = test_density(test)
        except ValueError as error:
            return Density(test, None, None, str(error))
        if self.family is Family.OPEN:
            return Density(test, dry, None, "a density ratio means nothing on clean stone")
        if self.curve is None:
            return Density(test, dry, None, "no laboratory curve of this material to hold it against")
        try:
            most = oversize_corrected_density(self.curve.maximum, test.oversize, test.oversize_gravity)
        except ValueError as error:
            return Density(test, dry, None, str(error))
        gravity = combined_gravity(self.curve.gravity, test.oversize, test.oversize_gravity)
        if dry > zero_air_voids(test.moisture, gravity) + 1e-6:
            return Density(test, dry, None, "denser than stone and water without any air: misread")
        return Density(test, dry, relative_compaction(dry, most))

    @property
    def least_ratio(self) -> float:
        return least_relative_compaction(self.job.brief.traffic, self.key.startswith(SurfaceKey.BASE))

    @cached_property
    def accepted(self) -> CompactionVerdict | None:
        """The density tests taken together."""
        ratios = [each.ratio for each in self.densities if each.ratio is not None]
        return acceptance(ratios, self.least_ratio) if ratios else None

    @cached_property
    def stiffnesses(self) -> tuple[Stiffness, ...]:
        """The newest falling weight test at each place."""
        tests = self.newest(WeightTest).values()
        return tuple(self.stiffness(test) for test in tests if not self.misplaced(test))

    def stiffness(self, test: WeightTest) -> Stiffness:
        asked = STIFFNESS.get(SurfaceKey(self.key.split(".")[0]), {}).get(self.job.brief.traffic)
        mean = math.fsum(test.drops) / len(test.drops)
        return Stiffness(test, mean, deformation_modulus(mean), asked)

    @property
    def wants_density(self) -> bool:
        """Whether tests of density are asked for: vehicles on stone whose density says something, where the school
        proves its lifts by density before anything else, or the traffic is heavy."""
        traffic = self.job.brief.traffic
        first = school(self.job.specification.school).tests[:1]
        by_density = first == ("density ratio",) or traffic is Traffic.HEAVY
        return self.family is Family.DENSE and traffic.wheels and by_density

    @cached_property
    def untested(self) -> tuple[str, ...]:
        """The drawn places still without the test that is asked for: density at each of a lift that wants it, any
        test of the ground at one of them."""
        if self.course is None:
            tests = self.newest(*GROUND_TESTS).values()
            tested = any(not self.misplaced(test) for test in tests)
            return () if tested else tuple(name for name, _at in self.places)
        if not self.wants_density:
            return ()
        done = {each.test.place for each in self.densities if each.ratio is not None}
        return tuple(name for name, _at in self.places if name not in done)

    @cached_property
    def failed(self) -> tuple[str, ...]:
        """The places whose density or stiffness does not hold."""
        low = self.least_ratio if self.accepted and not self.accepted.mean_holds else self.least_ratio - ONE_UNDER
        places = [d.test.place for d in self.densities if d.ratio is not None and d.ratio < low - 1e-9]
        places += [s.test.place for s in self.stiffnesses if not s.holds]
        return tuple(dict.fromkeys(places))

    def machine_now(self) -> Machine | None:
        """The machine in use: the one of the newest pass, else the newest brought."""
        last = next((each.machine for each in reversed(self.work) if isinstance(each, Passed)), None)
        return self.brought.get(last or "") or next(reversed(list(self.brought.values())), None)


def bulking_ratios(spread: Mapping[str, float], laid: Laid | None) -> list[float]:
    """Loose over compacted thickness at stations where both were measured."""
    if laid is None:
        return []
    thick = dict(zip(laid.stations, laid.thickness.tolist(), strict=True))
    return [loose / thick[name] for name, loose in spread.items() if thick.get(name, 0.0) > 0.01]


def by_lift(work: Sequence[Work]) -> dict[str, list[Work]]:
    """What was recorded, by the surface it was done to."""
    found: dict[str, list[Work]] = defaultdict(list)
    for each in work:
        if lift := getattr(each, "lift", ""):
            found[str(lift)].append(each)
    return found
