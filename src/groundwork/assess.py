"""The one door: a job in, an assessment out. Every part is computed when asked for, and once."""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from groundwork import levelling, stages
from groundwork.base import SurfaceKey, Tolerance
from groundwork.dig import StationAnswer, formation_findings, station_evidence
from groundwork.job import Acceptance, Fill, Job, Mark, Reading, SetUp, SignOff, Strike
from groundwork.measure import Unit
from groundwork.quantities import Quantities, quantities
from groundwork.record import entry_hash
from groundwork.site import site_data
from groundwork.soundness import Case, soundness
from groundwork.stages import BRIEF, EXCAVATION, Finding, Gate, Severity, Source
from groundwork.stations import Station, lay
from groundwork.surface import Point
from groundwork.verdict import Filling, Shot, Sight, Standing, judge, sight
from groundwork.words import Words


@dataclass(frozen=True)
class StageAnswer:
    """A stage's gate, what holds it, and the sign-off that stands, if any; `accepted` by a finding's identity."""

    stage: stages.Stage
    gate: Gate
    findings: tuple[Finding, ...] = ()
    sign_off: SignOff | None = None
    accepted: Mapping[str, Acceptance] = field(default_factory=dict)

    @property
    def stops(self) -> tuple[Finding, ...]:
        """The stops nobody has accepted."""
        return tuple(f for f in self.findings if f.severity is Severity.STOP and f.identity not in self.accepted)

    @property
    def holding(self) -> int:
        """How many stations, or other things, hold the stage; stations not shot yet left out."""
        return sum(len(f.stations) or 1 for f in self.stops if f.rule != "D06")

    @property
    def unshot(self) -> int:
        return sum(len(f.stations) for f in self.findings if f.rule == "D06")

    @property
    def may_be_signed(self) -> bool:
        return self.gate is Gate.READY or (self.gate is Gate.OVERTAKEN and not self.stops)


