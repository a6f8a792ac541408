"""A job's bed: its rails as planned and as set, how thick it will be over the base as shot, what seating takes."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace

from groundwork.base import Family, Role, Surface, SurfaceKey, Tolerance
from groundwork.bedding.bays import BayAnswer, bay_answers, bay_findings
from groundwork.bedding.bed import Bed, bed_over
from groundwork.bedding.ends import ENDS, ENDS_AS_SEEN, RailEnd
from groundwork.bedding.mortar import Batch, batches, lifted, mortar_findings
from groundwork.bedding.rails import Rail, RailPlan, rail_plan
from groundwork.bedding.ranges import BedRange, Mend, bed_range
from groundwork.bedding.sag import PACKED_EVERY, SCREED_LOAD, sag_by_itself, sag_by_load
from groundwork.bedding.today import FLAG_RATE, FLAGS, LAYING_RATE
from groundwork.bedding.trial import PLACES, Trial
from groundwork.bedwork import (
    BatchEnded,
    BatchMixed,
    BayWork,
    FlagLifted,
    RailDipped,
    RailShot,
    RailsPlanned,
    TrialSeated,
)
from groundwork.built import AsBuilt, Surfaces
from groundwork.job import Job
from groundwork.levels import Levels, Reference
from groundwork.logbook import Logbook
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.soundness import Case
from groundwork.surfaces import NoSurface
from groundwork.survey import SettingRule, Top, misread_top
from groundwork.verdict import COVERAGE, Call, Foreseen, Suspicion
from groundwork.workings import JobPart, Workings, carried

THIN = 0.015
"""A bed no thicker than this is drawn by hand, without rails, metres (common practice, no published source)."""
SAGS = 0.002
"""A rail may hang so much further under its string than its own weight makes it, metres (common practice)."""
OFF_TRIAL = 0.001
"""What seating takes off may differ from the design's by so much before anyone is told, metres."""


