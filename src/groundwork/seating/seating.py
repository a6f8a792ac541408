"""Seating of a job: patch by patch what goes over, station by station what came down, and the units to mend."""

import math
from collections import Counter
from collections.abc import Iterator
from typing import Any

import shapely
from shapely.geometry.base import BaseGeometry

from groundwork.base import Family, Role, SurfaceKey
from groundwork.bedding import Bedding
from groundwork.job import Job
from groundwork.jointwork import FaceSeen, LaidShot, LipTaped, UnitFace, UnitFault, UnitMended
from groundwork.layerwork import Direction, MachineBrought, Passed
from groundwork.laying import Laying
from groundwork.levels import Levels, Reference
from groundwork.lifts import Coverage
from groundwork.logbook import Logbook
from groundwork.measures import Finding
from groundwork.plan import patches
from groundwork.seating.plates import FEWEST, is_plate, passes
from groundwork.seating.rules import laid_findings, pass_findings, plate_findings, unit_findings
from groundwork.seating.seated import Seated
from groundwork.seating.units import LIPS, ToMend, newest_lips, to_mend
from groundwork.soundness import Case
from groundwork.survey import Surveys, Top, misread_top
from groundwork.tools import Machine
from groundwork.verdict import Foreseen, Suspicion
from groundwork.workings import JobPart, Workings, carried

KEPT_OFF = 1.0
"""Metres along an open face that no plate goes over (interlocking-paving guidance, quoted from memory)."""
LARGE = 0.45
"""Units with a longer side are tapped in, metres (interlocking-paving guidance, quoted from memory)."""
TAPPED = frozenset({"porcelain"})
TEXTURED = frozenset({"natural-stone", "clay-paver"})
"""Materials whose faces are textured where nobody says otherwise (common practice)."""
HARDLY = 0.1
"""A patch is gone over where so much of it can be."""