class Assessment:
    """What a job comes to; made by `assess`."""

    def __init__(self, job: Job) -> None:
        self.job = job

    @cached_property
    def struck(self) -> frozenset[str]:
        return frozenset(entry.strikes for entry in self.job.entries if isinstance(entry, Strike))

    @cached_property
    def set_ups(self) -> dict[str, SetUp]:
        """Set-ups that count, oldest first, by id."""
        return {e.id: e for e in self.job.entries if isinstance(e, SetUp) and e.id not in self.struck}

    @cached_property
    def marks(self) -> dict[str, Mark]:
        return {mark.name: mark for mark in self.job.marks}

    @property
    def set_up(self) -> SetUp | None:
        """The present set-up: the newest that counts."""
        return next(reversed(self.set_ups.values()), None)

    def instrument_height(self, set_up: SetUp) -> float:
        return levelling.height_of_instrument(self.marks[set_up.mark].level, set_up.backsight.metres)

    @cached_property
    def stations(self) -> tuple[Station, ...]:
        return lay(self.job.area, self.job.station_spacing)

    @property
    def tolerance(self) -> Tolerance:
        return self.job.specification.formation_tolerance

    @cached_property
    def ground(self) -> dict[str, StationAnswer]:
        """The formation at every station, in walking order."""
        finished = self.job.design.level_at(*np.array([station.at for station in self.stations]).T)
        depth = self.job.specification.excavation_depth
        height = self.instrument_height(self.set_up) if self.set_up else None
        answers = {}
        for station, level in zip(self.stations, finished.tolist(), strict=True):
            design = level - depth
            target = None if height is None else levelling.target_reading(height, design)
            judgement = judge(self._history(station), design, self.tolerance)
            answers[station.name] = StationAnswer(station, level, design, target, judgement)
        return answers

    def entries_at(self, station: str) -> list[Reading | Fill]:
        """What was recorded at a station and counts, oldest first."""
        return self._events.get(station, [])

    def next_station(self, after: str) -> str:
        """The next station in walking order that still wants shooting, else simply the next."""
        names = [station.name for station in self.stations]
        place = names.index(after)
        onward = names[place + 1 :] + names[:place]
        return next((n for n in onward if self.ground[n].judgement.standing is Standing.UNSHOT), onward[0])

    def shot_count(self) -> int:
        return sum(a.judgement.standing is not Standing.UNSHOT for a in self.ground.values())

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """The D rules on the formation as shot."""
        return tuple(formation_findings(self.ground.values(), self.tolerance))

    @cached_property
    def soundness(self) -> tuple[Finding, ...]:
        """The S rules on the base specification."""
        return soundness(self.job)

    @cached_property
    def case(self) -> Case:
        """The specification with what its rules go by: school, ground, outlet."""
        return Case(self.job)

    @cached_property
    def quantities(self) -> Quantities:
        return quantities(self.job.area, self.job.specification)

    def stage(self, key: str) -> StageAnswer:
        """How a stage stands. Raises `KeyError` for a stage that is not judged here."""
        if key not in _JUDGED:
            raise KeyError(key)
        if key not in self._stages:
            self._stages[key] = self._stage(key)
        return self._stages[key]

    @cached_property
    def _stages(self) -> dict[str, StageAnswer]:
        return {}

    def _stage(self, key: str) -> StageAnswer:
        begun, findings = True, self.soundness
        if key == EXCAVATION.key:
            begun, findings = self.shot_count() > 0, (*self._stands_on(BRIEF), *self.findings)
        accepted = {a.finding: a for a in self.job.acceptances if a.stage == key}
        sign_off = next((s for s in reversed(self.job.sign_offs) if s.stage == key), None)
        holds = sign_off is not None and _answer(key, sign_off.evidence) == _answer(key, self.evidence_of(key))
        open_findings = [f for f in findings if f.identity not in accepted]
        gate = stages.gate(begun, open_findings, sign_off is not None, holds)
        return StageAnswer(_JUDGED[key], gate, findings, sign_off, accepted)

    def _stands_on(self, stage: stages.Stage) -> Iterator[Finding]:
        """G01: what a stage stands on is signed first."""
        gate = self.stage(stage.key).gate
        if gate is not Gate.SIGNED:
            found = "{stage} was signed and is overtaken" if gate is Gate.OVERTAKEN else "{stage} is not signed"
            yield Finding(
                "G01",
                Severity.STOP,
                Words(found, names={"stage": stage.title}),
                Words("signed before what stands on it"),
                "What is checked against a design nobody has signed may have to be done again.",
                "Sign it first.",
                Source.PRACTICE,
            )

    @cached_property
    def stage_line(self) -> tuple[StageAnswer, ...]:
        return tuple(self.stage(s.key) if s.judged else StageAnswer(s, Gate.UNJUDGED) for s in stages.STAGES)

    @property
    def in_hand(self) -> StageAnswer:
        """The first stage judged here that is not signed, or else the last of them."""
        judged = [answer for answer in self.stage_line if answer.stage.judged]
        return next((answer for answer in judged if answer.gate is not Gate.SIGNED), judged[-1])

    def evidence_of(self, key: str) -> dict[str, Any]:
        """What a stage is signed on, as JSON values. Raises `KeyError` for a stage that is not judged here."""
        return {BRIEF.key: self._brief_evidence, EXCAVATION.key: self._dig_evidence}[key]

    def evidence_hash(self, key: str) -> str:
        """What identifies a stage's evidence, on a signer's screen and in the record."""
        return entry_hash(self.evidence_of(key))

    @cached_property
    def _brief_evidence(self) -> dict[str, Any]:
        """The design with its version, what was found against it, and what of that was accepted."""
        accepted = {a.finding: a for a in self.job.acceptances if a.stage == BRIEF.key}
        return {
            "stage": BRIEF.key,
            "version": self.job.version,
            "design": site_data(self.job),
            "excavation_depth_mm": _mm(self.job.specification.excavation_depth),
            "findings": [
                finding_data(f, self.job.unit)
                | (
                    {"accepted": {"by": a.by, "role": a.role, "reason": a.reason}}
                    if (a := accepted.get(f.identity))
                    else {}
                )
                for f in self.soundness
            ],
        }

    @cached_property
    def _dig_evidence(self) -> dict[str, Any]:
        """What the excavation is signed on, as JSON values; levels in metres, deviations in millimetres."""
        specification = self.job.specification
        return {
            "stage": EXCAVATION.key,
            "version": self.job.version,
            "excavation_depth_mm": _mm(specification.excavation_depth),
            "tolerance_mm": {"high": _mm(self.tolerance.high), "low": _mm(self.tolerance.low)},
            "layers": [
                {"role": layer.role, "material": layer.material, "thickness_mm": _mm(layer.thickness)}
                for layer in specification.layers
            ],
            "set_ups": [
                {
                    "id": s.id,
                    "mark": s.mark,
                    "mark_level_m": self.marks[s.mark].level,
                    "backsight": s.backsight.raw,
                    "instrument_height_m": round(self.instrument_height(s), 4),
                }
                for s in self.set_ups.values()
            ],
            "stations": [station_evidence(answer) for answer in self.ground.values()],
            "findings": [
                {
                    "rule": f.rule,
                    "severity": f.severity,
                    "found": f.found.text(self.job.unit),
                    "stations": list(f.stations),
                }
                for f in self.findings
            ],
        }

    @cached_property
    def _events(self) -> dict[str, list[Reading | Fill]]:
        by_station: dict[str, list[Reading | Fill]] = defaultdict(list)
        for entry in self.job.entries:
            if isinstance(entry, Reading | Fill) and entry.id not in self.struck:
                if isinstance(entry, Reading) and entry.surface is not SurfaceKey.FORMATION:
                    continue
                by_station[entry.station].append(entry)
        return by_station

    @cached_property
    def _farthest(self) -> float:
        """From end to end of the site, its marks included: taken where it is not known how far a sight was."""
        places = np.array([*self.job.outline, *(mark.at for mark in self.job.marks)])
        return float(np.hypot(*np.ptp(places, axis=0)))

    @cached_property
    def _back_sights(self) -> dict[str, float]:
        return {s.id: self._sight_length(s, self.marks[s.mark].at) for s in self.set_ups.values()}

    def _sight_length(self, set_up: SetUp, to: Point) -> float:
        return self._farthest if set_up.at is None else math.dist(set_up.at, to)

    def _history(self, station: Station) -> list[Shot | Filling]:
        """What happened at a station: readings on unchanged ground stand together in one shot."""
        history: list[Shot | Filling] = []
        for event in self.entries_at(station.name):
            if isinstance(event, Fill):
                history.append(Filling(event.is_stone, event.lifts))
                continue
            sights = self._sights(event, station)
            last = history[-1] if history else None
            if event.same_ground and isinstance(last, Shot):
                history[-1] = Shot(last.sights + sights)
            else:
                history.append(Shot(sights))
        return history

    def _sights(self, reading: Reading, station: Station) -> tuple[Sight, ...]:
        set_up = self.set_ups.get(reading.set_up)
        if set_up is None:
            return ()
        level = levelling.reduced_level(self.instrument_height(set_up), reading.reading.metres)
        fore_sight = self._sight_length(set_up, station.at)
        return (sight(level, set_up.id, set_up.instrument, self._back_sights[set_up.id], fore_sight),)


