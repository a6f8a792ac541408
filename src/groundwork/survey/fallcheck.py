"""A fall between two stations by straightedge and spirit level: the gap under its low end over its length, h / L."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from groundwork.entries import FallCheck
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.surfaces import DesignSurface, Point
from groundwork.verdict import COVERAGE

SHARE = 0.8
"""The least share of its designed fall a surface may keep (common practice, no published source)."""


class FallCall(StrEnum):
    """How a fall by straightedge stands to the design's."""

    GOOD = "good"
    FLAT = "too flat"
    WRONG_WAY = "falls the wrong way"
    TOO_CLOSE = "too close"


@dataclass(frozen=True)
class FallAnswer:
    """A checked fall: as measured and as designed from the first station towards the second, ratios, downhill
    positive; `uncertainty` of the measured one."""

    check: FallCheck
    measured: float
    designed: float
    uncertainty: float

    @property
    def call(self) -> FallCall:
        """Guarded as levels are: sure, or too close."""
        guard, way = COVERAGE * self.uncertainty, math.copysign(1, self.designed)
        fall, least = self.measured * way, SHARE * abs(self.designed)
        if fall + guard < 0:
            return FallCall.WRONG_WAY
        if fall - guard >= least:
            return FallCall.GOOD
        return FallCall.FLAT if fall + guard < least else FallCall.TOO_CLOSE

    @property
    def finding(self) -> Finding | None:
        if self.call not in (FallCall.FLAT, FallCall.WRONG_WAY):
            return None
        names = {"start": self.check.start, "end": self.check.end}
        wrong = self.call is FallCall.WRONG_WAY
        phrase = "falls the wrong way from {start} to {end}" if wrong else "too flat from {start} to {end}"
        return Finding(
            "D05",
            Severity.STOP if wrong else Severity.WARNING,
            Words(phrase, names=names),
            Words("at least four fifths of the designed fall"),
            "Water that finds no fall stays in the base.",
            "Trim between the two and check again.",
            Source.PRACTICE,
            (self.check.start, self.check.end),
        )


def fall_answer(check: FallCheck, places: Mapping[str, Point], design: DesignSurface) -> FallAnswer:
    """What a straightedge check comes to. Raises `KeyError` for a station there is not, `ZeroDivisionError` for one
    place twice."""
    start, end = places[check.start], places[check.end]
    designed = (design.level(start) - design.level(end)) / math.dist(start, end)
    length = check.length.metres
    return FallAnswer(check, check.gap.metres / length, designed, check.instrument.reading_u / length)
