"""A station as shot on one surface, and the stations nobody has shot."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from groundwork.measures import Finding, Severity, Source, Words
from groundwork.plan import Station
from groundwork.verdict import Judgement, Standing

UNSHOT_SHARE = 0.1
"""More of the stations than this not shot, and the surface has not been checked (practice)."""


@dataclass(frozen=True)
class StationAnswer:
    """One station: design levels of the finished surface and of the one shot, and the judgement on what was
    read."""

    station: Station
    finished: float
    design: float
    judgement: Judgement


def unshot_finding(answers: Sequence[StationAnswer]) -> Finding | None:
    """D06: fewer stations shot than the plan asks."""
    unshot = [a.station.name for a in answers if a.judgement.standing is Standing.UNSHOT]
    if not unshot:
        return None
    return Finding(
        "D06",
        Severity.WARNING if len(unshot) <= UNSHOT_SHARE * len(answers) else Severity.STOP,
        Words("{n} of {all} stations not shot", counts={"n": len(unshot), "all": len(answers)}),
        Words("every station; a tenth may be missing with a warning"),
        "Between stations nobody knows the level.",
        "Shoot the rest.",
        Source.PRACTICE,
        tuple(unshot),
    )


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