def assess(job: Job) -> Assessment:
    """The assessment of a job: verdicts, findings, stage gates and evidence, computed from what was recorded."""
    return Assessment(job)


def overtaken(before: Assessment, after: Assessment) -> tuple[StageAnswer, ...]:
    """The sign-offs that hold before a change and no longer hold after it."""
    return tuple(
        answer
        for answer in before.stage_line
        if answer.gate is Gate.SIGNED and after.stage(answer.stage.key).gate is not Gate.SIGNED
    )


def finding_data(finding: Finding, unit: Unit) -> dict[str, Any]:
    """A finding as JSON values."""
    return {
        "rule": finding.rule,
        "severity": str(finding.severity),
        "found": finding.found.text(unit),
        "limit": finding.limit.text(unit),
        "why": finding.why,
        "cure": finding.cure,
        "source": str(finding.source),
        "stations": list(finding.stations),
    }


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)


def _answer(stage: str, evidence: dict[str, Any]) -> object:
    """The part of the evidence whose change overtakes a sign-off: of the dig each station's verdict and design
    level, of the brief the design it was signed on, whatever it is called and wherever one shoots."""
    if stage == EXCAVATION.key:
        return {s["station"]: (str(s["verdict"]), s["design_m"]) for s in evidence["stations"]}
    return {key: value for key, value in evidence["design"].items() if key not in _NOT_THE_DESIGN}


_JUDGED = {stage.key: stage for stage in stages.STAGES if stage.judged}
_NOT_THE_DESIGN = frozenset({"format", "name", "units", "station_spacing_m", "marks"})
