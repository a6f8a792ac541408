"""The finished surface whole, as it is handed over: how it lies, how water leaves it, what is kept for repairs."""

from dataclasses import dataclass

import numpy as np

from groundwork.built import AsBuilt
from groundwork.laying import Laying
from groundwork.seating import Seating
from groundwork.survey import Survey


@dataclass(frozen=True)
class Finish:
    """The finished surface: at how many `places` it was shot, how many of them are `inside` their limits, the highest
    and lowest deviation; the least and greatest of its falls, ratios, where it was to fall; the widest `gap` under a
    3 m straightedge and the deepest `puddle`; at how many places lips were taped, the highest; units kept and where.
    Metres; None where nothing was measured."""

    places: int
    inside: int
    highest: float | None
    lowest: float | None
    falls: tuple[float, float] | None
    gap: float | None
    puddle: float | None
    lips: int
    lip: float | None
    spares: int | None
    kept: str


def finish(survey: Survey, built: AsBuilt | None, seating: Seating, laying: Laying) -> Finish:
    """What is handed over; `built` where the stations make a surface."""
    off = [a.judgement.deviation for a in survey.answers.values() if a.judgement.deviation is not None]
    falls = gap = puddle = None
    if built is not None:
        judged = built.falls.built[built.falls.judged]
        falls = (float(judged.min()), float(judged.max())) if judged.size else None
        gap = None if np.isnan(built.bar.gaps).all() else float(np.nanmax(built.bar.gaps))
        puddle = max((each.depth for each in built.puddles), default=0.0)
    lips = [each.lip.metres for each in seating.lips]
    spares = laying.spares
    return Finish(
        survey.shot_count, sum(a.judgement.standing.is_sound for a in survey.answers.values()),
        max(off, default=None), min(off, default=None), falls, gap, puddle, len(lips), max(lips, default=None),
        spares.units if spares else None, spares.where if spares else "",
    )  # fmt: skip
