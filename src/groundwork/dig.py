"""The dig: every station of the formation as judged, and what the D rules find."""

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from groundwork.base import Tolerance
from groundwork.measure import LONGEST_ROD
from groundwork.stages import Finding, Severity, Source
from groundwork.stations import Station
from groundwork.verdict import FILL_LIFT, Judgement, Standing
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


def formation_findings(ground: Iterable[StationAnswer], tolerance: Tolerance) -> Iterator[Finding]:
    """The D rules on the formation as shot."""
    standing: dict[Standing, list[StationAnswer]] = defaultdict(list)
    answers = tuple(ground)
    for answer in answers:
        standing[answer.judgement.standing].append(answer)
    high, low = tolerance.high, tolerance.low

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
        mostly_shot = len(unshot) <= UNSHOT_SHARE * len(answers)
        yield Finding(
            "D06",
            Severity.WARNING if mostly_shot else Severity.STOP,
            Words("{n} of {all} stations not shot", counts={"n": len(unshot), "all": len(answers)}),
            Words("every station; a tenth may be missing with a warning"),
            "Between stations nobody knows the level.",
            "Shoot the rest.",
            Source.PRACTICE,
            tuple(a.station.name for a in unshot),
        )


def _source(rule: str) -> Source:
    return {"D02": Source.MEMORY}.get(rule, Source.PRACTICE)


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)


def station_evidence(answer: StationAnswer) -> dict[str, Any]:
    """What stands of a station in a sign-off: levels in metres, deviations in millimetres."""
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
