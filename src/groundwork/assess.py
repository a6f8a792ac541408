"""The one door: a job in, an assessment out. Every part is computed when asked for, and once."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

from groundwork import stages
from groundwork.base import SurfaceKey
from groundwork.entries import (
    Anchor,
    MeterBase,
    SetUp,
    StringLine,
)
from groundwork.findings import Finding, Severity, Source, finding_data
from groundwork.job import Acceptance, Job, SignOff
from groundwork.judged import Judged
from groundwork.record import entry_hash
from groundwork.services import service_findings
from groundwork.shots import station_evidence
from groundwork.site import site_data
from groundwork.stages import BRIEF, EXCAVATION, SET_OUT, Gate
from groundwork.words import Words

_Kind = TypeVar("_Kind")


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


class Assessment(Judged):
    """What a job comes to; made by `assess`."""

    @cached_property
    def surface_in_hand(self) -> str:
        """The surface being built: the formation until the dig is signed, then the lowest with a station left or
        not good, else the finished paving."""
        if self.stage(EXCAVATION.key).gate is not Gate.SIGNED:
            return SurfaceKey.FORMATION
        above = [self.survey(surface.key) for surface in self.surfaces[1:]]
        return next((s.surface.key for s in above if s.left or s.unsound), self.surfaces[-1].key)

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
        if key == SET_OUT.key:
            begun = bool(self.set_out.lengths or self.location)
            findings = (*self._stands_on(BRIEF), *self.set_out_findings)
        elif key == EXCAVATION.key:
            begun = self.shot_count() > 0
            unlocated = service_findings(self.location)
            findings = (*self._stands_on(BRIEF), *self._stands_on(SET_OUT), *unlocated, *self.findings,
                        *self.margin_findings, *self.works.depth_findings)  # fmt: skip
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
        return {
            BRIEF.key: self._brief_evidence,
            SET_OUT.key: self._set_out_evidence,
            EXCAVATION.key: self._dig_evidence,
        }[key]

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
            "read_against": [self._anchor_data(entry) for entry in self.anchors.values()],
            "closings": [
                {
                    "mark": c.sight.point,
                    "set_ups": [s.id for s in c.chain],
                    "misclosure_mm": _mm(c.misclosure),
                    "allowed_mm": _mm(c.allowed),
                }
                for c in self.runs.closings
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

    def _anchor_data(self, entry: Anchor) -> dict[str, Any]:
        """What readings were taken against, as JSON values."""
        data: dict[str, Any] = {"id": entry.id, "kind": entry.KIND, "method": str(entry.instrument.method)}
        data["reading_u_mm"] = _mm(entry.instrument.reading_u)
        if lost := self.why_lost(entry.id):
            return data | {"lost": str(lost)}
        match entry:
            case SetUp():
                height = self.runs.heights[entry.id]
                return data | {
                    "mark": entry.mark,
                    "mark_level_m": _metres(self.runs.level_of(entry.mark)),
                    "backsight": entry.backsight.raw,
                    "instrument_height_m": round(height.level, 4),
                    "standard_uncertainty_mm": _mm(height.uncertainty),
                }
            case MeterBase():
                return data | {"mark": entry.mark, "shows": entry.shows.raw}
            case StringLine():
                return data | {
                    "from": entry.start,
                    "to": entry.end,
                    "levels_m": [round(entry.start_level, 4), round(entry.end_level, 4)],
                }
            case _:
                return data

    @cached_property
    def _set_out_evidence(self) -> dict[str, Any]:
        """The lengths taped and how each peg stands, and the services as located."""
        located = self.location
        return {
            "stage": SET_OUT.key,
            "version": self.job.version,
            "outline_m": [list(corner) for corner in self.job.outline],
            "lengths": [
                {"from": x.start, "to": x.end, "typed": x.length.raw, "m": round(x.length.metres, 4)}
                for x in self.set_out.lengths
            ],
            "pegs": [
                {"peg": p.name, "out_of_place_mm": _mm(p.move), "in_place": p.in_place} for p in self.set_out.pegs
            ],
            "services": located
            and {
                "ticket": located.entry.ticket,
                "located_on": located.entry.located_on.isoformat(),
                "last_day": located.last_day.isoformat(),
                "by": located.entry.by,
                "found": located.entry.found,
            },
            "findings": [
                {"rule": f.rule, "severity": f.severity, "found": f.found.text(self.job.unit)}
                for f in self.set_out_findings
            ],
        }


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


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)


def _metres(level: float | None) -> float | None:
    return None if level is None else round(level, 4)


def _answer(stage: str, evidence: dict[str, Any]) -> object:
    """The part of the evidence whose change overtakes a sign-off: of the dig each station's verdict and design
    level, of the set-out whether each peg stands in place, of the brief the design it was signed on, whatever it
    is called and wherever one shoots."""
    if stage == SET_OUT.key:
        return (
            evidence["outline_m"],
            [(p["peg"], p["in_place"]) for p in evidence["pegs"]],
            bool(evidence["services"]),
        )
    if stage == EXCAVATION.key:
        return {s["station"]: (str(s["verdict"]), s["design_m"]) for s in evidence["stations"]}
    design = {key: value for key, value in evidence["design"].items() if key not in _NOT_THE_DESIGN}
    # In how many lifts a layer is laid is for the crew to say, and changes no surface that is signed.
    design["specification"] = {key: value for key, value in design["specification"].items() if key != "lifts"}
    return design


_JUDGED = {stage.key: stage for stage in stages.STAGES if stage.judged}
_NOT_THE_DESIGN = frozenset({"format", "name", "units", "station_spacing_m", "marks"})
