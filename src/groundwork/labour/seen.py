"""Hours as the record has them, where nobody wrote any down: from the first entry of a stage on a day to the last."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime

from groundwork.base import SurfaceKey
from groundwork.bedwork import BedWork
from groundwork.edgework import EdgeWork
from groundwork.entries import FallCheck, Fill, PegDistance, PegMove, Reading
from groundwork.jointwork import FillStepDone, FillUsed, JointDepth, PavedWork
from groundwork.kinds import Entry
from groundwork.layerwork import FabricLaid, Passed, Poured, Spread, Tamped, ToppedUp
from groundwork.laywork import LayWork, PieceCut

SHORTEST, LONGEST = 0.25, 12.0
"""Hours: a stage with one entry on a day took some time all the same; nobody works longer than that."""


@dataclass(frozen=True)
class Stamp:
    """When somebody recorded something of a stage."""

    stage: str
    at: datetime
    by: str


def stage_of(entry: Entry, *, early: bool) -> str | None:
    """The stage an entry was made at, edges `early` where the job has them before its base; None for what is of
    none."""
    match entry:
        case Reading() | FallCheck():
            return _of_a_surface(str(entry.surface))
        case Fill():
            return "excavation"
        case PegDistance() | PegMove():
            return "set-out"
        case Poured():
            return "bound-base"
        case FabricLaid():
            return "separation"
        case Passed() | Spread() | Tamped() | ToppedUp():
            return {SurfaceKey.FORMATION.value: "subgrade", SurfaceKey.FINISHED.value: "seating"}.get(
                str(entry.lift), "base-lifts"
            )
        case BedWork():
            return "bedding"
        case EdgeWork():
            return "early-edges" if early else "late-edges"
        case PieceCut():
            return "late-edges"
        case LayWork():
            return "laying"
        case FillStepDone() | FillUsed() | JointDepth():
            return "joints"
        case PavedWork():
            return "seating"
    return None


def _of_a_surface(surface: str) -> str | None:
    kind = surface.partition(".")[0]
    return {"formation": "excavation", "base": "base-lifts", "sub-base": "base-lifts"}.get(kind)


def hours_seen(stamps: Iterable[Stamp]) -> dict[str, float]:
    """Person-hours by stage: on each day from the first entry to the last, times those who made any."""
    days: dict[tuple[str, date], list[Stamp]] = {}
    for stamp in stamps:
        days.setdefault((stamp.stage, stamp.at.date()), []).append(stamp)
    found: dict[str, list[float]] = {}
    for (stage, _day), of_it in days.items():
        first, last = min(s.at for s in of_it), max(s.at for s in of_it)
        hours = min(max((last - first).total_seconds() / 3600, SHORTEST), LONGEST)
        found.setdefault(stage, []).append(hours * len({s.by for s in of_it}))
    return {stage: math.fsum(each) for stage, each in found.items()}
