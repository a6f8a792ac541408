"""The top of something that is set to a level, a rail or an edge: what should be read, what a reading comes to."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from groundwork.base import Tolerance
from groundwork.levels import Reference
from groundwork.measures import Unit, Words
from groundwork.surfaces import Point
from groundwork.verdict import COVERAGE, ROUNDING, TYPED_TWICE, Call, Foreseen, Suspicion, call, suspect

Design = Callable[[Point], float]


@dataclass(frozen=True)
class Top:
    """A place whose top should lie at a level, metres; where it is read beside it, it is taken to follow `design`."""

    place: Point
    level: float
    design: Design

    def _moved(self, spot: Point) -> float:
        """From where a reading is taken to the place it is for."""
        return 0.0 if spot == self.place else self.design(self.place) - self.design(spot)

    def target(self, reference: Reference | None) -> float | None:
        """What should be read, metres; None where nothing can be."""
        spot = reference.spot(self.place) if reference else None
        return reference.target(spot, self.level - self._moved(spot)) if reference and spot else None

    def read(self, reference: Reference | None, reading: float) -> tuple[float, float] | None:
        """How far above its level a reading says it lies, and how sure that is, standard, metres."""
        spot = reference.spot(self.place) if reference else None
        sight = reference.sight(spot, reading) if reference and spot else None
        if sight is None or spot is None:
            return None
        return sight.level + self._moved(spot) - self.level, math.hypot(sight.reading_u, sight.shared_u)

    def foreseen(self, reference: Reference | None) -> Foreseen | None:
        """What a reading will come to, whatever it is."""
        nought, one = self.read(reference, 0.0), self.read(reference, 1.0)
        return Foreseen(nought[0], one[0] - nought[0], COVERAGE * nought[1]) if nought and one else None


class TopOutcome(NamedTuple):
    """What a deviation comes to above `at` and so many `guards`, metres, up to the next one's; the `phrase` may have
    `{amount}`."""

    at: float
    guards: int
    call: Call
    phrase: str

    def over(self, guard: float) -> float:
        return self.at + self.guards * guard


@dataclass(frozen=True)
class SettingRule:
    """What something set to a level is held to, by simple acceptance (JCGM 106:2012), and what to do: `low` where it
    is low, `high` where it is high; with `most` metres high and more `too_high` instead."""

    tolerance: Tolerance
    high: str
    low: str
    most: float = math.inf
    too_high: str = ""

    def call(self, deviation: float, uncertainty: float) -> Call:
        return call(deviation, uncertainty, self.tolerance, simple=True)

    def too_unsure(self, uncertainty: float) -> Words | None:
        """Why what reads so surely, standard, metres, is not taken for this; None where it is."""
        limit = min(self.tolerance.low, self.tolerance.high)
        if uncertainty * COVERAGE <= limit + ROUNDING:
            return None
        return Words("not sure enough for {limit}: take a laser or an optical level", {"limit": limit})

    def outcomes(self, guard: float) -> tuple[TopOutcome, ...]:
        """Every outcome of a reading as sure as `guard`, metres: the last whose `over` a deviation passes holds."""
        low, high = -self.tolerance.low, self.tolerance.high
        close = "good, close to its limit"
        found = [
            TopOutcome(-math.inf, 0, Call.LOW, self.low),
            TopOutcome(low - ROUNDING, -1, Call.TOO_CLOSE, AGAIN),
            TopOutcome(low - ROUNDING, 0, Call.GOOD, close),
            TopOutcome(low - ROUNDING, 1, Call.GOOD, "good"),
            TopOutcome(high + ROUNDING, -1, Call.GOOD, close),
            TopOutcome(high + ROUNDING, 0, Call.TOO_CLOSE, AGAIN),
            TopOutcome(high, 1, Call.HIGH, self.high),
        ]
        if math.isfinite(self.most):
            is_beyond = self.most + ROUNDING >= high + guard
            at = (self.most + ROUNDING, 0) if is_beyond else (high, 1)
            found.append(TopOutcome(*at, Call.HIGH, self.too_high))
        return tuple(found)

    def action(self, deviation: float | None, uncertainty: float, *, was_shot: bool) -> Words:
        """What to do about a top that lies so far above its level; None where that is not known."""
        if deviation is None:
            return Words("what it was read from no longer holds: shoot again" if was_shot else "not shot yet")
        guard = COVERAGE * uncertainty
        phrase = next(each.phrase for each in reversed(self.outcomes(guard)) if deviation > each.over(guard))
        return Words(phrase, {"amount": abs(deviation)} if "{amount}" in phrase else {})


SET_BY_HAND = 0.008
"""How far off its level something usually stands before it is tapped, standard, metres (common practice)."""


def misread_top(
    raw: str, reading: float, target: float | None, unit: Unit, before: tuple[str, float] | None = None
) -> Suspicion | None:
    """Whether what was read on a top looks misread, which was to read `target`, metres; `before` is what was typed
    and read at the place before."""
    if target is None:
        return None
    again = before is not None and before[0] == raw and abs(before[1] - target) > SET_BY_HAND
    others = [(TYPED_TWICE, target)] if again else []
    return suspect(raw, reading, target, SET_BY_HAND, unit, None, others)


AGAIN = "too close: shoot again"