class Bedding(JobPart):
    """The bed of a job; of one that has none nothing is asked and nothing said."""

    PART = "bedding"

    def __init__(
        self, workings: Workings, site: Job, case: Case, logbook: Logbook, levels: Levels, surfaces: Surfaces
    ) -> None:
        super().__init__(workings)
        self._site, self._case, self._logbook = site, case, logbook
        self._levels, self._surfaces = levels, surfaces

    @property
    def is_there(self) -> bool:
        return self._site.specification.layer(Role.BEDDING) is not None and not self._site.brief.by_others

    @property
    def has_rails(self) -> bool:
        """Whether it is screeded from rails: not in mortar, flag by flag, and not a bed so thin that it is drawn."""
        layer = self._site.specification.layer(Role.BEDDING)
        return self.is_there and layer is not None and not self.is_mortar and layer.thickness > THIN

    @property
    def is_mortar(self) -> bool:
        """Whether it is laid in mortar, batch by batch."""
        layer = self._site.specification.layer(Role.BEDDING)
        return self.is_there and layer is not None and layer.family is Family.MORTAR

    @property
    def surface(self) -> Surface:
        """The bed's top as it is screeded."""
        specification = self._site.specification
        return specification.surface(SurfaceKey.SCREED if specification.settlement else SurfaceKey.BEDDING)

    @property
    def carrying(self) -> str:
        """The surface it is laid on."""
        courses = self._site.specification.courses
        return next(c.under.key for c in courses if c.layer.role is Role.BEDDING and c.lift == 1)

    @property
    @carried
    def range(self) -> BedRange | None:
        return bed_range(self._site, self._case)

    @property
    @carried
    def planned(self) -> RailsPlanned | None:
        """The newest plan of rails."""
        return next(reversed(self._logbook.of_kind(RailsPlanned).values()), None)

    @property
    @carried
    def plan(self) -> RailPlan | None:
        return rail_plan(self._site, self.planned) if self.planned and self.has_rails else None

    @property
    @carried
    def ends(self) -> dict[tuple[str, str], RailEnd]:
        """Both ends of every rail in walking order: down one and back the next."""
        if self.plan is None or self.planned is None:
            return {}
        newest: dict[tuple[str, str], RailShot] = {
            (e.rail, e.end): e for e in self._logbook.of_kind(RailShot).values() if e.plan == self.planned.id
        }
        found = {}
        for n, rail in enumerate(self.plan.rails.values()):
            for end in ENDS if n % 2 == 0 else ENDS[::-1]:
                found[rail.name, end] = self._end(rail, end, newest.get((rail.name, end)))
        return found

    def _end(self, rail: Rail, end: str, shot: RailShot | None) -> RailEnd:
        bare = RailEnd(rail, end, self.rule, shot)
        read = self._top(bare).read(self._levels.against(shot), shot.reading.metres) if shot else None
        return replace(bare, deviation=read[0], uncertainty=read[1]) if read else bare

    def _top(self, end: RailEnd) -> Top:
        return Top(end.place, end.level, self._site.design.level)

    def target(self, rail: str, end: str, reference: Reference | None) -> float | None:
        """What should be read on an end of a rail, metres; None where nothing can be. Raises `KeyError`."""
        return self._top(self.ends[rail, end]).target(reference)

    def foreseen(self, rail: str, end: str, reference: Reference | None) -> Foreseen | None:
        """What a reading on an end of a rail will come to, whatever it is. Raises `KeyError`."""
        return self._top(self.ends[rail, end]).foreseen(reference)

    def misread(self, shot: RailShot) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread."""
        if self.planned is None or shot.plan != self.planned.id or (shot.rail, shot.end) not in self.ends:
            return None
        shots = self._logbook.of_kind(RailShot).values()
        before = next((e for e in reversed(shots) if (e.rail, e.end) != (shot.rail, shot.end)), None)
        typed = (before.reading.raw, before.reading.metres) if before else None
        target = self.target(shot.rail, shot.end, self._levels.references.get(shot.set_up))
        return misread_top(shot.reading.raw, shot.reading.metres, target, self._site.unit, typed)

    def too_unsure(self, rail: str, end: str, reference: Reference | None) -> Words | None:
        """Why what reads against this is not taken for a rail; None where it is. Raises `KeyError`."""
        foreseen = self.foreseen(rail, end, reference)
        return self.rule.too_unsure(foreseen.guard / COVERAGE) if foreseen else None

    @property
    @carried
    def bays(self) -> dict[str, BayAnswer]:
        """Every bay in the order they are screeded, as it stands."""
        if self.plan is None or self.planned is None:
            return {}
        work = (e for e in self._logbook.of_kind(BayWork).values() if e.plan == self.plan.plan.id)
        return bay_answers(self.plan.bays, work)

    @property
    @carried
    def batches(self) -> tuple[Batch, ...]:
        """Batches of mortar as they were mixed."""
        return batches(self._logbook.of_kind(BatchMixed), self._logbook.of_kind(BatchEnded).values())

    @property
    @carried
    def flags(self) -> dict[str, float]:
        """Flags lifted to look: how much of each had hold."""
        return lifted(self._logbook.of_kind(FlagLifted).values())

    @property
    def rule(self) -> SettingRule:
        """What a rail is held to, and what to do about one that is off."""
        return SettingRule(self._tolerance, "bed it down {amount}", "pack it up {amount}")

    @property
    def next_end(self) -> tuple[str, str] | None:
        """The first end that was not shot, else the first that is not right."""
        not_right = [key for key, each in self.ends.items() if each.call is not Call.GOOD]
        return next((key for key in not_right if self.ends[key].deviation is None), next(iter(not_right), None))

    @property
    @carried
    def dipped(self) -> dict[str, float]:
        """How far each rail hung under its string at its middle, metres, where it was looked at."""
        if self.planned is None:
            return {}
        known = self._logbook.of_kind(RailDipped).values()
        return {e.rail: e.gap.metres for e in known if e.plan == self.planned.id}

    def hangs(self, rail: Rail) -> float:
        """What a string should show at the middle of a rail packed as planned: its own sag where no packing is."""
        if self.planned is None or rail.spans % 2 == 0:
            return 0.0
        return sag_by_itself(self.planned.tube.metres, rail.length / rail.spans)

    @carried
    def packs(self, rail: str) -> tuple[tuple[float, float, bool], ...]:
        """For each packing of a rail: how far along it lies, how thick it is to be, and whether the base there was
        shot; metres. Raises `KeyError`."""
        if self.plan is None:
            raise KeyError(rail)
        each, built = self.plan.rails[rail], self.base
        found = []
        for share in each.packings:
            place = each.at(share)
            base = self._site.design.level(place) - self._site.specification.surface(self.carrying).depth
            shot = float(built.mesh.level_at(built.levels, [place])[0]) if built else math.nan
            is_shot = math.isfinite(shot)
            under = each.level(share) - self.plan.plan.tube.metres - (shot if is_shot else base)
            found.append((share * each.length, under, is_shot))
        return tuple(found)

    @property
    def base(self) -> AsBuilt | None:
        """What it is laid on, as shot; None where that is not known."""
        if not self.is_there:
            return None
        built = self._surfaces.built(self.carrying)
        return None if isinstance(built, NoSurface) else built

    @property
    @carried
    def bed(self) -> Bed | None:
        """How thick it will be; None where the base was not shot."""
        off = {key: each.deviation for key, each in self.ends.items() if each.deviation is not None}
        return bed_over(self._site, self.base, self.plan, off) if self.base else None

    @property
    @carried
    def mends(self) -> tuple[Mend, ...]:
        """Where the bed would leave what is allowed at any one place, the worst first."""
        if self.bed is None or self.range is None:
            return ()
        least, most = self.range.anywhere
        found = [
            Mend(name, thick, thick - most if thick > most else thick - least)
            for name, thick in self.bed.at_stations().items()
            if not least - 1e-6 <= thick <= most + 1e-6
        ]
        return tuple(sorted(found, key=lambda mend: -abs(mend.off)))

    @property
    def laying_rate(self) -> float:
        """What a person lays in an hour, m²."""
        paving = self._site.specification.layer(Role.PAVING)
        return FLAG_RATE if paving and paving.material in FLAGS else LAYING_RATE

    def under_the_board(self) -> tuple[float, float, float] | None:
        """Between packings as far apart as may be: how far that is, what a rail sags by itself, and under the board
        besides, metres; None where no rails are planned."""
        if self.planned is None:
            return None
        high = self.planned.tube.metres
        return PACKED_EVERY, sag_by_itself(high, PACKED_EVERY), sag_by_load(high, PACKED_EVERY, SCREED_LOAD)

    @property
    @carried
    def trial(self) -> Trial | None:
        seated = tuple(self._logbook.of_kind(TrialSeated).values())
        return Trial(seated) if seated else None

    @property
    def settlement(self) -> float:
        """How high over finished level units are laid, by the design."""
        return self._site.specification.settlement

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        if not self.is_there:
            return ()
        today = self._site.today
        return (
            *self._on_rails(), *self._on_the_bed(), *bay_findings(self.bays, today),
            *mortar_findings(self.batches, self.flags, today), *self._on_the_trial(),
        )  # fmt: skip

    def _on_rails(self) -> Iterator[Finding]:
        way = self.planned.way if self.planned else "along"
        out = [f"{rail} {ENDS_AS_SEEN[way, end]}" for (rail, end), each in self.ends.items()
               if each.call in (Call.HIGH, Call.LOW)]  # fmt: skip
        if out:
            yield Finding(
                "K01", Severity.STOP, Words("rails off their level: {rails}", names={"rails": ", ".join(out)}),
                Words("within {low} to {high}", limits={"low": -self._tolerance.low, "high": self._tolerance.high}),
                "The board follows the rails: what they are off, the bed is, and the paving after it.",
                "Pack up or bed down, and shoot the end again.", Source.MEMORY, number=len(out),
            )  # fmt: skip
        for rail, gap in self.dipped.items():
            should = self.hangs(self.plan.rails[rail]) if self.plan and rail in self.plan.rails else 0.0
            if gap > should + SAGS:
                yield Finding(
                    "K05", Severity.WARNING,
                    Words("{rail} hangs {gap} under its string", {"gap": gap}, names={"rail": rail}),
                    Words("{should}, and {more} more at most", {"should": should, "more": SAGS}),
                    "A rail that sags makes a hollow as long as itself.", "Pack it at its middle and look again.",
                    Source.PRACTICE, number=1,
                )  # fmt: skip

    @property
    def _tolerance(self) -> Tolerance:
        return self._site.specification.tolerance(self.surface)

    def _on_the_bed(self) -> Iterator[Finding]:
        limits, bed = self.range, self.bed
        if limits is None or bed is None:
            return
        by_station = bed.at_stations()
        for rule, severity, (least, most) in (
            ("K02", Severity.STOP, limits.stop), ("K03", Severity.WARNING, limits.anywhere),
        ):  # fmt: skip
            where = tuple(name for name, thick in by_station.items() if not least - 1e-6 <= thick <= most + 1e-6)
            if where:
                ends = {"least": bed.least[0], "greatest": bed.greatest[0]}
                yield Finding(
                    rule, severity, Words("the bed would be {least} to {greatest} thick", ends),
                    Words("{least} to {most} anywhere", {"least": least, "most": most}),
                    "A thick bed settles more than a thin one beside it: it is never there to level a base.",
                    "Put the base right where it is low or high, then look again.", Source.PRACTICE, where,
                )  # fmt: skip
                return
        if not limits.mean[0] - 1e-6 <= bed.mean <= limits.mean[1] + 1e-6:
            yield Finding(
                "K04", Severity.WARNING, Words("the bed would be {mean} thick on the whole", {"mean": bed.mean}),
                Words("{least} to {most}", {"least": limits.mean[0], "most": limits.mean[1]}),
                "All of it is thicker or thinner than it was meant: a benchmark, or the base as a whole.",
                "Look at the levels of base and rails once more.", Source.PRACTICE, number=1,
            )  # fmt: skip

    def _on_the_trial(self) -> Iterator[Finding]:
        trial = self.trial
        if trial is None or not trial.is_enough:
            return
        off = abs(trial.drop - self.settlement)
        if off > OFF_TRIAL and off > COVERAGE * trial.uncertainty:
            both = {"drop": trial.drop, "settlement": self.settlement}
            yield Finding(
                "K06", Severity.WARNING,
                Words("seating takes off {drop}, the design reckons with {settlement}", both),
                Words("at least {least} units measured", counts={"least": PLACES}),
                "Units laid too high or too low for this sand end too high or too low.",
                "Take the trial’s drop for the rest: rails and levels follow.", Source.PRACTICE, number=1,
            )  # fmt: skip

    def evidence(self) -> Mapping[str, object]:
        """The bed as a stage is signed on it, as JSON values: millimetres, m²."""
        bed, plan = self.bed, self.plan
        found: dict[str, object] = {}
        if plan and any(each.deviation is not None for each in self.ends.values()):
            found["rails"] = [
                {"rail": each.rail.name, "end": each.end, "level_m": round(each.level, 4),
                 "off_mm": None if each.deviation is None else _mm(each.deviation),
                 "call": each.call and str(each.call)}
                for each in self.ends.values()
            ]  # fmt: skip
        if bed:
            least, greatest = bed.least[0], bed.greatest[0]
            found["thickness"] = {"mean_mm": _mm(bed.mean), "least_mm": _mm(least), "greatest_mm": _mm(greatest),
                                  "over_m2": round(bed.area, 2)}  # fmt: skip
        if any(each.screeded for each in self.bays.values()):
            found["bays"] = [
                {"bay": name, "screeded": each.screeded and each.screeded.at.isoformat(timespec="minutes"),
                 "gap_mm": None if each.gap is None else _mm(each.gap), "call": each.call and str(each.call),
                 "closed": each.closed and each.closed.how}
                for name, each in self.bays.items()
            ]  # fmt: skip
        if self.batches:
            found["batches"] = [
                {"mixed": each.mixed.at.isoformat(timespec="minutes"), "parts": each.mixed.parts,
                 "until": each.until.isoformat(timespec="minutes"), "ended": each.ended and each.ended.how}
                for each in self.batches
            ]  # fmt: skip
        if self.flags:
            found["flags"] = [{"flag": where, "contact": contact} for where, contact in self.flags.items()]
        if self.trial:
            found["trial"] = {"drop_mm": _mm(self.trial.drop), "units": len(self.trial.seated)}
        return found


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)
