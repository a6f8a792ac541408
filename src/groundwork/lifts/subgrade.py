"""The ground before the base: tests on the formation, soft spots and their cures, fabric; the D rules on them."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property

import numpy as np
import shapely

from groundwork.base import FabricPlan, SurfaceKey, fabric_plan, material
from groundwork.brief import ConeLog, Soil
from groundwork.layerwork import (
    Competent,
    ConeTest,
    Cured,
    CureKind,
    FabricLaid,
    PlacedTest,
    ProofRoll,
    SoftSpot,
    SpikeTest,
    WeightTest,
    Work,
)
from groundwork.lifts.history import STIFFNESS, LiftRecord
from groundwork.lifts.plan import LOAD
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.schools import Fabric
from groundwork.soundness import Case
from groundwork.strength import fabric_overlap, weakest
from groundwork.surfaces import Point
from groundwork.tools import lifts_for
from groundwork.verdict import FILL_LIFT

LEFT_IN = "A soft spot left in shows at the top, however good the base over it is."
PUSHED = 0.025
"""A spike pushed with a person's weight goes no deeper into firm ground (common practice, no published source)."""
RUT = 0.025
"""A loaded vehicle leaves no deeper rut (common practice, no published source)."""
DEEP = 1.2
"""A dig deeper than this wants a competent person's word on its sides (common practice; local law differs)."""
SOIL_DENSITY = 1700.0
"""Dry, in the ground, kg/m³ (common practice, no published source)."""
MELLOWS = {CureKind.LIME: 2, CureKind.CEMENT: 0}
"""Days a binder is left to work before it is compacted; cement is compacted within two hours (common practice)."""
DOSES = {CureKind.LIME: (0.02, 0.06), CureKind.CEMENT: (0.03, 0.08)}
"""The usual shares of the soil's dry mass (common practice, no published source; a laboratory's come first)."""
FITS = {CureKind.LIME: frozenset({Soil.CLAY}), CureKind.CEMENT: frozenset({Soil.SILT, Soil.SAND, Soil.GRAVEL})}
"""The soils a binder works in (common practice, no published source)."""


@dataclass(frozen=True)
class GroundShown:
    """What a test of the ground shows: as one reads it, what is asked, and whether it holds."""

    test: PlacedTest
    result: Words
    asked: Words
    holds: bool


@dataclass(frozen=True)
class SpotState:
    """A soft spot: its `cure`, None where none is logged, and `again`, the newest test within it since."""

    spot: SoftSpot
    cure: Cured | None
    again: GroundShown | None

    @cached_property
    def outline(self) -> shapely.Polygon:
        return shapely.Polygon(self.spot.corners)

    @property
    def volume(self) -> float:
        """To dig out or to treat, m³."""
        return float(self.outline.area) * self.spot.depth.metres

    @property
    def stone(self) -> float:
        """Stone to fill it, kg."""
        return self.volume * material("graded-sub-base").density

    @property
    def loads(self) -> int:
        return math.ceil(self.stone / LOAD - 1e-9)

    @property
    def lifts(self) -> int:
        return lifts_for(self.spot.depth.metres, FILL_LIFT)

    @property
    def fabric(self) -> float:
        """Fabric to line it, m²: bottom and sides."""
        return float(self.outline.area + self.outline.length * self.spot.depth.metres)

    def binder(self, dose: float) -> float:
        """Lime or cement, kg."""
        return self.volume * SOIL_DENSITY * dose

    @property
    def compact_from(self) -> date | None:
        """The day a binder has mellowed; None where none was used."""
        if self.cure is None or self.cure.how not in MELLOWS:
            return None
        return self.cure.on + timedelta(days=MELLOWS[self.cure.how])

    @property
    def is_sound(self) -> bool:
        return self.cure is not None and self.again is not None and self.again.holds