class Seating(JobPart):
    """How the paving of a job is seated; nothing is asked where nothing is laid by this crew."""

    PART = "seating"

    def __init__(
        self, workings: Workings, site: Job, case: Case, logbook: Logbook, levels: Levels, surveys: Surveys,
        laying: Laying, bedding: Bedding,
    ) -> None:  # fmt: skip
        super().__init__(workings)
        self._case = case
        self._site, self._logbook, self._levels, self._surveys = site, logbook, levels, surveys
        self._laying, self._bedding = laying, bedding

    @property
    def is_there(self) -> bool:
        """Whether this crew lays units here."""
        paving = self._site.specification.layer(Role.PAVING)
        return self._laying.is_there and paving is not None and paving.family is Family.UNIT

    @property
    def thickness(self) -> float:
        """Of the units, metres."""
        paving = self._site.specification.layer(Role.PAVING)
        return paving.thickness if paving else 0.0

    @property
    def is_tapped(self) -> bool:
        """Whether units are tapped in one by one: no plate goes over porcelain, over what lies in mortar, or over
        large units."""
        paving, bed = self._site.specification.layer(Role.PAVING), self._site.specification.layer(Role.BEDDING)
        chosen = self._laying.chosen
        large = chosen is not None and chosen.length.metres > LARGE + 1e-9
        in_mortar = bed is not None and bed.family is Family.MORTAR
        return large or in_mortar or (paving is not None and paving.material in TAPPED)

    @property
    def is_plated(self) -> bool:
        """Whether a plate goes over it: where units are not tapped in, and where the school seats them so."""
        return not self.is_tapped and any("seating" in row for row in self._case.school.order)

    @property
    @carried
    def drop(self) -> float:
        """What seating takes off, metres: by the trial patch where enough of it was measured, else by the design."""
        trial = self._bedding.trial
        return trial.drop if trial and trial.is_enough else self._bedding.settlement

    @property
    @carried
    def gone_over(self) -> tuple[Passed, ...]:
        """Every pass over the paving."""
        return tuple(e for e in self._logbook.of_kind(Passed).values() if e.lift == SurfaceKey.FINISHED)

    @property
    @carried
    def machines(self) -> dict[str, Machine]:
        """Every machine on the job, by the entry that brought it."""
        return {name: each.machine for name, each in self._logbook.of_kind(MachineBrought).items()}

    @property
    def machine_now(self) -> str | None:
        """The machine that went over it last, else the plate brought last, else any."""
        last = self.gone_over[-1].machine if self.gone_over else None
        if last in self.machines:
            return last
        plates = [name for name, machine in self.machines.items() if is_plate(machine)]
        return next(reversed(plates or list(self.machines)), None)

    @property
    def passes(self) -> int:
        """How often the plate in use goes over."""
        machine = self.machines.get(self.machine_now or "")
        return (passes(machine, self.thickness) if machine else None) or FEWEST

    @property
    @carried
    def coverage(self) -> tuple[Coverage, ...]:
        """Every patch that can be gone over now, with how often it was."""
        found, kept_off = [], self.kept_off
        for patch in patches(self._site.area):
            free = patch.outline.difference(kept_off) if kept_off is not None else patch.outline
            if free.area < HARDLY * patch.outline.area:
                continue
            here = [e for e in self.gone_over if e.patch in ("", patch.name) and e.machine in self.machines]
            ways = Counter(e.direction for e in here)
            shares = [passes(self.machines[e.machine], self.thickness) for e in here]
            share = sum(1 / each for each in shares if each)
            found.append(Coverage(patch, ways[Direction.ALONG], ways[Direction.ACROSS], share))
        return tuple(found)

    def passes_left(self, coverage: Coverage) -> int:
        """How many more passes of the plate in use a patch needs."""
        left = max(math.ceil((1 - (coverage.share or 0.0)) * self.passes - 1e-9), FEWEST - coverage.passes, 0)
        return max(left, 1 if 0 in (coverage.along, coverage.across) else 0)

    @property
    @carried
    def kept_off(self) -> BaseGeometry | None:
        """Where no plate goes yet: what is not laid, and a metre along its open face; None where all is laid, or
        nobody said how far."""
        there = self._laying
        laid = there.laid_part
        if laid is None or there.paving is None or there.laid_rows >= max(there.paving.rows, default=0):
            return None
        free = self._site.area.difference(laid)
        return shapely.intersection(free.buffer(KEPT_OFF), self._site.area)

    @property
    @carried
    def next_pass(self) -> tuple[str, Direction] | None:
        """The patch to go over next, and which way."""
        left = [each for each in self.coverage if not each.is_done]
        least = min(left, key=lambda each: each.passes, default=None)
        return (least.patch.name, least.next_way) if least else None

    def _top(self, station: str) -> Top:
        """A station as it should lie before it is seated."""
        answer = self._surveys.of(SurfaceKey.FINISHED).answers[station]
        return Top(answer.station.at, answer.finished + self.drop, self._site.design.level)

    def target(self, station: str, reference: Reference | None) -> float | None:
        """What should be read before it is seated, metres; None where nothing can be. Raises `KeyError`."""
        return self._top(station).target(reference)

    def foreseen(self, station: str, reference: Reference | None) -> Foreseen | None:
        return self._top(station).foreseen(reference)

    def misread(self, shot: LaidShot) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread."""
        shots = self._logbook.of_kind(LaidShot).values()
        before = next((e for e in reversed(shots) if e.station != shot.station), None)
        typed = (before.reading.raw, before.reading.metres) if before else None
        target = self.target(shot.station, self._levels.references.get(shot.set_up))
        return misread_top(shot.reading.raw, shot.reading.metres, target, self._site.unit, typed)

    @property
    @carried
    def _laid_high(self) -> dict[str, float]:
        """By station how far above the finished level units lay before they were seated, metres."""
        found = {}
        for shot in self._logbook.of_kind(LaidShot).values():
            if shot.station in self._surveys.of(SurfaceKey.FINISHED).answers:
                read = self._top(shot.station).read(self._levels.against(shot), shot.reading.metres)
                if read:
                    found[shot.station] = read[0] + self.drop
        return found

    @property
    @carried
    def stations(self) -> dict[str, Seated]:
        """Every station of the finished paving."""
        survey = self._surveys.of(SurfaceKey.FINISHED)
        more = min((each.passes for each in self.coverage), default=0) <= self.passes
        return {
            name: Seated(name, self._laid_high.get(name), answer.judgement, survey.tolerance.high, self.drop, more)
            for name, answer in survey.answers.items()
        }

    @property
    def next_before(self) -> str | None:
        """The station to shoot next before seating."""
        return next((name for name, each in self.stations.items() if each.before is None), None)

    @property
    def came_down(self) -> tuple[float, ...]:
        """By how much each station came down that was shot before and after, metres."""
        return tuple(each.came_down for each in self.stations.values() if each.came_down is not None)

    @property
    @carried
    def face(self) -> UnitFace:
        """What units are like on top: as somebody said, else as their material usually is."""
        said = next(reversed(self._logbook.of_kind(FaceSeen).values()), None)
        if said is not None:
            return said.face
        paving = self._site.specification.layer(Role.PAVING)
        return UnitFace.TEXTURED if paving and paving.material in TEXTURED else UnitFace.FLAT

    @property
    @carried
    def lips(self) -> tuple[LipTaped, ...]:
        """The lip at each place as it was taped last."""
        return tuple(newest_lips(self._logbook.of_kind(LipTaped).values()))

    @property
    @carried
    def to_mend(self) -> tuple[ToMend, ...]:
        """Units to mend still, in the order one walks to them."""
        mended = self._logbook.of_kind(UnitMended).values()
        return tuple(to_mend(self._logbook.of_kind(UnitFault), self.lips, mended, LIPS[self.face]))

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        """What holds seating, and what to mind of it."""
        return tuple(self._found())

    def _found(self) -> Iterator[Finding]:
        if not self.is_there:
            return
        used = dict.fromkeys(e.machine for e in self.gone_over)
        machines = [self.machines[name] for name in used if name in self.machines]
        yield from plate_findings(machines, self.thickness, tapped=self.is_tapped)
        if self.is_plated:
            if self.kept_off is not None and self._laying.paving is not None:
                yield from laid_findings(self._laying.laid_rows, max(self._laying.paving.rows))
            yield from pass_findings(self.coverage, passes=self.passes)
        yield from self.unit_findings

    @property
    @carried
    def unit_findings(self) -> tuple[Finding, ...]:
        """What holds the paving as it lies, seated or not: units to mend, and lips."""
        return tuple(unit_findings(self.to_mend, len(self.lips), self.face)) if self.is_there else ()

    @property
    def is_begun(self) -> bool:
        return bool(self.gone_over or self._laid_high or self.lips or self._logbook.of_kind(UnitFault))

    def evidence(self) -> dict[str, Any]:
        """How the paving was seated, as JSON values; lengths in millimetres."""
        if not self.is_there:
            return {}
        came, used = self.came_down, dict.fromkeys(each.machine for each in self.gone_over)
        plates = [self.machines[name] for name in used if name in self.machines]
        return {
            "passes": [{"patch": c.patch.name, "along": c.along, "across": c.across} for c in self.coverage],
            "plates": [{"machine": each.name, "mass_kg": each.mass, "blow_kn": each.force} for each in plates],
            "came_down_mm": {"stations": len(came), "mean": _mm(sum(came) / len(came))} if came else None,
            **self.lips_evidence(),
        }

    def lips_evidence(self) -> dict[str, Any]:
        """How even units lie, as JSON values."""
        return {
            "lips": {"face": str(self.face), "places": len(self.lips),
                     "greatest_mm": _mm(max((each.lip.metres for each in self.lips), default=0.0))},
            "to_mend": len(self.to_mend),
        }  # fmt: skip


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)
