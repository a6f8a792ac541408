"""The one door: a job in, an assessment out. Every part is computed when asked for, and once."""

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from groundwork import levelling, stages
from groundwork.base import SurfaceKey, Tolerance
from groundwork.job import Fill, Job, Mark, Reading, SetUp, SignOff, Strike
from groundwork.measure import LONGEST_ROD
from groundwork.record import entry_hash
from groundwork.stages import EXCAVATION, Finding, Gate, Severity, Source
from groundwork.stations import Station, lay
from groundwork.surface import Point
from groundwork.verdict import FILL_LIFT, Filling, Judgement, Shot, Sight, Standing, judge, sight
from groundwork.words import Words

UNSHOT_SHARE = 0.1
"""More of the stations than this not shot, and the surface has not been checked (practice)."""


@dataclass(frozen=True)
class StationAnswer:
    """One station: design levels of the finished surface and the formation, the target reading for the
    present set-up (None without one) and the judgement on what was read."""

    station: Station
    finished: float
    design: float
    target: float | None
    judgement: Judgement

    @property
    def in_sight(self) -> bool:
        """Whether the line of sight meets a rod held at the design level."""
        return self.target is not None and 0 <= self.target <= LONGEST_ROD


@dataclass(frozen=True)
class StageAnswer:
    """A stage's gate, what holds it, and the sign-off that stands, if any."""

    stage: stages.Stage
    gate: Gate
    findings: tuple[Finding, ...] = ()
    sign_off: SignOff | None = None

    @property
    def stops(self) -> tuple[Finding, ...]:
        return tuple(f for f in self.findings if f.severity is Severity.STOP)

    @property
    def holding(self) -> int:
        """How many stations hold the stage, those not shot yet left out."""
        return sum(len(f.stations) for f in self.stops if f.rule != "D06")

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
        return tuple(self._formation_findings())

    def stage(self, key: str) -> StageAnswer:
        """How a stage stands. Raises `KeyError` for a stage that is not judged here."""
        if key != EXCAVATION.key:
            raise KeyError(key)
        sign_off = next((s for s in reversed(self.job.sign_offs) if s.stage == key), None)
        holds = sign_off is not None and _answer(sign_off.evidence) == _answer(self.evidence)
        gate = stages.gate(self.shot_count() > 0, self.findings, sign_off is not None, holds)
        return StageAnswer(EXCAVATION, gate, self.findings, sign_off)

    @cached_property
    def stage_line(self) -> tuple[StageAnswer, ...]:
        return tuple(self.stage(s.key) if s.judged else StageAnswer(s, Gate.UNJUDGED) for s in stages.STAGES)

    @cached_property
    def evidence(self) -> dict[str, Any]:
        """What the excavation is signed on, as JSON values; levels in metres, deviations in millimetres."""
        specification = self.job.specification
        return {
            "stage": EXCAVATION.key,
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
            "stations": [_station_evidence(answer) for answer in self.ground.values()],
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
    def evidence_hash(self) -> str:
        """What identifies the evidence, on a signer's screen and in the record."""
        return entry_hash(self.evidence)

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

    def _formation_findings(self) -> Iterator[Finding]:
        standing: dict[Standing, list[StationAnswer]] = defaultdict(list)
        for answer in self.ground.values():
            standing[answer.judgement.standing].append(answer)
        high, low = self.tolerance.high, self.tolerance.low

        def stop(rule: str, kind: Standing, found: str, limit: Words, why: str, cure: str) -> Iterator[Finding]:
            if at := standing[kind]:
                worst = max(abs(a.judgement.deviation or 0.0) for a in at)
                words = Words(found, {"worst": worst}, {"n": len(at)})
                names = tuple(a.station.name for a in at)
                yield Finding(rule, Severity.STOP, words, limit, why, cure, _source(rule), names)

        above = Words("at most {high} above design", {"high": high})
        below = Words("at most {low} below design", {"low": low})
        both = Words("{high} above to {low} below design, sure of it", {"high": high, "low": low})
        settles = "Soil put back settles under load; stone compacted in lifts does not."
        yield from stop(
            "D02", Standing.DIG, "{n} not deep enough, up to {worst} high", above,
            "A high formation steals thickness from the base.", "Dig to the target reading and shoot again.",
        )  # fmt: skip
        yield from stop(
            "D03", Standing.OVER_DUG, "{n} over-dug, up to {worst} low", below,
            settles, "Fill with base stone, compact, log the fill and shoot again.",
        )  # fmt: skip
        yield from stop(
            "D03", Standing.FILLED, "{n} filled and not shot since", below,
            "The fill has to be compacted up to the formation's level.", "Compact and shoot again.",
        )  # fmt: skip
        yield from stop(
            "D03", Standing.UNEXPLAINED, "{n} over-dug, now at level, with nothing logged as fill", below,
            settles, "Log what filled it, or strike out the reading that was wrong.",
        )  # fmt: skip
        yield from stop(
            "D03", Standing.UNSOUND_FILL, "{n} filled with soil or in too few lifts",
            Words("stone, in lifts of at most {lift}", {"lift": FILL_LIFT}),
            settles, "Take it out, fill with stone in lifts, compact each, shoot again.",
        )  # fmt: skip
        yield from stop(
            "D02", Standing.TOO_CLOSE, "{n} too close to the limit to call", both,
            "The reading itself is uncertain; nearer to the limit than that, it is no verdict.",
            "Shoot again on the same ground, or trim toward design.",
        )  # fmt: skip
        yield from stop(
            "D02", Standing.UNKNOWN, "{n} read from a set-up since struck out", both,
            "A level is worth no more than the set-up it was read from.", "Shoot again.",
        )  # fmt: skip
        if unshot := standing[Standing.UNSHOT]:
            mostly_shot = len(unshot) <= UNSHOT_SHARE * len(self.ground)
            yield Finding(
                "D06",
                Severity.WARNING if mostly_shot else Severity.STOP,
                Words("{n} of {all} stations not shot", counts={"n": len(unshot), "all": len(self.ground)}),
                Words("every station; a tenth may be missing with a warning"),
                "Between stations nobody knows the level.",
                "Shoot the rest.",
                Source.PRACTICE,
                tuple(a.station.name for a in unshot),
            )


def assess(job: Job) -> Assessment:
    """The assessment of a job: verdicts, findings, stage gates and evidence, computed from what was recorded."""
    return Assessment(job)


def _source(rule: str) -> Source:
    return {"D02": Source.MEMORY}.get(rule, Source.PRACTICE)


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)


def _station_evidence(answer: StationAnswer) -> dict[str, Any]:
    judgement = answer.judgement
    found: dict[str, Any] = {
        "station": answer.station.name,
        "at_m": list(answer.station.at),
        "verdict": judgement.standing,
    }
    found |= {"design_m": round(answer.design, 4), "shots": judgement.shots}
    if judgement.level is None or judgement.deviation is None or judgement.uncertainty is None:
        return found
    return found | {
        "level_m": round(judgement.level, 4),
        "deviation_mm": _mm(judgement.deviation),
        "standard_uncertainty_mm": _mm(judgement.uncertainty),
    }


def _answer(evidence: dict[str, Any]) -> dict[str, tuple[str, float]]:
    """The part of the evidence whose change overtakes a sign-off: each station's verdict and design level."""
    return {s["station"]: (str(s["verdict"]), s["design_m"]) for s in evidence["stations"]}