class Subgrade:
    """The formation's firmness. `tested` is its lift record, `spots` and `cures` as recorded, in order."""

    def __init__(self, case: Case, tested: LiftRecord, work: Sequence[Work], today: date | None) -> None:
        self.case, self.tested, self.work, self.today = case, tested, tuple(work), today

    @cached_property
    def shown(self) -> tuple[GroundShown, ...]:
        """The newest test of each kind at each place."""
        newest: dict[tuple[type, str], PlacedTest] = {}
        for test in self._tests:
            newest[type(test), test.place] = test
        return tuple(found for test in newest.values() if (found := self._shown(test)))

    @cached_property
    def _tests(self) -> tuple[PlacedTest, ...]:
        return tuple(
            e for e in self.tested.work
            if isinstance(e, SpikeTest | ConeTest | WeightTest | ProofRoll) and not self.tested.misplaced(e)
        )  # fmt: skip

    def _shown(self, test: PlacedTest) -> GroundShown | None:
        match test:
            case SpikeTest():
                words = Words("spike sank {by}", {"by": test.sank.metres})
                return GroundShown(
                    test, words, Words("at most {limit}", {"limit": PUSHED}), test.sank.metres <= PUSHED + 1e-9
                )
            case ConeTest():
                found, asked = (
                    weakest(ConeLog(test.place, test.blows, test.depths, test.soil)),
                    self.case.bearing_ratio,
                )
                words = Words("CBR {found}", names={"found": f"{found:.1f}"})
                limit = Words("CBR {asked}, which the base is designed on", names={"asked": f"{asked:.1f}"})
                return GroundShown(test, words, limit, found >= asked - 1e-9)
            case ProofRoll():
                words = Words("rut of {rut}" + (", pumping" if test.pumps else ""), {"rut": test.rut.metres})
                limit = Words("at most {limit}, no pumping", {"limit": RUT})
                return GroundShown(test, words, limit, test.rut.metres <= RUT + 1e-9 and not test.pumps)
            case WeightTest():
                modulus, asked = (
                    self.tested.stiffness(test).modulus,
                    STIFFNESS[SurfaceKey.FORMATION][self.case.traffic],
                )
                words = Words("{found}", stiffness={"found": modulus})
                return GroundShown(test, words, Words("{asked}", stiffness={"asked": asked}), modulus >= asked - 1e-9)
        return None

    @cached_property
    def spots(self) -> tuple[SpotState, ...]:
        """Soft spots in the order they were found."""
        order = {each.id: n for n, each in enumerate(self.work)}
        found = []
        for spot in (each for each in self.work if isinstance(each, SoftSpot)):
            outline = shapely.Polygon(spot.corners)
            cure = next((e for e in reversed(self.work) if isinstance(e, Cured) and e.spot == spot.id), None)
            again = [
                t for t in self._tests
                if cure and order[t.id] > order[cure.id] and shapely.dwithin(outline, shapely.Point(t.at), 0.05)
            ]  # fmt: skip
            found.append(SpotState(spot, cure, self._shown(again[-1]) if again else None))
        return tuple(found)

    @property
    def overlap(self) -> tuple[float, float]:
        """The least and the greatest usual overlap of fabric on this ground."""
        return fabric_overlap(self.case.bearing_ratio)

    @property
    def wants_fabric(self) -> bool:
        return bool(self.case.base.details.fabric_under) or any(
            course.fabric is Fabric.REQUIRED for course in self.case.school.courses
        )

    @cached_property
    def fabric(self) -> FabricPlan | None:
        """How the fabric on the formation is laid, where one is wanted."""
        if not self.wants_fabric:
            return None
        job = self.case.job
        overlap = max(self.overlap[0], self.case.base.details.fabric_overlap)
        return fabric_plan(job.area, self.downhill, overlap, self.case.base.unbound)

    @cached_property
    def downhill(self) -> Point:
        """The way the design falls, over all."""
        corners = np.array(self.case.job.outline)
        levels = self.case.job.design.level_at(*corners.T)
        slope, *_rest = np.linalg.lstsq(np.column_stack([corners, np.ones(len(corners))]), levels, rcond=None)
        return -float(slope[0]), -float(slope[1])

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """D04 and D09."""
        return (*self._firmness(), *self._fabrics())

    @property
    def not_tested(self) -> Finding:
        """D04: nobody knows whether the ground is firm."""
        return Finding(
            "D04", Severity.STOP, Words("the ground is not tested"), Words("a test at one place at least"), LEFT_IN,
            "Push a spike, drive a cone or roll it at a place drawn.", Source.PRACTICE, acceptable=False,
        )  # fmt: skip

    def _firmness(self) -> Iterator[Finding]:
        why, spots = LEFT_IN, self.spots
        if self.tested.passes_done and self.tested.untested:
            yield self.not_tested
        soft = [
            s for s in self.shown
            if not s.holds and not any(x.is_sound and shapely.dwithin(x.outline, shapely.Point(s.test.at), 0.05)
                                       for x in spots)
        ]  # fmt: skip
        if soft:
            words = Words("gives at {n}: " + soft[0].result.phrase, soft[0].result.lengths, {"n": len(soft)},
                          soft[0].result.names)  # fmt: skip
            yield Finding("D04", Severity.STOP, words, soft[0].asked, why,
                          "Draw the soft spot, dig it out or treat it, log the cure, test again.",
                          Source.PRACTICE, structural=True)  # fmt: skip
        for found, which in (
            ("soft spots with no cure logged: {n}", [s for s in spots if s.cure is None]),
            ("soft spots cured and not tested since: {n}", [s for s in spots if s.cure and not s.again]),
            ("soft spots that still give: {n}", [s for s in spots if s.again and not s.again.holds]),
        ):
            if which:
                yield Finding(
                    "D04", Severity.STOP, Words(found, counts={"n": len(which)}),
                    Words("cured, compacted, and firm when tested again"), why,
                    "Cure it, compact it in lifts, test within it.", Source.PRACTICE, structural=True,
                )  # fmt: skip
        for spot in spots:
            yield from self._binder(spot)

    def _binder(self, spot: SpotState) -> Iterator[Finding]:
        cure, soil = spot.cure, self.case.job.brief.soil
        if cure is None or cure.how not in FITS:
            return
        low, high = DOSES[cure.how]
        names = {"binder": str(cure.how), "soil": str(soil), "dose": f"{cure.dose:.1%}", "low": f"{low:.0%}",
                 "high": f"{high:.0%}"}  # fmt: skip
        if soil not in FITS[cure.how]:
            yield Finding("D10", Severity.WARNING, Words("{binder} in {soil}", names=names),
                          Words("lime in clay, cement in silt, sand and gravel"),
                          "Lime needs clay to work on; cement does not mix into clay.",
                          "Test that it hardened, or dig it out.", Source.PRACTICE)  # fmt: skip
        if not low - 1e-9 <= cure.dose <= high + 1e-9:
            yield Finding("D10", Severity.WARNING, Words("{dose} of {binder}", names=names),
                          Words("{low} to {high}", names=names), "Too little does nothing; too much cracks.",
                          "Ask a laboratory for the dose.", Source.PRACTICE)  # fmt: skip

    def _fabrics(self) -> Iterator[Finding]:
        laid = [e for e in self.work if isinstance(e, FabricLaid)]
        if not laid:
            return
        last, least = laid[-1], self.overlap[0]
        why = "Where a seam opens, soil comes up into the stone."
        if last.overlap.metres < least - 1e-9:
            yield Finding("D09", Severity.WARNING, Words("fabric overlaps {by}", {"by": last.overlap.metres}),
                          Words("at least {least} on this soil", {"least": least}), why,
                          "Pull it over or lay a strip on the seam.", Source.MEMORY)  # fmt: skip
        if not last.with_the_flow:
            yield Finding("D09", Severity.WARNING, Words("fabric laid against the flow"),
                          Words("the upper length over the lower, like roof tiles"),
                          "Water and stone spread downhill open the seam.", "Turn the laps.",
                          Source.PRACTICE)  # fmt: skip


def depth_findings(deepest: float, words: Sequence[Competent]) -> Iterator[Finding]:
    """D08: a deep dig with nobody's word on its sides."""
    if deepest > DEEP + 1e-9 and not words:
        yield Finding(
            "D08", Severity.STOP, Words("dug {deep} deep", {"deep": deepest}), Words("{limit}, or a competent "
            "person’s or an engineer’s word", {"limit": DEEP}), "The sides of a trench come down without warning.",
            "Nobody goes in. Have the sides looked at, battered back or propped, and log who said so.",
            Source.PRACTICE, structural=True,
        )  # fmt: skip
